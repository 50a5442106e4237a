import { laneShape, runShape, type StopChoice, type StopForecast, stopForecastShape, stopRequestShape, undoShape } from '@monsoon/contract';
import { certain, isRemoval } from '@monsoon/core';
import { eq } from 'drizzle-orm';
import type { App } from '../../app.ts';
import { addRun, askRun } from '../../jobs/ask-run.ts';
import { refuseWhilePaused } from '../../jobs/everything.ts';
import { laneAnswers, operationAnswer, runAnswer } from '../../lanes/answers.ts';
import { isTrial, type LaneRow, openLane } from '../../lanes/context.ts';
import { planStop } from '../../run/stop.ts';
import { prepareUndo } from '../../run/undo.ts';
import { journalOf, makingsOf, type UndoOf } from '../../storage/journal-of.ts';
import { noRun, runStore } from '../../storage/run-store.ts';
import { formerLanes, journal, lanes, runs } from '../../storage/schema.ts';
import { isUuid } from '../is-uuid.ts';
import { notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';
import { findLane } from './lanes.ts';

const UNDO_TIME = 120_000;

async function ofRun(app: App, id: string): Promise<{ lane: LaneRow; of: UndoOf }> {
  const [row] = isUuid(id) ? await app.db.select().from(runs).innerJoin(lanes, eq(lanes.id, runs.lane)).where(eq(runs.id, id)) : [];
  if (row === undefined) throw notFound('run', id);
  return { lane: row.lanes, of: { run: row.runs.id } };
}

async function ofEntry(app: App, id: string): Promise<{ lane: LaneRow; of: UndoOf }> {
  const [row] = /^\d{1,15}$/.test(id)
    ? await app.db
        .select()
        .from(journal)
        .innerJoin(lanes, eq(lanes.id, journal.lane))
        .where(eq(journal.id, Number(id)))
    : [];
  if (row === undefined) throw notFound('journal entry', id);
  return { lane: row.lanes, of: { entry: row.journal.id } };
}

async function foresee(app: App, { lane, of }: { lane: LaneRow; of: UndoOf }) {
  const { context, sides } = await openLane(app, lane);
  const store = runStore(app.db, lane.id, lane.version, noRun);
  const { operations, impossible } = await prepareUndo(
    { context, sides, store, signal: AbortSignal.timeout(UNDO_TIME) },
    { done: await journalOf(app.db, lane.id, of), cause: 'undo', trial: isTrial(lane) },
  );
  return { operations: operations.map(operationAnswer), impossible };
}

async function start(app: App, { lane, of }: { lane: LaneRow; of: UndoOf }) {
  return runAnswer(await askRun(app, lane, 'undo', { do: 'undo', of }), lane);
}

/** Of long lists, the first are shown. */
const MOST_SHOWN = 300;

async function foreseeStop(app: App, lane: LaneRow, how: StopChoice) {
  const found: StopForecast = { removed: 0, unlinked: 0, kept: 0, operations: [], impossible: [] };
  const { context, sides } = await openLane(app, lane);
  const store = runStore(app.db, lane.id, lane.version, noRun);
  if (how === 'keep') return { ...found, kept: await store.countPairs() };
  const makings = (pairs: string[]) => makingsOf(app.db, lane.id, pairs);
  for await (const { operations, impossible } of planStop({ context, sides, store, signal: AbortSignal.timeout(UNDO_TIME) }, makings, how)) {
    const removals = operations.filter(isRemoval);
    found.removed += removals.length;
    found.unlinked += operations.length - removals.length;
    found.operations.push(...removals.slice(0, MOST_SHOWN - found.operations.length).map(operationAnswer));
    found.impossible.push(...impossible.slice(0, MOST_SHOWN - found.impossible.length));
  }
  return found;
}

/** A lane that is stopped does nothing any more; with `remove` and `unlink`, a last run does that first. Started again, it reads everything. */
async function stopLane(app: App, lane: LaneRow, how: StopChoice) {
  await refuseWhilePaused(app);
  const stopped = await app.db.transaction(async (tx) => {
    const [row] = await tx.update(lanes).set({ state: 'paused', nextRunAt: null, sweptVersion: null }).where(eq(lanes.id, lane.id)).returning();
    if (how !== 'keep') {
      await tx.insert(formerLanes).values({ id: lane.id, slug: lane.slug }).onConflictDoNothing();
      await addRun(tx, lane, 'stop', { do: 'stop', how });
    }
    return certain(row, 'it was made just now');
  });
  await app.announcer.announce(['runs', 'lanes']);
  return (await laneAnswers(app, [stopped]))[0];
}

/** Taking back what a run did, or one entry of the journal; and stopping a lane for good. */
export const undoRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/lanes/:lane/stop',
      summary: 'What stopping a lane would do with what it made',
      may: 'read',
      query: stopRequestShape,
      answer: stopForecastShape,
    },
    async ({ params, query }) => foreseeStop(app, await findLane(app, params.lane), query.events),
  ),
  route(
    {
      method: 'post',
      path: '/lanes/:lane/stop',
      summary: 'Stop a lane: keep what it created, remove it unless it was edited since, or unlink it',
      may: 'arrange',
      body: stopRequestShape,
      answer: laneShape,
      status: 202,
    },
    async ({ params, body }) => stopLane(app, await findLane(app, params.lane), body.events),
  ),
  route(
    {
      method: 'get',
      path: '/runs/:run/undo',
      summary: 'What taking a run back would do, and what cannot be taken back',
      may: 'read',
      answer: undoShape,
    },
    async ({ params }) => foresee(app, await ofRun(app, params.run)),
  ),
  route(
    {
      method: 'post',
      path: '/runs/:run/undo',
      summary: 'Take back what a run did, unless it was edited since',
      may: 'operate',
      answer: runShape,
      status: 202,
    },
    async ({ params }) => start(app, await ofRun(app, params.run)),
  ),
  route(
    { method: 'get', path: '/journal/:entry/undo', summary: 'What taking one change back would do', may: 'read', answer: undoShape },
    async ({ params }) => foresee(app, await ofEntry(app, params.entry)),
  ),
  route(
    {
      method: 'post',
      path: '/journal/:entry/undo',
      summary: 'Take one change back, unless the item was edited since',
      may: 'operate',
      answer: runShape,
      status: 202,
    },
    async ({ params }) => start(app, await ofEntry(app, params.entry)),
  ),
];
