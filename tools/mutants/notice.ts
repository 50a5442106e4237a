/**
 * Tries survivors in histories: notice.ts FROM UNTIL SURVIVORS.json, in the instrumented tree. Prints a line of JSON for
 * each survivor: the first history whose transcript differs with the mutant switched on, or null.
 */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { historyOf } from '../../test/simulation/history.ts';
import { type AnyHistory, playAny } from '../../test/simulation/play-any.ts';
import { exactOf } from '../../test/simulation/reference/exact.ts';
import type { SeriesHistory } from '../../test/simulation/series/play.ts';
import { transcript } from '../../test/simulation/transcript.ts';

/** What the instrumented code reads and counts in. */
interface Space {
  activeMutant?: string | undefined;
  hitCount?: number | undefined;
  hitLimit?: number;
  currentTestId?: string | undefined;
  mutantCoverage: { static: Record<string, number>; perTest: Record<string, Record<string, number>> };
}
const shared = globalThis as unknown as { __stryker__?: Space };
const space: Space = shared.__stryker__ ?? ({} as Space);
shared.__stryker__ = space;
space.mutantCoverage ??= { static: {}, perTest: {} };

/** A mutant that loops is stopped after so many visits. */
const HITS = 500_000;
/** Histories that reach a survivor and do not notice it, before the next survivor. */
const TRIES = 40;

const [from, until] = process.argv.slice(2, 4).map(Number) as [number, number];
const survivors = JSON.parse(readFileSync(process.argv[4]!, 'utf8')) as string[];

/** Each time from the text: what the engine keeps by object must not outlive the mutant. */
async function digestOf(text: string): Promise<string> {
  try {
    const { played } = await playAny(JSON.parse(text) as AnyHistory);
    return createHash('sha256')
      .update((await transcript(played)).join('\n'))
      .digest('hex');
  } catch (error) {
    return `failed: ${error instanceof Error ? error.message : String(error)}`;
  }
}

interface Played {
  name: string;
  text: string;
  digest: string;
  milliseconds: number;
  reached: Set<string>;
  chosen: boolean;
}
const drawn = {
  exact: exactOf,
  faults: historyOf,
  series: (series: number): SeriesHistory => ({ series, takes: 'each occurrence' }),
  one: (series: number): SeriesHistory => ({ series, takes: 'one record' }),
};
const pool: Played[] = [];
const wanted = new Set(survivors);
for (let seed = from; seed < until; seed++)
  for (const kind of ['exact', 'faults', 'series', 'one'] as const) {
    if (kind !== 'exact' && seed % 3 > 0) continue;
    const name = `${kind}-${seed}`;
    const text = JSON.stringify(drawn[kind](seed));
    space.currentTestId = name;
    const started = performance.now();
    const digest = await digestOf(text);
    space.currentTestId = undefined;
    const reached = new Set(Object.keys(space.mutantCoverage.perTest[name] ?? {}).filter((m) => wanted.has(m)));
    delete space.mutantCoverage.perTest[name];
    if (digest.startsWith('failed') || reached.size === 0) continue;
    pool.push({ name, text, digest, milliseconds: performance.now() - started, reached, chosen: false });
  }
pool.sort((a, b) => a.milliseconds - b.milliseconds);
console.error(`${pool.length} histories played`);

for (const survivor of survivors) {
  const reaching = pool.filter((p) => p.reached.has(survivor));
  const order = [...reaching.filter((p) => p.chosen), ...reaching.filter((p) => !p.chosen)].slice(0, TRIES);
  let noticed: Played | null = null;
  for (const one of order) {
    space.activeMutant = survivor;
    space.hitCount = 0;
    space.hitLimit = HITS;
    const digest = await digestOf(one.text);
    space.activeMutant = undefined;
    space.hitCount = undefined;
    if (digest === one.digest) continue;
    noticed = one;
    // What a mutant left behind in this process would make all later answers wrong.
    if ((await digestOf(one.text)) !== one.digest) console.error(`${survivor} left something behind`);
    else one.chosen = true;
    break;
  }
  console.log(
    JSON.stringify({ survivor, history: noticed?.name ?? null, text: noticed?.text ?? null, tried: order.length, reaching: reaching.length }),
  );
}
