import { civilOf, mod, startOfMonth } from '../time/days.ts';

/** Times of a clock, in seconds since 1970-01-01 on it, as texts. */

const twoDigits = Array.from({ length: 100 }, (_, n) => String(n).padStart(2, '0'));
const two = (n: number): string => twoDigits[n] ?? String(n);
/** Times of one series come day by day, each asked for several times. */
let lastDay = { number: Number.NaN, date: '', compact: '' };

function dayTexts(number: number): { date: string; compact: string } {
  if (lastDay.number !== number) {
    const { year, month, day } = civilOf(number);
    const texts = [String(year).padStart(4, '0'), two(month), two(day)];
    lastDay = { number, date: texts.join('-'), compact: texts.join('') };
  }
  return lastDay;
}

function clockTexts(wall: number): [hours: string, minutes: string, seconds: string] {
  const time = mod(wall, 86_400);
  return [two(Math.floor(time / 3600)), two(Math.floor(time / 60) % 60), two(time % 60)];
}

/** `2026-12-15T12:00:00` of seconds on a clock. */
export const localText = (wall: number): string => `${dayTexts(Math.floor(wall / 86_400)).date}T${clockTexts(wall).join(':')}`;
/** `2026-12-15` of the same. */
export const dateText = (wall: number): string => dayTexts(Math.floor(wall / 86_400)).date;
/** `20261215T120000` of the same. */
export const compactLocal = (wall: number): string => `${compactDate(wall)}T${clockTexts(wall).join('')}`;
/** `20261215` of the same. */
export const compactDate = (wall: number): string => dayTexts(Math.floor(wall / 86_400)).compact;

/** Seconds on a clock of `2026-12-15T12:00:00` or `2026-12-15` on it. */
export function secondsOf(local: string): number {
  const two = (at: number) => local.charCodeAt(at) * 10 + local.charCodeAt(at + 1) - 528;
  const day = startOfMonth(two(0) * 100 + two(2), two(5)) + two(8) - 1;
  return day * 86_400 + (local.length === 10 ? 0 : two(11) * 3600 + two(14) * 60 + two(17));
}
