import { parseArgs } from 'node:util';
import { play, playInAnotherOrder, playTwoLanes, tellFailure, trySeed } from './play.ts';
import { type Exact, exactOf, playExact, tryExact } from './reference/exact.ts';
import { Wrong } from './series/checks.ts';
import { kindsOfSeries } from './series/people.ts';
import { playSeries } from './series/play.ts';

const { values } = parseArgs({
  options: {
    seeds: { type: 'string', default: '1000' },
    from: { type: 'string', default: '1' },
    'keep-going': { type: 'boolean', default: false },
    /** compares every run with the reference model; without faults */
    exact: { type: 'boolean', default: false },
    /** series that a lane takes by their occurrences */
    series: { type: 'boolean', default: false },
    /** tells exact histories: the lane, what people did, what the model allows, and what the engine did */
    explain: { type: 'boolean', default: false },
  },
});
const count = Number(values.seeds);
const from = Number(values.from);
if (!Number.isInteger(count) || !Number.isInteger(from) || count < 1 || from < 0) {
  console.error('give whole numbers: npm run simulate -- --seeds 1000 --from 1');
  process.exit(2);
}
if (values.series) {
  await playAllSeries();
  process.exit();
}
if (values.explain) {
  for (let seed = from; seed < from + count; seed++) await explain(exactOf(seed));
  process.exit();
}
const started = performance.now();
let failed = 0;
for (let seed = from; seed < from + count; seed++) {
  const failure = values.exact ? null : await tryAll(seed);
  const inexact = values.exact ? await tryExact(seed) : null;
  if (inexact !== null) {
    failed++;
    console.log(`exact history ${seed}, as short as it gets: ${inexact.error.message}`);
    await explain(inexact.history);
    if (!values['keep-going']) break;
  }
  if (failure !== null) {
    failed++;
    console.log(tellFailure(failure));
    if (!values['keep-going']) break;
  }
  if ((seed - from + 1) % 1000 === 0)
    console.log(`${seed - from + 1} histories, ${((1000 * (seed - from + 1)) / (performance.now() - started)).toFixed(1)} a second`);
}
const seconds = (performance.now() - started) / 1000;
console.log(
  failed === 0
    ? `${count} histories from seed ${from} are clean: ${seconds.toFixed(1)} s, ${(count / seconds).toFixed(1)} a second`
    : `${failed} failed`,
);
process.exitCode = failed === 0 ? 0 : 1;

/** Each history as it is; some once more in another order, and some with a second lane on the same calendar. */
async function tryAll(seed: number): ReturnType<typeof trySeed> {
  return (
    (await trySeed(seed, play)) ??
    (seed % 20 === 0 ? await trySeed(seed, playInAnotherOrder) : null) ??
    (seed % 15 === 7 ? await trySeed(seed, playTwoLanes) : null)
  );
}

async function explain(history: Exact): Promise<void> {
  console.log(JSON.stringify(history.lane, null, 2), JSON.stringify(history.manners));
  await playExact(history, undefined, (line) => console.log(line)).then(
    () => console.log('as the model allows'),
    (error: Error) => console.log(error.message),
  );
}

async function playAllSeries(): Promise<void> {
  const kinds = kindsOfSeries.filter((kind) => kind !== 'each occurrence');
  const began = performance.now();
  let wrong = 0;
  for (let seed = from; seed < from + count; seed++) {
    const lines: string[] = [];
    try {
      const log = values.explain ? (line: string) => lines.push(line) : undefined;
      const forms = (['few', 'all', 'days'] as const)[seed % 3];
      await playSeries(seed, log, 'each occurrence', forms);
      lines.length = 0;
      await playSeries(seed, log, kinds[Math.floor(seed / 3) % kinds.length], forms);
    } catch (error) {
      wrong++;
      console.log(`series history ${seed}: ${error instanceof Wrong ? error.message : (error as Error).stack}`);
      for (const line of lines) console.log(`  ${line}`);
      process.exitCode = 1;
      if (!values['keep-going']) break;
    }
  }
  const took = (performance.now() - began) / 1000;
  console.log(
    wrong === 0 ? `${count} histories from seed ${from} are clean: ${took.toFixed(1)} s, ${(count / took).toFixed(1)} a second` : `${wrong} failed`,
  );
}
