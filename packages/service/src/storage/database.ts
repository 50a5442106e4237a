import { fileURLToPath } from 'node:url';
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import type { Logger } from 'pino';
import * as schema from './schema.ts';
import { openPool } from './sessions.ts';

export type Database = NodePgDatabase<typeof schema>;
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];

/** Any number that no other program on the database uses; it keeps two starting processes from migrating at once. */
const MIGRATION_LOCK = 7_216_344_001;

export interface OpenDatabase {
  db: Database;
  pool: pg.Pool;
  close(): Promise<void>;
}

/**
 * Migration 0005 had an earlier form with an earlier timestamp. On a database with that form it would run again and fail, so
 * it is marked as applied, and the column that only the earlier form had is dropped.
 */
async function acceptEarlyWatching(client: pg.PoolClient): Promise<void> {
  const [early, final] = [1795471537864, 1795480185438];
  const { rows } = await client.query<{ known: string | null }>(`select to_regclass('drizzle.__drizzle_migrations')::text as known`);
  if (rows[0]?.known == null) return;
  const { rowCount } = await client.query('update drizzle.__drizzle_migrations set created_at = $2 where created_at = $1', [early, final]);
  if (rowCount !== null && rowCount > 0) await client.query('alter table hooks drop column if exists failures');
}

/** Connects, and brings the tables up to date under a lock. */
export async function openDatabase(url: string, log: Logger): Promise<OpenDatabase> {
  // numeric(20) of count(*) as a number: no table here comes near 2^53 rows.
  pg.types.setTypeParser(20, Number);
  const pool = openPool(url, (error) => log.warn({ error }, 'an idle database connection was lost'));
  const db = drizzle(pool, { schema });
  const client = await pool.connect();
  try {
    await client.query('select pg_advisory_lock($1)', [MIGRATION_LOCK]);
    await acceptEarlyWatching(client);
    await migrate(drizzle(client), { migrationsFolder: fileURLToPath(new URL('../../migrations', import.meta.url)) });
  } finally {
    await client.query('select pg_advisory_unlock($1)', [MIGRATION_LOCK]).catch(() => undefined);
    client.release();
  }
  return { db, pool, close: () => pool.end() };
}
