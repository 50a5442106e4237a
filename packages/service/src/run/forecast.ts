import type { RunCounts } from '@monsoon/contract';
import { type Damage, type Guarded, guard, type ItemVerdict, type Operation } from '@monsoon/core';
import { withDirectories } from './directories.ts';
import { Gathering, type Scope } from './gather.ts';
import { mailLimits } from './mail-limits.ts';
import { planned } from './planned.ts';
import { countOf } from './remember.ts';
import { addDamage, noCounts, tally } from './tally.ts';
import { openWork, type Work } from './work.ts';

/** What a run would do, printed: the same list that a run applies. */
export interface Forecast {
  operations: Operation[];
  verdicts: ItemVerdict[];
  unchanged: number;
  counts: RunCounts;
  guarded: Guarded;
}

/** Most operations and verdicts that a forecast lists; it counts them all. */
const MOST_LISTED = 25_000;

/** @throws OutsideError */
export async function forecast(given: Work, scope: Scope): Promise<Forecast> {
  const work = openWork(given);
  const { context, store } = work;
  const full = await withDirectories(work);
  const result = { operations: [] as Operation[], verdicts: [] as ItemVerdict[], unchanged: 0, counts: noCounts() };
  const damage: Damage = { removals: 0, rewrites: 0, items: [] };
  const gathering = new Gathering({ ...work, context: full }, scope);
  for await (const { plan: part } of planned(full, gathering)) {
    tally(result.counts, part);
    for (const operation of part.operations) result.counts[countOf(operation)]++;
    addDamage(damage, part.operations);
    result.unchanged += part.unchanged;
    result.operations.push(...part.operations.slice(0, MOST_LISTED - result.operations.length));
    result.verdicts.push(...part.verdicts.filter((v) => v.verdict !== null).slice(0, MOST_LISTED - result.verdicts.length));
  }
  const guarded = guard(damage, await store.countPairs(), context.definition.guard, await mailLimits(full, damage, store));
  return { ...result, guarded: { ...guarded, reasons: [...gathering.alarms, ...guarded.reasons] } };
}
