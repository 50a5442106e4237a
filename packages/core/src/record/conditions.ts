import { Temporal } from 'temporal-polyfill';
import { certain } from '../certain.ts';
import { readDateTime } from '../time/date-time.ts';
import { toInstant, type Zone, type ZoneTable } from '../time/zones.ts';
import { type Condition, families, fittingTests, type Leaf, testNames, tests } from './condition.ts';
import { type Field, type FieldValue, isEmpty, type Person, type RecordItem } from './fields.ts';
import { sayNearest } from './nearest.ts';

/** What the clock and the zones say while conditions are judged. */
export interface Circumstances {
  /** RFC 3339 */
  now: string;
  /** the lane's zone */
  zone: Zone;
  zones: ZoneTable;
}

/** A finding about a settings file: where it is (RFC 6901), and what is wrong and how to fix it. */
export interface Problem {
  pointer: string;
  reason: string;
}

/** Every reason why a condition cannot be judged on these fields. */
export function checkCondition(condition: Condition, fields: readonly Field[], pointer = ''): Problem[] {
  if ('all' in condition) return condition.all.flatMap((c, i) => checkCondition(c, fields, `${pointer}/all/${i}`));
  if ('any' in condition) return condition.any.flatMap((c, i) => checkCondition(c, fields, `${pointer}/any/${i}`));
  if ('not' in condition) return checkCondition(condition.not, fields, `${pointer}/not`);
  const field = fields.find((f) => f.name === condition.field);
  if (field === undefined) {
    return [
      {
        pointer: `${pointer}/field`,
        reason: `there is no field "${condition.field}"; there are ${fields.map((f) => f.name).join(', ')}${sayNearest(
          condition.field,
          fields.map((f) => f.name),
        )}`,
      },
    ];
  }
  const test = tests[condition.test];
  if (test === undefined) {
    return [{ pointer: `${pointer}/test`, reason: `"${String(condition.test)}" is not a test; tests are ${testNames.join(', ')}` }];
  }
  if (test.types !== 'every' && test.types !== families[field.type]) {
    return [
      {
        pointer: `${pointer}/test`,
        reason: `"${condition.test}" does not fit the field "${field.name}" of type ${field.type}; fitting tests are ${fittingTests(field.type).join(', ')}`,
      },
    ];
  }
  return checkOperand(condition, field, `${pointer}/value`);
}

function checkOperand(leaf: Leaf, field: Field, pointer: string): Problem[] {
  const wrong = (reason: string): Problem[] => [{ pointer, reason }];
  const { value } = leaf;
  const shape = tests[leaf.test].value;
  if (shape === 'none') return value === undefined ? [] : wrong(`"${leaf.test}" takes no value`);
  if (shape === 'list' && !(Array.isArray(value) && value.length > 0)) return wrong(`"${leaf.test}" takes a list of values`);
  if (shape === 'pair' && !(Array.isArray(value) && value.length === 2)) return wrong(`"${leaf.test}" takes two values, from and until`);
  if (shape === 'number' && typeof value !== 'number') return wrong(`"${leaf.test}" takes a number, not ${JSON.stringify(value)}`);
  if (shape === 'one' && (value === undefined || Array.isArray(value))) return wrong(`"${leaf.test}" takes one value`);
  if (field.type === 'yes/no' && typeof value !== 'boolean') return wrong(`the field "${field.name}" is yes or no: give true or false`);
  if (families[field.type] === 'number' && shape === 'one' && typeof value !== 'number') return wrong(`the field "${field.name}" is a number`);
  const { choices } = field;
  if (choices !== undefined) {
    const unknown = [value].flat().find((v) => (leaf.test === 'is' || leaf.test === 'is not' || shape === 'list') && !choices.includes(String(v)));
    if (unknown !== undefined) return wrong(`"${String(unknown)}" is no choice of "${field.name}"; choices are ${choices.join(', ')}`);
  }
  if (tests[leaf.test].types === 'time') {
    const bad = [value].flat().find((v) => !/^(today|[+-]?\d+ days?|\d{4}-\d\d-\d\d(T.*)?)$/.test(String(v)));
    if (bad !== undefined) return wrong(`"${String(bad)}" is no date, date-time or number of days such as "-30 days"`);
  }
  return [];
}

export type Judgement = { holds: true } | { holds: false; failed: Condition; value: FieldValue };

/** Judges a checked condition. A false result names the part that decided it, and the value found there. */
export function judgeCondition(condition: Condition, record: RecordItem, at: Circumstances): Judgement {
  if ('all' in condition) {
    for (const part of condition.all) {
      const result = judgeCondition(part, record, at);
      if (!result.holds) return result;
    }
    return { holds: true };
  }
  if ('any' in condition) {
    let last: Judgement = { holds: true };
    for (const part of condition.any) {
      last = judgeCondition(part, record, at);
      if (last.holds) return last;
    }
    return last;
  }
  if ('not' in condition) {
    if (!judgeCondition(condition.not, record, at).holds) return { holds: true };
    return { holds: false, failed: condition, value: record.fields[firstLeaf(condition.not).field] ?? null };
  }
  const value = record.fields[condition.field] ?? null;
  return passes(condition, value, at) ? { holds: true } : { holds: false, failed: condition, value };
}

/** A checked condition has a part in each of its lists. */
const firstOf = (parts: readonly Condition[]): Leaf => firstLeaf(certain(parts[0], 'lists of conditions are checked not to be empty'));
const firstLeaf = (c: Condition): Leaf => ('all' in c ? firstOf(c.all) : 'any' in c ? firstOf(c.any) : 'not' in c ? firstLeaf(c.not) : c);

const fold = (text: string) => text.trim().toLowerCase();

/** Every text a value can be known by: a person by name and address, a reference by id and label. */
function names(value: FieldValue): string[] {
  if (value === null) return [];
  if (Array.isArray(value)) return value.flatMap((v) => names(v));
  if (typeof value !== 'object') return [fold(String(value))];
  const known = 'id' in value ? [value.id, value.label] : [(value as Person).email, (value as Person).name];
  return known.filter((v): v is string => v !== undefined).map(fold);
}

function passes(leaf: Leaf, value: FieldValue, at: Circumstances): boolean {
  const wanted = [leaf.value].flat().map((v) => fold(String(v)));
  const [first = '', second = ''] = wanted;
  const known = names(value);
  switch (leaf.test) {
    case 'is':
      return known.includes(first);
    case 'is not':
      return !known.includes(first);
    case 'one of':
      return known.some((k) => wanted.includes(k));
    case 'none of':
      return !known.some((k) => wanted.includes(k));
    case 'is empty':
      return isEmpty(value);
    case 'is not empty':
      return !isEmpty(value);
    case 'contains':
      return known.some((k) => k.includes(first));
    case 'starts with':
      return known.some((k) => k.startsWith(first));
    case 'words':
      return known.some((k) => hasWords(k, first));
    case '<':
      return typeof value === 'number' && value < Number(leaf.value);
    case '<=':
      return typeof value === 'number' && value <= Number(leaf.value);
    case '>':
      return typeof value === 'number' && value > Number(leaf.value);
    case '>=':
      return typeof value === 'number' && value >= Number(leaf.value);
    case 'before':
      return typeof value === 'string' && startOf(value, at) < startOf(first, at);
    case 'after':
      return typeof value === 'string' && startOf(value, at) >= endOf(first, at);
    case 'within':
      return typeof value === 'string' && startOf(value, at) >= startOf(first, at) && startOf(value, at) < endOf(second, at);
  }
}

/** Whole words in their order, so that "art" is not found in "start". */
function hasWords(text: string, words: string): boolean {
  const split = (t: string) =>
    t
      .split(/[^\p{L}\p{N}]+/u)
      .filter(Boolean)
      .join(' ');
  return ` ${split(text)} `.includes(` ${split(words)} `);
}

/** The instant a date, date-time or relative day begins, in the lane's zone. */
function startOf(text: string, at: Circumstances): number {
  const day = dayOf(text, at);
  return day === null ? readDateTime(text.toUpperCase(), at.zone, at.zones).instant : toInstant(`${day}T00:00:00`, at.zone).instant;
}

/** The instant after a day's end; for a date-time, the time itself. */
function endOf(text: string, at: Circumstances): number {
  const day = dayOf(text, at);
  if (day === null) return startOf(text, at);
  return toInstant(`${Temporal.PlainDate.from(day).add({ days: 1 })}T00:00:00`, at.zone).instant;
}

function dayOf(text: string, at: Circumstances): string | null {
  if (/^\d{4}-\d\d-\d\d$/.test(text)) return text;
  const relative = /^(?:today|([+-]?\d+) days?)$/.exec(text);
  if (relative === null) return null;
  const today = Temporal.PlainDate.from(readDateTime(at.now, at.zone, at.zones).local.slice(0, 10));
  return today.add({ days: Number(relative[1] ?? 0) }).toString();
}
