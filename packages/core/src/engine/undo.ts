import type { MappedValues, PropertyName } from '../maps/properties.ts';
import { canonical, type FieldValues, type RecordItem } from '../record/fields.ts';
import type { Change } from './change.ts';
import type { EventView, LaneContext, ReadEvent } from './context.ts';
import { linkContext } from './context.ts';
import { judgeEvent, judgeRecord, momentLinks, showAll } from './judge.ts';
import { momentOfEvents } from './make-record.ts';

import { type Operation, operation } from './operation.ts';
import { type Pair, step } from './pair.ts';

/** What the journal says of one thing that was done. */
export interface Done {
  kind: string;
  changes: Change[];
  removed: string | null;
}

/** All that is known about one pair whose changes are to be taken back. */
export interface UndoCase {
  /** newest first */
  done: Done[];
  pair: Pair;
  record: RecordItem | null;
  event: EventView | null;
  /** somebody, or another run, has written it since */
  writtenSince: boolean;
  /** the lane was never started: what was tried belongs to its first run all the same */
  trial: boolean;
}

export type Undone = { operation: Operation } | { reason: string };

/**
 * Takes back what was done to one pair, where neither side was edited since; otherwise says why not. What is undone
 * stays so: the sides as they then stand are what was agreed on, and no later run takes them apart again by itself.
 */
export function planUndo(context: LaneContext, at: UndoCase, cause: string): Undone {
  const { done, pair, record, event } = at;
  if (at.writtenSince) return { reason: 'it was changed again by a later run' };
  const made = done.find((d) => d.kind === 'create' || d.kind === 'create record');
  const removed = done.find((d) => d.kind === 'remove' || d.kind === 'remove record');
  if (removed !== undefined) return made === undefined ? restore(context, at, removed, cause) : { reason: 'it was made and removed in the same run' };
  if (done.some((d) => d.kind === 'attempt')) return { reason: 'it is not known whether it was done' };
  if (record === null || event?.read == null) return { reason: `its ${record === null ? 'record' : 'event'} is gone` };
  const read: ReadEvent = { ...event, read: event.read };
  const edited = editedSide(context, pair, record, read);
  if (edited !== null) return { reason: pair.state === 'held' ? 'a question about it waits: answer that first' : `its ${edited} was edited since` };
  if (made !== undefined) {
    const undone = { ...pair, state: step(pair.state, at.trial ? 'removed' : 'unlinked') };
    return { operation: operation(made.kind === 'create' ? 'remove' : 'remove record', undone, cause, { record, event }) };
  }
  return takeBack(context, { ...at, record, event: read }, cause);
}

/** Which side differs from what both last agreed on? */
function editedSide(context: LaneContext, pair: Pair, record: RecordItem, event: ReadEvent): 'record' | 'event' | null {
  const { baseline } = pair;
  if (baseline === null) return null;
  const moment = context.definition.moments.find((m) => m.name === pair.moment) ?? momentOfEvents(context);
  const links = momentLinks(context, moment).filter((l) => l.key in baseline.record);
  const shown = showAll(links, record, context).values;
  if (links.some((l) => !l.same(shown[l.key] ?? null, baseline.record[l.key] ?? null, linkContext(context)))) return 'record';
  return links.some((l) => !l.sameOnEvent(event.read.values[l.property], baseline.event[l.key], context)) ? 'event' : null;
}

/** The oldest value before, for everything that was written. */
function takeBack(context: LaneContext, at: UndoCase & { record: RecordItem; event: ReadEvent }, cause: string): Undone {
  const { record, event } = at;
  const recordEdits: FieldValues = {};
  const eventEdits: Record<string, unknown> = {};
  for (const { changes } of at.done) {
    for (const { side, property, before, seen } of changes) {
      if (seen === true) continue;
      if (side === 'record') recordEdits[property] = before as FieldValues[string];
      else eventEdits[property] = before;
    }
  }
  // An event cannot be without a time.
  if (eventEdits['when'] === null) delete eventEdits['when'];
  const { values } = event.read;
  const changes: Change[] = [
    ...Object.entries(recordEdits).map(
      ([property, after]): Change => ({ side: 'record', property, before: record.fields[property] ?? null, after, cause }),
    ),
    ...Object.entries(eventEdits).map(
      ([property, after]): Change => ({ side: 'event', property, before: values[property as PropertyName], after: after as Change['after'], cause }),
    ),
  ].filter((c) => canonical(c.before) !== canonical(c.after));
  if (changes.length === 0) return { reason: 'nothing was written that could be taken back' };
  const only = <T extends object>(edits: T, side: Change['side']): T =>
    Object.fromEntries(Object.entries(edits).filter(([property]) => changes.some((c) => c.side === side && c.property === property))) as T;
  const moment = context.definition.moments.find((m) => m.name === at.pair.moment) ?? momentOfEvents(context);
  const settled = momentLinks(context, moment)
    .filter((l) => l.direction !== 'once')
    .map((l) => l.key);
  const pair = { ...at.pair, state: at.pair.state === 'unlinked' ? at.pair.state : step(at.pair.state, 'in sync') };
  return {
    operation: operation('change', pair, cause, {
      record,
      event,
      changes,
      recordEdits: only(recordEdits, 'record'),
      eventEdits: only(eventEdits as MappedValues, 'event'),
      settled,
    }),
  };
}

/** Puts back what was taken away, whole. It is followed again if it belongs by the rules that hold now. */
function restore(context: LaneContext, at: UndoCase, removed: Done, cause: string): Undone {
  const { pair, record, event } = at;
  if (removed.removed === null) return { reason: 'it was gone already when it was removed' };
  const moment = context.definition.moments.find((m) => m.name === pair.moment) ?? momentOfEvents(context);
  const links = momentLinks(context, moment);
  const settled = links.filter((l) => l.direction !== 'once').map((l) => l.key);
  if (removed.kind === 'remove') {
    if (event !== null) return { reason: 'there is an event again' };
    const belongs = record !== null && judgeRecord(context, record, moment, showAll(links, record, context)) === null;
    const back: Pair = { ...pair, state: step(pair.state, belongs ? 'in sync' : 'unlinked'), baseline: null };
    return {
      operation: operation('create', back, cause, {
        record,
        event: null,
        changes: removed.changes.map(turned(cause)),
        settled,
        restore: removed.removed,
      }),
    };
  }
  if (record !== null) return { reason: 'there is a record again' };
  const old = JSON.parse(removed.removed) as RecordItem;
  const writable = new Set(context.collection.fields.filter((f) => f.readOnly !== true).map((f) => f.name));
  const recordEdits = Object.fromEntries(Object.entries(old.fields).filter(([name, value]) => writable.has(name) && value !== null));
  // Its event was not followed any more: where it stands has to be known again, or it would be made once more.
  const href = event?.href ?? pair.href;
  const belongs = event?.read != null && judgeEvent(context, event as ReadEvent, true) === null;
  const back: Pair = { ...pair, recordId: null, href, state: step(pair.state, belongs ? 'in sync' : 'unlinked'), baseline: null };
  return {
    operation: operation('create record', back, cause, {
      record: null,
      event,
      changes: removed.changes.map(turned(cause)),
      recordEdits,
      settled,
      restore: removed.removed,
    }),
  };
}

const turned =
  (cause: string) =>
  (c: Change): Change => ({ ...c, before: c.after, after: c.before, cause });
