import { type Frequency, InvalidRule, type Rule, type WeekdayOf } from './rule.ts';

/**
 * The times of a rule on one wall clock (RFC 5545, 3.3.10), in order: seconds since 1970-01-01 of a clock without zone.
 * Days are counted from 1970-01-01. Nothing here knows of zones; COUNT and UNTIL are the reader's.
 */

const DAY = 86_400;
/** Days and times that may be looked at between two that fit, and for one reading: far past any honest rule, and well below 200 ms. */
const MOST_WORK = 60_000;
const LAST_YEAR = 9999;

/** Days from 1970 to January 1st of a year, in the proleptic Gregorian calendar, whatever the two-digit rules of Date. */
function daysBefore(year: number): number {
  const y = year - 1;
  return 365 * (year - 1970) + Math.floor(y / 4) - 492 - (Math.floor(y / 100) - 19) + (Math.floor(y / 400) - 4);
}
const isLeap = (year: number) => (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
const MONTHS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
const monthLength = (year: number, month: number) => (month === 2 && isLeap(year) ? 29 : MONTHS[month - 1]!);
const mod = (n: number, by: number) => ((n % by) + by) % by;
/** 0: Monday. 1970-01-01 was a Thursday. */
const weekdayOf = (day: number): number => mod(day + 3, 7);
/** The day on which a month begins. */
const startOfMonth = (year: number, month: number): number => {
  let day = daysBefore(year);
  for (let m = 1; m < month; m++) day += monthLength(year, m);
  return day;
};

interface Civil {
  year: number;
  month: number;
  day: number;
}
/** The date of a day counted from 1970: by eras of 400 years that begin in March, so that the leap day is the last of its year. */
export function civilOf(number: number): Civil {
  const shifted = number + 719_468;
  const era = Math.floor(shifted / 146_097);
  const ofEra = shifted - era * 146_097;
  const yearOfEra = Math.floor((ofEra - Math.floor(ofEra / 1460) + Math.floor(ofEra / 36_524) - Math.floor(ofEra / 146_096)) / 365);
  const ofYear = ofEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100));
  const fromMarch = Math.floor((5 * ofYear + 2) / 153);
  const month = fromMarch < 10 ? fromMarch + 3 : fromMarch - 9;
  return { year: yearOfEra + era * 400 + (month <= 2 ? 1 : 0), month, day: ofYear - Math.floor((153 * fromMarch + 2) / 5) + 1 };
}

/** Times of the day, or of the hour or minute, in seconds. */
const product = (hours: number[], minutes: number[], seconds: number[]): number[] =>
  hours.flatMap((h) => minutes.flatMap((m) => seconds.map((s) => h * 3600 + m * 60 + Math.min(s, 59))));

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

/** Which days of a stretch fit the rule's parts about days. */
function dayFilter(rule: Rule): (day: number) => boolean {
  const months = rule.months.length === 0 ? null : new Set(rule.months);
  const monthDays = rule.monthDays.length === 0 ? null : new Set(rule.monthDays);
  const yearDays = rule.yearDays.length === 0 ? null : new Set(rule.yearDays);
  const each = new Set(rule.days.filter((d) => d.nth === 0).map((d) => d.day));
  const nths = rule.days.filter((d) => d.nth !== 0);
  const weeks = rule.weeks.length === 0 ? null : new Set(rule.weeks);
  const byDate = months !== null || monthDays !== null || yearDays !== null || weeks !== null || nths.length > 0;
  const fits = (day: number): boolean => {
    const weekday = weekdayOf(day);
    // Most rules name weekdays alone, and most days are another one.
    if (rule.days.length > 0 && !each.has(weekday) && !nths.some((d) => d.day === weekday)) return false;
    if (!byDate) return true;
    const civil = civilOf(day);
    if (months !== null && !months.has(civil.month)) return false;
    if (monthDays !== null) {
      const length = monthLength(civil.year, civil.month);
      if (!monthDays.has(civil.day) && !monthDays.has(civil.day - length - 1)) return false;
    }
    if (yearDays !== null) {
      const at = day - daysBefore(civil.year) + 1;
      if (!yearDays.has(at) && !yearDays.has(at - (isLeap(civil.year) ? 366 : 365) - 1)) return false;
    }
    if (weeks !== null && !isInWeeks(day, weeks, rule.weekStart)) return false;
    return rule.days.length === 0 || each.has(weekday) || nths.some((d) => d.day === weekday && isNth(day, civil, d, rule));
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

/** One period of the rule: the days in it, and the seconds of each day. */
interface Stretch {
  first: number;
  days: number;
  times: number[];
}

/**
 * @param start of the series, on the wall clock
 * @param window nothing outside of it is asked for: where nothing is counted, the rule is entered at its beginning
 * @throws InvalidRule when it asks for too much work
 */
export function* wallClockTimes(given: Rule, start: number, window: { from: number; until: number }): Generator<number> {
  const rule = completed(given, start);
  const fits = dayFilter(rule);
  const counted = rule.count !== null;
  const enter = counted ? start : Math.max(start, window.from);
  let work = 0;
  const spend = (n: number) => {
    work += n;
    if (work > MOST_WORK) throw new InvalidRule('the rule asks for more steps than any calendar needs: its times are too rare, or too many');
  };
  for (const { first, days, times } of stretches(rule, { start, enter, until: window.until }, spend)) {
    if (first * DAY > window.until) return;
    let found: number[] = [];
    spend(days);
    if (times.length > 0)
      for (let day = first; day < first + days; day++) {
        if (!fits(day)) continue;
        spend(times.length);
        for (const time of times) found.push(day * DAY + time);
      }
    if (rule.positions.length > 0) found = atPositions(found, rule.positions);
    for (const time of found) {
      if (time < start) continue;
      work = counted ? work : 0;
      yield time;
    }
  }
}

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
function* stretches(rule: Rule, reading: Reading, spend: (n: number) => void): Generator<Stretch> {
  const { start, enter } = reading;
  const { frequency, interval, weekStart } = rule;
  const startDay = Math.floor(start / DAY);
  const enterDay = Math.floor(enter / DAY);
  const ofDay = product(rule.hours, rule.minutes, rule.seconds);
  const skip = (units: number) => Math.max(0, Math.floor(units / interval)) * interval;
  if (frequency === 'YEARLY') {
    const begin = civilOf(startDay).year;
    // A week of a year may begin in the year before.
    for (let year = begin + skip(civilOf(enterDay).year - begin - 1); year <= LAST_YEAR; year += interval) {
      const [first, next] =
        rule.weeks.length === 0 ? [daysBefore(year), daysBefore(year + 1)] : [firstWeek(year, weekStart), firstWeek(year + 1, weekStart)];
      yield { first, days: next - first, times: ofDay };
    }
  } else if (frequency === 'MONTHLY') {
    const begin = civilOf(startDay);
    const at = civilOf(enterDay);
    const months = begin.year * 12 + begin.month - 1;
    for (let m = months + skip(at.year * 12 + at.month - 1 - months); m < (LAST_YEAR + 1) * 12; m += interval) {
      const [year, month] = [Math.floor(m / 12), (m % 12) + 1];
      spend(1);
      if (rule.months.length > 0 && !rule.months.includes(month)) continue;
      yield { first: startOfMonth(year, month), days: monthLength(year, month), times: ofDay };
    }
  } else if (frequency === 'WEEKLY' || frequency === 'DAILY') {
    const length = frequency === 'WEEKLY' ? 7 : 1;
    const begin = frequency === 'WEEKLY' ? startDay - mod(weekdayOf(startDay) - weekStart, 7) : startDay;
    const last = daysBefore(LAST_YEAR + 1);
    for (let day = begin + length * skip(Math.floor((enterDay - begin) / length)); day < last; day += length * interval)
      yield { first: day, days: length, times: ofDay };
  } else yield* finerStretches(rule, reading, spend);
}

/** Hours, minutes or seconds, one by one; days and hours that cannot fit are passed over. */
function* finerStretches(rule: Rule, { start, enter, until }: Reading, spend: (n: number) => void): Generator<Stretch> {
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
      yield { first: day, days: 1, times: product([hour], minutes, seconds) };
    }
    at += step;
  }
}
