/** Plays histories and tells, a line of JSON each, which mutants of the instrumented core each of them reached. */
import { historyOf } from '../../test/simulation/history.ts';
import { play } from '../../test/simulation/play.ts';
import { exactOf, playExact } from '../../test/simulation/reference/exact.ts';
import { transcript } from '../../test/simulation/transcript.ts';

interface Coverage {
  static: Record<string, number>;
  perTest: Record<string, Record<string, number>>;
}
// What the instrumented code counts in.
const space = globalThis as unknown as { __stryker__?: { mutantCoverage?: Coverage; currentTestId?: string | undefined } };
const counted = space.__stryker__ ?? {};
space.__stryker__ = counted;
const coverage = counted.mutantCoverage ?? { static: {}, perTest: {} };
counted.mutantCoverage = coverage;

const [from, until] = process.argv.slice(2).map(Number) as [number, number];
for (let seed = from; seed < until; seed++)
  for (const kind of ['exact', 'faults'] as const) {
    if (kind === 'faults' && seed % 3 > 0) continue;
    const name = `${kind}-${seed}`;
    const history = kind === 'exact' ? exactOf(seed) : historyOf(seed);
    counted.currentTestId = name;
    const started = performance.now();
    const { played } = 'acts' in history ? await playExact(history) : await play(history);
    await transcript(played);
    counted.currentTestId = undefined;
    const mutants = Object.keys(coverage.perTest[name] ?? {});
    delete coverage.perTest[name];
    console.log(JSON.stringify({ name, milliseconds: Math.round(performance.now() - started), mutants, history }));
  }
