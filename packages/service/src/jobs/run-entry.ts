import { randomUUID } from 'node:crypto';
import { countOperations } from '@monsoon/contract';
import { eq } from 'drizzle-orm';
import type { App } from '../app.ts';
import { definitionOf, type LaneRow } from '../lanes/context.ts';
import { notifyOfRun } from '../notifications/of-runs.ts';
import type { Executed } from '../run/execute.ts';
import { noCounts } from '../run/tally.ts';
import { checkFence } from '../storage/fences.ts';
import { lanes, runs } from '../storage/schema.ts';
import { addLaneJob, type LaneJob, runTask } from './queue.ts';

/** Longest pause between two attempts while a system is away, in seconds. */
const LONGEST_PAUSE = 300;

/** A run among the runs: the one that was asked for, one that was interrupted and is continued, or a new one. */
export class RunEntry {
  readonly id: string;
  readonly #app: App;
  readonly #lane: LaneRow;
  readonly #job: LaneJob;
  /** the number of the lane's turn, which each write bears */
  readonly fence: number;
  readonly #scope: string;
  readonly #interrupted: string | null;
  #entered: Promise<void> | null = null;

  /**
   * @param turn.scope what it reads, or takes back, in words
   * @param turn.interrupted a run of the lane that still says running, though no process works on it
   */
  constructor(app: App, lane: LaneRow, job: LaneJob, { scope, interrupted, fence }: { scope: string; interrupted: string | null; fence: number }) {
    this.fence = fence;
    this.id = job.run ?? interrupted ?? randomUUID();
    this.#app = app;
    this.#lane = lane;
    this.#job = job;
    this.#scope = scope;
    this.#interrupted = interrupted;
  }

  get entered(): boolean {
    return this.#entered !== null;
  }

  /** Enters it, once. */
  begin(): Promise<void> {
    this.#entered ??= this.#enter();
    return this.#entered;
  }

  async #enter(): Promise<void> {
    const { db, announcer } = this.#app;
    const [id, lane, interrupted] = [this.id, this.#lane, this.#interrupted];
    const entry = { state: 'running' as const, scope: this.#scope, laneVersion: lane.version, startedAt: new Date().toISOString() };
    if (interrupted !== null && interrupted !== id)
      await db
        .update(runs)
        .set({ state: 'failed', reason: 'interrupted; the next run goes on from where it was', endedAt: new Date().toISOString() })
        .where(eq(runs.id, interrupted));
    if (id === interrupted)
      await db.update(runs).set({ laneVersion: lane.version, scope: entry.scope, reason: 'continued after an interruption' }).where(eq(runs.id, id));
    else if (id === this.#job.run) await db.update(runs).set(entry).where(eq(runs.id, id));
    else await db.insert(runs).values({ id, lane: lane.id, cause: this.#job.cause, counts: noCounts(), ...entry });
    await announcer.announce(['runs', 'lanes']);
  }

  /** Says how it ended, sets the time of the next check, and sends the notifications. */
  async end(result: Executed): Promise<void> {
    await this.begin();
    const { db, announcer } = this.#app;
    const lane = this.#lane;
    // A system that our own circuit breaker spares was not asked: the pause does not grow.
    const failures = result.state !== 'failed' ? 0 : result.error?.ours === true ? Math.max(1, lane.failures) : lane.failures + 1;
    const pause =
      result.state === 'failed'
        ? Math.max(Math.min(2 ** (failures - 1), LONGEST_PAUSE), Math.min(result.error?.retryAfter ?? 0, 3600))
        : lane.definition.checkEvery * 60;
    const nextRunAt = lane.state === 'paused' ? null : new Date(Date.now() + pause * 1000).toISOString();
    const endedAt = new Date().toISOString();
    await db.transaction(async (tx) => {
      await checkFence(tx, lane.id, this.fence);
      await tx
        .update(runs)
        .set({
          state: result.state,
          reason: result.reason,
          counts: result.counts,
          damage: result.damage,
          endedAt,
          ...(result.state === 'done' ? { planned: countOperations(result.counts), done: countOperations(result.counts) } : {}),
        })
        .where(eq(runs.id, this.id));
      await tx
        .update(lanes)
        .set({ failures, trouble: result.state === 'done' ? null : result.reason, lastRunAt: endedAt, nextRunAt })
        .where(eq(lanes.id, lane.id));
      if (nextRunAt !== null) await addLaneJob(tx, { lane: lane.id, cause: 'check', task: runTask() }, nextRunAt);
      await notifyOfRun(tx, { ...lane, definition: definitionOf(lane) }, this.id, result, failures);
    });
    await announcer.announce(['runs', 'lanes', 'items', 'journal', 'holds', 'systems']);
  }
}

/** Resumed, the lane goes on from where it was. */
export async function endPaused(app: App, run: string, reason: string): Promise<void> {
  await app.db.update(runs).set({ state: 'failed', reason, endedAt: new Date().toISOString() }).where(eq(runs.id, run));
  await app.announcer.announce(['runs', 'lanes', 'items', 'journal', 'holds']);
}
