import type { Condition } from '@monsoon/core';
import { addDays, londonDay, londonInstant } from './clock.ts';
import type { Fields } from './maps.ts';
import { isEmpty, type Value } from './values.ts';

const fold = (v: unknown) => String(v).trim().toLowerCase();

/** Does a condition hold? Only the tests that histories use. */
export function holds(condition: Condition, fields: Fields, now: number): boolean {
  if ('all' in condition) return condition.all.every((c) => holds(c, fields, now));
  if ('any' in condition) return condition.any.some((c) => holds(c, fields, now));
  if ('not' in condition) return !holds(condition.not, fields, now);
  const { field, test, value } = condition;
  const here = fields[field] ?? null;
  const positive = opposites[test];
  if (positive !== undefined) return !holds({ field, test: positive, value } as Condition, fields, now);
  if (test === 'is empty') return isEmpty(here as Value);
  if (test === 'before') return typeof here === 'number' && here < dayStart(String(value), now);
  if (test === 'after') return typeof here === 'number' && here >= dayStart(String(value), now, 1);
  const wanted = [value].flat().map(fold);
  return [here].flat().some((part) => part !== null && wanted.some((w) => fits(test, fold(part), w)));
}

const opposites: Record<string, string> = { 'is not': 'is', 'none of': 'one of', 'is not empty': 'is empty' };

function fits(test: string, text: string, wanted: string): boolean {
  if (test === 'is' || test === 'one of') return text === wanted;
  if (test === 'contains') return text.includes(wanted);
  if (test === 'starts with') return text.startsWith(wanted);
  if (test === 'words') return ` ${text.replace(/[^a-z0-9]+/g, ' ')} `.includes(` ${wanted} `);
  throw new Error(`the test ${test} is not in these histories`);
}

/** The start of a relative day in London, or of the day after it. */
function dayStart(text: string, now: number, more = 0): number {
  const days = text === 'today' ? 0 : Number(/^([+-]?\d+) days?$/.exec(text)![1]);
  return londonInstant(addDays(londonDay(now), days + more), '00:00');
}
