import { sql } from 'drizzle-orm';
import type { StopWith } from '../run/stop.ts';
import type { Database, Transaction } from '../storage/database.ts';

/** How far a run looks; `auto`: as far as it must. */
export type JobScope = 'auto' | 'sweep' | 'records' | { records: string[]; hrefs?: string[] };

/** What is done in a lane's turn. */
export type LaneTask =
  | {
      do: 'run';
      scope: JobScope;
      /** before it runs: follows the items of its scope again, for whom */
      follow?: string;
      /** the held run that a person let through: what it showed may be done */
      released?: string;
      /** what a person let past the guard, in the form of an earlier version */
      allowed?: { removals: number; rewrites: number };
    }
  /** takes back a run, or one entry of the journal */
  | { do: 'undo'; of: { run: string } | { entry: number } }
  /** stops the lane for good, with what becomes of what it made */
  | { do: 'stop'; how: StopWith }
  /** reads both sides whole and compares them */
  | { do: 'audit' };

/** A lane's turn, as it waits in the queue. */
export interface LaneJob {
  lane: string;
  cause: 'check' | 'notice' | 'asked' | 'settled';
  task: LaneTask;
  /** a run that somebody already waits for */
  run?: string;
}

/** A turn as earlier versions put it into the queue. */
interface EarlierJob {
  lane: string;
  cause: LaneJob['cause'];
  scope: JobScope;
  run?: string;
  undo?: { run: string } | { entry: number };
  stop?: StopWith;
  follow?: string;
  audit?: true;
  released?: string;
  allowed?: { removals: number; rewrites: number };
}

/** A turn that waited in the queue, whichever version put it there. */
export function readJob(payload: unknown): LaneJob {
  const job = payload as LaneJob | EarlierJob;
  if ('task' in job) return job;
  const { lane, cause, run, undo, stop, audit, ...rest } = job;
  const task: LaneTask =
    stop !== undefined
      ? { do: 'stop', how: stop }
      : undo !== undefined
        ? { do: 'undo', of: undo }
        : audit === true
          ? { do: 'audit' }
          : { do: 'run', ...rest };
  return { lane, cause, task, ...(run === undefined ? {} : { run }) };
}

/** A look at the lane as far as it must be. */
export const runTask = (scope: JobScope = 'auto'): LaneTask => ({ do: 'run', scope });

/**
 * Puts a lane's job into its queue. One queue for each lane keeps its runs one after the other on however many
 * machines; jobs for the same reason that still wait become one.
 *
 * @param at RFC 3339; now unless said
 */
export async function addLaneJob(db: Database | Transaction, job: LaneJob, at: string | null = null): Promise<void> {
  // A notice that names a record must not take the place of one that names another.
  // Nor one about the records that of one about the calendar.
  const { task } = job;
  const scope = task.do === 'run' ? task.scope : 'auto';
  const alone = job.cause !== 'notice' ? '' : typeof scope === 'object' ? `:${scope.records.join(' ')}` : `:${scope}`;
  const key = job.run === undefined ? `${job.lane}:${task.do === 'audit' ? 'audit' : job.cause}${alone}` : `${job.lane}:run:${job.run}`;
  // A time that is only the next regular one never puts off a job that waits already: a new version, or renewed credentials.
  const due =
    at === null
      ? sql`null::timestamptz`
      : sql`least(${at}::timestamptz, (select run_at from graphile_worker.jobs where key = ${key} and locked_at is null))`;
  await db.execute(
    sql`select graphile_worker.add_job('run-lane', payload := ${JSON.stringify(job)}::json, queue_name := ${`lane:${job.lane}`}, run_at := ${due}, job_key := ${key}, job_key_mode := 'replace')`,
  );
}

/** How far a lane must look to carry out an answer: which of several events it is, only a look at the whole calendar can tell. */
export const scopeToSettle = (question: string): 'sweep' | 'records' => (question === 'several candidates' ? 'sweep' : 'records');

/** Has the mails read that came in. */
export async function addMailboxJob(db: Database, system: string): Promise<void> {
  await db.execute(
    sql`select graphile_worker.add_job('read-mailbox', payload := ${JSON.stringify({ system })}::json, queue_name := ${`mailbox:${system}`}, job_key := ${`mailbox:${system}`}, max_attempts := 3)`,
  );
}

/** Has a system checked soon; what waits already is enough. */
export async function addCheckJob(db: Database, system: string): Promise<void> {
  await db.execute(
    sql`select graphile_worker.add_job('check-system', payload := ${JSON.stringify({ system })}::json, job_key := ${`check:${system}`}, max_attempts := 1)`,
  );
}
