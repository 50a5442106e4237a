import { expect } from 'chai';
import pg from 'pg';
import { plainVisits, startStandin } from '../../../test/support/front-desk.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { dav, eventually } from '../../../test/support/servers.ts';
import { findOverdue } from '../src/jobs/watchdog.ts';

describe('the queue', () => {
  let office: Office;
  before(async function () {
    this.timeout(60_000);
    office = await openOffice({ notices: false, seed: plainVisits(3) });
  });
  after(() => office.stop());

  it('replaces workers that gave up while the database took no writes, and frees their jobs', async function () {
    this.timeout(60_000);
    const database = new pg.Client({ connectionString: office.databaseUrl });
    await database.connect();
    // As in a database that is read-only or full for a moment: how a job ended cannot be written down.
    await database.query(`create function refuse() returns trigger language plpgsql as $$ begin raise 'read-only' using errcode = '25006'; end $$;
      create trigger refuse before delete on graphile_worker._private_jobs for each row execute function refuse()`);
    const locked = async () =>
      (await database.query<{ n: number }>(`select count(*)::int as n from graphile_worker._private_jobs where locked_at is not null`)).rows[0]!.n;
    await office.run({ sweep: true });
    await eventually('workers gave up', async () => (await locked()) > 0);
    await database.query('drop trigger refuse on graphile_worker._private_jobs');
    await eventually('their jobs are free', async () => (await locked()) === 0, 15_000);
    const run = await office.run({ sweep: true });
    expect(run.state).to.equal('done');
    await database.end();
  });

  it('comes back by itself after a full disk: probes say so meanwhile, no edit is lost or doubled', async function () {
    this.timeout(90_000);
    const database = new pg.Client({ connectionString: office.databaseUrl });
    await database.connect();
    await office.run({ sweep: true });
    const tables = (
      await database.query<{ name: string }>(
        `select format('%I.%I', schemaname, tablename) as name from pg_tables where schemaname = 'public' or (schemaname = 'graphile_worker' and tablename like '%jobs')`,
      )
    ).rows.map((r) => r.name);
    // As PostgreSQL says it when a table cannot grow: reading goes on, and so does deleting.
    await database.query(`create function disk_full() returns trigger language plpgsql as
      $$ begin raise 'could not extend file: No space left on device' using errcode = '53100'; end $$`);
    for (const table of tables)
      await database.query(`create trigger disk_full before insert or update on ${table} for each row execute function disk_full()`);
    await office.frontDesk.call('PATCH', '/visits/V-1001', { instrument: 'Rook grand' });
    const event = (await office.event('V-1002'))!;
    const moved = event.text.replace(/SUMMARY:.*/, 'SUMMARY:Moved while the disk was full');
    await dav(office.diary, 'PUT', event.href, { 'content-type': 'text/calendar' }, moved);
    const ready = await eventually('it is not ready', async () => {
      const answer = await fetch(`${office.address}/readyz`);
      return answer.status === 503 && answer.text();
    });
    expect(ready).to.match(/the database is not available: .*53100/);
    const asked = await fetch(`${office.address}/api/v1/lanes/tuning-visits/runs`, {
      method: 'POST',
      headers: { authorization: `Bearer ${office.token}`, 'content-type': 'application/json' },
      body: '{"sweep":true}',
    });
    expect(asked.status).to.equal(503);
    expect(await asked.text()).to.match(/the database/i);
    // Reading goes on.
    expect((await office.client.lane('tuning-visits')).slug).to.equal('tuning-visits');
    for (const table of tables) await database.query(`drop trigger disk_full on ${table}`);
    await eventually('it is ready again', async () => (await fetch(`${office.address}/readyz`)).status === 200);
    await eventually(
      'a run is done',
      async () => (await office.run({ sweep: true })).state === 'done' && (await office.event('V-1001'))!.text.includes('Rook grand'),
      30_000,
    );
    const { differences } = await office.client.audit('tuning-visits');
    expect(differences.filter((d) => d.recordId !== 'V-1002')).to.deep.equal([]);
    const entries = (await office.client.journal({ lane: 'tuning-visits', record: 'V-1001' })).items;
    expect(entries.filter((e) => e.changes.some((c) => JSON.stringify(c.after).includes('Rook grand')))).to.have.length(1);
    await database.end();
  });

  it('that stands still is noticed without its help: on Today, by mail, and in the metrics', async () => {
    const room = await startStandin('post-room', ['--smtp-port', '0']);
    const address = `smtp://127.0.0.1:${/smtp:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1]}`;
    await office.client.connect({ slug: 'post', name: 'Post', kind: 'mail', settings: { address, from: 'monsoon@alder-wren.example' }, secrets: {} });
    const lane = await office.client.lane('tuning-visits');
    const database = new pg.Client({ connectionString: office.databaseUrl });
    await database.connect();
    await database.query(
      `update lanes set next_run_at = now() - interval '1 hour',
      definition = jsonb_set(definition, '{notify}', '["una@alder-wren.example"]') where slug = $1`,
      [lane.slug],
    );
    await findOverdue(office.app);
    await findOverdue(office.app);
    const { troubles } = await office.client.today();
    expect(troubles.find((t) => t.slug === lane.slug)?.detail).to.match(/^its run was due at .*Z and has not started/);
    const { items } = (await (await fetch(`${room.address}/api/mails`)).json()) as { items: { to: string[]; subject: string }[] };
    expect(items.map((m) => [m.to, m.subject])).to.deep.equal([[['una@alder-wren.example'], 'Tuning visits: the lane stands still']]);
    const metrics = await (await fetch(`${office.address}/metrics`, { headers: { authorization: `Bearer ${office.token}` } })).text();
    expect(metrics).to.match(/monsoon_lane_overdue_seconds\{lane="tuning-visits"\} 36\d\d/);
    await office.run({ sweep: true });
    expect((await office.client.lane('tuning-visits')).trouble).to.equal(null);
    await database.end();
    room.stop();
  });

  it('takes the turns that an earlier version put into it', async function () {
    this.timeout(60_000);
    const database = new pg.Client({ connectionString: office.databaseUrl });
    await database.connect();
    const lane = await office.client.lane('tuning-visits');
    const add = (more: object) =>
      database.query(`select graphile_worker.add_job('run-lane', payload := $1::json, queue_name := $2)`, [
        JSON.stringify({ lane: lane.id, cause: 'asked', scope: 'auto', ...more }),
        `lane:${lane.id}`,
      ]);
    const scopes = async () => (await office.client.runs({ lane: 'tuning-visits' })).items.map((r) => r.scope);
    await add({ scope: 'sweep' });
    await eventually('a sweep', async () => (await scopes())[0] === 'sweep');
    await add({ scope: { records: ['V-1002'] } });
    await eventually('a run of one record', async () => (await scopes())[0] === 'items V-1002');
    await office.frontDesk.call('PATCH', '/visits/V-1002', { instrument: 'Wren upright' });
    const run = await office.run({ records: ['V-1002'] });
    await add({ undo: { run: run.id } });
    await eventually('the undo', async () => (await scopes())[0] === `undo of run ${run.id}`);
    await add({ audit: true });
    await eventually('the audit', async () => (await office.client.pastAudits('tuning-visits')).items.length === 1);
    await add({ stop: 'unlink' });
    await eventually('the stop', async () => (await scopes())[0] === 'stop, unlink');
    await database.end();
  });
});
