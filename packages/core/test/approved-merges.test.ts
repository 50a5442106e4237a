import {
  type Baseline,
  type Change,
  changedAt,
  type Damage,
  damagedItems,
  damageOf,
  type EventValues,
  guard,
  isCreation,
  isHarmless,
  type LaneContext,
  makeEvent,
  momentLinks,
  newBaseline,
  noValues,
  type Operation,
  type Pair,
  pairId,
  pairsThatMatter,
  plan,
  readEvent,
  recordKey,
  showAll,
  stateOf,
  writesEvent,
  writesRecord,
} from '@monsoon/core';
import { keeps } from './approved-fixtures.ts';
import { context, event, LANE, lane, pair, paired, record, values, zones } from './engine-fixtures.ts';

const both = (more: Record<string, unknown> = {}) => lane({ direction: '<->', conflicts: { rule: 'hold' }, ...more });
const lanes: [string, Record<string, unknown>][] = [
  ['a title that is copied, and a place that follows it', { fields: { title: { copy: 'notes' }, location: { copy: 'notes', direction: '->' } } }],
  [
    'a title of two fields, one of which may be edited',
    { fields: { title: { join: '{kind}: {notes}', edit: 'notes' }, description: { copy: 'kind', direction: '->' } } },
  ],
  [
    'a title through a table, and a place that is said once',
    { fields: { title: { table: 'kind', values: { tuning: 'Tuning visit', voicing: 'Voicing' } }, location: { copy: 'notes', direction: 'once' } } },
  ],
  ['towards the calendar, and edits of the event stay', { direction: '->', foreignEdits: 'leave', fields: { title: { copy: 'notes' } } }],
  ['towards the calendar, and edits of the event are put back', { direction: '->', fields: { title: { copy: 'notes' } } }],
  ['towards the records', { direction: '<-', fields: { title: { copy: 'notes' } } }],
  ['both ways, and the calendar may not be changed', { may: { calendar: { change: false } }, fields: { title: { copy: 'notes' } } }],
];
const recordEdits: [string, Record<string, unknown>][] = [
  ['', {}],
  ['record: other notes', { notes: 'Rooke' }],
  ['record: no notes', { notes: null }],
  ['record: another kind', { kind: 'voicing' }],
  ['record: a kind that no table has', { kind: 'retuning' }],
  ['record: later', { start: '2026-12-03T09:00:00' }],
];
const eventEdits: [string, Record<string, unknown>][] = [
  ['', {}],
  ['event: another title', { title: 'tuning: Quill' }],
  ['event: the title of the other kind', { title: 'Voicing' }],
  ['event: no title', { title: null }],
  ['event: elsewhere', { location: 'Meadow Hall' }],
  ['event: an hour longer', { when: { ...values.when, end: '2026-12-01T11:00:00' } }],
];
const base = record({ notes: 'Marsh' });

/** A lane, its record and event as they agreed, and what they are since. */
function since(at: LaneContext, changes: { record?: Record<string, unknown>; event?: Record<string, unknown>; more?: Partial<Pair> }) {
  const links = momentLinks(at, at.definition.moments[0]!);
  const shown = showAll(links, base, at).values;
  const said = { ...Object.fromEntries(links.flatMap((l) => (shown[l.key] === undefined ? [] : [[l.property, shown[l.key]]]))) };
  const uid = pairId(LANE, 'V-1', 'visit');
  const text = (edited: object) =>
    makeEvent(uid, { ...values, ...said, ...edited } as typeof values, { lane: LANE, pair: uid }, { zones, now: '2026-11-01T00:00:00Z' });
  const read = (edited: object) => readEvent(text(edited), zones);
  const known = read({}).values;
  const baseline: Baseline = {
    record: shown,
    event: Object.fromEntries([...links.map((l) => [l.key, known[l.property]] as const), ['status', known.status]]),
    repeating: false,
  } as Baseline;
  const edited = Object.keys(changes.event ?? {}).length > 0;
  const view = { href: '/c/1.ics', etag: edited ? '"2"' : '"1"', text: text(changes.event ?? {}), read: read(changes.event ?? {}) };
  const item = { ...base, fields: { ...base.fields, ...changes.record } as typeof base.fields };
  return paired(item, view, {}, pair({ baseline, version: stateOf(base), ...changes.more }));
}

const sayChange = (c: Change) =>
  `${c.side}.${c.property}: ${JSON.stringify(c.before)} -> ${JSON.stringify(c.after)} (${c.cause}${c.seen === true ? ', seen' : ''})`;
const say = (o: Operation): string =>
  [
    `${o.kind}: ${o.cause}`,
    `${o.pair.state}${o.loose ? ', loose' : ''}`,
    o.changes.map(sayChange).join('; '),
    `settled ${o.settled.join(', ')}`,
    o.notes.join('; '),
    o.kind === 'hold' ? JSON.stringify([o.hold.question, o.hold.record, o.hold.event]) : '',
  ]
    .filter((part) => part !== '')
    .join(' | ');
const planned = (at: LaneContext, found: ReturnType<typeof since>): string => {
  const { operations, verdicts, unchanged } = plan(at, found);
  const said = [...operations.map(say), ...verdicts.flatMap((v) => (v.verdict === null ? [] : [JSON.stringify(v.verdict)]))];
  return said.length === 0 ? `nothing, ${unchanged} unchanged` : said.join('  //  ');
};

describe('what is said and done is as it was approved: merges', () => {
  keeps('what is merged when one side or both were edited', () =>
    lanes.flatMap(([what, more]) => {
      const at = context(both(more));
      return [
        what,
        ...recordEdits.flatMap(([here, edited]) =>
          eventEdits.map(
            ([there, changed]) =>
              `  ${[here, there].filter((t) => t !== '').join('; ') || 'no edit'}: ${planned(at, since(at, { record: edited, event: changed }))}`,
          ),
        ),
      ];
    }),
  );

  keeps('what is merged when the lane shows the record differently', () => {
    const before = lanes[0]![1];
    const later: [string, Record<string, unknown>][] = [
      ['the title is of two fields now', { fields: { title: { join: '{kind}: {notes}', edit: 'notes' } } }],
      ['the title comes through a table now', { fields: { title: { table: 'kind', values: { tuning: 'Tuning visit' } } } }],
      ['the title comes through a table that lacks the value', { fields: { title: { table: 'kind', values: { voicing: 'Voicing' } } } }],
      ['the title only comes back now, into another field', { direction: '<-', fields: { title: { copy: 'kind' } } }],
      [
        'the event begins a day later',
        { fields: { title: { copy: 'notes' } }, moments: [{ name: 'visit', when: { due: 'start', show: 'all-day' } }] },
      ],
    ];
    return later.flatMap(([what, more]) => {
      const at = { ...context(both(more)), version: 2 };
      return [
        what,
        ...recordEdits.slice(0, 4).flatMap(([here, edited]) =>
          eventEdits.slice(0, 4).map(([there, changed]) => {
            const found = since(context(both(before)), { record: edited, event: changed });
            return `  ${[here, there].filter((t) => t !== '').join('; ') || 'no edit'}: ${planned(at, found)}`;
          }),
        ),
      ];
    });
  });

  keeps('which edit is the later one', () => {
    const stamps: (string | null)[] = [null, '2026-11-22T08:00:00Z', '2026-11-22T08:01:00Z', '2026-11-22T08:02:00Z', '2026-11-22T09:00:00Z'];
    const at = (more: object = {}) => context(both({ ...lanes[0]![1], conflicts: { rule: 'later edit wins', tolerance: 60, ...more } }));
    const asked = (
      lane: LaneContext,
      here: string | null,
      there: string | null,
      then: { record: string | null; event: string | null } | undefined,
    ) => {
      const found = since(lane, { record: { notes: 'Rooke' }, event: { title: 'Quill' } });
      const [p] = found.pairs;
      const view = found.events.get('/c/1.ics')!;
      return planned(lane, {
        ...found,
        records: [{ id: 'V-1', item: { ...found.records[0]!.item!, ...(here === null ? {} : { modified: here }) } }],
        events: new Map([['/c/1.ics', { ...view, read: { ...view.read!, modified: there } }]]),
        pairs: [{ ...p!, baseline: { ...p!.baseline!, ...(then === undefined ? {} : { stamps: then }) } }],
      });
    };
    return [
      ...stamps.flatMap((here) => stamps.map((there) => `record ${here}, event ${there}: ${asked(at(), here, there, undefined)}`)),
      ...stamps
        .slice(1, 3)
        .flatMap((then) =>
          stamps
            .slice(1, 4)
            .flatMap((here) =>
              stamps
                .slice(1, 4)
                .map((there) => `agreed at ${then}, record ${here}, event ${there}: ${asked(at(), here, there, { record: then!, event: then! })}`),
            ),
        ),
      ...(['records win', 'calendar wins', 'hold'] as const).flatMap((rule) => [
        `${rule}: ${asked(at({ rule }), null, null, undefined)}`,
        `later, and of the title ${rule}: ${asked(at({ fields: { title: rule } }), stamps[1]!, stamps[4]!, undefined)}`,
      ]),
    ];
  });

  keeps('what is merged after a write without an answer', () => {
    const at = context(both(lanes[0]![1]));
    const attempts: [string, Change[]][] = [
      ['the title', [{ side: 'event', property: 'title', before: 'Marsh', after: 'Rooke', cause: 'changed in the record' }]],
      ['another title', [{ side: 'event', property: 'title', before: 'Marsh', after: 'Quill', cause: 'changed in the record' }]],
      ['the notes', [{ side: 'record', property: 'notes', before: 'Marsh', after: 'Rooke', cause: 'changed on the calendar' }]],
      ['another field', [{ side: 'record', property: 'kind', before: 'voicing', after: 'tuning', cause: 'changed on the calendar' }]],
      [
        'the notes, and the title',
        [
          { side: 'record', property: 'notes', before: 'Marsh', after: 'Rooke', cause: 'changed on the calendar' },
          { side: 'event', property: 'title', before: 'Marsh', after: 'Rooke', cause: 'changed in the record' },
        ],
      ],
    ];
    return attempts.flatMap(([what, attempted]) =>
      [null, 'Marsh', 'Rooke', 'Quill'].flatMap((notes) =>
        ['Marsh', 'Rooke', 'Quill'].map(
          (title) =>
            `${what} was being written; record ${notes}, event ${title}: ${planned(at, since(at, { record: { notes }, event: title === 'Marsh' ? {} : { title }, more: { attempted } }))}`,
        ),
      ),
    );
  });

  keeps('what counts as agreed after a write', () => {
    const at = context(
      both({
        fields: {
          title: { copy: 'notes' },
          description: { copy: 'kind', direction: '->' },
          attendees: { people: 'guests' },
          categories: { copy: 'kind', direction: 'once' },
        },
      }),
    );
    const links = momentLinks(at, at.definition.moments[0]!);
    const guests = [{ email: 'una@alder-wren.example', name: 'Una Marsh' }, { email: 'bram@alder-wren.example' }];
    const planned = record({ notes: 'Marsh', guests });
    const written: EventValues = { ...noValues, ...values, title: 'Marsh', description: 'tuning', attendees: guests as never };
    const afterwards: [string, Partial<EventValues> | null][] = [
      ['as it was written', {}],
      ['not looked at', null],
      ['in capitals', { title: 'MARSH' }],
      ['with blanks and commas', { title: ' Marsh, ' }],
      ['cut short', { title: 'Mar' }],
      ['longer', { title: 'Marsh and more' }],
      ['without title', { title: null }],
      ['without description', { description: null }],
      ['in another zone', { when: { ...values.when, zone: 'UTC' } }],
      ['at another time', { when: { ...values.when, start: '2026-12-01T08:00:00' } }],
      ['with one guest less', { attendees: guests.slice(0, 1) as never }],
      ['with the guests in another order', { attendees: [...guests].reverse() as never }],
      ['with a guest who replied', { attendees: guests.map((g) => ({ ...g, reply: 'accepted' })) as never }],
      ['with a place', { location: 'Meadow Hall' }],
      ['cancelled', { status: 'cancelled' }],
    ];
    const edits: [string, EventValues | Partial<EventValues>][] = [
      ['everything was written', written],
      ['the title was written', { title: 'Marsh' }],
      ['nothing was written', {}],
      ['the title was taken away', { title: null }],
      ['the description was taken away', { description: null }],
    ];
    const recordsAfter: [string, ReturnType<typeof record> | null][] = [
      ['the record as it was', planned],
      ['the record not looked at', null],
      ['the record in capitals', record({ notes: 'MARSH', guests })],
      ['the record edited', record({ notes: 'Quill', guests })],
    ];
    const lines: string[] = [];
    for (const [what, eventEdits] of edits)
      for (const [how, changed] of afterwards)
        for (const again of [false, true])
          for (const [whose, stored] of again ? recordsAfter.slice(0, 1) : recordsAfter)
            for (const settled of how === 'in capitals'
              ? [['when', 'title', 'description', 'attendees'], []]
              : [['when', 'title', 'description', 'attendees']]) {
              const intended = {
                planned: what === 'nothing was written' ? planned : null,
                record: planned,
                eventBefore: written,
                eventEdits: eventEdits as never,
                settled,
                again,
              };
              const found = newBaseline(
                links,
                {
                  before: { record: { title: 'before' }, event: { title: 'before' } } as never,
                  intended,
                  stored: { record: stored, event: changed === null ? null : { ...written, ...changed } },
                },
                at,
              );
              const unlike = Object.entries(found.baseline.event).filter(
                ([key, value]) => JSON.stringify(value) !== JSON.stringify(written[key as keyof EventValues]),
              );
              const short = JSON.stringify([
                found.baseline.record['title'] ?? null,
                Object.keys(found.baseline.event).length,
                Object.fromEntries(unlike),
              ]);
              lines.push(
                `${what}, and stands there ${how}${again ? ', perhaps by an earlier attempt' : ''}; ${whose}${settled.length === 0 ? '; nothing settled' : ''}: edited ${found.foreign.join(', ') || 'nothing'}; not kept ${found.unkept.join(', ') || 'nothing'}; ${short}`,
              );
            }
    return lines;
  });

  keeps('what the guard and the journal read of an operation', () => {
    const kinds = ['create', 'adopt', 'change', 'agree', 'remove', 'unlink', 'hold', 'create record', 'remove record'] as const;
    const stamps = { record: '2026-11-20T08:00:00Z', event: '2026-11-20T09:00:00Z' };
    const item = { ...record(), modified: '2026-11-21T08:00:00Z' };
    const read = event();
    const edits: [string, object, object][] = [
      ['nothing written', {}, {}],
      ['the event written', { title: 'x' }, {}],
      ['the record written', {}, { notes: 'x' }],
    ];
    const operations = kinds.flatMap((kind) =>
      edits.flatMap(([what, eventEdits, recordEdits]) =>
        [item, { ...item, modified: stamps.record }, null].map((of, n) => {
          const modified = n === 1 ? stamps.event : '2026-11-22T08:00:00Z';
          const p = pair({ id: `${kind} ${n}`, baseline: { ...pair().baseline!, ...(n === 2 ? {} : { stamps }) } });
          const o = {
            kind,
            pair: p,
            cause: '',
            record: of,
            event: n === 2 ? null : { ...read, read: { ...read.read!, modified } },
            eventEdits,
            recordEdits,
            notices: [],
            restore: n === 0 ? null : '3b3b5a0e-6a51-4b5f-9a37-1f4f6f2e6d10',
          } as unknown as Operation;
          return [`${kind}, ${what}, ${['edited since', 'not edited since', 'without stamps'][n]}`, o] as const;
        }),
      ),
    );
    const all = operations.map(([, o]) => o);
    const limits = [
      { removals: 10, removedPercent: 20, rewrittenPercent: 50 },
      { removals: 0, removedPercent: 0, rewrittenPercent: 0 },
      { removals: 100, removedPercent: 100, rewrittenPercent: 100 },
    ];
    const damages: Damage[] = [
      [0, 0],
      [1, 0],
      [0, 1],
      [2, 5],
      [10, 50],
      [11, 51],
      [20, 100],
    ].map(([removals, rewrites]) => ({ removals: removals!, rewrites: rewrites! }));
    return [
      ...operations.map(
        ([what, o]) =>
          `${what}: ${isHarmless(o) ? 'harmless' : 'not harmless'}, ${writesEvent(o) ? 'writes the event' : ''} ${writesRecord(o) ? 'writes the record' : ''}, edited at ${changedAt(o)}${isCreation(o) ? `, key ${recordKey({ pair: pair(), restore: o.restore })}` : ''}`,
      ),
      JSON.stringify(damageOf(all)),
      JSON.stringify(damagedItems(all)),
      ...limits.flatMap((limit) =>
        damages.flatMap((damage) => [
          `${JSON.stringify(limit)} ${JSON.stringify(damage)}: ${pairsThatMatter(damage, limit)}`,
          ...[0, 9, 10, 50, 100, 200].map((pairs) => `  of ${pairs}: ${guard(damage, pairs, limit).reasons.join('; ') || 'goes on'}`),
        ]),
      ),
    ];
  });
});
