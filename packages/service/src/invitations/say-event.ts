import { type Invitation, sayAny, spanOf, toLocal, UTC, type When, type Zone, type ZoneTable } from '@monsoon/core';

const days = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'];
const months = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];

/** `Tuesday 1 December 2026`. @param iso what begins with a day */
function sayLongDay(iso: string): string {
  const date = new Date(`${iso.slice(0, 10)}T00:00:00Z`);
  return `${days[date.getUTCDay()]} ${date.getUTCDate()} ${months[date.getUTCMonth()]} ${date.getUTCFullYear()}`;
}

/** The time of an event in words for a letter: `Tuesday 1 December 2026, 09:00 to 10:30 (Europe/London)`. */
export function sayTime(when: When): string {
  if (when.kind === 'all-day') {
    const last = new Date(Date.parse(`${when.end}T00:00:00Z`) - 86_400_000).toISOString().slice(0, 10);
    return last <= when.first ? `${sayLongDay(when.first)}, all day` : `${sayLongDay(when.first)} to ${sayLongDay(last)}`;
  }
  const zone = when.zone === null ? '' : ` (${/^<([^>]*)>/.exec(when.zone)?.[1] ?? when.zone})`;
  const sameDay = when.start.slice(0, 10) === when.end.slice(0, 10);
  return `${sayLongDay(when.start)}, ${when.start.slice(11, 16)} to ${sameDay ? '' : `${sayLongDay(when.end)}, `}${when.end.slice(11, 16)}${zone}`;
}

/** The same time on another clock; null where there is none, or the clocks agree. */
export function sayTimeIn(when: When, zone: Zone, zones: ZoneTable): string | null {
  if (when.kind === 'all-day' || when.zone === null) return null;
  const { from, until } = spanOf(when, UTC, zones);
  const there: When = { kind: 'timed', start: toLocal(from, zone), end: toLocal(until, zone), zone: zone.name };
  return there.start === when.start && there.end === when.end ? null : sayTime(there);
}

/** What a guest reads of an event: a word and what it is, one for each line. */
export function linesOf({ when, recurrence, location, description, link, conference, guests }: Invitation, also: string | null): [string, string][] {
  const people = guests.map((g) => g.name ?? g.email).slice(0, 20);
  const rest = guests.length > people.length ? ` and ${guests.length - people.length} others` : '';
  const lines: [string, string | null][] = [
    ['When', when === null ? null : sayTime(when)],
    ['', also],
    ['Repeats', recurrence === null ? null : sayAny(recurrence)],
    ['Where', location],
    ['Join', conference],
    ['With', people.length > 1 ? people.join(', ') + rest : null],
    ['Notes', description],
    ['Link', link],
  ];
  return lines.filter((line): line is [string, string] => line[1] !== null && line[1] !== '');
}
