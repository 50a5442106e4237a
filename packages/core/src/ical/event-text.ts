import { certain } from '../certain.ts';
import type { EventValues, MappedValues, PropertyName } from '../maps/properties.ts';
import { belongsToOrganizer } from '../maps/property-names.ts';
import { dropOverrides, moveSeries } from '../recurrence/move-series.ts';
import { readRecurrence, writeRecurrence } from '../recurrence/recurrence.ts';
import { isDefinedZone } from '../time/defined-zone.ts';
import { spanOf, type When } from '../time/when.ts';
import { formatInstant, parseInstant, UTC, type ZoneTable } from '../time/zones.ts';
import { visibilityOf } from './busy.ts';
import {
  type Component,
  escapeText,
  knownLine,
  type Line,
  lineOf,
  parseComponents,
  setLine,
  splitText,
  UnreadableEvent,
  unescapeText,
  writeComponents,
} from './content.ts';
import { compact, expand } from './dates.ts';
import { readWhen } from './event-times.ts';
import { readAttendees, readOrganizer, readReminders, writeAttendees, writeOrganizer, writeReminders, writeReplies } from './people-and-reminders.ts';
import { definedZoneName, exactLocal, zoneOfComponent } from './read-timezone.ts';
import { timezoneComponent } from './timezone.ts';

/** Which lane and pair an event was made for. Plain values: some servers cut or escape others. */
export interface Mark {
  lane: string;
  pair: string;
}

/** An event as it is stored, read as far as Monsoon understands it. */
export interface EventRead {
  uid: string;
  values: EventValues;
  mark: Mark | null;
  repeating: boolean;
  /** its recurrence rules, as written; none where it only has added dates, or where the event was not read again */
  rules: string[];
  /** which occurrence of a series it is; null: a single event, or a series as a whole */
  occurrence: OccurrenceFacts | null;
  /** RFC 3339; when its server or client says it was last changed */
  modified: string | null;
  /** RFC 3339 */
  created: string | null;
  /** RFC 3339; its DTSTAMP: of stored events, when they were last revised (RFC 5545, 3.8.7.2) */
  stamped: string | null;
  /** how often its organizer revised it (RFC 5545, 3.8.7.4) */
  sequence: number;
}

/** What is known of one occurrence of a series. */
export interface OccurrenceFacts {
  /** its original start: `20261201`, `20261201T090000Z`, or `20261201T090000` */
  id: string;
  /** of its series, as written */
  rules: string[];
  /** written otherwise than its series */
  isOverride: boolean;
}

/** Longest UID that is read, in bytes: it is stored and indexed. Writers keep to 255 (RFC 7986, 5.3). */
const LONGEST_UID = 1000;
const octets = new TextEncoder();

const MARK_LANE = 'X-MONSOON-LANE';
const MARK_PAIR = 'X-MONSOON-PAIR';

/**
 * Reads the text of one calendar object (RFC 4791, 4.1): one UID; the values are those of the event itself, not of
 * its overridden occurrences.
 * @throws UnreadableEvent when there is no event or no usable time in it
 */
export function readEvent(text: string, zones: ZoneTable): EventRead {
  const roots = parseComponents(text);
  const event = masterOf(roots);
  const uid = lineOf(event, 'UID')?.value.trim();
  if (!uid) throw new UnreadableEvent('the event has no UID');
  if (octets.encode(uid).length > LONGEST_UID || /\p{Cc}|\p{Surrogate}/u.test(uid))
    throw new UnreadableEvent(`its UID has ${octets.encode(uid).length} bytes; at most ${LONGEST_UID} are stored, without control characters`);
  const lane = lineOf(event, MARK_LANE)?.value;
  const pair = lineOf(event, MARK_PAIR)?.value;
  const guests = readAttendees(event);
  const stamp = (name: string) => {
    const value = lineOf(event, name)?.value;
    return value !== undefined && /^\d{8}T\d{6}Z$/.test(value) ? expand(value) : null;
  };
  return {
    uid,
    mark: lane !== undefined && pair !== undefined ? { lane, pair } : null,
    repeating: lineOf(event, 'RRULE') !== undefined || lineOf(event, 'RDATE') !== undefined,
    rules: event.lines.filter((l) => l.name === 'RRULE').map((l) => l.value),
    occurrence: null,
    modified: stamp('LAST-MODIFIED'),
    created: stamp('CREATED'),
    stamped: stamp('DTSTAMP'),
    sequence: Number.parseInt(lineOf(event, 'SEQUENCE')?.value ?? '0', 10) || 0,
    values: {
      title: textOf(event, 'SUMMARY'),
      description: textOf(event, 'DESCRIPTION'),
      location: textOf(event, 'LOCATION'),
      when: readWhen(event, roots, zones),
      recurrence: readRecurrence(event, { roots, zones }),
      status: word(event, 'STATUS', { TENTATIVE: 'tentative', CONFIRMED: 'confirmed', CANCELLED: 'cancelled' }),
      busy: word(event, 'TRANSP', { OPAQUE: 'busy', TRANSPARENT: 'free' }),
      visibility: visibilityOf(event),
      categories: readCategories(event),
      link: lineOf(event, 'URL')?.value || null,
      conference: lineOf(event, 'CONFERENCE')?.value || null,
      colour: textOf(event, 'COLOR'),
      attendees: guests,
      replies: guests,
      ownReply: null,
      organizer: readOrganizer(event),
      reminders: readReminders(event),
    },
  };
}

/** The event with what the owner of its calendar replied. @param owner their addresses, in small letters */
export function withOwnReply(read: EventRead, owner: ReadonlySet<string> | undefined): EventRead {
  const own = owner === undefined || owner.size === 0 ? undefined : read.values.attendees?.find((a) => owner.has(a.email.toLowerCase()));
  return own === undefined ? read : { ...read, values: { ...read.values, ownReply: own.response ?? 'needs action' } };
}

function masterOf(roots: Component[]): Component {
  const events = roots.flatMap((r) => (r.name === 'VCALENDAR' ? r.components : [r])).filter((c) => c.name === 'VEVENT');
  const master = events.find((e) => lineOf(e, 'RECURRENCE-ID') === undefined) ?? events[0];
  if (master === undefined) throw new UnreadableEvent('there is no VEVENT in the text');
  return master;
}

export const textOf = (event: Component, name: string): string | null => {
  const line = lineOf(event, name);
  return line === undefined || line.value === '' ? null : unescapeText(line.value);
};

function word<T extends string>(event: Component, name: string, words: Record<string, T>): T | null {
  return words[lineOf(event, name)?.value.trim().toUpperCase() ?? ''] ?? null;
}

export function readCategories(event: Component): string[] | null {
  const words = event.lines
    .filter((l) => l.name === 'CATEGORIES')
    .flatMap((l) => splitText(l.value))
    .filter((w) => w !== '');
  return words.length > 0 ? [...new Set(words)] : null;
}

export interface EditContext {
  zones: ZoneTable;
  /** RFC 3339, UTC: goes into DTSTAMP and LAST-MODIFIED */
  now: string;
  /** the calendar server invites guests who are added (RFC 6638) */
  scheduled?: boolean | undefined;
  /** in small letters: the addresses of the calendar's owner, who may be a guest */
  owner?: ReadonlySet<string> | undefined;
}

/** The text of a new event. */
export function makeEvent(uid: string, values: MappedValues, mark: Mark, context: EditContext): string {
  const line = (name: string, value: string): Line => ({ name, params: [], value, source: null });
  const event: Component = { name: 'VEVENT', lines: [line('UID', uid), line('DTSTAMP', compactInstant(context.now))], components: [] };
  const calendar: Component = { name: 'VCALENDAR', lines: [line('VERSION', '2.0'), line('PRODID', '-//Monsoon//Monsoon//EN')], components: [event] };
  edit(calendar, event, values, context);
  event.lines.push(line('SEQUENCE', '0'), line(MARK_LANE, mark.lane), line(MARK_PAIR, mark.pair));
  return writeComponents([calendar]);
}

/**
 * Changes the given properties in an event's stored text and leaves every other property, parameter and component,
 * known or not, as it was.
 * @throws UnreadableEvent when the text cannot be read
 */
export function editEvent(text: string, changes: MappedValues, context: EditContext & { mark?: Mark | undefined }): string {
  const roots = parseComponents(text);
  const event = masterOf(roots);
  const calendar = roots.find((r) => r.components.includes(event)) ?? event;
  edit(calendar, event, changes, context);
  // A message that somebody laid into the calendar as it came: what is stored bears none (RFC 4791, 4.1).
  setLine(calendar, 'METHOD', null);
  const plain = (value: string) => ({ params: [], value });
  if (context.mark !== undefined) {
    setLine(event, MARK_LANE, plain(context.mark.lane));
    setLine(event, MARK_PAIR, plain(context.mark.pair));
  }
  setLine(event, 'DTSTAMP', plain(compactInstant(context.now)));
  setLine(event, 'LAST-MODIFIED', plain(compactInstant(context.now)));
  // What is the owner's alone makes no other version of it: those are the organizer's (RFC 5546, 2.1.4).
  if (Object.keys(changes).some((property) => belongsToOrganizer(property as PropertyName)))
    setLine(event, 'SEQUENCE', plain(String(Number.parseInt(lineOf(event, 'SEQUENCE')?.value ?? '0', 10) + 1 || 1)));
  return writeComponents(roots);
}

const compactInstant = (now: string) => compact(formatInstant(parseInstant(now)));

const lineNames: Record<Exclude<PropertyName, 'when' | 'recurrence' | 'attendees' | 'replies' | 'ownReply' | 'organizer' | 'reminders'>, string> = {
  title: 'SUMMARY',
  description: 'DESCRIPTION',
  location: 'LOCATION',
  status: 'STATUS',
  busy: 'TRANSP',
  visibility: 'CLASS',
  categories: 'CATEGORIES',
  link: 'URL',
  conference: 'CONFERENCE',
  colour: 'COLOR',
};
const transparency: Record<string, string> = { busy: 'OPAQUE', free: 'TRANSPARENT' };

function edit(calendar: Component, event: Component, changes: MappedValues, context: EditContext): void {
  if (changes.when) {
    const before = lineOf(event, 'DTSTART') === undefined ? null : readWhen(event, [calendar], context.zones);
    setWhen(calendar, event, changes.when, context.zones);
    if (before !== null) moveSeries({ calendar, event }, before, changes.when, context.zones);
  }
  if (changes.recurrence !== undefined) {
    writeRecurrence(event, changes.recurrence, { roots: [calendar], zones: context.zones });
    if (changes.recurrence === null) dropOverrides(calendar, event);
  }
  if (changes.organizer !== undefined) writeOrganizer(event, changes.organizer);
  if (changes.attendees !== undefined) writeAttendees(event, changes.attendees ?? [], context.scheduled);
  if (changes.replies !== undefined) writeReplies(event, changes.replies ?? []);
  if (changes.ownReply !== undefined) {
    const own = (readAttendees(event) ?? []).filter((a) => context.owner?.has(a.email.toLowerCase()));
    writeReplies(
      event,
      own.map((a) => ({ ...a, response: changes.ownReply ?? 'needs action' })),
    );
  }
  for (const property of Object.keys(lineNames) as (keyof typeof lineNames)[]) {
    const value = changes[property];
    if (value === undefined) continue;
    const name = lineNames[property];
    const params = lineOf(event, name)?.params ?? (property === 'conference' ? [{ name: 'VALUE', values: ['URI'] }] : []);
    setLine(event, name, value === null ? null : { params, value: written(property, value) });
  }
  // They say the title, and go to the guests, that the event has now.
  if (changes.reminders !== undefined) writeReminders(event, changes.reminders ?? []);
}

function written(property: keyof typeof lineNames, value: string | string[]): string {
  if (Array.isArray(value)) return value.map(escapeText).join(',');
  if (property === 'busy') return certain(transparency[value], 'busy is one of the known values');
  if (property === 'status' || property === 'visibility') return value.toUpperCase();
  return property === 'link' || property === 'conference' ? value.replace(/\s/g, '%20') : escapeText(value);
}

/** A zone that only this text defines goes by the text's own name for it; in a text that does not define it, UTC says the same instants. */
function inOwnZone(calendar: Component, when: When & { kind: 'timed'; zone: string }, zones: ZoneTable): { when: When; tzid: string | null } {
  const { from, until } = spanOf(when, UTC, zones);
  const definition = calendar.components.find((c) => c.name === 'VTIMEZONE' && definedZoneName(c, when.start) === when.zone);
  const zone = definition === undefined ? null : zoneOfComponent(definition);
  const [start, end] = zone === null ? [null, null] : [exactLocal(from, zone), exactLocal(until, zone)];
  if (definition === undefined || start === null || end === null) {
    const [utcStart, utcEnd] = [formatInstant(from).slice(0, -1), formatInstant(until).slice(0, -1)];
    return { when: { kind: 'timed', start: utcStart, end: utcEnd, zone: 'UTC' }, tzid: null };
  }
  const tzid = knownLine(definition, 'TZID').value;
  return { when: { kind: 'timed', start, end, zone: tzid }, tzid };
}

function setWhen(calendar: Component, event: Component, given: When, zones: ZoneTable): void {
  const zone = given.kind === 'timed' && given.zone !== null && isDefinedZone(given.zone) ? given.zone : null;
  const { when, tzid } = given.kind === 'timed' && zone !== null ? inOwnZone(calendar, { ...given, zone }, zones) : { when: given, tzid: null };
  for (const [name, value] of when.kind === 'all-day'
    ? ([
        ['DTSTART', when.first],
        ['DTEND', when.end],
      ] as const)
    : ([
        ['DTSTART', when.start],
        ['DTEND', when.end],
      ] as const)) {
    const kept = (lineOf(event, name)?.params ?? []).filter((p) => p.name !== 'VALUE' && p.name !== 'TZID');
    if (when.kind === 'all-day') setLine(event, name, { params: [...kept, { name: 'VALUE', values: ['DATE'] }], value: compact(value) });
    else if (when.zone === 'UTC') setLine(event, name, { params: kept, value: `${compact(value)}Z` });
    else setLine(event, name, { params: when.zone === null ? kept : [...kept, { name: 'TZID', values: [when.zone] }], value: compact(value) });
  }
  setLine(event, 'DURATION', null);
  // An end must lie after the start (RFC 5545, 3.8.2.2); an event of no length has none.
  if (when.kind === 'timed' && when.end === when.start) setLine(event, 'DTEND', null);
  if (tzid === null && calendar !== event && when.kind === 'timed' && when.zone !== null && when.zone !== 'UTC')
    defineZone(calendar, { ...when, zone: when.zone }, zones);
}

/** Makes the text define the zone it names (RFC 5545, 3.2.19), in place of an older definition of the same zone. */
function defineZone(calendar: Component, when: When & { kind: 'timed'; zone: string }, zones: ZoneTable): void {
  const zone = zones.find(when.zone);
  if (zone === undefined) return;
  const { from, until } = spanOf(when, UTC, zones);
  const names = (c: Component) => c.name === 'VTIMEZONE' && lineOf(c, 'TZID')?.value === when.zone;
  const used = calendar.components.some((c) => c.name === 'VEVENT' && lineOf(c, 'RRULE') !== undefined);
  // A repeating event may need changes of the clock that a short list would not name: its own definition stays.
  if (used && calendar.components.some(names)) return;
  calendar.components = [timezoneComponent(zone, from - 86_400, until), ...calendar.components.filter((c) => !names(c))];
}
