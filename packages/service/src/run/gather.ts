import {
  type EventValues,
  type EventView,
  type Gathered,
  type LaneContext,
  type Pair,
  type RecordItem,
  readEvent,
  UnreadableEvent,
} from '@monsoon/core';
import type { Calendars, Records, StoredEvent } from '@monsoon/systems';
import { inTurn } from './in-turn.ts';
import type { Cursors, RunStore } from './store.ts';

/**
 * What a run looks at: everything, where an ETag says that an event is as it was (`sweep`) or reading every event anew
 * (`audit`); what changed on both sides; what changed in the records; or some records alone.
 */
export type Scope = 'audit' | 'sweep' | 'changes' | 'records' | { records: string[] };

export interface Sides {
  records: Records;
  calendars: Calendars;
}

export interface GatherResult {
  gathered: Gathered;
  /** where to go on next time, once everything behind them is durable */
  cursors: Partial<Cursors>;
  /** hrefs on the calendar that no pair speaks of; known after a complete listing only */
  unknownHrefs: string[];
  /** everything on the calendar, after a complete listing */
  listed: ReadonlySet<string>;
}

const followed = (pair: Pair) => pair.state !== 'parted' && pair.state !== 'removed';

/** Reads what the scope asks for on both sides, so that every item that is planned is planned from the truth. */
export async function gather(context: LaneContext, sides: Sides, store: RunStore, scope: Scope, signal: AbortSignal): Promise<GatherResult> {
  const found: Found = { records: new Map(), etags: null, touched: new Set(), cursors: {} };
  const whole = scope === 'sweep' || scope === 'audit';
  if (whole) await sweep(context, sides, found, signal);
  else if (typeof scope === 'object') for (const id of scope.records) found.touched.add(id);
  else await pullBothSides(context, sides, store, found, scope, signal);

  const settlements = await store.settlements();
  for (const s of settlements) found.touched.add(s.recordId);
  const pairs = whole ? await store.pairs('all') : [];
  const listed = new Set(found.records.keys());
  // A record that a complete listing lacks is not deleted until a direct read says so.
  for (const pair of pairs) if (followed(pair) && !listed.has(pair.recordId)) found.touched.add(pair.recordId);
  await readTouched(context, sides.records, found, signal);
  if (!whole) pairs.push(...(await store.pairs({ records: [...found.records.keys()] })));

  for (const pair of pairs) {
    // An event whose making was never confirmed is where it would have been made.
    if (pair.state === 'making' && pair.href === null) pair.href = sides.calendars.hrefFor(context.definition.calendar.calendar, pair.uid);
  }
  const known = new Set(pairs.map((p) => p.href));
  return {
    gathered: {
      records: [...found.records].map(([id, item]) => ({ id, item })),
      pairs,
      events: await readEvents(context, sides.calendars, pairs.filter(followed), scope === 'audit' ? null : found.etags, signal),
      strangers: [],
      settlements: new Map(settlements.map((s) => [s.pair, s.choice])),
    },
    cursors: found.cursors,
    listed: new Set(found.etags?.keys()),
    unknownHrefs: found.etags === null ? [] : [...found.etags.keys()].filter((href) => !known.has(href)),
  };
}

interface Found {
  records: Map<string, RecordItem | null>;
  /** ETags of a complete listing of the calendar */
  etags: Map<string, string | null> | null;
  /** records to be read one by one */
  touched: Set<string>;
  cursors: Partial<Cursors>;
}

async function pullRecords(context: LaneContext, records: Records, cursor: string | null, found: Found, signal: AbortSignal): Promise<void> {
  for await (const page of records.pull(context.definition.records.collection, cursor, signal)) {
    for (const item of page.items) found.records.set(item.id, item);
    for (const id of page.gone) found.records.set(id, null);
    if (page.cursor !== undefined) found.cursors.records = page.cursor;
  }
}

async function sweep(context: LaneContext, sides: Sides, found: Found, signal: AbortSignal): Promise<void> {
  const [listing] = await Promise.all([
    sides.calendars.changes(context.definition.calendar.calendar, null, signal),
    pullRecords(context, sides.records, null, found, signal),
  ]);
  found.etags = new Map(listing.changed.map((c) => [c.href, c.etag]));
  found.cursors.calendar = listing.cursor;
}

async function pullBothSides(
  context: LaneContext,
  sides: Sides,
  store: RunStore,
  found: Found,
  scope: 'changes' | 'records',
  signal: AbortSignal,
): Promise<void> {
  const cursors = await store.cursors();
  await pullRecords(context, sides.records, cursors.records, found, signal);
  if (scope === 'records') return;
  const changes = await sides.calendars.changes(context.definition.calendar.calendar, cursors.calendar, signal);
  found.cursors.calendar = changes.cursor;
  const pairs = changes.complete
    ? await store.pairs('all')
    : await store.pairs({ hrefs: [...changes.changed.map((c) => c.href), ...changes.removed] });
  const etags = new Map(changes.changed.map((c) => [c.href, c.etag]));
  for (const pair of pairs.filter(followed)) {
    // The same ETag is the same content: our own writes come back this way and are no news.
    if (pair.href !== null && (etags.get(pair.href) ?? null) !== (pair.etag ?? undefined)) found.touched.add(pair.recordId);
  }
  for (const id of await store.due(context.now)) found.touched.add(id);
  const aside = await store.setAside();
  for (const pair of await store.pairs({ state: 'making' })) if (!aside.has(pair.recordId)) found.touched.add(pair.recordId);
}

/** One by one: the rare path. */
async function readTouched(context: LaneContext, records: Records, found: Found, signal: AbortSignal): Promise<void> {
  const ids = [...found.touched].filter((id) => !found.records.has(id));
  let failure: unknown;
  const read = async (id: string): Promise<boolean> => {
    try {
      found.records.set(id, await records.read(context.definition.records.collection, id, signal));
      return false;
    } catch (error) {
      failure ??= error;
      return true;
    }
  };
  await inTurn(ids, 8, read, (failed) => failed);
  if (failure !== undefined) throw failure;
}

const nothing: EventValues = {
  title: null,
  description: null,
  location: null,
  when: null,
  status: null,
  busy: null,
  visibility: null,
  categories: null,
  link: null,
  colour: null,
};

async function readEvents(
  context: LaneContext,
  calendars: Calendars,
  pairs: Pair[],
  etags: Found['etags'],
  signal: AbortSignal,
): Promise<Map<string, EventView | null>> {
  const events = new Map<string, EventView | null>();
  const wanted: string[] = [];
  for (const pair of pairs) {
    if (pair.href === null) continue;
    const listed = etags?.get(pair.href);
    if (listed !== undefined && listed !== null && listed === pair.etag && pair.baseline !== null) {
      // Unchanged by its ETag: what was read at the last agreement still holds. Its text is read when it is needed.
      const values = { ...nothing, ...pair.baseline.event };
      events.set(pair.href, {
        href: pair.href,
        etag: listed,
        text: null,
        read: { uid: pair.uid, values, mark: null, repeating: false, modified: null },
      });
    } else wanted.push(pair.href);
  }
  for (const [href, event] of await calendars.read(context.definition.calendar.calendar, wanted, signal)) {
    events.set(href, event === null ? null : viewOf(event, context));
  }
  return events;
}

export function viewOf(event: StoredEvent, context: LaneContext): EventView {
  try {
    return { ...event, read: readEvent(event.text, context.zones) };
  } catch (error) {
    if (!(error instanceof UnreadableEvent)) throw error;
    return { ...event, read: null, unreadable: error.message };
  }
}

/** The events that records without a pair might already have on the calendar. */
export async function readStrangers(context: LaneContext, calendars: Calendars, hrefs: string[], signal: AbortSignal): Promise<EventView[]> {
  const found = await calendars.read(context.definition.calendar.calendar, hrefs, signal);
  return [...found.values()].filter((e) => e !== null).map((e) => viewOf(e, context));
}
