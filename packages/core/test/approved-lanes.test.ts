import {
  type Collection,
  type Condition,
  canonical,
  checkCondition,
  checkHonoured,
  checkLane,
  formatCondition,
  judgeCondition,
  parseCondition,
  readLane,
  testNames,
} from '@monsoon/core';
import { fields, keeps, london, records, said } from './approved-fixtures.ts';
import { context, zones } from './engine-fixtures.ts';

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
describe('what is said and done is as it was approved: conditions and lane files', () => {
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
      { direction: '<->', events: { filter: 'title words rooke', private: 'take', repeating: 'one record', otherLanes: 'take', moment: 'visit' } },
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
      { direction: '<-', departures: { filteredOut: 'remove', recordDeleted: 'create again' } },
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
      { notify: ['not an address'] },
      { notify: ['una@alder-wren.example'] },
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
    return [...changes.map((more) => ({ ...base, ...more })), null, 5, [], {}].map((input) => {
      const more = input !== null && typeof input === 'object' ? changes.find((c) => canonical({ ...base, ...c }) === canonical(input)) : input;
      return `${JSON.stringify(more ?? input)}: ${findings(input, context().collection)}`;
    });
  });

  keeps('what a lane both ways may not say', () => {
    const base = {
      name: 'Visits',
      records: { system: 'a', collection: 'visits' },
      calendar: { system: 'b', calendar: '/c/' },
      direction: '<->',
      zone: 'Europe/London',
      moments: [{ name: 'visit', when: { start: 'start', length: 'length' } }],
      fields: { title: { copy: 'text' } },
    };
    const moment = base.moments[0]!;
    const leaf = (n: number) => ({ field: 'number', test: 'is', value: n });
    const nested = (depth: number): unknown => (depth === 0 ? leaf(1) : { not: nested(depth - 1) });
    const changes: [string, Record<string, unknown>][] = [
      ['nothing', {}],
      ['a field that two maps write', { fields: { title: { copy: 'text' }, location: { copy: 'text' } } }],
      ['one that a moment writes, too', { moments: [{ ...moment, fields: { location: { copy: 'text' } } }] }],
      ['the time of the record', { fields: { title: { copy: 'text' }, description: { copy: 'start' } } }],
      ['one of them goes one way', { fields: { title: { copy: 'text' }, location: { copy: 'text', direction: '->' } } }],
      ['a field that cannot be written', { fields: { title: { copy: 'fixed' } } }],
      ['and only once', { fields: { title: { copy: 'text' }, location: { copy: 'fixed', direction: 'once' } } }],
      ['no time comes back', { moments: [{ ...moment, direction: '->' }] }],
      [
        'the time of one moment does',
        {
          moments: [
            { ...moment, direction: '->' },
            { name: 'other', when: { due: 'due', show: 'all-day' } },
          ],
        },
      ],
      ['a fixed value that never fits', { fields: { title: { copy: 'text' }, status: { fixed: 'maybe' } } }],
      ['a fixed length', { fields: { title: { copy: 'text' }, colour: { fixed: 'no colour' }, link: { fixed: 'no link' } } }],
      [
        'a table with values that never fit',
        { fields: { title: { copy: 'text' }, status: { table: 'choice', values: { tuning: 'maybe', nope: 'confirmed' } } } },
      ],
      [
        'that goes to the calendar alone',
        { fields: { title: { copy: 'text' }, status: { table: 'choice', values: { tuning: 'maybe', nope: 'confirmed' }, direction: '->' } } },
      ],
      [
        'that comes back alone',
        { fields: { title: { copy: 'text' }, status: { table: 'choice', values: { tuning: 'maybe', nope: 'confirmed' }, direction: '<-' } } },
      ],
      [
        'a default that never fits',
        { fields: { title: { copy: 'text' }, status: { table: 'choice', values: { tuning: 'confirmed' }, default: 'maybe' } } },
      ],
      [
        'words that choose what never fits',
        {
          fields: {
            title: { copy: 'text' },
            description: { words: 'choice', choose: [{ word: 'retune', value: 'nope' }], default: 'none', direction: '<-' },
          },
        },
      ],
      [
        'words that fit',
        {
          fields: {
            title: { copy: 'text' },
            description: { words: 'choice', choose: [{ word: 'retune', value: 'tuning' }], default: 'voicing', direction: '<-' },
          },
        },
      ],
      ['people in a collection that is not there', { fields: { title: { copy: 'text' }, attendees: { people: 'reference', in: 'staff' } } }],
      ['people in one that is', { fields: { title: { copy: 'text' }, attendees: { people: 'reference', in: 'visits' } } }],
      ['a second map that fills', { fields: { title: [{ copy: 'text' }, { copy: 'long' }] } }],
      ['a second map of a moment', { moments: [{ ...moment, fields: { title: [{ copy: 'text' }, { copy: 'long' }] } }] }],
      ['no map in a list', { fields: { title: [] } }],
      ['ten maps', { fields: { title: [{ copy: 'text' }, ...Array.from({ length: 9 }, () => ({ copy: 'long', direction: '<-' }))] } }],
      ['eleven maps', { fields: { title: [{ copy: 'text' }, ...Array.from({ length: 10 }, () => ({ copy: 'long', direction: '<-' }))] } }],
      ['a list that comes back through a table', { fields: { title: { copy: 'text' }, categories: { table: 'choice', values: { tuning: 'red' } } } }],
      ['in a moment', { moments: [{ ...moment, fields: { categories: { table: 'choice', values: { tuning: 'red' } } } }] }],
      ['filters of a moment', { moments: [{ ...moment, filter: 'nope is 5' }] }],
      ['a filter of a moment that cannot be read', { moments: [{ ...moment, filter: 'text is' }] }],
      ['a filter of events that cannot be read', { events: { filter: 'title is' } }],
      ['a filter of events by a field of records', { events: { filter: 'text is Marsh' } }],
      ['moments that are no objects', { moments: [null, 5, 'visit'] }],
      ['moments that are no list', { moments: 5 }],
      [
        'a moment without a title',
        {
          fields: {},
          moments: [
            { ...moment, fields: { title: { copy: 'text' } } },
            { name: 'other', when: { day: 'date' } },
          ],
        },
      ],
      ['events in a moment that is not there', { moments: [moment, { name: 'other', when: { day: 'date' } }], events: { moment: 'third' } }],
      ['events in one that is', { moments: [moment, { name: 'other', when: { day: 'date' } }], events: { moment: 'other' } }],
      ['each occurrence without a window', { events: { repeating: 'each occurrence' } }],
      ['each occurrence in a window', { events: { repeating: 'each occurrence' }, window: { behind: 1, ahead: 2 } }],
      [
        'each occurrence of what the record holds as a whole',
        {
          events: { repeating: 'each occurrence' },
          window: { behind: 1, ahead: 2 },
          fields: { title: { copy: 'text' }, recurrence: { rule: 'long' } },
        },
      ],
      ['each occurrence towards the calendar', { direction: '->', events: { repeating: 'each occurrence' } }],
      ['an earlier word', { events: { repeating: 'take' }, departures: { eventDeleted: 'part' } }],
      ['another earlier word', { departures: { eventDeleted: 'make again' } }],
      ['an earlier word for no invitations', { invitations: { by: 'nobody' } }],
      ['an earlier word for who is notified', { tell: ['una@alder-wren.example'] }],
      [
        'what is removed without leave',
        { may: { calendar: { remove: false } }, departures: { recordDeleted: 'remove', filteredOut: 'remove', dateLost: 'remove' } },
      ],
      [
        'what is changed without leave',
        {
          may: { calendar: { change: false, create: false }, records: { change: false } },
          departures: { recordDeleted: 'mark cancelled', eventDeleted: 'create again', eventCancelled: 'set fields' },
          sets: { eventCancelled: { text: 'gone' } },
        },
      ],
      [
        'records that are removed without leave',
        { may: { records: { remove: false } }, departures: { eventDeleted: 'delete record', eventFilteredOut: 'delete record' } },
      ],
      ['records that are removed by filter', { departures: { eventFilteredOut: 'delete record' } }],
      ['leave that says nothing', { may: { records: { create: undefined, change: true } } }],
      [
        'fields that are set though they cannot be written',
        { departures: { eventDeleted: 'set fields' }, sets: { eventDeleted: { fixed: 'x', flag: false, number: null, date: 'soon' } } },
      ],
      ['nothing that is set', { departures: { eventCancelled: 'set fields' } }],
      ['what is set is a list', { sets: { eventDeleted: ['text'] } }],
      ['what is set is a text', { sets: { eventDeleted: 'text' } }],
      ['what is set is an object', { sets: { eventDeleted: { text: {} } } }],
      ['a default that is empty', { defaults: { text: null } }],
      ['a yes/no as a default', { defaults: { flag: false, long: 'words' } }],
      ['a later edit that is not known', { conflicts: { rule: 'later edit wins', fields: { title: 'later edit wins', when: 'hold' } } }],
      ['the same towards the calendar', { direction: '->', conflicts: { rule: 'later edit wins' } }],
      ['a rule for what is not mapped', { conflicts: { fields: { location: 'records win' } } }],
      ['a link in a long text', { link: 'long' }],
      [
        'a lane from the calendar that looks at records',
        { direction: '<-', filter: 'number is 5', private: { field: 'flag', treat: 'take' }, moments: [{ ...moment, filter: 'number is 5' }] },
      ],
      ['and has a start line', { direction: '<-', startLine: '2026-11-01' }],
      ['a day that does not exist', { startLine: '2026-02-30' }],
      ['a day with more behind it', { startLine: '2026-11-01 or so' }],
      ['a day with more before it', { startLine: 'on 2026-11-01' }],
      ['a quiet time without length', { quiet: { from: '22:00', until: '22:00' } }],
      ['a condition with more beside all', { filter: { all: [leaf(1)], field: 'number' } }],
      ['a condition of a number', { filter: { all: 5 } }],
      ['a condition within that is none', { filter: { any: [leaf(1), { all: [leaf(2), 5] }] } }],
      ['a condition with more beside not', { filter: { not: leaf(1), any: [] } }],
      ['a condition within not that is none', { filter: { not: { not: null } } }],
      ['a comparison with more than that', { filter: { ...leaf(1), unit: 'hours' } }],
      ['a comparison without field', { filter: { test: 'is', value: 1 } }],
      ['a comparison without test', { filter: { field: 'number', value: 1 } }],
      ['a comparison with an object', { filter: { field: 'number', test: 'is', value: {} } }],
      ['a comparison with a list of numbers', { filter: { field: 'choice', test: 'one of', value: ['tuning', 5] } }],
      ['a comparison with a list', { filter: { field: 'choice', test: 'one of', value: ['tuning', 'voicing'] } }],
      ['a condition as deep as it may be', { filter: nested(12) }],
      ['a deeper one', { filter: nested(13) }],
      ['a condition as long as it may be', { filter: { any: Array.from({ length: 200 }, (_, n) => leaf(n)) } }],
      ['a longer one', { filter: { any: Array.from({ length: 201 }, (_, n) => leaf(n)) } }],
    ];
    const collection = { ...context().collection, fields };
    const short = (text: string) => (text.length > 600 ? `${text.slice(0, 600)} ... ${text.length} characters` : text);
    return changes.flatMap(([what, more]) => [`${what}: ${short(JSON.stringify(more))}`, `  ${findings({ ...base, ...more }, collection)}`]);
  });
});

/** What is found of a lane, in a collection that lets everything be done and in one that lets nothing. */
function findings(input: unknown, collection: Collection): string {
  const bare = { ...collection, may: { create: false, change: false, remove: false }, stamps: { created: false, modified: false } };
  const text = said(() => {
    const { lane: read, columns } = readLane(input);
    const problems = [...checkLane(read, collection, zones), ...checkHonoured(read, collection)];
    const lacking = [...checkLane(read, bare, zones), ...checkHonoured(read, bare)];
    return { problems, lacking: lacking.filter((p) => !problems.some((q) => canonical(q) === canonical(p))), columns: [...columns] };
  });
  const errors = (() => {
    try {
      readLane(input);
      return '';
    } catch (error) {
      return JSON.stringify((error as { errors?: unknown }).errors ?? '');
    }
  })();
  return `${text} ${errors}`;
}
