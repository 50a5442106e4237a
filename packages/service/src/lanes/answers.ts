import type { ForecastAnswer, HoldAnswer, JournalAnswer, LaneAnswer, LaneLine, RunAnswer } from '@monsoon/contract';
import { certain, failureReasons, holdChoices, type Operation } from '@monsoon/core';
import { and, count, eq, getTableColumns, gt, inArray, isNotNull, ne, type SQL, sql } from 'drizzle-orm';
import type { PgColumn } from 'drizzle-orm/pg-core';
import type { App } from '../app.ts';
import { holds, journal, laneCounts, lanes, people, runs, systems, verdicts } from '../storage/schema.ts';
import { definitionOf, type LaneRow } from './context.ts';

/** Lanes with their numbers, for pages: a few queries however many lanes there are. */
export async function laneAnswers(app: App, rows: LaneRow[]): Promise<LaneAnswer[]> {
  const lines = await withNumbers(app, rows);
  return rows.map((lane, i) => ({ ...certain(lines[i], 'each lane has its line'), definition: definitionOf(lane) }));
}

/** Every lane as a line of a list: 200 definitions would be most of the answer, and of the time. */
export async function laneLines(app: App): Promise<LaneLine[]> {
  const { definition: _whole, ...columns } = getTableColumns(lanes);
  const part = <T>(path: SQL) => sql<T>`${lanes.definition} ${path}`;
  const rows = await app.db
    .select({
      ...columns,
      name: part<string>(sql`->> 'name'`),
      direction: part<LaneLine['definition']['direction']>(sql`->> 'direction'`),
      collection: part<string>(sql`#>> '{records,collection}'`),
    })
    .from(lanes)
    .orderBy(lanes.slug);
  return withNumbers(
    app,
    rows.map(({ name, direction, collection, ...row }) => ({ ...row, definition: { name, direction, records: { collection } } })),
  );
}

/** What a line is made of. */
type LineRow = Omit<LaneRow, 'definition'> & { definition: Pick<LaneRow['definition'], 'name' | 'direction'> & { records: { collection: string } } };

async function withNumbers(app: App, rows: LineRow[]): Promise<LaneLine[]> {
  if (rows.length === 0) return [];
  const ids = rows.map((r) => r.id);
  const [names, owners, paired, judged, held, last, delays] = await Promise.all([
    app.db.select({ id: systems.id, name: systems.name }).from(systems),
    app.db.select({ id: people.id, email: people.email }).from(people),
    app.db.select().from(laneCounts).where(isOneOf(laneCounts.lane, ids)),
    app.db
      .select({ lane: verdicts.lane, reason: verdicts.reason, n: count() })
      .from(verdicts)
      .where(isOneOf(verdicts.lane, ids))
      .groupBy(verdicts.lane, verdicts.reason),
    app.db
      .select({ lane: holds.lane, n: count() })
      .from(holds)
      .where(and(isOneOf(holds.lane, ids), eq(holds.state, 'open')))
      .groupBy(holds.lane),
    lastRuns(app, ids),
    delaysOf(app, ids),
  ]);
  const systemName = (id: string) => names.find((n) => n.id === id)?.name ?? '';
  const sum = (lane: string, failed: boolean) =>
    judged.filter((j) => j.lane === lane && failureReasons.includes(j.reason) === failed).reduce((n, j) => n + j.n, 0);
  return rows.map((lane) => {
    const { name, direction, records } = lane.definition;
    const run = last.find((r) => r.lane === lane.id);
    return {
      id: lane.id,
      slug: lane.slug,
      version: lane.version,
      state: lane.state,
      owner: owners.find((p) => p.id === lane.owner)?.email ?? null,
      definition: { name, direction },
      recordsName: `${systemName(lane.recordsSystem)}: ${records.collection}`,
      calendarName: `${systemName(lane.calendarSystem)}: ${lane.calendarName}`,
      pairs: paired.find((p) => p.lane === lane.id)?.pairs ?? 0,
      leftOut: sum(lane.id, false),
      failed: sum(lane.id, true),
      holds: held.find((h) => h.lane === lane.id)?.n ?? 0,
      trouble: lane.trouble,
      failures: lane.failures,
      lastRunAt: lane.lastRunAt,
      nextRunAt: lane.nextRunAt,
      lastRun: run === undefined ? null : runAnswer(run, lane),
      delay: delays.get(lane.id) ?? null,
    };
  });
}

/** One parameter however many there are: hundreds of them cost more than the query. */
const isOneOf = (column: PgColumn, ids: string[]) => sql`${column} = any(${sql.param(ids)}::uuid[])`;

/** The last run of each lane, each found by the index: of thousands of runs, all but one are passed over. */
async function lastRuns(app: App, lanes: string[]): Promise<(typeof runs.$inferSelect)[]> {
  const last = sql`array(select (select r.id from runs r where r.lane = l.id order by r.created_at desc, r.id desc limit 1) from unnest(${sql.param(lanes)}::uuid[]) l(id))`;
  return app.db.select().from(runs).where(sql`${runs.id} = any(${last})`);
}

/**
 * From an edit to its arrival on the other side, in seconds, over the last day: median and 95th percentile. Edits of
 * which the system tells the time, and that crossed by themselves: what a sweep carries over, or what waited for a
 * person's answer, may be of any age.
 */
async function delaysOf(app: App, lanes: string[]): Promise<Map<string, { median: number; most: number; count: number }>> {
  const rows = await app.db
    .select({
      lane: journal.lane,
      found: sql<
        [number, number]
      >`percentile_cont(array[0.5, 0.95]) within group (order by greatest(0, extract(epoch from ${journal.at} - ${journal.changedAt})))`,
      n: count(),
    })
    .from(journal)
    .innerJoin(runs, eq(runs.id, journal.run))
    .where(
      and(
        isOneOf(journal.lane, lanes),
        isNotNull(journal.changedAt),
        gt(journal.at, sql`now() - interval '1 day'`),
        inArray(runs.cause, ['notice', 'check']),
        ne(runs.scope, 'sweep'),
        ne(journal.kind, 'adopt'),
      ),
    )
    .groupBy(journal.lane);
  const tenths = (seconds: number) => Math.round(seconds * 10) / 10;
  return new Map(rows.map((r) => [r.lane, { median: tenths(r.found[0]), most: tenths(r.found[1]), count: r.n }]));
}

export const runAnswer = (run: typeof runs.$inferSelect, lane: { slug: string; definition: { name: string } }): RunAnswer => ({
  id: run.id,
  lane: lane.slug,
  laneName: lane.definition.name,
  laneVersion: run.laneVersion,
  cause: run.cause,
  scope: run.scope,
  state: run.state,
  reason: run.reason,
  counts: run.counts,
  planned: run.planned,
  done: run.done,
  startedAt: run.startedAt,
  endedAt: run.endedAt,
  createdAt: run.createdAt,
});

export const journalAnswer = (entry: typeof journal.$inferSelect, lane: string): JournalAnswer => ({
  id: entry.id,
  run: entry.run,
  lane,
  recordId: entry.recordId,
  href: entry.href,
  moment: entry.moment,
  label: entry.label,
  kind: entry.kind,
  cause: entry.cause,
  changes: entry.changes,
  notes: entry.notes,
  removed: entry.removed,
  laneVersion: entry.laneVersion,
  at: entry.at,
});

export const holdAnswer = (hold: typeof holds.$inferSelect, lane: string): HoldAnswer => ({
  id: hold.id,
  lane,
  recordId: hold.recordId,
  href: hold.href,
  moment: hold.moment,
  label: hold.label,
  question: hold.question,
  choices: hold.choices.length > 0 ? hold.choices : [...holdChoices[hold.question]],
  cause: hold.cause,
  record: hold.record,
  event: hold.event,
  baseline: hold.baseline,
  candidates: hold.candidates,
  state: hold.state,
  choice: hold.choice,
  createdAt: hold.createdAt,
});

export async function openHolds(
  app: App,
  { lane, after, limit }: { lane?: string | undefined; after?: string | undefined; limit: number },
): Promise<HoldAnswer[]> {
  const [at, id] = after?.split(' ') ?? [];
  const rows = await app.db
    .select({ hold: holds, lane: lanes.slug })
    .from(holds)
    .innerJoin(lanes, eq(lanes.id, holds.lane))
    .where(
      and(
        eq(holds.state, 'open'),
        lane === undefined ? undefined : eq(holds.lane, lane),
        after === undefined ? undefined : sql`(date_trunc('milliseconds', ${holds.createdAt}), ${holds.id}) > (${at}::timestamptz, ${id}::uuid)`,
      ),
    )
    .orderBy(sql`date_trunc('milliseconds', ${holds.createdAt})`, holds.id)
    .limit(limit);
  return rows.map((r) => holdAnswer(r.hold, r.lane));
}

/** An operation as it would be done, for forecasts. */
export const operationAnswer = ({ kind, pair, cause, changes, notes, notices }: Operation): ForecastAnswer['operations'][number] => ({
  kind,
  recordId: pair.recordId,
  href: pair.href,
  moment: pair.moment,
  label: pair.label,
  cause,
  changes,
  notes,
  notices: notices.map(({ email, name, method, why }) => ({ email, name, method, why })),
});
