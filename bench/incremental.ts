import { execute } from '../packages/service/src/run/execute.ts';
import { openLaneStore } from '../test/support/lane-store.ts';
import { contextOf, fillPairs, sidesOf } from './generated.ts';

/** A run with 5 changes, in a lane of 1,000 pairs and in one of 100,000, in turn. */
const ROUNDS = Number(process.env['ROUNDS'] ?? 40);
const SIZES = [1000, 100_000];
const lanes = [];
for (const count of SIZES) {
  const opened = await openLaneStore();
  await fillPairs(opened.open.db, opened.lane, count);
  await opened.store.moveCursors({ records: 'before', calendar: 'before' });
  lanes.push({ ...opened, count, times: [] as number[] });
}
for (let round = -5; round < ROUNDS; round++) {
  for (const lane of round % 2 === 0 ? lanes : [...lanes].reverse()) {
    // The same five records, with new titles each time: five events are rewritten.
    const sides = sidesOf(lane.lane, 5, () => true);
    const pull = sides.records.pull;
    sides.records.pull = async function* (...given) {
      for await (const page of pull.apply(sides.records, given))
        yield {
          ...page,
          items: page.items.map((i) => ({
            ...i,
            version: `${i.version}-${round}`,
            fields: { ...i.fields, title: `${String(i.fields['title'])} ${round}` },
          })),
        };
    };
    const from = performance.now();
    const { counts, reason } = await execute({
      context: contextOf(lane.lane),
      sides,
      store: lane.store,
      scope: 'changes',
      signal: new AbortController().signal,
    });
    if (round >= 0) lane.times.push(performance.now() - from);
    if (counts.changed !== 5) throw new Error(`${reason ?? ''} ${JSON.stringify(counts)}`);
  }
}
const median = (times: number[]) => [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)]!;
const [small, large] = lanes.map((l) => median(l.times));
console.log(
  `a run with 5 changes: ${small!.toFixed(1)} ms with ${SIZES[0]} pairs, ${large!.toFixed(1)} ms with ${SIZES[1]}; ratio ${(large! / small!).toFixed(2)}`,
);
for (const lane of lanes) await lane.close();
