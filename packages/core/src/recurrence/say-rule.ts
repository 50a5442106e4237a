import { parseRecurrence } from './recurrence-text.ts';
import { InvalidRule, parseRule, type Rule, type WeekdayOf } from './rule.ts';

/** A rule in words: `every second Tuesday, until 30 June 2026`. What words would make longer than the rule is said as it is. */
export function sayRule(rule: Rule): string {
  const parts = [everyOf(rule), ...onOf(rule)].join(' ');
  const unsaid = rule.positions.length + rule.yearDays.length + rule.weeks.length + rule.minutes.length + rule.seconds.length > 0;
  return `${parts}${unsaid ? ', by a rule of several parts' : ''}${endOf(rule)}`;
}

const names = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const months = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];
const units = { SECONDLY: 'second', MINUTELY: 'minute', HOURLY: 'hour', DAILY: 'day', WEEKLY: 'week', MONTHLY: 'month', YEARLY: 'year' };

const list = (items: string[]): string => (items.length < 2 ? (items[0] ?? '') : `${items.slice(0, -1).join(', ')} and ${items.at(-1)}`);

function ordinal(n: number): string {
  if (n === -1) return 'last';
  if (n < 0) return `${ordinal(-n)} to last`;
  const words = ['', 'first', 'second', 'third', 'fourth', 'fifth'];
  const ending = n % 100 >= 11 && n % 100 <= 13 ? 'th' : (['th', 'st', 'nd', 'rd'][n % 10] ?? 'th');
  return words[n] ?? `${n}${ending}`;
}

function everyOf({ frequency, interval, days }: Rule): string {
  // "Every second Tuesday" is a week's work; with several days it is "every second week on ...".
  const [only] = days;
  if (only !== undefined && frequency === 'WEEKLY' && days.length === 1)
    return `every ${interval === 1 ? '' : `${ordinal(interval)} `}${names[only.day]}`;
  if (frequency === 'WEEKLY' && interval === 1 && isWorkdays(days)) return 'every weekday';
  return `every ${interval === 1 ? '' : `${ordinal(interval)} `}${units[frequency]}`;
}

const isWorkdays = (days: WeekdayOf[]): boolean => days.length === 5 && days.every((d) => d.day < 5);

function onOf({ frequency, interval, days, monthDays, months: inMonths, hours }: Rule): string[] {
  const said: string[] = [];
  const weekly = frequency === 'WEEKLY' && (days.length === 1 || (interval === 1 && isWorkdays(days)));
  if (days.length > 0 && !weekly) {
    const sorted = [...days].sort((a, b) => a.nth - b.nth || a.day - b.day);
    said.push(`on ${list(sorted.map((d) => (d.nth === 0 ? `${names[d.day]}` : `the ${ordinal(d.nth)} ${names[d.day]}`)))}`);
  }
  if (monthDays.length > 0) said.push(`on the ${list(monthDays.map((d) => (d < 0 ? `${ordinal(d)} day` : `${ordinalOfDay(d)}`)))}`);
  if (inMonths.length > 0) said.push(`in ${list(inMonths.map((m) => months[m - 1] ?? ''))}`);
  if (hours.length > 0) said.push(`at ${list(hours.map((h) => `${String(h).padStart(2, '0')}:00`))}`);
  return said;
}

function ordinalOfDay(day: number): string {
  const ending = day >= 11 && day <= 13 ? 'th' : (['th', 'st', 'nd', 'rd'][day % 10] ?? 'th');
  return `${day}${ending}`;
}

function endOf({ count, until }: Rule): string {
  if (count !== null) return `, ${count} ${count === 1 ? 'time' : 'times'}`;
  if (until === null) return '';
  return `, until ${Number(until.slice(6, 8))} ${months[Number(until.slice(4, 6)) - 1]} ${until.slice(0, 4)}`;
}

/** The rules of a series in words; one that is not legal says why. @param rules as written, without `RRULE:` */
export function sayRules(rules: readonly string[]): string {
  if (rules.length === 0) return 'on added dates';
  return list(
    rules.slice(0, 3).map((rule) => {
      try {
        return sayRule(parseRule(rule));
      } catch (error) {
        if (!(error instanceof InvalidRule)) throw error;
        return error.message;
      }
    }),
  );
}

/** Most dates that are named one by one. */
const MOST_NAMED = 4;

function sayDays(days: readonly string[]): string {
  const named = [...days]
    .sort()
    .slice(0, MOST_NAMED)
    .map((d) => `${Number(d.slice(6, 8))} ${months[Number(d.slice(4, 6)) - 1]} ${d.slice(0, 4)}`);
  return list(days.length > MOST_NAMED ? [...named, `${days.length - MOST_NAMED} more`] : named);
}

/** How an event repeats, in words: `every week, until 17 January 2027; without 27 December 2026`. @param text see `Recurrence` */
export function sayRecurrence(text: string): string {
  const { rules, added, excluded } = parseRecurrence(text);
  return [
    ...(rules.length === 0 ? [] : [sayRules(rules)]),
    ...(added.length === 0 ? [] : [`${rules.length === 0 ? 'on' : 'also on'} ${sayDays(added)}`]),
    ...(excluded.length === 0 ? [] : [`without ${sayDays(excluded)}`]),
  ].join('; ');
}
