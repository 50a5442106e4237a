import type { WorkerEvents } from 'graphile-worker';
import type pg from 'pg';
import type { Logger } from 'pino';
import { openSession, processId, sessionName } from '../storage/sessions.ts';

/** Class of the advisory locks that say "this process lives". */
const LIFE = 721_634;

/** The locks of living processes of this installation: a server may hold several, each in a database of its own. */
const LIVES = `l.locktype = 'advisory' and l.classid = ${LIFE} and l.granted and l.database = (select oid from pg_database where datname = current_database())`;

/** Milliseconds between two heartbeats, and two looks for processes that died. */
const BEAT = 500;
/** Seconds without a heartbeat after which a process counts as silent, and others take over its work. */
const SILENT = 8;
/** Milliseconds after its last heartbeat for which a process may write to systems: it stops well before others take over. */
const LEASE = 5_000;

/** This process was silent for so long that another may do its work: it writes nothing more. */
export class LeaseLost extends Error {
  override name = 'LeaseLost';
}

/**
 * Frees the jobs and locks of processes that died, froze, or vanished with their machine. The job queue would keep their
 * jobs for four hours. Each process holds a session advisory lock, which PostgreSQL drops when its connection ends, and
 * writes a heartbeat twice a second: one that is silent though its connection stands has its sessions ended by the others.
 */
export interface Liveness {
  watch(events: WorkerEvents): void;
  /** frees the jobs of workers that have ended within this process */
  free(workers: string[]): Promise<void>;
  /** how many processes live, this one with them */
  count(): number;
  /** @throws LeaseLost when the last heartbeat is too long ago to write to systems */
  checkLease(): void;
  close(): Promise<void>;
}

/** @param lost others have taken over, or are about to: the process must end */
export async function openLiveness(url: string, pool: pg.Pool, log: Logger, lost: () => void): Promise<Liveness> {
  let closed = false;
  const over = (error: unknown, why: string): void => {
    if (closed) return;
    closed = true;
    // Without its lock or heartbeat others take our jobs for abandoned: stop working rather than work twice.
    log.error({ error }, why);
    lost();
  };
  const client = await openSession(
    url,
    (error) => over(error, 'the connection that says this process lives was lost'),
    async (session) => {
      await session.query('select pg_advisory_lock($1, $2)', [LIFE, processId]);
      await session.query('insert into processes (process) values ($1)', [processId]);
    },
  );

  let beatAt = performance.now();
  let steadySince = beatAt;
  let processes = 1;
  const beat = async (): Promise<void> => {
    const began = performance.now();
    const { rowCount } = await client.query('update processes set beat_at = now() where process = $1 and silent_at is null', [processId]);
    if (rowCount === 0) return over(null, 'this process was silent, and another has taken over its work');
    if (began - beatAt > 2000) steadySince = began;
    beatAt = began;
  };
  const takeOver = async (): Promise<void> => {
    const living = await pool.query<{ n: number }>(`select count(*) as n from pg_locks l where ${LIVES}`);
    processes = Math.max(1, Number(living.rows[0]?.n));
    // After a time in which the database took no writes everybody is silent: each gets as long again to be heard.
    const judges = performance.now() - steadySince > SILENT * 1000;
    await pool.query(`delete from processes where beat_at < now() - interval '1 hour'`);
    const { rows: silent } = await pool.query<{ process: number; sessions: number }>(
      `with silent as (
         update processes set silent_at = now() where $1 and process <> $4 and silent_at is null and beat_at < now() - make_interval(secs => $2) returning process)
       select s.process, (select count(pg_terminate_backend(a.pid)) from pg_stat_activity a
         where a.application_name = $3 || s.process and a.datname = current_database() and a.usename = current_user) as sessions from silent s`,
      [judges, SILENT, sessionName(''), processId],
    );
    for (const { process, sessions } of silent)
      log.warn({ process, sessions }, 'a process is silent: its sessions were ended, and others do its work');
    // In one statement: a process that dies here leaves either everything as it was or nothing more to do.
    const { rows } = await pool.query<{ freed: number }>(
      `with gone as (
         delete from workers w where exists (select from processes p where p.process = w.life and p.silent_at is not null)
           or not exists (select from pg_locks l where l.objid = w.life and ${LIVES})
         returning worker),
       -- and those whose process died before it could enter them
       unknown as (
         select j.locked_by as worker from graphile_worker.jobs j where j.locked_at < now() - interval '10 seconds'
           and not exists (select 1 from workers w where w.worker = j.locked_by)),
       dead as (select worker from gone union select worker from unknown)
       select count(*)::int as freed, graphile_worker.force_unlock_workers(array_agg(worker)), pg_notify('jobs:insert', '{"r":1,"count":1}')
       from dead having count(*) > 0`,
    );
    if (rows[0] !== undefined) log.info({ workers: rows[0].freed }, 'jobs of a process that ended were freed');
  };
  // Who was silent itself, because something held it up, says so first, and then judges others.
  const look = async (): Promise<void> => {
    await beat().catch((error: unknown) => closed || log.warn({ error }, 'a heartbeat failed'));
    if (!closed) await takeOver().catch((error: unknown) => closed || log.warn({ error }, 'looking for dead processes failed'));
  };
  let busy = false;
  const timer = setInterval(() => {
    if (busy || closed) return;
    busy = true;
    void look().finally(() => {
      busy = false;
    });
  }, BEAT);
  return {
    count: () => processes,
    checkLease() {
      const silent = performance.now() - beatAt;
      if (closed || silent > LEASE)
        throw new LeaseLost(`this process wrote no heartbeat for ${Math.round(silent / 1000)} s, so another may have taken over its work`);
    },
    watch(events) {
      events.on('worker:create', ({ worker }) => {
        void pool
          .query('insert into workers (worker, life) values ($1, $2) on conflict do nothing', [worker.workerId, processId])
          .catch((error: Error) => log.error({ error }, 'a worker could not be entered'));
      });
    },
    async free(workers) {
      await pool.query(`select graphile_worker.force_unlock_workers($1::text[]), pg_notify('jobs:insert', '{"r":1,"count":1}')`, [workers]);
    },
    async close() {
      closed = true;
      clearInterval(timer);
      await client.query('delete from processes where process = $1', [processId]).catch(() => undefined);
      await client.end();
    },
  };
}
