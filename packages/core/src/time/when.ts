import { Temporal } from 'temporal-polyfill';
import { readDateTime, sayable, type ZonedMoment } from './date-time.ts';
import { toInstant, UTC, type Zone, type ZoneTable } from './zones.ts';

/**
 * When an event takes place: one value that is never merged by halves.
 * All-day: `first` day and `end`, the day after the last (ISO dates).
 * Timed: wall clocks (`2026-12-15T12:00:00`) in one IANA zone; `end` may equal `start`.
 * Floating times (no zone of their own) carry the zone null and are read on the viewer's clock.
 */
export type When = { kind: 'all-day'; first: string; end: string } | { kind: 'timed'; start: string; end: string; zone: string | null };

/** The instants a `when` covers, in seconds since 1970. All-day and floating times are read in `home`. */
export function spanOf(when: When, home: Zone, zones: ZoneTable): { from: number; until: number } {
  if (when.kind === 'all-day') {
    return { from: toInstant(`${when.first}T00:00:00`, home).instant, until: toInstant(`${when.end}T00:00:00`, home).instant };
  }
  const zone = when.zone === null ? home : (zones.find(when.zone) ?? UTC);
  const from = toInstant(when.start, zone).instant;
  // A start that a change of the clock skips is read later than its clock says: an end within that hour is not before it.
  return { from, until: Math.max(from, toInstant(when.end, zone).instant) };
}

/**
 * True when both say the same time: the same days, or the same instants, whatever their zones are called. A floating
 * time is the same as itself alone: its instants depend on who looks.
 */
export function sameWhen(a: When, b: When, zones: ZoneTable): boolean {
  if (a.kind === 'all-day' || b.kind === 'all-day') return a.kind === 'all-day' && b.kind === 'all-day' && a.first === b.first && a.end === b.end;
  if (a.start === b.start && a.end === b.end && a.zone === b.zone) return true;
  if (a.zone === null || b.zone === null) return false;
  const [left, right] = [spanOf(a, UTC, zones), spanOf(b, UTC, zones)];
  return left.from === right.from && left.until === right.until;
}

export interface WhenRead {
  when: When;
  notes: string[];
  /** it touches the second passage of an hour that comes twice, and is said in UTC for that */
  repeatedHour?: true;
  /** it begins or ends in an hour that a change of the clock skips, and is read as the hour after it */
  skippedHour?: true;
}

/** Does it begin or end in an hour that a change of the clock skips? A series that does goes on at the hour that it says. */
export function isInSkippedHour(when: When | null, zones: ZoneTable): boolean {
  if (when === null || when.kind === 'all-day' || when.zone === null) return false;
  const zone = zones.find(when.zone);
  return zone !== undefined && [when.start, when.end].some((clock) => toInstant(clock, zone).resolution === 'gap');
}

/**
 * Start and end date-times of a record. The start's zone is the event's.
 * @throws RangeError when a value is no date-time or the end lies before the start
 */
export function whenFromStartEnd(start: string, end: string, home: Zone, zones: ZoneTable): WhenRead {
  const from = readDateTime(start, home, zones);
  const to = readDateTime(end, from.zone, zones);
  if (to.instant < from.instant) throw new RangeError(`the end ${end} lies before the start ${start}`);
  return timed(from.instant, to.instant, from.zone, [from, to]);
}

/**
 * A start date-time and a length. The length is elapsed time: an hour is an hour on a daylight-saving night too.
 * @param seconds the length, zero or more
 */
export function whenFromStartLength(start: string, seconds: number, home: Zone, zones: ZoneTable): WhenRead {
  if (!Number.isFinite(seconds) || seconds < 0) throw new RangeError(`a length of ${seconds} seconds is not possible`);
  const from = readDateTime(start, home, zones);
  return timed(from.instant, from.instant + Math.round(seconds), from.zone, [from]);
}

/** One day, or a range of days whose last day is counted. @throws RangeError when the last lies before the first */
export function whenFromDays(first: string, last: string): WhenRead {
  const from = Temporal.PlainDate.from(first, { overflow: 'reject' });
  const to = Temporal.PlainDate.from(last, { overflow: 'reject' });
  if (Temporal.PlainDate.compare(to, from) < 0) throw new RangeError(`the last day ${last} lies before the first ${first}`);
  return { when: { kind: 'all-day', first: from.toString(), end: to.add({ days: 1 }).toString() }, notes: [] };
}

function timed(from: number, until: number, zone: Zone, read: readonly ZonedMoment[]): WhenRead {
  const { zone: said, start, end } = sayable(from, until, zone);
  const notes = read.flatMap((r) => r.note ?? []);
  if (said !== zone) notes.push(`said in UTC: ${zone.name} has no wall clock of its own for the repeated hour`);
  const when: When = { kind: 'timed', start, end, zone: said.name };
  return { when, notes, ...(said === zone ? {} : { repeatedHour: true }), ...(read.some((r) => r.skipped) ? { skippedHour: true } : {}) };
}
