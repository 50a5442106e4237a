import { certain } from '../certain.ts';
import { countUntil } from '../time/count-until.ts';
import { type Component, lineOf } from './content.ts';
import { expand } from './dates.ts';

const weekdays = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'];

/** A change of the clock that comes every year: the n-th weekday of a month (-1: the last), or a day of it. */
export interface YearlyRule {
  month: number;
  weekday: number | null;
  nth: number | null;
  monthDay: number | null;
  /** instant after which it comes no more; null: it goes on */
  until: number | null;
}

/** One observance of a VTIMEZONE: what holds from each of its onsets on. */
export interface Observance {
  offset: number;
  before: number;
  daylight: boolean;
  /** the first onset, in seconds since 1970 */
  first: number;
  /** the hour of its onsets, on the clock that held before them */
  hour: string;
  /** the first onset, and further ones that are listed, in seconds since 1970 */
  onsets: number[];
  rule: YearlyRule | null;
}

function offsetOf(component: Component, name: string): number | null {
  const match = /^([+-])(\d\d)(\d\d)(\d\d)?$/.exec(lineOf(component, name)?.value.trim() ?? '');
  if (match === null) return null;
  const seconds = Number(match[2]) * 3600 + Number(match[3]) * 60 + Number(match[4] ?? 0);
  return match[1] === '-' ? -seconds : seconds;
}

/** The forms that writers use for a clock's changes; null for any other, of which the first onset counts alone. */
function yearlyRule(text: string | undefined): YearlyRule | null {
  if (text === undefined) return null;
  const parts = new Map(
    text
      .toUpperCase()
      .split(';')
      .map((p) => p.split('=') as [string, string]),
  );
  const month = Number(parts.get('BYMONTH'));
  if (parts.get('FREQ') !== 'YEARLY' || (parts.get('INTERVAL') ?? '1') !== '1' || !Number.isInteger(month) || month < 1 || month > 12) return null;
  const until = parts.get('UNTIL');
  const days = (parts.get('BYMONTHDAY') ?? '').split(',').filter(Boolean).map(Number);
  const day = /^([+-]?\d+)?(SU|MO|TU|WE|TH|FR|SA)$/.exec(parts.get('BYDAY') ?? '');
  const rule = { month, until: until === undefined ? null : Date.parse(expand(until).replace(/^(\d{4}-\d\d-\d\d)$/, '$1T00:00:00Z')) / 1000 };
  const [only] = days;
  if (day === null) return only !== undefined && days.length === 1 ? { ...rule, weekday: null, nth: null, monthDay: only } : null;
  const weekday = weekdays.indexOf(day[2] ?? '');
  if (day[1] !== undefined) return { ...rule, weekday, nth: Number(day[1]), monthDay: null };
  // The first Sunday on or after the 8th is written as seven days of the month, too.
  return days.length === 7 ? { ...rule, weekday, nth: null, monthDay: Math.min(...days) } : null;
}

const asUtc = (local: string) => Date.parse(`${local.length === 10 ? `${local}T00:00:00` : local}Z`) / 1000;

/** One observance of a VTIMEZONE as it is written (RFC 5545, 3.6.5); null without a start or an offset that can be read. */
export function observanceOf(component: Component): Observance | null {
  const start = lineOf(component, 'DTSTART')?.value;
  const offset = offsetOf(component, 'TZOFFSETTO');
  if (start === undefined || offset === null) return null;
  const listed = component.lines.filter((l) => l.name === 'RDATE').flatMap((l) => l.value.split(',').map((v) => v.replace(/\/.*/s, '')));
  const before = offsetOf(component, 'TZOFFSETFROM') ?? offset;
  const onsetAt = (text: string) => asUtc(expand(text).replace(/Z$/, '')) - before;
  return {
    offset,
    before,
    daylight: component.name === 'DAYLIGHT',
    first: onsetAt(start),
    hour: expand(start).slice(11, 19) || '00:00:00',
    onsets: [start, ...listed].map(onsetAt),
    rule: yearlyRule(lineOf(component, 'RRULE')?.value),
  };
}

/** The day of the month in that year; null when there is none. */
function dayIn(rule: YearlyRule, year: number): number | null {
  const length = new Date(Date.UTC(year, rule.month, 0)).getUTCDate();
  const first = new Date(Date.UTC(year, rule.month - 1, 1)).getUTCDay();
  if (rule.weekday === null) return rule.monthDay !== null && rule.monthDay <= length ? rule.monthDay : null;
  const toWeekday = (rule.weekday - first + 7) % 7;
  if (rule.nth === null) {
    const from = certain(rule.monthDay, 'a weekday without a number goes by the day of the month');
    return from + ((rule.weekday - new Date(Date.UTC(year, rule.month - 1, from)).getUTCDay() + 7) % 7);
  }
  const lastOne = 1 + toWeekday + 7 * Math.floor((length - 1 - toWeekday) / 7);
  const day = rule.nth > 0 ? 1 + toWeekday + 7 * (rule.nth - 1) : lastOne + 7 * (rule.nth + 1);
  return day >= 1 && day <= length ? day : null;
}

/** A change of the clock: what holds from an instant on, in seconds since 1970. */
export interface Change {
  at: number;
  to: Observance;
}

export const inOrder = (changes: Change[]): Change[] => changes.sort((a, b) => a.at - b.at);

/** What the rules of some observances do from the year before to the year after. */
export function ruledAround(observances: readonly Observance[], year: number): Change[] {
  const found: Change[] = [];
  for (const to of observances) {
    const { rule, first, before, hour } = to;
    if (rule === null) continue;
    for (let y = year - 1; y <= year + 1; y++) {
      const day = dayIn(rule, y);
      if (day === null) continue;
      const at = Date.UTC(y, rule.month - 1, day) / 1000 + asUtc(`1970-01-01T${hour}`) - before;
      if (at > first && (rule.until === null || at <= rule.until)) found.push({ at, to });
    }
  }
  return inOrder(found);
}

/** The last change until an instant, and the first one after it. */
export function changesAround(changes: readonly Change[], instant: number): { last: Change | undefined; next: Change | undefined } {
  const passed = countUntil(changes.length, (place) => certain(changes[place], 'it lies within the list').at, instant);
  return { last: changes[passed - 1], next: changes[passed] };
}
