import type { AgendaAnswer, AgendaBank, AgendaItem } from '@monsoon/contract';
import {
  definedZoneLabel,
  failureReasons,
  formatWhen,
  type Operation,
  occurrencesOfValues,
  readEvent,
  spanOf,
  toInstant,
  toLocal,
  UnreadableEvent,
  type When,
  type Zone,
} from '@monsoon/core';
import { inArray, sql } from 'drizzle-orm';
import type { Caller } from '../access/callers.ts';
import { permit } from '../access/permissions.ts';
import type { App } from '../app.ts';
import { placeAt } from '../hosted/addresses.ts';
import { eachObject } from '../hosted/objects.ts';
import { type CalendarFor, calendarFor } from '../hosted/rights.ts';
import { shownText } from '../hosted/shown.ts';
import { HttpProblem } from '../http/problem.ts';
import { forecast } from '../run/forecast.ts';
import { takeApart } from '../run/take-apart.ts';
import { noRun, runStore } from '../storage/run-store.ts';
import { lanes } from '../storage/schema.ts';
import { findSystem } from '../systems/find.ts';
import { definitionOf, type LaneRow, openLane } from './context.ts';

export interface AgendaAsk {
  /** first and last day */
  from: string;
  until: string;
  zone: string;
  /** of these lanes, or of all */
  lanes?: string[] | undefined;
  /** instead: the events of a calendar */
  system?: string | undefined;
  calendar?: string | undefined;
  /** of one lane: where everything would go */
  forecast?: boolean | undefined;
  /** only how many there are on each day */
  counts?: boolean | undefined;
}

const DAY = 86_400;
const MOST_DAYS = 62;
/** Items in one answer; of more, all are counted. */
const MOST_ITEMS = 10_000;
/** Occurrences of one series in one answer. */
const MOST_OF_SERIES = 400;
const PATIENCE = 120_000;

const unfit = (name: string, reason: string) => new HttpProblem(422, 'The query does not fit', reason, [{ pointer: `/${name}`, reason }]);

interface Asking {
  app: App;
  zone: Zone;
  /** seconds since 1970 */
  window: { from: number; until: number };
  /** the days, one wider on each side: times are kept on the clocks of their own zones */
  days: { first: string; last: string };
}

/** What stands where in a span of days: both sides of lanes, or the events of a calendar. @throws OutsideError */
export async function agendaAnswer(app: App, caller: Caller, ask: AgendaAsk): Promise<AgendaAnswer> {
  const zone = app.zones.find(ask.zone);
  if (zone === undefined) throw unfit('zone', `"${ask.zone}" is not a time zone such as Europe/London`);
  const days = daysBetween(ask.from, ask.until, zone);
  const window = { from: days[0]!.from, until: days.at(-1)!.until };
  const wide = (seconds: number) => new Date(seconds * 1000).toISOString().slice(0, 10);
  const asking: Asking = { app, zone, window, days: { first: wide(window.from - DAY), last: wide(window.until + DAY) } };
  const found = ask.calendar !== undefined ? await ofCalendar(asking, caller, ask) : await ofLanes(asking, ask);
  found.sort((a, b) => startOf(a) - startOf(b) || a.label.localeCompare(b.label));
  for (const item of found) {
    for (const day of days) {
      if (!touches(item, day)) continue;
      day.items++;
      day.states[item.state] = (day.states[item.state] ?? 0) + 1;
    }
  }
  return { zone: zone.name, days, items: ask.counts === true ? [] : found.slice(0, MOST_ITEMS), complete: found.length <= MOST_ITEMS };
}

function daysBetween(from: string, until: string, zone: Zone): AgendaAnswer['days'] {
  if (from > until) throw unfit('from', `${from} lies after ${until}`);
  const days: AgendaAnswer['days'] = [];
  for (let day = from; day <= until; day = dayAfter(day)) {
    if (days.length >= MOST_DAYS) throw unfit('until', `at most ${MOST_DAYS} days are shown at once`);
    const begins = toInstant(`${day}T00:00:00`, zone).instant;
    const ends = toInstant(`${dayAfter(day)}T00:00:00`, zone).instant;
    const hours = [];
    for (let at = begins; at < ends; at += 3600) hours.push(toLocal(at, zone).slice(11, 16));
    days.push({ day, from: begins, until: ends, hours, items: 0, states: {} });
  }
  return days;
}

const dayAfter = (day: string): string => new Date(Date.parse(`${day}T00:00:00Z`) + DAY * 1000).toISOString().slice(0, 10);
const startOf = (item: AgendaItem): number => Math.min(item.record?.from ?? Number.POSITIVE_INFINITY, item.event?.from ?? Number.POSITIVE_INFINITY);
const within = (bank: AgendaBank | null, { from, until }: { from: number; until: number }): boolean =>
  bank !== null && bank.from < until && Math.max(bank.until, bank.from + 1) > from;
const touches = (item: AgendaItem, span: { from: number; until: number }): boolean => within(item.record, span) || within(item.event, span);

function bankOf(when: When | null | undefined, { app, zone }: Asking): AgendaBank | null {
  if (when == null) return null;
  const { from, until } = spanOf(when, zone, app.zones);
  if (when.kind === 'all-day') return { from, until, allDay: true, says: formatWhen(when) };
  const shown: When = { kind: 'timed', start: toLocal(from, zone), end: toLocal(until, zone), zone: null };
  // On the clock of who looks, and on its own where that is another one.
  const own =
    when.zone === null || (toLocal(from, zone) === when.start && toLocal(until, zone) === when.end)
      ? ''
      : ` (${when.start.slice(11, 16)} ${definedZoneLabel(when.zone)})`;
  return { from, until, allDay: false, says: `${formatWhen(shown)}${own}` };
}

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
         coalesce(p.baseline #>> '{event,recurrence}', p.baseline #>> '{record,recurrence}') as recurrence,
         v.reason, v.condition, v.value, h.question, h.record -> 'when' as held_record, h.event -> 'when' as held_event
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

async function ofLanes(asking: Asking, ask: AgendaAsk): Promise<AgendaItem[]> {
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

const FORECAST_TIME = 300_000;

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

async function ofCalendar(asking: Asking, caller: Caller, ask: AgendaAsk): Promise<AgendaItem[]> {
  const { app, zone, window } = asking;
  if (ask.system === undefined) throw unfit('system', 'say in which system the calendar is');
  const system = await findSystem(app, ask.system);
  const place = placeAt(ask.calendar!);
  const mine = place === null || system.kind !== 'hosted' ? null : await calendarFor(app.pool, caller, place.slug);
  const texts = mine !== null ? await ofHosted(asking, mine) : await ofOther(asking, caller, system, ask.calendar!);
  return takeApart(texts.objects, { ...window, home: zone, most: MOST_OF_SERIES }, app.zones).flatMap(({ href, text, occurrence }): AgendaItem[] => {
    try {
      const { values, repeating } = readEvent(text, app.zones);
      const event = bankOf(values.when, asking);
      if (!within(event, window)) return [];
      return [
        {
          lane: null,
          laneName: null,
          calendar: texts.name,
          recordId: null,
          href,
          moment: '',
          label: values.title ?? 'no title',
          state: values.status === 'cancelled' ? 'cancelled' : 'on the calendar',
          repeating: repeating || occurrence !== undefined,
          record: null,
          event,
          why: null,
        },
      ];
    } catch (error) {
      if (error instanceof UnreadableEvent) return [];
      throw error;
    }
  });
}

interface Texts {
  name: string;
  objects: { href: string; etag: string | null; text: string }[];
}

async function ofHosted({ app, window }: Asking, mine: CalendarFor): Promise<Texts> {
  const objects: Texts['objects'] = [];
  for await (const page of eachObject(app.pool, mine.calendar.id, window))
    for (const object of page) {
      const text = shownText(object, mine.sight, mine.calendar.id, app.zones);
      if (text !== null) objects.push({ href: object.name, etag: object.etag, text });
    }
  return { name: mine.calendar.name, objects };
}

async function ofOther({ app, window }: Asking, caller: Caller, system: Awaited<ReturnType<typeof findSystem>>, asked: string): Promise<Texts> {
  await permit(app.db, caller, 'inspect', null);
  const { calendars } = app.systems.open(system);
  const signal = AbortSignal.timeout(PATIENCE);
  const found = (await calendars?.calendars(signal))?.find((c) => c.href === asked || c.name === asked);
  if (calendars === undefined || found === undefined) throw unfit('calendar', `${system.name} has no calendar "${asked}"`);
  const near = await calendars.between(found.href, window.from, window.until, signal);
  if (near.length > 0 || system.kind === 'caldav') return { name: found.name, objects: near };
  // A feed cannot be asked for a span.
  const objects: Texts['objects'] = [];
  for await (const page of calendars.changes(found.href, null, signal)) {
    const read = await calendars.read(
      found.href,
      page.changed.map((c) => c.href),
      signal,
    );
    objects.push(...[...read.values()].filter((e) => e !== null));
  }
  return { name: found.name, objects };
}
