import { type EventView, type Gathered, type LaneContext, type Operation, type Pair, pairOfEvent, plan, type RecordItem } from '@monsoon/core';
import { keeps } from './approved-fixtures.ts';
import { among, context, event, gathered, heldBy, LANE, lane, pair, paired, record, values } from './engine-fixtures.ts';

/** A lane in which events become records, too. */
const both = (more: Record<string, unknown> = {}) => lane({ direction: '<->', fields: { title: { copy: 'notes' } }, ...more });
const from = (more: Record<string, unknown> = {}) => context(both(more));

const made = (name: string, changed: object = {}, uid = name): EventView => ({ ...event(changed, uid, false), href: `/c/${name}.ics` });
const unread = (name: string, more: Partial<EventView> = {}): EventView => ({ ...made(name), read: null, unreadable: 'no calendar object', ...more });
/** The pair of an event that became a record, or is about to. */
const ofEvent = (name: string, more: Partial<Pair> = {}): Pair => ({
  ...pairOfEvent(context(), name, `/c/${name}.ics`, 'visit'),
  label: name,
  state: 'creating',
  tried: '2026-11-23T07:59:00Z',
  baseline: { record: values, event: values },
  ...more,
});
const newcomers = (events: EventView[], more: Partial<Gathered> = {}): Gathered =>
  gathered({ records: [], newcomers: events, events: new Map(events.map((e) => [e.href, e])), ...more });
const candidates = (p: Pair, sure: RecordItem[], maybe: RecordItem[] = []) => ({ createCandidates: new Map([[p.id, { sure, maybe }]]) });
const V = (id: string, fields: Record<string, unknown> = {}) => record({ notes: 'Marsh: tuning', ...fields }, id);
const one = (fields: Record<string, unknown> = {}) => V('V-1', fields);
const broken = (e: EventView): EventView => ({
  ...e,
  read: Object.defineProperty({ ...e.read! }, 'mark', {
    get() {
      throw new Error(`broken ${'x'.repeat(400)}`);
    },
  }) as EventView['read'],
});
/** An occurrence of a series, as an event of its own. */
const occurrence = (name: string, more: object = {}): EventView => {
  const e = made(name);
  const facts = { id: '20261201T090000Z', series: `/c/${name}.ics`, isOverride: false, rules: ['FREQ=WEEKLY'], ...more };
  return {
    ...e,
    href: `/c/${name}.ics#20261201T090000Z`,
    read: { ...e.read!, uid: `${name}#20261201T090000Z`, repeating: true, occurrence: facts } as never,
  };
};
const series = (name: string): EventView => {
  const e = made(name);
  return { ...e, read: { ...e.read!, repeating: true, rules: ['FREQ=WEEKLY;COUNT=3'] } as never };
};

/** What is planned once a person has answered what was asked about it. */
const answered = (at: LaneContext, found: Gathered, choice: string | null): Gathered => {
  const [asking] = plan(at, found).operations;
  const { question, asked } = heldBy(asking);
  return { ...found, pairs: [{ ...asking!.pair, state: 'held' }], holds: new Map([[asking!.pair.id, { question, asked, choice }]]) };
};

const say = (o: Operation): string => {
  const { state, recordId, href, uid, tried, label } = o.pair;
  const edits = [o.recordEdits, o.eventEdits].map((e) => JSON.stringify(e)).join(' ');
  return `${o.kind}: ${o.cause} | ${label}: ${state} ${recordId ?? '-'} ${href ?? '-'} ${uid === '' ? '' : uid.length > 30 ? 'its own UID' : uid} ${tried ?? ''} | ${edits}${o.kind === 'hold' ? ` | ${JSON.stringify(o.hold)}` : ''}${o.notes.length === 0 ? '' : ` | ${o.notes.join('; ')}`}`;
};

const situations: [string, LaneContext, Gathered][] = [
  ['an event that becomes a record', from(), newcomers([made('new')])],
  ['one without title', from(), newcomers([made('untitled', { title: null })])],
  ['one that cannot be read', from(), newcomers([unread('odd')])],
  ['one of which the title alone can be read', from(), newcomers([unread('odd', { title: 'Half of it', unreadable: undefined })])],
  ['one that breaks the engine', from(), newcomers([broken(made('broken')), made('fine')])],
  ['two with one UID', from(), newcomers([made('first', {}, 'twin'), made('second', { title: null }, 'twin')])],
  [
    'a copy of one that is paired',
    from(),
    newcomers([made('copy', {}, 'twin')], { pairs: [ofEvent('twin', { recordId: 'V-2', state: 'in sync' })] }),
  ],
  ['a copy of one that is being made', from(), newcomers([made('copy', {}, 'twin'), made('twin')], { pairs: [ofEvent('twin')] })],
  ['one that moved to another address before its record was made', from(), newcomers([made('copy', {}, 'twin')], { pairs: [ofEvent('twin')] })],
  ['one that is no longer followed', from(), newcomers([made('left')], { pairs: [ofEvent('left', { state: 'unlinked' })] })],
  ['one whose record was removed by rule', from(), newcomers([made('left')], { pairs: [ofEvent('left', { state: 'removed', recordId: 'V-2' })] })],
  ['one that belongs again', from(), newcomers([made('back')], { pairs: [ofEvent('back', { state: 'removed' })] })],
  ['one that is paired', from(), newcomers([made('known')], { pairs: [ofEvent('known', { state: 'in sync', recordId: 'V-2' })] })],
  ['one that is asked about elsewhere', from(), newcomers([made('asked')], { reserved: new Set(['asked']) })],
  ['an attempt that was not started', from(), newcomers([made('tried')], { pairs: [ofEvent('tried', { tried: null })] })],
  ['an attempt without an answer', from(), newcomers([made('tried', { title: 'Renamed' })], { pairs: [ofEvent('tried')] })],
  ['an attempt that came to nothing', from(), newcomers([made('tried')], { pairs: [ofEvent('tried', { state: 'unconfirmed' })] })],
  [
    'an attempt whose event left the lane',
    from({ events: { filter: 'title words bass' } }),
    newcomers([made('tried')], { pairs: [ofEvent('tried', { state: 'unconfirmed' })] }),
  ],
  [
    'the same, and its record is there',
    from({ events: { filter: 'title words bass' } }),
    newcomers([made('tried')], { pairs: [ofEvent('tried', { state: 'unconfirmed' })], ...candidates(ofEvent('tried'), [V('V-7')]) }),
  ],
  [
    'an attempt whose record is there',
    from(),
    newcomers([made('tried')], {
      pairs: [ofEvent('tried', { state: 'unconfirmed' })],
      ...candidates(ofEvent('tried'), [V('V-7', { notes: 'since then' })]),
    }),
  ],
  [
    'two attempts that say the same, and one record',
    from(),
    newcomers([made('tried'), made('other')], {
      pairs: [ofEvent('tried', { state: 'unconfirmed' }), ofEvent('other', { state: 'unconfirmed' })],
      createCandidates: new Map([
        [ofEvent('tried').id, { sure: [V('V-7')], maybe: [] }],
        [ofEvent('other').id, { sure: [V('V-7')], maybe: [] }],
      ]),
    }),
  ],
  ...(['take V-8', 'create new', 'leave out', 'take V-9', null] as const).map((choice): [string, LaneContext, Gathered] => [
    `several records that may be of an attempt: ${choice ?? 'no answer yet'}`,
    from(),
    newcomers([made('tried')], {
      pairs: [ofEvent('tried', { state: 'held' })],
      holds: new Map([[ofEvent('tried').id, { question: 'several candidates', asked: 'others', choice }]]),
      ...candidates(ofEvent('tried'), [V('V-7'), V('V-8')], [V('V-5', { notes: 'Marsh: voicing' })]),
    }),
  ]),
  [
    'an answer to another question',
    from(),
    newcomers([made('tried')], {
      pairs: [ofEvent('tried', { state: 'unconfirmed' })],
      holds: new Map([[ofEvent('tried').id, { question: 'conflict', asked: '', choice: 'take V-8' }]]),
      ...candidates(ofEvent('tried'), [], [V('V-7'), V('V-8')]),
    }),
  ],
  ...([0, 1, 2] as const).map((n): [string, LaneContext, Gathered] => [
    `an attempt whose event is gone, and ${n} records may be of it`,
    from({ departures: { eventDeleted: 'delete record' } }),
    newcomers([], {
      pairs: [ofEvent('tried', { state: 'unconfirmed' })],
      events: new Map([['/c/tried.ics', null]]),
      ...candidates(ofEvent('tried'), [V('V-7'), V('V-8')].slice(0, n)),
    }),
  ]),
  ...([0, 2] as const).map((n): [string, LaneContext, Gathered] => [
    `an attempt whose event was moved to another address, and ${n} records may be of it`,
    from(),
    newcomers([made('moved', {}, 'tried')], {
      pairs: [ofEvent('tried', { state: 'unconfirmed' })],
      events: new Map([['/c/tried.ics', null]]),
      ...among(made('moved', {}, 'tried')),
      ...candidates(ofEvent('tried'), [V('V-7'), V('V-8')].slice(0, n)),
    }),
  ]),
  [
    'two attempts whose events are gone, and one record may be of either',
    from({ departures: { eventDeleted: 'delete record' } }),
    newcomers([], {
      pairs: [ofEvent('tried', { state: 'unconfirmed' }), ofEvent('other', { state: 'unconfirmed' })],
      events: new Map([
        ['/c/tried.ics', null],
        ['/c/other.ics', null],
      ]),
      createCandidates: new Map([
        [ofEvent('tried').id, { sure: [], maybe: [V('V-7')] }],
        [ofEvent('other').id, { sure: [], maybe: [V('V-7')] }],
      ]),
    }),
  ],
  ...(['unlinked', 'removed'] as const).map((state): [string, LaneContext, Gathered] => [
    `one that was ${state}, and is gone`,
    from(),
    newcomers([], { pairs: [ofEvent('tried', { state })], events: new Map([['/c/tried.ics', null]]) }),
  ]),
  [
    'a record that may be of an attempt',
    from(),
    gathered({ records: [{ id: 'V-7', item: V('V-7') }], ...candidates(ofEvent('tried'), [], [V('V-7')]) }),
  ],
  ['a moment that the lane has no more', from(), paired(one(), event(), {}, pair({ moment: 'packing' }))],
  ['the same of one that is not followed', from(), paired(one(), event(), {}, pair({ moment: 'packing', state: 'unlinked' }))],
  [
    'items that cannot be stored',
    from(),
    gathered({
      records: [],
      refused: [
        { recordId: 'V-odd', href: null, condition: 'its id can be stored', value: 'half a character' },
        { recordId: null, href: '/c/odd.ics', condition: 'its UID can be stored', value: '1,200 characters' },
      ],
      gone: [{ href: '/c/gone.ics', moment: 'visit', label: 'Gone' }],
    }),
  ],
  ['a record that breaks the engine', from(), paired(one({ start: Symbol('broken') as never }), event())],
  ['a paired event that cannot be read', from(), paired(one(), unread('1'))],
  ['the same, where the record was deleted', from(), paired(null, unread('1'))],
  ...(['unlink', 'keep trying', null] as const).map((choice): [string, LaneContext, Gathered] => [
    `a pair that keeps changing: ${choice ?? 'no answer yet'}`,
    from(),
    paired(
      one({ notes: 'new' }),
      event(),
      { holds: new Map([[pair().id, { question: 'keeps changing', asked: '', choice }]]) },
      pair({ state: 'held' }),
    ),
  ]),
  [
    'an event that was moved to another address',
    from(),
    paired(one({ notes: 'new' }), null, among({ ...event({ title: 'Moved: tuning' }), href: '/c/moved.ics' })),
  ],
  ['an event that was moved and cannot be read', from(), paired(one(), null, among({ ...unread('moved'), title: 'Marsh: tuning' }))],
  [
    'a pair that follows another occurrence',
    from({ events: { repeating: 'each occurrence' }, window: { behind: 30, ahead: 365 } }),
    paired(one(), event({ when: { ...values.when, start: '2026-12-02T09:00:00', end: '2026-12-02T10:00:00' } }), {
      moved: new Map([[pair().id, 'its series was moved']]),
    }),
  ],
  ['an occurrence in a lane that takes none', from(), newcomers([occurrence('choir')])],
  ['an occurrence in a lane of one record', from({ events: { repeating: 'one record' } }), newcomers([occurrence('choir')])],
  [
    'an occurrence that is taken',
    from({ events: { repeating: 'each occurrence' }, window: { behind: 30, ahead: 365 } }),
    newcomers([occurrence('choir')]),
  ],
  ['a series in a lane that takes none', from(), newcomers([series('choir')])],
  [
    'a series without an occurrence in the window',
    from({ events: { repeating: 'each occurrence' }, window: { behind: 30, ahead: 365 } }),
    newcomers([series('choir')]),
  ],
  ['a series that becomes one record', from({ events: { repeating: 'one record' } }), newcomers([series('choir')])],
  ['a record that repeats', from(), gathered({ records: [{ id: 'V-1', item: { ...one(), repeats: ['FREQ=WEEKLY'] } }] })],
  ...(['not asked yet', 'unlink', null] as const).map((choice): [string, LaneContext, Gathered] => {
    const found = paired(one(), { ...series('1'), href: '/c/1.ics' }, {}, pair({ baseline: { record: values, event: values, repeating: false } }));
    return [
      `a paired event that was made to repeat: ${choice ?? 'no answer yet'}`,
      from(),
      choice === 'not asked yet' ? found : answered(from(), found, choice),
    ];
  }),
  ...(['not asked yet', 'unlink', null] as const).map((choice): [string, LaneContext, Gathered] => {
    const moved = one({ start: '2026-12-02T09:00:00' });
    const found = paired(moved, { ...series('1'), href: '/c/1.ics' }, {}, pair({ baseline: { record: values, event: values, repeating: true } }));
    return [
      `a record that is moved while its event repeats: ${choice ?? 'no answer yet'}`,
      from(),
      choice === 'not asked yet' ? found : answered(from(), found, choice),
    ];
  }),
  [
    'a cancelled event that matches a record',
    from(),
    gathered({ records: [{ id: 'V-1', item: one() }], ...among(made('by hand', { status: 'cancelled' })) }),
  ],
  ['a cancelled event under the own UID', from(), gathered({ records: [{ id: 'V-1', item: one() }], ...among(event({ status: 'cancelled' })) })],
  ...(['not asked yet', 'take c', 'create new', 'leave out', 'take z', null] as const).map((choice): [string, LaneContext, Gathered] => {
    const six = ['a', 'b', 'c', 'd', 'e', 'f'].map((name) => made(name));
    const found = gathered({ records: [{ id: 'V-1', item: one() }], ...among(...six) });
    return [
      `six events that match: ${choice ?? 'no answer yet'}`,
      from(),
      choice === 'not asked yet' ? found : { ...answered(from(), found, choice), ...among(...six) },
    ];
  }),
  [
    'events that match and have no title',
    context(lane({ matching: ['when'] })),
    gathered({ ...among(made('a', { title: null, location: 'Meadow Hall' }), made('b')) }),
  ],
  [
    'a new one is asked for, and its value does not fit',
    from(),
    gathered({
      records: [{ id: 'V-1', item: one({ length: 'long' }) }],
      pairs: [pair({ state: 'held', href: null, baseline: null })],
      holds: new Map([[pair().id, { question: 'several candidates', asked: '', choice: 'create new' }]]),
      ...among(made('a'), made('b')),
    }),
  ],
  [
    'a record before the start line',
    from({ startLine: '2026-11-22' }),
    gathered({ records: [{ id: 'V-1', item: { ...one(), created: '2026-11-21T08:00:00Z' } }] }),
  ],
  ['the same, and it is paired', from({ startLine: '2026-11-22' }), paired({ ...one({ notes: 'new' }), created: '2026-11-21T08:00:00Z' }, event())],
  [
    'a record that a filter leaves out by an empty field',
    from({ filter: 'score is 4' }),
    gathered({ records: [{ id: 'V-1', item: one({ score: null }) }] }),
  ],
  [
    'a moment that only comes back',
    from({ moments: [{ name: 'visit', direction: '<-', when: { start: 'start', length: 'length' } }] }),
    gathered({ records: [{ id: 'V-1', item: one() }] }),
  ],
  ['a cancelled event with a question', from(), paired(one(), event({ status: 'cancelled' }), {}, pair({ baseline: null, state: 'held' }))],
  ['a cancelled event that was being made', from(), paired(one(), event({ status: 'cancelled' }), {}, pair({ baseline: null, state: 'creating' }))],
];

describe('what is said and done is as it was approved: plans', () => {
  keeps('what is planned in rare situations', () =>
    situations.flatMap(([what, at, found]) => {
      const { operations, verdicts, unchanged, refreshed } = plan(at, found);
      return [
        `${what}: ${unchanged} unchanged, ${refreshed.length} refreshed`,
        ...operations.map((o) => `  ${say(o)}`.replaceAll(LANE, 'LANE').replace(/x{300,}/g, 'xxx')),
        ...verdicts.map(
          (v) =>
            `  ${v.recordId ?? '-'} ${v.href ?? '-'} ${v.moment} "${v.label}": ${v.verdict === null ? 'well' : JSON.stringify(v.verdict).replace(/x{200,}/g, 'xxx')}`,
        ),
      ];
    }),
  );
});
