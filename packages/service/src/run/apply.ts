import { setImmediate as turn } from 'node:timers/promises';
import type { RunCounts } from '@monsoon/contract';
import {
  certain,
  invites,
  isCreation,
  isHarmless,
  isRemoval,
  type KnownGuest,
  type Operation,
  placeOf,
  step,
  writesEvent,
  writesRecord,
} from '@monsoon/core';
import { OutsideError, type StoredEvent, stopsRun } from '@monsoon/systems';
import { mapConcurrent } from './map-concurrent.ts';
import { refuse, setAsideForLater } from './refuse.ts';
import { attemptOf, entryOf, type OpenBatch, openBatch, remember, rememberHalf } from './remember.ts';
import type { ItemNames, RunStore } from './store.ts';
import { missingTexts, type Outcome, type WriteOptions, writeOut } from './write-out.ts';

/** Operations done and remembered together: what a crash can leave half done. */
const CHUNK = 100;
/** Operations under way at once: a little more than the connections to a system, so that none of them waits. */
const AT_ONCE = 8;
/** How often an item that changes under our hands is planned again before it is left for the next run. */
const MOST_REPLANS = 3;

export interface ApplyOptions extends WriteOptions {
  store: RunStore;
  counts: RunCounts;
  /** plans some items again from what is there now */
  replan(items: ItemNames): Promise<Operation[]>;
  /** so many more are done */
  progress(more: number): Promise<void>;
  /** how many operations are done and remembered together */
  chunk?: number | undefined;
  /** given, the caller waits for the last chunk, before anything depends on it */
  tail?: Tail | undefined;
}

/** What is still under way of the last chunk. */
export interface Tail {
  /** every operation of it is under way */
  started: Promise<unknown>;
  /** it is read back and remembered, and so is everything before it */
  last: Promise<void>;
}
export const noTail = (): Tail => ({ started: Promise.resolve(), last: Promise.resolve() });

/**
 * Carries out a plan, chunk by chunk: first what will be made is remembered, then both sides are written, then what was
 * really stored is read back, and that becomes the baseline together with the journal. While a chunk is written, the one
 * before it is read back, and the next is planned: on a first run that is a third of the time.
 * @throws OutsideError of a kind that stops runs; what was done until then is remembered
 */
export async function apply(operations: readonly Operation[], options: ApplyOptions, replans = 0): Promise<void> {
  // Makings first: they harm nothing. Removals last: whatever stops the run stops it before them.
  const order = (o: Operation) => (isHarmless(o) ? 0 : isRemoval(o) ? 2 : 1);
  const sorted = [...operations].sort((a, b) => order(a) - order(b));
  const size = options.chunk ?? CHUNK;
  // The pairs come first: after a crash what they speak of is looked for, not made again.
  const makings = sorted.filter(isMaking);
  if (makings.length > 0) await options.store.write({ pairs: makings.map((o) => o.pair) });
  const tail = options.tail ?? noTail();
  try {
    for (let at = 0; at < sorted.length; at += size) {
      options.signal.throwIfAborted();
      const chunk = sorted.slice(at, at + size);
      // What overwrites is noted before and struck out after, for a whole lane at once: such chunks wait for each other.
      await (chunk.every(isMaking) ? tail.started : tail.last);
      const { written, started } = writeChunk(chunk, options);
      const before = tail.last;
      tail.started = started;
      tail.last = finishAfter(before, written, options, replans);
      // A failure is thrown below.
      tail.last.catch(() => undefined);
      await before;
    }
    if (options.tail === undefined) await tail.last;
  } catch (error) {
    await tail.last.catch(() => undefined);
    throw error;
  }
}

/** Whatever became of the chunk before, what was written is read back and remembered; items that met something changed are planned again. */
async function finishAfter(before: Promise<void>, writing: Promise<Written>, options: ApplyOptions, replans: number): Promise<void> {
  const [earlier, written] = [(await Promise.allSettled([before]))[0], await writing];
  const again = await finishChunk(written, options);
  if (earlier.status === 'rejected') throw earlier.reason;
  if (again.length > 0 && replans >= MOST_REPLANS)
    await setAsideForLater(
      again.filter((o) => o.kind !== 'create record'),
      options,
    );
  else if (again.length > 0) {
    const records = [...new Set(again.flatMap((o) => o.pair.recordId ?? []))];
    const hrefs = [...new Set(again.flatMap((o) => (o.pair.recordId === null && o.pair.href !== null ? [o.pair.href] : [])))];
    await apply(await options.replan({ records, hrefs }), { ...options, tail: undefined }, replans + 1);
  }
  if (replans === 0) await options.progress(written.of);
}

const isMaking = (o: Operation): boolean => isCreation(o) && o.restore === null;

/** A chunk of which both sides were written, as far as it was started. */
interface Written {
  /** how many there were */
  of: number;
  outcomes: Outcome[];
  risky: Operation[];
}

const stops = (o: Outcome) => o.error instanceof OutsideError && stopsRun(o.error.trouble);

/** @returns when both sides are written, and when the last of it has started: then the next can start, and no connection waits */
function writeChunk(chunk: Operation[], options: ApplyOptions): { written: Promise<Written>; started: Promise<unknown> } {
  let allStarted = (): void => undefined;
  const started = new Promise<void>((fine) => {
    allStarted = fine;
  });
  const written = writeAll(chunk, options, allStarted);
  return { written, started: Promise.race([started, written.catch(() => undefined)]) };
}

async function writeAll(chunk: Operation[], options: ApplyOptions, allStarted: () => void): Promise<Written> {
  const { store } = options;
  // What will be overwritten is noted: should nothing more be heard of it, the journal records the attempt.
  const risky = chunk.filter((o) => !isMaking(o) && (writesEvent(o) || writesRecord(o)));
  if (risky.length > 0) await store.write({ intents: risky.map((o) => entryOf(o, o.pair)) });
  const texts = await missingTexts(chunk, options);
  // What is not started because the system is in trouble is found again by the next run.
  const written = await mapConcurrent(
    oneObjectAtATime(chunk),
    (together) =>
      Promise.all(
        together.map((operation) => {
          store.checkLease();
          return writeOut(operation, texts, options);
        }),
      ),
    { width: AT_ONCE, done: (outcomes) => outcomes.some(stops), allStarted },
  );
  return { of: chunk.length, outcomes: written.flatMap((o) => o ?? []), risky };
}

/** Occurrences of one series are started together, so that they become one write; whatever writes a record goes by itself. */
function oneObjectAtATime(chunk: readonly Operation[]): Operation[][] {
  const together = new Map<string, Operation[]>();
  return chunk.flatMap((operation) => {
    const { object, id } = placeOf(operation.event?.href ?? '');
    if (id === null || !writesEvent(operation) || writesRecord(operation)) return [[operation]];
    const group = together.get(object);
    if (group !== undefined) {
      group.push(operation);
      return [];
    }
    const first = [operation];
    together.set(object, first);
    return [first];
  });
}

/** @returns operations that met something changed in the meantime */
async function finishChunk({ outcomes, risky }: Written, options: ApplyOptions): Promise<Operation[]> {
  const { store } = options;
  const again = outcomes.filter((o) => isChangedMeanwhile(o.error));
  const failed = outcomes.filter((o) => o.error !== undefined && !isChangedMeanwhile(o.error));
  const succeeded = outcomes.filter((o) => o.error === undefined);
  const batch = openBatch();
  const own = await withoutTaken(succeeded, store, batch);
  const guests = await guestsOf(own, options);
  const stored = await readBack(own, options, batch);
  for (const [i, outcome] of own.entries()) {
    // Meanwhile the next chunk is being written: a pause of a tenth of a second would leave its system idle.
    if (i % 10 === 9) await turn();
    remember(outcome, stored, batch, { ...options, guests });
  }
  // Half of it may be done: the record was written, and the event had changed. That half is journalled now.
  for (const outcome of [...again, ...failed]) if (outcome.record !== undefined) rememberHalf(outcome, batch, options.context);
  const everything = refusedThroughout(failed, own);
  for (const outcome of failed) {
    if (risky.includes(outcome.operation) && isUncertain(outcome.error))
      batch.entries.push(attemptOf(entryOf(outcome.operation, outcome.operation.pair)));
    if (everything === null) await refuse(outcome, batch, options);
  }
  await store.write({ ...batch, answered: true });
  const stopping = failed.find(stops) ?? brokenThroughout(failed, own);
  if (stopping !== undefined) throw stopping.error;
  if (everything !== null) throw everything;
  // Made as it was first attempted: what the event has said since is an edit, and crosses now.
  const stale = own.filter((o) => o.operation.kind === 'create record' && o.operation.event?.etag === null);
  return [
    ...again.map((o) => o.operation),
    ...stale.map(({ operation, record }) => ({
      ...operation,
      pair: { ...operation.pair, recordId: certain(record, 'what was found changed was read again').id },
    })),
  ];
}

/** What is noted of the guests of what was done; undefined: the lane does not invite. */
async function guestsOf(own: readonly Outcome[], { context, store }: ApplyOptions): Promise<Map<string, KnownGuest[]> | undefined> {
  if (!invites(context)) return undefined;
  const found = new Map<string, KnownGuest[]>();
  for (const guest of await store.guests(own.map((o) => o.operation.pair.id))) found.set(guest.pair, [...(found.get(guest.pair) ?? []), guest]);
  return found;
}

/**
 * A record that was asked for may turn out to be one that has its event already: somebody changed it beyond recognition
 * before its maker heard of it, and it was taken for a new one. It is not followed twice: the later pair is unlinked, and
 * says why. @returns the others
 */
async function withoutTaken(succeeded: Outcome[], store: RunStore, batch: OpenBatch): Promise<Outcome[]> {
  const idOf = (o: Outcome) =>
    o.operation.pair.recordId === null || o.operation.kind === 'create record' ? (o.record?.id ?? null) : o.operation.pair.recordId;
  const binding = succeeded.filter((o) => ['create record', 'adopt', 'unlink', 'hold'].includes(o.operation.kind) && idOf(o) !== null);
  if (binding.length === 0) return succeeded;
  const holder = new Map((await store.pairs({ records: binding.flatMap((o) => idOf(o) ?? []) })).map((p) => [`${p.recordId} ${p.moment}`, p.id]));
  return succeeded.filter((outcome) => {
    const { pair } = outcome.operation;
    if (!binding.includes(outcome)) return true;
    const key = `${idOf(outcome)} ${pair.moment}`;
    const other = holder.get(key);
    if (other === undefined || other === pair.id) {
      holder.set(key, pair.id);
      return true;
    }
    const unlinked = { ...pair, recordId: null, state: step(pair.state, 'unlinked'), tried: null };
    batch.pairs.push(unlinked);
    batch.entries.push({
      ...entryOf(outcome.operation, unlinked),
      kind: 'unlink',
      cause: `its record ${idOf(outcome)} is followed with another event already`,
    });
    batch.verdicts.push({ recordId: null, href: pair.href, moment: pair.moment, label: pair.label, verdict: null });
    return false;
  });
}

/** It is unknown whether it took effect. */
const isUncertain = (error: unknown) => error instanceof OutsideError && ['timed out', 'unreachable', 'broken', 'nonsense'].includes(error.trouble);

const isChangedMeanwhile = (error: unknown) => error instanceof OutsideError && (error.trouble === 'changed meanwhile' || error.trouble === 'gone');

/** A system that fails for everybody is in trouble itself; one that fails for one item may dislike the item. */
const brokenThroughout = (failed: Outcome[], succeeded: Outcome[]): Outcome | undefined =>
  failed.length >= 3 &&
  !succeeded.some((o) => o.href !== null || o.record !== undefined) &&
  failed.every((o) => o.error instanceof OutsideError && o.error.trouble === 'broken')
    ? failed[0]
    : undefined;

/** Writes that are refused alike, with none that is taken: fewer may be as many bad items. */
const MANY_REFUSED = 20;

/** A system that refuses everything alike does not dislike the items: one message says so, and the lane tries again as a whole. */
function refusedThroughout(failed: Outcome[], succeeded: Outcome[]): OutsideError | null {
  const errors = failed.map((o) => o.error).filter((e) => e instanceof OutsideError && e.trouble === 'refused') as OutsideError[];
  const [first] = errors;
  const wrote = succeeded.some((o) => o.href !== null || o.record !== undefined);
  if (first === undefined || first.status === null || errors.length < MANY_REFUSED || errors.length < failed.length || wrote) return null;
  if (errors.some((e) => e.status !== first.status)) return null;
  return new OutsideError(
    'refused',
    `every one of ${errors.length} writes was refused, so the cause is not in the items; the first: ${first.message}`,
    {
      status: first.status,
    },
  );
}

/**
 * What the calendar really stored. When it cannot be asked, what was written is not forgotten: it is journalled as it
 * was meant, and the next look compares.
 */
async function readBack(succeeded: Outcome[], options: ApplyOptions, batch: OpenBatch): Promise<Map<string, StoredEvent | null>> {
  const hrefs = succeeded.flatMap((o) => o.href ?? []);
  try {
    return await options.sides.calendars.read(options.context.definition.calendar.calendar, hrefs, options.signal);
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    const unread = new Map<string, StoredEvent | null>();
    for (const outcome of succeeded) remember(outcome, unread, batch, options);
    await options.store.write({ ...batch, answered: true });
    throw error;
  }
}
