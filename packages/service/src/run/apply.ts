import {
  type Change,
  type EventRead,
  editEvent,
  type ItemVerdict,
  isHarmless,
  type LaneContext,
  type MappedValues,
  makeEvent,
  mappedPart,
  type Operation,
  type Pair,
  propertyNames,
  type RunCounts,
  readBack,
  sameProperty,
  UnreadableEvent,
} from '@monsoon/core';
import { type Calendars, OutsideError, type StoredEvent, stopsRun } from '@monsoon/systems';
import { viewOf } from './gather.ts';
import { inTurn } from './in-turn.ts';
import type { Batch, Entry, RunStore } from './store.ts';

/** Operations done and remembered together: what a crash can leave half done. */
const CHUNK = 100;
/** Operations under way at once: a little more than the connections to a system, so that none of them waits. */
const AT_ONCE = 8;
/** How often an item that changes under our hands is planned anew before it is left for the next run. */
const MOST_REPLANS = 3;

export interface ApplyOptions {
  context: LaneContext;
  calendars: Calendars;
  store: RunStore;
  signal: AbortSignal;
  counts: RunCounts;
  /** plans one record again from what is there now */
  replan(recordId: string): Promise<Operation[]>;
  progress(done: number): Promise<void>;
}

type Of<K extends Operation['kind']> = Operation & { kind: K };

/** What became of one operation. */
interface Outcome {
  operation: Operation;
  error?: unknown;
  /** where to read back what is stored now; null when it is gone */
  href: string | null;
  removed?: string | null;
  /** the writing found its work done already */
  found?: boolean;
}

/**
 * Carries out a plan, chunk by chunk: first what will be made is remembered, then the calendar is written, then what
 * it really stored is read back, and that becomes the baseline together with the journal.
 * @throws OutsideError of a kind that stops runs; what was done until then is remembered
 */
export async function apply(operations: readonly Operation[], options: ApplyOptions, replans = 0): Promise<void> {
  // Makings first: they harm nothing. Removals last: whatever stops the run stops it before them.
  const order = (o: Operation) => (isHarmless(o) ? 0 : o.kind === 'remove' ? 2 : 1);
  const sorted = [...operations].sort((a, b) => order(a) - order(b));
  for (let at = 0; at < sorted.length; at += CHUNK) {
    options.signal.throwIfAborted();
    const chunk = sorted.slice(at, at + CHUNK);
    const again = await applyChunk(chunk, options);
    if (again.length > 0 && replans >= MOST_REPLANS) await setAsideForLater(again, options);
    else if (again.length > 0) {
      const fresh = await Promise.all([...new Set(again.map((o) => o.pair.recordId))].map((id) => options.replan(id)));
      await apply(fresh.flat(), options, replans + 1);
    }
    if (replans === 0) await options.progress(Math.min(at + CHUNK, sorted.length));
  }
}

/** @returns operations that met something changed in the meantime */
async function applyChunk(chunk: Operation[], options: ApplyOptions): Promise<Operation[]> {
  const { store } = options;
  const makings = chunk.filter((o): o is Of<'make'> => o.kind === 'make');
  // The pair with its UID comes first: after a crash the event is looked for, not made again.
  if (makings.length > 0) await store.write({ pairs: makings.map((o) => o.pair) });
  const texts = await missingTexts(chunk, options);
  const stops = (o: Outcome) => o.error instanceof OutsideError && stopsRun(o.error.trouble);
  // What is not started because the server is in trouble is found again by the next run.
  const begun = await inTurn(chunk, AT_ONCE, (operation) => carryOut(operation, texts, options), stops);
  const outcomes = begun.filter((o) => o !== undefined);

  const again = outcomes.filter((o) => isChangedMeanwhile(o.error)).map((o) => o.operation);
  const failed = outcomes.filter((o) => o.error !== undefined && !isChangedMeanwhile(o.error));
  const succeeded = outcomes.filter((o) => o.error === undefined);
  const hrefs = succeeded.flatMap((o) => (o.href === null ? [] : [o.href]));
  const stored = await options.calendars.read(options.context.definition.calendar.calendar, hrefs, options.signal);
  const batch: Required<Batch> = { pairs: [], entries: [], verdicts: [], holds: [] };
  for (const outcome of succeeded) remember(outcome, stored, batch, options);
  for (const outcome of failed) await refuse(outcome, batch, options);
  await store.write(batch);
  const stopping = failed.find(stops) ?? brokenThroughout(failed, succeeded);
  if (stopping !== undefined) throw stopping.error;
  return again;
}

const isChangedMeanwhile = (error: unknown) => error instanceof OutsideError && (error.trouble === 'changed meanwhile' || error.trouble === 'gone');

/** A server that fails for everybody is in trouble itself; one that fails for one event may dislike the event. */
const brokenThroughout = (failed: Outcome[], succeeded: Outcome[]): Outcome | undefined =>
  failed.length >= 3 &&
  !succeeded.some((o) => o.href !== null) &&
  failed.every((o) => o.error instanceof OutsideError && o.error.trouble === 'broken')
    ? failed[0]
    : undefined;

/** The texts of events that are to be edited or removed, where the plan was made from ETags alone. */
async function missingTexts(chunk: Operation[], options: ApplyOptions): Promise<Map<string, StoredEvent | null>> {
  const hrefs = chunk.flatMap((o) => ('event' in o && o.event !== null && o.event.text === null && writes(o) ? [o.event.href] : []));
  return options.calendars.read(options.context.definition.calendar.calendar, hrefs, options.signal);
}

const writes = (o: Operation) => o.kind === 'change' || o.kind === 'remove' || (o.kind === 'adopt' && o.changes.length > 0);

async function carryOut(operation: Operation, texts: Map<string, StoredEvent | null>, options: ApplyOptions): Promise<Outcome> {
  try {
    switch (operation.kind) {
      case 'make':
        return await make(operation, options);
      case 'change':
      case 'adopt':
        return await change(operation, texts, options);
      case 'remove':
        return await remove(operation, texts, options);
      default:
        return { operation, href: null };
    }
  } catch (error) {
    if (error instanceof OutsideError || error instanceof UnreadableEvent) return { operation, error, href: null };
    throw error;
  }
}

async function make(operation: Of<'make'>, { context, calendars, signal }: ApplyOptions): Promise<Outcome> {
  const { pair, values } = operation;
  const text = makeEvent(pair.uid, values, { lane: context.lane, pair: pair.id }, { zones: context.zones, now: context.now });
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

async function change(
  operation: Of<'change'> | Of<'adopt'>,
  texts: Map<string, StoredEvent | null>,
  { context, calendars, signal }: ApplyOptions,
): Promise<Outcome> {
  const { event, pair, changes } = operation;
  if (changes.length === 0) return { operation, href: event.href };
  const { text, etag } = current(event, texts);
  const wanted = Object.fromEntries(changes.map((c) => [c.property, c.after])) as MappedValues;
  const edited = editEvent(text, wanted, { zones: context.zones, now: context.now, mark: { lane: context.lane, pair: pair.id } });
  await calendars.change(event.href, etag, edited, signal);
  return { operation, href: event.href };
}

async function remove(
  operation: Of<'remove'>,
  texts: Map<string, StoredEvent | null>,
  { context, calendars, signal }: ApplyOptions,
): Promise<Outcome> {
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

/** Puts what was done, and what the calendar really holds now, into the batch. */
function remember(outcome: Outcome, stored: Map<string, StoredEvent | null>, batch: Required<Batch>, options: ApplyOptions): void {
  const { operation, href } = outcome;
  const { counts, context } = options;
  const event = href === null ? null : (stored.get(href) ?? null);
  const read = event === null ? null : viewOf(event, context).read;
  const entry = (pair: Pair, more: Partial<Entry> = {}) =>
    batch.entries.push({
      pair,
      kind: operation.kind,
      cause: operation.cause,
      changes: operation.changes,
      notes: operation.notes,
      removed: null,
      ...more,
    });
  const { recordId, moment, label } = operation.pair;
  batch.verdicts.push({ recordId, moment, label, verdict: operation.verdict });
  switch (operation.kind) {
    case 'make':
    case 'change':
    case 'adopt': {
      // Written, and gone again before it could be read: the next run sees the deletion against this baseline.
      const { pair, notes } = agreed(operation.pair, operation.values, { event, read, href }, context);
      batch.pairs.push(pair);
      if (outcome.found === true) notes.push('it was there already: an earlier attempt had made it');
      entry(pair, { notes: [...operation.notes, ...notes] });
      counts[operation.kind === 'make' ? 'made' : operation.kind === 'change' ? 'changed' : 'adopted']++;
      break;
    }
    case 'agree': {
      const pair: Pair = {
        ...operation.pair,
        etag: operation.event.etag,
        baseline: { record: operation.values, event: mappedPart(operation.event.read!.values, operation.values) },
      };
      batch.pairs.push(pair);
      entry(pair, { changes: baselineChanges(operation, context) });
      counts.agreed++;
      break;
    }
    case 'remove':
      batch.pairs.push({ ...operation.pair, href: null, etag: null, baseline: null });
      entry(operation.pair, { removed: outcome.removed ?? null });
      counts.removed++;
      break;
    case 'part':
      batch.pairs.push(operation.pair);
      entry(operation.pair);
      counts.parted++;
      break;
    case 'hold':
      batch.pairs.push(operation.pair);
      batch.holds.push({
        pair: operation.pair,
        question: operation.question,
        cause: operation.cause,
        record: operation.pair.baseline?.record ?? {},
        event: operation.event?.read == null ? {} : mappedPart(operation.event.read.values, operation.pair.baseline?.record ?? {}),
      });
      entry(operation.pair);
      counts.held++;
  }
}

interface ReadBack {
  event: StoredEvent | null;
  read: EventRead | null;
  href: string | null;
}

/** The pair with its new baseline, and a note where somebody else's edit got in between our write and our look. */
function agreed(pair: Pair, values: MappedValues, { event, read, href }: ReadBack, context: LaneContext): { pair: Pair; notes: string[] } {
  const back = read === null ? { values, foreign: [] } : readBack(values, read.values, context.zone, context.zones);
  // An ETag says "as agreed": without agreement the next look must read the event again.
  const etag = back.foreign.length > 0 ? null : (event?.etag ?? null);
  const notes = back.foreign.map((p) => `${p} was changed on the calendar in the same moment; the next check settles it`);
  return { pair: { ...pair, state: 'agreed', href, etag, baseline: { record: values, event: back.values } }, notes };
}

/** What both sides turned out to say, against what they last agreed on. */
function baselineChanges(operation: Of<'agree'>, context: LaneContext): Change[] {
  const before = operation.pair.baseline?.event ?? {};
  return propertyNames
    .filter((p) => operation.values[p] !== undefined && !sameProperty(p, before[p], operation.values[p], context.zones))
    .map((property) => ({ property, before: before[property] ?? null, after: operation.values[property] ?? null, cause: operation.cause }));
}

/** Seconds until a failed item is tried again; then it is set aside until it or the lane changes. */
const PAUSES = [60, 300, 1800, 7200];

async function refuse(outcome: Outcome, batch: Required<Batch>, { store, context, counts }: ApplyOptions): Promise<void> {
  const { operation, error } = outcome;
  const { pair } = operation;
  if (error instanceof OutsideError && stopsRun(error.trouble)) return;
  const attempts = await store.attempts(pair.recordId, pair.moment);
  const passing = error instanceof OutsideError && error.trouble === 'broken';
  const pause = passing ? PAUSES[attempts] : undefined;
  const recheckAt = pause === undefined ? null : new Date(Date.parse(context.now) + pause * 1000).toISOString();
  const reason = error instanceof UnreadableEvent ? 'unreadable event' : 'refused by the system';
  batch.verdicts.push(failure(operation, reason, (error as Error).message, recheckAt, attempts + 1));
  counts.failed++;
}

const failure = (
  operation: Operation,
  reason: 'unreadable event' | 'refused by the system',
  value: string,
  recheckAt: string | null,
  attempts: number,
) => ({
  recordId: operation.pair.recordId,
  moment: operation.pair.moment,
  label: operation.pair.label,
  verdict: { reason, condition: `the calendar takes it (${operation.kind})`, value, recheckAt, attempts } satisfies ItemVerdict['verdict'] & {
    attempts: number;
  },
});

/** Somebody keeps changing these: the next run finds them in peace, or again not. */
async function setAsideForLater(operations: Operation[], options: ApplyOptions): Promise<void> {
  const recheckAt = new Date(Date.parse(options.context.now) + 60_000).toISOString();
  const value = 'it changed again each time it was about to be written';
  await options.store.write({ verdicts: operations.map((o) => failure(o, 'refused by the system', value, recheckAt, 1)) });
  options.counts.failed += operations.length;
}
