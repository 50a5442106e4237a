import { Temporal } from 'temporal-polyfill';
import { certain } from '../certain.ts';

export type CountStep = 'day' | 'week' | 'month';

/** Counts by step and group. */
export interface Counted {
  step: CountStep;
  steps: string[];
  groups: { name: string; counts: number[]; total: number }[];
  total: number;
  lately: { week: number; weekBefore: number; month: number; monthBefore: number };
}

/** Things to count: the day that they are on (ISO), what they are counted under, and how many there are: one, unless said. */
export interface Countable {
  day: string;
  group: string;
  count?: number;
}

const countOf = ({ count = 1 }: Countable): number => count;

/** The first day of the day, the week (Monday, ISO 8601) or the month that a day lies in. */
export function stepOf(day: string, step: CountStep): string {
  if (step === 'day') return day;
  const date = Temporal.PlainDate.from(day);
  return (step === 'month' ? date.with({ day: 1 }) : date.subtract({ days: date.dayOfWeek - 1 })).toString();
}

/** Most groups that are listed; the rest is counted as one. */
const MOST_GROUPS = 20;

/**
 * Counts items by step and group, from one day to another, both included, with steps on which there is nothing.
 * @param today for the last seven days, and the month so far beside as many days of the one before
 */
export function countItems(items: readonly Countable[], step: CountStep, from: string, until: string, today: string): Counted {
  const steps: string[] = [];
  for (
    let at = Temporal.PlainDate.from(stepOf(from, step));
    at.toString() <= until;
    at = at.add(step === 'day' ? { days: 1 } : step === 'week' ? { weeks: 1 } : { months: 1 })
  )
    steps.push(at.toString());
  const place = new Map(steps.map((s, i) => [s, i]));
  const within = items.filter((i) => i.day >= from && i.day <= until);
  const totals = new Map<string, number>();
  for (const item of within) totals.set(item.group, (totals.get(item.group) ?? 0) + countOf(item));
  const order = [...totals].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0])).map(([name]) => name);
  const apart = new Set(order.slice(0, order.length > MOST_GROUPS ? MOST_GROUPS - 1 : MOST_GROUPS));
  const groups = new Map<string, number[]>([...apart].map((name) => [name, steps.map(() => 0)]));
  const stepsOfDays = new Map<string, string>();
  for (const item of within) {
    const { day, group } = item;
    const its = stepsOfDays.get(day) ?? stepOf(day, step);
    stepsOfDays.set(day, its);
    const name = apart.has(group) ? group : 'all others';
    const row = groups.get(name) ?? steps.map(() => 0);
    groups.set(name, row);
    const at = certain(place.get(its), 'each day within has its step');
    row[at] = (row[at] ?? 0) + countOf(item);
  }
  const date = Temporal.PlainDate.from(today);
  const between = (first: Temporal.PlainDate, last: Temporal.PlainDate) => {
    const [from, until] = [first.toString(), last.toString()];
    return items.reduce((n, i) => (i.day >= from && i.day <= until ? n + countOf(i) : n), 0);
  };
  const monthStart = date.with({ day: 1 });
  const monthBefore = monthStart.subtract({ months: 1 });
  const sameDay = monthBefore.with({ day: Math.min(date.day, monthBefore.daysInMonth) });
  return {
    step,
    steps,
    groups: [...groups].map(([name, counts]) => ({ name, counts, total: counts.reduce((a, b) => a + b, 0) })),
    total: within.reduce((n, i) => n + countOf(i), 0),
    lately: {
      week: between(date.subtract({ days: 6 }), date),
      weekBefore: between(date.subtract({ days: 13 }), date.subtract({ days: 7 })),
      month: between(monthStart, date),
      monthBefore: between(monthBefore, sameDay),
    },
  };
}
