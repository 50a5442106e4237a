import { checkFieldMap, checkMapShape, type Field, type FieldMap, type RecordItem } from '@monsoon/core';
import { carryRecurrence, type RecurrenceMap, recurrenceFields, showRecurrence, takeRecurrence } from '../src/maps/recurrence-maps.ts';
import { keeps, said } from './approved-fixtures.ts';

const field = (name: string, type: Field['type'], more: Partial<Field> = {}): Field => ({ name, label: name, type, ...more });
const fields: Field[] = [
  field('rule', 'text'),
  field('short', 'text', { limit: 20 }),
  field('without', 'text'),
  field('days off', 'choices'),
  field('every', 'choice', { choices: ['daily', 'weekly', 'monthly', 'yearly'] }),
  field('how often', 'choice', { choices: ['each week', 'each month'] }),
  field('times', 'number'),
  field('weekdays', 'choices', { choices: ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] }),
  field('days', 'text'),
  field('day', 'number'),
  field('last', 'date'),
  field('count', 'number'),
  field('fixed', 'text', { readOnly: true }),
  field('flag', 'yes/no'),
];
const maps: [string, FieldMap & RecurrenceMap][] = [
  ['a rule', { rule: 'rule' }],
  ['a rule and days off', { rule: 'rule', excluded: 'without' }],
  ['a short rule, and days off as a list', { rule: 'short', excluded: 'days off' }],
  ['a field that is not there', { rule: 'nope' }],
  ['all parts', { repeats: { frequency: 'every', interval: 'times', weekdays: 'weekdays', monthDay: 'day', until: 'last', count: 'count' } }],
  ['how often alone', { repeats: { frequency: 'every' } }],
  [
    'how often in words, and days as a text',
    { repeats: { frequency: 'how often', values: { weekly: 'each week', monthly: 'each month' }, weekdays: 'days' } },
  ],
];
const records: Record<string, unknown>[] = [
  {},
  { rule: 'FREQ=WEEKLY', short: 'FREQ=DAILY', every: 'weekly', 'how often': 'each week' },
  {
    rule: 'RRULE:INTERVAL=2;FREQ=WEEKLY;BYDAY=TU,MO',
    without: '2026-12-25, 2026-12-26',
    every: 'weekly',
    times: 2,
    weekdays: ['Tue', 'Mon'],
    days: 'Tue; Monday',
    'how often': 'each week',
  },
  { rule: 'freq=monthly;count=3', 'days off': ['2026-12-25'], every: 'Monthly', day: 15, count: 3, 'how often': 'Each Month' },
  { rule: 'FREQ=YEARLY;UNTIL=20301231', every: 'yearly', last: '2030-12-31', day: 5, weekdays: ['Mon'] },
  { rule: 'every now and then', every: 'sometimes', 'how often': 'weekly' },
  { rule: 'FREQ=WEEKLY', without: 'Christmas', every: 'weekly', weekdays: ['Tuesday', 'Noday'], days: 'x' },
  { rule: 'FREQ=WEEKLY', without: '2026-13-45', every: 'weekly', times: 0 },
  { rule: 'FREQ=WEEKLY', without: '2026-02-30' },
  { rule: '  ', every: '  ', count: 3, last: '2026-12-31' },
  { rule: 'FREQ=DAILY', every: 'daily', last: '2026-12-31', count: 5, 'how often': 'each week', days: '' },
];
const values: (string | null)[] = [
  null,
  'RRULE:FREQ=WEEKLY',
  'RRULE:FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,TU\nEXDATE:20261225,20261226',
  'RRULE:FREQ=WEEKLY;BYDAY=MO',
  'RRULE:FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,TU;WKST=SU',
  'RRULE:FREQ=MONTHLY;BYMONTHDAY=15;COUNT=3',
  'RRULE:FREQ=MONTHLY;BYMONTHDAY=-1',
  'RRULE:FREQ=MONTHLY;BYMONTHDAY=1,15',
  'RRULE:FREQ=MONTHLY;BYDAY=-1FR',
  'RRULE:FREQ=MONTHLY;BYMONTH=3',
  'RRULE:FREQ=DAILY;BYMONTHDAY=5',
  'RRULE:FREQ=DAILY;UNTIL=20301231T220000Z',
  'RRULE:FREQ=YEARLY;UNTIL=20301231',
  'RRULE:FREQ=YEARLY;BYMONTH=3',
  'RRULE:FREQ=YEARLY;BYMONTH=3,4',
  'RRULE:FREQ=YEARLY;BYWEEKNO=20;BYYEARDAY=100',
  'RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE;BYSETPOS=1;BYHOUR=9',
  'RRULE:FREQ=HOURLY',
  'RRULE:FREQ=WEEKLY\nRRULE:FREQ=DAILY',
  'RRULE:FREQ=WEEKLY\nRDATE:20261224',
  'EXDATE:20261225',
];
const of = (more: Record<string, unknown>): RecordItem => ({
  id: 'R',
  fields: Object.fromEntries(fields.map((f) => [f.name, more[f.name] ?? null])) as never,
});

describe('what is said and done is as it was approved: how events repeat', () => {
  keeps('what a record says of how its event repeats', () =>
    maps.flatMap(([what, map]) => [
      `${what}: ${recurrenceFields(map).join(', ')}`,
      ...records.map((r) => `  ${JSON.stringify(r)}: ${said(() => showRecurrence(map, of(r)))}`),
    ]),
  );

  keeps('what a record takes of how its event repeats', () =>
    maps.flatMap(([what, map]) => [
      what,
      ...records.flatMap((r, n) =>
        (n < 4 ? values : values.slice(0, 6)).map(
          (value) => `  ${JSON.stringify(r)} takes ${JSON.stringify(value)}: ${said(() => takeRecurrence(map, of(r), value, fields))}`,
        ),
      ),
    ]),
  );

  keeps('what stays on an event that repeats', () =>
    maps.flatMap(([what, map]) =>
      [null, 'RRULE:FREQ=WEEKLY', 'RRULE:FREQ=WEEKLY\nEXDATE:20261225'].flatMap((shown) =>
        [null, 'RRULE:FREQ=DAILY\nRDATE:20261224\nEXDATE:20261226', 'EXDATE:20261225'].map(
          (event) => `${what}: ${JSON.stringify(shown)} on ${JSON.stringify(event)}: ${said(() => carryRecurrence(map, shown, event))}`,
        ),
      ),
    ),
  );

  keeps('which maps of how events repeat are refused', () => {
    const odd: unknown[] = [
      ...maps.map(([, map]) => map),
      { rule: 'times' },
      { rule: 'fixed' },
      { rule: 'rule', excluded: 'nope' },
      { rule: 'rule', excluded: 'rule' },
      { rule: 'rule', excluded: 'fixed' },
      { rule: 'rule', excluded: 'flag' },
      { rule: 5 },
      { rule: 'rule', default: 'FREQ=DAILY' },
      { rule: 'rule', more: 1 },
      { repeats: {} },
      { repeats: { frequency: 'nope' } },
      { repeats: { frequency: 'times' } },
      { repeats: { frequency: 'every', interval: 'flag' } },
      { repeats: { frequency: 'every', weekdays: 'last' } },
      { repeats: { frequency: 'every', monthDay: 'rule' } },
      { repeats: { frequency: 'every', until: 'count', count: 'last' } },
      { repeats: { frequency: 'every', count: 'nope' } },
      { repeats: { frequency: 'every', sometimes: 'rule' } },
      { repeats: { frequency: 'how often' } },
      { repeats: { frequency: 'how often', values: { weekly: 'each week', monthly: 'each month' } } },
      { repeats: { frequency: 'how often', values: { weekly: 'each fortnight' } } },
      { repeats: { frequency: 'how often', values: { hourly: 'each hour' } } },
      { repeats: 'every' },
      { copy: 'rule' },
    ];
    return odd.flatMap((map) => [
      `${JSON.stringify(map)}: ${checkMapShape(map) ?? 'well'}`,
      ...(checkMapShape(map) !== null
        ? []
        : (['->', '<-', '<->', 'once'] as const).map(
            (direction) => `  ${direction}: ${JSON.stringify(checkFieldMap('recurrence', map as FieldMap, direction, fields, '/fields/recurrence'))}`,
          )),
      ...(checkMapShape(map) !== null
        ? []
        : [`  as a title: ${JSON.stringify(checkFieldMap('title', map as FieldMap, '->', fields, '/fields/title'))}`]),
    ]);
  });
});
