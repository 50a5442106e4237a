import {
  certain,
  editEvent,
  type LaneContext,
  makeEvent,
  type Operation,
  type OperationOf,
  type RecordItem,
  recordKey,
  writesEvent,
} from '@monsoon/core';
import { OutsideError, type StoredEvent } from '@monsoon/systems';
import { viewOf } from './event-view.ts';
import type { Sides } from './work.ts';

export interface WriteOptions {
  context: LaneContext;
  sides: Sides;
  signal: AbortSignal;
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

/** The texts of events that are to be edited or removed, where the plan was made from ETags alone. */
export async function missingTexts(chunk: Operation[], { sides, context, signal }: WriteOptions): Promise<Map<string, StoredEvent | null>> {
  const hrefs = chunk.flatMap((o) => (o.event !== null && o.event.text === null && writesEvent(o) ? [o.event.href] : []));
  return sides.calendars.read(context.definition.calendar.calendar, hrefs, signal);
}

/** Writes one operation on the side or sides that it changes, under the conditions it was planned under. */
export async function writeOut(operation: Operation, texts: Map<string, StoredEvent | null>, options: WriteOptions): Promise<Outcome> {
  const outcome: Outcome = { operation, href: null };
  try {
    if (operation.kind === 'create') return await makeBoth(operation, options);
    if (operation.kind === 'create record') return await makeRecord(operation, options);
    if (operation.kind === 'remove') return await remove(operation, texts, options);
    if (operation.kind === 'remove record') return await removeRecord(operation, options);
    if (Object.keys(operation.recordEdits).length > 0) outcome.record = await changeRecord(operation, options);
    if (Object.keys(operation.eventEdits).length > 0) {
      await changeEvent(operation, texts, options);
      outcome.href = eventOf(operation).href;
    }
    return outcome;
  } catch (error) {
    if (options.signal.aborted) throw error;
    return { ...outcome, error, href: null };
  }
}

/** A new event, and what its record says of its guests from then on. */
async function makeBoth(operation: OperationOf<'create'>, options: WriteOptions): Promise<Outcome> {
  const made = await make(operation, options);
  if (Object.keys(operation.recordEdits).length > 0) made.record = await changeRecord(operation, options);
  return made;
}

async function make(operation: OperationOf<'create'>, { context, sides, signal }: WriteOptions): Promise<Outcome> {
  const { pair, eventEdits } = operation;
  const { calendars } = sides;
  const mark = { lane: context.lane, pair: pair.id };
  const text = operation.restore ?? makeEvent(pair.uid, eventEdits, mark, writing(context));
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

/** Guests who are added in a lane's first quiet run get no invitation, from the calendar server neither. */
const writing = ({ zones, now, definition, quietGuests, ownerAddresses }: LaneContext) => ({
  zones,
  now,
  owner: ownerAddresses,
  scheduled: definition.invitations.by === 'calendar server' && quietGuests !== true,
});

async function makeRecord(operation: OperationOf<'create record'>, { context, sides, signal }: WriteOptions): Promise<Outcome> {
  const record = await sides.records.create(context.definition.records.collection, operation.recordEdits, recordKey(operation), signal);
  return { operation, href: null, record };
}

const changeRecord = (operation: Operation, { context, sides, signal }: WriteOptions): Promise<RecordItem> =>
  sides.records.change(context.definition.records.collection, recordOf(operation), operation.recordEdits, signal);

async function removeRecord(operation: OperationOf<'remove record'>, { context, sides, signal }: WriteOptions): Promise<Outcome> {
  await sides.records.remove(context.definition.records.collection, operation.record, signal);
  return { operation, href: null, removed: JSON.stringify(operation.record) };
}

async function changeEvent(operation: Operation, texts: Map<string, StoredEvent | null>, { context, sides, signal }: WriteOptions): Promise<void> {
  const { text, etag } = current(eventOf(operation), texts);
  const marked = eventOf(operation).read?.mark ?? null;
  // Another lane's mark stays: the event is that lane's making.
  const mark = marked === null || marked.lane === context.lane ? { lane: context.lane, pair: operation.pair.id } : undefined;
  await sides.calendars.change(eventOf(operation).href, etag, editEvent(text, operation.eventEdits, { ...writing(context), mark }), signal);
}

async function remove(
  operation: OperationOf<'remove'>,
  texts: Map<string, StoredEvent | null>,
  { context, sides, signal }: WriteOptions,
): Promise<Outcome> {
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

/** What an operation that writes to an event, or to a record, was planned for. */
const eventOf = ({ event, kind }: Operation) => certain(event, `"${kind}" is planned for an event that is there`);
const recordOf = ({ record, kind }: Operation) => certain(record, `"${kind}" is planned for a record that is there`);
