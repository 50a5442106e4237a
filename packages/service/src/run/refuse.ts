import type { RunCounts } from '@monsoon/contract';
import {
  askedAbout,
  type Hold,
  type ItemVerdict,
  itemKey,
  type LaneContext,
  type Operation,
  step,
  UnreadableEvent,
  UnwritableEvent,
} from '@monsoon/core';
import { OutsideError, stopsRun } from '@monsoon/systems';
import { sayError } from '../errors.ts';
import { type OpenBatch, openBatch } from './remember.ts';
import type { RunStore } from './store.ts';
import type { Outcome } from './write-out.ts';

/** Seconds until a failed item is tried again; then it is set aside until it or the lane changes. */
const PAUSES = [60, 300, 1800, 7200];
/** Looks, a minute apart, at which an item may keep changing under our hands before a person is asked. */
const MOST_RACES = 3;

/** What a refusal needs to know of the run. */
export interface RefuseOptions {
  context: LaneContext;
  store: RunStore;
  counts: RunCounts;
}

/** What is remembered of an operation that a system did not take. */
export async function refuse({ operation, error }: Outcome, batch: OpenBatch, { store, context, counts }: RefuseOptions): Promise<void> {
  const { pair } = operation;
  // A definite no: nothing was made, so the next attempt is the first again.
  if (operation.kind === 'create record' && error instanceof OutsideError && error.trouble === 'refused')
    batch.pairs.push({ ...pair, state: step(pair.state, 'creating'), tried: null, baseline: null });
  if (error instanceof OutsideError && stopsRun(error.trouble)) return;
  const { count: attempts } = await store.attempts(nameOf(operation));
  const passing = error instanceof OutsideError && error.trouble === 'broken';
  const pause = passing ? PAUSES[attempts] : undefined;
  const recheckAt = pause === undefined ? null : new Date(Date.parse(context.now) + pause * 1000).toISOString();
  const reason = reasonOf(error);
  batch.verdicts.push(...failures(operation, { reason, value: sayError(error), recheckAt, attempts: attempts + 1 }));
  counts.failed++;
}

type FailedReason = 'unreadable event' | 'unfit value' | 'refused by the system' | 'unexpected error';

function reasonOf(error: unknown): FailedReason {
  if (error instanceof UnreadableEvent) return 'unreadable event';
  if (error instanceof UnwritableEvent) return 'unfit value';
  return error instanceof OutsideError ? 'refused by the system' : 'unexpected error';
}

const nameOf = ({ pair }: Operation) => ({ recordId: pair.recordId, href: pair.recordId === null ? pair.href : null, moment: pair.moment });

interface Failed {
  reason: FailedReason;
  value: string;
  recheckAt: string | null;
  attempts: number;
}

/**
 * Of a pair that was about to be made of two items, both are remembered: the next attempt must find the event again,
 * though nothing in it has changed, and must not make a second one.
 */
function failures(operation: Operation, failed: Failed): ItemVerdict[] {
  const { label, moment } = operation.pair;
  const verdict = { ...failed, condition: `the other side takes it (${operation.kind})` };
  const event = operation.kind === 'adopt' ? (operation.event?.href ?? null) : null;
  return [{ ...nameOf(operation), label, verdict }, ...(event === null ? [] : [{ recordId: null, href: event, moment, label, verdict }])];
}

/** Somebody keeps changing these: the next run finds them in peace, or again not; after some runs a person is asked. */
export async function setAsideForLater(operations: Operation[], { context, store, counts }: RefuseOptions): Promise<void> {
  const recheckAt = new Date(Date.parse(context.now) + 60_000).toISOString();
  const value = 'it changed again each time it was about to be written';
  const batch = openBatch();
  const unique = new Map(operations.map((o) => [itemKey({ ...o.pair, href: o.pair.href }), o]));
  for (const operation of unique.values()) {
    const before = await store.attempts(nameOf(operation));
    // Runs in quick succession are one look: a person is asked only about what keeps changing for minutes.
    const early = before.recheckAt !== null && Date.parse(before.recheckAt) > Date.parse(context.now);
    const attempts = early ? before.count : before.count + 1;
    batch.verdicts.push(
      ...failures(operation, { reason: 'refused by the system', value, recheckAt: early ? before.recheckAt : recheckAt, attempts }),
    );
    counts.failed++;
    if (attempts < MOST_RACES) continue;
    const [known] = await store.pairs({ ids: [operation.pair.id] });
    if (known === undefined || known.state === 'held' || known.state === 'unlinked' || known.state === 'removed') continue;
    const hold: Hold = {
      question: 'keeps changing',
      asked: askedAbout('keeps changing'),
      choices: ['try again', 'unlink'],
      cause: `${value}, in ${attempts} runs`,
      record: known.baseline?.record ?? {},
      event: known.baseline?.event ?? {},
      baseline: known.baseline,
    };
    const pair = { ...known, state: step(known.state, 'held') };
    batch.pairs.push(pair);
    batch.holds.push({ ...hold, pair });
    batch.entries.push({ pair, kind: 'hold', cause: hold.cause, changes: [], notes: [], removed: null, changedAt: null });
    counts.held++;
  }
  await store.write(batch);
}
