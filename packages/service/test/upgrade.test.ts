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

  it('keeps what was stored under earlier words, by the words of today', async () => {
    const old = await databaseAt(
      entries.findIndex((e) => e.tag === '0016_words'),
      false,
    );
    const id = (n: number) => `00000000-0000-4000-8000-00000000000${n}`;
    await old.client.query(`insert into systems (id, slug, name, kind, settings, secrets) values ('${id(1)}', 'a', 'A', 'csv', '{}', '')`);
    await old.client.query(
      `insert into lanes (id, slug, version, definition, state, records_system, calendar_system, calendar_name)
       values ('${id(2)}', 'x', 1, '{"departures":{"eventDeleted":"make again"},"tell":["a@alder-wren.example"]}', 'paused', '${id(1)}', '${id(1)}', 'C')`,
    );
    for (const [n, state] of ['making', 'in doubt', 'agreed', 'parted', 'held'].entries())
      await old.client.query(
        `insert into pairs (id, lane, record_id, moment, uid, state, label, lane_version) values ('${id(n)}', '${id(2)}', 'R${n}', 'm', 'u', '${state}', '', 1)`,
      );
    for (const kind of ['make', 'make record', 'part', 'change'])
      await old.client.query(
        `insert into journal (run, lane, lane_version, pair, moment, label, kind, cause, changes, notes) values ('${id(3)}', '${id(2)}', 1, '${id(0)}', 'm', '', '${kind}', '', '[]', '[]')`,
      );
    await old.client.query(
      `insert into runs (id, lane, lane_version, cause, scope, state, counts) values ('${id(3)}', '${id(2)}', 1, 'check', 'sweep', 'done', '{"made":3,"agreed":1,"parted":2,"held":1}')`,
    );
    await old.client.query(
      `insert into holds (lane, pair, moment, label, question, choices, cause, record, event, state, choice)
       values ('${id(2)}', '${id(4)}', 'm', '', 'event deleted', '["make again", "delete record", "part"]', '', '{}', '{}', 'settled', 'part')`,
    );
    const { pool, close } = await openDatabase(old.url, pino({ level: 'silent' }));
    const column = async (sql: string) => (await pool.query<{ v: unknown }>(sql)).rows.map((r) => r.v);
    expect(await column('select state as v from pairs order by id')).to.deep.equal(['creating', 'unconfirmed', 'in sync', 'unlinked', 'held']);
    expect(await column('select kind as v from journal order by id')).to.deep.equal(['create', 'create record', 'unlink', 'change']);
    expect(await column('select counts as v from runs')).to.deep.equal([{ created: 3, inSync: 1, unlinked: 2, held: 1 }]);
    expect(await column('select choices as v from holds')).to.deep.equal([['create again', 'delete record', 'unlink']]);
    expect(await column('select choice as v from holds')).to.deep.equal(['unlink']);
    expect(await column(`select definition #>> '{departures,eventDeleted}' as v from lanes`)).to.deep.equal(['create again']);
    expect(await column(`select definition -> 'notify' as v from lanes where not definition ? 'tell'`)).to.deep.equal([['a@alder-wren.example']]);
    expect(await column('select pairs as v from lane_counts')).to.deep.equal([4]);
    await pool.query(`update pairs set state = 'unlinked' where state = 'held'`);
    expect(await column('select pairs as v from lane_counts'), 'triggers know the words, too').to.deep.equal([3]);
    await close();
    await old.client.end();
    await old.drop();
  });
});
