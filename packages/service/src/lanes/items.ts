import type { ItemAnswer, ItemDetail, ItemOrder, Page } from '@monsoon/contract';
import {
  certain,
  type EventView,
  failureReasons,
  judgeEvent,
  judgeRecord,
  type LaneContext,
  labelOf,
  mappedPart,
  momentLinks,
  nameOfEvent,
  type RecordItem,
  sayRecurrence,
  showAll,
  type When,
} from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { and, desc, eq, isNull, or, type SQL, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { HttpProblem, notFound } from '../http/problem.ts';
import { withDirectories } from '../run/directories.ts';
import { viewOf } from '../run/event-view.ts';
import { type OpenWork, openWork } from '../run/work.ts';
import { noRun, runStore } from '../storage/run-store.ts';
import { holds, journal, pairs } from '../storage/schema.ts';
import { holdAnswer, journalAnswer } from './answers.ts';
import { isInCalendar, type LaneRow, openLane } from './context.ts';
import { guestsOfPair } from './guests.ts';
import { seriesOfItem } from './series-of-item.ts';
import { explain } from './why.ts';

interface Row extends Record<string, unknown> {
  item: string;
  record_id: string | null;
  href: string | null;
  moment: string;
  label: string;
  state: string;
  when: When | null;
  recurrence: string | null;
  reason: string | null;
  condition: string;
  value: string;
  recheck_at: Date | null;
  since: Date;
  updated_at: Date;
}

/** Pairs and verdicts of a lane as one list. An item is named by its record, or, where it has none, by its event. */
const itemRows = (lane: string) => sql`
  select coalesce(p.item, v.item) as item, coalesce(p.record_id, nullif(v.record_id, '')) as record_id,
         coalesce(p.href, nullif(v.href, '')) as href, coalesce(p.moment, v.moment) as moment,
         coalesce(nullif(v.label, ''), p.label) as label,
         case when v.reason in ${failureReasons} then 'failed' when p.state is null then 'left out' else p.state end as state,
         p.uid, p.baseline->'record'->'when' as "when",
         p.recurrence, v.reason, v.condition, v.value, v.recheck_at, v.at as since,
         greatest(p.updated_at, v.at) as updated_at
  from (select *, coalesce(record_id, href) as item from pairs where lane = ${lane} and state <> 'removed') p
  full join (select *, case when record_id = '' then href else record_id end as item from verdicts where lane = ${lane}) v
    on p.item = v.item and p.moment = v.moment`;

const iso = (value: Date | string | null): string | null => (value === null ? null : new Date(value).toISOString());

const answer = (row: Row, lane: string): ItemAnswer => ({
  lane,
  recordId: row.record_id,
  href: row.href,
  moment: row.moment,
  label: row.label,
  state: row.state as ItemAnswer['state'],
  when: row.when,
  repeats: row.recurrence === null ? null : sayRecurrence(row.recurrence),
  verdict:
    row.reason === null
      ? null
      : { reason: row.reason as never, condition: row.condition, value: row.value, recheckAt: iso(row.recheck_at), at: iso(row.since) ?? '' },
  updatedAt: iso(row.updated_at) ?? '',
});

export interface ItemQuery {
  search?: string | undefined;
  state?: string | undefined;
  order?: ItemOrder | undefined;
  descending?: boolean | undefined;
  cursor?: string | undefined;
  limit: number;
}

/** What each order goes by, as text; items without a time come after those with one, whichever way it goes. */
const keys: Record<ItemOrder, SQL> = {
  time: sql`coalesce("when"->>'start', "when"->>'first', '')`,
  title: sql`label`,
  record: sql`coalesce(record_id, '')`,
  state: sql`state`,
  since: sql`to_char(updated_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US')`,
};

/** Items by their time unless said; the one whose id or UID is searched for comes first. The cursor is the last item of the page before. */
export async function listItems(app: App, lane: LaneRow, query: ItemQuery): Promise<Page<ItemAnswer>> {
  const after = readCursor(query.cursor);
  // What is named just so comes first, and on the first page alone.
  const exact = query.search ?? null;
  const like = query.search === undefined ? null : `%${query.search.replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
  const isExact = sql`(item = ${exact} or coalesce(uid, '') = ${exact})`;
  const key = keys[query.order ?? 'time'];
  const way = query.descending ? sql`desc` : sql`asc`;
  const [emptyAfter, keyAfter, itemAfter, momentAfter] = after ?? [];
  const beyond = query.descending ? sql`<` : sql`>`;
  const later =
    after === null
      ? sql`true`
      : sql`(empty > ${emptyAfter === '1'} or (empty = ${emptyAfter === '1'} and (key ${beyond} ${keyAfter} or (key = ${keyAfter} and (item, moment) > (${itemAfter}, ${momentAfter})))))`;
  const { rows } = await app.db.execute<Row & { key: string; empty: boolean }>(sql`
    select * from (select *, ${key} as key, ${key} = '' as empty from (${itemRows(lane.id)}) i) i
    where (${like}::text is null or label ilike ${like} or item ilike ${like} or uid = ${exact})
      and (${after === null} or ${exact}::text is null or not ${isExact})
      and (${query.state ?? null}::text is null or state = ${query.state ?? null})
      and ${later}
    order by (${exact}::text is not null and ${isExact}) desc, empty, key ${way}, item, moment limit ${query.limit + 1}`);
  const shown = rows.slice(0, query.limit);
  const last = shown.at(-1);
  return {
    items: shown.map((row) => answer(row, lane.slug)),
    next:
      rows.length > query.limit && last !== undefined
        ? Buffer.from(JSON.stringify([last.empty ? '1' : '0', last.key, last.item, last.moment])).toString('base64url')
        : null,
  };
}

function readCursor(cursor: string | undefined): string[] | null {
  if (cursor === undefined) return null;
  try {
    const value = JSON.parse(Buffer.from(cursor, 'base64url').toString()) as unknown;
    if (Array.isArray(value) && value.length === 4 && value.every((v) => typeof v === 'string')) return value;
  } catch {
    // Falls through to the same answer as any other text that is no cursor.
  }
  throw new HttpProblem(422, 'The cursor does not fit', `"${cursor}" is not a cursor that this list gave; leave it out to begin at the start`);
}

/**
 * Finds an item by what a person has at hand: the record's id, also of one that was removed; the event's address or UID;
 * or words of the title.
 * @throws HttpProblem when there is more than one
 */
export async function findItem(app: App, lane: LaneRow, given: string, signal: AbortSignal): Promise<{ item: string; moment: string }> {
  const first = certain(lane.definition.moments[0], 'a lane has a moment').name;
  const [byId] = (
    await app.db.execute<{ item: string; moment: string }>(sql`
      select item, moment from (${itemRows(lane.id)}) i where item = ${given}
      union all select ${given}, moment from journal where lane = ${lane.id} and record_id = ${given}
      limit 1`)
  ).rows;
  if (byId !== undefined) return byId;
  const [byEvent] = await app.db
    .select()
    .from(pairs)
    .where(and(eq(pairs.lane, lane.id), sql`(${pairs.uid} = ${given} or ${pairs.href} = ${given} or ${pairs.id}::text = ${given})`))
    .orderBy(sql`${pairs.state} in ('unlinked', 'removed')`)
    .limit(1);
  if (byEvent !== undefined) return { item: byEvent.recordId ?? byEvent.href ?? given, moment: byEvent.moment };
  const { items } = await listItems(app, lane, { search: given, limit: 50 });
  const name = (i: ItemAnswer) => i.recordId ?? i.href ?? '';
  const [only] = items;
  if (only !== undefined && items.length === 1) return { item: name(only), moment: only.moment };
  if (items.length > 1) {
    const some = items
      .slice(0, 8)
      .map((i) => `${name(i)} (${i.label})`)
      .join(', ');
    throw new HttpProblem(
      409,
      'More than one item',
      `"${given}" fits ${items.length === 50 ? '50 or more' : items.length} items; give the id of one: ${some}${items.length > 8 ? ', ...' : ''}`,
    );
  }
  // Not known to the lane: the event may be there by its UID, or the record, for instance made a moment ago.
  const href = isInCalendar(lane, given) ? given : await hrefOfUid(app, lane, given, signal);
  return { item: href ?? given, moment: first };
}

const noItem = (lane: LaneRow, given: string): HttpProblem =>
  new HttpProblem(
    404,
    'No such item',
    `there is no item "${given}" in ${lane.definition.name}; give a record's id, a UID, an event's address or a title, as monsoon items ${lane.slug} --search WORDS finds them`,
  );

/** Both sides, for a look at a single item, which may be an occurrence of a series. */
async function openItems(app: App, lane: LaneRow, signal: AbortSignal): Promise<OpenWork> {
  return openWork({ ...(await openLane(app, lane)), store: runStore(app.db, lane.id, lane.version, noRun), signal });
}

async function hrefOfUid(app: App, lane: LaneRow, uid: string, signal: AbortSignal): Promise<string | null> {
  const { sides, context } = await openItems(app, lane, signal);
  const found = await attempt(async () => sides.calendars.withUid(lane.definition.calendar.calendar, uid, signal));
  return found.value?.find((e) => viewOf(e, context).read?.uid === uid)?.href ?? null;
}

/** The moments of a record, each with its state and, in short, why it is so. */
async function momentsOf(app: App, lane: LaneRow, record: RecordItem, context: LaneContext): Promise<ItemDetail['moments']> {
  const { rows } = await app.db.execute<Row>(sql`select * from (${itemRows(lane.id)}) i where record_id = ${record.id}`);
  return context.definition.moments.map((moment) => {
    const row = rows.find((r) => r.moment === moment.name);
    const shown = showAll(momentLinks(context, moment), record, context);
    const found = judgeRecord(context, record, moment, shown);
    const verdict = row?.reason == null ? found : { reason: row.reason, condition: row.condition, value: row.value };
    return {
      moment: moment.name,
      state: (row?.state ?? 'left out') as ItemAnswer['state'],
      when: (shown.values['when'] ?? row?.when ?? null) as ItemAnswer['when'],
      why: verdict === null ? '' : `${verdict.reason}: ${verdict.condition}; found ${verdict.value}`,
    };
  });
}

/**
 * Everything about one item: both sides as they are now, the baseline, its history, and why it is as it is.
 * @param whole for somebody who may see everything that the record holds, not only what the lane carries
 */
export async function itemDetail(
  app: App,
  lane: LaneRow,
  { item, moment }: { item: string; moment: string },
  { whole, signal }: { whole: boolean; signal: AbortSignal },
): Promise<ItemDetail> {
  const momentSpec = lane.definition.moments.find((m) => m.name === moment);
  if (momentSpec === undefined)
    throw notFound(
      'moment',
      moment,
      lane.definition.moments.map((m) => m.name),
    );
  const { rows } = await app.db.execute<Row>(sql`select * from (${itemRows(lane.id)}) i where item = ${item} and moment = ${moment}`);
  const row = rows[0];
  const eventAlone = row !== undefined ? row.record_id === null : isInCalendar(lane, item);
  const mine = (t: typeof pairs | typeof journal | typeof holds) =>
    and(eq(t.lane, lane.id), eq(t.moment, moment), eventAlone ? and(isNull(t.recordId), eq(t.href, item)) : eq(t.recordId, item));
  const [pair] = await app.db.select().from(pairs).where(mine(pairs));
  const [history, [hold]] = await Promise.all([
    app.db
      .select()
      .from(journal)
      // What was done before the event had its record is part of the story.
      .where(and(eq(journal.lane, lane.id), pair === undefined ? mine(journal) : or(mine(journal), eq(journal.pair, pair.id))))
      .orderBy(desc(journal.id))
      .limit(100),
    app.db
      .select()
      .from(holds)
      .where(and(mine(holds), eq(holds.state, 'open'))),
  ]);
  const work = await openItems(app, lane, signal);
  const { sides } = work;
  // Without the people that it refers to, an item still shows everything else.
  const context = (await attempt(() => withDirectories(work))).value ?? work.context;
  const record = eventAlone
    ? { value: null, trouble: null }
    : await attempt(() => sides.records.read(lane.definition.records.collection, item, signal));
  const href = eventAlone ? item : pair?.state === 'unlinked' ? null : (pair?.href ?? null);
  const event =
    href === null
      ? { value: null, trouble: null }
      : await attempt(async () => (await sides.calendars.read(lane.definition.calendar.calendar, [href], signal)).get(href) ?? null);
  if (row === undefined && record.value === null && event.value === null && history.length === 0) throw noItem(lane, item);
  const shown = record.value === null ? null : showAll(momentLinks(context, momentSpec), record.value, context);
  const view = event.value === null ? null : viewOf(event.value, context);
  const read = view?.read ?? null;
  const verdict =
    record.value !== null && shown !== null
      ? judgeRecord(context, record.value, momentSpec, shown)
      : view !== null && read !== null
        ? judgeEvent(context, view as EventView & { read: object }, false)
        : null;
  const label = shown === null ? (view === null ? (history[0]?.label ?? item) : nameOfEvent(view)) : labelOf(shown, item);
  const known: ItemAnswer =
    row !== undefined
      ? answer(row, lane.slug)
      : {
          lane: lane.slug,
          recordId: eventAlone ? null : item,
          href: eventAlone ? item : null,
          moment,
          label: history[0]?.label ?? label,
          state: 'left out',
          when: null,
          repeats: null,
          verdict: null,
          updatedAt: history[0]?.at ?? new Date().toISOString(),
        };
  const detail = {
    ...known,
    // The title as it is now, which may be another than the lane last saw.
    label: shown === null && view === null ? known.label : label,
    moments: record.value === null || lane.definition.moments.length < 2 ? [] : await momentsOf(app, lane, record.value, context),
    record: { url: record.value?.url ?? null, values: shown?.values ?? null, fields: record.value?.fields ?? null, trouble: record.trouble },
    event: {
      href,
      uid: pair?.uid ?? read?.uid ?? null,
      values: read === null ? null : mappedPart(read.values, { ...pair?.baseline?.event, ...shown?.values, ...(shown === null ? read.values : {}) }),
      trouble: event.trouble,
    },
    baseline: pair?.baseline ?? null,
    history: history.map((h) => journalAnswer(h, lane.slug)),
    hold: hold === undefined ? null : holdAnswer(hold, lane.slug),
    guests: pair === undefined ? [] : await guestsOfPair(app, pair.id),
    series: href === null || read === null ? null : (await attempt(() => seriesOfItem(app, work, href))).value,
  };
  const explained = {
    ...detail,
    ...explain(detail, {
      recordGone: !eventAlone && record.value === null && record.trouble === null,
      known: row !== undefined,
      lane: lane.definition,
      verdict,
      unjudged: record.value === null && read === null,
    }),
  };
  return whole ? explained : asShown(explained, (known.verdict ?? verdict)?.reason === 'private');
}

async function attempt<T>(read: () => Promise<T>): Promise<{ value: T | null; trouble: string | null }> {
  try {
    return { value: await read(), trouble: null };
  } catch (error) {
    if (error instanceof OutsideError) return { value: null, trouble: error.message };
    throw error;
  }
}

/** What those who do not arrange lanes see of an item: the fields that the lane carries; of a private item that is left out, nothing. */
function asShown(detail: ItemDetail, isPrivate: boolean): ItemDetail {
  const { record, event } = detail;
  if (!isPrivate) return { ...detail, record: { ...record, fields: null } };
  return {
    ...detail,
    label: detail.recordId ?? 'a private event',
    record: { ...record, url: null, values: null, fields: null },
    event: { ...event, values: null },
    baseline: null,
    history: [],
    moments: [],
    guests: [],
    series: null,
  };
}
