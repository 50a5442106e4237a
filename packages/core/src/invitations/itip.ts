import { certain } from '../certain.ts';
import { type Component, type Line, lineOf, parseComponents, setLine, UnreadableEvent, unescapeText, writeComponents } from '../ical/content.ts';
import { makeEvent } from '../ical/event-text.ts';
import { readWhen } from '../ical/event-times.ts';
import { personLine, personOf } from '../ical/people-and-reminders.ts';
import type { Attendee, MappedValues } from '../maps/properties.ts';
import { clockOf, idOf } from '../recurrence/clock-of-series.ts';
import { recurrenceIdOf } from '../recurrence/expand.ts';
import type { When } from '../time/when.ts';
import { formatInstant, parseInstant, UTC, type ZoneTable } from '../time/zones.ts';
import type { Invitation, Notice } from './invitation.ts';

/** One iTIP message (RFC 5546). */
export interface ItipMessage {
  method: Notice['method'] | 'DECLINECOUNTER';
  /** a cancellation for these guests alone: the event takes place */
  uninvited: boolean;
  invitation: Invitation;
  /** whom it concerns: of an invitation everybody, of a cancellation those who are cancelled */
  guests: Attendee[];
  organizer: Attendee;
  /** the address that sends for the organizer (RFC 5545, 3.2.18); null: their own */
  sentBy: string | null;
  sequence: number;
  /** RFC 3339 */
  now: string;
}

const plain = (value: string): Omit<Line, 'name' | 'source'> => ({ params: [], value });

/** Writes a message about one event to its guests (RFC 5546, 3.2). Nothing that a guest wrote goes into it. */
export function writeItip(message: ItipMessage, zones: ZoneTable): string {
  const { invitation, organizer, sentBy, now } = message;
  const { uid, occurrence, sequence: _theirs, organizer: _organizer, guests: _guests, recurrence, ...values } = invitation;
  // Of one occurrence, the rule is not said again (RFC 5546, 3.2.2).
  const said = {
    ...values,
    status: statusOf(message),
    recurrence: occurrence === null ? recurrence : null,
  };
  const roots = parseComponents(makeEvent(uid, withoutNothing(said), { lane: '', pair: '' }, { zones, now }));
  const calendar = certain(roots[0], 'a text that was just written has a calendar');
  const event = certain(
    calendar.components.find((c) => c.name === 'VEVENT'),
    'a text that was just written has an event',
  );
  setLine(calendar, 'METHOD', plain(message.method));
  event.lines = event.lines.filter((l) => !l.name.startsWith('X-MONSOON-') && l.name !== 'LAST-MODIFIED' && l.name !== 'CREATED');
  setLine(event, 'SEQUENCE', plain(String(message.sequence)));
  if (occurrence !== null) event.lines.push(recurrenceIdLine(occurrence, event, roots, zones));
  event.lines.push(personLine('ORGANIZER', organizer, sentBy === null ? [] : [{ name: 'SENT-BY', values: [`mailto:${sentBy}`] }]));
  for (const guest of message.guests) {
    const { response, ...rest } = guest;
    event.lines.push(personLine('ATTENDEE', message.method === 'REQUEST' ? { ...rest, response: response ?? 'needs action', asked: true } : rest));
  }
  return writeComponents(roots);
}

/** That an event is cancelled is not said to guests who alone are not invited any more (RFC 5546, 3.2.5). */
const statusOf = ({ method, uninvited, invitation }: ItipMessage): Invitation['status'] =>
  method !== 'CANCEL' ? invitation.status : uninvited ? null : 'cancelled';

const withoutNothing = (values: { [P in keyof MappedValues]: MappedValues[P] | undefined }): MappedValues =>
  Object.fromEntries(Object.entries(values).filter(([, v]) => v != null)) as MappedValues;

function recurrenceIdLine(occurrence: string, event: Component, roots: Component[], zones: ZoneTable): Line {
  const start = lineOf(event, 'DTSTART');
  const like = start ?? { name: 'DTSTART', params: [], value: occurrence, source: null };
  const params = like.params.filter((p) => p.name === 'TZID' || p.name === 'VALUE');
  return { name: 'RECURRENCE-ID', params, value: recurrenceIdOf(occurrence, like, { roots, zones }), source: null };
}

/** What a guest's program answers. */
export interface ItipReply {
  method: 'REPLY' | 'COUNTER';
  uid: string;
  /** which occurrence it is about, as in its address; null: the event, or the series as a whole */
  occurrence: string | null;
  sequence: number;
  /** RFC 3339: which of two replies is the later one (RFC 5546, 2.1.5) */
  stamp: string;
  attendee: Attendee;
  comment: string | null;
  /** of a counter proposal: the time that is proposed */
  when: When | null;
}

/** Longest comment that is kept, in characters. */
const LONGEST_COMMENT = 1000;

/**
 * Reads a reply or a counter proposal (RFC 5546, 3.2.3 and 3.2.7); null: it is another message, or none.
 * @throws UnreadableEvent when it is one that cannot be understood
 */
export function readItip(text: string, zones: ZoneTable): ItipReply | null {
  const roots = parseComponents(text);
  const [calendar] = roots;
  const method = calendar === undefined ? undefined : lineOf(calendar, 'METHOD')?.value.trim().toUpperCase();
  if (calendar === undefined || (method !== 'REPLY' && method !== 'COUNTER')) return null;
  const events = calendar.components.filter((c) => c.name === 'VEVENT');
  const [event] = events;
  if (event === undefined) throw new UnreadableEvent(`a ${method} without an event`);
  const wanted = (name: string): string => {
    const value = lineOf(event, name)?.value.trim();
    if (value === undefined || value === '') throw new UnreadableEvent(`a ${method} without ${name}`);
    return value;
  };
  const guests = event.lines.filter((l) => l.name === 'ATTENDEE');
  const [guest] = guests;
  const attendee = guest !== undefined && guests.length === 1 ? personOf(guest) : null;
  // A counter proposal may name the other guests too; who sends it is known by the mail alone.
  if (method === 'REPLY' && attendee === null) throw new UnreadableEvent(`a REPLY of ${guests.length} attendees; one replies`);
  const stamp = wanted('DTSTAMP');
  if (!/^\d{8}T\d{6}Z$/.test(stamp)) throw new UnreadableEvent(`DTSTAMP "${stamp.slice(0, 40)}" is no time in UTC`);
  const id = lineOf(event, 'RECURRENCE-ID');
  const clock = id === undefined ? null : clockOf(id, { roots, zones, home: UTC });
  const sequence = Number.parseInt(lineOf(event, 'SEQUENCE')?.value ?? '0', 10);
  const comment = unescapeText(lineOf(event, 'COMMENT')?.value ?? '').trim();
  return {
    method,
    uid: wanted('UID'),
    occurrence: clock === null ? null : idOf(clock.start, clock),
    sequence: Number.isSafeInteger(sequence) ? sequence : 0,
    stamp: formatInstant(parseInstant(`${stamp.slice(0, 4)}-${stamp.slice(4, 6)}-${stamp.slice(6, 11)}:${stamp.slice(11, 13)}:${stamp.slice(13)}`)),
    attendee: attendee ?? { email: '' },
    comment: comment === '' ? null : comment.slice(0, LONGEST_COMMENT),
    when: method === 'COUNTER' ? readWhen(event, roots, zones) : null,
  };
}
