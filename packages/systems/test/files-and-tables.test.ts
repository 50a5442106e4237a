import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { loadZones } from '@monsoon/service';
import { type Changed, kinds, type OpenSystem } from '@monsoon/systems';
import { expect } from 'chai';
import pg from 'pg';
import { trouble } from '../../../test/support/outside.ts';
import { eventually, freshDatabase } from '../../../test/support/servers.ts';

const signal = new AbortController().signal;
const folder = mkdtempSync(join(tmpdir(), 'sheets-'));
after(() => rmSync(folder, { recursive: true, force: true }));
const options = { addresses: { allowed: ['127.0.0.1'] }, zones: loadZones(), folders: [folder] };
const pull = async (system: OpenSystem, collection: string, cursor: string | null = null) => {
  const items = [];
  const gone: string[] = [];
  let last: string | null | undefined;
  for await (const page of system.records!.pull(collection, cursor, signal)) {
    items.push(...page.items);
    gone.push(...page.gone);
    last = page.cursor;
  }
  return { items, gone, cursor: last ?? null };
};
const steps = async (system: OpenSystem) => {
  const all = [];
  for await (const step of system.records!.probe(signal)) all.push(step);
  return all;
};

describe('CSV files', () => {
  const open = (collections: object = {}, address = folder) => kinds['csv']!.open({ address, collections }, {}, options);

  it('are read by what their values show: days of any country, numbers, yes and no, people, choices', async () => {
    writeFileSync(
      join(folder, 'mixed.csv'),
      '\ufeffid;day;at;price;done;who;kind;phone;note\r\n' +
        '1;24.12.2026;24.12.2026 09:30;3,5;yes;ines@alder-wren.example;tuning;0113 496;"two\r\nlines; and ""quotes"""\r\n' +
        '2;31.01.2027;;12;no;;voicing;0114 111;\r\n3;;;;;;tuning;;x\r\n4;;;;;;tuning;;x\r\n5;;;;;;voicing;;x\r\n6;;;;;;tuning;;x\r\n',
    );
    const system = open();
    const described = (await system.records!.describe()).find((c) => c.name === 'mixed')!;
    expect(Object.fromEntries(described.fields.map((f) => [f.name, f.type]))).to.deep.equal({
      id: 'text',
      day: 'date',
      at: 'date-time',
      price: 'number',
      done: 'yes/no',
      who: 'person',
      kind: 'choice',
      phone: 'text',
      note: 'long text',
    });
    const { items } = await pull(system, 'mixed');
    expect(items[0]!.fields).to.deep.include({
      day: '2026-12-24',
      at: '2026-12-24T09:30:00',
      price: 3.5,
      done: true,
      who: { email: 'ines@alder-wren.example' },
    });
    expect(items[1]!.fields).to.deep.include({ day: '2027-01-31', at: null, done: false, who: null });
    await system.close();
  });

  it('are written back in their own forms, and nothing else in them changes', async () => {
    const file = join(folder, 'own.csv');
    const lines = ['id,day,at,name', '1,12/24/2026,12/24/2026 09:30,"plain, as it was"', "2,12/31/2026,12/31/2026 10:00,'odd'  spacing ", ''];
    writeFileSync(file, lines.join('\n'));
    const system = open({ own: { write: ['day', 'at', 'name'], create: true } });
    const one = (await system.records!.read('own', '2', signal))!;
    await system.records!.change('own', one, { day: '2027-01-02', at: '2027-01-02T11:15:00' }, signal);
    expect(readFileSync(file, 'utf8')).to.equal([...lines.slice(0, 2), "2,01/02/2027,01/02/2027 11:15,'odd'  spacing ", ''].join('\n'));
    expect(await trouble(system.records!.change('own', one, { name: 'late' }, signal))).to.include({ trouble: 'changed meanwhile' });
    expect((await trouble(system.records!.create('own', { name: 'no key' }, 'k', signal))).message).to.match(/needs a value for id/);
    await system.close();
  });

  it('get no formula of a lane for the spreadsheet that opens them, and keep what is text', async () => {
    const file = join(folder, 'formulas.csv');
    writeFileSync(file, 'id,name\n1,=OLD()\n2,a\n');
    const system = open({ formulas: { write: ['name'], create: true } });
    const [own, other] = (await pull(system, 'formulas')).items;
    for (const bad of ['=1+1', '@SUM(A1)', '+cmd|calc', '-2+3(x)', '\t=1']) {
      const refused = await trouble(system.records!.change('formulas', other!, { name: bad }, signal));
      expect(refused, bad).to.include({ trouble: 'refused' });
      expect(refused.message).to.match(/would be a formula for a spreadsheet .* not written to "name"/);
    }
    await system.records!.change('formulas', other!, { name: '+44 20 7946 0000' }, signal);
    // What stands there already is its owner's.
    await system.records!.change('formulas', own!, { name: '=OLD()' }, signal);
    expect(readFileSync(file, 'utf8')).to.equal('id,name\n1,=OLD()\n2,+44 20 7946 0000\n');
    await system.close();
  });

  it('do not wait for a pipe that lies among them', async () => {
    execFileSync('mkfifo', [join(folder, 'pipe.csv')]);
    const system = open();
    expect((await steps(system)).find((s) => s.name === 'collection pipe')).to.deep.include({ outcome: 'failed' });
    expect((await trouble(pull(system, 'pipe'))).message).to.match(/is no regular file/);
    await system.close();
    rmSync(join(folder, 'pipe.csv'));
  });

  it('lie only where the operator allows, whatever links say; and say what is wrong in them', async () => {
    expect((await trouble(pull(open({}, '/etc'), 'passwd'))).message).to.match(/does not lie in a folder .*MONSOON_ALLOW_FOLDERS/);
    symlinkSync('/etc/passwd', join(folder, 'link.csv'));
    expect(await trouble(pull(open(), 'link'))).to.include({ trouble: 'forbidden address' });
    rmSync(join(folder, 'link.csv'));
    for (const [text, words] of [
      ['id,x\n1,a\n1,b\n', /rows 2 and 3 have the same name 1/],
      ['id,x\n,a\n', /row 2 has no value in id/],
      ['name,x\na,b\n', /no column names a row/],
      ['id,x,x\n1,2,3\n', /two columns have the name "x"/],
      ['id,x\n1,2,3\n', /row 2 has 3 values for 2 columns/],
      ['id,x\n1,"open\n', /cannot be read as CSV/],
      ['', /is empty/],
    ] as const) {
      writeFileSync(join(folder, 'wrong.csv'), text);
      const system = open();
      expect((await trouble(pull(system, 'wrong'))).message, text).to.match(words);
      expect((await steps(system)).find((s) => s.name === 'collection wrong')).to.include({ outcome: 'failed' });
      await system.close();
    }
    rmSync(join(folder, 'wrong.csv'));
  });
});

describe('tables and views of PostgreSQL', () => {
  let database: Awaited<ReturnType<typeof freshDatabase>>;
  let client: pg.Client;
  let url: URL;
  before(async () => {
    database = await freshDatabase();
    url = new URL(database.url);
    client = new pg.Client({ connectionString: database.url });
    await client.connect();
    await client.query(`create type mood as enum ('calm', 'wild');
      create domain small as varchar(5);
      create table venue (id int primary key, name text);
      insert into venue values (1, 'Meadow Hall'), (2, 'Quayside');
      create table hire (no int, part text, venue_id int references venue, at timestamptz, wall timestamp, day date, tod time, took interval, amount numeric(8,2),
        feels mood, tags text[], code small, open boolean, status text check (status in ('booked', 'it''s out')), owner text, secret bytea, primary key (no, part));
      comment on column hire.at is 'Delivery';
      insert into hire values (7, 'a,"b"', 1, '2026-12-15 12:00-08', '2026-12-15 12:00', '2026-12-15', '09:30', '90 minutes', 12.5, 'calm', '{x,"y, z"}', 'abc', true, 'booked', 'ines@alder-wren.example', '\\x00'),
        (8, 'z', null, 'infinity', null, null, null, null, null, null, null, null, null, null, null, null);
      create role reader login password 'reads' nosuperuser; grant usage on schema public to reader; grant select on hire to reader; grant select (id) on venue to reader`);
  });
  after(async () => {
    await client.end();
    await database.drop();
    const admin = new pg.Client({ connectionString: database.url.replace(/\/[^/]+$/, '/app') });
    await admin.connect();
    await admin.query('drop role if exists reader');
    await admin.end();
  });
  const open = (collections: object = {}, user = 'app', password = url.password) =>
    kinds['postgresql']!.open(
      { address: `postgresql://${url.host}${url.pathname}`, user, tls: 'off', zone: 'Europe/London', collections },
      { password },
      options,
    );
  const writing = { hire: { write: ['at', 'wall', 'day', 'took', 'tags', 'venue_id', 'owner', 'open', 'status'], types: { owner: 'person' } } };

  it('have the types, choices, labels and references that the catalogue tells', async () => {
    const system = open(writing);
    const hire = (await system.records!.describe()).find((c) => c.name === 'hire')!;
    expect(Object.fromEntries(hire.fields.map((f) => [f.name, f.type]))).to.deep.equal({
      no: 'number',
      part: 'long text',
      venue_id: 'reference',
      at: 'date-time',
      wall: 'date-time',
      day: 'date',
      tod: 'time',
      took: 'duration',
      amount: 'number',
      feels: 'choice',
      tags: 'choices',
      code: 'text',
      open: 'yes/no',
      status: 'choice',
      owner: 'person',
    });
    expect(hire.fields.find((f) => f.name === 'status')).to.deep.include({ choices: ['booked', "it's out"] });
    expect(hire.fields.find((f) => f.name === 'at')).to.deep.include({ label: 'Delivery' });
    expect(hire.fields.find((f) => f.name === 'amount')).to.include({ readOnly: true });
    expect(hire.may).to.deep.equal({ create: false, change: true, remove: false });
    const { items } = await pull(system, 'hire');
    expect(items[0]!.fields).to.deep.include({
      venue_id: { id: '1', label: 'Meadow Hall' },
      at: '2026-12-15T20:00:00Z[Europe/London]',
      wall: '2026-12-15T12:00:00[Europe/London]',
      day: '2026-12-15',
      tod: '09:30:00',
      took: 90,
      amount: 12.5,
      feels: 'calm',
      tags: ['x', 'y, z'],
      owner: { email: 'ines@alder-wren.example' },
    });
    expect(items[1]!.fields).to.include({ at: null, venue_id: null });
    await system.close();
  });

  it('are written by key, in named columns alone, and only as they were read', async () => {
    const system = open(writing);
    const id = (await pull(system, 'hire')).items[0]!.id;
    expect(JSON.parse(id)).to.deep.equal(['7', 'a,"b"']);
    const row = (await system.records!.read('hire', id, signal))!;
    const changed = await system.records!.change(
      'hire',
      row,
      {
        at: '2027-01-05T09:00:00[America/Vancouver]',
        wall: '2027-07-01T09:00:00[Europe/London]',
        took: 45,
        tags: ['q"uote', 'b\\s'],
        venue_id: { id: '2' },
        owner: null,
        amount: 99,
        status: "it's out",
      },
      signal,
    );
    expect(changed.fields).to.deep.include({
      at: '2027-01-05T16:00:00Z[Europe/London]',
      wall: '2027-07-01T09:00:00[Europe/London]',
      took: 45,
      tags: ['q"uote', 'b\\s'],
      venue_id: { id: '2', label: 'Quayside' },
      owner: null,
      amount: 12.5,
    });
    expect(await trouble(system.records!.change('hire', row, { open: false }, signal))).to.include({ trouble: 'changed meanwhile' });
    const refused = await trouble(system.records!.change('hire', changed, { status: 'sold' }, signal));
    expect(refused).to.include({ trouble: 'refused' });
    expect(refused.message)
      .to.match(/hire_status_check/)
      .and.not.to.match(/ines@/);
    expect(await trouble(system.records!.change('hire', changed, { venue_id: { id: "1'; drop table hire; --" } }, signal))).to.include({
      trouble: 'refused',
    });
    expect(await system.records!.read('hire', '["1"]', signal)).to.equal(null);
    expect(await system.records!.read('hire', '["x","y"]', signal)).to.equal(null);
    await system.close();
  });

  it('lose no change of a transaction that was open while others were read', async () => {
    const system = open(writing);
    await system.records!.track!('hire', true);
    const other = new pg.Client({ connectionString: database.url });
    await other.connect();
    await other.query(`begin; update hire set owner = 'late@alder-wren.example' where no = 7`);
    await client.query(`update hire set owner = 'early@alder-wren.example' where no = 8`);
    const first = await pull(system, 'hire');
    expect(first.items.map((i) => i.fields['owner'])).to.deep.include({ email: 'early@alder-wren.example' });
    await client.query(`update hire set open = true where no = 8`);
    const second = await pull(system, 'hire', first.cursor);
    await other.query('commit');
    await other.end();
    const third = await pull(system, 'hire', second.cursor);
    expect(third.items.map((i) => i.fields['owner'])).to.deep.include({ email: 'late@alder-wren.example' });
    await client.query(`update hire set no = 70 where no = 7`);
    const renamed = await pull(system, 'hire', third.cursor);
    expect(renamed.gone.map((g) => JSON.parse(g)[0])).to.deep.equal(['7']);
    await client.query(`update hire set no = 7 where no = 70`);
    const heard: Changed[] = [];
    const stop = await system.watch!(
      (what) => heard.push(what),
      () => undefined,
    );
    await client.query(`update hire set open = false where no = 8`);
    await eventually('it is told', async () => heard.length > 0);
    const [row] = (await pull(system, 'hire')).items;
    await system.records!.change('hire', row!, { day: '2026-12-24' }, signal);
    await eventually('our own write is told as ours', async () => heard.length > 1);
    expect(heard).to.deep.equal([
      { collection: 'hire', ours: false },
      { collection: 'hire', ours: true },
    ]);
    await stop();
    expect((await system.records!.tracking!('hire')).state).to.equal('installed');
    await system.records!.track!('hire', false);
    expect((await system.records!.tracking!('hire')).state).to.equal('possible');
    expect((await client.query(`select 1 from pg_class where relname = 'monsoon_changes'`)).rowCount).to.equal(0);
    await system.close();
  });

  it('report their changes whatever their names are: long ones, and ones with dollar signs', async () => {
    const long = 'a_table_whose_name_is_so_long_that_postgresql_would_cut_it';
    await client.query(
      `create schema "of$$money"; create table "of$$money"."${long}1" (id int primary key); create table "of$$money"."${long}2" (id int primary key)`,
    );
    const address = `postgresql://${url.host}${url.pathname}`;
    const settings = { address, user: 'app', tls: 'off', zone: 'UTC', schema: 'of$$money' };
    const system = kinds['postgresql']!.open(settings, { password: url.password }, options);
    const names = (await system.records!.describe()).map((c) => c.name);
    expect(names).to.have.length(2);
    for (const name of names) await system.records!.track!(name, true);
    const triggers = await client.query(`select tgname from pg_trigger where tgname like 'monsoon\\_%'`);
    expect(new Set(triggers.rows.map((r) => r.tgname)).size).to.equal(4);
    const first = await Promise.all(names.map((n) => pull(system, n)));
    await client.query(
      `insert into "of$$money"."${long}1" values (1); insert into "of$$money"."${long}2" values (2); truncate "of$$money"."${long}2"`,
    );
    const [one] = await Promise.all(names.map((n, i) => pull(system, n, first[i]!.cursor)));
    expect(one!.items.map((i) => i.id)).to.deep.equal(['1']);
    for (const name of names) await system.records!.track!(name, false);
    expect((await client.query(`select 1 from pg_trigger where tgname like 'monsoon\\_%'`)).rowCount).to.equal(0);
    await client.query('drop schema "of$$money" cascade');
    await system.close();
  });

  it('are seen to change at once: columns, types, rights, triggers, names', async () => {
    const system = open(writing, 'reader', 'reads');
    const seen = async () => (await system.records!.describe(['hire'])).flatMap((c) => c.fields.map((f) => `${f.name} ${f.type}`));
    const before = await seen();
    await client.query('alter table hire add column extra int; grant select on hire to reader');
    expect(await seen()).to.deep.equal([...before, 'extra number']);
    await client.query('alter table hire alter column extra type text');
    expect(await seen()).to.include('extra long text');
    await client.query('revoke select on hire from reader; grant select (no, part) on hire to reader');
    expect(await seen()).to.deep.equal(['no number', 'part long text']);
    await client.query('revoke select (no, part) on hire from reader; grant select on hire to reader; alter table hire drop column extra');
    expect(await seen()).to.deep.equal(before);
    await client.query('alter table hire rename to hired');
    expect(await seen()).to.deep.equal([]);
    expect((await trouble(pull(system, 'hire'))).message).to.match(/has no table or view "hire" that may be read; there are/);
    await client.query('alter table hired rename to hire');
    expect(await seen()).to.deep.equal(before);
    await open(writing).records!.track!('hire', true);
    expect((await system.records!.tracking!('hire')).state).to.equal('installed');
    await open(writing).records!.track!('hire', false);
    await system.close();
  });

  it('say in a check which rights are missing, or too many', async () => {
    const reader = open({ hire: { write: ['day'] } }, 'reader', 'reads');
    const told = await steps(reader);
    expect(told.find((s) => s.name === 'rights')).to.include({ outcome: 'ok' });
    const hire = told.find((s) => s.name === 'collection hire')!;
    expect(hire).to.include({ outcome: 'warning' });
    expect(hire.detail).to.match(/grant update \(day\) on "public"\."hire" to reader/);
    const row = (await pull(reader, 'hire')).items[0]!;
    expect(row.fields['venue_id'], 'a label that may not be read is left out').to.deep.equal({ id: '2' });
    expect((await trouble(reader.records!.track!('hire', true))).message).to.match(/must be owner|permission denied/);
    expect((await steps(open())).find((s) => s.name === 'rights')).to.include({ outcome: 'warning' });
    const nowhere = (await steps(open({ nowhere: {} }))).find((s) => s.name === 'collection nowhere');
    expect(nowhere).to.include({ outcome: 'failed' });
    expect(nowhere?.detail).to.match(/no table or view "nowhere".*there are .*hire/);
    expect(await trouble(pull(open(), 'nowhere'))).to.include({ trouble: 'nonsense' });
    await reader.close();
  });

  it('survive the loss of a connection in the middle of a write', async () => {
    const system = open({ hire: { write: ['day'] } });
    const item = (await pull(system, 'hire')).items[0]!;
    await client.query(`create function dawdle() returns trigger language plpgsql as 'begin perform pg_sleep(20); return new; end';
      create trigger dawdle before update on hire for each row execute function dawdle()`);
    const writing = trouble(system.records!.change('hire', item, { day: '2027-03-01' }, signal));
    const cut = `select pg_terminate_backend(pid) from pg_stat_activity where wait_event = 'PgSleep' and datname = current_database()`;
    await eventually('the connection is cut', async () => ((await client.query(cut)).rowCount ?? 0) > 0);
    expect((await writing).trouble).to.equal('unreachable');
    await client.query('drop trigger dawdle on hire');
    expect((await pull(system, 'hire')).items[0]!.fields['day'], 'nothing was written, and it goes on').to.equal(item.fields['day']);
    await system.close();
  });

  it('are asked for only at addresses that are allowed', async () => {
    const system = kinds['postgresql']!.open(
      { address: `postgresql://${url.host}${url.pathname}`, user: 'app', tls: 'off' },
      { password: url.password },
      { ...options, addresses: { allowed: [] } },
    );
    expect(await trouble(system.records!.describe())).to.include({ trouble: 'forbidden address' });
    await system.close();
  });
});
