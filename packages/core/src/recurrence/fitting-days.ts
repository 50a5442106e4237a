import { type Civil, civilOf, daysBefore, isLeap, mod, monthLength, startOfMonth, weekdayOf } from '../time/days.ts';
import type { Rule, WeekdayOf } from './rule.ts';

/** Which days a rule means (RFC 5545, 3.3.10): those that may be, named by its parts, and the filter that says whether they are. */

/** Numbers as places of a list: asking it is much of the work. */
function placesOf(numbers: readonly number[], size: number): boolean[] {
  const places = new Array<boolean>(size).fill(false);
  for (const n of numbers) places[n] = true;
  return places;
}

/** Which days of a stretch fit the rule's parts about days. */
export function dayFilter(rule: Rule): (day: number) => boolean {
  const months = rule.months.length === 0 ? null : placesOf(rule.months, 13);
  const monthDays = rule.monthDays.length === 0 ? null : new Set(rule.monthDays);
  const yearDays = rule.yearDays.length === 0 ? null : new Set(rule.yearDays);
  const plain = rule.days.filter((d) => d.nth === 0).map((d) => d.day);
  const each = placesOf(plain, 7);
  const nths = rule.days.filter((d) => d.nth !== 0);
  const weeks = rule.weeks.length === 0 ? null : new Set(rule.weeks);
  const byDate = months !== null || monthDays !== null || yearDays !== null || weeks !== null || nths.length > 0;
  // Most rules name weekdays alone, or nothing.
  if (!byDate) return rule.days.length === 0 ? () => true : (day) => each[weekdayOf(day)] === true;
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
    return rule.days.length === 0 || each[weekday] === true || nths.some((d) => d.day === weekday && isNth(day, civil, d, rule));
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
export function firstWeek(year: number, weekStart: number): number {
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
export interface Candidates {
  of: (first: number, days: number) => number[];
  /** they do fit: nothing else is asked of them */
  exact: boolean;
}

export function candidateDays(rule: Rule): Candidates {
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
