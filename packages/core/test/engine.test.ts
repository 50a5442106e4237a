import {
  type Baseline,
  type Collection,
  type Condition,
  checkCondition,
  checkLane,
  type EventView,
  type Gathered,
  guard,
  judgeCondition,
  type LaneContext,
  type LaneDefinition,
  makeEvent,
  mergeLink,
  momentLinks,
  newBaseline,
  noValues,
  type Pair,
  pairId,
  parseJoin,
  parseLane,
  plan,
  type RecordItem,
  readEvent,
  Strangers,
  sameProperty,
  show,
  step,
  UnfitValue,
} from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { expect } from 'chai';

const zones = loadZones();
const LANE = '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11';
const collection: Collection = {
  name: 'visits',
  label: 'Visits',
  fields: [
    { name: 'customer', label: 'Customer', type: 'reference' },
    { name: 'kind', label: 'Kind', type: 'choice', choices: ['tuning', 'voicing'] },
    { name: 'start', label: 'Start', type: 'date-time' },
    { name: 'length', label: 'Length', type: 'duration', unit: 'minutes' },
    { name: 'private', label: 'Private', type: 'yes/no' },
    { name: 'notes', label: 'Notes', type: 'long text' },
    { name: 'guests', label: 'Guests', type: 'people' },
    { name: 'score', label: 'Score', type: 'number' },
  ],
  may: { create: true, change: true, remove: true },
  retries: 'key',
};
const lane = (more: Record<string, unknown> = {}): LaneDefinition =>
  parseLane({
    name: 'Visits',
    records: { system: 'a', collection: 'visits' },
    calendar: { system: 'b', calendar: '/c/' },
    direction: '->',
    zone: 'Europe/London',
    moments: [{ name: 'visit', when: { start: 'start', length: 'length' } }],
    fields: { title: { join: '{customer}[: {kind}]' }, description: { copy: 'notes' } },
    departures: {},
    guard: {},
    ...more,
  });
const context = (definition = lane()): LaneContext => ({
  lane: LANE,
  definition,
  version: 1,
  collection,
  zone: zones.find('Europe/London')!,
  zones,
  now: '2026-11-23T08:00:00Z',
});
const record = (fields: Record<string, unknown> = {}, id = 'V-1'): RecordItem => ({
  id,
  fields: {
    customer: { id: 'C-1', label: 'Marsh' },
    kind: 'tuning',
    start: '2026-12-01T09:00:00',
    length: 60,
    private: false,
    notes: null,
    guests: [],
    score: 3,
    ...fields,
  } as RecordItem['fields'],
});
const values = {
  title: 'Marsh: tuning',
  description: null,
  when: { kind: 'timed' as const, start: '2026-12-01T09:00:00', end: '2026-12-01T10:00:00', zone: 'Europe/London' },
};
const pair = (more: Partial<Pair> = {}): Pair => ({
  id: pairId(LANE, 'V-1', 'visit'),
  recordId: 'V-1',
  moment: 'visit',
  uid: pairId(LANE, 'V-1', 'visit'),
  href: '/c/1.ics',
  etag: '"1"',
  version: null,
  laneVersion: 1,
  tried: null,
  attempted: null,
  state: 'agreed',
  baseline: { record: values, event: values } as Baseline,
  label: 'Marsh: tuning',
  ...more,
});
const event = (changed: object = {}, uid = pairId(LANE, 'V-1', 'visit'), marked = true): EventView => {
  const text = makeEvent(uid, { ...values, ...changed }, { lane: LANE, pair: uid }, { zones, now: '2026-11-01T00:00:00Z' }).replace(
    marked ? '' : /X-MONSOON.*\r\n/g,
    '',
  );
  return { href: '/c/1.ics', etag: '"1"', text, read: readEvent(text, zones) };
};
const gathered = (more: Partial<Gathered>): Gathered => ({
  records: [{ id: 'V-1', item: record() }],
  pairs: [],
  events: new Map(),
  newcomers: [],
  reserved: new Set(),
  strangers: new Strangers(),
  holds: new Map(),
  doubts: new Map(),
  ...more,
});
const among = (...events: EventView[]): Partial<Gathered> => {
  const strangers = new Strangers();
  for (const e of events) strangers.add(e, context());
  return { strangers };
};
const paired = (r: RecordItem | null, e: EventView | null, more: Partial<Gathered> = {}, p = pair()) =>
  gathered({ records: [{ id: 'V-1', item: r }], pairs: [p], events: new Map([['/c/1.ics', e]]), ...more });
const kinds = (result: ReturnType<typeof plan>) => result.operations.map((o) => o.kind);

describe('judging and planning', () => {
  it('makes an event for a record that belongs, under a UID that anybody would compute again', () => {
    const [operation] = plan(context(), gathered({})).operations;
    expect(operation).to.include({ kind: 'make', cause: 'new in the records' });
    expect(operation!.pair).to.include({ uid: pairId(LANE, 'V-1', 'visit'), state: 'making' });
    expect(plan(context(), gathered({})).operations[0]!.pair.uid).to.equal(operation!.pair.uid);
  });

  it('makes an event for each moment of a record, each with its own time and title', () => {
    const twice = lane({
      moments: [
        { name: 'visit', when: { start: 'start', length: 'length' } },
        { name: 'packing', when: { due: 'start', show: 'ending', minutes: 20 }, fields: { title: { join: 'Pack for {customer}' } } },
      ],
    });
    const { operations } = plan(context(twice), gathered({}));
    expect(operations.map((o) => o.pair.label)).to.deep.equal(['Marsh: tuning', 'Pack for Marsh']);
    expect(new Set(operations.map((o) => o.pair.uid)).size).to.equal(2);
    expect(operations[1]!.changes[0]!.after).to.include({ start: '2026-12-01T08:40:00', end: '2026-12-01T09:00:00' });
  });

  it('knows what it was writing when the answer was lost, and asks nobody about it', () => {
    const both = lane({
      direction: '<->',
      fields: { title: { join: '{customer}[: {kind}]' }, description: { copy: 'notes' } },
      conflicts: { rule: 'calendar wins' },
    });
    const lost = { side: 'event' as const, property: 'description', before: null, after: 'first', cause: 'changed in the record' };
    const now = (notes: string | null, description: string | null, attempted: Pair['attempted']) =>
      plan(context(both), paired(record({ notes }), event({ description }), {}, pair({ attempted }))).operations[0];
    // Our own writing stands there, and the record was edited since: that edit crosses, whoever wins conflicts.
    expect(now('second', 'first', [lost])).to.deep.include({ kind: 'change', eventEdits: { description: 'second' }, recordEdits: {} });
    // Taken back in the record, it is taken back on the calendar, and not written into the record.
    expect(now(null, 'first', [lost])).to.deep.include({ kind: 'change', eventEdits: { description: null }, recordEdits: {} });
    expect(now('first', 'first', [lost])!.kind).to.equal('agree');
    // Somebody else's words are an edit, attempt or not.
    expect(now('second', 'theirs', [lost])!.recordEdits).to.deep.equal({ notes: 'theirs' });
    const backwards = { side: 'record' as const, property: 'notes', before: null, after: 'from the calendar', cause: 'changed on the calendar' };
    expect(now('from the calendar', 'since then', [backwards])).to.deep.include({
      kind: 'change',
      eventEdits: {},
      recordEdits: { notes: 'since then' },
    });
  });

  it('does nothing where nothing changed', () => {
    expect(plan(context(), paired(record(), event()))).to.deep.include({ operations: [], unchanged: 1 });
  });

  it('adopts one event with the same title and start, holds back before several, and never takes a marked one', () => {
    const byHand = event({ description: 'by hand' }, 'by-hand', false);
    expect(kinds(plan(context(), gathered(among(byHand))))).to.deep.equal(['adopt']);
    const two = plan(context(), gathered(among(byHand, { ...event({}, 'other', false), href: '/c/2.ics' })));
    expect(kinds(two)).to.deep.equal(['hold']);
    expect(two.operations[0]!.hold!.choices).to.deep.equal(['take by-hand', 'take other', 'make new', 'leave out']);
    expect(two.verdicts[0]!.verdict).to.include({ reason: 'several candidates' });
    expect(kinds(plan(context(), gathered(among(event({}, 'of-another-lane')))))).to.deep.equal(['make']);
    expect(plan(context(), gathered(among(event()))).operations[0], 'its own, made before a crash').to.include({
      kind: 'adopt',
      cause: 'it was made before an interruption',
    });
  });

  it('sends what changed in the record and only that', () => {
    const [operation] = plan(context(), paired(record({ kind: 'voicing' }), event())).operations;
    expect(operation).to.include({ kind: 'change' });
    expect(operation!.changes).to.deep.equal([
      { side: 'event', property: 'title', before: 'Marsh: tuning', after: 'Marsh: voicing', cause: 'changed in the record' },
    ]);
  });

  it('moves the baseline alone when both sides came to say the same', () => {
    expect(kinds(plan(context(), paired(record({ kind: 'voicing' }), event({ title: 'Marsh: voicing' }))))).to.deep.equal(['agree']);
  });

  for (const [what, fields, definition, expected] of [
    ['no date', { start: null }, {}, { reason: 'no date', value: '(empty)' }],
    [
      'a failed filter',
      { kind: 'voicing' },
      { filter: { all: [{ field: 'kind', test: 'is', value: 'tuning' }] } },
      { reason: 'filtered out', condition: 'kind is tuning', value: 'voicing' },
    ],
    ['a private record', { private: true }, { private: { field: 'private', treat: 'leave out' } }, { reason: 'private', value: 'yes' }],
    [
      'a day outside of the window',
      { start: '2027-06-01T09:00:00' },
      { window: { behind: 10, ahead: 20 } },
      { reason: 'out of the window', recheckAt: '2027-05-11T23:00:00Z' },
    ],
    ['a length that is none', { length: -5 }, {}, { reason: 'unfit value' }],
    ['a date that does not exist', { start: '2026-02-30T09:00:00' }, {}, { reason: 'unfit value' }],
  ] as const) {
    it(`leaves ${what} out, with the condition and the value`, () => {
      const result = plan(context(lane(definition)), gathered({ records: [{ id: 'V-1', item: record(fields) }] }));
      expect(result.operations).to.deep.equal([]);
      expect(result.verdicts[0]!.verdict).to.include(expected);
    });
  }

  it('never removes what only left the window', () => {
    expect(
      plan(context(lane({ window: { behind: 1, ahead: 1 }, departures: { filteredOut: 'remove', dateLost: 'remove' } })), paired(record(), event()))
        .operations,
    ).to.deep.equal([]);
  });

  for (const [departure, item, e] of [
    ['recordDeleted', null, event()],
    ['dateLost', record({ start: null }), event()],
    ['filteredOut', record({ private: true }), event()],
    ['eventDeleted', record(), null],
  ] as const) {
    it(`settles "${departure}" by the lane's rule, holds by default, and takes a person's answer`, () => {
      const rules = { private: { field: 'private', treat: 'leave out' } };
      const by = (choice?: string, more: Partial<Gathered> = {}, p = pair()) =>
        plan(context(lane({ ...rules, departures: choice === undefined ? {} : { [departure]: choice } })), paired(item, e, more, p));
      expect(kinds(by())).to.deep.equal(['hold']);
      const asked = by().operations[0]!.hold!;
      const holding = (choice: string | null): Partial<Gathered> => ({
        holds: new Map([[pair().id, { question: asked.question, asked: asked.asked, choice }]]),
      });
      expect(kinds(by(undefined, holding(null), pair({ state: 'held' }))), 'held once only').to.deep.equal([]);
      const [first, second] = departure === 'eventDeleted' ? (['make again', 'part'] as const) : (['remove', 'keep'] as const);
      const does = { 'make again': 'make', part: 'part', remove: 'remove', keep: 'part' };
      for (const choice of [first, second]) {
        expect(kinds(by(choice)), choice).to.deep.equal([does[choice]]);
        expect(kinds(by(undefined, holding(choice), pair({ state: 'held' }))), `settled: ${choice}`).to.deep.equal([does[choice]]);
      }
    });
  }

  it('makes a removed one again when it comes back, and lets a parted one be', () => {
    expect(plan(context(), paired(record(), null, {}, pair({ state: 'removed', href: null }))).operations[0]).to.include({
      kind: 'make',
      cause: 'it belongs again',
    });
    const parted = plan(context(), paired(record({ kind: 'voicing' }), event(), {}, pair({ state: 'parted' })));
    expect(parted.operations).to.deep.equal([]);
    expect(parted.verdicts[0]!.verdict!.reason).to.equal('no longer followed');
  });

  it('looks for an event whose making was interrupted', () => {
    const making = pair({ state: 'making', baseline: null, etag: null });
    expect(kinds(plan(context(), paired(record(), event(), {}, making)))).to.deep.equal(['adopt']);
    expect(kinds(plan(context(), paired(record(), null, {}, making)))).to.deep.equal(['make']);
  });

  it('is refused an impossible step in the life of a pair', () => {
    expect(() => step('parted', 'making')).to.throw('a pair cannot go from parted to making');
  });
});

describe('merging one link', () => {
  const same = {
    record: (a: unknown, b: unknown) => a === b,
    event: (a: unknown, b: unknown) => a === b,
    across: (a: unknown, b: unknown) => a === b,
  };
  const merged = (
    ways: '->' | '<-' | '<->' | 'none',
    record: string,
    event: string,
    base?: [string, string],
    foreignEdits: 'put back' | 'leave' = 'put back',
  ) =>
    mergeLink(
      { record, event, base: base === undefined ? undefined : { record: base[0], event: base[1] } },
      { toEvent: ways === '->' || ways === '<->', toRecord: ways === '<-' || ways === '<->', foreignEdits },
      same,
      false,
    ).outcome;
  for (const [ways, record, event, base, foreign, outcome] of [
    ['->', 'a', 'A', ['a', 'A'], 'put back', 'unchanged'],
    ['->', 'b', 'a', ['a', 'a'], 'put back', 'to event'],
    ['->', 'a', 'b', ['a', 'a'], 'put back', 'to event'],
    ['->', 'a', 'b', ['a', 'a'], 'leave', 'left'],
    ['->', 'b', 'c', ['a', 'a'], 'put back', 'to event'],
    ['<-', 'a', 'b', ['a', 'a'], 'put back', 'to record'],
    ['<-', 'b', 'a', ['a', 'a'], 'put back', 'to record'],
    ['<-', 'b', 'a', ['a', 'a'], 'leave', 'left'],
    ['<->', 'b', 'a', ['a', 'a'], 'leave', 'to event'],
    ['<->', 'a', 'b', ['a', 'a'], 'leave', 'to record'],
    ['<->', 'b', 'b', ['a', 'a'], 'leave', 'agreed'],
    ['<->', 'b', 'c', ['a', 'a'], 'leave', 'conflict'],
    ['<->', 'a', 'b', undefined, 'leave', 'conflict'],
    ['<->', 'a', '', undefined, 'leave', 'to event'],
    ['none', 'b', 'a', ['a', 'a'], 'put back', 'left'],
  ] as const)
    it(`${ways}: record ${record}, event ${event || '(empty)'}, agreed on ${base ?? 'nothing'}: ${outcome}`, () =>
      expect(merged(ways, record, event, base as [string, string] | undefined, foreign)).to.equal(outcome));

  it('merges sets by what came and went on each side', () => {
    const sets = {
      record: ['red', 'new here'],
      event: ['red', 'blue', 'new there'],
      base: { record: ['red', 'green'], event: ['red', 'green', 'blue'] },
    };
    const across = (a: unknown, b: unknown) => sameProperty('categories', a, b, zones);
    const outcome = mergeLink(sets, { toEvent: true, toRecord: true, foreignEdits: 'leave' }, { record: across, event: across, across }, true);
    expect(outcome).to.deep.include({
      outcome: 'to both',
      event: ['red', 'blue', 'new there', 'new here'],
      record: ['red', 'new here', 'new there'],
    });
  });
});

describe('the new baseline after a write', () => {
  const made = (written: object, changed: object) => {
    const item = record();
    const links = momentLinks(context(), context().definition.moments[0]!).filter((l) => l.key in values);
    const intended = {
      planned: item,
      record: item,
      eventBefore: noValues,
      eventEdits: { ...values, ...written },
      settled: Object.keys(values),
      again: false,
    };
    return newBaseline(links, null, intended, { record: item, event: { ...noValues, ...values, ...changed } }, context());
  };
  it('takes what a server makes of our values for agreement', () => {
    expect(made({}, {}).foreign).to.deep.equal([]);
    expect(made({ title: 'Marsh:  tuning ' }, {}).foreign).to.deep.equal([]);
    expect(made({ description: 'a long text that goes on' }, { description: 'a long text' }).foreign).to.deep.equal([]);
    expect(made({}, { when: { ...values.when, zone: 'UTC' } }).foreign, 'in December, London and UTC agree').to.deep.equal([]);
  });
  it("takes what a server cannot have made of them for somebody's edit, and keeps it visible", () => {
    expect(made({}, { title: 'Lunch' }).foreign).to.deep.equal(['title']);
    expect(made({}, { when: { ...values.when, start: '2026-12-01T08:00:00' } }).foreign).to.deep.equal(['when']);
    expect(made({}, { title: 'Lunch' }).baseline.event['title']).to.equal('Marsh: tuning');
  });
});

describe('the guard', () => {
  const operations = (removals: number, rewrites: number) => ({ removals, rewrites });
  const limits = { removals: 10, removedPercent: 20, rewrittenPercent: 50 };
  it('holds too many removals, too large a share, and too much rewriting', () => {
    expect(guard(operations(11, 0), 1000, limits, null).reasons[0]).to.match(/11 items; the guard lets 10 through/);
    expect(guard(operations(3, 0), 12, limits, null).reasons[0]).to.match(/3 of 12/);
    expect(guard(operations(0, 51), 100, limits, null).reasons[0]).to.match(/rewrite 51 of 100/);
    expect(guard(operations(10, 50), 100, limits, null).reasons).to.deep.equal([]);
    expect(guard(operations(1, 1), 2, limits, null).reasons, 'shares of a handful say little').to.deep.equal([]);
  });
  it('lets through what a person allowed, and no more', () => {
    expect(guard(operations(11, 0), 1000, limits, { removals: 11, rewrites: 0 }).reasons).to.deep.equal([]);
    expect(guard(operations(12, 0), 1000, limits, { removals: 11, rewrites: 0 }).reasons).to.have.length(1);
  });
});

describe('field maps', () => {
  it('join fields, and let optional parts vanish', () => {
    const at = { fields: collection.fields };
    const join = (text: string, fields = {}) => show('title', { join: text }, record(fields), at);
    expect(join('{customer}[, {notes}]')).to.equal('Marsh');
    expect(join('{customer}[, {notes}]', { notes: 'ring\r\nfirst' })).to.equal('Marsh, ring\nfirst');
    expect(join('\\[{kind}\\]')).to.equal('[tuning]');
    expect(show('title', { copy: 'notes', default: 'Visit' }, record(), at)).to.equal('Visit');
    expect(show('categories', { copy: 'kind' }, record(), at)).to.deep.equal(['tuning']);
    expect(() => parseJoin('a {b')).to.throw('column 3: "{" is not closed');
    expect(() => parseJoin('a]')).to.throw('column 2: "]" closes nothing');
  });
  it('turn values by a table, and link back to the record', () => {
    const at = { fields: collection.fields };
    const table = { table: 'kind', values: { tuning: 'confirmed', voicing: 'tentative' } };
    expect(show('status', table, record(), at)).to.equal('confirmed');
    expect(show('status', table, record({ kind: 'other' }), at)).to.equal(null);
    expect(show('status', { ...table, default: 'tentative' }, record({ kind: null }), at)).to.equal('tentative');
    expect(show('link', { page: true }, { ...record(), url: 'https://desk.alder-wren.example/V-1' }, at)).to.equal(
      'https://desk.alder-wren.example/V-1',
    );
    const wrong = checkLane(
      lane({
        fields: {
          title: { page: true },
          status: { table: 'kind', values: { eaten: 'confirmed', tuning: 'gone' } },
          busy: { table: 'nope', values: { a: 'busy' } },
        },
      }),
      collection,
      zones,
    );
    expect(wrong.map((p) => p.pointer)).to.have.members([
      '/fields/title/page',
      '/fields/status/values/eaten',
      '/fields/status/values/tuning',
      '/fields/busy/table',
    ]);
    expect(() => lane({ fields: { status: { table: 'kind' } } })).to.throw('a table has values');
  });
  it('take control characters out, and refuse what is too long with field, value and limit', () => {
    expect(show('title', { copy: 'notes' }, record({ notes: 'a\u0007b\u0000c\ud800' }), { fields: collection.fields })).to.equal('abc\ufffd');
    expect(() => show('title', { copy: 'notes' }, record({ notes: 'x'.repeat(1001) }), { fields: collection.fields })).to.throw(
      UnfitValue,
      'notes: is 1001 characters long, and title takes 1000',
    );
    expect(() => show('busy', { copy: 'kind' }, record(), { fields: collection.fields })).to.throw(UnfitValue, 'values are busy, free');
  });
});

describe('conditions', () => {
  const at = { now: '2026-11-23T08:00:00Z', zone: zones.find('Europe/London')!, zones };
  const holds = (condition: Condition, fields = {}) => judgeCondition(condition, record(fields), at).holds;
  it('judge every kind of test', () => {
    expect(holds({ field: 'customer', test: 'is', value: 'marsh' })).to.equal(true);
    expect(holds({ field: 'customer', test: 'is', value: 'C-1' })).to.equal(true);
    expect(holds({ field: 'kind', test: 'none of', value: ['voicing'] })).to.equal(true);
    expect(holds({ field: 'private', test: 'is', value: false })).to.equal(true);
    expect(holds({ field: 'score', test: '>=', value: 3 })).to.equal(true);
    expect(holds({ field: 'notes', test: 'is empty' })).to.equal(true);
    expect(holds({ field: 'notes', test: 'words', value: 'art' }, { notes: 'a fresh start' })).to.equal(false);
    expect(holds({ field: 'notes', test: 'words', value: 'fresh start' }, { notes: 'a Fresh, start' })).to.equal(true);
    expect(holds({ field: 'start', test: 'after', value: 'today' })).to.equal(true);
    expect(holds({ field: 'start', test: 'within', value: ['today', '8 days'] })).to.equal(true);
    expect(holds({ field: 'start', test: 'within', value: ['today', '7 days'] })).to.equal(false);
    expect(holds({ field: 'guests', test: 'contains', value: 'zelda' }, { guests: [{ name: 'Zelda', email: 'z@elsewhere.example' }] })).to.equal(
      true,
    );
    expect(holds({ not: { any: [{ field: 'kind', test: 'is', value: 'tuning' }] } })).to.equal(false);
  });
  it('name the leaf that failed', () => {
    const result = judgeCondition(
      { all: [{ field: 'score', test: '>', value: 1 }, { any: [{ field: 'kind', test: 'is', value: 'voicing' }] }] },
      record(),
      at,
    );
    expect(result).to.deep.equal({ holds: false, failed: { field: 'kind', test: 'is', value: 'voicing' }, value: 'tuning' });
  });
  it('are refused with a pointer when they cannot be judged', () => {
    const wrong = (c: Condition) => checkCondition(c, collection.fields)[0];
    expect(wrong({ all: [{ field: 'nope', test: 'is', value: 'x' }] })).to.include({ pointer: '/all/0/field' });
    expect(wrong({ field: 'start', test: 'contains', value: 'x' })!.reason).to.match(
      /does not fit the field "start" of type date-time; fitting tests are/,
    );
    expect(wrong({ field: 'kind', test: 'is', value: 'tunning' })!.reason).to.equal('"tunning" is no choice of "kind"; choices are tuning, voicing');
    expect(wrong({ field: 'score', test: '<', value: 'many' })!.reason).to.match(/takes a number/);
    expect(wrong({ field: 'start', test: 'before', value: 'someday' })!.reason).to.match(/no date/);
    expect(wrong({ field: 'private', test: 'is', value: 'yes' })!.reason).to.match(/true or false/);
  });
});

describe('checking a lane', () => {
  it('finds every fault at once, each at its setting', () => {
    const faulty = lane({
      zone: 'Mars/Olympus',
      moments: [{ name: 'visit', when: { start: 'notes', length: 'kind' } }],
      fields: { location: { copy: 'guests' } },
      filter: { field: 'nope', test: 'is', value: 'x' },
    });
    expect(checkLane(faulty, collection, zones).map((p) => p.pointer)).to.have.members([
      '/zone',
      '/filter/field',
      '/fields/location/copy',
      '/moments/0/when/start',
      '/moments/0/when/length',
      '/fields/title',
    ]);
  });
  it('refuses what is not a lane', () => {
    expect(() => lane({ direction: '<>' })).to.throw('direction');
    expect(() => lane({ surprise: 1 })).to.throw('surprise');
    expect(() => lane({ fields: { title: { copy: 'a', join: 'b' } } })).to.throw('exactly one of copy, join, fixed, table, words, people and page');
    expect(() => lane({ filter: { all: [] } })).to.throw('at least one condition');
    let deep: Condition = { field: 'kind', test: 'is empty' };
    for (let i = 0; i < 50; i++) deep = { not: deep };
    expect(() => lane({ filter: deep })).to.throw('nested deeper');
  });
});
