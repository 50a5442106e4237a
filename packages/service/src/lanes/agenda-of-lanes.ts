import type { AgendaItem } from '@monsoon/contract';
import { failureReasons, type Operation, occurrencesOfValues, UnreadableEvent, type When } from '@monsoon/core';
import { inArray, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { forecast } from '../run/forecast.ts';
import { noRun, runStore } from '../storage/run-store.ts';
import { lanes } from '../storage/schema.ts';
import { type AgendaAsk, type Asking, bankOf, MOST_OF_SERIES, touches, unfit } from './agenda-items.ts';
import { definitionOf, type LaneRow, openLane } from './context.ts';

const DAY = 86_400;
const FORECAST_TIME = 300_000;

interface Row extends Record<string, unknown> {
  id: string | null;
  record_id: string | null;
  href: string | null;
  moment: string;
  label: string;
  state: string;
  record: When | null;
  event: When | null;
  recurrence: string | null;
  reason: string | null;
  condition: string | null;
  value: string | null;
  question: string | null;
  held_record: When | null;
  held_event: When | null;
}

/** Pairs and verdicts of a lane that may touch the days, with what an open question says of both sides. */
const rowsOf = (lane: string, { first, last }: Asking['days']) => sql`
  select p.id, p.record_id, p.href, p.moment, coalesce(nullif(v.label, ''), p.label) as label,
         case when v.reason in ${failureReasons} then 'failed' else p.state end as state,
         p.baseline -> 'record' -> 'when' as record, p.baseline -> 'event' -> 'when' as event,
         p.recurrence, v.reason, v.condition, v.value, h.question, h.record -> 'when' as held_record, h.event -> 'when' as held_event
  from pairs p
  left join verdicts v on v.lane = p.lane and v.moment = p.moment and v.record_id = coalesce(p.record_id, '') and v.href = case when p.record_id is null then coalesce(p.href, '') else '' end
  left join holds h on h.pair = p.id and h.state = 'open'
  where p.lane = ${lane} and p.state <> 'removed' and ((p.first_day <= ${last} and p.last_day >= ${first}) or h.pair is not null)
  union all
  select null, nullif(v.record_id, ''), nullif(v.href, ''), v.moment, v.label,
         case when v.reason in ${failureReasons} then 'failed' else 'left out' end,
         case when v.record_id <> '' then v."when" end, case when v.record_id = '' then v."when" end, null, v.reason, v.condition, v.value, null, null, null
  from verdicts v
  where v.lane = ${lane} and v.first_day between ${dayBefore(first, 31)} and ${last}
    and not exists (select from pairs p where p.lane = v.lane and p.moment = v.moment and p.state <> 'removed'
      and (p.record_id = nullif(v.record_id, '') or (v.record_id = '' and p.href = v.href)))`;

/** What is left out is looked for by its first day: one that is longer than this is not found by its last. */
const dayBefore = (day: string, days: number): string => new Date(Date.parse(`${day}T00:00:00Z`) - days * DAY * 1000).toISOString().slice(0, 10);

/** Both sides of lanes, with what open questions and a forecast say of them. */
export async function agendaOfLanes(asking: Asking, ask: AgendaAsk): Promise<AgendaItem[]> {
  const { app } = asking;
  const wanted = await app.db
    .select()
    .from(lanes)
    .where(ask.lanes === undefined ? undefined : inArray(lanes.slug, ask.lanes))
    .orderBy(lanes.slug);
  const missing = ask.lanes?.find((slug) => !wanted.some((l) => l.slug === slug));
  if (missing !== undefined) throw unfit('lane', `there is no lane "${missing}"`);
  if (ask.forecast === true && wanted.length !== 1) throw unfit('lane', 'a forecast is of one lane: name it');
  const items: AgendaItem[] = [];
  for (const lane of wanted) {
    const { rows } = await app.db.execute<Row>(rowsOf(lane.id, asking.days));
    const planned = ask.forecast === true ? await operationsOf(app, lane) : null;
    items.push(...rows.flatMap((row) => itemsOf(row, lane, asking, planned?.get(keyOf(row.record_id, row.href, row.moment)))));
    if (planned !== null) items.push(...[...planned.values()].flatMap((o) => newItem(o, lane, asking, rows)));
  }
  return items.filter((item) => touches(item, asking.window));
}

const keyOf = (recordId: string | null, href: string | null, moment: string): string => JSON.stringify([recordId ?? href, moment]);

function itemsOf(row: Row, lane: LaneRow, asking: Asking, operation?: Operation): AgendaItem[] {
  const record = row.held_record ?? row.record;
  const event = row.held_event ?? row.event;
  const item: AgendaItem = {
    lane: lane.slug,
    laneName: definitionOf(lane).name,
    calendar: null,
    recordId: row.record_id,
    href: row.href,
    moment: row.moment,
    label: row.label,
    state: row.state,
    repeating: row.recurrence !== null || row.href?.includes('#') === true,
    record: bankOf(record, asking),
    event: bankOf(event, asking),
    why: row.question ?? (row.reason === null ? null : `${row.reason}: ${row.condition}, found ${row.value}`),
  };
  if (operation !== undefined) return [planned(item, operation, asking)];
  if (row.recurrence === null || event === null) return [item];
  // Both sides of a series that is one record take place at the same times, as far as they were agreed on.
  return seriesTimes(event, row.recurrence, asking).map((when) => ({ ...item, record: bankOf(when, asking), event: bankOf(when, asking) }));
}

function seriesTimes(when: When, recurrence: string, { app, zone, window }: Asking): When[] {
  try {
    return occurrencesOfValues({ when, recurrence }, { ...window, home: zone, most: MOST_OF_SERIES }, app.zones);
  } catch (error) {
    if (error instanceof UnreadableEvent) return [when];
    throw error;
  }
}

async function operationsOf(app: App, lane: LaneRow): Promise<Map<string, Operation>> {
  const { context, sides } = await openLane(app, lane);
  const store = runStore(app.db, lane.id, lane.version, noRun);
  const { operations } = await forecast({ context, sides, store, signal: AbortSignal.timeout(FORECAST_TIME) }, 'sweep');
  return new Map(operations.filter((o) => o.kind !== 'agree').map((o) => [keyOf(o.pair.recordId, o.pair.href, o.pair.moment), o]));
}

/** What an operation says of when both sides take place: as it is, and as it would be. */
function timesOf(operation: Operation): { before?: When; after?: When } {
  const found = operation.changes.find((c) => c.side === 'event' && c.property === 'when');
  return { ...(found?.before == null ? {} : { before: found.before as When }), ...(found?.after == null ? {} : { after: found.after as When }) };
}

const wouldBe: Record<Operation['kind'], string> = {
  create: 'would be created',
  'create record': 'record would be created',
  change: 'would change',
  adopt: 'would be paired',
  agree: 'in sync',
  remove: 'event would be removed',
  'remove record': 'record would be removed',
  unlink: 'would be unlinked',
  hold: 'would be held',
};

/** Each side where it would come from: what is going to move slants from the new time to the old one. */
function planned(item: AgendaItem, operation: Operation, asking: Asking): AgendaItem {
  const eventNow = bankOf(operation.event?.read?.values.when ?? null, asking) ?? item.event;
  const { after } = timesOf(operation);
  const target = after === undefined ? null : bankOf(after, asking);
  const toEvent = 'when' in operation.eventEdits;
  return {
    ...item,
    state: wouldBe[operation.kind],
    record: operation.kind === 'create record' ? null : toEvent ? (target ?? item.record) : item.record,
    event: operation.kind === 'create' ? null : eventNow,
    why: operation.cause,
  };
}

/** What a forecast would do with items that no pair speaks of yet. */
function newItem(operation: Operation, lane: LaneRow, asking: Asking, rows: readonly Row[]): AgendaItem[] {
  const { pair, kind } = operation;
  const key = keyOf(pair.recordId, pair.href, pair.moment);
  if (rows.some((r) => keyOf(r.record_id, r.href, r.moment) === key)) return [];
  const { after } = timesOf(operation);
  const event = operation.event?.read?.values.when ?? null;
  const item: AgendaItem = {
    lane: lane.slug,
    laneName: definitionOf(lane).name,
    calendar: null,
    recordId: pair.recordId,
    href: pair.href,
    moment: pair.moment,
    label: pair.label,
    state: wouldBe[kind],
    repeating: false,
    record: kind === 'create record' ? null : bankOf(after ?? event, asking),
    event: kind === 'create' ? null : bankOf(event ?? after ?? null, asking),
    why: operation.cause,
  };
  return item.record === null && item.event === null ? [] : [item];
}
