import type { RunCounts } from '@monsoon/contract';
import {
  type Damage,
  damageToJudge,
  guard,
  type ItemVerdict,
  isRemoval,
  itemKey,
  type Operation,
  type Pair,
  type Plan,
  pairsThatMatter,
  type plan,
  waitsForGuard,
} from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { apply, noTail } from './apply.ts';
import type { GatheredBatch } from './batch-reader.ts';
import { withDirectories } from './directories.ts';
import { Gathering, type Scope } from './gather.ts';
import { mailLimits } from './mail-limits.ts';
import { planned } from './planned.ts';
import { attemptOf } from './remember.ts';
import type { ItemNames } from './store.ts';
import { addDamage, noCounts, tally } from './tally.ts';
import { openWork, type Work } from './work.ts';

/**
 * The verdicts that hold already. An item that has work to be done keeps its old one until the work is done: should it
 * fail, the old verdict knows how often it was tried and when it is due again.
 */
function idleVerdicts(part: Plan, operations: readonly Operation[]): ItemVerdict[] {
  const busy = new Set(operations.flatMap((o) => [itemKey({ ...o.pair, href: null }), itemKey({ ...o.pair, recordId: null })]));
  return part.verdicts.filter((v) => !busy.has(itemKey(v)));
}

/**
 * What holds whatever becomes of the operations: pairs that follow another occurrence, or whose content is called
 * otherwise, and the verdicts on items that need no work.
 */
function settledBy(part: Plan, batch: GatheredBatch, operations: readonly Operation[]): { pairs: Pair[]; verdicts: ItemVerdict[] } {
  const moved = batch.moved ?? [];
  // What was said of an occurrence that is followed now is out of date.
  const silenced = moved.map(({ href, moment, label }): ItemVerdict => ({ recordId: null, href, moment, label, verdict: null }));
  return {
    pairs: [...new Map([...moved, ...part.refreshed].map((p) => [p.id, p])).values()],
    verdicts: [...silenced, ...idleVerdicts(part, operations)],
  };
}

export interface Executed {
  state: 'done' | 'failed' | 'held';
  reason: string | null;
  counts: RunCounts;
  damage: Damage | null;
  /** what stopped it: it decides when to retry */
  error: OutsideError | null;
}

export interface RunOptions extends Work {
  scope: Scope;
  /** what a person has seen of a held run, and lets through */
  allowed?: Damage | null;
  /** another engine, for tests that must notice it */
  planner?: typeof plan | undefined;
  /** operations that are done and remembered together */
  chunk?: number | undefined;
}

/** Destructive operations that are kept as planned; of more than these only the names are, and they are planned again when their turn comes. */
const MOST_KEPT = 500;

/**
 * One run from gathering to the moved cursors. What harms nothing is done as it is found; what rewrites or removes waits
 * until everything was looked at and the guard has seen it. Trouble outside ends the run as failed with its reason; the
 * cursors stay where they were, so that the next run finds everything again.
 */
export async function execute({ scope, allowed = null, planner, chunk, ...given }: RunOptions): Promise<Executed> {
  const work = openWork(given);
  const { store, signal } = work;
  const counts = noCounts();
  const tail = noTail();
  try {
    const interrupted = await store.intents();
    if (interrupted.length > 0) await store.write({ entries: interrupted.map(attemptOf), attempts: interrupted, answered: true });
    const full = await withDirectories(work);
    const looking = { ...work, context: full };
    const gathering = new Gathering(looking, scope);
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
        for await (const { plan: part, batch } of planned(full, new Gathering(looking, items), planner)) {
          // The guard let through the removals it saw, and no others: those wait for the next run.
          const seen = (o: Operation) => kept.some((k) => isRemoval(k) && k.pair.id === o.pair.id);
          const doing = part.operations.filter((o) => (held ? !waitsForGuard(o) : !isRemoval(o) || seen(o)));
          await store.write(settledBy(part, batch, doing));
          fresh.push(...doing);
        }
        return fresh;
      };
      await apply(operations, {
        ...looking,
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
      const settled = settledBy(part, batch, part.operations);
      if (settled.verdicts.length > 0 || settled.pairs.length > 0) await store.write(settled);
      await run(
        part.operations.filter((o) => !waitsForGuard(o)),
        true,
      );
      if (!batch.apart) await tail.last;
      for (const operation of part.operations.filter(waitsForGuard)) {
        if (kept.length < MOST_KEPT) kept.push(operation);
        else if (operation.pair.recordId !== null) named.records.push(operation.pair.recordId);
        else if (operation.pair.href !== null) named.hrefs.push(operation.pair.href);
      }
    }
    await tail.last;
    const judged = damageToJudge(damage, allowed);
    const guarded =
      judged.removals + judged.rewrites + (judged.mails ?? 0) > 0
        ? guard(
            judged,
            await store.countPairs(pairsThatMatter(judged, full.definition.guard)),
            full.definition.guard,
            await mailLimits(full, judged, store),
          )
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
      for await (const { plan: part, batch } of planned(full, new Gathering(looking, { records, hrefs }), planner)) {
        await store.write({ pairs: settledBy(part, batch, part.operations).pairs });
        await destroy(part.operations);
      }
    }
    await store.moveCursors(gathering.cursors);
    await work.sides.calendars.keep();
    return { state: 'done', reason: null, counts, damage: null, error: null };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { state: 'failed', reason: error.message, counts, damage: null, error };
  } finally {
    await tail.last.catch(() => undefined);
  }
}
