import { Temporal } from 'temporal-polyfill';
import { certain } from '../certain.ts';
import type { Attendee, Response } from '../maps/properties.ts';
import { inOrder, LONGEST_REMINDER, type Reminder, type ReminderParts, readReminder, reminderOf } from '../maps/reminders.ts';
import { type Component, type Line, lineOf, paramOf, setLine } from './content.ts';

const partstats: Record<Response, string> = {
  'needs action': 'NEEDS-ACTION',
  accepted: 'ACCEPTED',
  declined: 'DECLINED',
  tentative: 'TENTATIVE',
  delegated: 'DELEGATED',
};
const roles: Record<NonNullable<Attendee['role']>, string> = { chair: 'CHAIR', optional: 'OPT-PARTICIPANT', 'for information': 'NON-PARTICIPANT' };
const kinds: Record<NonNullable<Attendee['kind']>, string> = { group: 'GROUP', resource: 'RESOURCE', room: 'ROOM', unknown: 'UNKNOWN' };

const wordOf = <T extends string>(words: Record<T, string>, line: Line, param: string): T | undefined => {
  const said = paramOf(line, param)?.toUpperCase();
  return (Object.keys(words) as T[]).find((word) => words[word] === said);
};

/** A person behind a `mailto:` address; null for other kinds of calendar users (RFC 5545, 3.3.3). */
export function personOf(line: Line): Attendee | null {
  const email = /^mailto:(.+)$/i.exec(line.value.trim())?.[1];
  if (email === undefined) return null;
  const person: Attendee = { email };
  const name = paramOf(line, 'CN');
  const [role, kind, response] = [wordOf(roles, line, 'ROLE'), wordOf(kinds, line, 'CUTYPE'), wordOf(partstats, line, 'PARTSTAT')];
  if (name !== undefined && name !== '') person.name = name;
  if (role !== undefined) person.role = role;
  if (kind !== undefined) person.kind = kind;
  if (paramOf(line, 'RSVP')?.toUpperCase() === 'TRUE') person.asked = true;
  if (response !== undefined) person.response = response;
  const delivery = deliveryOf(line);
  if (delivery !== undefined) person.delivery = delivery;
  return person;
}

/** Of several codes, which a server lists, the worst one. */
const deliveryOf = (line: Line): string | undefined =>
  paramOf(line, 'SCHEDULE-STATUS')
    ?.split(',')
    .flatMap((code) => /^\s*([1-5](\.\d{1,3}){1,2})/.exec(code)?.[1] ?? [])
    .sort()
    .at(-1);

/** The attendees with an address, without the organizer, who is in every meeting of their own. */
export function readAttendees(event: Component): Attendee[] | null {
  const organizer = readOrganizer(event)?.email.toLowerCase();
  const found = event.lines
    .filter((l) => l.name === 'ATTENDEE')
    .map(personOf)
    .filter((a): a is Attendee => a !== null && a.email.toLowerCase() !== organizer);
  return found.length > 0 ? [...new Map(found.map((a) => [a.email.toLowerCase(), a])).values()] : null;
}

export function readOrganizer(event: Component): Attendee | null {
  const line = lineOf(event, 'ORGANIZER');
  return line === undefined ? null : personOf(line);
}

/** A parameter cannot hold a double quote or a control character (RFC 5545, 3.1). */
const parameter = (name: string, value: string) => ({ name, values: [value.replace(/["\p{Cc}]/gu, "'")] });

/** The line of somebody who is invited or invites. */
export function personLine(name: 'ATTENDEE' | 'ORGANIZER', person: Attendee, more: Line['params'] = []): Line {
  const params = [
    ...(person.name === undefined ? [] : [parameter('CN', person.name)]),
    ...(person.kind === undefined ? [] : [parameter('CUTYPE', kinds[person.kind])]),
    ...(person.role === undefined ? [] : [parameter('ROLE', roles[person.role])]),
    ...(name === 'ORGANIZER' ? [] : [parameter('PARTSTAT', partstats[person.response ?? 'needs action'])]),
    ...(person.asked === true ? [parameter('RSVP', 'TRUE')] : []),
    ...more,
  ];
  return { name, params, value: `mailto:${person.email}`, source: null };
}

/** Who is there already keeps what else the line says. */
export function writeOrganizer(event: Component, organizer: Attendee | null): void {
  const before = readOrganizer(event);
  if (before !== null && organizer !== null && before.email.toLowerCase() === organizer.email.toLowerCase()) return;
  setLine(event, 'ORGANIZER', organizer === null ? null : personLine('ORGANIZER', organizer));
}

/**
 * Who is there stays word for word, with the reply they gave; who is new is added, and who is not wanted goes.
 * @param scheduled the calendar server invites those who are added. Otherwise it is asked not to (RFC 6638, 7.1): a first run would
 * send a mail for every event
 */
export function writeAttendees(event: Component, wanted: Attendee[], scheduled = false): void {
  const keys = new Set(wanted.map((a) => a.email.toLowerCase()));
  const organizer = readOrganizer(event)?.email.toLowerCase();
  const there = new Set<string>();
  event.lines = event.lines.filter((line) => {
    if (line.name !== 'ATTENDEE') return true;
    const email = personOf(line)?.email.toLowerCase();
    if (email === undefined || email === organizer) return true;
    there.add(email);
    return keys.has(email);
  });
  for (const guest of wanted) {
    if (there.has(guest.email.toLowerCase()) || guest.email.toLowerCase() === organizer) continue;
    const { response: _reply, ...person } = guest;
    const line = scheduled
      ? personLine('ATTENDEE', { ...person, asked: true })
      : personLine('ATTENDEE', person, [parameter('SCHEDULE-AGENT', 'CLIENT')]);
    event.lines.push(line);
  }
}

/** What guests replied, on their lines; nothing else of a line changes. */
export function writeReplies(event: Component, replies: readonly Attendee[]): void {
  const said = new Map(replies.map((r) => [r.email.toLowerCase(), r.response ?? 'needs action']));
  event.lines = event.lines.map((line) => {
    const response = line.name === 'ATTENDEE' ? said.get(personOf(line)?.email.toLowerCase() ?? '') : undefined;
    if (response === undefined || (wordOf(partstats, line, 'PARTSTAT') ?? 'needs action') === response) return line;
    const partstat = parameter('PARTSTAT', partstats[response]);
    const isSaid = line.params.some((p) => p.name === 'PARTSTAT');
    const params = isSaid ? line.params.map((p) => (p.name === 'PARTSTAT' ? partstat : p)) : [...line.params, partstat];
    return { ...line, params, source: null };
  });
}

/** The reminder that an alarm is; null for alarms of another kind (after the start, at a fixed time, without a trigger). */
function reminderOfAlarm(alarm: Component): Reminder | null {
  const trigger = lineOf(alarm, 'TRIGGER');
  if (trigger === undefined) return null;
  const parts: Omit<ReminderParts, 'minutes'> = {
    by: lineOf(alarm, 'ACTION')?.value.trim().toUpperCase() === 'EMAIL' ? 'mail' : 'popup',
    before: paramOf(trigger, 'RELATED')?.toUpperCase() === 'END' ? 'end' : 'start',
  };
  try {
    const minutes = -Temporal.Duration.from(trigger.value.trim()).total({ unit: 'minutes', relativeTo: '2026-01-01' });
    return Number.isInteger(minutes) && minutes >= 0 && minutes <= LONGEST_REMINDER ? reminderOf({ ...parts, minutes: Math.abs(minutes) }) : null;
  } catch {
    return null;
  }
}

export function readReminders(event: Component): Reminder[] | null {
  const found = event.components.filter((c) => c.name === 'VALARM').flatMap((c) => reminderOfAlarm(c) ?? []);
  return found.length > 0 ? inOrder(found) : null;
}

/** Alarms that remind at a wanted time stay as they are; those of another kind are not ours to touch. */
export function writeReminders(event: Component, wanted: readonly Reminder[]): void {
  const there = new Set<Reminder>();
  event.components = event.components.filter((c) => {
    const reminder = c.name === 'VALARM' ? reminderOfAlarm(c) : null;
    if (reminder === null) return true;
    there.add(reminder);
    return wanted.includes(reminder);
  });
  for (const reminder of wanted)
    if (!there.has(reminder)) event.components.push(alarmOf(event, certain(readReminder(reminder), 'reminders are read before they are written')));
}

/** An alarm as RFC 5545, 3.6.6, wants it: one by mail names whom it goes to, the organizer or else the first guest. */
function alarmOf(event: Component, { minutes, by, before }: ReminderParts): Component {
  const line = (name: string, value: string, params: Line['params'] = []): Line => ({ name, params, value, source: null });
  const said = lineOf(event, 'SUMMARY')?.value ?? 'Reminder';
  const to = (lineOf(event, 'ORGANIZER') ?? lineOf(event, 'ATTENDEE'))?.value;
  const mailed = by === 'mail' && to !== undefined;
  const lines = [
    line('ACTION', mailed ? 'EMAIL' : 'DISPLAY'),
    line('DESCRIPTION', said),
    line('TRIGGER', minutes === 0 ? 'PT0S' : `-PT${minutes}M`, before === 'end' ? [{ name: 'RELATED', values: ['END'] }] : []),
    ...(mailed ? [line('SUMMARY', said), line('ATTENDEE', to)] : []),
  ];
  return { name: 'VALARM', lines, components: [] };
}
