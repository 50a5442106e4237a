import type { Component, Line } from '../ical/content.ts';
import { lengthOf } from '../ical/event-times.ts';
import { mod } from '../time/days.ts';
import { UTC } from '../time/zones.ts';
import { clockOfSeries, idOf, keyOf, onClock, type Reading, type SeriesClock } from './clock-of-series.ts';
import { InvalidRule } from './rule.ts';

/** Dates that a series has of its own, beside its rules: added ones (RDATE) and excluded ones (EXDATE; RFC 5545, 3.8.5). */

/** Most RDATE, EXDATE and overrides of one series. */
export const MOST_DATES = 10_000;
const DAY = 86_400;

const valuesOf = (line: Line): string[] => line.value.split(',').filter((v) => v.trim() !== '');

/** A time of a series, on its clock. */
export interface Time {
  wall: number;
  /** the end of a period that RDATE gives */
  until: number | null;
}

/** The times that an RDATE adds, in order. */
export function addedTimes(line: Line, clock: SeriesClock): Time[] {
  const values = valuesOf(line);
  if (values.length > MOST_DATES) throw new InvalidRule(`the series has more than ${MOST_DATES} added dates`);
  return values.map((value) => addedTime(line, value, clock)).sort((a, b) => a.wall - b.wall);
}

function addedTime(line: Line, value: string, clock: SeriesClock): Time {
  const [begin = '', end] = value.split('/');
  const wall = onClock(line, begin, clock);
  if (end === undefined) return { wall, until: null };
  if (!/^[+-]?P/i.test(end.trim())) return { wall, until: onClock(line, end, clock) };
  const { days, seconds } = lengthOf(end);
  return { wall, until: wall + days * DAY + seconds };
}

/** What is left out: times by what names them, and days on which whatever begins is. */
export interface Excluded {
  times: Set<number>;
  days: Set<number>;
}

export function excludedBy(master: Component, clock: SeriesClock): Excluded {
  const excluded: Excluded = { times: new Set(), days: new Set() };
  for (const line of master.lines) {
    if (line.name !== 'EXDATE') continue;
    for (const value of valuesOf(line)) {
      const wall = onClock(line, value, clock);
      if (/^\d{8}$/.test(value.trim())) excluded.days.add(Math.floor(wall / DAY));
      else excluded.times.add(keyOf(wall, clock));
      if (excluded.times.size + excluded.days.size > MOST_DATES) throw new InvalidRule(`the series has more than ${MOST_DATES} excluded dates`);
    }
  }
  return excluded;
}

/** @param key of the time, by {@link keyOf} */
export const isExcluded = ({ times, days }: Excluded, wall: number, key: number): boolean =>
  (times.size > 0 && times.has(key)) || (days.size > 0 && days.has(Math.floor(wall / DAY)));

/** A date that is added to a series, or excluded, on the clock of its start. */
export interface SeriesDate extends Time {
  /** is it at the time of day at which the series starts? */
  atStart: boolean;
}

/** The dates that a series has of its own. @throws UnreadableEvent */
export function datesOf(master: Component, name: 'RDATE' | 'EXDATE', { roots, zones }: Omit<Reading, 'home'>): SeriesDate[] {
  const clock = clockOfSeries(master, { roots, zones, home: UTC });
  return master.lines
    .filter((l) => l.name === name)
    .flatMap((line) => valuesOf(line).map((value) => addedTime(line, value, clock)))
    .slice(0, MOST_DATES)
    .map(({ wall, until }) => ({ wall, until, atStart: mod(wall, DAY) === mod(clock.start, DAY) }));
}

/** The lines of a series, without the exclusion of one occurrence, in whatever form it is written. */
export function withoutExclusion(master: Component, id: string, { roots, zones }: Omit<Reading, 'home'>): Line[] {
  const clock = clockOfSeries(master, { roots, zones, home: UTC });
  return master.lines.flatMap((line) => {
    if (line.name !== 'EXDATE') return [line];
    const values = valuesOf(line);
    const kept = values.filter((value) => idOf(onClock(line, value, clock), clock) !== id);
    if (kept.length === values.length) return [line];
    return kept.length === 0 ? [] : [{ ...line, value: kept.join(','), source: null }];
  });
}
