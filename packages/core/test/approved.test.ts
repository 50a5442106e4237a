import { resolve } from 'node:path';
import {
  type Condition,
  canonical,
  carryWhen,
  checkCondition,
  checkFieldMap,
  checkHonoured,
  checkLane,
  checkMapShape,
  checkWhenShape,
  checkWhenSource,
  type Directory,
  editEvent,
  editTask,
  eventItem,
  type Field,
  type FieldMap,
  type FieldValue,
  formatCondition,
  formatWhen,
  guard,
  judgeCondition,
  makeEvent,
  makeTask,
  mapDirections,
  mappableNames,
  matchKey,
  pairsThatMatter,
  parseCondition,
  parseJoin,
  quietUntil,
  type RecordItem,
  readDateTime,
  readEvent,
  readLane,
  readTask,
  readWhen,
  sayAny,
  sayValue,
  show,
  stateOf,
  take,
  takeWhen,
  testNames,
  toInstant,
  toLocal,
  UnfitValue,
  unjoin,
  type When,
  type WhenSource,
} from '@monsoon/core';
import { compareApproved } from '../../../test/support/approved.ts';
import { context, lane, zones } from './engine-fixtures.ts';

const london = zones.find('Europe/London')!;
const people: Directory = {
  byEmail: new Map([['una@alder-wren.example', { id: 'P-1', label: 'Una Marsh' }]]),
  emails: new Map([['P-1', 'una@alder-wren.example']]),
};
const field = (name: string, type: Field['type'], more: Partial<Field> = {}): Field => ({ name, label: name, type, ...more });
const fields: Field[] = [
  field('text', 'text', { limit: 12 }),
  field('long', 'long text'),
  field('number', 'number'),
  field('flag', 'yes/no'),
  field('choice', 'choice', { choices: ['tuning', 'voicing'] }),
  field('choices', 'choices', { choices: ['red', 'green', 'blue'] }),
  field('free', 'choices'),
  field('date', 'date'),
  field('time', 'time'),
  field('start', 'date-time'),
  field('end', 'date-time'),
  field('length', 'duration', { unit: 'minutes' }),
  field('hours', 'duration', { unit: 'hours' }),
  field('person', 'person'),
  field('people', 'people'),
  field('reference', 'reference'),
  field('references', 'references'),
  field('address', 'web address'),
  field('place', 'place'),
  field('fixed', 'text', { readOnly: true }),
  field('first', 'date'),
  field('last', 'date'),
  field('due', 'date-time'),
];
const item = (id: string, values: Record<string, unknown>, more: Partial<RecordItem> = {}): RecordItem => ({
  id,
  fields: { ...Object.fromEntries(fields.map((f) => [f.name, null])), ...values } as RecordItem['fields'],
  ...more,
});
const full = item(
  'full',
  {
    text: 'Marsh',
    long: 'two\r\nlines\u0007, and "more"',
    number: 30,
    flag: true,
    choice: 'tuning',
    choices: ['red', 'blue'],
    free: ['one', 'two'],
    date: '2026-12-01',
    time: '09:30:00',
    start: '2026-12-01T09:00:00',
    end: '2026-12-01T10:30:00',
    length: 90,
    hours: 2,
    person: { name: 'Bram Quill', email: 'Bram@alder-wren.example' },
    people: [{ email: 'una@alder-wren.example', name: 'Una Marsh' }, { name: 'without address' }],
    reference: { id: 'P-1', label: 'Una Marsh' },
    references: [{ id: 'P-1', label: 'Una Marsh' }, { id: 'P-9' }],
    address: 'https://alder-wren.example/visits/1',
    place: 'Meadow Hall',
    fixed: 'as it is',
    first: '2026-12-01',
    last: '2026-12-03',
    due: '2026-12-04T17:00:00Z',
  },
  { version: 'v1', url: 'https://desk.alder-wren.example/full' },
);
const odd = item('odd', {
  text: '  blanks around  ',
  long: `x${'y'.repeat(1200)}`,
  number: -4,
  flag: false,
  choice: 'other',
  choices: [],
  time: '09:30',
  start: '2026-10-25T01:30:00',
  end: '2026-10-25T01:15:00',
  length: 0,
  hours: 0.5,
  person: { name: 'no address' },
  people: [{ email: 'not an address' }],
  address: 'not an address',
  first: '2026-12-03',
  last: '2026-12-01',
  due: '2026-02-30T10:00:00',
});
const records = [full, odd, item('empty', {})];
const mapContext = { fields, directories: new Map([['staff', people]]) };
const said = (work: () => unknown): string => {
  try {
    const result = work();
    return result === undefined ? 'undefined' : JSON.stringify(result);
  } catch (error) {
    const unfit = error instanceof UnfitValue ? ` [${error.field}: ${error.value.slice(0, 60)}]` : '';
    return `${(error as Error).name}: ${(error as Error).message}${unfit}`.replaceAll('\n', '\\n');
  }
};

const maps: FieldMap[] = [
  ...fields.map((f) => ({ copy: f.name })),
  { copy: 'nope' },
  { copy: 'text', default: 'Untitled' },
  { join: '{text}[: {choice}]' },
  { join: '{text}[ ({choice})]', edit: 'text' },
  { join: '{choice} {choices}' },
  { join: '[{place}[, {long}]] \\{as it is\\}', edit: 'long' },
  { join: '{nope}' },
  { join: '{text}', edit: 'place' },
  { fixed: 'busy' },
  { fixed: ['red', 'other'] },
  { fixed: ['15', '30'] },
  { table: 'choice', values: { tuning: 'confirmed', voicing: 'tentative' } },
  { table: 'choice', values: { tuning: 'busy', other: 'free' }, default: 'busy' },
  { table: 'flag', values: { yes: 'private', no: 'public' } },
  { table: 'choice', values: { tuning: 'confirmed', voicing: 'confirmed' } },
  { table: 'nope', values: { a: 'b' } },
  {
    words: 'choice',
    choose: [
      { word: 'Tune', value: 'tuning' },
      { word: 'voice it', value: 'voicing' },
    ],
  },
  { words: 'choice', choose: [{ word: 'x', value: 'nope' }], default: 'tuning' },
  { words: 'person', choose: [{ word: 'x', value: 'y' }] },
  { people: 'people' },
  { people: 'person' },
  { people: 'reference', in: 'staff' },
  { people: 'references', in: 'staff' },
  { people: 'text' },
  { people: 'people', in: 'staff' },
  { page: true },
];
/** Maps that a lane may have. */
const allowed = (property: (typeof mappableNames)[number], direction: '->' | '<-') =>
  maps.filter((map) => checkFieldMap(property, map, direction, fields, '').length === 0);
const values: Record<string, unknown[]> = {
  title: [null, 'Marsh', 'Marsh: tuning', 'please tune it', 'Voice it now', 'x'.repeat(40), ' Una  (tuning) ', 'confirmed'],
  description: [null, 'a\nb', 'Meadow Hall, later {as it is}', ''],
  location: [null, 'Quayside'],
  status: [null, 'tentative', 'confirmed', 'cancelled'],
  busy: [null, 'busy', 'free'],
  visibility: [null, 'public', 'private', 'confidential'],
  categories: [null, [], ['red'], ['Red', 'green', 'other'], ['tuning', 'voicing'], ['voicing']],
  link: [null, 'https://alder-wren.example/2', 'no address'],
  conference: [null, 'https://meet.alder-wren.example/2'],
  colour: [null, 'teal'],
  attendees: [
    null,
    [],
    [{ email: 'UNA@alder-wren.example', response: 'accepted' }],
    [{ email: 'tom@alder-wren.example', name: 'Tom' }],
    [{ email: 'una@alder-wren.example' }, { email: 'tom@alder-wren.example' }],
  ],
  reminders: [null, [], [15], [120], [15, 30]],
};

const sources: WhenSource[] = [
  { start: 'start', end: 'end' },
  { start: 'start', end: 'end', length: 'length' },
  { start: 'start', length: 'hours' },
  { start: 'start', minutes: 45 },
  { start: 'start', minutes: 45, allDayFrom: '08:00', allDayUntil: '17:30' },
  { date: 'date', time: 'time', length: 'length' },
  { date: 'date', time: 'time', minutes: 0 },
  { first: 'first', last: 'last', lastCounts: true },
  { first: 'first', last: 'last', lastCounts: false },
  { day: 'first' },
  { due: 'due', show: 'ending', minutes: 30 },
  { due: 'due', show: 'starting', minutes: 30 },
  { due: 'due', show: 'all-day' },
];
const whens: When[] = [
  { kind: 'timed', start: '2026-12-01T09:00:00', end: '2026-12-01T10:30:00', zone: 'Europe/London' },
  { kind: 'timed', start: '2026-12-02T11:00:00', end: '2026-12-02T11:40:30', zone: 'Europe/Athens' },
  { kind: 'timed', start: '2026-12-02T23:30:00', end: '2026-12-04T00:30:00', zone: 'UTC' },
  { kind: 'timed', start: '2026-12-02T11:00:00', end: '2026-12-02T11:00:00', zone: null },
  { kind: 'timed', start: '2026-10-25T01:30:00', end: '2026-10-25T02:30:00', zone: 'Europe/London' },
  { kind: 'timed', start: '2026-03-29T01:30:00', end: '2026-03-29T03:00:00', zone: 'Europe/London' },
  { kind: 'timed', start: '2026-07-01T09:00:00', end: '2026-07-01T10:00:00', zone: 'America/Halifax' },
  { kind: 'all-day', first: '2026-12-01', end: '2026-12-02' },
  { kind: 'all-day', first: '2026-12-05', end: '2026-12-08' },
  { kind: 'all-day', first: '2026-12-04', end: '2026-12-05' },
];
const whenRecords = [
  full,
  odd,
  item('empty', {}),
  item('zoned', {
    ...full.fields,
    start: '2026-12-01T12:00:00[Europe/Athens]',
    end: '2026-12-01T10:30:00Z',
    due: '2026-12-04T17:00:00+02:00',
    time: '10:00',
    last: '2026-12-01',
  }),
  item('over days', { ...full.fields, start: '2026-12-01T22:00:00', end: '2026-12-03T02:00:00', length: 1680, hours: 28 }),
];
const whenContext = { fields, zone: london, zones };

const operands: unknown[] = [
  undefined,
  'tuning',
  'Una Marsh',
  'marsh',
  5,
  true,
  ['tuning', 'red'],
  [],
  ['2026-11-01', '2026-12-31'],
  'today',
  '-30 days',
  '+9 days',
  '2026-12-01',
  '2026-12-01T09:00:00Z',
  'soon',
];
const at = { now: '2026-11-23T23:30:00Z', zone: london, zones };

/** Tables of what the core says, each read and approved as a whole. `MONSOON_APPROVE=1` writes them anew. */
describe('what is said and done is as it was approved', () => {
  const keeps = (name: string, lines: () => string[]) =>
    it(name, () => compareApproved(resolve(import.meta.dirname, `approved/${name.replaceAll(' ', '-')}.txt`), lines())).timeout(20_000);

  keeps('what a record shows through each map', () =>
    mappableNames.flatMap((property) =>
      allowed(property, '->').flatMap((map) =>
        records.map((r) => `${property} ${JSON.stringify(map)} ${r.id}: ${said(() => show(property, map, r, mapContext)).slice(0, 300)}`),
      ),
    ),
  );

  keeps('what a record takes through each map', () =>
    mappableNames
      .flatMap((property) =>
        allowed(property, '<-').flatMap((map) =>
          records.flatMap((r) =>
            values[property]!.map(
              (v) =>
                `${property} ${JSON.stringify(map)} ${r.id} <- ${JSON.stringify(v)}: ${said(() => take(property, map, r, v as never, mapContext)).slice(0, 300)}`,
            ),
          ),
        ),
      )
      .filter((line, i) => i % 4 === 0 || !line.includes('{"fields":{},"notes":[]}')),
  );

  keeps('which maps are refused', () => [
    ...mappableNames
      .flatMap((property) =>
        maps.flatMap((map) =>
          mapDirections.flatMap((direction) =>
            checkFieldMap(property, map, direction, fields, '/f').map(
              (p) => `${property} ${JSON.stringify(map)} ${direction}: ${p.pointer} ${p.reason}`,
            ),
          ),
        ),
      )
      .filter((_line, i) => i % 5 === 0),
    ...[
      null,
      5,
      [],
      {},
      { copy: '' },
      { copy: 'a', join: 'b' },
      { copy: 'a', edit: 'b' },
      { copy: 'a', default: 5 },
      { copy: 'a', direction: 'x' },
      { copy: 'x'.repeat(5001) },
      { join: '{a', edit: 'a' },
      { join: '{a}', edit: 5 },
      { page: false },
      { page: true },
      { fixed: [] },
      { fixed: ['a', 5] },
      { fixed: Array(101).fill('a') },
      { table: 'a' },
      { table: 'a', values: {} },
      { table: 'a', values: { b: 5 } },
      { table: 'a', values: ['b'] },
      { words: 'a' },
      { words: 'a', choose: [] },
      { words: 'a', choose: [{ word: ' ', value: 'b' }] },
      { words: 'a', choose: [{ word: 'b', value: 'c' }] },
      { people: 'a', in: 'b', email: 'c' },
      { people: 'a', choose: [] },
    ].map((m) => `${JSON.stringify(m).slice(0, 80)}: ${checkMapShape(m)}`),
    ...['', 'plain', '{a}', '{a', 'a}', 'a]', '[a', '[[{a}] {b}]', '{}', '\\{a\\}', '{a}{a}', 'a\\', '[]', '{a[b}'].flatMap((text) => [
      `join ${JSON.stringify(text)}: ${said(() => parseJoin(text))}`,
      `unjoin ${JSON.stringify(text)}: ${['', 'x', '1 2', 'x y z'].map((t) => said(() => unjoin(parseJoin(text), 'a', { a: '1', b: '2' }, t, (s) => s.trim()))).join(' | ')}`,
    ]),
  ]);

  keeps('the time that a record shows', () =>
    sources.flatMap((source) =>
      whenRecords.map((r) => `${JSON.stringify(source)} ${r.id}: ${said(() => readWhen(source, r, fields, london, zones))}`),
    ),
  );

  keeps('the time that a record takes', () =>
    sources.flatMap((source) =>
      whenRecords.flatMap((r) =>
        whens.map((w) => `${JSON.stringify(source)} ${r.id} <- ${formatWhen(w)}: ${said(() => takeWhen(source, r, w, whenContext))}`),
      ),
    ),
  );

  keeps('the time that stays on the calendar', () =>
    whens.flatMap((shown) =>
      whens.flatMap((before) =>
        whens
          .filter((_w, i) => i % 2 === 0)
          .map(
            (event) =>
              `${formatWhen(shown)} | ${formatWhen(before)} | ${formatWhen(event)}: ${said(() => carryWhen(shown, before, event, whenContext))}`,
          ),
      ),
    ),
  );

  keeps('which sources of a time are refused', () => [
    ...[
      null,
      [],
      'start',
      {},
      { start: 'start' },
      { start: 'start', end: 5 },
      { start: '', end: 'end' },
      { start: 'start', minutes: -1 },
      { start: 'start', minutes: 1.5 },
      { start: 'start', minutes: 527_041 },
      { start: 'start', minutes: 0, allDayFrom: '08:00' },
      { start: 'start', minutes: 0, allDayFrom: '18:00', allDayUntil: '08:00' },
      { start: 'start', minutes: 0, allDayFrom: '8:00', allDayUntil: '24:00' },
      { day: 'first', allDayFrom: '08:00', allDayUntil: '09:00' },
      { first: 'a', last: 'b', lastCounts: 'yes' },
      { due: 'due', show: 'ending' },
      { due: 'due', show: 'all-day', minutes: 5 },
      { due: 'due', show: 'sometime', minutes: 5 },
      { day: 'first', time: 'x' },
    ].map((s) => `${JSON.stringify(s)}: ${checkWhenShape(s)}`),
    ...[{ start: 'nope', end: 'text' }, { start: 'start', length: 'number' }, { date: 'start', time: 'time', minutes: 1 }, { day: 'text' }].flatMap(
      (s) => checkWhenSource(s as WhenSource, fields, '/when').map((p) => `${p.pointer}: ${p.reason}`),
    ),
  ]);

  keeps('what conditions say', () => [
    ...fields.flatMap((f) =>
      testNames.flatMap((test) =>
        operands.flatMap((value): string[] => {
          const condition = { field: f.name, test, ...(value === undefined ? {} : { value }) } as Condition;
          const [problem] = checkCondition(condition, fields);
          if (problem !== undefined)
            return operands.indexOf(value) % 4 === 0 ? [`${f.name} ${test} ${JSON.stringify(value)}: ${problem.pointer} ${problem.reason}`] : [];
          return [`${formatCondition(condition)}: ${records.map((r) => said(() => judgeCondition(condition, r, at).holds)).join(' ')}`];
        }),
      ),
    ),
    ...[
      { all: [{ field: 'text', test: 'is', value: 'Marsh' }, { not: { field: 'number', test: '>', value: 40 } }] },
      {
        any: [
          { field: 'text', test: 'is', value: 'x' },
          { field: 'choice', test: 'one of', value: ['voicing'] },
        ],
      },
      { not: { any: [{ field: 'text', test: 'is', value: 'Marsh' }] } },
      { any: [] },
      { all: [] },
      {
        all: [
          { field: 'nope', test: 'is', value: 1 },
          { field: 'text', test: 'like', value: 1 },
        ],
      },
    ].map(
      (c) =>
        `${JSON.stringify(c)}: ${JSON.stringify(checkCondition(c as Condition, fields))} ${records.map((r) => said(() => judgeCondition(c as Condition, r, at))).join(' ')}`,
    ),
    ...[
      "text is 'Marsh'",
      'text is Marsh and (number > 4 or not flag is yes)',
      'choice one of tuning, voicing',
      'start within -30 days, today',
      'text is empty',
      '`odd name` is 5',
      'number >= -4',
      'not not text is empty',
      '',
      'text',
      'text is',
      'text is (',
      '(text is empty',
      'text is empty)',
      'text frobs x',
      "text is 'open",
      'text is empty and',
      'number > many',
      'flag is true',
      'text is not empty or',
      'a is 1 and b is 2 or c is 3',
      `text is '${"it''s"}'`,
      'start before 2026-12-01',
      'words words words',
    ].map(
      (text) =>
        `${JSON.stringify(text)}: ${said(() => {
          const { condition, columns } = parseCondition(text);
          return [condition, [...columns], formatCondition(condition)];
        })}`,
    ),
  ]);

  keeps('what a lane file may not say', () => {
    const base = {
      name: 'Visits',
      records: { system: 'a', collection: 'visits' },
      calendar: { system: 'b', calendar: '/c/' },
      direction: '->',
      zone: 'Europe/London',
      moments: [{ name: 'visit', when: { start: 'start', length: 'length' } }],
      fields: { title: { copy: 'customer' } },
    };
    const changes: Record<string, unknown>[] = [
      {},
      { name: '' },
      { name: 5 },
      { direction: '=>' },
      { direction: '<-' },
      { direction: '<->' },
      { zone: 'Mars/Phobos' },
      { moments: [] },
      { moments: [{ name: 'a', when: {} }] },
      {
        moments: [
          { name: 'a', when: { start: 'start', minutes: 5 } },
          { name: 'a', when: { start: 'start', minutes: 5 } },
        ],
      },
      { moments: [{ name: 'a b!', when: { day: 'x' } }] },
      { filter: 'kind is tuning' },
      { filter: 'kind is' },
      { filter: 'nope is 5' },
      { filter: { field: 'kind', test: 'is', value: 'x' } },
      { filter: { all: [] } },
      { filter: 5 },
      { window: { behind: -1, ahead: 5 } },
      { window: { behind: 1 } },
      { window: { behind: 1, ahead: 2 } },
      { startLine: 'yesterday' },
      { startLine: '2026-11-01' },
      { startLine: '2026-11-01T00:00:00Z' },
      { private: { field: 'private', treat: 'hide' } },
      { private: { field: 'nope', treat: 'take' } },
      { private: { field: 'kind', treat: 'leave out' } },
      { events: { filter: 'title words rooke' } },
      { direction: '<->', events: { filter: 'title words rooke', private: 'take', repeating: 'take', otherLanes: 'take', moment: 'visit' } },
      { direction: '<->', events: { moment: 'nope' } },
      { events: { nope: 1 } },
      { fields: { title: { copy: 'nope' } } },
      { fields: { nope: { copy: 'kind' } } },
      { fields: { title: [{ copy: 'kind' }, { copy: 'notes' }] } },
      { fields: { title: {} } },
      { direction: '<->', fields: { title: { join: '{customer} {kind}' } } },
      { direction: '<-', fields: {} },
      { direction: '<->', defaults: { nope: 1 } },
      { direction: '<->', defaults: { kind: 'nope' } },
      { direction: '<->', defaults: { score: 'five' } },
      { defaults: { kind: 'tuning' } },
      { link: 'nope' },
      { direction: '<->', link: 'notes' },
      { direction: '<->', link: 'score' },
      { matching: ['title', 'nope'] },
      { matching: [] },
      { matching: ['description'] },
      { may: { records: { create: false } } },
      { direction: '<->', may: { calendar: { create: false, change: false, remove: false }, records: { remove: false } } },
      { conflicts: { rule: 'nobody wins' } },
      { direction: '<->', conflicts: { rule: 'later edit wins', tolerance: -5 } },
      { direction: '<->', conflicts: { rule: 'hold', fields: { title: 'records win', nope: 'hold', location: 'hold' } } },
      { departures: { recordDeleted: 'explode' } },
      { departures: { eventDeleted: 'delete record' } },
      { direction: '<-', departures: { filteredOut: 'remove', recordDeleted: 'make again' } },
      { direction: '<->', departures: { eventDeleted: 'set fields' } },
      {
        direction: '<->',
        departures: { eventDeleted: 'set fields', eventCancelled: 'set fields' },
        sets: { eventDeleted: { kind: 'nope' }, eventCancelled: { private: true, score: 5 } },
      },
      { sets: { eventDeleted: { nope: 1 } } },
      { foreignEdits: 'keep' },
      { guard: { removals: -1 } },
      { guard: { removedPercent: 101 } },
      { guard: { removals: 5, rewrittenPercent: 0 } },
      { checkEvery: 0 },
      { checkEvery: 5 },
      { auditEvery: -1 },
      { quiet: { from: '22:00', until: '25:00' } },
      { quiet: { from: '22:00', until: '06:00' } },
      { tell: ['not an address'] },
      { tell: ['una@alder-wren.example'] },
      { unknown: 1 },
      { records: { system: 'a' } },
      { calendar: 5 },
      { direction: '<->', fields: { status: { table: 'kind', values: { tuning: 'confirmed' } }, attendees: { people: 'guests' } } },
      {
        direction: '<->',
        fields: { title: { copy: 'notes' }, categories: { table: 'kind', values: { tuning: 'red' } }, reminders: { join: '{score}' } },
      },
      { fields: { attendees: { people: 'customer', in: 'staff' } } },
      {
        direction: '<->',
        moments: [
          { name: 'visit', when: { due: 'start', show: 'all-day' } },
          { name: 'second', direction: '<-', when: { start: 'start', minutes: 3 } },
        ],
      },
    ];
    const { collection } = context();
    const bare = { ...collection, may: { create: false, change: false, remove: false }, stamps: { created: false, modified: false } };
    return [...changes.map((more) => ({ ...base, ...more })), null, 5, [], {}].map((input) => {
      const text = said(() => {
        const { lane: read, columns } = readLane(input);
        const problems = [...checkLane(read, collection, zones), ...checkHonoured(read, collection)];
        const lacking = [...checkLane(read, bare, zones), ...checkHonoured(read, bare)];
        return { problems, lacking: lacking.filter((p) => !problems.some((q) => canonical(q) === canonical(p))), columns: [...columns] };
      });
      const more = input !== null && typeof input === 'object' ? changes.find((c) => canonical({ ...base, ...c }) === canonical(input)) : input;
      const errors = (() => {
        try {
          readLane(input);
          return '';
        } catch (error) {
          return JSON.stringify((error as { errors?: unknown }).errors ?? '');
        }
      })();
      return `${JSON.stringify(more ?? input)}: ${text} ${errors}`;
    });
  });

  keeps('how values are said and compared', () => {
    const odds: unknown[] = [
      null,
      undefined,
      '',
      'a',
      0,
      1.5,
      true,
      false,
      [],
      ['a', 'b'],
      { name: 'Una' },
      { email: 'una@a.example' },
      { name: 'Una', email: 'u@a.example' },
      { id: 'P-1' },
      { id: 'P-1', label: 'Una' },
      [{ id: 'a' }, { name: 'b' }],
      [15, 30],
      { kind: 'all-day', first: '2026-12-01', end: '2026-12-02' },
      { b: 1, a: [2, { d: 1, c: 2 }] },
    ];
    return [
      ...odds.map((v) => `${JSON.stringify(v)}: ${said(() => sayValue(v as FieldValue))} ${said(() => sayAny(v))} ${said(() => canonical(v))}`),
      ...records.map((r) => `${r.id}: ${stateOf(r)} ${stateOf({ ...r, version: undefined })}`),
      ...[
        '2026-12-01T09:00:00',
        '2026-12-01T09:00',
        '2026-12-01T09:00:00Z',
        '2026-12-01T09:00:00+05:30',
        '2026-12-01T09:00:00[Europe/Athens]',
        '2026-12-01T09:00:00Z[Europe/Athens]',
        '2026-10-25T01:30:00',
        '2026-03-29T01:30:00',
        '2026-12-01',
        '2026-02-30T00:00:00',
        'soon',
        '2026-12-01T09:00:00.5Z',
        '2026-12-01T25:00:00',
        '2026-12-01T09:00:00[Mars/Phobos]',
      ].map((t) => `${t}: ${said(() => ({ ...readDateTime(t, london, zones), zone: readDateTime(t, london, zones).zone.name }))}`),
      ...[
        '2026-10-25T00:59:59',
        '2026-10-25T01:00:00',
        '2026-10-25T01:59:59',
        '2026-10-25T02:00:00',
        '2026-03-29T00:59:59',
        '2026-03-29T01:00:00',
        '2026-03-29T02:00:00',
        '1999-12-31T23:59:59',
        '2040-07-01T12:00:00',
      ].flatMap((t) =>
        ['Europe/London', 'America/Halifax', 'Asia/Kolkata', 'UTC'].map(
          (z) =>
            `${t} ${z}: ${said(() => {
              const { instant, resolution } = toInstant(t, zones.find(z)!);
              return [instant, resolution, toLocal(instant, zones.find(z)!)];
            })}`,
        ),
      ),
      ...whens.map((w) => formatWhen(w)),
      ...whens.flatMap((w) =>
        [{}, { matching: ['title'] }, { matching: ['when', 'location'] }, { matching: [] }, { matching: ['categories', 'title'] }].map(
          (m) =>
            `${JSON.stringify(m)} ${formatWhen(w)}: ${matchKey(context(lane(m)), { title: ' Marsh ', when: w, location: 'Meadow Hall', categories: ['b', 'a'] })}`,
        ),
      ),
      ...[0, 1, 5, 10, 11, 100].flatMap((removals) =>
        [0, 1, 50, 51].flatMap((rewrites) =>
          [1, 9, 10, 100].map((pairs) => {
            const limits = { removals: 10, removedPercent: 20, rewrittenPercent: 50 };
            return `${removals} removals, ${rewrites} rewrites of ${pairs}: ${JSON.stringify(guard({ removals, rewrites }, pairs, limits, null))} ${JSON.stringify(guard({ removals, rewrites }, pairs, limits, { removals: 5, rewrites: 50 }).reasons)} ${pairsThatMatter({ removals, rewrites }, limits)} ${pairsThatMatter({ removals, rewrites }, { removals: 1000, removedPercent: 0, rewrittenPercent: 100 })}`;
          }),
        ),
      ),
      ...['2026-11-23T21:00:00Z', '2026-11-23T23:00:00Z', '2026-11-24T05:59:00Z', '2026-11-24T06:00:00Z'].flatMap((now) =>
        [null, { from: '22:00', until: '06:00' }, { from: '05:00', until: '21:30' }].map(
          (quiet) => `${now} ${JSON.stringify(quiet)}: ${said(() => quietUntil({ quiet, zone: 'Europe/London' } as never, now, zones))}`,
        ),
      ),
    ];
  });

  keeps('how events and tasks are read and written', () => {
    const text = (...lines: string[]) => `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${lines.join('\r\n')}\r\nEND:VCALENDAR\r\n`;
    const event = (...lines: string[]) => text('BEGIN:VEVENT', 'UID:e', 'DTSTAMP:20261101T000000Z', ...lines, 'END:VEVENT');
    const task = (...lines: string[]) => text('BEGIN:VTODO', 'UID:t', ...lines, 'END:VTODO');
    const zone = [
      'BEGIN:VTIMEZONE',
      'TZID:Workshop',
      'BEGIN:STANDARD',
      'DTSTART:19961027T040000',
      'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
      'TZOFFSETFROM:+0300',
      'TZOFFSETTO:+0200',
      'END:STANDARD',
      'BEGIN:DAYLIGHT',
      'DTSTART:19810329T030000',
      'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
      'TZOFFSETFROM:+0200',
      'TZOFFSETTO:+0300',
      'END:DAYLIGHT',
      'END:VTIMEZONE',
    ];
    const fixedZone = (offset: string, ...more: string[]) => [
      'BEGIN:VTIMEZONE',
      'TZID:Odd',
      'BEGIN:STANDARD',
      'DTSTART:19700101T000000',
      `TZOFFSETFROM:${offset}`,
      `TZOFFSETTO:${offset}`,
      ...more,
      'END:STANDARD',
      'END:VTIMEZONE',
    ];
    const texts = [
      event(
        'DTSTART:20261201T090000Z',
        'DTEND:20261201T100000Z',
        'SUMMARY:A\\, b\\nc\\;',
        'CATEGORIES:red,gr\\,een',
        'CATEGORIES:blue',
        'CLASS:CONFIDENTIAL',
        'TRANSP:TRANSPARENT',
        'STATUS:tentative',
        'URL:https://a.example',
        'COLOR:teal',
      ),
      event(
        'DTSTART;TZID=Europe/London:20261201T090000',
        'DURATION:PT1H30M',
        'CREATED:20261001T000000Z',
        'LAST-MODIFIED:20261102T000000Z',
        'X-MONSOON-LANE:l',
        'X-MONSOON-PAIR:p',
      ),
      event('DTSTART;TZID="GMT Standard Time":20261201T090000', 'DTEND;TZID=Europe/Athens:20261201T120000'),
      event('DTSTART;VALUE=DATE:20261201'),
      event('DTSTART;VALUE=DATE:20261201', 'DTEND;VALUE=DATE:20261203'),
      event('DTSTART;VALUE=DATE:20261201', 'DURATION:P2D'),
      event('DTSTART;VALUE=DATE:20261201', 'DTEND;VALUE=DATE:20261201'),
      event('DTSTART:20261201T090000', 'DURATION:P1DT2H'),
      event('DTSTART:20261024T120000', 'DURATION:P1W'),
      event('DTSTART:20261201T090000Z', 'DTEND:20261201T080000Z'),
      event('DTSTART:20261201T090000Z', 'DURATION:-PT1H'),
      event('DTSTART:20261201T090000Z', 'DURATION:P40000D'),
      event('DTSTART:20260230T090000Z'),
      event('SUMMARY:no start'),
      event('DTSTART:soon'),
      event(
        'DTSTART:20261201T090000Z',
        'RRULE:FREQ=DAILY',
        'ORGANIZER;CN=Una:mailto:una@a.example',
        'ATTENDEE;PARTSTAT=ACCEPTED;CN="Tom, T":mailto:tom@a.example',
        'ATTENDEE:mailto:una@a.example',
        'ATTENDEE:urn:x',
        'ATTENDEE;PARTSTAT=DELEGATED:MAILTO:TOM@a.example',
      ),
      event(
        'DTSTART:20261201T090000Z',
        'BEGIN:VALARM',
        'ACTION:DISPLAY',
        'TRIGGER:-PT15M',
        'END:VALARM',
        'BEGIN:VALARM',
        'TRIGGER;RELATED=END:-PT5M',
        'END:VALARM',
        'BEGIN:VALARM',
        'TRIGGER;VALUE=DATE-TIME:20261201T080000Z',
        'END:VALARM',
        'BEGIN:VALARM',
        'TRIGGER:PT5M',
        'END:VALARM',
        'BEGIN:VALARM',
        'TRIGGER:-P1D',
        'END:VALARM',
        'BEGIN:VALARM',
        'END:VALARM',
      ),
      text(...zone, 'BEGIN:VEVENT', 'UID:z', 'DTSTART;TZID=Workshop:20261201T090000', 'DTEND;TZID=Workshop:20261201T100000', 'END:VEVENT'),
      ...['+0537', '-0100', '+05', '+053702', 'garbage', '+2500'].map((o) =>
        text(...fixedZone(o), 'BEGIN:VEVENT', 'UID:z', 'DTSTART;TZID=Odd:20261201T090000', 'DTEND;TZID=Odd:20261201T100000', 'END:VEVENT'),
      ),
      ...[
        'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=2SU',
        'RRULE:FREQ=YEARLY;UNTIL=20200101T000000Z',
        'RRULE:FREQ=DAILY',
        'RDATE:20100101T000000',
        'RRULE:FREQ=YEARLY;BYMONTH=3;BYMONTHDAY=7,8,9;BYDAY=SU',
      ].map((r) => text(...fixedZone('+0400', r), 'BEGIN:VEVENT', 'UID:z', 'DTSTART;TZID=Odd:20261201T090000', 'END:VEVENT')),
      event('DTSTART;TZID=Nowhere/Land:20261201T090000'),
      event('DTSTART;TZID=/mozilla.example/20070129_1/Europe/London:20261201T090000'),
      text('BEGIN:VEVENT', 'DTSTART:20261201T090000Z', 'END:VEVENT'),
      text('BEGIN:VTODO', 'UID:t', 'END:VTODO'),
      '',
      'BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n',
      'X',
      'BEGIN:VEVENT\r\nUID:a\r\n',
      'BEGIN:VEVENT\r\nEND:VTODO\r\n',
      'BEGIN:VEVENT\r\nUID\r\nEND:VEVENT\r\n',
      'BEGIN:VEVENT\r\nUID;X:a\r\nEND:VEVENT\r\n',
      'BEGIN:VEVENT\r\nUID;X="a:a\r\nEND:VEVENT\r\n',
      `${'BEGIN:VEVENT\r\n'.repeat(9)}`,
      event(`UID:${'x'.repeat(1100)}`, 'DTSTART:20261201T090000Z').replace('UID:e\r\n', ''),
      text(
        'BEGIN:VEVENT',
        'UID:r',
        'RECURRENCE-ID:20261208T090000Z',
        'DTSTART:20261208T100000Z',
        'END:VEVENT',
        'BEGIN:VEVENT',
        'UID:r',
        'RRULE:FREQ=WEEKLY',
        'DTSTART:20261201T090000Z',
        'SUMMARY:Master',
        'END:VEVENT',
      ),
    ];
    const edits = [
      { title: 'New' },
      { title: null, description: 'a\nb; c, d' },
      { when: whens[0]! },
      { when: whens[2]! },
      { when: whens[3]! },
      { when: whens[8]! },
      { status: 'cancelled' as const, busy: 'free' as const, visibility: 'private' as const },
      { categories: ['a,b', 'c'], link: 'https://a.example/a b', conference: 'https://m.example', colour: 'red' },
      { attendees: [{ email: 'new@a.example', name: 'N "N"' }, { email: 'TOM@a.example' }] },
      { attendees: null, reminders: [0, 15] },
      { reminders: null, categories: null, link: null },
    ];
    const write = { zones, now: '2026-11-23T08:00:00Z' };
    const tasks = [
      task('SUMMARY:Felts', 'DUE;VALUE=DATE:20261210', 'STATUS:IN-PROCESS', 'PERCENT-COMPLETE:40', 'PRIORITY:2', 'CATEGORIES:a,b'),
      task(
        'DUE;TZID=Europe/London:20261210T170000',
        'DTSTART:20261209T090000Z',
        'COMPLETED:20261201T090000Z',
        'PERCENT-COMPLETE:100',
        'URL:https://a.example',
      ),
      task('DUE:20261210T170000', 'STATUS:odd', 'PRIORITY:x', 'CREATED:20261101T000000Z', 'LAST-MODIFIED:soon'),
      text(...zone, 'BEGIN:VTODO', 'UID:t', 'DUE;TZID=Workshop:20261210T170000', 'END:VTODO'),
    ];
    const taskEdits = [
      { title: 'New; title', description: null },
      { 'due day': '2026-12-24' },
      { due: '2026-12-24T10:00:00[Europe/London]' },
      { due: '2026-12-24T10:00:00Z' },
      { due: '2026-12-24T10:00' },
      { due: null, start: '2026-12-20T10:00:00+02:00' },
      { done: true },
      { done: false },
      { status: 'completed' },
      { status: 'in process', percent: 60, priority: null },
      { categories: ['x', 'y,z'], link: 'https://b.example/a b', location: 'Here' },
      { 'start day': null, 'due day': null },
    ];
    const line = (label: string, work: () => unknown) => `${label}: ${said(work).slice(0, 2500)}`;
    return [
      ...texts.map((t, i) => line(`event ${i}`, () => readEvent(t, zones))),
      ...texts.slice(0, 3).map((t, i) => line(`as an item ${i}`, () => eventItem(readEvent(t, zones)))),
      ...texts
        .filter((_t, i) => i < 21)
        .flatMap((t, i) =>
          edits.map((e, j) =>
            line(`event ${i} edited ${j}`, () => editEvent(t, e, j % 2 === 0 ? write : { ...write, mark: { lane: 'L', pair: 'P' } })),
          ),
        ),
      ...edits.map((e, j) => line(`made ${j}`, () => makeEvent('uid', { when: whens[j % whens.length]!, ...e }, { lane: 'L', pair: 'P' }, write))),
      ...whens.map((w, j) => line(`made at ${j}`, () => makeEvent('uid', { when: w }, { lane: 'L', pair: 'P' }, write))),
      ...[...tasks, texts[0]!, 'X'].map((t, i) => line(`task ${i}`, () => readTask(t, zones))),
      ...[...tasks, texts[0]!].flatMap((t, i) => taskEdits.map((e, j) => line(`task ${i} edited ${j}`, () => editTask(t, e as never, write)))),
      ...taskEdits.map((e, j) => line(`task made ${j}`, () => makeTask('uid', e as never, write))),
    ];
  });
});
