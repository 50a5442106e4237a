import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { expect } from 'chai';
import pg from 'pg';
import { pino } from 'pino';
import { freshDatabase } from '../../../test/support/servers.ts';
import { openDatabase } from '../src/storage/database.ts';

const folder = resolve(import.meta.dirname, '../migrations');
const { entries } = JSON.parse(readFileSync(`${folder}/meta/_journal.json`, 'utf8')) as { entries: { tag: string; when: number }[] };

describe('a database of an earlier version', () => {
  /** @param early the first form of 0005, as it was for some hours */
  async function databaseAt(count: number, early: boolean) {
    const database = await freshDatabase();
    const client = new pg.Client({ connectionString: database.url });
    await client.connect();
    await client.query(`create schema drizzle;
      create table drizzle.__drizzle_migrations (id serial primary key, hash text not null, created_at bigint)`);
    for (const { tag, when } of entries.slice(0, count)) {
      await client.query(readFileSync(`${folder}/${tag}.sql`, 'utf8'));
      await client.query('insert into drizzle.__drizzle_migrations (hash, created_at) values ($1, $2)', [
        tag,
        early && tag === '0005_watching' ? 1795471537864 : when,
      ]);
    }
    if (early) await client.query('alter table hooks add column failures integer not null default 0');
    return { ...database, client };
  }
  const columns = async (url: string) => {
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    const { rows } = await client.query<{ at: string }>(
      `select table_name || '.' || column_name as at from information_schema.columns where table_schema = 'public' order by 1`,
    );
    await client.end();
    return rows.map((r) => r.at);
  };

  it('opens, whichever it is, and is then as a new one', async () => {
    const made = await databaseAt(entries.length, false);
    await made.client.end();
    const wanted = await columns(made.url);
    await made.drop();
    for (const [count, early] of [
      [1, false],
      [5, false],
      [6, true],
      [7, true],
      [7, false],
    ] as const) {
      const old = await databaseAt(count, early);
      await old.client.end();
      const { close } = await openDatabase(old.url, pino({ level: 'silent' }));
      await close();
      expect(await columns(old.url), `${count} migrations${early ? ', the early form' : ''}`).to.deep.equal(wanted);
      await old.drop();
    }
  });
});
