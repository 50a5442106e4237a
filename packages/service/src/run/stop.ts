import { certain, isFollowed, type Operation, operation, type Pair, step } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { apply } from './apply.ts';
import type { Executed } from './execute.ts';
import { noCounts } from './tally.ts';
import { prepareUndo, type UndoPlan } from './undo.ts';
import { openWork, type Work } from './work.ts';

/** What becomes of what a lane made when it is stopped: taken away again, or left alone for good. */
export type StopWith = 'remove' | 'unlink';

/** What the lane made of each pair, by the journal. */
export type Makings = (pairs: string[]) => Promise<Map<string, 'create' | 'create record'>>;

const CAUSE = 'the lane was stopped';
const part = (pair: Pair): Operation => operation('unlink', { ...pair, state: step(pair.state, 'unlinked') }, CAUSE, { record: null, event: null });

/**
 * What stopping a lane does, page by page of its pairs. Only what the lane created itself, and was not edited since, is
 * taken away; everything else is unlinked and stays as people left it.
 *
 * @throws OutsideError
 */
export async function* planStop(work: Work, makings: Makings, how: StopWith): AsyncIterable<UndoPlan> {
  const { context, store } = work;
  for await (const page of store.allPairs()) {
    const pairs = page.filter(isFollowed);
    if (pairs.length === 0) continue;
    const made = how === 'unlink' ? new Map<string, string>() : await makings(pairs.map((p) => p.id));
    const removable = pairs.filter((p) => made.has(p.id) && p.baseline !== null && (made.get(p.id) === 'create' || context.collection.may.remove));
    const done = removable.map(({ id, recordId, href, moment, label }) => ({
      pair: id,
      recordId,
      href,
      moment,
      label,
      done: [{ kind: certain(made.get(id), 'only what the lane made is taken away'), changes: [], removed: null }],
      writtenSince: false,
    }));
    // As after a trial: should the lane be started again, it makes them again.
    const plan = await prepareUndo(work, { done, cause: CAUSE, trial: true });
    const gone = new Set(plan.operations.map((o) => o.pair.id));
    yield { operations: [...plan.operations, ...pairs.filter((p) => !gone.has(p.id)).map(part)], impossible: plan.impossible };
  }
}

/** Stops a lane: by the same means that everything else is done by, so that it can be taken back too. */
export async function executeStop(given: Work, makings: Makings, how: StopWith): Promise<Executed> {
  const work = openWork(given);
  const { store } = work;
  const counts = noCounts();
  let [planned, done, kept] = [0, 0, 0];
  try {
    for await (const { operations, impossible } of planStop(work, makings, how)) {
      planned += operations.length;
      kept += impossible.length;
      await apply(operations, {
        ...work,
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
