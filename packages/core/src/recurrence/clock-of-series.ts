import { type Component, type Line, lineOf, UnreadableEvent } from '../ical/content.ts';
import { expand as expandDate } from '../ical/dates.ts';
import { readClock } from '../ical/event-times.ts';
import { mod } from '../time/days.ts';
import { clockToInstant, instantToClock, type Period, type Zone, type ZoneTable } from '../time/zones.ts';
import { compactDate, compactLocal, secondsOf } from './clock-texts.ts';

const DAY = 86_400;

/** What a series is read with. */
export interface Reading {
  roots: Component[];
  zones: ZoneTable;
  /** the clock on which days and times without zone are looked at */
  home: Zone;
}

/** What the times of a series are counted in: days, instants of a zone, or a clock without zone. Times of it are seconds since 1970-01-01 there. */
export interface SeriesClock extends Reading {
  days: boolean;
  zone: Zone | null;
  /** the first time of the series */
  start: number;
  /** of a time on that clock, in seconds since 1970; cheap for times that come in order */
  instantOf: (wall: number) => number;
}

/** The clock of a series by its DTSTART, or by the RECURRENCE-ID of an occurrence that stands alone. */
export function clockOf(line: Line, { roots, zones, home }: Reading): SeriesClock {
  const days = /^\d{8}$/.test(line.value.trim());
  const { local, zone } = days ? { local: expandDate(line.value), zone: null } : readClock(line, roots, zones);
  return { roots, zones, home, days, zone, start: secondsOf(local), instantOf: instantsIn(zone ?? home) };
}

export function clockOfSeries(master: Component, reading: Reading): SeriesClock {
  const start = lineOf(master, 'DTSTART');
  if (start === undefined) throw new UnreadableEvent('the event has no DTSTART');
  return clockOf(start, reading);
}

/** The recurrence-id of a time. */
export function idOf(wall: number, { days, zone, instantOf }: SeriesClock): string {
  if (days) return compactDate(wall);
  if (zone === null) return compactLocal(wall);
  return `${compactLocal(instantOf(wall))}Z`;
}

/** What names an occurrence, as a number: an instant, or, where there is no zone, a place on the clock. */
export const keyOf = (wall: number, { zone, instantOf }: SeriesClock): number => (zone === null ? wall : instantOf(wall));

/** A date of the series on its clock: what is said in UTC or in another zone is the same instant there. */
export function onClock(line: Line, value: string, clock: SeriesClock): number {
  const text = expandDate(value);
  if (text.length === 10) return secondsOf(text) + (clock.days ? 0 : mod(clock.start, DAY));
  const { local, zone } = readClock({ ...line, value }, clock.roots, clock.zones);
  if (clock.days) return secondsOf(local.slice(0, 10));
  if (zone === null || clock.zone === null || zone.name === clock.zone.name) return secondsOf(local);
  return instantToClock(clockToInstant(secondsOf(local), zone).instant, clock.zone);
}

/**
 * Instants of wall-clock times that come in order: while no clock change is nearer than a day, the offset of the last one holds.
 * @returns seconds since 1970 of a wall clock in seconds
 */
function instantsIn(zone: Zone): (wall: number) => number {
  let period: Period | null = null;
  return (wall) => {
    if (period !== null) {
      const instant = wall - period.offset;
      const after = period.from === null || instant - DAY > period.from;
      if (after && (period.until === null || instant + DAY < period.until)) return instant;
    }
    const { instant } = clockToInstant(wall, zone);
    period = zone.period(instant);
    return instant;
  };
}
