import { UnreadableEvent } from '../ical/content.ts';

/** Recurrence rules (RFC 5545, 3.3.10): read strictly, so that an illegal one costs its own item, with the reason. */

export const frequencies = ['SECONDLY', 'MINUTELY', 'HOURLY', 'DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'] as const;
export type Frequency = (typeof frequencies)[number];

/** Weekdays as RFC 5545 writes them; Monday is 0. */
export const weekdays = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] as const;

/** A weekday, or its n-th (from the end: negative) of the month or year; 0: each. */
export interface WeekdayOf {
  /** 0: Monday */
  day: number;
  nth: number;
}

export interface Rule {
  frequency: Frequency;
  interval: number;
  count: number | null;
  /** as written: `20260630`, `20260630T220000Z` or a wall clock; null: no end */
  until: string | null;
  seconds: number[];
  minutes: number[];
  hours: number[];
  days: WeekdayOf[];
  monthDays: number[];
  yearDays: number[];
  weeks: number[];
  months: number[];
  positions: number[];
  /** 0: Monday */
  weekStart: number;
}

/** A rule that RFC 5545 does not allow, or that asks for more work than any calendar needs: its event cannot be read. */
export class InvalidRule extends UnreadableEvent {
  override name = 'InvalidRule';
}

const LONGEST = 2000;
/** More than any calendar has: larger ones are slips, or hostile. */
const MOST = { interval: 100_000, count: 10_000_000 };

const invalid = (part: string, why: string): never => {
  throw new InvalidRule(`the rule's ${part} ${why}`);
};

const whole = (part: string, text: string, least: number, most: number): number => {
  if (!/^\d{1,10}$/.test(text) || Number(text) < least || Number(text) > most)
    invalid(part, `"${text.slice(0, 40)}" is no whole number from ${least} to ${most}`);
  return Number(text);
};

/** Numbers from `least` to `most`; signed ones also from the end, and never 0. */
function numbers(part: string, text: string, [least, most]: readonly [number, number], signed: boolean): number[] {
  const all = text.split(',').map((item) => {
    const n = Number(item);
    const fits = /^[+-]?\d{1,3}$/.test(item) && (signed || /^\d/.test(item)) && Math.abs(n) >= least && Math.abs(n) <= most;
    if (!fits) invalid(part, `"${item.slice(0, 40)}" is not from ${least} to ${most}${signed ? ', nor from the end' : ''}`);
    return n;
  });
  return [...new Set(all)].sort((a, b) => a - b);
}

function weekdaysOf(text: string): WeekdayOf[] {
  const all = text.split(',').map((item): WeekdayOf => {
    const match = /^([+-]?\d{1,2})?(MO|TU|WE|TH|FR|SA|SU)$/i.exec(item);
    const nth = Number(match?.[1] ?? 0);
    if (match === null || (match[1] !== undefined && (nth === 0 || Math.abs(nth) > 53)))
      return invalid('BYDAY', `"${item.slice(0, 40)}" is no weekday such as TU, 1MO or -1FR`);
    return { day: dayOf(match[2] ?? ''), nth };
  });
  return [...new Map(all.map((d) => [`${d.nth} ${d.day}`, d])).values()];
}

const dayOf = (name: string): number => (weekdays as readonly string[]).indexOf(name.toUpperCase());

const ranges = {
  BYSECOND: { to: 'seconds', range: [0, 60], signed: false },
  BYMINUTE: { to: 'minutes', range: [0, 59], signed: false },
  BYHOUR: { to: 'hours', range: [0, 23], signed: false },
  BYMONTHDAY: { to: 'monthDays', range: [1, 31], signed: true },
  BYYEARDAY: { to: 'yearDays', range: [1, 366], signed: true },
  BYWEEKNO: { to: 'weeks', range: [1, 53], signed: true },
  BYMONTH: { to: 'months', range: [1, 12], signed: false },
  BYSETPOS: { to: 'positions', range: [1, 366], signed: true },
} as const;

/**
 * Reads a rule, with or without `RRULE:` before it.
 * @throws InvalidRule naming the part, the value and the reason
 */
export function parseRule(text: string): Rule {
  const body = text.trim().replace(/^RRULE:/i, '');
  if (body.length > LONGEST) throw new InvalidRule(`the rule has ${body.length} characters; at most ${LONGEST} are read`);
  const parts = new Map<string, string>();
  for (const part of body.split(';')) {
    const at = part.indexOf('=');
    const name = part.slice(0, Math.max(0, at)).trim().toUpperCase();
    const value = part.slice(at + 1).trim();
    if (at <= 0 || value === '') invalid(`part "${part.slice(0, 40)}"`, 'is no NAME=VALUE');
    if (parts.has(name)) invalid(name, 'is given twice');
    parts.set(name, value);
  }
  const rule: Rule = { ...blank, frequency: frequencyOf(parts.get('FREQ')) };
  for (const [name, value] of parts) readPart(rule, name, value);
  checkTogether(rule);
  return rule;
}

const known = new Map<string, Rule>();

/** The same, of rules that are read again and again: calendars hold many series and few rules. */
export function knownRule(text: string): Rule {
  let rule = known.get(text);
  if (rule === undefined) {
    rule = parseRule(text);
    if (known.size >= 1000) known.clear();
    known.set(text, rule);
  }
  return rule;
}

const blank: Omit<Rule, 'frequency'> = {
  interval: 1,
  count: null,
  until: null,
  seconds: [],
  minutes: [],
  hours: [],
  days: [],
  monthDays: [],
  yearDays: [],
  weeks: [],
  months: [],
  positions: [],
  weekStart: 0,
};

function frequencyOf(text: string | undefined): Frequency {
  if (text === undefined) return invalid('FREQ', 'is missing');
  const found = frequencies.find((f) => f === text.toUpperCase());
  return found ?? invalid('FREQ', `"${text.slice(0, 40)}" is none of ${frequencies.join(', ')}`);
}

function readPart(rule: Rule, name: string, value: string): void {
  if (name in ranges) {
    const { to, range, signed } = ranges[name as keyof typeof ranges];
    rule[to] = numbers(name, value, range, signed);
  } else if (name === 'INTERVAL') rule.interval = whole(name, value, 1, MOST.interval);
  else if (name === 'COUNT') rule.count = whole(name, value, 1, MOST.count);
  else if (name === 'UNTIL') {
    if (!/^\d{8}(T\d{6}Z?)?$/i.test(value)) invalid(name, `"${value.slice(0, 40)}" is no date or date-time`);
    rule.until = value.toUpperCase();
  } else if (name === 'BYDAY') rule.days = weekdaysOf(value);
  else if (name === 'WKST') {
    rule.weekStart = dayOf(value);
    if (rule.weekStart < 0) invalid(name, `"${value.slice(0, 40)}" is no weekday`);
  } else if (name !== 'FREQ') invalid(`part ${name.slice(0, 40)}`, 'is none of RFC 5545');
}

/** What RFC 5545 does not allow together. */
function checkTogether({ frequency, count, until, days, monthDays, yearDays, weeks, positions, ...rule }: Rule): void {
  if (count !== null && until !== null) invalid('COUNT and UNTIL', 'exclude each other');
  if (days.some((d) => d.nth !== 0)) {
    if (frequency !== 'MONTHLY' && frequency !== 'YEARLY') invalid('BYDAY', `has a number, which ${frequency} rules do not`);
    if (frequency === 'YEARLY' && weeks.length > 0) invalid('BYDAY', 'has a number beside BYWEEKNO');
    if (frequency === 'MONTHLY' && days.some((d) => Math.abs(d.nth) > 5)) invalid('BYDAY', 'has a number that no month reaches');
  }
  if (monthDays.length > 0 && frequency === 'WEEKLY') invalid('BYMONTHDAY', 'does not go with WEEKLY');
  if (yearDays.length > 0 && ['DAILY', 'WEEKLY', 'MONTHLY'].includes(frequency)) invalid('BYYEARDAY', `does not go with ${frequency}`);
  if (weeks.length > 0 && frequency !== 'YEARLY') invalid('BYWEEKNO', 'goes with YEARLY only');
  const others = [days, monthDays, yearDays, weeks, rule.months, rule.hours, rule.minutes, rule.seconds];
  if (positions.length > 0 && others.every((o) => o.length === 0)) invalid('BYSETPOS', 'needs another BY part');
}

/** The rule as text, its parts in one order: two rules that say the same in the same parts are the same text. */
export function formatRule(rule: Rule): string {
  const list = (name: string, values: readonly (number | string)[]) => (values.length === 0 ? [] : [`${name}=${values.join(',')}`]);
  const days = [...rule.days].sort((a, b) => a.day - b.day || a.nth - b.nth).map((d) => `${d.nth === 0 ? '' : d.nth}${weekdays[d.day]}`);
  return [
    `FREQ=${rule.frequency}`,
    ...(rule.interval === 1 ? [] : [`INTERVAL=${rule.interval}`]),
    ...(rule.count === null ? [] : [`COUNT=${rule.count}`]),
    ...(rule.until === null ? [] : [`UNTIL=${rule.until}`]),
    ...list('BYMONTH', rule.months),
    ...list('BYWEEKNO', rule.weeks),
    ...list('BYYEARDAY', rule.yearDays),
    ...list('BYMONTHDAY', rule.monthDays),
    ...list('BYDAY', days),
    ...list('BYHOUR', rule.hours),
    ...list('BYMINUTE', rule.minutes),
    ...list('BYSECOND', rule.seconds),
    ...list('BYSETPOS', rule.positions),
    ...(rule.weekStart === 0 ? [] : [`WKST=${weekdays[rule.weekStart]}`]),
  ].join(';');
}
