import { Temporal } from 'temporal-polyfill';
import type { Attendee } from '../maps/properties.ts';
import { type Component, type Line, lineOf, paramOf } from './content.ts';

const responses: Record<string, NonNullable<Attendee['response']>> = {
  'NEEDS-ACTION': 'needs action',
  ACCEPTED: 'accepted',
  DECLINED: 'declined',
  TENTATIVE: 'tentative',
};

/** A person behind a `mailto:` address; null for other kinds of calendar users (RFC 5545, 3.3.3). */
function personOf(line: Line): Attendee | null {
  const email = /^mailto:(.+)$/i.exec(line.value.trim())?.[1];
  if (email === undefined) return null;
  const name = paramOf(line, 'CN');
  const response = responses[(paramOf(line, 'PARTSTAT') ?? '').toUpperCase()];
  return { email, ...(name === undefined || name === '' ? {} : { name }), ...(response === undefined ? {} : { response }) };
}

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

/**
 * Who is there stays word for word, with the answer they gave; who is new is added, and who is not wanted goes. Who is
 * added is not told by the calendar server (RFC 6638, 7.1): a first run would send a mail for every event.
 */
export function writeAttendees(event: Component, wanted: Attendee[]): void {
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
  for (const { email, name } of wanted) {
    if (there.has(email.toLowerCase()) || email.toLowerCase() === organizer) continue;
    const params = [
      ...(name === undefined ? [] : [{ name: 'CN', values: [name.replace(/["\p{Cc}]/gu, "'")] }]),
      { name: 'PARTSTAT', values: ['NEEDS-ACTION'] },
      { name: 'SCHEDULE-AGENT', values: ['CLIENT'] },
    ];
    event.lines.push({ name: 'ATTENDEE', params, value: `mailto:${email}`, source: null });
  }
}

/** Minutes before the start; null for alarms of another kind (after the start, at a fixed time, before the end). */
function minutesBefore(alarm: Component): number | null {
  const trigger = lineOf(alarm, 'TRIGGER');
  if (trigger === undefined || (paramOf(trigger, 'RELATED') ?? 'START').toUpperCase() !== 'START') return null;
  try {
    const minutes = -Temporal.Duration.from(trigger.value.trim()).total({ unit: 'minutes', relativeTo: '2026-01-01' });
    return Number.isInteger(minutes) && minutes >= 0 ? Math.abs(minutes) : null;
  } catch {
    return null;
  }
}

export function readReminders(event: Component): number[] | null {
  const found = event.components.filter((c) => c.name === 'VALARM').flatMap((c) => minutesBefore(c) ?? []);
  return found.length > 0 ? [...new Set(found)].sort((a, b) => a - b) : null;
}

/** Alarms that remind at a wanted time stay as they are; those of another kind are not ours to touch. */
export function writeReminders(event: Component, wanted: number[]): void {
  const there = new Set<number>();
  event.components = event.components.filter((c) => {
    const minutes = c.name === 'VALARM' ? minutesBefore(c) : null;
    if (minutes === null) return true;
    there.add(minutes);
    return wanted.includes(minutes);
  });
  const line = (name: string, value: string): Line => ({ name, params: [], value, source: null });
  for (const minutes of wanted) {
    if (there.has(minutes)) continue;
    const lines = [
      line('ACTION', 'DISPLAY'),
      line('DESCRIPTION', lineOf(event, 'SUMMARY')?.value ?? 'Reminder'),
      line('TRIGGER', minutes === 0 ? 'PT0S' : `-PT${minutes}M`),
    ];
    event.components.push({ name: 'VALARM', lines, components: [] });
  }
}
