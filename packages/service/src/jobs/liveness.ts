import { randomInt } from 'node:crypto';
import type { WorkerEvents } from 'graphile-worker';
import pg from 'pg';
import type { Logger } from 'pino';

/** Class of the advisory locks that say "this process lives". */
const LIFE = 721_634;

/**
 * Frees the jobs of processes that died. The job queue keeps a killed process's jobs locked for four hours; here each
 * process holds a session advisory lock, which PostgreSQL drops the moment its connection ends, and every half second
 * the workers whose lock is gone are unlocked.
 */
export interface Liveness {
  watch(events: WorkerEvents): void;
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
    log.error({ error: error.message }, 'the connection that says this process lives was lost');
    lost();
  });
  await client.connect();
  const life = randomInt(1, 2 ** 31 - 1);
  await client.query('select pg_advisory_lock($1, $2)', [LIFE, life]);

  let processes = 1;
  const bury = async (): Promise<void> => {
    const living = await pool.query<{ n: number }>('select count(*) as n from pg_locks where locktype = $1 and classid = $2 and granted', [
      'advisory',
      LIFE,
    ]);
    processes = Math.max(1, Number(living.rows[0]?.n));
    const { rows } = await pool.query<{ worker: string }>(
      `delete from workers w where not exists
         (select 1 from pg_locks l where l.locktype = 'advisory' and l.classid = $1 and l.objid = w.life and l.granted)
       returning worker`,
      [LIFE],
    );
    if (rows.length === 0) return;
    await pool.query('select graphile_worker.force_unlock_workers($1::text[])', [rows.map((r) => r.worker)]);
    await pool.query(`select pg_notify('jobs:insert', '{"r":1,"count":1}')`);
    log.info({ workers: rows.length }, 'jobs of a process that died were freed');
  };
  const timer = setInterval(() => void bury().catch((error: Error) => log.warn({ error: error.message }, 'looking for dead processes failed')), 500);
  return {
    count: () => processes,
    watch(events) {
      events.on('worker:create', ({ worker }) => {
        void pool
          .query('insert into workers (worker, life) values ($1, $2) on conflict do nothing', [worker.workerId, life])
          .catch((error: Error) => log.error({ error: error.message }, 'a worker could not be entered'));
      });
    },
    async close() {
      closed = true;
      clearInterval(timer);
      await client.end();
    },
  };
}
