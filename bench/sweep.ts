import { fork } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { openLaneStore } from '../test/support/lane-store.ts';
import { contextOf, fillPairs, sidesOf } from './generated.ts';
import { installed } from './installed.ts';

const { execute } = await installed<typeof import('../packages/service/src/run/execute.ts')>('service/dist/run/execute.js');

/**
 * Peak memory of a process that sweeps 1,000,000 pairs, beside one that sweeps 10,000, each of which 1 % changed. Both
 * sides are made up page by page, and the pairs are in PostgreSQL. Both live under the same limit of their heap: without
 * one, the runtime leaves its garbage lying for as long as there is room, and its laziness would be measured.
 */
const SIZES = [10_000, Number(process.env['PAIRS'] ?? 1_000_000)];

if (process.send !== undefined) {
  const count = Number(process.argv[2]);
  const opened = await openLaneStore();
  await fillPairs(opened.open.db, opened.lane, count);
  const from = performance.now();
  const result = await execute({
    context: contextOf(opened.lane),
    sides: sidesOf(opened.lane, count, (i) => i % 100 === 0),
    store: opened.store,
    scope: 'sweep',
    signal: new AbortController().signal,
  });
  const seconds = (performance.now() - from) / 1000;
  if (result.counts.changed !== count / 100) throw new Error(`${result.counts.changed} changed of ${count / 100}`);
  await opened.close();
  process.send({ seconds, memory: process.resourceUsage().maxRSS / 1024, state: result.state, counts: result.counts }, () => process.disconnect());
} else {
  const measured: { seconds: number; memory: number; state: string; counts: Record<string, number> }[] = [];
  for (const count of SIZES) {
    const child = fork(fileURLToPath(import.meta.url), [String(count)], { execArgv: [...process.execArgv, '--max-old-space-size=64'] });
    measured.push(
      await new Promise((fine, failed) =>
        child.once('message', (m) => fine(m as never)).once('exit', (code) => code !== 0 && failed(new Error(`ended with ${code}`))),
      ),
    );
  }
  for (const [i, m] of measured.entries())
    console.log(
      `sweep of ${SIZES[i]} pairs: ${m.state}, ${m.counts['unchanged']} unchanged, ${m.counts['changed']} changed, ${m.seconds.toFixed(1)} s, peak ${m.memory.toFixed(0)} MB`,
    );
  console.log(`peak memory ratio ${(measured[1]!.memory / measured[0]!.memory).toFixed(2)}`);
}
