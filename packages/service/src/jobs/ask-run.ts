import { certain } from '@monsoon/core';
import type { App } from '../app.ts';
import type { LaneRow } from '../lanes/context.ts';
import { noCounts } from '../run/tally.ts';
import type { Transaction } from '../storage/database.ts';
import { runs } from '../storage/schema.ts';
import { refuseWhilePaused } from './everything.ts';
import { addLaneJob, type LaneTask } from './queue.ts';

type RunRow = typeof runs.$inferSelect;

/** Enters a run that waits for its turn, and puts its job into the lane's queue: both or neither. */
export async function addRun(tx: Transaction, lane: LaneRow, cause: string, task: LaneTask): Promise<RunRow> {
  const [run] = await tx
    .insert(runs)
    .values({ lane: lane.id, laneVersion: lane.version, cause, scope: '', state: 'waiting', counts: noCounts() })
    .returning();
  await addLaneJob(tx, { lane: lane.id, cause: 'asked', task, run: certain(run, 'it was made just now').id });
  return certain(run, 'it was made just now');
}

/** A run that somebody asks for now. @throws HttpProblem 409 while everything is paused */
export async function askRun(app: App, lane: LaneRow, cause: string, task: LaneTask): Promise<RunRow> {
  await refuseWhilePaused(app);
  const run = await app.db.transaction((tx) => addRun(tx, lane, cause, task));
  await app.announcer.announce(['runs']);
  return run;
}
