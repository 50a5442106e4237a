import {
  type EventRead,
  editEvent,
  isHarmless,
  isRemoval,
  type LaneContext,
  type Moment,
  makeEvent,
  momentLinks,
  momentOfEvents,
  newBaseline,
  noValues,
  type Operation,
  type Pair,
  type RecordItem,
  type RunCounts,
  recordKey,
  stateOf,
  step,
  UnreadableEvent,
  writesEvent,
  writesRecord,
} from '@monsoon/core';
import { OutsideError, type StoredEvent, stopsRun } from '@monsoon/systems';
import { type Sides, viewOf } from './gather.ts';
import { inTurn } from './in-turn.ts';
import { refuse, setAsideForLater } from './refuse.ts';
import type { Batch, Entry, ItemNames, RunStore } from './store.ts';

/** A batch while it is being filled. */
export type OpenBatch = Required<Pick<Batch, 'pairs' | 'entries' | 'verdicts' | 'holds'>>;

/** Operations done and remembered together: what a crash can leave half done. */
const CHUNK = 100;
/** Operations under way at once: a little more than the connections to a system, so that none of them waits. */
const AT_ONCE = 8;
/** How often an item that changes under our hands is planned anew before it is left for the next run. */
const MOST_REPLANS = 3;

export interface ApplyOptions {
  context: LaneContext;
  sides: Sides;
  store: RunStore;
  signal: AbortSignal;
  counts: RunCounts;
  /** plans some items again from what is there now */
  replan(items: ItemNames): Promise<Operation[]>;
  progress(done: number): Promise<void>;
}

/** What became of one operation. */
export interface Outcome {
  operation: Operation;
  error?: unknown;
  /** the record as it is after it was written */
  record?: RecordItem;
  /** where to read back what was stored */
  href: string | null;
  removed?: string | null;
  /** the writing found its work done already */
  found?: boolean;
}

const names: Record<Operation['kind'], keyof RunCounts> = {
  make: 'made',
  'make record': 'made',
  change: 'changed',
  adopt: 'adopted',
  agree: 'agreed',
  remove: 'removed',
  'remove record': 'removed',
  part: 'parted',
  hold: 'held',
};
export const countOf = (operation: Operation): keyof RunCounts => names[operation.kind];

/**
 * Carries out a plan, chunk by chunk: first what will be made is remembered, then both sides are written, then what was
 * really stored is read back, and that becomes the baseline together with the journal.
 * @throws OutsideError of a kind that stops runs; what was done until then is remembered
 */
export async function apply(operations: readonly Operation[], options: ApplyOptions, replans = 0): Promise<void> {
  // Makings first: they harm nothing. Removals last: whatever stops the run stops it before them.
  const order = (o: Operation) => (isHarmless(o) ? 0 : isRemoval(o) ? 2 : 1);
  const sorted = [...operations].sort((a, b) => order(a) - order(b));
  for (let at = 0; at < sorted.length; at += CHUNK) {
    options.signal.throwIfAborted();
    const again = await applyChunk(sorted.slice(at, at + CHUNK), options);
    if (again.length > 0 && replans >= MOST_REPLANS)
      await setAsideForLater(
        again.filter((o) => o.kind !== 'make record'),
        options,
      );
    else if (again.length > 0) {
      const records = [...new Set(again.flatMap((o) => o.pair.recordId ?? []))];
      const hrefs = [...new Set(again.flatMap((o) => (o.pair.recordId === null && o.pair.href !== null ? [o.pair.href] : [])))];
      await apply(await options.replan({ records, hrefs }), options, replans + 1);
    }
    if (replans === 0) await options.progress(Math.min(at + CHUNK, sorted.length));
  }
}

/** @returns operations that met something changed in the meantime */
async function applyChunk(chunk: Operation[], options: ApplyOptions): Promise<Operation[]> {
  const { store } = options;
  const makings = chunk.filter((o) => (o.kind === 'make' || o.kind === 'make record') && o.restore === null);
  // The pair comes first: after a crash what it speaks of is looked for, not made again.
  // And what will be overwritten is noted: should nothing more be heard of it, the journal tells of the attempt.
  const risky = chunk.filter((o) => !makings.includes(o) && (writesEvent(o) || writesRecord(o)));
  if (makings.length + risky.length > 0) await store.write({ pairs: makings.map((o) => o.pair), intents: risky.map((o) => entryOf(o, o.pair)) });
  const texts = await missingTexts(chunk, options);
  const stops = (o: Outcome) => o.error instanceof OutsideError && stopsRun(o.error.trouble);
  // What is not started because the system is in trouble is found again by the next run.
  const begun = await inTurn(chunk, AT_ONCE, (operation) => carryOut(operation, texts, options), stops);
  const outcomes = begun.filter((o) => o !== undefined);

  const again = outcomes.filter((o) => isChangedMeanwhile(o.error));
  const failed = outcomes.filter((o) => o.error !== undefined && !isChangedMeanwhile(o.error));
  const succeeded = outcomes.filter((o) => o.error === undefined);
  const batch: OpenBatch = { pairs: [], entries: [], verdicts: [], holds: [] };
  const stored = await readBack(succeeded, options, batch);
  for (const outcome of succeeded) remember(outcome, stored, batch, options);
  // Half of it may be done: the record was written, and the event had changed. That half is journalled now.
  for (const outcome of [...again, ...failed]) if (outcome.record !== undefined) rememberHalf(outcome, batch);
  for (const outcome of failed) {
    if (risky.includes(outcome.operation) && isUncertain(outcome.error))
      batch.entries.push(attemptOf(entryOf(outcome.operation, outcome.operation.pair)));
    await refuse(outcome, batch, options);
  }
  await store.write({ ...batch, answered: true });
  const stopping = failed.find(stops) ?? brokenThroughout(failed, succeeded);
  if (stopping !== undefined) throw stopping.error;
  // Made as it was first attempted: what the event has said since is an edit, and crosses now.
  const stale = succeeded.filter((o) => o.operation.kind === 'make record' && o.operation.event?.etag === null);
  return [
    ...again.map((o) => o.operation),
    ...stale.map(({ operation, record }) => ({ ...operation, pair: { ...operation.pair, recordId: record!.id } })),
  ];
}

/** Nobody knows whether it took effect. */
const isUncertain = (error: unknown) => error instanceof OutsideError && ['timed out', 'unreachable', 'broken', 'nonsense'].includes(error.trouble);

/** A write of which nothing more was heard, for the journal. */
export const attemptOf = (entry: Entry): Entry => ({
  ...entry,
  kind: 'attempt',
  notes: [...entry.notes, `no answer came to this ${entry.kind}: it may have been done`],
});

const isChangedMeanwhile = (error: unknown) => error instanceof OutsideError && (error.trouble === 'changed meanwhile' || error.trouble === 'gone');

/** A system that fails for everybody is in trouble itself; one that fails for one item may dislike the item. */
const brokenThroughout = (failed: Outcome[], succeeded: Outcome[]): Outcome | undefined =>
  failed.length >= 3 &&
  !succeeded.some((o) => o.href !== null || o.record !== undefined) &&
  failed.every((o) => o.error instanceof OutsideError && o.error.trouble === 'broken')
    ? failed[0]
    : undefined;

/** The texts of events that are to be edited or removed, where the plan was made from ETags alone. */
async function missingTexts(chunk: Operation[], { sides, context, signal }: ApplyOptions): Promise<Map<string, StoredEvent | null>> {
  const hrefs = chunk.flatMap((o) => (o.event !== null && o.event.text === null && writesEvent(o) ? [o.event.href] : []));
  return sides.calendars.read(context.definition.calendar.calendar, hrefs, signal);
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

async function carryOut(operation: Operation, texts: Map<string, StoredEvent | null>, options: ApplyOptions): Promise<Outcome> {
  const outcome: Outcome = { operation, href: null };
  try {
    if (operation.kind === 'make') return await make(operation, options);
    if (operation.kind === 'make record') return await makeRecord(operation, options);
    if (operation.kind === 'remove') return await remove(operation, texts, options);
    if (operation.kind === 'remove record') return await removeRecord(operation, options);
    if (Object.keys(operation.recordEdits).length > 0) outcome.record = await changeRecord(operation, options);
    if (Object.keys(operation.eventEdits).length > 0) {
      await changeEvent(operation, texts, options);
      outcome.href = operation.event!.href;
    }
    return outcome;
  } catch (error) {
    if (error instanceof OutsideError || error instanceof UnreadableEvent) return { ...outcome, error, href: null };
    throw error;
  }
}

async function make(operation: Operation, { context, sides, signal }: ApplyOptions): Promise<Outcome> {
  const { pair, eventEdits } = operation;
  const { calendars } = sides;
  const mark = { lane: context.lane, pair: pair.id };
  const text = operation.restore ?? makeEvent(pair.uid, eventEdits, mark, { zones: context.zones, now: context.now });
  const calendar = context.definition.calendar.calendar;
  try {
    return { operation, href: (await calendars.create(calendar, pair.uid, text, signal)).href };
  } catch (error) {
    // An earlier attempt, whose answer was lost, may have made it: then what is there has our UID and mark.
    if (!(error instanceof OutsideError) || error.trouble !== 'exists') throw error;
    const href = error.href ?? calendars.hrefFor(calendar, pair.uid);
    const there = (await calendars.read(calendar, [href], signal)).get(href);
    const read = there == null ? null : viewOf(there, context).read;
    if (read?.uid === pair.uid) return { operation, href, found: true };
    throw new OutsideError('refused', `another event stands at ${href}: ${error.message}`, { href });
  }
}

async function makeRecord(operation: Operation, { context, sides, signal }: ApplyOptions): Promise<Outcome> {
  const record = await sides.records.create(context.definition.records.collection, operation.recordEdits, recordKey(operation), signal);
  return { operation, href: null, record };
}

const changeRecord = (operation: Operation, { context, sides, signal }: ApplyOptions): Promise<RecordItem> =>
  sides.records.change(context.definition.records.collection, operation.record!, operation.recordEdits, signal);

async function removeRecord(operation: Operation, { context, sides, signal }: ApplyOptions): Promise<Outcome> {
  const from = operation.record!;
  await sides.records.remove(context.definition.records.collection, from, signal);
  return { operation, href: null, removed: JSON.stringify(from) };
}

async function changeEvent(operation: Operation, texts: Map<string, StoredEvent | null>, { context, sides, signal }: ApplyOptions): Promise<void> {
  const { text, etag } = current(operation.event!, texts);
  const mark = { lane: context.lane, pair: operation.pair.id };
  await sides.calendars.change(
    operation.event!.href,
    etag,
    editEvent(text, operation.eventEdits, { zones: context.zones, now: context.now, mark }),
    signal,
  );
}

async function remove(operation: Operation, texts: Map<string, StoredEvent | null>, { context, sides, signal }: ApplyOptions): Promise<Outcome> {
  const { calendars } = sides;
  const calendar = context.definition.calendar.calendar;
  if (operation.event === null) {
    const href = calendars.hrefFor(calendar, operation.pair.uid);
    const there = (await calendars.read(calendar, [href], signal)).get(href) ?? null;
    if (there === null || viewOf(there, context).read?.uid !== operation.pair.uid) return { operation, href: null, removed: null };
    await calendars.remove(href, there.etag ?? '', signal);
    return { operation, href: null, removed: there.text };
  }
  const { text, etag } = current(operation.event, texts);
  await calendars.remove(operation.event.href, etag, signal);
  return { operation, href: null, removed: text };
}

/** The event's text and the ETag that goes with it. @throws OutsideError when it is not the one that was planned for */
function current(
  event: { href: string; etag: string | null; text: string | null },
  texts: Map<string, StoredEvent | null>,
): { text: string; etag: string } {
  const read = event.text === null ? texts.get(event.href) : { text: event.text, etag: event.etag };
  if (read == null) throw new OutsideError('gone', `the event ${event.href} is gone`);
  if (event.text === null && read.etag !== event.etag)
    throw new OutsideError('changed meanwhile', `the event ${event.href} was changed in the meantime`);
  if (read.etag === null) throw new OutsideError('refused', `the calendar server gives no ETag for ${event.href}, so it cannot be changed safely`);
  return { text: read.text, etag: read.etag };
}

/** Puts what was done, and what both sides really hold now, into the batch. */
function remember(outcome: Outcome, stored: Map<string, StoredEvent | null>, batch: OpenBatch, options: ApplyOptions): void {
  const { operation } = outcome;
  const { counts } = options;
  const { recordId, href, moment, label } = operation.pair;
  const { pair, notes } = agreedPair(outcome, stored, options.context);
  batch.pairs.push(pair);
  batch.entries.push({ ...entryOf(operation, pair), notes: [...operation.notes, ...notes], removed: outcome.removed ?? null });
  if (operation.hold !== null) batch.holds.push({ ...operation.hold, pair });
  batch.verdicts.push({ recordId, href: recordId === null ? href : null, moment, label, verdict: operation.verdict });
  // An event that has its record now is no longer known by its own place.
  if (pair.recordId !== null && pair.href !== null && (operation.kind === 'make record' || operation.kind === 'adopt')) {
    batch.verdicts.push({ recordId: null, href: pair.href, moment, label, verdict: null });
    if (recordId === null) batch.verdicts.push({ recordId: pair.recordId, href: null, moment, label, verdict: operation.verdict });
  }
  counts[countOf(operation)]++;
}

const entryOf = (operation: Operation, pair: Pair): Entry => ({
  pair,
  kind: operation.kind,
  cause: operation.cause,
  changes: operation.changes,
  notes: operation.notes,
  removed: null,
});

function rememberHalf({ operation }: Outcome, batch: OpenBatch): void {
  const changes = operation.changes.filter((c) => c.side === 'record');
  batch.entries.push({
    ...entryOf(operation, operation.pair),
    changes,
    notes: [...operation.notes, 'the event had changed meanwhile, and was planned again'],
  });
}

const settles = (operation: Operation) => !['remove', 'remove record', 'part'].includes(operation.kind);

/** The pair with its new baseline, and a note where somebody else's edit got in between our write and our look. */
function agreedPair(outcome: Outcome, stored: Map<string, StoredEvent | null>, context: LaneContext): { pair: Pair; notes: string[] } {
  const { operation } = outcome;
  const { pair } = operation;
  if (operation.kind === 'remove' || operation.kind === 'remove record')
    return { pair: { ...pair, href: pair.state === 'parted' ? pair.href : null, etag: null, version: null, baseline: null }, notes: [] };
  // A question about an item that has left moves nothing: what was agreed on stays agreed on until it is answered.
  if (!settles(operation) || (operation.kind === 'hold' && operation.settled.length === 0)) return { pair, notes: [] };
  const notes = outcome.found === true ? ['it was there already: an earlier attempt had made it'] : [];
  const links = momentLinks(context, momentOf(pair, context));
  const event = outcome.href === null ? null : (stored.get(outcome.href) ?? null);
  const read: EventRead | null = event === null ? (outcome.href === null ? (operation.event?.read ?? null) : null) : viewOf(event, context).read;
  const before = operation.kind === 'make' || operation.kind === 'make record' ? null : pair.baseline;
  const blank: RecordItem = { id: '', fields: {} };
  const planned = operation.record ?? { ...blank, fields: Object.fromEntries(context.collection.fields.map((f) => [f.name, null])) };
  const meant = { ...planned, fields: { ...planned.fields, ...operation.recordEdits } };
  const { baseline, foreign } = newBaseline(
    links,
    before,
    {
      planned: operation.record,
      record: meant,
      eventBefore: operation.event?.read?.values ?? noValues,
      eventEdits: operation.eventEdits,
      settled: operation.settled,
      again: outcome.found === true || (operation.kind === 'make record' && operation.event?.etag === null),
    },
    { record: outcome.record ?? operation.record, event: read?.values ?? null },
    context,
  );
  const begun = (operation.kind === 'make' || operation.kind === 'make record') && operation.restore === null;
  const state = begun ? step(pair.state, 'agreed') : pair.state;
  const recordId = outcome.record?.id ?? pair.recordId;
  // An ETag says "as agreed": without agreement in everything, the next look must read the event again.
  const loose = foreign.length > 0 || operation.loose;
  const etag = outcome.href === null ? (operation.event?.etag ?? null) : (event?.etag ?? null);
  const said = foreign.map((key) => `${key} was changed in the same moment; the next check settles it`);
  return {
    pair: {
      ...pair,
      recordId,
      state,
      href: outcome.href ?? pair.href,
      etag: loose ? null : etag,
      version: nameOf(outcome.record ?? operation.record),
      laneVersion: context.version,
      tried: null,
      baseline,
    },
    notes: [...notes, ...said],
  };
}

const nameOf = (record: RecordItem | null): string | null => (record === null ? null : stateOf(record));

const momentOf = (pair: Pair, context: LaneContext): Moment =>
  context.definition.moments.find((m) => m.name === pair.moment) ?? momentOfEvents(context);
