import {
  type Collection,
  type EventView,
  type Gathered,
  type LaneContext,
  makeEvent,
  noValues,
  type Pair,
  pairId,
  parseLane,
  plan,
  type RecordItem,
  readEvent,
  stateOf,
  UnpairedEvents,
} from '@monsoon/core';
import { loadZones } from '@monsoon/service';

/**
 * Match, judge, merge and plan 100,000 pairs of which 1 % changed, beside JSON.parse over the JSON text of the same two
 * sides. Once where the records have versions, once where their content must be compared.
 */
const PAIRS = Number(process.env['PAIRS'] ?? 100_000);
const ROUNDS = 5;
const zones = loadZones();
const lane = '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11';
const collection: Collection = {
  name: 'visits',
  label: 'Visits',
  fields: [
    { name: 'customer', label: 'Customer', type: 'reference' },
    { name: 'kind', label: 'Kind', type: 'choice' },
    { name: 'start', label: 'Start', type: 'date-time' },
    { name: 'length', label: 'Length', type: 'duration', unit: 'minutes' },
    { name: 'status', label: 'Status', type: 'choice' },
    { name: 'notes', label: 'Notes', type: 'long text' },
    { name: 'technician', label: 'Technician', type: 'person' },
  ],
  may: { create: true, change: true, remove: true },
  retries: 'key',
  stamps: { created: true, modified: true },
};
const context: LaneContext = {
  lane,
  version: 1,
  collection,
  zone: zones.find('Europe/London')!,
  zones,
  now: '2026-11-23T08:00:00Z',
  definition: parseLane({
    name: 'Visits',
    records: { system: 'a', collection: 'visits' },
    calendar: { system: 'b', calendar: '/c/' },
    direction: '<->',
    zone: 'Europe/London',
    filter: 'status is not cancelled',
    moments: [{ name: 'visit', when: { start: 'start', length: 'length' } }],
    fields: { title: { join: '{customer}: {kind}', direction: '->' }, description: { copy: 'notes' } },
    departures: {},
    guard: {},
  }),
};

const records: RecordItem[] = Array.from({ length: PAIRS }, (_, i) => ({
  id: `V-${i}`,
  fields: {
    customer: { id: `C-${i % 500}`, label: `Customer ${i % 500}` },
    kind: 'tuning',
    start: `2026-12-${String(1 + (i % 28)).padStart(2, '0')}T${String(8 + (i % 10)).padStart(2, '0')}:00:00[Europe/London]`,
    length: 90,
    status: 'booked',
    notes: `Notes of visit ${i}: the keys stick in damp weather.`,
    technician: { name: 'Ines Alder', email: 'ines@alder-wren.example' },
  },
  version: `v${i}`,
  modified: '2026-11-01T08:00:00Z',
}));
const empty: Gathered = {
  records: [],
  pairs: [],
  events: new Map(),
  newcomers: [],
  reserved: new Set(),
  unpaired: new UnpairedEvents(),
  holds: new Map(),
  createCandidates: new Map(),
};
const made = plan(context, { ...empty, records: records.map((item) => ({ id: item.id, item })) }).operations;
const events: EventView[] = made.map((o, i) => {
  const text = makeEvent(o.pair.uid, o.eventEdits, { lane, pair: o.pair.id }, { zones, now: context.now });
  return { href: `/c/${o.pair.uid}.ics`, etag: `"${i}"`, text: null, read: readEvent(text, zones) };
});

/** @param named do the systems name the states of their items? */
function side(named: boolean): Gathered {
  const pairs: Pair[] = made.map((o, i) => {
    const values = { ...Object.fromEntries(['when', 'title', 'description'].map((p) => [p, events[i]!.read!.values[p as 'title']])) };
    return {
      ...o.pair,
      id: pairId(lane, records[i]!.id, 'visit'),
      href: events[i]!.href,
      etag: `"${i}"`,
      version: named ? records[i]!.version! : stateOf({ ...records[i]!, version: undefined }),
      state: 'in sync',
      baseline: { record: values, event: { ...values, status: null } },
    };
  });
  const changed = records.map((item, i) => ({
    id: item.id,
    item:
      i % 100 === 0
        ? { ...item, version: named ? `v${i}b` : undefined, fields: { ...item.fields, kind: 'voicing' } }
        : named
          ? item
          : { ...item, version: undefined },
  }));
  return { ...empty, records: changed, pairs, events: new Map(events.map((e) => [e.href, e])) };
}

const median = (times: number[]) => [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)]!;
const text = JSON.stringify({
  records,
  events: events.map((e) => ({ ...noValues, ...e.read!.values, href: e.href, etag: e.etag, uid: e.read!.uid })),
});
for (const named of [true, false]) {
  const gathered = side(named);
  const [bare, ours]: [number[], number[]] = [[], []];
  for (let round = 0; round < ROUNDS; round++) {
    let from = performance.now();
    JSON.parse(text);
    bare.push(performance.now() - from);
    from = performance.now();
    const { operations } = plan(context, gathered);
    ours.push(performance.now() - from);
    if (operations.length !== Math.ceil(PAIRS / 100)) throw new Error(`${operations.length} operations`);
  }
  const [b, o] = [median(bare), median(ours)];
  console.log(
    `planning ${PAIRS} pairs, 1 % changed, ${named ? 'versions and ETags known' : 'records without versions'}: ${o.toFixed(0)} ms; JSON.parse of both sides (${(text.length / 1e6).toFixed(0)} MB): ${b.toFixed(0)} ms; ratio ${(o / b).toFixed(2)}`,
  );
}
