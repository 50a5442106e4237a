import { certain } from '../certain.ts';
import { type Field, type FieldValues, findField, isEmpty, type RecordItem, sayValue } from '../record/fields.ts';
import { normalRule } from '../recurrence/recurrence.ts';
import { formatRecurrence, parseRecurrence, type Recurrence } from '../recurrence/recurrence-text.ts';
import { InvalidRule, parseRule, type Rule, weekdays } from '../recurrence/rule.ts';
import { isDay } from '../time/days.ts';
import { fieldFromText } from './convert.ts';
import type { FieldMap, RepeatFields, Taken } from './field-map.ts';
import { UnfitValue } from './unfit.ts';

type RuleMap = Extract<FieldMap, { rule: string }>;
type RepeatsMap = Extract<FieldMap, { repeats: RepeatFields }>;
/** A map of how an event repeats: a field with a rule (RFC 5545, 3.3.10), or one field for each part of it. */
export type RecurrenceMap = RuleMap | RepeatsMap;

export const isRecurrenceMap = (map: FieldMap): map is RecurrenceMap & FieldMap => 'rule' in map || 'repeats' in map;

/** The fields that the way back can write. */
export const recurrenceFields = (map: RecurrenceMap): string[] =>
  'rule' in map ? [map.rule, ...(map.excluded === undefined ? [] : [map.excluded])] : parts.flatMap((part) => map.repeats[part] ?? []);

/** The parts of a rule that can have a field of their own. */
export const parts = ['frequency', 'interval', 'weekdays', 'monthDay', 'until', 'count'] as const;
const frequencies = { daily: 'DAILY', weekly: 'WEEKLY', monthly: 'MONTHLY', yearly: 'YEARLY' } as const;
type Every = keyof typeof frequencies;
export const everyNames = Object.keys(frequencies) as Every[];

/** Turns what is no rule into a value that does not fit, with the reason. */
function fitting<T>(field: string, value: string, work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof InvalidRule) throw new UnfitValue(field, value, error.message);
    throw error;
  }
}

/** How a record says that its event repeats; null: it does not. @throws UnfitValue */
export function showRecurrence(map: RecurrenceMap, record: RecordItem): string | null {
  if ('repeats' in map) return showFields(map.repeats, record);
  const text = sayValue(record.fields[map.rule]).trim();
  if (text === '') return null;
  const rule = fitting(map.rule, text, () => normalRule(text));
  return formatRecurrence({ rules: [rule], added: [], excluded: map.excluded === undefined ? [] : daysOf(map.excluded, record) });
}

function daysOf(field: string, record: RecordItem): string[] {
  const words = [record.fields[field] ?? []].flat().flatMap((v) => sayValue(v).split(/[\s,;]+/));
  const given = words.filter((w) => w !== '');
  const wrong = given.find((day) => !isDay(day));
  if (wrong !== undefined) throw new UnfitValue(field, wrong, `"${wrong}" is no day such as 2026-12-25`);
  return given.map((day) => day.replaceAll('-', ''));
}

const dayText = (day: string): string => `${day.slice(0, 4)}-${day.slice(4, 6)}-${day.slice(6, 8)}`;

function showFields(repeats: RepeatFields, record: RecordItem): string | null {
  const said = (part: (typeof parts)[number]) => sayValue(record.fields[repeats[part] ?? '']).trim();
  const chosen = said('frequency');
  if (chosen === '') return null;
  const every = everyNames.find((name) => (repeats.values?.[name] ?? name).toLowerCase() === chosen.toLowerCase());
  if (every === undefined)
    throw new UnfitValue(repeats.frequency, chosen, `"${chosen}" is none of ${everyNames.map((n) => repeats.values?.[n] ?? n).join(', ')}`);
  const days = every === 'weekly' && repeats.weekdays !== undefined ? weekdaysOf(repeats.weekdays, record) : [];
  const of = (name: string, value: string) => (value === '' ? [] : [`${name}=${value}`]);
  const text = [
    `FREQ=${frequencies[every]}`,
    ...of('INTERVAL', said('interval')),
    ...of('BYDAY', days.join(',')),
    ...of('BYMONTHDAY', every === 'monthly' ? said('monthDay') : ''),
    ...of('UNTIL', said('until').replaceAll('-', '').slice(0, 8)),
    ...of('COUNT', said('count')),
  ].join(';');
  return `RRULE:${fitting(repeats.frequency, text, () => normalRule(text))}`;
}

const dayNames = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const dayOf = (word: string): number => dayNames.findIndex((name) => name.slice(0, 2).toLowerCase() === word.trim().slice(0, 2).toLowerCase());

function weekdaysOf(field: string, record: RecordItem): string[] {
  const words = [record.fields[field] ?? []].flat().flatMap((v) =>
    sayValue(v)
      .split(/[\s,;]+/)
      .filter((w) => w !== ''),
  );
  const wrong = words.find((word) => dayOf(word) < 0);
  if (wrong !== undefined) throw new UnfitValue(field, wrong, `"${wrong}" is no weekday such as Monday, Mon or MO`);
  return words.map((word) => certain(weekdays[dayOf(word)], 'each word was found to be a weekday'));
}

/** What changes in a record so that it says how an event repeats. @throws UnfitValue where the record cannot hold it */
export function takeRecurrence(map: RecurrenceMap, record: RecordItem, value: string | null, fields: readonly Field[]): Taken {
  const wanted = parseRecurrence(value);
  const main = 'rule' in map ? map.rule : map.repeats.frequency;
  if (wanted.rules.length > 1 || wanted.added.length > 0)
    throw new UnfitValue(main, value ?? '', `the event has ${wanted.added.length > 0 ? 'added dates' : 'several rules'}, which no field holds`);
  const next = 'rule' in map ? ruleFields(map, record, wanted) : partFields(map.repeats, record, wanted, fields);
  const changed: FieldValues = {};
  for (const [name, text] of Object.entries(next)) {
    const field = findField(fields, name);
    if (field === undefined) throw new UnfitValue(name, text ?? '', `there is no field "${name}" any more`);
    const after = field.type === 'date' ? text : fieldFromText(field, text);
    if (sayValue(after) !== sayValue(record.fields[name])) changed[name] = after;
  }
  return { fields: changed, notes: [] };
}

function ruleFields(map: RuleMap, record: RecordItem, wanted: Recurrence): Record<string, string | null> {
  // A rule that says the same in other words stays as it was written.
  const shown = parseRecurrence(orNull(() => showRecurrence({ rule: map.rule }, record)));
  const [rule = null] = wanted.rules;
  const excluded = wanted.excluded.map((day) => dayText(day.slice(0, 8))).sort();
  return {
    ...(String(shown.rules) === String(wanted.rules) ? {} : { [map.rule]: rule }),
    ...(map.excluded === undefined || sameDays(map.excluded, record, wanted.excluded) ? {} : { [map.excluded]: excluded.join(', ') || null }),
  };
}

const sameDays = (field: string, record: RecordItem, days: readonly string[]): boolean =>
  String(orNull(() => daysOf(field, record))?.sort()) === String(days.map((d) => d.slice(0, 8)).sort());

/** What a record says that cannot be understood is nothing to compare with. */
function orNull<T>(work: () => T): T | null {
  try {
    return work();
  } catch (error) {
    if (error instanceof UnfitValue) return null;
    throw error;
  }
}

function partFields(repeats: RepeatFields, record: RecordItem, wanted: Recurrence, fields: readonly Field[]): Record<string, string | null> {
  const [text] = wanted.rules;
  if (orNull(() => showFields(repeats, record)) === (text === undefined ? null : `RRULE:${text}`)) return {};
  const empty = Object.fromEntries(fieldsOf(repeats).map(([, field]) => [field, null]));
  if (text === undefined) return empty;
  const rule = fitting(repeats.frequency, text, () => parseRule(text));
  const every = everyNames.find((name) => frequencies[name] === rule.frequency);
  const more = unheld(rule, repeats);
  if (every === undefined || more.length > 0)
    throw new UnfitValue(
      repeats.frequency,
      text,
      `the rule says more than the fields can hold: ${every === undefined ? rule.frequency : more.join(', ')}`,
    );
  const held: Partial<Record<(typeof parts)[number], string | null>> = {
    frequency: repeats.values?.[every] ?? every,
    // An interval that the record does not say is 1 already.
    interval: rule.interval === 1 && repeats.interval !== undefined && isEmpty(record.fields[repeats.interval]) ? null : String(rule.interval),
    weekdays: rule.days.map((d) => namedLike(d.day, findField(fields, repeats.weekdays ?? ''))).join(', ') || null,
    monthDay: rule.monthDays[0] === undefined ? null : String(rule.monthDays[0]),
    until: rule.until === null ? null : dayText(rule.until),
    count: rule.count === null ? null : String(rule.count),
  };
  return Object.fromEntries(fieldsOf(repeats).map(([part, field]) => [field, held[part] ?? null]));
}

/** The parts that have a field, with it. */
const fieldsOf = (repeats: RepeatFields) =>
  parts.flatMap((part): [(typeof parts)[number], string][] => {
    const field = repeats[part];
    return field === undefined ? [] : [[part, field]];
  });

/** A weekday as the field's own choices call it. */
const namedLike = (day: number, field: Field | undefined): string =>
  field?.choices?.find((c) => dayOf(c) === day) ?? certain(dayNames[day], 'weekdays are counted from 0 to 6');

/** The parts of a rule for which there is no field. A day that the start says already needs none. */
function unheld(rule: Rule, repeats: RepeatFields): string[] {
  const { frequency, days, monthDays } = rule;
  const weekly = frequency === 'WEEKLY';
  const said: [boolean, string][] = [
    [rule.interval > 1 && repeats.interval === undefined, 'INTERVAL'],
    [rule.until !== null && repeats.until === undefined, 'UNTIL'],
    [rule.count !== null && repeats.count === undefined, 'COUNT'],
    [days.length > 0 && (!weekly || (repeats.weekdays === undefined && days.length > 1)), 'BYDAY'],
    [monthDays.length > 1 || (monthDays[0] ?? 1) < 1 || (monthDays.length > 0 && frequency === 'DAILY'), 'BYMONTHDAY'],
    [rule.months.length > (frequency === 'YEARLY' ? 1 : 0), 'BYMONTH'],
    [rule.positions.length > 0, 'BYSETPOS'],
    [rule.weeks.length > 0, 'BYWEEKNO'],
    [rule.yearDays.length > 0, 'BYYEARDAY'],
    [rule.hours.length + rule.minutes.length + rule.seconds.length > 0, 'BYHOUR'],
    [rule.weekStart !== 0 && rule.interval > 1 && days.length > 1, 'WKST'],
  ];
  return said.flatMap(([is, name]) => (is ? [name] : []));
}

/** What a record says of a rule, with what stands on the event and no field of the record holds. */
export function carryRecurrence(map: RecurrenceMap, shown: string | null, event: string | null): string | null {
  if (shown === null) return null;
  const kept = parseRecurrence(event);
  const holdsDays = 'rule' in map && map.excluded !== undefined;
  const own = parseRecurrence(shown);
  return formatRecurrence({ rules: own.rules, added: kept.added, excluded: holdsDays ? own.excluded : kept.excluded });
}
