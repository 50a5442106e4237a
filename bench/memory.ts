import { readFileSync } from 'node:fs';
import { tryManyLanes } from '../test/support/many-lanes.ts';

/**
 * The memory of a web process and two workers over an hour of edits on both sides: 20 lanes, 2,000 pairs, 10 edits a
 * second. It must not grow once all is warm. SECONDS changes how long.
 */
const seconds = Number(process.env['SECONDS'] ?? 3600);
const megabytes = (pid: number) => Number(/^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024;
const samples: number[][] = [];
const result = await tryManyLanes({
  lanes: 20,
  pairs: 100,
  workers: 2,
  rate: 10,
  seconds,
  killEvery: Number.POSITIVE_INFINITY,
  disturb: async () => undefined,
  watch: (processes) => samples.push(processes.map((p) => megabytes(p.pid!))),
});
const middle = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
/** The middle of a tenth of the time, of one process. */
const tenth = (n: number, of: number) =>
  middle(samples.slice(Math.floor((n * samples.length) / 10), Math.floor(((n + 1) * samples.length) / 10)).map((s) => s[of]!));
console.log(`${result.edits} edits in ${seconds} s; resident memory in MB, the middle of each tenth of the time`);
for (const [i, name] of ['web', 'worker 1', 'worker 2'].entries()) {
  const all = Array.from({ length: 10 }, (_, n) => tenth(n, i));
  console.log(
    `  ${name.padEnd(9)} ${all.map((mb) => mb.toFixed(0).padStart(4)).join(' ')}   the last beside the fifth: ${(all[9]! / all[4]!).toFixed(2)}`,
  );
}
console.log(result.wrong.length === 0 ? '  nothing lost, nothing doubled, every audit clean' : `  WRONG: ${result.wrong.slice(0, 10).join('; ')}`);
process.exit(result.wrong.length === 0 ? 0 : 1);
