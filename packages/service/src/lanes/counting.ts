import {
  type Attendee,
  type Countable,
  type CountStep,
  certain,
  countItems,
  propertyNames,
  readDateTime,
  readEvent,
  sayAny,
  sayValue,
  spanOf,
  toLocal,
  UnreadableEvent,
  type When,
  type Window,
  type Zone,
} from '@monsoon/core';
import { type StoredEvent, Turns } from '@monsoon/systems';
import { and, asc, eq, gt, inArray, notInArray, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { HttpProblem } from '../http/problem.ts';
import { takeApart } from '../run/take-apart.ts';
import { lanes, pairs } from '../storage/schema.ts';
import { findSystem } from '../systems/find.ts';
import { definitionOf } from './context.ts';

export interface CountAsk {
  step: CountStep;
  from: string;
  until: string;
  zone: string;
  /** pairs of these lanes, or of all */
  lanes?: string[] | undefined;
  /** instead: records of a collection, by a dated field */
  system?: string | undefined;
  collection?: string | undefined;
  date?: string | undefined;
  /** instead: events of a calendar */
  calendar?: string | undefined;
  /** what is counted apart: lane, or a property of events, or a field of records */
  by?: string | undefined;
}

const PAGE = 5000;
const MOST = 200_000;
const CHUNK = 100;
const DAY = 86_400;
/** Occurrences of one series that are counted. */
const MOST_OF_SERIES = 5000;
/** Milliseconds for reading a side whole. */
const PATIENCE = 120_000;
/** Milliseconds that the counts of one calendar may compute. */
const LONGEST = 20_000;

/** The same as rows: a line for each step, a column for each group. */
export const countRows = ({ step, steps, groups }: Awaited<ReturnType<typeof countAnswer>>): string[][] => [
  [`${step} from`, ...groups.map((g) => g.name)],
  ...steps.map((at, i) => [at, ...groups.map((g) => String(g.counts[i] ?? 0))]),
];

/** Counts what lanes stand for, records or events: no outside call for the first. @throws OutsideError */
export async function countAnswer(app: App, ask: CountAsk) {
  const zone = app.zones.find(ask.zone);
  if (zone === undefined) throw unfit('zone', `"${ask.zone}" is not a time zone such as Europe/London`);
  if (ask.from > ask.until) throw unfit('from', `${ask.from} lies after ${ask.until}`);
  if (Date.parse(ask.until) - Date.parse(ask.from) > 3700 * 86_400_000) throw unfit('until', 'at most ten years are counted at once');
  const { items, complete } =
    ask.collection !== undefined
      ? await ofCollection(app, ask, zone)
      : ask.calendar !== undefined
        ? await ofCalendar(app, ask, zone)
        : await ofLanes(app, ask, zone);
  const today = toLocal(Date.now() / 1000, zone).slice(0, 10);
  return { ...countItems(items, ask.step, ask.from, ask.until, today), complete };
}

const unfit = (name: string, reason: string) => new HttpProblem(422, 'The query does not fit', reason, [{ pointer: `/${name}`, reason }]);
const NOTHING = '(none)';
const said = (value: unknown): string => sayAny(value) || NOTHING;
/** What an event counts as: of its replies each counts, one for each guest. */
const groupsOf = (by: string, value: unknown): string[] =>
  by === 'replies' ? ((value ?? []) as Attendee[]).map((guest) => guest.response ?? 'needs action') : [said(value)];

/** Events are grouped by what events have. */
function ofEvents(by: string, also: string[] = []): void {
  if (!(propertyNames as readonly string[]).includes(by))
    throw unfit('by', `"${by}" is not what events can be grouped by; that is ${[...also, ...propertyNames].join(', ')}`);
}

async function ofLanes(app: App, ask: CountAsk, zone: Zone): Promise<{ items: Countable[]; complete: boolean }> {
  const by = ask.by ?? 'lane';
  if (by !== 'lane') ofEvents(by, ['lane']);
  const wanted = await app.db
    .select()
    .from(lanes)
    .where(ask.lanes === undefined ? undefined : inArray(lanes.slug, ask.lanes));
  const missing = ask.lanes?.find((slug) => !wanted.some((l) => l.slug === slug));
  if (missing !== undefined) throw unfit('lane', `there is no lane "${missing}"`);
  const items: Countable[] = [];
  for (const lane of wanted) {
    const { name } = definitionOf(lane);
    for (let last = '00000000-0000-0000-0000-000000000000'; items.length < MOST; ) {
      const rows = await app.db
        .select({
          id: pairs.id,
          when: sql<When | null>`${pairs.baseline} -> 'event' -> 'when'`,
          // The guests stand there with their replies, whichever of the two the lane maps.
          value: sql<unknown>`coalesce(${pairs.baseline} -> 'event' -> ${by}::text, case when ${by}::text = 'replies' then ${pairs.baseline} -> 'event' -> 'attendees' end)`,
        })
        .from(pairs)
        .where(and(eq(pairs.lane, lane.id), notInArray(pairs.state, ['unlinked', 'removed']), gt(pairs.id, last)))
        .orderBy(asc(pairs.id))
        .limit(PAGE);
      for (const { when, value } of rows) {
        if (when === null) continue;
        const day = dayOf(app, when, zone);
        for (const group of by === 'lane' ? [name] : groupsOf(by, value)) items.push({ day, group });
      }
      if (rows.length < PAGE) break;
      last = certain(rows.at(-1), 'the page has rows').id;
    }
  }
  return { items, complete: items.length < MOST };
}

/** What cannot be read cannot be counted; a lane says so item by item. */
function valuesIn(text: string, app: App) {
  try {
    return readEvent(text, app.zones).values;
  } catch (error) {
    if (error instanceof UnreadableEvent) return null;
    throw error;
  }
}

const dayOf = (app: App, when: When, zone: Zone): string =>
  when.kind === 'all-day' ? when.first : toLocal(spanOf(when, zone, app.zones).from, zone).slice(0, 10);

function systemOf(app: App, { system }: CountAsk) {
  if (system === undefined) throw unfit('system', 'system: say in which system it is, beside the collection or the calendar');
  return findSystem(app, system);
}

async function ofCollection(app: App, ask: CountAsk, zone: Zone): Promise<{ items: Countable[]; complete: boolean }> {
  const system = await systemOf(app, ask);
  const { records } = app.systems.open(system);
  const collection = (await records?.describe())?.find((c) => c.name === ask.collection);
  if (records === undefined || collection === undefined) throw unfit('collection', `${system.name} has no collection "${ask.collection}"`);
  const dated = collection.fields.filter((f) => f.type === 'date' || f.type === 'date-time').map((f) => f.name);
  const date = ask.date ?? dated[0];
  if (date === undefined || !dated.includes(date))
    throw unfit('date', `"${ask.date ?? ''}" is not a dated field of ${collection.label}; there are ${dated.join(', ') || 'none'}`);
  if (ask.by !== undefined && !collection.fields.some((f) => f.name === ask.by))
    throw unfit('by', `${collection.label} has no field "${ask.by}"; it has ${collection.fields.map((f) => f.name).join(', ')}`);
  // A listing names every record at least once: one that changes meanwhile may come again.
  const items = new Map<string, Countable>();
  for await (const page of records.pull(collection.name, null, AbortSignal.timeout(PATIENCE))) {
    for (const { id, fields } of page.items) {
      const value = fields[date];
      if (typeof value !== 'string') continue;
      const day = value.length === 10 ? value : toLocal(readDateTime(value, zone, app.zones).instant, zone).slice(0, 10);
      items.set(id, { day, group: ask.by === undefined ? collection.label : sayValue(fields[ask.by] ?? null) || NOTHING });
    }
    if (items.size >= MOST) return { items: [...items.values()], complete: false };
  }
  return { items: [...items.values()], complete: true };
}

/** What is asked for, and the months before today that are compared. */
function windowOfCounts({ from, until }: CountAsk, home: Zone): Window {
  const now = Date.now() / 1000;
  const at = (day: string) => Date.parse(`${day}T00:00:00Z`) / 1000;
  return { from: Math.min(at(from), now - 63 * DAY) - DAY, until: Math.max(at(until), now) + 2 * DAY, home, most: MOST_OF_SERIES };
}

async function ofCalendar(app: App, ask: CountAsk, zone: Zone): Promise<{ items: Countable[]; complete: boolean }> {
  if (ask.by !== undefined) ofEvents(ask.by);
  const system = await systemOf(app, ask);
  const { calendars } = app.systems.open(system);
  const found = (await calendars?.calendars(AbortSignal.timeout(60_000)))?.find((c) => c.href === ask.calendar || c.name === ask.calendar);
  if (calendars === undefined || found === undefined) throw unfit('calendar', `${system.name} has no calendar "${ask.calendar}"`);
  const signal = AbortSignal.timeout(PATIENCE);
  const window = windowOfCounts(ask, zone);
  const tally = new Map<string, Required<Countable>>();
  const seen = new Set<string>();
  const turns = new Turns({ most: LONGEST, signal });
  let count = 0;
  const note = ({ text }: StoredEvent): void => {
    const values = valuesIn(text, app);
    if (values?.when == null) return;
    const day = dayOf(app, values.when, zone);
    for (const group of ask.by === undefined ? [found.name] : groupsOf(ask.by, (values as unknown as Record<string, unknown>)[ask.by])) {
      const known = tally.get(`${day} ${group}`) ?? { day, group, count: 0 };
      known.count++;
      tally.set(`${day} ${group}`, known);
      count++;
    }
  };
  for await (const page of calendars.changes(found.href, null, signal)) {
    // One that changes meanwhile may be listed again.
    const hrefs = page.changed.map((c) => c.href).filter((href) => !seen.has(href));
    for (const href of hrefs) seen.add(href);
    for (let at = 0; at < hrefs.length; at += CHUNK) {
      const read = [...(await calendars.read(found.href, hrefs.slice(at, at + CHUNK), signal)).values()].filter((e) => e !== null);
      for await (const events of takeApart(read, window, app.zones, turns)) await turns.map(events, note);
      if (count >= MOST) return { items: [...tally.values()], complete: false };
    }
  }
  return { items: [...tally.values()], complete: true };
}
