import type { Component } from '../ical/content.ts';
import { expand as expandDate } from '../ical/dates.ts';
import type { SeriesClock } from './clock-of-series.ts';
import { secondsOf } from './clock-texts.ts';
import { addedTimes } from './dates-of-series.ts';
import { InvalidRule, knownRule, type Rule } from './rule.ts';
import { eachTime } from './wall-clock.ts';

const DAY = 86_400;

/** @param until the end of a period that RDATE gives. @returns false: no more are wanted of this rule, or these dates */
type VisitTime = (wall: number, until: number | null) => boolean;

/** All times of a series, rule by rule: its start first, which is one whether or not a rule names it (RFC 5545, 3.8.5.3). */
export function eachTimeOf(master: Component, clock: SeriesClock, window: { from: number; until: number }, visit: VisitTime): void {
  visit(clock.start, null);
  for (const { name, value } of master.lines) if (name === 'RRULE') eachTimeOfRule(knownRule(value), clock, window, visit);
  for (const line of master.lines) if (line.name === 'RDATE') addedTimes(line, clock).every(({ wall, until }) => visit(wall, until));
}

function eachTimeOfRule(rule: Rule, clock: SeriesClock, window: { from: number; until: number }, visit: VisitTime): void {
  // Clock times say nothing of days (RFC 5545, 3.3.10).
  const fitting = clock.days ? { ...rule, hours: [], minutes: [], seconds: [] } : rule;
  if (clock.days && ['SECONDLY', 'MINUTELY', 'HOURLY'].includes(rule.frequency))
    throw new InvalidRule(`the rule goes by ${rule.frequency} and its series by days`);
  const isAfter = endOfRule(rule, clock);
  // The start is the first of those that are counted.
  let left = rule.count === null ? Number.POSITIVE_INFINITY : rule.count - 1;
  eachTime(fitting, clock.start, window, (wall) => {
    if (wall === clock.start) return true;
    if (wall > window.until || isAfter?.(wall) === true || left-- <= 0) return false;
    return wall < window.from || visit(wall, null);
  });
}

/** Is a time after UNTIL? It may be a day, an instant, or a time on the clock of the start. */
function endOfRule({ until }: Rule, clock: SeriesClock): ((wall: number) => boolean) | null {
  if (until === null) return null;
  const text = expandDate(until);
  if (text.length === 10) return (wall) => Math.floor(wall / DAY) * DAY > secondsOf(text);
  if (clock.days) return (wall) => wall > secondsOf(text.slice(0, 10));
  const last = secondsOf(text.replace('Z', ''));
  if (!text.endsWith('Z') || clock.zone === null) return (wall) => wall > last;
  return (wall) => clock.instantOf(wall) > last;
}
