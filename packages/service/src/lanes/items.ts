import { type ItemAnswer, type ItemDetail, judge, mappedPart, type Page, type RecordItem, type When } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { and, desc, eq, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { HttpProblem, notFound } from '../http/problem.ts';
import { viewOf } from '../run/gather.ts';
import { holds, journal, pairs } from '../storage/schema.ts';
import { failureReasons, holdAnswer, journalAnswer } from './answers.ts';
import { type LaneRow, openLane } from './context.ts';
import { explain } from './why.ts';

interface Row extends Record<string, unknown> {
  record_id: string;
  moment: string;
  label: string;
  state: string;
  when: When | null;
  reason: string | null;
  condition: string;
  value: string;
  recheck_at: Date | null;
  since: Date;
  updated_at: Date;
}

/** Pairs and verdicts of a lane as one list. */
const itemRows = (lane: string) => sql`
  select coalesce(p.record_id, v.record_id) as record_id, coalesce(p.moment, v.moment) as moment,
         coalesce(nullif(v.label, ''), p.label) as label,
         case when v.reason in ${failureReasons} then 'failed' when p.state is null then 'left out' else p.state end as state,
         p.baseline->'record'->'when' as "when", v.reason, v.condition, v.value, v.recheck_at, v.at as since,
         greatest(p.updated_at, v.at) as updated_at
  from (select * from pairs where lane = ${lane} and state <> 'removed') p
  full join (select * from verdicts where lane = ${lane}) v on p.record_id = v.record_id and p.moment = v.moment`;

const iso = (value: Date | string | null): string | null => (value === null ? null : new Date(value).toISOString());

const answer = (row: Row, lane: string): ItemAnswer => ({
  lane,
  recordId: row.record_id,
  moment: row.moment,
  label: row.label,
  state: row.state as ItemAnswer['state'],
  when: row.when,
  verdict:
    row.reason === null
      ? null
      : { reason: row.reason as never, condition: row.condition, value: row.value, recheckAt: iso(row.recheck_at), at: iso(row.since)! },
  updatedAt: iso(row.updated_at)!,
});

export interface ItemQuery {
  search?: string | undefined;
  state?: string | undefined;
  cursor?: string | undefined;
  limit: number;
}

/** Items in the order of their titles. The cursor is the last item of the page before. */
export async function listItems(app: App, lane: LaneRow, query: ItemQuery): Promise<Page<ItemAnswer>> {
  const after = readCursor(query.cursor);
  const like = query.search === undefined ? null : `%${query.search.replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
  const { rows } = await app.db.execute<Row>(sql`
    select * from (${itemRows(lane.id)}) i
    where (${like}::text is null or label ilike ${like} or record_id ilike ${like})
      and (${query.state ?? null}::text is null or state = ${query.state ?? null})
      and (${after === null} or (label, record_id, moment) > (${after?.[0] ?? ''}, ${after?.[1] ?? ''}, ${after?.[2] ?? ''}))
    order by label, record_id, moment limit ${query.limit + 1}`);
  const items = rows.slice(0, query.limit).map((row) => answer(row, lane.slug));
  const last = items.at(-1);
  return {
    items,
    next:
      rows.length > query.limit && last !== undefined
        ? Buffer.from(JSON.stringify([last.label, last.recordId, last.moment])).toString('base64url')
        : null,
  };
}

function readCursor(cursor: string | undefined): string[] | null {
  if (cursor === undefined) return null;
  try {
    const value = JSON.parse(Buffer.from(cursor, 'base64url').toString()) as unknown;
    if (Array.isArray(value) && value.length === 3 && value.every((v) => typeof v === 'string')) return value;
  } catch {
    // Falls through to the same answer as any other text that is no cursor.
  }
  throw new HttpProblem(422, 'The cursor does not fit', `"${cursor}" is not a cursor that this list gave; leave it out to begin at the start`);
}

/**
 * Finds an item by what a person has at hand: the record's id, the event's address or UID, or words of the title.
 * @throws HttpProblem when there is none, or more than one
 */
export async function findItem(app: App, lane: LaneRow, given: string): Promise<{ recordId: string; moment: string }> {
  const [exact] = await app.db
    .select()
    .from(pairs)
    .where(and(eq(pairs.lane, lane.id), sql`(${pairs.uid} = ${given} or ${pairs.href} = ${given} or ${pairs.id}::text = ${given})`));
  if (exact !== undefined) return exact;
  const { items } = await listItems(app, lane, { search: given, limit: 50 });
  const byId = items.filter((i) => i.recordId === given);
  if (byId.length > 0) return byId[0]!;
  if (items.length === 1) return items[0]!;
  if (items.length > 1) {
    const some = items
      .slice(0, 8)
      .map((i) => `${i.recordId} (${i.label})`)
      .join(', ');
    throw new HttpProblem(
      409,
      'More than one item',
      `"${given}" fits ${items.length === 50 ? '50 or more' : items.length} items; give the id of one: ${some}${items.length > 8 ? ', ...' : ''}`,
    );
  }
  // Not known to the lane: the record may still be there, for instance made a moment ago.
  return { recordId: given, moment: lane.definition.moments[0]!.name };
}

/** Everything about one item: both sides as they are now, the baseline, its history, and why it is as it is. */
export async function itemDetail(app: App, lane: LaneRow, recordId: string, moment: string, signal: AbortSignal): Promise<ItemDetail> {
  const momentSpec = lane.definition.moments.find((m) => m.name === moment);
  if (momentSpec === undefined)
    throw notFound(
      'moment',
      moment,
      lane.definition.moments.map((m) => m.name),
    );
  const mine = (t: typeof pairs | typeof journal | typeof holds) => and(eq(t.lane, lane.id), eq(t.recordId, recordId), eq(t.moment, moment));
  const { rows } = await app.db.execute<Row>(sql`select * from (${itemRows(lane.id)}) i where record_id = ${recordId} and moment = ${moment}`);
  const [[pair], history, [hold]] = await Promise.all([
    app.db.select().from(pairs).where(mine(pairs)),
    app.db.select().from(journal).where(mine(journal)).orderBy(desc(journal.id)).limit(100),
    app.db
      .select()
      .from(holds)
      .where(and(mine(holds), eq(holds.state, 'open'))),
  ]);
  const { context, sides } = await openLane(app, lane);
  const record = await attempt(() => sides.records.read(lane.definition.records.collection, recordId, signal));
  const href = pair?.state === 'parted' ? null : (pair?.href ?? null);
  const event =
    href === null
      ? { value: null, trouble: null }
      : await attempt(async () => (await sides.calendars.read(lane.definition.calendar.calendar, [href], signal)).get(href) ?? null);
  const row = rows[0];
  if (row === undefined && record.value === null && history.length === 0) throw notFound('item', recordId);
  const judged = record.value === null ? null : judge(context, record.value as RecordItem, momentSpec);
  const read = event.value === null ? null : viewOf(event.value, context).read;
  const values = judged?.belongs === true ? judged.values : null;
  const known: ItemAnswer =
    row !== undefined
      ? answer(row, lane.slug)
      : {
          lane: lane.slug,
          recordId,
          moment,
          label: history[0]?.label ?? (judged?.belongs === false ? judged.label : (values?.title ?? recordId)),
          state: 'left out',
          when: null,
          verdict: null,
          updatedAt: history[0]?.at ?? new Date().toISOString(),
        };
  const detail = {
    ...known,
    record: { url: record.value?.url ?? null, values, fields: record.value?.fields ?? null, trouble: record.trouble },
    event: {
      href,
      uid: pair?.uid ?? null,
      values: read === null ? null : mappedPart(read.values, pair?.baseline?.record ?? values ?? {}),
      trouble: event.trouble,
    },
    baseline: pair?.baseline ?? null,
    history: history.map((h) => journalAnswer(h, lane.slug)),
    hold: hold === undefined ? null : holdAnswer(hold, lane.slug),
  };
  return {
    ...detail,
    ...explain(detail, { recordGone: record.value === null && record.trouble === null, known: row !== undefined, lane: lane.definition, judged }),
  };
}

async function attempt<T>(read: () => Promise<T>): Promise<{ value: T | null; trouble: string | null }> {
  try {
    return { value: await read(), trouble: null };
  } catch (error) {
    if (error instanceof OutsideError) return { value: null, trouble: error.message };
    throw error;
  }
}
