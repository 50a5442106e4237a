import { randomUUID } from 'node:crypto';
import type { Pair } from '@monsoon/core';
import { certain } from '@monsoon/core';
import { and, asc, count, eq, gt, inArray, isNotNull, isNull, lte, notInArray, or, type SQL, sql } from 'drizzle-orm';
import type { AnyPgColumn } from 'drizzle-orm/pg-core';
import type { Entry, JudgedItem, PairQuery, RunStore, Waiting } from '../run/store.ts';
import type { Database, Transaction } from './database.ts';
import { checkFence } from './fences.ts';
import { knownGuests, mailsToday } from './guests-of.ts';
import { oneRow } from './one-row.ts';
import { cursors, holds, intents, pairs, runs, sweptEvents, sweptRecords, verdicts } from './schema.ts';
import { seriesOf } from './series-of.ts';
import { writeBatch } from './write-batch.ts';

/** Rows read or written by one statement. */
const ROWS = 5000;
const PAGE = 500;
/** Milliseconds between two reports of how far a run is. */
const REPORT_EVERY = 1000;

/** One parameter for the whole list: building a statement with one for each value takes longer than running it. */
const among = (column: AnyPgColumn, wanted: string[]): SQL => sql`${column} = any(${sql.param(wanted)}::${sql.raw(column.getSQLType())}[])`;

type Row = typeof pairs.$inferSelect;
const toPair = ({ lane: _lane, updatedAt: _updatedAt, firstDay: _firstDay, lastDay: _lastDay, recurrence: _recurrence, ...pair }: Row): Pair => pair;
const unfinished = certain(and(isNull(pairs.recordId), inArray(pairs.state, ['creating', 'unconfirmed', 'held'])), 'two conditions make one');

/** Questions of a lane that ask which of several events is a record's own, until they are carried out. */
export const asksWhichEvent = (lane: string): SQL | undefined =>
  and(eq(holds.lane, lane), eq(holds.question, 'several candidates'), isNotNull(holds.recordId), inArray(holds.state, ['open', 'settled']));

/** Where, and under which settings, a question is put to the database. */
type Reading = <T>(work: (on: Database | Transaction) => Promise<T>) => Promise<T>;

/** The run whose memory it is. */
export interface RunAtHand {
  id: string;
  /** comes before anything is done in its name */
  begin(): Promise<void>;
  /** shows how far it is. Throws what is to end it */
  progressed(): Promise<void>;
  /** throws when another process may have taken over */
  checkLease(): void;
  /** the number of the lane's turn, which each write bears; null: it only reads */
  fence: number | null;
}
/** For callers that only read. */
export const noRun: RunAtHand = {
  id: '',
  begin: async () => undefined,
  progressed: async () => undefined,
  checkLease: () => undefined,
  fence: null,
};

/** The memory of one run of a lane, in PostgreSQL. */
export function runStore(db: Database, lane: string, version: number, run: RunAtHand): RunStore {
  const mine = eq(pairs.lane, lane);
  let reported = Date.now();
  const select = async (where: SQL) => (await db.select().from(pairs).where(and(mine, where))).map(toPair);
  const selectIn = async (column: typeof pairs.recordId | typeof pairs.href | typeof pairs.uid | typeof pairs.id, wanted: string[]) => {
    const found: Pair[] = [];
    for (let at = 0; at < wanted.length; at += ROWS) found.push(...(await select(among(column, wanted.slice(at, at + ROWS)))));
    return found;
  };
  /** Page by page in the order of their ids, so that what a run changes in between is no matter. */
  async function* pagesOf(where: SQL | undefined, reading: Reading = (work) => work(db)): AsyncIterable<Pair[]> {
    for (let last: string | null = null; ; ) {
      const rows: Row[] = await reading((on) =>
        on
          .select()
          .from(pairs)
          .where(and(mine, where, last === null ? undefined : gt(pairs.id, last)))
          .orderBy(asc(pairs.id))
          .limit(PAGE),
      );
      if (rows.length > 0) yield rows.map(toPair);
      if (rows.length < PAGE) return;
      last = certain(rows.at(-1), 'the page has rows').id;
    }
  }
  const judgedPages = (where: SQL | undefined, reading?: Reading) => judgedItems(db, lane, where, reading);
  const items = (rows: { recordId: string; href: string }[]) => ({
    records: [...new Set(rows.flatMap((r) => (r.recordId === '' ? [] : [r.recordId])))],
    hrefs: [...new Set(rows.flatMap((r) => (r.recordId === '' ? [r.href] : [])))],
  });

  return {
    async cursors() {
      const rows = await db.select().from(cursors).where(eq(cursors.lane, lane));
      const of = (side: 'records' | 'calendar') => rows.find((r) => r.side === side)?.cursor ?? null;
      return { records: of('records'), calendar: of('calendar') };
    },
    async waiting(now) {
      const asked = sql`h.question = 'several candidates' and h.record_id is not null and h.state in ('open', 'settled')`;
      const { rows } = await db.execute<Record<keyof Waiting, boolean>>(sql`select
        exists (select from pairs p where p.lane = ${lane} and p.record_id is null and p.state in ('creating', 'unconfirmed', 'held')) as unfinished,
        exists (select from pairs p where p.lane = ${lane} and p.state = 'creating') as creating,
        exists (select from verdicts v where v.lane = ${lane} and v.recheck_at <= ${now}) as due,
        exists (select from holds h where h.lane = ${lane} and h.state = 'settled' and h.choice is not null) as settled,
        exists (select from holds h where h.lane = ${lane} and ${asked}) as candidates`);
      return oneRow(rows);
    },
    async moveCursors(moved) {
      const sides = (['records', 'calendar'] as const).map((side) => ({ lane, side, cursor: moved[side] }));
      const lost = sides.filter((s) => s.cursor === null).map((s) => s.side);
      const known = sides.flatMap((s) => (typeof s.cursor === 'string' ? [{ ...s, cursor: s.cursor }] : []));
      await db.transaction(async (tx) => {
        if (run.fence !== null) await checkFence(tx, lane, run.fence);
        if (lost.length > 0) await tx.delete(cursors).where(and(eq(cursors.lane, lane), inArray(cursors.side, lost)));
        if (known.length > 0)
          await tx
            .insert(cursors)
            .values(known)
            .onConflictDoUpdate({ target: [cursors.lane, cursors.side], set: { cursor: sql`excluded.cursor`, movedAt: sql`now()` } });
      });
    },
    checkLease: () => run.checkLease(),
    async pairs(which: PairQuery) {
      if ('unfinished' in which) return select(unfinished);
      if ('states' in which) return select(inArray(pairs.state, which.states));
      if ('records' in which) return selectIn(pairs.recordId, which.records);
      if ('hrefs' in which) return selectIn(pairs.href, which.hrefs);
      if ('objects' in which) {
        const part = sql`strpos(${pairs.href}, '#') > 0 and split_part(${pairs.href}, '#', 1) = any(${sql.param(which.objects)}::text[])`;
        return [...(await selectIn(pairs.href, which.objects)), ...(await select(part))];
      }
      return 'uids' in which ? selectIn(pairs.uid, which.uids) : selectIn(pairs.id, which.ids);
    },
    allPairs: () => pagesOf(undefined),
    async countPairs(atMost) {
      const followed = db
        .select({ id: pairs.id })
        .from(pairs)
        .where(and(mine, notInArray(pairs.state, ['unlinked', 'removed'])));
      const counted = atMost === undefined || !Number.isFinite(atMost) ? followed : followed.limit(atMost);
      const [row] = await db.select({ n: count() }).from(counted.as('followed'));
      return row?.n ?? 0;
    },
    async due(now) {
      return items(
        await db
          .select({ recordId: verdicts.recordId, href: verdicts.href })
          .from(verdicts)
          .where(and(eq(verdicts.lane, lane), lte(verdicts.recheckAt, now))),
      );
    },
    async setAside() {
      return items(
        await db
          .select({ recordId: verdicts.recordId, href: verdicts.href })
          .from(verdicts)
          .where(and(eq(verdicts.lane, lane), inArray(verdicts.reason, ['refused by the system', 'duplicate UID']))),
      );
    },
    async attempts({ recordId, href, moment }) {
      const [row] = await db
        .select({ count: verdicts.attempts, recheckAt: verdicts.recheckAt })
        .from(verdicts)
        .where(
          and(
            eq(verdicts.lane, lane),
            eq(verdicts.recordId, recordId ?? ''),
            eq(verdicts.href, recordId === null ? (href ?? '') : ''),
            eq(verdicts.moment, moment),
          ),
        );
      return row ?? { count: 0, recheckAt: null };
    },
    judged: () => judgedPages(undefined),
    async holds(which) {
      const asked =
        which === 'settled'
          ? and(eq(holds.lane, lane), eq(holds.state, 'settled'), isNotNull(holds.choice))
          : which === 'several candidates'
            ? asksWhichEvent(lane)
            : and(inArray(holds.pair, which.pairs), inArray(holds.state, ['open', 'settled']));
      if (typeof which === 'object' && which.pairs.length === 0) return [];
      const rows = await db.select().from(holds).where(asked).orderBy(asc(holds.createdAt));
      return rows.map((r) => ({
        pair: r.pair,
        recordId: r.recordId,
        href: r.href,
        question: r.question,
        asked: r.asked,
        choices: r.choices,
        choice: r.state === 'settled' ? r.choice : null,
      }));
    },
    async write(batch) {
      // A new version of a record that says the same is no work, and not worth an entry among the runs.
      if (batch.entries !== undefined || batch.intents !== undefined || batch.pairs?.some((p) => p.state === 'creating')) await run.begin();
      await db.transaction(async (tx) => {
        if (run.fence !== null) await checkFence(tx, lane, run.fence);
        await writeBatch(tx, lane, version, run.id, batch);
      });
    },
    guests: (of) => knownGuests(db, of),
    mailsToday: (emails) => mailsToday(db, emails),
    async intents() {
      const rows = await db.select().from(intents).where(eq(intents.lane, lane)).orderBy(asc(intents.id));
      return rows.map((r) => r.entry as Entry);
    },
    async progress(counts, planned, done) {
      // A short run is over before anybody could look; its end says the same.
      if (Date.now() - reported < REPORT_EVERY) return;
      reported = Date.now();
      await db.update(runs).set({ counts, planned, done }).where(eq(runs.id, run.id));
      await run.progressed();
    },
    ...seriesOf(db, lane, run),
    ...sweeps(db, lane, pagesOf, judgedPages),
  };
}

/** Page by page in the order of their names, so that what a run changes in between is no matter. */
async function* judgedItems(db: Database, lane: string, where: SQL | undefined, reading: Reading = (work) => work(db)): AsyncIterable<JudgedItem[]> {
  const { recordId, href, moment, label } = verdicts;
  for (let last: JudgedItem | null = null; ; ) {
    const after: SQL | undefined =
      last === null ? undefined : sql`(${recordId}, ${href}, ${moment}) > (${last.recordId ?? ''}, ${last.href ?? ''}, ${last.moment})`;
    const rows = await reading((on) =>
      on
        .select({ recordId, href, moment, label })
        .from(verdicts)
        .where(and(eq(verdicts.lane, lane), where, after))
        .orderBy(asc(recordId), asc(href), asc(moment))
        .limit(PAGE),
    );
    const page: JudgedItem[] = rows.map((r) => ({ ...r, recordId: r.recordId === '' ? null : r.recordId, href: r.recordId === '' ? r.href : null }));
    if (page.length > 0) yield page;
    if (page.length < PAGE) return;
    last = certain(page.at(-1), 'the page has rows');
  }
}

type Sweeps = Pick<
  RunStore,
  'beginSweep' | 'endSweep' | 'stageEvents' | 'stageRecords' | 'listed' | 'unlistedPairs' | 'staleVerdicts' | 'unknownEvents' | 'countListed'
>;

/** What a sweep found listed is put beside the pairs, and the database says what is missing on either side. */
function sweeps(
  db: Database,
  lane: string,
  pagesOf: (where: SQL | undefined, reading: Reading) => AsyncIterable<Pair[]>,
  judgedPages: (where: SQL | undefined, reading: Reading) => AsyncIterable<JudgedItem[]>,
): Sweeps {
  const sweep = randomUUID();
  /**
   * The tables of a sweep were just filled and have no statistics, so the planner may choose a nested loop over millions of
   * rows. Without nested loops it uses hash or merge joins, which stay fast at any size.
   */
  const bySets: Reading = (work) =>
    db.transaction(async (tx) => {
      await tx.execute(sql`set local enable_nestloop = off`);
      return work(tx);
    });
  let counted = false;
  return {
    async beginSweep() {
      await db.execute(sql`delete from swept_events where begun_at < now() - interval '1 day'`);
      await db.execute(sql`delete from swept_records where begun_at < now() - interval '1 day'`);
    },
    async endSweep() {
      await db.delete(sweptEvents).where(eq(sweptEvents.sweep, sweep));
      await db.delete(sweptRecords).where(eq(sweptRecords.sweep, sweep));
    },
    async stageEvents(events) {
      const rows = JSON.stringify(events);
      if (events.length > 0)
        await db.execute(
          sql`insert into swept_events (sweep, href, etag) select ${sweep}::uuid, e.href, e.etag from jsonb_to_recordset(${rows}::jsonb) as e(href text, etag text) on conflict (sweep, href) do update set etag = excluded.etag`,
        );
    },
    async stageRecords(ids) {
      const rows = JSON.stringify(ids);
      if (ids.length > 0)
        await db.execute(
          sql`insert into swept_records (sweep, id) select ${sweep}::uuid, i from jsonb_array_elements_text(${rows}::jsonb) as i on conflict do nothing`,
        );
    },
    async listed(hrefs) {
      // Without statistics a fresh table is read whole for every question about it.
      if (!counted) await db.execute(sql`analyze swept_events`);
      counted = true;
      const found = new Map<string, string | null>();
      for (let at = 0; at < hrefs.length; at += ROWS) {
        const rows = await db
          .select()
          .from(sweptEvents)
          .where(and(eq(sweptEvents.sweep, sweep), among(sweptEvents.href, hrefs.slice(at, at + ROWS))));
        for (const row of rows) found.set(row.href, row.etag);
      }
      return found;
    },
    unlistedPairs: () =>
      pagesOf(
        and(
          isNotNull(pairs.recordId),
          notInArray(pairs.state, ['unlinked', 'removed']),
          sql`not exists (select from swept_records s where s.sweep = ${sweep} and s.id = ${pairs.recordId})`,
        ),
        bySets,
      ),
    staleVerdicts: () =>
      judgedPages(
        or(
          and(
            sql`${verdicts.recordId} <> ''`,
            sql`not exists (select from swept_records s where s.sweep = ${sweep} and s.id = ${verdicts.recordId})`,
          ),
          and(eq(verdicts.recordId, ''), sql`not exists (select from swept_events s where s.sweep = ${sweep} and s.href = ${verdicts.href})`),
        ),
        bySets,
      ),
    async *unknownEvents() {
      for (let last = ''; ; ) {
        const rows: { href: string }[] = await bySets((on) =>
          on
            .select({ href: sweptEvents.href })
            .from(sweptEvents)
            .where(
              and(
                eq(sweptEvents.sweep, sweep),
                gt(sweptEvents.href, last),
                sql`not exists (select from pairs p where p.lane = ${lane} and p.href = ${sweptEvents.href})`,
              ),
            )
            .orderBy(asc(sweptEvents.href))
            .limit(PAGE),
        );
        if (rows.length > 0) yield rows.map((r) => r.href);
        if (rows.length < PAGE) return;
        last = certain(rows.at(-1), 'the page has rows').href;
      }
    },
    async countListed() {
      const [row] = await db
        .select({
          events: count(),
          unknown:
            sql<number>`count(*) filter (where not exists (select from pairs p where p.lane = ${lane} and p.href = swept_events.href and p.state not in ('unlinked', 'removed')))`.mapWith(
              Number,
            ),
        })
        .from(sweptEvents)
        .where(eq(sweptEvents.sweep, sweep));
      const stood = and(eq(pairs.lane, lane), inArray(pairs.state, ['in sync', 'held']), isNotNull(pairs.href), isNotNull(pairs.recordId));
      const [both] = await db
        .select({
          standing: count(),
          there:
            sql<number>`count(*) filter (where split_part(pairs.href, '#', 1) in (select split_part(s.href, '#', 1) from swept_events s where s.sweep = ${sweep}))`.mapWith(
              Number,
            ),
        })
        .from(pairs)
        .where(stood);
      return { ...(row ?? { events: 0, unknown: 0 }), ...(both ?? { standing: 0, there: 0 }) };
    },
  };
}
