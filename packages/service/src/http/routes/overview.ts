import { healthAnswerShape, type ItemAnswer, type LaneLine, todayShape } from '@monsoon/contract';
import { failureReasons } from '@monsoon/core';
import { and, count, desc, eq, gt, inArray, isNotNull, or, type SQL, sql } from 'drizzle-orm';
import { type App, VERSION } from '../../app.ts';
import { pausedEverything } from '../../jobs/everything.ts';
import { isOverdue, OVERDUE } from '../../jobs/watchdog.ts';
import { journalAnswer, laneLines, openHolds, runAnswer } from '../../lanes/answers.ts';
import { oneRow } from '../../storage/one-row.ts';
import { guests, journal, lanes, runs, systems, verdicts } from '../../storage/schema.ts';
import type { SystemRow } from '../../systems/registry.ts';
import { type AnyRoute, route } from '../route.ts';

/** Which systems a lane needs. */
interface Needs {
  slug: string;
  state: 'running' | 'paused';
  systems: string[];
}

function lapsedNotice(system: SystemRow, needs: readonly Needs[]): string {
  const lanes = needs.filter((l) => l.state === 'running' && l.systems.includes(system.id)).map((l) => l.slug);
  const rest = lanes.length === 0 ? '' : `; until they are renewed, ${lanes.join(', ')} ${lanes.length === 1 ? 'is' : 'are'} paused`;
  return `its credentials are no longer accepted${rest}. ${system.lapsedReason ?? ''}`;
}

/** Is its run due for so long that the watchdog has said so? */
const isLate = ({ state, nextRunAt }: LaneLine): boolean =>
  state === 'running' && nextRunAt !== null && Date.parse(nextRunAt) < Date.now() - OVERDUE * 60_000;

/** Runs that the guard holds: until a later run is done, whatever is under way at this moment. */
const stillHeld = and(
  eq(runs.state, 'held'),
  sql`not exists (select from runs later where later.lane = ${runs.lane} and later.created_at > ${runs.createdAt} and later.state = 'done')`,
);

/** No lane stands still, and no job was given up lately: one of a process that was killed long ago says nothing of today. */
const jobsAreWell = sql`select not exists (select from lanes where ${isOverdue})
  and not exists (select from graphile_worker.jobs where attempts >= max_attempts and locked_at is null and updated_at > now() - interval '1 hour') as well`;

/** How much was written in each of the last 24 hours, by lane; one row for each lane, however much it is. */
async function writesByHour(app: App, writes: SQL | undefined): Promise<Map<string, number[]>> {
  // An entry of the first second of the day is of its first hour.
  const hours = app.db
    .select({
      lane: journal.lane,
      hour: sql<number>`greatest(0, 23 - floor(extract(epoch from now() - ${journal.at}) / 3600))::int`.as('hour'),
      n: count().as('n'),
    })
    .from(journal)
    .where(writes)
    .groupBy(journal.lane, sql`2`)
    .as('hours');
  const rows = await app.db
    .select({ lane: hours.lane, counts: sql<Record<string, number>>`json_object_agg(${hours.hour}, ${hours.n})` })
    .from(hours)
    .groupBy(hours.lane);
  return new Map(rows.map(({ lane, counts }) => [lane, Array.from({ length: 24 }, (_, hour) => counts[hour] ?? 0)]));
}

/** What needs a person, how every lane does, what crossed in the last day; and the service's own health. */
export const overviewRoutes = (app: App): AnyRoute[] => [
  route({ method: 'get', path: '/today', summary: 'What needs attention now', may: 'read', answer: todayShape }, async () => {
    const day = new Date(Date.now() - 86_400_000).toISOString();
    const writes = and(gt(journal.at, day), inArray(journal.kind, ['create', 'create record', 'change', 'remove', 'remove record', 'adopt']));
    const [all, held, failed, crossed, ailing, waiting, paused, hourly, needs, unsent] = await Promise.all([
      laneLines(app),
      openHolds(app, { limit: 500 }),
      app.db
        .select({ v: verdicts, lane: lanes.slug })
        .from(verdicts)
        .innerJoin(lanes, eq(lanes.id, verdicts.lane))
        .where(inArray(verdicts.reason, [...failureReasons]))
        .orderBy(desc(verdicts.at))
        .limit(100),
      app.db
        .select({ journal, lane: lanes.slug })
        .from(journal)
        .innerJoin(lanes, eq(lanes.id, journal.lane))
        .where(writes)
        .orderBy(desc(journal.id))
        .limit(20),
      app.db
        .select()
        .from(systems)
        .where(or(eq(systems.healthState, 'failing'), isNotNull(systems.lapsedAt))),
      app.db.select().from(runs).innerJoin(lanes, eq(lanes.id, runs.lane)).where(stillHeld).orderBy(desc(runs.createdAt)).limit(50),
      pausedEverything(app.db),
      writesByHour(app, writes),
      app.db
        .select({ slug: lanes.slug, state: lanes.state, systems: sql<string[]>`array[${lanes.recordsSystem}, ${lanes.calendarSystem}]` })
        .from(lanes)
        .orderBy(lanes.slug),
      app.db
        .select({ slug: lanes.slug, name: sql<string>`${lanes.definition} ->> 'name'`, n: count() })
        .from(guests)
        .innerJoin(lanes, eq(lanes.id, guests.lane))
        .where(inArray(guests.state, ['doubtful', 'refused']))
        .groupBy(lanes.slug, sql`2`),
    ]);
    const lapsed = new Set(ailing.filter((s) => s.lapsedAt !== null).map((s) => s.id));
    const resting = new Set(needs.filter((n) => n.systems.some((s) => lapsed.has(s))).map((n) => n.slug));
    // A lane that is held run after run is one question, not many.
    const heldRuns = waiting.filter((w, i) => waiting.findIndex((o) => o.lanes.id === w.lanes.id) === i);
    return {
      paused,
      holds: held,
      failed: failed.map(
        ({ v, lane }): ItemAnswer => ({
          lane,
          recordId: v.recordId === '' ? null : v.recordId,
          href: v.recordId === '' ? v.href : null,
          moment: v.moment,
          label: v.label,
          state: 'failed',
          when: null,
          repeats: null,
          verdict: { reason: v.reason as never, condition: v.condition, value: v.value, recheckAt: v.recheckAt, at: v.at },
          updatedAt: v.at,
        }),
      ),
      heldRuns: heldRuns.map((r) => runAnswer(r.runs, r.lanes)),
      troubles: [
        ...all
          // Lapsed credentials are one notice at their system, not one at each of its lanes.
          .filter((l) => (l.failures > 0 || (paused === null && isLate(l))) && l.trouble !== null && !resting.has(l.slug))
          .map((l) => ({ noun: 'lane', slug: l.slug, name: l.definition.name, detail: l.trouble ?? '' })),
        ...unsent.map((u) => ({
          noun: 'lane',
          slug: u.slug,
          name: u.name,
          detail: `${u.n} messages to guests were not taken, or may not have been`,
        })),
        ...ailing.map((s) => ({ noun: 'system', slug: s.slug, name: s.name, detail: s.lapsedAt === null ? s.healthDetail : lapsedNotice(s, needs) })),
      ],
      lanes: all,
      byHour: all.map((l) => ({ lane: l.slug, hours: hourly.get(l.id) ?? new Array<number>(24).fill(0) })),
      crossed: crossed.map((c) => journalAnswer(c.journal, c.lane)),
      crossedCount: [...hourly.values()].flat().reduce((sum, n) => sum + n, 0),
    };
  }),
  route({ method: 'get', path: '/health', summary: 'Is the service well?', may: 'anybody', answer: healthAnswerShape }, async ({ response }) => {
    const database = await app.pool.query('select 1').then(
      () => true,
      () => false,
    );
    const jobs =
      database &&
      (await app.db.execute<{ well: boolean }>(jobsAreWell).then(
        ({ rows }) => oneRow(rows).well,
        () => false,
      ));
    if (!database) response.status(503);
    return { ok: database, version: VERSION, tzdata: app.zones.version, database, jobs };
  }),
];
