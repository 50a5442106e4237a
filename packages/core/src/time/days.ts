/** The calendar as arithmetic. Days are counted from 1970-01-01, in the proleptic Gregorian calendar. */

/** Days from 1970 to January 1st of a year, in the proleptic Gregorian calendar, whatever the two-digit rules of Date. */
export function daysBefore(year: number): number {
  const y = year - 1;
  return 365 * (year - 1970) + Math.floor(y / 4) - 492 - (Math.floor(y / 100) - 19) + (Math.floor(y / 400) - 4);
}
export const isLeap = (year: number) => (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
const MONTHS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
/** @param month 1 to 12 */
export const monthLength = (year: number, month: number) => (month === 2 && isLeap(year) ? 29 : (MONTHS[month - 1] ?? 0));
/** Is it a day that exists, such as `2026-12-25`? `Date` takes February 30 for March 2. */
export function isDay(text: string): boolean {
  if (!/^\d{4}-\d\d-\d\d$/.test(text)) return false;
  const [year, month, day] = [Number(text.slice(0, 4)), Number(text.slice(5, 7)), Number(text.slice(8))];
  return month >= 1 && month <= 12 && day >= 1 && day <= monthLength(year, month);
}
/** The remainder that is never negative. */
export const mod = (n: number, by: number) => ((n % by) + by) % by;
/** 0: Monday. 1970-01-01 was a Thursday. */
export const weekdayOf = (day: number): number => mod(day + 3, 7);
/** The day on which a month begins. */
export const startOfMonth = (year: number, month: number): number => {
  let day = daysBefore(year);
  for (let m = 1; m < month; m++) day += monthLength(year, m);
  return day;
};

export interface Civil {
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
