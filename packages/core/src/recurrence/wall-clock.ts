import { type Civil, civilOf, daysBefore, isLeap, mod, monthLength, startOfMonth, weekdayOf } from '../time/days.ts';
import { type Frequency, InvalidRule, type Rule, type WeekdayOf } from './rule.ts';

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

/** Numbers as places of a list: asking it is much of the work. */
function placesOf(numbers: readonly number[], size: number): boolean[] {
  const places = new Array<boolean>(size).fill(false);
  for (const n of numbers) places[n] = true;
  return places;
}

/** Which days of a stretch fit the rule's parts about days. */
function dayFilter(rule: Rule): (day: number) => boolean {
  const months = rule.months.length === 0 ? null : placesOf(rule.months, 13);
  const monthDays = rule.monthDays.length === 0 ? null : new Set(rule.monthDays);
  const yearDays = rule.yearDays.length === 0 ? null : new Set(rule.yearDays);
  const plain = rule.days.filter((d) => d.nth === 0).map((d) => d.day);
  const each = placesOf(plain, 7);
  const nths = rule.days.filter((d) => d.nth !== 0);
  const weeks = rule.weeks.length === 0 ? null : new Set(rule.weeks);
  const byDate = months !== null || monthDays !== null || yearDays !== null || weeks !== null || nths.length > 0;
  // Most rules name weekdays alone, or nothing.
  if (!byDate) return rule.days.length === 0 ? () => true : (day) => each[weekdayOf(day)]!;
  const fits = (day: number): boolean => {
    const weekday = weekdayOf(day);
    if (rule.days.length > 0 && !each[weekday] && !nths.some((d) => d.day === weekday)) return false;
    const civil = civilOf(day);
    if (months !== null && !months[civil.month]) return false;
    if (monthDays !== null) {
      const length = monthLength(civil.year, civil.month);
      if (!monthDays.has(civil.day) && !monthDays.has(civil.day - length - 1)) return false;
    }
    if (yearDays !== null) {
      const at = day - daysBefore(civil.year) + 1;
      if (!yearDays.has(at) && !yearDays.has(at - (isLeap(civil.year) ? 366 : 365) - 1)) return false;
    }
    if (weeks !== null && !isInWeeks(day, weeks, rule.weekStart)) return false;
    return rule.days.length === 0 || each[weekday]! || nths.some((d) => d.day === weekday && isNth(day, civil, d, rule));
  };
  // Rules that go by hours or less ask for the same day again and again.
  let known = { day: Number.NaN, fits: false };
  return (day) => {
    if (known.day !== day) known = { day, fits: fits(day) };
    return known.fits;
  };
}

/** Is the day its weekday's n-th of its month, or of its year where the rule goes by years and names no months? */
function isNth(day: number, civil: Civil, { nth }: WeekdayOf, rule: Rule): boolean {
  const yearly = rule.frequency === 'YEARLY' && rule.months.length === 0;
  const first = yearly ? daysBefore(civil.year) : startOfMonth(civil.year, civil.month);
  const length = yearly ? (isLeap(civil.year) ? 366 : 365) : monthLength(civil.year, civil.month);
  const at = day - first;
  return nth > 0 ? Math.floor(at / 7) + 1 === nth : Math.floor((length - 1 - at) / 7) + 1 === -nth;
}

/** Day on which week 1 of a year begins: the first week with at least four days in it (ISO 8601, with any first weekday). */
function firstWeek(year: number, weekStart: number): number {
  const first = daysBefore(year);
  const into = mod(weekdayOf(first) - weekStart, 7);
  return into <= 3 ? first - into : first + 7 - into;
}

function isInWeeks(day: number, weeks: ReadonlySet<number>, weekStart: number): boolean {
  let { year } = civilOf(day);
  if (day >= firstWeek(year + 1, weekStart)) year++;
  else if (day < firstWeek(year, weekStart)) year--;
  const begin = firstWeek(year, weekStart);
  const number = Math.floor((day - begin) / 7) + 1;
  const total = (firstWeek(year + 1, weekStart) - begin) / 7;
  return weeks.has(number) || weeks.has(number - total - 1);
}

/** In order, each once. */
const inOrder = (days: number[]): number[] => (days.length < 2 ? days : days.sort((a, b) => a - b).filter((d, i) => d !== days[i - 1]));

/**
 * The days of a stretch that may fit, in order: those that the rule names, or all of them. That spares looking at each day
 * of a year for one of them.
 */
interface Candidates {
  of: (first: number, days: number) => number[];
  /** they do fit: nothing else is asked of them */
  exact: boolean;
}

function candidateDays(rule: Rule): Candidates {
  const { monthDays, yearDays, weeks, months, days, frequency } = rule;
  const plain = yearDays.length + weeks.length === 0;
  if (monthDays.length > 0) return { of: (first, count) => daysOfMonths(rule, first, count), exact: plain && days.length === 0 };
  if (days.length > 0) {
    // Weekdays with a number are counted in the month, or in the year: that is the stretch, unless a year's months are named.
    const counted = plain && (frequency === 'MONTHLY' || (frequency === 'YEARLY' && months.length === 0));
    return { of: (first, count) => weekdaysIn(days, counted, first, count), exact: counted };
  }
  if (yearDays.length > 0 && weeks.length === 0)
    return { of: (first, count) => inOrder(yearDays.map((n) => (n > 0 ? first + n - 1 : first + count + n))), exact: false };
  return { of: (first, count) => Array.from({ length: count }, (_, i) => first + i), exact: false };
}

/** The days of its months that the rule names. */
function daysOfMonths({ months, monthDays }: Rule, first: number, count: number): number[] {
  const found: number[] = [];
  const next = first + count;
  let { year, month, day } = civilOf(first);
  for (let begin = first - day + 1; begin < next; ) {
    const length = monthLength(year, month);
    if (months.length === 0 || months.includes(month))
      for (const n of monthDays) {
        const at = n > 0 ? begin + n - 1 : begin + length + n;
        if (Math.abs(n) <= length && at >= first && at < next) found.push(at);
      }
    begin += length;
    month = (month % 12) + 1;
    if (month === 1) year++;
  }
  return inOrder(found);
}

/** Weekdays of a stretch. @param counted by their numbers in it, where they have one; else each is a candidate */
function weekdaysIn(weekdays: readonly WeekdayOf[], counted: boolean, first: number, count: number): number[] {
  const found: number[] = [];
  const last = first + count - 1;
  for (const { day, nth } of weekdays) {
    const earliest = first + mod(day - weekdayOf(first), 7);
    if (!counted || nth === 0) for (let at = earliest; at <= last; at += 7) found.push(at);
    else {
      const at = nth > 0 ? earliest + 7 * (nth - 1) : last - mod(weekdayOf(last) - day, 7) + 7 * (nth + 1);
      if (at >= first && at <= last) found.push(at);
    }
  }
  return inOrder(found);
}

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
  return [...new Set(at)].sort((a, b) => a - b).map((i) => found[i]!);
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
