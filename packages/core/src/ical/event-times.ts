import { Temporal } from 'temporal-polyfill';
import { localText, secondsOf } from '../recurrence/clock-texts.ts';
import type { When } from '../time/when.ts';
import { clockToInstant, formatInstant, toInstant, toLocal, UTC, type Zone, type ZoneTable } from '../time/zones.ts';
import { type Component, type Line, lineOf, paramOf, UnreadableEvent } from './content.ts';
import { expand } from './dates.ts';
import { isTextZone, whenInTextZone, zoneOfId } from './read-timezone.ts';

interface Clock {
  local: string;
  /** null: floating */
  zone: Zone | null;
}

export function readClock(line: Line, roots: Component[], zones: ZoneTable): Clock {
  const text = expand(line.value);
  if (text.endsWith('Z')) return { local: text.slice(0, -1), zone: UTC };
  const tzid = paramOf(line, 'TZID');
  if (tzid === undefined) return { local: text, zone: null };
  return { local: text, zone: zoneOfId(tzid, text, definitionOf(roots, tzid), zones) };
}

function definitionOf(roots: Component[], tzid: string): Component | undefined {
  for (const root of roots) for (const part of root.components) if (part.name === 'VTIMEZONE' && lineOf(part, 'TZID')?.value === tzid) return part;
  return undefined;
}

/** Longest event that is read, in days: whatever is longer is a slip of its writer. */
const LONGEST_DAYS = 36_525;

/** A length: days go by the calendar, seconds by the clock (RFC 5545, 3.3.6). */
export interface Length {
  days: number;
  seconds: number;
}

const knownLengths = new Map<string, Length>();
const DAY = 86_400;

/** Of what many events say alike, worked out once. @throws UnreadableEvent when it is no length, is negative, or is longer than a century */
export function lengthOf(text: string): Length {
  let length = knownLengths.get(text);
  if (length === undefined) {
    length = readLength(text);
    if (knownLengths.size >= 1000) knownLengths.clear();
    knownLengths.set(text, length);
  }
  return length;
}

function readLength(text: string): Length {
  try {
    const length = Temporal.Duration.from(text.trim().replace(/^\+/, ''));
    const days = length.total({ unit: 'days', relativeTo: '2000-01-01' });
    if (days < 0 || days > LONGEST_DAYS) throw new RangeError();
    return { days: length.weeks * 7 + length.days, seconds: length.with({ years: 0, months: 0, weeks: 0, days: 0 }).total({ unit: 'seconds' }) };
  } catch {
    throw new UnreadableEvent(`"${text.slice(0, 100)}" is not a length from nothing to a hundred years`);
  }
}

function endOf({ local, zone }: Clock, { days, seconds }: Length): string {
  const day = secondsOf(local) + days * DAY;
  if (seconds === 0) return localText(day);
  return zone === null ? localText(day + seconds) : toLocal(clockToInstant(day, zone).instant + seconds, zone);
}

export function readWhen(event: Component, roots: Component[], zones: ZoneTable): When {
  const start = lineOf(event, 'DTSTART');
  if (start === undefined) throw new UnreadableEvent('the event has no DTSTART');
  const end = lineOf(event, 'DTEND');
  const length = lineOf(event, 'DURATION')?.value;
  if (/^\d{8}$/.test(start.value.trim())) {
    const first = expand(start.value);
    const days = length === undefined ? 1 : Math.max(1, Math.round(lengthOf(length).days + lengthOf(length).seconds / DAY));
    const stated = end === undefined ? Temporal.PlainDate.from(first).add({ days }).toString() : expand(end.value).slice(0, 10);
    // An end on the first day, or before it, is a common mistake of writers; the day itself is meant.
    return { kind: 'all-day', first, end: stated > first ? stated : Temporal.PlainDate.from(first).add({ days: 1 }).toString() };
  }
  const from = readClock(start, roots, zones);
  const to = end === undefined ? { local: endOf(from, lengthOf(length ?? 'PT0S')), zone: from.zone } : readClock(end, roots, zones);
  const early = () => new UnreadableEvent(`the event ends (${end?.value}) before it starts (${start.value})`);
  if (isTextZone(from.zone)) {
    const first = toInstant(from.local, from.zone).instant;
    const last = toInstant(to.local, to.zone ?? from.zone).instant;
    const onOneClock = end === undefined || paramOf(end, 'TZID') === paramOf(start, 'TZID');
    if (onOneClock ? to.local < from.local : last < first) throw early();
    return whenInTextZone(from.zone, first, Math.max(first, last));
  }
  if (to.zone?.name === from.zone?.name) {
    if (to.local < from.local) throw early();
    return { kind: 'timed', start: from.local, end: to.local, zone: from.zone?.name ?? null };
  }
  const zone = from.zone ?? UTC;
  const until = toInstant(to.local, to.zone ?? zone).instant;
  if (until < toInstant(from.local, zone).instant) throw early();
  const local = formatInstant(until + zone.period(until).offset).slice(0, -1);
  return { kind: 'timed', start: from.local, end: local, zone: from.zone?.name ?? null };
}
