import { expandSeries, type Window } from '../recurrence/expand.ts';
import { parseRule } from '../recurrence/rule.ts';
import { spanOf, type When } from '../time/when.ts';
import { parseInstant, toInstant, UTC, type Zone, type ZoneTable } from '../time/zones.ts';
import { isBusyEvent, isPrivateComponent } from './busy.ts';
import { type Component, type Line, lineOf, parseComponents, UnreadableEvent } from './content.ts';
import { expand } from './dates.ts';
import { lengthOf, readClock, readWhen } from './event-times.ts';

/** Why a text cannot be stored, in the words of RFC 4791, 5.3.2.1. */
export type Precondition =
  | 'valid-calendar-data'
  | 'valid-calendar-object-resource'
  | 'supported-calendar-component'
  | 'max-resource-size'
  | 'max-attendees-per-instance';

export class UnstorableObject extends Error {
  override name = 'UnstorableObject';
  readonly precondition: Precondition;

  constructor(precondition: Precondition, message: string) {
    super(message);
    this.precondition = precondition;
  }
}

/** A calendar object as a calendar has to know it. */
export interface CalendarObject {
  uid: string;
  component: 'VEVENT' | 'VTODO';
  /** seconds since 1970 that cover every occurrence; null: not known, or without an end. Days and floating times are widened by all zones */
  starts: number | null;
  ends: number | null;
  /** one of its components is private or confidential */
  isPrivate: boolean;
  /** one of its components takes time */
  isBusy: boolean;
}

export const objectLimits = { octets: 1_000_000, attendees: 2000, uid: 1000 };

/** No zone is further from UTC. */
const WIDEST_OFFSET = 15 * 3600;
/** Occurrences of a series with an end that are looked at for its end. */
const MOST_LOOKED_AT = 5000;
const FAR = 200 * 366 * 86_400;
const octets = new TextEncoder();

/**
 * Checks the text of a calendar object before it is stored: one VCALENDAR without METHOD, one UID, components of one kind,
 * at most one without RECURRENCE-ID (RFC 4791, 4.1), times and rules that can be read.
 * @throws UnstorableObject naming the precondition that it violates
 */
export function readCalendarObject(text: string, zones: ZoneTable): CalendarObject {
  const size = octets.encode(text).length;
  if (size > objectLimits.octets)
    throw new UnstorableObject('max-resource-size', `the object has ${size} octets; at most ${objectLimits.octets} are stored`);
  // XML 1.0 has no way to carry these (2.2), and they end no line of iCalendar.
  const odd = /(?![\t\r\n\u0080-\u009f])\p{Cc}|[\uFFFE\uFFFF]|\p{Surrogate}/u.exec(text);
  if (odd !== null)
    throw new UnstorableObject('valid-calendar-data', `it has the control character U+${odd[0].charCodeAt(0).toString(16).padStart(4, '0')}`);
  const roots = asValid(() => parseComponents(text));
  const [root] = roots;
  if (roots.length !== 1 || root?.name !== 'VCALENDAR') throw new UnstorableObject('valid-calendar-data', 'it is not one VCALENDAR');
  const wrong = (reason: string) => new UnstorableObject('valid-calendar-object-resource', reason);
  if (lineOf(root, 'METHOD') !== undefined) throw wrong('it has a METHOD: it is a message, not an event of a calendar');
  const parts = root.components.filter((c) => c.name !== 'VTIMEZONE');
  const [first] = parts;
  if (first === undefined) throw wrong('it holds no event or task');
  const unknown = parts.find((c) => c.name !== 'VEVENT' && c.name !== 'VTODO');
  if (unknown !== undefined) throw new UnstorableObject('supported-calendar-component', `${unknown.name} is not kept here; VEVENT and VTODO are`);
  if (parts.some((c) => c.name !== first.name)) throw wrong('it holds events and tasks together');
  const uid = lineOf(first, 'UID')?.value.trim() ?? '';
  if (uid === '') throw wrong('it has no UID');
  if (octets.encode(uid).length > objectLimits.uid) throw wrong(`its UID has more than ${objectLimits.uid} octets`);
  if (parts.some((c) => lineOf(c, 'UID')?.value.trim() !== uid)) throw wrong('its components have different UIDs');
  const ids = parts.map((c) => lineOf(c, 'RECURRENCE-ID')?.value.trim() ?? '');
  if (new Set(ids).size !== ids.length) throw wrong('two of its components speak of the same occurrence');
  for (const part of parts) {
    const guests = part.lines.filter((l) => l.name === 'ATTENDEE').length;
    if (guests > objectLimits.attendees)
      throw new UnstorableObject('max-attendees-per-instance', `it has ${guests} attendees; at most ${objectLimits.attendees} are stored`);
  }
  const component = first.name === 'VEVENT' ? 'VEVENT' : 'VTODO';
  const isPrivate = parts.some(isPrivateComponent);
  const isBusy = component === 'VEVENT' && parts.some(isBusyEvent);
  return {
    uid,
    component,
    isPrivate,
    isBusy,
    ...asValid(() => (component === 'VEVENT' ? spanOfEvents(parts, roots, zones) : checkTasks(parts, roots, zones))),
  };
}

function asValid<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof UnreadableEvent) throw new UnstorableObject('valid-calendar-data', error.message);
    throw error;
  }
}

const isFloating = (when: When): boolean => when.kind === 'all-day' || when.zone === null;

/** The seconds since 1970 that cover every occurrence of the events of one object; reads every date of it. @throws UnreadableEvent */
export function spanOfEvents(events: readonly Component[], roots: Component[], zones: ZoneTable): { starts: number; ends: number | null } {
  const rules = events.flatMap((e) => e.lines.filter((l) => l.name === 'RRULE').map((l) => parseRule(l.value)));
  const times = events.map((e) => readWhen(e, roots, zones));
  const spans = times.map((when) => spanOf(when, UTC, zones));
  let starts = Math.min(...spans.map((s) => s.from));
  let ends: number | null = Math.max(...spans.map((s) => s.until));
  const repeats = rules.length > 0 || events.some((e) => lineOf(e, 'RDATE') !== undefined);
  if (repeats) {
    // Reads every date of the series, whether it has an end or not.
    const finite = rules.every((r) => r.until !== null || r.count !== null);
    const until = finite ? starts + FAR : starts + 1;
    try {
      const all = expandSeries(events, roots, { from: starts - FAR, until, home: UTC, most: MOST_LOOKED_AT }, zones);
      starts = Math.min(starts, ...all.slice(0, 1).map((o) => o.from));
      ends = finite ? Math.max(ends, ...all.map((o) => o.until)) : null;
    } catch (error) {
      if (!(error instanceof UnreadableEvent) || !/more than \d+ occurrences/.test(error.message)) throw error;
      ends = null;
    }
  }
  const slack = times.some(isFloating) ? WIDEST_OFFSET : 0;
  return { starts: starts - slack, ends: ends === null ? null : ends + slack };
}

/** The dates of a task can be read; which of them counts when, a query says. */
function checkTasks(tasks: readonly Component[], roots: Component[], zones: ZoneTable): { starts: null; ends: null } {
  for (const task of tasks) {
    for (const name of ['DTSTART', 'DUE', 'COMPLETED', 'CREATED']) instantOf(lineOf(task, name), roots, zones, UTC);
    for (const line of task.lines) if (line.name === 'RRULE') parseRule(line.value);
  }
  return { starts: null, ends: null };
}

/** When a date or date-time is, in seconds since 1970; days and floating times on the clock of `home`. */
export function instantOf(line: Line | undefined, roots: Component[], zones: ZoneTable, home: Zone): number | null {
  if (line === undefined) return null;
  if (/^\d{8}$/.test(line.value.trim())) return toInstant(`${expand(line.value)}T00:00:00`, home).instant;
  const { local, zone } = readClock(line, roots, zones);
  return toInstant(local, zone ?? home).instant;
}

/**
 * Does a task count in a span (RFC 4791, 9.9, the table for VTODO)? @param from, until seconds since 1970
 */
export function taskTouches(task: Component, roots: Component[], { from, until, home }: Window, zones: ZoneTable): boolean {
  const at = (name: string) => instantOf(lineOf(task, name), roots, zones, home);
  const [start, due, completed, created] = [at('DTSTART'), at('DUE'), at('COMPLETED'), at('CREATED')];
  const length = lineOf(task, 'DURATION')?.value;
  if (start !== null && length !== undefined) {
    const { days, seconds } = lengthOf(length);
    const end = start + days * 86_400 + seconds;
    return from <= end && (until > start || until >= end);
  }
  if (start !== null && due !== null) return (from < due || from <= start) && (until > start || until >= due);
  if (start !== null) return from <= start && until > start;
  if (due !== null) return from < due && until >= due;
  if (completed !== null && created !== null) return (from <= created || from <= completed) && (until >= created || until >= completed);
  if (completed !== null) return from <= completed && until >= completed;
  return created === null || until > created;
}

/** `20261201T090000Z` in seconds since 1970; null for what is no UTC date-time */
export function utcSeconds(text: string): number | null {
  if (!/^\d{8}T\d{6}Z$/.test(text)) return null;
  try {
    return parseInstant(expand(text));
  } catch {
    return null;
  }
}
