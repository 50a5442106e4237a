import { invites, type Operation, type Pair, planUndo, withNotices } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import type { DoneToPair } from '../storage/journal-of.ts';
import { apply } from './apply.ts';
import { viewOf } from './event-view.ts';
import type { Executed } from './execute.ts';
import { mapConcurrent } from './map-concurrent.ts';
import { noCounts } from './tally.ts';
import { openWork, type Work } from './work.ts';

export interface UndoPlan {
  operations: Operation[];
  /** what cannot be taken back, and why */
  impossible: { recordId: string | null; href: string | null; moment: string; label: string; reason: string }[];
}

/** What is taken back, and why. */
export interface Undo {
  done: DoneToPair[];
  cause: string;
  /** the lane was never started: what it made is made again when it is */
  trial: boolean;
}

/** What taking these changes back would do, from what is there now. @throws OutsideError */
export async function prepareUndo(work: Work, { done, cause, trial }: Undo): Promise<UndoPlan> {
  const { context, sides, store, signal } = openWork(work);
  const plan: UndoPlan = { operations: [], impossible: [] };
  const pairs = new Map((await store.pairs({ ids: done.map((d) => d.pair) })).map((p) => [p.id, p]));
  const { collection } = context.definition.records;
  const { calendar } = context.definition.calendar;
  // An event that was taken away, or lost its record, is where it was; one of ours that never was confirmed is where it would have been made.
  const placeOf = (pair: Pair): string => pair.href ?? done.find((d) => d.pair === pair.id)?.href ?? sides.calendars.hrefFor(calendar, pair.uid);
  const places = [...pairs.values()].map(placeOf);
  const events = await sides.calendars.read(calendar, [...new Set(places)], signal);
  let failure: unknown;
  const look = async (item: DoneToPair): Promise<boolean> => {
    const pair = pairs.get(item.pair);
    const { recordId, href, moment, label } = item;
    const refuse = (reason: string) => plan.impossible.push({ recordId, href, moment, label, reason });
    if (pair === undefined) return refuse('its pair is gone') < 0;
    try {
      const record = pair.recordId === null ? null : await sides.records.read(collection, pair.recordId, signal);
      const stored = events.get(placeOf(pair)) ?? null;
      const outcome = planUndo(context, { ...item, pair, record, event: stored === null ? null : viewOf(stored, context), trial }, cause);
      if ('reason' in outcome) refuse(outcome.reason);
      else plan.operations.push(outcome.operation);
      return false;
    } catch (error) {
      failure ??= error;
      return true;
    }
  };
  await mapConcurrent(done, look, { width: 8, done: (failed) => failed });
  if (failure !== undefined) throw failure;
  if (invites(context)) {
    const guests = await store.guests(plan.operations.map((o) => o.pair.id));
    plan.operations = plan.operations.map((o) =>
      withNotices(
        o,
        guests.filter((g) => g.pair === o.pair.id),
        context,
      ),
    );
  }
  return plan;
}

/** Takes changes back, by the same means that made them. */
export async function executeUndo(given: Work, undo: Undo): Promise<Executed> {
  const work = openWork(given);
  const { store } = work;
  const counts = noCounts();
  try {
    const { operations, impossible } = await prepareUndo(work, undo);
    let finished = 0;
    await store.progress(counts, operations.length, finished);
    await apply(operations, {
      ...work,
      counts,
      // What changed under our hands is no longer what was to be taken back.
      replan: async () => [],
      progress: async (more) => {
        finished += more;
        await store.progress(counts, operations.length, finished);
      },
    });
    const reason =
      impossible.length === 0
        ? null
        : `${impossible.length} could not be taken back: ${impossible
            .slice(0, 5)
            .map((i) => `${i.label} (${i.reason})`)
            .join(', ')}${impossible.length > 5 ? ', ...' : ''}`;
    return { state: 'done', reason, counts, damage: null, error: null };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { state: 'failed', reason: error.message, counts, damage: null, error };
  }
}
