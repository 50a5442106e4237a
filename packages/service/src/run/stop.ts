import { isFollowed, type LaneContext, type Operation, operation, type Pair, step } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { apply } from './apply.ts';
import { type Executed, noCounts } from './execute.ts';
import type { Sides } from './gather.ts';
import type { RunStore } from './store.ts';
import { prepareUndo, type UndoPlan } from './undo.ts';

/** What becomes of what a lane made when it is stopped: taken away again, or left alone for good. */
export type StopWith = 'remove' | 'part';

/** What the lane made of each pair, by the journal. */
export type Makings = (pairs: string[]) => Promise<Map<string, 'make' | 'make record'>>;

const CAUSE = 'the lane was stopped';
const part = (pair: Pair): Operation => operation('part', { ...pair, state: step(pair.state, 'parted') }, CAUSE, { record: null, event: null });

/**
 * What stopping a lane does, page by page of its pairs. Only what the lane made itself, and nobody edited since, is
 * taken away; everything else is parted and stays as people left it.
 *
 * @throws OutsideError
 */
export async function* planStop(
  context: LaneContext,
  sides: Sides,
  store: RunStore,
  makings: Makings,
  how: StopWith,
  signal: AbortSignal,
): AsyncIterable<UndoPlan> {
  for await (const page of store.allPairs()) {
    const pairs = page.filter(isFollowed);
    if (pairs.length === 0) continue;
    const made = how === 'part' ? new Map<string, string>() : await makings(pairs.map((p) => p.id));
    const removable = pairs.filter((p) => made.has(p.id) && p.baseline !== null && (made.get(p.id) === 'make' || context.collection.may.remove));
    const done = removable.map(({ id, recordId, href, moment, label }) => ({
      pair: id,
      recordId,
      href,
      moment,
      label,
      done: [{ kind: made.get(id)!, changes: [], removed: null }],
      writtenSince: false,
    }));
    // As after a trial: should the lane be started again, it makes them again.
    const plan = await prepareUndo(context, sides, store, done, CAUSE, true, signal);
    const gone = new Set(plan.operations.map((o) => o.pair.id));
    yield { operations: [...plan.operations, ...pairs.filter((p) => !gone.has(p.id)).map(part)], impossible: plan.impossible };
  }
}

/** Stops a lane: by the same means that everything else is done by, so that it can be taken back too. */
export async function executeStop(
  context: LaneContext,
  sides: Sides,
  store: RunStore,
  makings: Makings,
  how: StopWith,
  signal: AbortSignal,
): Promise<Executed> {
  const counts = noCounts();
  let [planned, done, kept] = [0, 0, 0];
  try {
    for await (const { operations, impossible } of planStop(context, sides, store, makings, how, signal)) {
      planned += operations.length;
      kept += impossible.length;
      await apply(operations, {
        context,
        sides,
        store,
        signal,
        counts,
        replan: async () => [],
        progress: async (more) => {
          done += more;
          await store.progress(counts, planned, done);
        },
      });
    }
    return { state: 'done', reason: kept === 0 ? null : `${kept} of what it made was edited since, and stays`, counts, damage: null, error: null };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { state: 'failed', reason: error.message, counts, damage: null, error };
  }
}
