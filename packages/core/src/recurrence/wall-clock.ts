import { civilOf, daysBefore, mod, monthLength, startOfMonth, weekdayOf } from '../time/days.ts';
import { candidateDays, dayFilter, firstWeek } from './fitting-days.ts';
import { type Frequency, InvalidRule, type Rule } from './rule.ts';

/**
 * The times of a rule on one wall clock (RFC 5545, 3.3.10), in order: seconds since 1970-01-01 of a clock without zone.
 * Nothing here knows of zones; COUNT and UNTIL are the reader's.
 */

const DAY = 86_400;
/** Days and times that may be looked at between two that fit, and for one reading: far past any honest rule, and well below 200 ms. */
const MOST_WORK = 60_000;
const LAST_YEAR = 9999;
const LAST_DAY = daysBefore(LAST_YEAR + 1) - 1;

/** Times of the day, or of the hour or minute, in seconds. */
function product(hours: number[], minutes: number[], seconds: number[]): number[] {
  const times: number[] = [];
  for (const h of hours) for (const m of minutes) for (const s of seconds) times.push(h * 3600 + m * 60 + Math.min(s, 59));
  return times;
}

/** The rule with what it takes from its start where it says nothing (RFC 5545, 3.3.10). */
function completed(rule: Rule, start: number): Rule {
  const { month, day } = civilOf(Math.floor(start / DAY));
  const time = mod(start, DAY);
  const { frequency } = rule;
  const full = { ...rule };
  const undated = rule.days.length + rule.monthDays.length + rule.yearDays.length === 0;
  if (frequency === 'YEARLY' && undated) {
    if (rule.weeks.length > 0) full.days = [{ day: weekdayOf(Math.floor(start / DAY)), nth: 0 }];
    else {
      full.monthDays = [day];
      if (rule.months.length === 0) full.months = [month];
    }
  }
  if (frequency === 'MONTHLY' && undated) full.monthDays = [day];
  if (frequency === 'WEEKLY' && rule.days.length === 0) full.days = [{ day: weekdayOf(Math.floor(start / DAY)), nth: 0 }];
  if (finer(frequency, 'HOURLY') && rule.hours.length === 0) full.hours = [Math.floor(time / 3600)];
  if (finer(frequency, 'MINUTELY') && rule.minutes.length === 0) full.minutes = [Math.floor(time / 60) % 60];
  if (finer(frequency, 'SECONDLY') && rule.seconds.length === 0) full.seconds = [time % 60];
  return full;
}

const ORDER: Frequency[] = ['SECONDLY', 'MINUTELY', 'HOURLY', 'DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'];
/** Does the rule go by more than this unit, so that the unit is taken from the start? */
const finer = (frequency: Frequency, unit: Frequency) => ORDER.indexOf(frequency) > ORDER.indexOf(unit);

/** What is to be done with a time, or a stretch; false: no more are wanted. */
type Visit<T> = (item: T) => boolean;

/** One period of the rule: the days in it, and the seconds of each day. */
interface Stretch {
  first: number;
  days: number;
  times: number[];
}

/**
 * Visits the times of a rule in order, until the visitor wants no more.
 *
 * @param start of the series, on the wall clock
 * @param window nothing outside of it is asked for: where nothing is counted, the rule is entered at its beginning
 * @throws InvalidRule when it asks for too much work
 */
export function eachTime(given: Rule, start: number, window: { from: number; until: number }, visit: Visit<number>): void {
  const rule = completed(given, start);
  const candidates = candidateDays(rule);
  const fits = dayFilter(rule);
  const counted = rule.count !== null;
  const enter = counted ? start : Math.max(start, window.from);
  let work = 0;
  const spend = (n: number) => {
    work += n;
    if (work > MOST_WORK) throw new InvalidRule('the rule asks for more steps than any calendar needs: its times are too rare, or too many');
  };
  const timesIn = ({ first, days, times }: Stretch): number[] => {
    const found: number[] = [];
    if (times.length === 0) return found;
    const those = days === 1 ? [first] : candidates.of(first, days);
    const sure = days > 1 && candidates.exact;
    spend(Math.max(1, those.length));
    for (const day of those) {
      if (!sure && !fits(day)) continue;
      spend(times.length);
      for (const time of times) found.push(day * DAY + time);
    }
    return rule.positions.length > 0 ? atPositions(found, rule.positions) : found;
  };
  const visitAll = (times: readonly number[], later: number): boolean => {
    for (const time of times) {
      if (later + time < start) continue;
      if (!counted) work = 0;
      if (!visit(later + time)) return false;
    }
    return true;
  };
  const reading = { start, enter, until: window.until };
  if (!isRegular(rule)) {
    eachStretch(rule, reading, spend, (stretch) => stretch.first * DAY <= window.until && visitAll(timesIn(stretch), 0));
    return;
  }
  const { first, days, step } = firstStretch(rule, reading);
  const times = timesIn({ first, days, times: product(rule.hours, rule.minutes, rule.seconds) });
  const last = Math.min(Math.floor(window.until / DAY), LAST_DAY);
  for (let later = 0; first + later <= last; later += step) {
    spend(1);
    if (!visitAll(times, later * DAY)) return;
  }
}

/** Is each period of the rule like the other? Then its times are found once. */
const isRegular = ({ frequency, months, monthDays, days }: Rule): boolean =>
  months.length + monthDays.length === 0 && (frequency === 'WEEKLY' || (frequency === 'DAILY' && days.length === 0));

function atPositions(found: number[], positions: number[]): number[] {
  const at = positions.map((p) => (p > 0 ? p - 1 : found.length + p)).filter((i) => i >= 0 && i < found.length);
  return [...new Set(at)].sort((a, b) => a - b).flatMap((i) => found[i] ?? []);
}

/** Where a rule begins, where its reader enters, and where they have seen enough; on the wall clock. */
interface Reading {
  start: number;
  enter: number;
  until: number;
}

/** The periods of a rule from its start on, or from the one in which the reader enters. */
function eachStretch(rule: Rule, reading: Reading, spend: (n: number) => void, visit: Visit<Stretch>): void {
  const { start, enter } = reading;
  const { frequency, interval, weekStart } = rule;
  const startDay = Math.floor(start / DAY);
  const enterDay = Math.floor(enter / DAY);
  const times = product(rule.hours, rule.minutes, rule.seconds);
  const skip = (units: number) => Math.max(0, Math.floor(units / interval)) * interval;
  if (frequency === 'YEARLY') {
    const begin = civilOf(startDay).year;
    // A week of a year may begin in the year before.
    for (let year = begin + skip(civilOf(enterDay).year - begin - 1); year <= LAST_YEAR; year += interval) {
      const [first, next] =
        rule.weeks.length === 0 ? [daysBefore(year), daysBefore(year + 1)] : [firstWeek(year, weekStart), firstWeek(year + 1, weekStart)];
      if (!visit({ first, days: next - first, times })) return;
    }
  } else if (frequency === 'MONTHLY') {
    const begin = civilOf(startDay);
    const at = civilOf(enterDay);
    const months = begin.year * 12 + begin.month - 1;
    for (let m = months + skip(at.year * 12 + at.month - 1 - months); m < (LAST_YEAR + 1) * 12; m += interval) {
      const [year, month] = [Math.floor(m / 12), (m % 12) + 1];
      spend(1);
      if (rule.months.length > 0 && !rule.months.includes(month)) continue;
      if (!visit({ first: startOfMonth(year, month), days: monthLength(year, month), times })) return;
    }
  } else if (frequency === 'WEEKLY' || frequency === 'DAILY') {
    const { first, days, step } = firstStretch(rule, reading);
    for (let day = first; day <= LAST_DAY; day += step) if (!visit({ first: day, days, times })) return;
  } else eachFinerStretch(rule, reading, spend, visit);
}

/** The week, or the day, in which a rule that goes by these begins, or its reader enters; and the days from one to the next. */
function firstStretch({ frequency, interval, weekStart }: Rule, { start, enter }: Reading): { first: number; days: number; step: number } {
  const days = frequency === 'WEEKLY' ? 7 : 1;
  const startDay = Math.floor(start / DAY);
  const begin = frequency === 'WEEKLY' ? startDay - mod(weekdayOf(startDay) - weekStart, 7) : startDay;
  const passed = Math.max(0, Math.floor((Math.floor(enter / DAY) - begin) / days));
  return { first: begin + days * interval * Math.floor(passed / interval), days, step: days * interval };
}

/** Hours, minutes or seconds, one by one; days and hours that cannot fit are passed over. */
function eachFinerStretch(rule: Rule, { start, enter, until }: Reading, spend: (n: number) => void, visit: Visit<Stretch>): void {
  const { frequency, interval } = rule;
  const unit = frequency === 'HOURLY' ? 3600 : frequency === 'MINUTELY' ? 60 : 1;
  const step = unit * interval;
  const fits = dayFilter(rule);
  const last = Math.min(until + 1, daysBefore(LAST_YEAR + 1) * DAY);
  const begin = Math.floor(start / unit) * unit;
  /** the first step at or after a time */
  const stepAt = (time: number) => begin + Math.max(0, Math.ceil((time - begin) / step)) * step;
  for (let at = stepAt(Math.floor(enter / unit) * unit); at < last; ) {
    const day = Math.floor(at / DAY);
    spend(1);
    if (!fits(day)) {
      at = stepAt((day + 1) * DAY);
      continue;
    }
    const time = at - day * DAY;
    const [hour, minute, second] = [Math.floor(time / 3600), Math.floor(time / 60) % 60, time % 60];
    if (rule.hours.length > 0 && !rule.hours.includes(hour)) {
      at = Math.max(stepAt(day * DAY + (hour + 1) * 3600), at + step);
      continue;
    }
    const minuteFits = frequency === 'HOURLY' || rule.minutes.length === 0 || rule.minutes.includes(minute);
    const secondFits = frequency !== 'SECONDLY' || rule.seconds.length === 0 || rule.seconds.includes(second);
    if (minuteFits && secondFits) {
      const minutes = frequency === 'HOURLY' ? rule.minutes : [minute];
      const seconds = frequency === 'SECONDLY' ? [second] : rule.seconds;
      if (!visit({ first: day, days: 1, times: product([hour], minutes, seconds) })) return;
    }
    at += step;
  }
}
