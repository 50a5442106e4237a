import {
  type Audit,
  AuditTally,
  countNames,
  type Damage,
  damagedItems,
  damageOf,
  damageToJudge,
  failureReasons,
  type Guarded,
  guard,
  type ItemVerdict,
  isHarmless,
  isRemoval,
  itemKey,
  type LaneContext,
  type Operation,
  type Plan,
  pairsThatMatter,
  plan,
  type RunCounts,
} from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { apply, noTail } from './apply.ts';
import { withDirectories } from './directories.ts';
import { type GatheredBatch, Gathering, type Scope, type Sides } from './gather.ts';
import { attemptOf, countOf } from './remember.ts';
import type { ItemNames, RunStore } from './store.ts';

export const noCounts = (): RunCounts => Object.fromEntries(countNames.map((n) => [n, 0])) as RunCounts;

/** UIDs of events that records name as theirs: in their link field, or by a pair that is followed again. */
function namedEvents({ definition: { link } }: LaneContext, { operations }: Plan, { gathered }: GatheredBatch): string[] {
  return operations.flatMap(({ kind, record, pair }) => {
    if (kind !== 'make' || record === null) return [];
    const before = gathered.pairs.find((p) => p.id === pair.id)?.uid;
    const named = link === null ? null : record.fields[link];
    return [...(typeof named === 'string' && named !== '' ? [named] : []), ...(before === undefined || before === pair.uid ? [] : [before])];
  });
}

/** Gather, match, judge, merge and plan, batch by batch: all of a run except doing it. */
async function* planned(
  context: LaneContext,
  gathering: Gathering,
  planner: typeof plan = plan,
): AsyncIterable<{ plan: Plan; batch: GatheredBatch }> {
  for await (const batch of gathering.batches()) {
    let result = planner(context, batch.gathered, batch.due);
    // What else is on the calendar, only a record without an event needs to know.
    const { strangers } = batch.gathered;
    const wanted = strangers.takeWanted();
    if (wanted.length > 0 && (await gathering.readStrangers(namedEvents(context, result, batch), wanted))) {
      result = planner(context, batch.gathered, batch.due);
      strangers.takeWanted();
    }
    yield { plan: result, batch };
  }
}

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
export async function forecast(context: LaneContext, sides: Sides, store: RunStore, scope: Scope, signal: AbortSignal): Promise<Forecast> {
  const full = await withDirectories(context, sides, signal);
  const result = { operations: [] as Operation[], verdicts: [] as ItemVerdict[], unchanged: 0, counts: noCounts() };
  const damage: Damage = { removals: 0, rewrites: 0 };
  const gathering = new Gathering(full, sides, store, scope, signal);
  for await (const { plan: part } of planned(full, gathering)) {
    tally(result.counts, part);
    for (const operation of part.operations) result.counts[countOf(operation)]++;
    addDamage(damage, part.operations);
    result.unchanged += part.unchanged;
    result.operations.push(...part.operations.slice(0, MOST_LISTED - result.operations.length));
    result.verdicts.push(...part.verdicts.filter((v) => v.verdict !== null).slice(0, MOST_LISTED - result.verdicts.length));
  }
  const guarded = guard(damage, await store.countPairs(), context.definition.guard);
  return { ...result, guarded: { ...guarded, reasons: [...gathering.alarms, ...guarded.reasons] } };
}

/** Reads both sides whole and compares them. @throws OutsideError */
export async function auditSides(context: LaneContext, sides: Sides, store: RunStore, signal: AbortSignal): Promise<Audit> {
  const full = await withDirectories(context, sides, signal);
  const moments = context.definition.moments.map((m) => m.name);
  const count = new AuditTally();
  const gathering = new Gathering(full, sides, store, 'audit', signal);
  for await (const { plan: part, batch } of planned(full, gathering)) count.add(part, batch.gathered, moments);
  return count.total(gathering.listed.events, gathering.listed.unknown);
}

function tally(counts: RunCounts, part: Plan): void {
  counts.unchanged += part.unchanged;
  // What has work to be done is counted when it is done, or fails; what cannot be done at all has failed now.
  const busy = new Set(part.operations.flatMap((o) => [itemKey({ ...o.pair, href: null }), itemKey({ ...o.pair, recordId: null })]));
  for (const item of part.verdicts) {
    if (item.verdict === null) continue;
    if (!failureReasons.includes(item.verdict.reason)) counts.leftOut++;
    else if (!busy.has(itemKey(item))) counts.failed++;
  }
}

function addDamage(damage: Damage, operations: Operation[]): void {
  const more = damageOf(operations);
  damage.items?.push(...damagedItems(operations));
  damage.removals += more.removals;
  damage.rewrites += more.rewrites;
}

/**
 * The verdicts that hold already. An item that has work to be done keeps its old one until the work is done: should it
 * fail, the old verdict knows how often it was tried and when it is due again.
 */
function idleVerdicts(part: Plan, operations: readonly Operation[]): ItemVerdict[] {
  const busy = new Set(operations.flatMap((o) => [itemKey({ ...o.pair, href: null }), itemKey({ ...o.pair, recordId: null })]));
  return part.verdicts.filter((v) => !busy.has(itemKey(v)));
}

export interface Executed {
  state: 'done' | 'failed' | 'held';
  reason: string | null;
  counts: RunCounts;
  damage: Damage | null;
  /** the trouble that stopped it, for whoever decides when to try again */
  error: OutsideError | null;
}

/** Destructive operations that are kept as planned; of more than these only the names are, and they are planned again when their turn comes. */
const MOST_KEPT = 500;

/**
 * One run from gathering to the moved cursors. What harms nothing is done as it is found; what rewrites or removes waits
 * until everything was looked at and the guard has seen it. Trouble outside ends the run as failed with its reason; the
 * cursors stay where they were, so that the next run finds everything again.
 */
export async function execute(
  context: LaneContext,
  sides: Sides,
  store: RunStore,
  scope: Scope,
  allowed: Damage | null,
  signal: AbortSignal,
  planner: typeof plan = plan,
  chunk?: number,
): Promise<Executed> {
  const counts = noCounts();
  const tail = noTail();
  try {
    const interrupted = await store.intents();
    if (interrupted.length > 0) await store.write({ entries: interrupted.map(attemptOf), attempts: interrupted, answered: true });
    const full = await withDirectories(context, sides, signal);
    const gathering = new Gathering(full, sides, store, scope, signal);
    gathering.settled = () => tail.last;
    const damage: Damage = { removals: 0, rewrites: 0, items: [] };
    const kept: Operation[] = [];
    const named: ItemNames = { records: [], hrefs: [] };
    let found = 0;
    let done = 0;
    const progress = () => store.progress(counts, found, done);
    const run = async (operations: Operation[], held: boolean) => {
      const replan = async (items: ItemNames): Promise<Operation[]> => {
        const fresh: Operation[] = [];
        for await (const { plan: part } of planned(full, new Gathering(full, sides, store, items, signal), planner)) {
          // The guard let through the removals it saw, and no others: those wait for the next run.
          const seen = (o: Operation) => kept.some((k) => isRemoval(k) && k.pair.id === o.pair.id);
          const doing = part.operations.filter((o) => (held ? isHarmless(o) : !isRemoval(o) || seen(o)));
          await store.write({ verdicts: idleVerdicts(part, doing), pairs: part.refreshed });
          fresh.push(...doing);
        }
        return fresh;
      };
      await apply(operations, {
        context: full,
        sides,
        store,
        signal,
        counts,
        replan,
        chunk,
        tail,
        progress: async (more) => {
          done += more;
          await progress();
        },
      });
    };

    // What looks like an accident is nothing to act on, until a person who saw it says so.
    const alarmed = () => allowed === null && gathering.alarms.length > 0;
    for await (const { plan: part, batch } of planned(full, gathering, planner)) {
      signal.throwIfAborted();
      tally(counts, part);
      addDamage(damage, part.operations);
      if (alarmed()) continue;
      found += part.operations.length;
      const verdicts = idleVerdicts(part, part.operations);
      if (verdicts.length > 0 || part.refreshed.length > 0) await store.write({ verdicts, pairs: part.refreshed });
      await run(part.operations.filter(isHarmless), true);
      if (!batch.apart) await tail.last;
      for (const operation of part.operations.filter((o) => !isHarmless(o))) {
        if (kept.length < MOST_KEPT) kept.push(operation);
        else if (operation.pair.recordId !== null) named.records.push(operation.pair.recordId);
        else if (operation.pair.href !== null) named.hrefs.push(operation.pair.href);
      }
    }
    await tail.last;
    const judged = damageToJudge(damage, allowed);
    const guarded =
      judged.removals + judged.rewrites > 0
        ? guard(judged, await store.countPairs(pairsThatMatter(judged, full.definition.guard)), full.definition.guard)
        : { reasons: [] as string[] };
    if (alarmed()) guarded.reasons.unshift(...gathering.alarms);
    await progress();
    if (guarded.reasons.length > 0) return { state: 'held', reason: guarded.reasons.join('; '), counts, damage, error: null };
    const destroy = async (operations: Operation[]) => {
      await run(operations, false);
      await tail.last;
    };
    await destroy(kept);
    for (let at = 0; at < named.records.length + named.hrefs.length; at += MOST_KEPT) {
      const records = named.records.slice(at, at + MOST_KEPT);
      const hrefs = records.length > 0 ? [] : named.hrefs.slice(at - named.records.length, at - named.records.length + MOST_KEPT);
      for await (const { plan: part } of planned(full, new Gathering(full, sides, store, { records, hrefs }, signal), planner))
        await destroy(part.operations);
    }
    await store.moveCursors(gathering.cursors);
    return { state: 'done', reason: null, counts, damage: null, error: null };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { state: 'failed', reason: error.message, counts, damage: null, error };
  } finally {
    await tail.last.catch(() => undefined);
  }
}
