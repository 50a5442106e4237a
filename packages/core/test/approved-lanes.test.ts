import {
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
});
