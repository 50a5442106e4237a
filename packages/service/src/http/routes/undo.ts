import { runShape, undoShape } from '@monsoon/core';
import { eq } from 'drizzle-orm';
import type { App } from '../../app.ts';
import { addLaneJob } from '../../jobs/queue.ts';
import { operationAnswer, runAnswer } from '../../lanes/answers.ts';
import { isTrial, type LaneRow, openLane } from '../../lanes/context.ts';
import { noCounts } from '../../run/execute.ts';
import { prepareUndo } from '../../run/undo.ts';
import { journalOf, type UndoOf } from '../../storage/journal-of.ts';
import { runStore } from '../../storage/run-store.ts';
import { journal, lanes, runs } from '../../storage/schema.ts';
import { notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

const UNDO_TIME = 120_000;

async function ofRun(app: App, id: string): Promise<{ lane: LaneRow; of: UndoOf }> {
  const uuid = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(id);
  const [row] = uuid ? await app.db.select().from(runs).innerJoin(lanes, eq(lanes.id, runs.lane)).where(eq(runs.id, id)) : [];
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
  const store = runStore(app.db, lane.id, lane.version, '', async () => undefined);
  const { operations, impossible } = await prepareUndo(
    context,
    sides,
    store,
    await journalOf(app.db, lane.id, of),
    'undo',
    isTrial(lane),
    AbortSignal.timeout(UNDO_TIME),
  );
  return { operations: operations.map(operationAnswer), impossible };
}

async function start(app: App, { lane, of }: { lane: LaneRow; of: UndoOf }) {
  const run = await app.db.transaction(async (tx) => {
    const [row] = await tx
      .insert(runs)
      .values({ lane: lane.id, laneVersion: lane.version, cause: 'undo', scope: '', state: 'waiting', counts: noCounts() })
      .returning();
    await addLaneJob(tx, { lane: lane.id, cause: 'asked', scope: 'auto', run: row!.id, undo: of });
    return row!;
  });
  await app.announcer.announce(['runs']);
  return runAnswer(run, lane);
}

/** Taking back what a run did, or one entry of the journal. */
export const undoRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/runs/:run/undo',
      summary: 'What taking a run back would do, and what cannot be taken back',
      may: 'read',
      answer: undoShape,
    },
    async ({ params }) => foresee(app, await ofRun(app, params['run']!)),
  ),
  route(
    {
      method: 'post',
      path: '/runs/:run/undo',
      summary: 'Take back what a run did, where nobody edited it since',
      may: 'write',
      answer: runShape,
      status: 202,
    },
    async ({ params }) => start(app, await ofRun(app, params['run']!)),
  ),
  route(
    { method: 'get', path: '/journal/:entry/undo', summary: 'What taking one change back would do', may: 'read', answer: undoShape },
    async ({ params }) => foresee(app, await ofEntry(app, params['entry']!)),
  ),
  route(
    {
      method: 'post',
      path: '/journal/:entry/undo',
      summary: 'Take one change back, if nobody edited the item since',
      may: 'write',
      answer: runShape,
      status: 202,
    },
    async ({ params }) => start(app, await ofEntry(app, params['entry']!)),
  ),
];
