import type { EventRead } from '../ical/event-text.ts';
import type { Link } from '../lane/links.ts';
import { type EventValues, guestsAfter, type MappedValues, type PropertyName, type PropertyValue, propertyNames } from '../maps/properties.ts';
import type { RecordItem } from '../record/fields.ts';
import { spanOf, type When } from '../time/when.ts';
import { type LaneContext, linkContext } from './context.ts';
import { showAll } from './judge.ts';
import type { Baseline, LinkValues } from './pair.ts';

const squeeze = (text: string) =>
  text
    .replace(/[\s\\]+/g, ' ')
    .trim()
    .toLowerCase();

/**
 * Could a server have made `stored` out of `written` by itself: trimmed, cut short, folded in case, re-escaped, left out
 * as a default, or said the same instants in another zone?
 */
function couldBeRewriting(name: PropertyName, written: PropertyValue, stored: PropertyValue, { zone, zones }: LaneContext): boolean {
  if (stored === null || stored === undefined) return true;
  // A value of its own, as servers give reminders or colours: but no title, no time and no rule.
  if (written === null || written === undefined) return name !== 'title' && name !== 'when' && name !== 'recurrence';
  if (name === 'when') return JSON.stringify(spanOf(written as When, zone, zones)) === JSON.stringify(spanOf(stored as When, zone, zones));
  const words = (v: PropertyValue) =>
    squeeze(
      [v]
        .flat()
        .map((x) => (x !== null && typeof x === 'object' && 'email' in x ? x.email : String(x)))
        .join(' ')
        .replace(/,/g, ' '),
    );
  return words(written).startsWith(words(stored)) || words(stored) === words(written);
}

/** Is something that was written not there at all? */
const lacks = (written: PropertyValue, stored: PropertyValue): boolean =>
  Array.isArray(written) ? written.length > [stored ?? []].flat().length : written !== null && stored === null;

/** What an operation was meant to leave behind on both sides. */
export interface Intended {
  /** the record as it was planned from, and as it should be */
  planned: RecordItem | null;
  record: RecordItem;
  /** the event as it was planned from, and what was written in it */
  eventBefore: EventValues;
  eventEdits: MappedValues;
  settled: readonly string[];
  /** it may have been written by an earlier attempt: what is there now need not be what a system made of our writing */
  again: boolean;
}

/** Both sides as they are after it; null: gone already, or not looked at. */
export interface Stored {
  record: RecordItem | null;
  event: EventValues | null;
}

/** What a pair agreed on before, what an operation was meant to leave, and what was read back after it. */
export interface Written {
  before: Baseline | null;
  intended: Intended;
  stored: Stored;
}

/**
 * The new baseline: for every link on which the sides now agree, both values as they were read back. What a system may
 * have rewritten of what we wrote counts as agreed. What it cannot have made of it is somebody's edit that came in
 * between (some servers let two simultaneous writers both succeed): there the value we meant stays the baseline, so
 * that the next run sees the edit.
 *
 * @returns also what the calendar did not keep of our writing. Whether it never does so, or somebody took just that away
 *   before we looked, is unknown; written again it could undo an edit, and taken for an edit it could empty the record
 */
export function newBaseline(
  links: readonly Link[],
  { before, intended, stored }: Written,
  context: LaneContext,
): { baseline: Baseline; foreign: string[]; unkept: string[]; failed: string[] } {
  const at = linkContext(context);
  const baseline: Baseline = { ...before, record: { ...before?.record }, event: { ...before?.event } };
  const foreign: string[] = [];
  const unkept: string[] = [];
  const meant = showAll(links, intended.record, context).values;
  // Most writings change one side only: a record that was left alone says what it said.
  const shownBy = (record: RecordItem | null) =>
    record === null || record.fields === intended.record.fields ? meant : showAll(links, record, context).values;
  const plannedFrom = shownBy(intended.planned);
  const found = shownBy(stored.record);
  const rewriting = (name: PropertyName, a: PropertyValue, b: PropertyValue) => couldBeRewriting(name, a, b, context);
  const unwritten = new Map((stored.record?.unwritten ?? []).map((u) => [u.field, u.reason]));
  const failed: string[] = [];
  for (const link of links) {
    const { key, property, direction, same } = link;
    if (direction === 'once') continue;
    const reason = link.targets.map((t) => unwritten.get(t)).find((r) => r !== undefined);
    if (reason !== undefined) {
      failed.push(`${key} could not be written, and is tried again: ${reason}`);
      continue;
    }
    const wrote = property in intended.eventEdits;
    const expected = expectedOf(property, intended);
    const there = stored.event === null ? expected : stored.event[property];
    const edited = !link.sameOnEvent(expected, there, at) && !(wrote && !intended.again && rewriting(property, expected, there));
    const [mine, now] = [meant[key] ?? null, found[key] ?? null];
    const touched = intended.planned === null || !same(plannedFrom[key] ?? null, mine, at);
    const moved = !same(mine, now, at) && !(touched && !intended.again && rewriting(property, mine, now));
    if (edited || moved) foreign.push(key);
    if (wrote && !edited && lacks(expected, there)) unkept.push(key);
    if (!intended.settled.includes(key)) {
      // What we wrote there is not an edit that another map of the property could carry back.
      if (wrote && !edited && key in baseline.event) baseline.event[key] = there;
      continue;
    }
    baseline.event[key] = edited ? expected : there;
    baseline.record[key] = moved ? mine : now;
  }
  // Whether it was cancelled then: without it, a later cancellation would go unnoticed.
  if (!links.some((l) => l.key === 'status')) baseline.event['status'] = (stored.event ?? intended.eventBefore).status;
  return { baseline, foreign, unkept, failed };
}

/** What should stand on the event: what was written, or what was there; guests who stay keep their reply. */
function expectedOf(property: PropertyName, { eventBefore, eventEdits }: Intended): PropertyValue {
  if (property in eventEdits) return eventEdits[property] ?? null;
  if (property === 'replies' && eventEdits.attendees !== undefined) return guestsAfter(eventBefore.replies, eventEdits.attendees);
  return eventBefore[property] ?? null;
}

/** The baseline with the stamps that both sides bore when they were last seen; a side that was not read keeps its own. */
export function withSeen(
  baseline: Baseline,
  record: RecordItem | null,
  event: Pick<EventRead, 'modified' | 'repeating' | 'values'> | null,
): Baseline {
  const stamps = { record: record?.modified ?? baseline.stamps?.record ?? null, event: event?.modified ?? baseline.stamps?.event ?? null };
  if (event === null) return { ...baseline, stamps };
  const { organizer: _by, recurrence: _rule, ...rest } = baseline;
  const { organizer, recurrence } = event.values;
  return {
    ...rest,
    stamps,
    repeating: event.repeating,
    ...(recurrence === null ? {} : { recurrence }),
    ...(organizer === null ? {} : { organizer: organizer.email }),
  };
}

/** The part of an event that a baseline speaks of. */
export function mappedPart(event: EventValues, mapped: LinkValues): LinkValues {
  return Object.fromEntries(propertyNames.filter((p) => mapped[p] !== undefined).map((p) => [p, event[p]]));
}

/** The event's values as far as a baseline knows them: what an unchanged ETag stands for. */
export function valuesAt(baseline: Baseline, nothing: EventValues): EventValues {
  const known: Partial<Record<PropertyName, PropertyValue>> = {};
  // A further map of the property may be of an earlier version of the lane, and out of date: the first one has the last word.
  const further = (key: string) => Number(key.includes('>'));
  for (const [key, value] of Object.entries(baseline.event).sort(([a], [b]) => further(b) - further(a)))
    known[key.split('>')[0] as PropertyName] = value;
  return { ...nothing, ...known } as EventValues;
}
