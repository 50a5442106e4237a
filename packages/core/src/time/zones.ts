import { isDay } from './days.ts';

/** A stretch of time during which a zone keeps one offset. */
export interface Period {
  /** seconds east of UTC */
  offset: number;
  daylight: boolean;
  abbreviation: string;
  /** first instant, in seconds since 1970; null when it has always been so */
  from: number | null;
  /** the instant it ends; null when nothing is known to end it */
  until: number | null;
}

export interface Zone {
  /** IANA name */
  readonly name: string;
  /** @param instant seconds since 1970 */
  period(instant: number): Period;
}

/**
 * The zones of the world as a value. The core never asks the runtime for an offset: Node's own tables can be
 * a year behind the operating system's, which is an hour's error in places whose rules have just changed.
 */
export interface ZoneTable {
  /** tzdata release, e.g. `2026f` */
  readonly version: string;
  /** Finds a zone by IANA name or by another name in use for one (`GMT Standard Time`), ignoring case. */
  find(name: string): Zone | undefined;
}

const always: Period = { offset: 0, daylight: false, abbreviation: 'UTC', from: null, until: null };
export const UTC: Zone = { name: 'UTC', period: () => always };

/** How a wall-clock time was found on the line of instants. */
export type Resolution = 'exact' | 'gap' | 'overlap';

/** Seconds since 1970 of a wall clock read as if it were UTC. */
const asUtc = (local: string): number => {
  const milliseconds = Date.parse(`${local}Z`);
  if (Number.isNaN(milliseconds)) throw new RangeError(`"${local}" is no date and time`);
  return milliseconds / 1000;
};

/**
 * The instant of a wall-clock time. In an overlap the first of the two is meant; a time in a gap is read with
 * the offset that held before the gap (RFC 5545, 3.3.5).
 *
 * @param local ISO 8601 without offset, e.g. `2026-12-15T12:00:00`
 * @returns seconds since 1970, and whether the time existed once, not at all, or twice
 */
export const toInstant = (local: string, zone: Zone): { instant: number; resolution: Resolution } => clockToInstant(asUtc(local), zone);

/** The same. @param seconds since 1970-01-01 on that clock */
export function clockToInstant(seconds: number, zone: Zone): { instant: number; resolution: Resolution } {
  const before = zone.period(seconds - 86_400).offset;
  const after = zone.period(seconds + 86_400).offset;
  const early = seconds - before;
  const late = seconds - after;
  if (before === after) return { instant: early, resolution: 'exact' };
  const earlyFits = zone.period(early).offset === before;
  const lateFits = zone.period(late).offset === after;
  if (earlyFits && lateFits) return { instant: Math.min(early, late), resolution: 'overlap' };
  if (earlyFits || lateFits) return { instant: earlyFits ? early : late, resolution: 'exact' };
  return { instant: early, resolution: 'gap' };
}

/** The wall clock in a zone, in seconds since 1970-01-01 on that clock. @param instant seconds since 1970 */
export const instantToClock = (instant: number, zone: Zone): number => instant + zone.period(instant).offset;

/** The wall clock in a zone: `2026-12-15T12:00:00`. @param instant seconds since 1970 */
export function toLocal(instant: number, zone: Zone): string {
  return new Date(Math.trunc(instantToClock(instant, zone)) * 1000).toISOString().slice(0, 19);
}

/** RFC 3339 in UTC: `2026-12-15T19:00:00Z`. @param instant seconds since 1970 */
export const formatInstant = (instant: number): string => `${toLocal(instant, UTC)}Z`;

/** Seconds since 1970 of an RFC 3339 date-time with offset. @throws RangeError when it is not one */
export const parseInstant = (text: string): number => {
  const milliseconds =
    /^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:?\d\d)$/i.test(text) && isDay(text.slice(0, 10))
      ? Date.parse(text.replace(/([+-]\d\d)(\d\d)$/, '$1:$2'))
      : Number.NaN;
  if (Number.isNaN(milliseconds)) throw new RangeError(`"${text}" is no date and time with an offset`);
  return milliseconds / 1000;
};
