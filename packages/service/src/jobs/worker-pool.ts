import { EventEmitter } from 'node:events';
import { setTimeout as pause } from 'node:timers/promises';
import { certain } from '@monsoon/core';
import { parseCronItems, type Runner, run, type Task, type TaskList, Logger as WorkerLogger } from 'graphile-worker';
import type pg from 'pg';
import type { Logger } from 'pino';
import { sayError } from '../errors.ts';
import type { Liveness } from './liveness.ts';
import { type LaneJob, readJob } from './queue.ts';

/** Jobs that one process works on at once. */
const AT_ONCE = 4;
/** Milliseconds between two attempts to replace workers that ended. */
const REPLACE_EVERY = 1000;

export interface Work {
  /** sends a recipient their unsent notifications */
  notify(to: string): Promise<void>;
  /** sends the digests whose hour has come */
  digests(): Promise<void>;
  runLane(job: LaneJob): Promise<void>;
  /** takes the replies that came into a mailbox */
  readMailbox(system: string): Promise<void>;
  /** takes the replies of every mailbox */
  readMailboxes(): Promise<void>;
  /** sends what waits for a lane's guests */
  invite(lane: string): Promise<void>;
  checkSystem(system: string): Promise<void>;
  /** checks every system whose daily check is due */
  checkDue(): Promise<void>;
  /** has the audits made that are due */
  auditsDue(): Promise<void>;
  /** takes out what was kept long enough */
  tidy(): Promise<void>;
}

/** The queue keeps and logs the message of a job that failed: it gets one without values, and the log the error itself. */
function withSafeErrors(log: Logger, tasks: TaskList): TaskList {
  return Object.fromEntries(
    Object.entries(tasks).map(([name, task]): [string, Task] => [
      name,
      async (payload, helpers) => {
        try {
          return await certain(task, 'jobs are only asked for by names of tasks')(payload as never, helpers);
        } catch (error) {
          log.error({ error, task: name }, 'a job failed');
          throw new Error(sayError(error));
        }
      },
    ]),
  );
}

/** At odd minutes, so that not every installation of the world asks at the full hour. */
const timetable = parseCronItems([
  { task: 'check-due', match: '*/13 * * * *' },
  { task: 'digests', match: '*/15 * * * *' },
  // A mailbox that is listened to is read at once; this is for when listening failed.
  { task: 'read-mailboxes', match: '*/5 * * * *' },
  { task: 'audits-due', match: '41 * * * *' },
  { task: 'tidy', match: '17 3 * * *' },
]);

/**
 * Starts working; `stop` waits for the jobs at hand. A worker of the queue that could not write down how its job ended
 * gives up for good, and keeps the job locked for hours: it is replaced, and its job is freed, as soon as the database
 * takes writes again.
 */
export async function startWorker(pool: pg.Pool, log: Logger, liveness: Liveness, work: Work): Promise<{ stop(): Promise<void> }> {
  const runners: Runner[] = [];
  const ended: string[] = [];
  let stopping = false;
  const events = new EventEmitter().setMaxListeners(0);
  liveness.watch(events as never);
  const tasks = withSafeErrors(log, {
    'run-lane': async (payload) => work.runLane(readJob(payload)),
    'check-system': async (payload) => work.checkSystem((payload as { system: string }).system),
    'read-mailbox': async (payload) => work.readMailbox((payload as { system: string }).system),
    'read-mailboxes': async () => work.readMailboxes(),
    invite: async (payload) => work.invite((payload as { lane: string }).lane),
    // The name that jobs have had in every version.
    tell: async (payload) => work.notify((payload as { to: string }).to),
    digests: async () => work.digests(),
    'check-due': async () => work.checkDue(),
    'audits-due': async () => work.auditsDue(),
    tidy: async () => work.tidy(),
  });
  const begin = async (concurrency: number, timed: boolean): Promise<void> => {
    const runner = await run({
      pgPool: pool,
      concurrency,
      noHandleSignals: true,
      pollInterval: 2000,
      events: events as never,
      logger: new WorkerLogger(
        () => (level, message) => log[level === 'warning' ? 'warn' : level === 'error' ? 'error' : 'debug']({ jobs: true }, message),
      ),
      taskList: tasks,
      parsedCronItems: timed ? timetable : [],
    });
    runners.push(runner);
    runner.promise.catch((error: unknown) => log.error({ error }, 'the queue ended'));
  };
  let replacing = false;
  const replace = async (): Promise<void> => {
    if (replacing) return;
    replacing = true;
    while (ended.length > 0 && !stopping) {
      await pause(REPLACE_EVERY, undefined, { ref: false });
      const gone = [...ended];
      try {
        await liveness.free(gone);
        await begin(gone.length, false);
        ended.splice(0, gone.length);
        log.info({ workers: gone.length }, 'workers of the queue that ended were replaced');
      } catch (error) {
        log.warn({ error }, 'workers of the queue cannot be replaced yet');
      }
    }
    replacing = false;
  };
  events.on('worker:stop', ({ worker, error }: { worker: { workerId: string }; error?: unknown }) => {
    if (stopping) return;
    log.error({ error, worker: worker.workerId }, 'a worker of the queue ended');
    ended.push(worker.workerId);
    void replace();
  });
  await begin(AT_ONCE, true);
  return {
    async stop() {
      stopping = true;
      await Promise.all(runners.map((runner) => runner.stop().catch(() => undefined)));
    },
  };
}
