import { EventEmitter } from 'node:events';
import { sql } from 'drizzle-orm';
import { type Runner, run, Logger as WorkerLogger } from 'graphile-worker';
import type pg from 'pg';
import type { Logger } from 'pino';
import type { Database, Transaction } from '../storage/database.ts';
import type { Liveness } from './liveness.ts';

/** What a lane's job is told. */
export interface LaneJob {
  lane: string;
  cause: 'check' | 'notice' | 'asked' | 'settled';
  scope: 'auto' | 'sweep' | 'records' | { records: string[]; hrefs?: string[] };
  /** a run that somebody already waits for */
  run?: string;
  /** what to take back instead of running */
  undo?: { run: string } | { entry: number };
  /** what a person let past the guard */
  allowed?: { removals: number; rewrites: number };
}

/**
 * Puts a lane's job into its queue. One queue for each lane keeps its runs one after the other on however many
 * machines; jobs for the same reason that still wait become one.
 *
 * @param at RFC 3339; now unless said
 */
export async function addLaneJob(db: Database | Transaction, job: LaneJob, at: string | null = null): Promise<void> {
  const key = job.run === undefined ? `${job.lane}:${job.cause}` : `${job.lane}:run:${job.run}`;
  await db.execute(
    sql`select graphile_worker.add_job('run-lane', payload := ${JSON.stringify(job)}::json, queue_name := ${`lane:${job.lane}`}, run_at := ${at}::timestamptz, job_key := ${key}, job_key_mode := 'replace')`,
  );
}

/** Starts working. Ends by itself never; `stop` waits for the jobs at hand. */
export async function startWorker(pool: pg.Pool, log: Logger, liveness: Liveness, runLane: (job: LaneJob) => Promise<void>): Promise<Runner> {
  const events = new EventEmitter().setMaxListeners(0);
  liveness.watch(events as never);
  return run({
    pgPool: pool,
    concurrency: 4,
    noHandleSignals: true,
    pollInterval: 2000,
    events: events as never,
    logger: new WorkerLogger(
      () => (level, message) => log[level === 'warning' ? 'warn' : level === 'error' ? 'error' : 'debug']({ jobs: true }, message),
    ),
    taskList: { 'run-lane': async (payload) => runLane(payload as LaneJob) },
  });
}
