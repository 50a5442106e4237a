import type { Condition } from '@monsoon/core';
import { addDays, londonDay, londonInstant } from './clock.ts';
import type { Fields } from './maps.ts';
import { isEmpty, type Value } from './values.ts';

const fold = (v: unknown) =>
  String(v === true ? 'true' : v === false ? 'false' : v)
    .trim()
    .toLowerCase();

/** Does a condition hold? Only the tests that histories use. */
export function holds(condition: Condition, fields: Fields, now: number): boolean {
  if ('all' in condition) return condition.all.every((c) => holds(c, fields, now));
  if ('any' in condition) return condition.any.some((c) => holds(c, fields, now));
  if ('not' in condition) return !holds(condition.not, fields, now);
  const { field, test, value } = condition;
  const here = fields[field] ?? null;
  const known = (Array.isArray(here) ? here : here === null ? [] : [here]).map(fold);
  const wanted = [value].flat().map(fold);
  switch (test) {
    case 'is':
      return known.includes(wanted[0]!);
    case 'is not':
      return !known.includes(wanted[0]!);
    case 'one of':
      return known.some((k) => wanted.includes(k));
    case 'none of':
      return !known.some((k) => wanted.includes(k));
    case 'is empty':
      return isEmpty(here as Value);
    case 'is not empty':
      return !isEmpty(here as Value);
    case 'contains':
      return known.some((k) => k.includes(wanted[0]!));
    case 'starts with':
      return known.some((k) => k.startsWith(wanted[0]!));
    case 'words':
      return known.some((k) => ` ${k.replace(/[^a-z0-9]+/g, ' ').trim()} `.includes(` ${wanted[0]!} `));
    case 'before':
      return typeof here === 'number' && here < dayStart(String(value), now);
    case 'after':
      return typeof here === 'number' && here >= dayStart(String(value), now, 1);
    default:
      throw new Error(`the test ${test} is not in these histories`);
  }
}

/** The start of a relative day in London, or of the day after it. */
function dayStart(text: string, now: number, more = 0): number {
  const days = text === 'today' ? 0 : Number(/^([+-]?\d+) days?$/.exec(text)![1]);
  return londonInstant(addDays(londonDay(now), days + more), '00:00');
}
