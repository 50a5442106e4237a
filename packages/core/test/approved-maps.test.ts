import {
  type Collection,
  checkFieldMap,
  checkLane,
  checkMapShape,
  type Field,
  type FieldMap,
  mapDirections,
  mappableNames,
  parseJoin,
  parseLane,
  show,
  take,
  unjoin,
} from '@monsoon/core';
import { fields, keeps, people, records, said } from './approved-fixtures.ts';
import { zones } from './engine-fixtures.ts';

const mapContext = { fields, directories: new Map([['staff', people]]) };
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
  { replies: 'text' },
  { replies: 'long', as: 'count', default: 'no guests' },
  { replies: 'choice', values: { accepted: 'tuning', declined: 'voicing' } },
  { replies: 'number' },
  { rows: 'visitors', record: 'visit', guest: 'email', reply: 'reply' },
  {
    rows: 'visitors',
    record: 'visit',
    guest: 'person',
    in: 'staff',
    name: 'name',
    reply: 'reply',
    make: true,
    values: { accepted: 'comes', declined: 'stays away' },
    uninvited: 'off',
  },
  { fixed: 'office@alder-wren.example' },
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
  replies: [
    null,
    [{ email: 'una@alder-wren.example', name: 'Una', response: 'accepted' }],
    [{ email: 'una@alder-wren.example', response: 'tentative' }],
    [
      { email: 'una@alder-wren.example', response: 'accepted' },
      { email: 'tom@alder-wren.example' },
      { email: 'ada@alder-wren.example', response: 'declined' },
    ],
  ],
  ownReply: [null, 'accepted', 'needs action'],
  organizer: [null, { email: 'UNA@alder-wren.example' }, { email: 'tom@alder-wren.example', name: 'Tom' }],
  reminders: [null, [], [15], [120], [15, 30], ['mail 60'], [15, 'mail 10 before end']],
};

describe('what is said and done is as it was approved: field maps', () => {
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

  keeps('which rows of guests are refused', () => {
    const may = { create: true, change: true, remove: false };
    const collection = (name: string, own: Field[], more: Partial<Collection> = {}): Collection => ({
      name,
      label: `The ${name}`,
      fields: own,
      may,
      retries: 'none',
      stamps: { created: false, modified: false },
      ...more,
    });
    const visits = collection('visits', fields);
    const rows: Field[] = [
      { name: 'visit', label: 'Visit', type: 'reference' },
      { name: 'email', label: 'E-mail', type: 'text' },
      { name: 'contact', label: 'Contact', type: 'reference' },
      { name: 'name', label: 'Name', type: 'text' },
      { name: 'reply', label: 'Reply', type: 'choice', choices: ['coming', 'not coming'] },
      { name: 'words', label: 'Words', type: 'text' },
      { name: 'sealed', label: 'Sealed', type: 'text', readOnly: true },
      { name: 'on', label: 'On', type: 'date' },
    ];
    const contacts = collection('contacts', [{ name: 'email', label: 'E-mail', type: 'text' }]);
    const sound = { rows: 'visitors', record: 'visit', guest: 'email', name: 'name', reply: 'words', make: true };
    const values = { accepted: 'coming' };
    const changes: Record<string, unknown>[] = [
      {},
      { rows: 'visitor' },
      { record: 'visits' },
      { record: 'on' },
      { guest: 'contact' },
      { guest: 'contact', in: 'contacts' },
      { guest: 'email', in: 'contacts' },
      { guest: 'contact', in: 'contact' },
      { guest: 'contact', in: 'contacts', email: 'mail' },
      { guest: 'contact', in: 'visits' },
      { email: 'email' },
      { name: 'on' },
      { reply: 'sealed' },
      { reply: 'reply' },
      { reply: 'reply', values },
      { reply: 'reply', values: { accepted: 'yes' } },
      { reply: 'reply', values, uninvited: 'off' },
      { reply: undefined, uninvited: 'off' },
      { reply: undefined, make: false },
      { direction: '<->' },
      { record: undefined },
      { name: '' },
      { make: 'yes' },
      { default: 'coming' },
      { values: 'coming' },
      { values: { perhaps: 'coming' } },
      { also: 'this' },
    ];
    const refused = (change: object, held: Partial<Collection['may']> = {}, more: object = {}): string => {
      const input = {
        name: 'Visits',
        records: { system: 'a', collection: 'visits' },
        calendar: { system: 'b', calendar: '/c/' },
        zone: 'Europe/London',
        direction: '<->',
        moments: [{ name: 'visit', when: { start: 'start', length: 'length' } }],
        fields: { title: { copy: 'text' }, replies: { ...sound, ...change } },
        ...more,
      };
      try {
        const all = [visits, collection('visitors', rows, { may: { ...may, ...held } }), contacts];
        return checkLane(parseLane(JSON.parse(JSON.stringify(input))), visits, zones, all)
          .map((p) => `${p.pointer}: ${p.reason}`)
          .join(' | ');
      } catch (error) {
        return (error as Error).message;
      }
    };
    return [
      ...changes.map((change) => `${JSON.stringify(change, (_, v: unknown) => v ?? null)}: ${refused(change)}`),
      `rows that may not be made: ${refused({}, { create: false })}`,
      `rows that may not be changed: ${refused({}, { change: false })}`,
      `a lane that changes no records: ${refused({}, {}, { direction: '->' })}`,
    ];
  });
});
