import { holdShape, journalShape, page, runShape, runStates, settleAllShape, settledShape, settleShape } from '@monsoon/contract';
import { certain, holdChoices } from '@monsoon/core';
import { and, count, desc, eq, lt, sql } from 'drizzle-orm';
import * as yup from 'yup';
import type { App } from '../../app.ts';
import { addRun } from '../../jobs/ask-run.ts';
import { refuseWhilePaused } from '../../jobs/everything.ts';
import { addLaneJob, runTask, scopeToSettle } from '../../jobs/queue.ts';
import { holdAnswer, journalAnswer, openHolds, runAnswer } from '../../lanes/answers.ts';
import { holds, journal, lanes, runs } from '../../storage/schema.ts';
import { isUuid } from '../is-uuid.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';
import { findLane } from './lanes.ts';
import { undoRoutes } from './undo.ts';

async function findRun(app: App, id: string) {
  const [row] = isUuid(id) ? await app.db.select().from(runs).innerJoin(lanes, eq(lanes.id, runs.lane)).where(eq(runs.id, id)) : [];
  if (row === undefined) throw notFound('run', id);
  return row;
}

/** A time and an id. */
const CURSOR = /^\d{4}-\d\d-\d\dT[\d:.]{5,20}Z [0-9a-f-]{36}$/;
const WRONG_CURSOR = '${path}: "${value}" is no cursor of this list; give the "next" of the page before';
const limit = yup.number().integer().min(1).max(500).default(50);

/** Runs, the journal, and holds. */
export const runRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/runs',
      summary: 'Runs, newest first',
      may: 'read',
      answer: page(runShape),
      query: yup.object({
        lane: yup.string().max(63),
        state: yup.string<(typeof runStates)[number]>().oneOf([...runStates]),
        // The time and the id of the last one: several may begin within a millisecond.
        cursor: yup.string().matches(CURSOR, WRONG_CURSOR),
        limit,
      }),
    },
    async ({ query }) => {
      const lane = query.lane === undefined ? undefined : await findLane(app, query.lane);
      const rows = await app.db
        .select({ runs, lanes, at: sql<string>`to_char(${runs.createdAt} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')` })
        .from(runs)
        .innerJoin(lanes, eq(lanes.id, runs.lane))
        .where(
          and(
            lane && eq(runs.lane, lane.id),
            query.state === undefined ? undefined : eq(runs.state, query.state),
            query.cursor === undefined
              ? undefined
              : sql`(${runs.createdAt}, ${runs.id}) < (${query.cursor.split(' ')[0]}::timestamptz, ${query.cursor.split(' ')[1]}::uuid)`,
          ),
        )
        .orderBy(desc(runs.createdAt), desc(runs.id))
        .limit(query.limit + 1);
      const items = rows.slice(0, query.limit).map((r) => runAnswer(r.runs, r.lanes));
      const last = rows[query.limit - 1]?.at;
      return { items, next: rows.length > query.limit && last !== undefined ? `${last} ${certain(items.at(-1), 'the page has items').id}` : null };
    },
  ),
  route({ method: 'get', path: '/runs/:run', summary: 'One run', may: 'read', answer: runShape }, async ({ params }) => {
    const row = await findRun(app, params.run);
    return runAnswer(row.runs, row.lanes);
  }),
  route(
    {
      method: 'post',
      path: '/runs/:run/release',
      summary: 'Let a held run through: it may remove and rewrite the items that it showed, and no others beyond the guard',
      may: 'operate',
      answer: runShape,
      status: 202,
    },
    async ({ params }) => {
      await refuseWhilePaused(app);
      const { runs: held, lanes: lane } = await findRun(app, params.run);
      const notHeld = (state: string) => new HttpProblem(409, 'The run is not held', `the run is ${state}; only a held run can be let through`);
      if (held.state !== 'held' || held.damage === null) throw notHeld(held.state);
      const run = await app.db.transaction(async (tx) => {
        // Of several who let it through at once, one does.
        const [mine] = await tx
          .update(runs)
          .set({ state: 'done' })
          .where(and(eq(runs.id, held.id), eq(runs.state, 'held')))
          .returning({ id: runs.id });
        if (mine === undefined) throw notHeld('done');
        // It looks as far as the held run did: what a sweep alone had found is found again.
        const row = await addRun(tx, lane, 'released', { do: 'run', scope: held.scope === 'sweep' ? 'sweep' : 'auto', released: held.id });
        await tx
          .update(runs)
          .set({ reason: `let through as run ${row.id}` })
          .where(eq(runs.id, held.id));
        return row;
      });
      await app.announcer.announce(['runs', 'lanes']);
      return runAnswer(run, lane);
    },
  ),
  route(
    {
      method: 'get',
      path: '/journal',
      summary: 'The journal, newest first',
      may: 'read',
      answer: page(journalShape),
      query: yup.object({
        lane: yup.string().max(63),
        run: yup.string().max(63),
        record: yup.string().max(500),
        cursor: yup.string().matches(/^\d{1,15}$/),
        limit,
      }),
    },
    async ({ query }) => {
      const lane = query.lane === undefined ? undefined : await findLane(app, query.lane);
      if (query.run !== undefined) await findRun(app, query.run);
      const rows = await app.db
        .select()
        .from(journal)
        .innerJoin(lanes, eq(lanes.id, journal.lane))
        .where(
          and(
            lane && eq(journal.lane, lane.id),
            query.run === undefined ? undefined : eq(journal.run, query.run),
            query.record === undefined ? undefined : eq(journal.recordId, query.record),
            query.cursor === undefined ? undefined : lt(journal.id, Number(query.cursor)),
          ),
        )
        .orderBy(desc(journal.id))
        .limit(query.limit + 1);
      const items = rows.slice(0, query.limit).map((r) => journalAnswer(r.journal, r.lanes.slug));
      return { items, next: rows.length > query.limit ? String(certain(items.at(-1), 'the page has items').id) : null };
    },
  ),
  route(
    {
      method: 'get',
      path: '/holds',
      summary: 'Open holds, oldest first',
      may: 'read',
      answer: page(holdShape),
      query: yup.object({
        lane: yup.string().max(63),
        cursor: yup.string().matches(CURSOR, WRONG_CURSOR),
        limit: yup.number().integer().min(1).max(500).default(500),
      }),
    },
    async ({ query }) => {
      const lane = query.lane === undefined ? undefined : (await findLane(app, query.lane)).id;
      const found = await openHolds(app, { lane, after: query.cursor, limit: query.limit + 1 });
      const items = found.slice(0, query.limit);
      const last = items.at(-1);
      return { items, next: found.length > query.limit && last !== undefined ? `${last.createdAt} ${last.id}` : null };
    },
  ),
  route(
    {
      method: 'post',
      path: '/holds/settle',
      summary: 'Settle all open holds that ask the same question, alike; those that do not have the answer stay open',
      may: 'operate',
      entry: (body) => `${body.question}: ${body.choice}${body.lane === undefined ? '' : `, lane ${body.lane}`}`,
      body: settleAllShape,
      answer: settledShape,
      status: 200,
    },
    async ({ body, caller }) => {
      const lane = body.lane === undefined ? undefined : await findLane(app, body.lane);
      const asked = and(eq(holds.state, 'open'), eq(holds.question, body.question), lane && eq(holds.lane, lane.id));
      const fits = sql`(${holds.choices} @> ${JSON.stringify([body.choice])}::jsonb)`;
      const settled = await app.db
        .update(holds)
        .set({ state: 'settled', choice: body.choice, settledBy: caller.email })
        .where(and(asked, fits))
        .returning({ lane: holds.lane });
      const [left] = await app.db.select({ n: count() }).from(holds).where(asked);
      if (settled.length === 0 && (left?.n ?? 0) > 0) {
        const answers = holdChoices[body.question].join(', ');
        throw new HttpProblem(422, 'The choice does not fit', `"${body.choice}" is no answer to "${body.question}" there; answers are ${answers}`, [
          { pointer: '/choice', reason: `answers are ${answers}` },
        ]);
      }
      const scope = scopeToSettle(body.question);
      for (const id of new Set(settled.map((s) => s.lane))) await addLaneJob(app.db, { lane: id, cause: 'settled', task: runTask(scope) });
      await app.announcer.announce(['holds']);
      return { settled: settled.length, skipped: left?.n ?? 0 };
    },
  ),
  ...undoRoutes(app),
  route(
    {
      method: 'post',
      path: '/holds/:hold/settle',
      summary: 'Settle a hold; the lane carries it out at once',
      may: 'operate',
      entry: (body) => body.choice,
      body: settleShape,
      answer: holdShape,
      status: 200,
    },
    async ({ params, body, caller }) => {
      const [row] = isUuid(params.hold)
        ? await app.db.select().from(holds).innerJoin(lanes, eq(lanes.id, holds.lane)).where(eq(holds.id, params.hold))
        : [];
      if (row === undefined) throw notFound('hold', params.hold);
      const { choices } = holdAnswer(row.holds, row.lanes.slug);
      if (!choices.includes(body.choice))
        throw new HttpProblem(
          422,
          'The choice does not fit',
          `"${body.choice}" is no answer to "${row.holds.question}"; answers are ${choices.join(', ')}`,
          [{ pointer: '/choice', reason: `answers are ${choices.join(', ')}` }],
        );
      const [settled] = await app.db
        .update(holds)
        .set({ state: 'settled', choice: body.choice, settledBy: caller.email })
        .where(and(eq(holds.id, row.holds.id), eq(holds.state, 'open')))
        .returning();
      if (settled === undefined) throw new HttpProblem(409, 'The hold is not open', `it is ${row.holds.state}; nothing is left to settle`);
      await addLaneJob(app.db, { lane: row.lanes.id, cause: 'settled', task: runTask(scopeToSettle(row.holds.question)) });
      await app.announcer.announce(['holds']);
      return holdAnswer(settled, row.lanes.slug);
    },
  ),
];
