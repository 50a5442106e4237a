import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import { MonsoonClient, type ServiceProblem } from '@monsoon/contract/client';
import { expect } from 'chai';
import pg from 'pg';
import { Webhook } from 'standardwebhooks';
import { plainVisits, startStandin } from '../../../test/support/front-desk.ts';
import { getToken, type Office, openOffice, spawnService } from '../../../test/support/office.ts';
import { dav, eventually, freshDatabase } from '../../../test/support/servers.ts';

const KEY = Buffer.alloc(32, 7).toString('base64');
const refused = (work: Promise<unknown>): Promise<ServiceProblem> =>
  work.then(
    () => {
      throw new Error('it was let through');
    },
    (e: ServiceProblem) => e,
  );

describe('living with it', () => {
  let office: Office;
  let database: pg.Client;
  before(async function () {
    this.timeout(60_000);
    office = await openOffice({ seed: plainVisits(8) });
    database = new pg.Client({ connectionString: office.databaseUrl });
    await database.connect();
    await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done');
  });
  after(async () => {
    await database.end();
    await office.stop();
  });

  it('stops everything at once, says who and why, and goes on without having lost anything', async () => {
    await office.client.pauseEverything('the calendar server is being moved');
    const { paused } = await office.client.today();
    expect(paused).to.include({ by: 'ines@alder-wren.example', why: 'the calendar server is being moved' });
    await office.client.pauseEverything('another reason');
    expect((await office.client.paused())!.why, 'who paused first stays named').to.equal('the calendar server is being moved');
    expect((await refused(office.client.run('tuning-visits'))).message).to.match(
      /everything is paused since .*, by ines@.*: the calendar server is being moved/,
    );
    await office.frontDesk.call('PATCH', '/visits/V-1001', { instrument: 'Alder spinet' });
    await new Promise((fine) => setTimeout(fine, 1000));
    expect((await office.event('V-1001'))!.text).to.not.include('Alder spinet');
    await office.client.resumeEverything();
    expect(await office.client.paused()).to.equal(null);
    await eventually('it crosses', async () => (await office.event('V-1001'))!.text.includes('Alder spinet'));
  });

  it('measures how long an edit takes to arrive', async () => {
    await office.frontDesk.call('PATCH', '/visits/V-1002', { instrument: 'Wren cottage piano' });
    await eventually('it crosses', async () => (await office.event('V-1002'))!.text.includes('Wren cottage'));
    const { delay } = await office.client.lane('tuning-visits');
    expect(delay!.count).to.be.greaterThan(0);
    expect(delay!.median).to.be.within(0, 30);
    expect(delay!.most).to.be.at.least(delay!.median);
  });

  it('sees an edit on the calendar without waiting for the regular check', async function () {
    this.timeout(60_000);
    const system = await office.client.system('diary');
    await office.client.changeSystem('diary', { settings: { ...(system.settings as object), look: 1 } });
    const lane = await office.client.lane('tuning-visits');
    await office.client.changeLane('tuning-visits', lane.version, { ...lane.definition, foreignEdits: 'put back', checkEvery: 1440 });
    await office.run();
    const { href, text, etag } = (await office.event('V-1003'))!;
    const moved = text.replace(/^SUMMARY:.*$/m, 'SUMMARY:Scribbled over');
    await dav(office.diary, 'PUT', href, { 'if-match': etag!, 'content-type': 'text/calendar' }, moved);
    await eventually('it is put back', async () => !(await office.event('V-1003'))!.text.includes('Scribbled over'));
  });

  it('groups what failed by reason, and tries it again', async () => {
    await office.frontDesk.call('PATCH', '/visits/V-1004', { length_minutes: null });
    const [group] = await eventually('it fails', async () => {
      const { items } = await office.client.failures('tuning-visits');
      return items.length > 0 && items;
    });
    expect(group).to.deep.include({ reason: 'unfit value', count: 1 });
    expect(group!.items[0]!.recordId).to.equal('V-1004');
    await office.client.pause('tuning-visits');
    await office.frontDesk.call('PATCH', '/visits/V-1004', { length_minutes: 45 });
    const run = await office.settled(await office.client.retry('tuning-visits', { reason: 'unfit value' }));
    expect(run).to.include({ state: 'done' });
    expect((await office.client.failures('tuning-visits')).items).to.deep.equal([]);
    expect((await refused(office.client.retry('tuning-visits'))).status).to.equal(409);
    await office.client.resume('tuning-visits');
  });

  it('remembers audits, and counts what is on the calendar', async () => {
    await office.run();
    await office.client.audit('tuning-visits');
    const [audit] = (await office.client.pastAudits('tuning-visits')).items;
    expect(audit).to.include({ cause: 'asked', differences: 0, addsUp: true });
    const year = { from: '2026-01-01', until: '2027-12-31', step: 'month' as const, zone: 'Europe/London' };
    const lanes = await office.client.counts(year);
    expect(lanes).to.include({ total: 8, complete: true });
    const side = await office.client.counts({ ...year, system: 'front-desk', collection: 'visits', by: 'status' });
    expect(side.total).to.equal(8);
    const calendar = await office.client.counts({ ...year, system: 'diary', calendar: office.calendar });
    expect(calendar.groups.map((g) => g.counts.reduce((a, b) => a + b, 0))).to.deep.equal([8]);
    expect((await refused(office.client.counts({ ...year, system: 'front-desk', collection: 'visits', by: 'colour' }))).message).to.match(
      /Visits has no field "colour"; it has /i,
    );
    expect((await refused(office.client.counts({ ...year, by: 'colour scheme' }))).message).to.match(
      /"colour scheme" is not what events can be grouped by; that is lane, when, recurrence, title/,
    );
    expect((await refused(office.client.counts({ ...year, from: '2026-02-30' }))).message).to.match(/"2026-02-30" is not a day/);
    expect((await refused(office.client.counts({ ...year, collection: 'visits' }))).problems[0]!.pointer).to.equal('/system');
    expect(await office.client.countsCsv({ ...year, by: 'status' })).to.match(/^month from,confirmed\r\n2026-01-01,0\r\n/);
    expect((await refused(office.client.counts({ ...year, zone: 'Nowhere' }))).problems[0]!.pointer).to.equal('/zone');
  });

  it('gives the journal out as CSV and JSON, without names and contents unless they are asked for', async () => {
    const whole = async (ask: Parameters<MonsoonClient['exportJournal']>[0]) => {
      let text = '';
      for await (const piece of office.client.exportJournal(ask)) text += piece;
      return text;
    };
    const csv = await whole({ format: 'csv', lane: 'tuning-visits' });
    expect(csv.split('\r\n')[0]).to.equal('at,run,lane,laneVersion,kind,recordId,href,moment,cause,side,property');
    expect(csv).to.include('V-1001').and.to.not.include('Alder spinet');
    expect(await whole({ format: 'csv', values: true })).to.include('Alder spinet');
    const entries = JSON.parse(await whole({ format: 'json' })) as { recordId: string }[];
    expect(entries.length).to.be.greaterThan(8);
    expect(JSON.stringify(entries)).to.not.include('Alder spinet');
  });

  it('tells people and programs once for each cause, in one mail, and again only when it was over', async function () {
    this.timeout(60_000);
    const room = await startStandin('post-room', ['--smtp-port', '0', '--user', 'monsoon:post']);
    const mails = async () =>
      ((await (await fetch(`${room.address}/api/mails`)).json()) as { items: { to: string[]; subject: string; text: string; html?: string }[] })
        .items;
    const posted: { headers: IncomingMessage['headers']; body: string }[] = [];
    const listener = createServer((request, response) => {
      let body = '';
      request.on('data', (piece) => {
        body += piece;
      });
      request.on('end', () => {
        posted.push({ headers: request.headers, body });
        response.statusCode = posted.length === 1 ? 503 : 204;
        response.end();
      });
    });
    await new Promise<void>((fine) => listener.listen(0, '127.0.0.1', fine));
    const settings = {
      address: `smtp://127.0.0.1:${/smtp:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1]}`,
      from: 'monsoon@alder-wren.example',
      user: 'monsoon',
    };
    await office.client.connect({ slug: 'post', name: 'Post', kind: 'mail', settings, secrets: { password: 'post' } });
    await office.client.setNotifications({ occasions: ['needs a person', 'lane stopped'], digest: null });
    const hook = await office.client.addWebhook({
      name: 'chat',
      url: `http://127.0.0.1:${(listener.address() as AddressInfo).port}/monsoon`,
      occasions: ['needs a person'],
    });
    expect((await office.client.webhooks()).items[0]).to.not.have.property('secret');
    for (const visit of ['V-1005', 'V-1006']) {
      await dav(office.diary, 'DELETE', (await office.event(visit))!.href);
      await office.run({ sweep: true });
    }
    await office.run({ sweep: true });
    const [mail, ...more] = await eventually('the mail', async () => ((await mails()).length > 0 ? mails() : null));
    expect(more).to.deep.equal([]);
    expect(mail).to.deep.include({ to: ['ines@alder-wren.example'], subject: 'Tuning visits: 2 questions wait for you' });
    expect(mail!.text).to.include(`${office.address}/holds`);
    // What was refused is posted again under the same id, and its signature is the receiver's to check.
    await eventually('the webhook', async () => posted.length >= 2);
    expect(posted[0]!.headers['webhook-id']).to.equal(posted[1]!.headers['webhook-id']);
    const said = new Webhook(hook.secret).verify(posted[1]!.body, posted[1]!.headers as Record<string, string>) as { type: string; data: object };
    expect(said).to.deep.include({ type: 'monsoon.needs_a_person' });
    expect(posted[1]!.body).to.not.match(/Marsh|V-100/);
    await office.client.settleAll('event deleted', 'create again');
    await office.run();
    const { rows } = await database.query("select count(*)::int as open from notifications where over_at is null and cause like '%asks'");
    expect(rows[0].open, 'answered, it is over').to.equal(0);
    await office.client.removeWebhook(hook.id);
    listener.close();
    room.stop();
  });

  it('sends one digest a day at the hour of one’s own clock', async () => {
    const room = await startStandin('post-room', ['--smtp-port', '0', '--user', 'monsoon:post']);
    const port = /smtp:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1];
    const post = await office.client.system('post');
    await office.client.changeSystem('post', { settings: { ...(post.settings as object), address: `smtp://127.0.0.1:${port}` } });
    await office.client.setNotifications({ occasions: [], digest: { hour: 0, zone: 'America/Halifax' } });
    expect((await refused(office.client.setNotifications({ occasions: [], digest: { hour: 7, zone: 'Nowhere' } }))).problems[0]!.pointer).to.equal(
      '/digest/zone',
    );
    const mails = async () => ((await (await fetch(`${room.address}/api/mails`)).json()) as { items: { subject: string; text: string }[] }).items;
    const due = () => database.query("select graphile_worker.add_job('digests')");
    await due();
    const [mail] = await eventually('the digest', async () => ((await mails()).length > 0 ? mails() : null));
    await due();
    await new Promise((fine) => setTimeout(fine, 1500));
    expect(await mails()).to.have.length(1);
    expect(mail!.subject).to.match(/^Monsoon on 20\d\d-\d\d-\d\d$/);
    expect(mail!.text)
      .to.match(/Nothing waits for you/)
      .and.match(/Crossed in the last day\n {2}Tuning visits: \d+/)
      .and.match(/Today, 20/);
    await office.client.setNotifications({ occasions: [], digest: null });
    room.stop();
  });

  it('shows monitoring how the processes are', async () => {
    const get = (path: string, headers: Record<string, string> = {}) =>
      fetch(office.address + path, { headers }).then(async (r) => ({ status: r.status, text: await r.text(), type: r.headers.get('content-type') }));
    expect(await get('/healthz')).to.deep.include({ status: 200, text: 'ok\n' });
    expect(await get('/readyz')).to.deep.include({ status: 200, text: 'ready\n' });
    expect((await get('/metrics')).status).to.equal(401);
    const metrics = await get('/metrics', { authorization: `Bearer ${office.token}` });
    expect(metrics.type).to.match(/^application\/openmetrics-text; version=1\.0\.0/);
    for (const name of ['pairs', 'runs', 'operations', 'lane_failures', 'lag_seconds', 'calls', 'queue_depth', 'paused', 'since_last_run_seconds'])
      expect(metrics.text, name).to.match(new RegExp(`^monsoon_${name}(\\{[^}]*\\})? [0-9.e+-]+$`, 'm'));
    expect(metrics.text.trimEnd().endsWith('# EOF')).to.equal(true);
  });

  it('takes out what was kept long enough, and nothing that still counts', async () => {
    expect((await refused(office.client.changeSettings({ keep: { runs: 0 } }))).problems[0]).to.deep.equal({
      pointer: '/keep/runs',
      reason: 'keep.runs: at least 1 day (given: 0)',
    });
    await office.client.changeSettings({ keep: { journal: 30 } });
    const before = (await office.client.journal({ limit: 500 })).items.length;
    await database.query("update journal set at = now() - interval '40 days' where id in (select id from journal order by id limit 3)");
    await database.query("update runs set created_at = created_at - interval '200 days'");
    await database.query("select graphile_worker.add_job('tidy')");
    await eventually('it is gone', async () => (await office.client.journal({ limit: 500 })).items.length === before - 3);
    await eventually('runs too', async () => (await office.client.runs({ limit: 500 })).items.length === 1);
    expect((await office.client.lane('tuning-visits')).lastRun, 'the last run stays').to.not.equal(null);
    expect((await office.client.audit('tuning-visits')).differences).to.deep.equal([]);
  });
});

describe('keeping it', () => {
  it('starts three processes on an empty database at once, changes the key without a stop, and stops within ten seconds', async function () {
    this.timeout(120_000);
    const database = await freshDatabase();
    const places = { databaseUrl: database.url, dataFolder: '/tmp' };
    const other = Buffer.alloc(32, 9).toString('base64');
    const old = process.env['MONSOON_KEY'];
    try {
      process.env['MONSOON_KEY'] = KEY;
      const all = await Promise.all([spawnService(places), spawnService(places, { role: 'worker' }), spawnService(places)]);
      const client = new MonsoonClient({ address: all[0]!.address, token: await getToken(all[0]!.address) });
      await client
        .connect({ slug: 'files', name: 'Files', kind: 'feed', settings: { address: 'https://feeds.alder-wren.example/a.ics' }, secrets: {} })
        .catch(() => null);
      await client.addWebhook({ name: 'a', url: 'https://chat.alder-wren.example/', occasions: ['allowance'] });
      process.env['MONSOON_KEY'] = `${other},${KEY}`;
      const rotating = await spawnService(places);
      const there = new MonsoonClient({ address: rotating.address, token: await getToken(rotating.address) });
      expect((await there.reseal()).resealed).to.be.greaterThan(0);
      const stored = new pg.Client({ connectionString: database.url });
      await stored.connect();
      const { rows } = await stored.query<{ secret: string }>('select secret from hooks');
      const { openVault } = await import('../src/storage/secrets.ts');
      expect(openVault('/tmp', other).open(rows[0]!.secret)).to.match(/^whsec_/);
      expect(() => openVault('/tmp', KEY).open(rows[0]!.secret)).to.throw('the key is not the one it was sealed with');
      await stored.end();
      for (const { child } of [...all, rotating]) {
        const began = Date.now();
        const gone = new Promise((fine) => child.once('exit', fine));
        child.kill('SIGTERM');
        expect(await gone).to.equal(0);
        expect(Date.now() - began).to.be.lessThan(10_000);
      }
    } finally {
      if (old === undefined) delete process.env['MONSOON_KEY'];
      else process.env['MONSOON_KEY'] = old;
      await database.drop();
    }
  });
});
