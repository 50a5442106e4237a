import { type Collection, checkHonoured, checkLane, departureChoices, type LaneDefinition, parseLane } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import fc from 'fast-check';
import { collectionOf } from '../memory-systems.ts';

export const zones = loadZones();

export const fields: Collection['fields'] = [
  { name: 'title', label: 'Title', type: 'text', limit: 40 },
  { name: 'place', label: 'Place', type: 'place' },
  { name: 'notes', label: 'Notes', type: 'long text' },
  { name: 'start', label: 'Start', type: 'date-time' },
  { name: 'end', label: 'End', type: 'date-time' },
  { name: 'length', label: 'Length', type: 'duration', unit: 'minutes' },
  { name: 'date', label: 'Date', type: 'date' },
  { name: 'time', label: 'Time', type: 'time' },
  { name: 'first', label: 'First day', type: 'date' },
  { name: 'last', label: 'Last day', type: 'date' },
  { name: 'due', label: 'Due', type: 'date-time' },
  { name: 'follow', label: 'Follow-up', type: 'date-time' },
  { name: 'status', label: 'Status', type: 'choice', choices: ['open', 'done', 'later'] },
  { name: 'kind', label: 'Kind', type: 'choice', choices: ['tuning', 'voicing'] },
  { name: 'tags', label: 'Tags', type: 'choices', choices: ['red', 'green', 'blue'] },
  { name: 'guests', label: 'Guests', type: 'people' },
  { name: 'remind', label: 'Remind', type: 'number' },
  { name: 'url', label: 'Address', type: 'web address' },
  { name: 'secret', label: 'Private', type: 'yes/no' },
  { name: 'memo', label: 'Memo', type: 'long text' },
  { name: 'uid', label: 'UID', type: 'text' },
];
export const collection = (retries: 'key' | 'none'): Collection => collectionOf(fields, retries);

const sources = [
  { start: 'start', end: 'end' },
  { start: 'start', end: 'end', length: 'length' },
  { start: 'start', length: 'length' },
  { start: 'start', minutes: 60 },
  { start: 'start', minutes: 60, allDayFrom: '07:30', allDayUntil: '16:30' },
  { date: 'date', time: 'time', length: 'length' },
  { date: 'date', time: 'time', minutes: 45 },
  { first: 'first', last: 'last', lastCounts: true },
  { first: 'first', last: 'last', lastCounts: false },
  { day: 'first' },
  { due: 'due', show: 'ending', minutes: 90 },
  { due: 'due', show: 'starting', minutes: 30 },
  { due: 'due', show: 'all-day' },
];

const recordFilters = [
  { field: 'status', test: 'is not', value: 'done' },
  { field: 'status', test: 'one of', value: ['open', 'later'] },
  {
    any: [
      { field: 'kind', test: 'is', value: 'tuning' },
      { field: 'tags', test: 'contains', value: 'red' },
    ],
  },
  { not: { field: 'tags', test: 'is', value: 'blue' } },
  { all: [{ field: 'title', test: 'is not empty' }, { not: { field: 'title', test: 'words', value: 'rooke' } }] },
];
const eventFilters = [
  { field: 'categories', test: 'is empty' },
  { field: 'all-day', test: 'is', value: false },
  { not: { field: 'title', test: 'words', value: 'rooke' } },
  { field: 'busy', test: 'is', value: 'busy' },
  { field: 'start', test: 'after', value: '-20 days' },
  { field: 'repeating', test: 'is', value: false },
];

const pick = <T>(...from: T[]) => fc.constantFrom(...from);
const maybe = <T>(arbitrary: fc.Arbitrary<T>, weight = 1) => fc.oneof({ weight: 2, arbitrary: fc.constant(undefined) }, { weight, arbitrary });
type Raw = Record<string, unknown>;

const chosen = fc.record({
  direction: pick('->', '<-', '<->', '<->', '<->'),
  source: pick(...sources),
  second: fc.boolean(),
  secondFilter: fc.boolean(),
  maps: fc.record({
    title: pick('copy', 'join', 'join one way', 'words', 'default'),
    description: maybe(pick('copy', 'copy', 'join'), 2),
    location: maybe(pick('copy'), 2),
    status: maybe(pick('table', 'table one way'), 2),
    busy: maybe(pick('fixed', 'table'), 2),
    visibility: maybe(pick('table'), 1),
    categories: maybe(pick('copy', 'fixed'), 3),
    attendees: maybe(pick('copy'), 2),
    reminders: maybe(pick('copy', 'fixed'), 2),
    link: maybe(pick('copy'), 1),
  }),
  ways: fc.array(pick(undefined, undefined, '->', '<-', '<->', 'once'), { minLength: 10, maxLength: 10 }),
  filter: maybe(pick(...recordFilters), 2),
  eventFilter: maybe(pick(...eventFilters), 1),
  private: maybe(pick('leave out', 'take'), 1),
  privateEvents: pick('leave out', 'take'),
  repeating: pick('leave out', 'one record'),
  otherLanes: pick('leave out', 'leave out', 'take'),
  window: maybe(pick({ behind: 30, ahead: 60 }, { behind: 3, ahead: 20 }), 2),
  startLine: maybe(pick('2026-11-23T10:00:00Z', '2026-11-24'), 1),
  matching: pick(['title', 'when'], ['title', 'when'], ['title'], ['when', 'location'], ['attendees', 'when'], []),
  link: fc.boolean(),
  may: maybe(
    fc.record({
      records: fc.record({ create: fc.boolean(), change: fc.boolean(), remove: fc.boolean() }),
      calendar: fc.record({ create: fc.boolean(), change: fc.boolean(), remove: fc.boolean() }),
    }),
    1,
  ),
  rule: pick('hold', 'hold', 'records win', 'calendar wins', 'later edit wins'),
  rules: maybe(pick({ when: 'calendar wins' }, { title: 'records win' }, { when: 'later edit wins', title: 'hold' }), 1),
  departures: fc.record(
    Object.fromEntries(Object.entries(departureChoices).map(([name, choices]) => [name, pick(...(choices as readonly string[]))])),
  ) as fc.Arbitrary<Record<string, string>>,
  foreignEdits: pick('put back', 'leave'),
  removals: pick(1000, 1000, 1000, 1),
});
type Chosen = typeof chosen extends fc.Arbitrary<infer T> ? T : never;

function mapOf(property: string, kind: string): Raw | Raw[] {
  const maps: Record<string, Record<string, Raw | Raw[]>> = {
    title: {
      copy: { copy: 'title' },
      default: { copy: 'title', default: 'Untitled' },
      join: { join: '{title}[ ({kind})]', edit: 'title' },
      'join one way': { join: '[{kind}: ]{title}', direction: '->' },
      words: [
        { copy: 'title' },
        {
          words: 'kind',
          choose: [
            { word: 'marsh', value: 'tuning' },
            { word: 'quill', value: 'voicing' },
          ],
          direction: '<-',
        },
      ],
    },
    description: { copy: { copy: 'notes' }, join: { join: '{notes}[ / {memo}]', edit: 'notes' } },
    location: { copy: { copy: 'place' } },
    status: {
      table: { table: 'status', values: { open: 'confirmed', later: 'tentative' } },
      'table one way': { table: 'status', values: { open: 'confirmed', later: 'tentative', done: 'cancelled' }, direction: '->' },
    },
    busy: { fixed: { fixed: 'free' }, table: { table: 'kind', values: { tuning: 'busy', voicing: 'free' } } },
    visibility: { table: { table: 'secret', values: { no: 'public', yes: 'private' } } },
    categories: { copy: { copy: 'tags' }, fixed: { fixed: ['green'] } },
    attendees: { copy: { copy: 'guests' } },
    reminders: { copy: { copy: 'remind' }, fixed: { fixed: ['15'] } },
    link: { copy: { copy: 'url' } },
  };
  return structuredClone(maps[property]![kind]!);
}

/** The settings as somebody could write them; what such a lane may not say is left out. */
function rawOf(c: Chosen): Raw {
  const fieldsOf = (oneWay: boolean): Raw =>
    Object.fromEntries(
      Object.entries(c.maps).flatMap(([property, kind], i) => {
        if (kind === undefined) return [];
        const given = mapOf(property, kind);
        const [main, ...more] = [given].flat() as [Raw, ...Raw[]];
        if (oneWay) return [[property, { ...main, direction: '->' }]];
        const way = c.ways[i];
        const fixed = 'fixed' in main || main['direction'] !== undefined;
        const possible =
          c.direction === '->'
            ? [undefined, '->', 'once']
            : c.direction === '<-'
              ? [undefined, '<-', 'once']
              : [undefined, '->', '<-', '<->', 'once'];
        const map = fixed || way === undefined || !possible.includes(way) ? main : { ...main, direction: way };
        return [[property, more.length === 0 || c.direction === '->' ? map : [map, ...more]]];
      }),
    );
  const back = c.direction !== '->';
  const creates = back && (c.direction === '<-' || c.may === undefined || c.may.records.create);
  return {
    name: 'Items',
    records: { system: 'a', collection: 'items' },
    calendar: { system: 'b', calendar: '/c/' },
    direction: c.direction,
    zone: 'Europe/London',
    ...(c.direction === '<->' && c.may !== undefined ? { may: c.may } : {}),
    filter: c.direction === '<-' ? null : (c.filter ?? null),
    events: {
      private: c.privateEvents,
      repeating: c.repeating,
      otherLanes: c.otherLanes,
      ...(back && c.eventFilter !== undefined ? { filter: c.eventFilter } : {}),
    },
    private: c.direction === '<-' || c.private === undefined ? null : { field: 'secret', treat: c.private },
    window: c.window ?? null,
    startLine: c.startLine ?? null,
    moments: [
      { name: 'visit', when: c.source },
      ...(c.second && c.direction !== '<-'
        ? [
            {
              name: 'follow',
              direction: '->',
              when: { start: 'follow', minutes: 30 },
              ...(c.secondFilter ? { filter: { field: 'kind', test: 'is not empty' } } : {}),
              fields: { ...fieldsOf(true), title: { join: 'After {title}', direction: '->' } },
            },
          ]
        : []),
    ],
    fields: fieldsOf(false),
    defaults: creates ? { memo: 'made by an event' } : {},
    link: back && c.link ? 'uid' : null,
    matching: c.matching,
    conflicts: { rule: c.rule, tolerance: 60, fields: c.rules ?? {} },
    departures: c.departures,
    sets: { eventDeleted: { status: 'done' }, eventCancelled: { status: 'done', kind: null } },
    foreignEdits: c.foreignEdits,
    guard: { removals: c.removals, removedPercent: 100, rewrittenPercent: 100 },
  };
}

/** A departure that the lane may not carry out is asked about instead. */
function possible(raw: Raw): LaneDefinition | null {
  const lane = parseLane(raw);
  const problems = () => [...checkLane(lane, collection('key'), zones), ...checkHonoured(lane, collection('key'))];
  for (const { pointer } of problems()) {
    const [, group, name] = pointer.split('/');
    if (group === 'departures') (lane.departures as Record<string, string>)[name!] = 'hold';
    if (group === 'conflicts') delete (lane.conflicts.fields as Record<string, string>)[name === 'fields' ? pointer.split('/')[3]! : name!];
    if (group === 'fields' || group === 'moments') delete (lane.fields as Record<string, unknown>)[name === 'title' ? '' : name!];
  }
  const fixed = parseLane(JSON.parse(JSON.stringify(lane)));
  return [...checkLane(fixed, collection('key'), zones), ...checkHonoured(fixed, collection('key'))].length === 0 ? fixed : null;
}

/** Any lane that could be saved. */
export const laneArbitrary: fc.Arbitrary<LaneDefinition> = chosen.map((c) => possible(rawOf(c))).filter((lane) => lane !== null);

/** What of a lane is edited while it runs. */
export const laneParts = [
  'fields',
  'moments',
  'filter',
  'window',
  'private',
  'events',
  'matching',
  'conflicts',
  'departures',
  'foreignEdits',
] as const;

/** The lane with one part of another's; null where that could not be saved. Moments are edited, not added or taken away. */
export function withPart(lane: LaneDefinition, other: LaneDefinition, part: (typeof laneParts)[number]): LaneDefinition | null {
  // A property that is mapped for the lane is mapped for each of its moments: two of them would write one field by turns.
  if (part === 'fields' && lane.moments.length > 1) return null;
  const moments = lane.moments.map((m, i) => (i === 0 ? { ...m, when: other.moments[0]!.when } : m));
  const changed = part === 'moments' ? { ...lane, moments } : { ...lane, [part]: other[part] };
  try {
    const parsed = parseLane(JSON.parse(JSON.stringify(changed)));
    return [...checkLane(parsed, collection('key'), zones), ...checkHonoured(parsed, collection('key'))].length === 0 ? parsed : null;
  } catch {
    return null;
  }
}
