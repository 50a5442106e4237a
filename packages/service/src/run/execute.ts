import {
  countNames,
  type Damage,
  type Guarded,
  guard,
  type ItemVerdict,
  isHarmless,
  type LaneContext,
  type Operation,
  type Plan,
  plan,
  type RunCounts,
} from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { apply } from './apply.ts';
import { type GatherResult, gather, readStrangers, type Scope, type Sides } from './gather.ts';
import type { RunStore } from './store.ts';

export const noCounts = (): RunCounts => Object.fromEntries(countNames.map((n) => [n, 0])) as RunCounts;

export interface Planned {
  plan: Plan;
  guarded: Guarded;
  cursors: GatherResult['cursors'];
  gathered: GatherResult['gathered'];
  listed: GatherResult['listed'];
}

/** Gather, match, judge, merge, plan, guard: all of a run except doing it. A forecast ends here. */
export async function prepare(
  context: LaneContext,
  sides: Sides,
  store: RunStore,
  scope: Scope,
  allowed: Damage | null,
  signal: AbortSignal,
): Promise<Planned> {
  const { gathered, cursors, unknownHrefs, listed } = await gather(context, sides, store, scope, signal);
  let planned = plan(context, gathered);
  // Only who is about to make events needs to know what else is on the calendar.
  if (unknownHrefs.length > 0 && planned.operations.some((o) => o.kind === 'make')) {
    planned = plan(context, { ...gathered, strangers: await readStrangers(context, sides.calendars, unknownHrefs, signal) });
  }
  return {
    plan: planned,
    guarded: guard(planned.operations, await store.countPairs(), context.definition.guard, allowed),
    cursors,
    gathered,
    listed,
  };
}

/** What a plan would count, if all of it went well. */
export function foresee(planned: Plan): RunCounts {
  const counts = noCounts();
  const names = { make: 'made', change: 'changed', adopt: 'adopted', agree: 'agreed', remove: 'removed', part: 'parted', hold: 'held' } as const;
  for (const operation of planned.operations) counts[names[operation.kind]]++;
  counts.unchanged = planned.unchanged;
  counts.leftOut = planned.verdicts.filter((v) => v.verdict !== null).length;
  return counts;
}

/**
 * The verdicts that hold already. An item that has work to be done keeps its old one until the work is done: should it
 * fail, the old verdict knows how often it was tried and when it is due again.
 */
function idleVerdicts(planned: Plan, operations: readonly Operation[]): ItemVerdict[] {
  const busy = new Set(operations.map((o) => JSON.stringify([o.pair.recordId, o.pair.moment])));
  return planned.verdicts.filter((v) => !busy.has(JSON.stringify([v.recordId, v.moment])));
}

export interface Executed {
  state: 'done' | 'failed' | 'held';
  reason: string | null;
  counts: RunCounts;
  damage: Damage | null;
  /** the trouble that stopped it, for whoever decides when to try again */
  error: OutsideError | null;
}

/**
 * One run from gathering to the moved cursors. Trouble outside ends the run as failed with its reason; the cursors
 * stay where they were, so that the next run finds everything again.
 */
export async function execute(
  context: LaneContext,
  sides: Sides,
  store: RunStore,
  scope: Scope,
  allowed: Damage | null,
  signal: AbortSignal,
): Promise<Executed> {
  const counts = noCounts();
  try {
    const { plan: planned, guarded, cursors } = await prepare(context, sides, store, scope, allowed, signal);
    const held = guarded.reasons.length > 0;
    const operations = held ? planned.operations.filter(isHarmless) : planned.operations;
    counts.unchanged = planned.unchanged;
    counts.leftOut = planned.verdicts.filter((v) => v.verdict !== null).length;
    await store.write({ verdicts: idleVerdicts(planned, operations) });
    await store.progress(counts, operations.length, 0);
    const replan = async (recordId: string): Promise<Operation[]> => {
      const again = await prepare(context, sides, store, { records: [recordId] }, allowed, signal);
      const fresh = again.plan.operations.filter((o) => !held || isHarmless(o));
      await store.write({ verdicts: idleVerdicts(again.plan, fresh) });
      return fresh;
    };
    await apply(operations, {
      context,
      calendars: sides.calendars,
      store,
      signal,
      counts,
      replan,
      progress: (done) => store.progress(counts, operations.length, done),
    });
    if (held) return { state: 'held', reason: guarded.reasons.join('; '), counts, damage: guarded.damage, error: null };
    await store.moveCursors(cursors);
    return { state: 'done', reason: null, counts, damage: null, error: null };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { state: 'failed', reason: error.message, counts, damage: null, error };
  }
}
