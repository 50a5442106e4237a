// Loaded into a service under test: says how long its longest turn was, in CPU time of the thread that serves everybody, and how
// much memory it took at most. Time in which the machine did something else does not count.
import { readFileSync } from 'node:fs';

const cpu = () => Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'latin1').split(' ')[0]) / 1e6;
let last = cpu();
let longest = 0;
let memory = 0;
setInterval(() => {
  const now = cpu();
  longest = Math.max(longest, now - last);
  last = now;
}, 1).unref();
setInterval(() => {
  memory = Math.max(memory, process.memoryUsage.rss());
}, 20).unref();
process.on('message', (message) => {
  if (message !== 'measure') return;
  process.send?.({ longest, memory: Math.max(memory, process.memoryUsage.rss()) });
  longest = 0;
  memory = 0;
});
