import { randomInt } from 'node:crypto';
import type { WorkerEvents } from 'graphile-worker';
import pg from 'pg';
import type { Logger } from 'pino';

/** Class of the advisory locks that say "this process lives". */
const LIFE = 721_634;

/** The locks of living processes of this installation: a server may hold several, each in a database of its own. */
const LIVES = `l.locktype = 'advisory' and l.classid = $1 and l.granted and l.database = (select oid from pg_database where datname = current_database())`;

/**
 * Frees the jobs of processes that died. The job queue keeps a killed process's jobs locked for four hours; here each
 * process holds a session advisory lock, which PostgreSQL drops the moment its connection ends, and every half second
 * the workers whose lock is gone are unlocked.
 */
export interface Liveness {
  watch(events: WorkerEvents): void;
  /** frees the jobs of workers that have ended within this process */
  free(workers: string[]): Promise<void>;
  /** how many processes live, this one with them */
  count(): number;
  close(): Promise<void>;
}

export async function openLiveness(url: string, pool: pg.Pool, log: Logger, lost: () => void): Promise<Liveness> {
  const client = new pg.Client({ connectionString: url });
  let closed = false;
  client.on('error', (error) => {
    if (closed) return;
    // Without the lock others take our jobs for abandoned: stop working rather than work twice.
    log.error({ error }, 'the connection that says this process lives was lost');
    lost();
  });
  await client.connect();
  const life = randomInt(1, 2 ** 31 - 1);
  await client.query('select pg_advisory_lock($1, $2)', [LIFE, life]);

  let processes = 1;
  const bury = async (): Promise<void> => {
    const living = await pool.query<{ n: number }>(`select count(*) as n from pg_locks l where ${LIVES}`, [LIFE]);
    processes = Math.max(1, Number(living.rows[0]?.n));
    // In one statement: whoever dies here leaves either everything as it was or nothing more to do.
    const { rows } = await pool.query<{ freed: number }>(
      `with gone as (
         delete from workers w where not exists
           (select 1 from pg_locks l where l.objid = w.life and ${LIVES})
         returning worker),
       -- and those whose process died before it could enter them
       unknown as (
         select j.locked_by as worker from graphile_worker.jobs j where j.locked_at < now() - interval '10 seconds'
           and not exists (select 1 from workers w where w.worker = j.locked_by)),
       dead as (select worker from gone union select worker from unknown)
       select count(*)::int as freed, graphile_worker.force_unlock_workers(array_agg(worker)), pg_notify('jobs:insert', '{"r":1,"count":1}')
       from dead having count(*) > 0`,
      [LIFE],
    );
    const freed = rows[0]?.freed ?? 0;
    if (freed === 0) return;
    log.info({ workers: freed }, 'jobs of a process that died were freed');
  };
  const timer = setInterval(() => void bury().catch((error: Error) => log.warn({ error }, 'looking for dead processes failed')), 500);
  return {
    count: () => processes,
    watch(events) {
      events.on('worker:create', ({ worker }) => {
        void pool
          .query('insert into workers (worker, life) values ($1, $2) on conflict do nothing', [worker.workerId, life])
          .catch((error: Error) => log.error({ error }, 'a worker could not be entered'));
      });
    },
    async free(workers) {
      await pool.query(`select graphile_worker.force_unlock_workers($1::text[]), pg_notify('jobs:insert', '{"r":1,"count":1}')`, [workers]);
    },
    async close() {
      closed = true;
      clearInterval(timer);
      await client.end();
    },
  };
}
