import { addDays, instantIn, type Place } from './clock.ts';

/** When, as a value: days (the last one after the end), or instants. */
export type When = { first: string; end: string } | { from: number; until: number };
export type Value = string | number | string[] | number[] | When | null;
/** What an event or a record says, by property. */
export type Values = { [property: string]: Value };

export const isDays = (when: When): when is { first: string; end: string } => 'first' in when;
export const same = (a: unknown, b: unknown): boolean => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);
export const isEmpty = (v: Value | undefined): boolean => v === null || v === undefined || v === '' || (Array.isArray(v) && v.length === 0);

/** An event as anybody reads it who knows RFC 5545. */
export interface EventSeen {
  uid: string;
  values: Values;
  /** of the lane that made it */
  marked: string | null;
  repeats: boolean;
  /** CREATED, else LAST-MODIFIED, else DTSTAMP */
  created: number | null;
  modified: number | null;
  /** properties that the event does not state: it means their defaults */
  silent: Set<string>;
  /** every line of a property that cannot be mapped, in order */
  rest: string[];
}

const dashes = (v: string) => `${v.slice(0, 4)}-${v.slice(4, 6)}-${v.slice(6, 8)}`;
const stamp = (v: string | null) => (v === null ? null : Date.parse(`${dashes(v)}T${v.slice(9, 11)}:${v.slice(11, 13)}:${v.slice(13, 15)}Z`) / 1000);
const plain = (v: string) => v.replace(/\\([nN,;\\])/g, (_m, c: string) => (c === 'n' || c === 'N' ? '\n' : c));
const read =
  'SUMMARY DESCRIPTION LOCATION DTSTART DTEND DURATION STATUS TRANSP CLASS CATEGORIES URL ATTENDEE DTSTAMP LAST-MODIFIED SEQUENCE CREATED UID';

const known = new Map<string, EventSeen>();

export function readEvent(text: string): EventSeen {
  const found = known.get(text);
  if (found !== undefined) return found;
  if (known.size > 5000) known.clear();
  const seen = parse(text);
  known.set(text, seen);
  return seen;
}

interface TextLine {
  name: string;
  params: string;
  value: string;
  raw: string;
}

function parse(text: string): EventSeen {
  const all = text.replace(/\r?\n[ \t]/g, '').split(/\r?\n/);
  const own = all.slice(all.indexOf('BEGIN:VEVENT') + 1, all.indexOf('END:VEVENT'));
  const alarmsFrom = own.indexOf('BEGIN:VALARM');
  const lines = (alarmsFrom < 0 ? own : own.slice(0, alarmsFrom)).map((raw): TextLine => {
    const [, name = '', params = '', value = ''] = /^([A-Z-]+)((?:;[^:"]*(?:"[^"]*"[^:"]*)*)?):(.*)$/.exec(raw) ?? [];
    return { name, params, value, raw };
  });
  const line = (name: string) => lines.find((l) => l.name === name);
  const text_ = (name: string) => (line(name) === undefined || line(name)!.value === '' ? null : plain(line(name)!.value));
  const word = (name: string, words: Record<string, string>) => words[line(name)?.value ?? ''] ?? null;
  const list = (values: string[]): string[] | null => (values.length === 0 ? null : [...new Set(values)].sort());
  const triggers = own.flatMap((l) => /^TRIGGER:-PT(\d+)M$/.exec(l)?.[1] ?? (l === 'TRIGGER:PT0S' ? '0' : [])).map(Number);
  return {
    uid: line('UID')?.value ?? '',
    marked: line('X-MONSOON-LANE')?.value ?? null,
    repeats: line('RRULE') !== undefined,
    created: stamp((line('CREATED') ?? line('LAST-MODIFIED') ?? line('DTSTAMP'))?.value ?? null),
    modified: stamp(line('LAST-MODIFIED')?.value ?? null),
    silent: new Set(
      [
        ['status', 'STATUS'],
        ['busy', 'TRANSP'],
        ['visibility', 'CLASS'],
      ].flatMap(([property, name]) => (line(name!) === undefined ? [property!] : [])),
    ),
    rest: lines.filter((l) => !read.split(' ').includes(l.name) && !l.name.startsWith('X-MONSOON')).map((l) => l.raw),
    values: {
      title: text_('SUMMARY'),
      description: text_('DESCRIPTION'),
      location: text_('LOCATION'),
      when: whenOf(line('DTSTART')!, line('DTEND'), line('DURATION')?.value),
      status: word('STATUS', { TENTATIVE: 'tentative', CONFIRMED: 'confirmed', CANCELLED: 'cancelled' }) ?? 'confirmed',
      busy: word('TRANSP', { OPAQUE: 'busy', TRANSPARENT: 'free' }) ?? 'busy',
      visibility: word('CLASS', { PUBLIC: 'public', PRIVATE: 'private', CONFIDENTIAL: 'confidential' }) ?? 'public',
      categories: list((line('CATEGORIES')?.value ?? '').split(',').filter(Boolean).map(plain)),
      link: line('URL')?.value ?? null,
      attendees: list(lines.filter((l) => l.name === 'ATTENDEE').map((l) => l.value.replace(/^mailto:/i, '').toLowerCase())),
      reminders: triggers.length === 0 ? null : [...new Set(triggers)].sort((a, b) => a - b),
    },
  };
}

function clockOf({ params, value }: TextLine): number {
  const named = /TZID=([^;:]+)/.exec(params)?.[1];
  const place = (named === 'Workshop' ? 'Europe/Athens' : named) as Place | undefined;
  const local = `${dashes(value)}T${value.slice(9, 11)}:${value.slice(11, 13)}:${value.slice(13, 15)}`;
  return instantIn(value.endsWith('Z') ? 'UTC' : place!, local);
}

function whenOf(start: TextLine, end: TextLine | undefined, length: string | undefined): When {
  const [, days = '0', hours = '0', minutes = '0'] = /^P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?)?$/.exec(length ?? 'PT0M') ?? [];
  if (/VALUE=DATE($|;)/.test(start.params)) {
    const first = dashes(start.value);
    const stated = end === undefined ? addDays(first, Math.max(1, Number(days))) : dashes(end.value);
    return { first, end: stated > first ? stated : addDays(first, 1) };
  }
  const from = clockOf(start);
  return { from, until: end === undefined ? from + Number(days) * 86_400 + Number(hours) * 3600 + Number(minutes) * 60 : clockOf(end) };
}
