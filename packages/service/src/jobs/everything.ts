import type { PausedAnswer } from '@monsoon/contract';
import { eq, isNull } from 'drizzle-orm';
import type { App } from '../app.ts';
import { HttpProblem } from '../http/problem.ts';
import type { Database } from '../storage/database.ts';
import { holds, installation, lanes } from '../storage/schema.ts';
import { addLaneJob, runTask, scopeToSettle } from './queue.ts';

/** Whether everything is paused, by whom and why; null: no. */
export async function pausedEverything(db: Database): Promise<PausedAnswer | null> {
  const [row] = await db.select().from(installation);
  return row === undefined ? null : pausedIn(row);
}
export const pausedIn = ({ pausedAt, pausedBy, pausedWhy }: typeof installation.$inferSelect): PausedAnswer | null =>
  pausedAt === null ? null : { at: pausedAt, by: pausedBy ?? '', why: pausedWhy ?? '' };

/** In words, for runs that are not started and for the person who asks for one. */
export const sayPaused = (paused: PausedAnswer): string => `everything is paused since ${paused.at}, by ${paused.by}: ${paused.why}`;

/** @throws HttpProblem 409 saying who paused everything, and why */
export async function refuseWhilePaused(app: App): Promise<void> {
  const paused = await pausedEverything(app.db);
  if (paused !== null) throw new HttpProblem(409, 'Everything is paused', `${sayPaused(paused)}; resume everything first`);
}

/** Nothing is written to any system from the next batch on, until somebody resumes. Who paused first stays named. */
export async function pauseEverything(app: App, by: string, why: string): Promise<void> {
  await app.db.update(installation).set({ pausedAt: new Date().toISOString(), pausedBy: by, pausedWhy: why }).where(isNull(installation.pausedAt));
  await app.announcer.announce(['lanes', 'runs', 'paused']);
}

/** Every running lane looks at what changed meanwhile, and answers given meanwhile are carried out; lanes that were paused one by one stay so. */
export async function resumeEverything(app: App): Promise<void> {
  await app.db.update(installation).set({ pausedAt: null, pausedBy: null, pausedWhy: null }).where(eq(installation.id, 1));
  for (const { lane, question } of await app.db.select().from(holds).where(eq(holds.state, 'settled')))
    await addLaneJob(app.db, { lane, cause: 'settled', task: runTask(scopeToSettle(question)) });
  for (const lane of await app.db.select({ id: lanes.id }).from(lanes).where(eq(lanes.state, 'running')))
    await addLaneJob(app.db, { lane: lane.id, cause: 'check', task: runTask() });
  await app.announcer.announce(['lanes', 'runs', 'paused']);
}
