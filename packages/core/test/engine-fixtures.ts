import {
  type Baseline,
  type Collection,
  type EventView,
  type Gathered,
  type Hold,
  type LaneContext,
  type LaneDefinition,
  makeEvent,
  type Operation,
  type Pair,
  pairId,
  parseLane,
  type plan,
  type RecordItem,
  readEvent,
  UnpairedEvents,
} from '@monsoon/core';
import { loadZones } from '@monsoon/service';

/** A lane of visits with its record, its event and its pair, for the tests of the engine. */

export const zones = loadZones();
export const LANE = '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11';
export const collection: Collection = {
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
  stamps: { created: true, modified: true },
};
export const lane = (more: Record<string, unknown> = {}): LaneDefinition =>
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
export const context = (definition = lane()): LaneContext => ({
  lane: LANE,
  definition,
  version: 1,
  collection,
  zone: zones.find('Europe/London')!,
  zones,
  now: '2026-11-23T08:00:00Z',
});
export const record = (fields: Record<string, unknown> = {}, id = 'V-1'): RecordItem => ({
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
export const values = {
  title: 'Marsh: tuning',
  description: null,
  when: { kind: 'timed' as const, start: '2026-12-01T09:00:00', end: '2026-12-01T10:00:00', zone: 'Europe/London' },
};
export const pair = (more: Partial<Pair> = {}): Pair => ({
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
  state: 'in sync',
  baseline: { record: values, event: values } as Baseline,
  label: 'Marsh: tuning',
  ...more,
});
export const event = (changed: object = {}, uid = pairId(LANE, 'V-1', 'visit'), marked = true): EventView => {
  const text = makeEvent(uid, { ...values, ...changed }, { lane: LANE, pair: uid }, { zones, now: '2026-11-01T00:00:00Z' }).replace(
    marked ? '' : /X-MONSOON.*\r\n/g,
    '',
  );
  return { href: '/c/1.ics', etag: '"1"', text, read: readEvent(text, zones) };
};
export const gathered = (more: Partial<Gathered>): Gathered => ({
  records: [{ id: 'V-1', item: record() }],
  pairs: [],
  events: new Map(),
  newcomers: [],
  reserved: new Set(),
  unpaired: new UnpairedEvents(),
  holds: new Map(),
  createCandidates: new Map(),
  ...more,
});
export const among = (...events: EventView[]): Partial<Gathered> => {
  const unpaired = new UnpairedEvents();
  for (const e of events) unpaired.add(e, context());
  return { unpaired };
};
export const paired = (r: RecordItem | null, e: EventView | null, more: Partial<Gathered> = {}, p = pair()) =>
  gathered({ records: [{ id: 'V-1', item: r }], pairs: [p], events: new Map([['/c/1.ics', e]]), ...more });
export const kinds = (result: ReturnType<typeof plan>) => result.operations.map((o) => o.kind);

/** The question that an operation asks. */
export function heldBy(o: Operation | undefined): Hold {
  if (o?.kind !== 'hold') throw new Error(`a hold should be planned, and ${o?.kind ?? 'nothing'} is`);
  return o.hold;
}
