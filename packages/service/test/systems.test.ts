import { randomUUID } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { expect } from 'chai';
import pg from 'pg';
import { parse } from 'yaml';
import { consent } from '../../../demo/consent.ts';
import { plainVisits, startStandin, startWorkbench, type Workbench } from '../../../test/support/front-desk.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { dav, eventually, freePort, freshDatabase, listEvents } from '../../../test/support/servers.ts';

const yaml = (file: string) =>
  parse(readFileSync(new URL(`../../../demo/${file}`, import.meta.url), 'utf8')) as {
    slug: string;
    name: string;
    kind: string;
    settings: Record<string, unknown>;
  };
const fromFile = (name: string) => {
  const { slug, name: title, kind, settings } = yaml(`systems/${name}.yaml`);
  return { slug, name: title, kind, settings };
};

describe('connected systems', () => {
  let office: Office;
  before(async () => {
    office = await openOffice({ seed: plainVisits(3), withLane: false });
  });
  after(() => office.stop());
  const calendar = async (name: string) => office.client.makeCalendar('diary', `${name} ${randomUUID().slice(0, 6)}`, null);
  const done = async (lane: string) =>
    eventually('the first run is done', async () => {
      const run = (await office.client.runs({ lane, limit: 50 })).items.at(-1);
      return run !== undefined && ['done', 'failed', 'held'].includes(run.state) && run;
    });

  describe('a database', () => {
    let database: Awaited<ReturnType<typeof freshDatabase>>;
    let client: pg.Client;
    /** Monsoon's own */
    let own: pg.Client;
    before(async () => {
      database = await freshDatabase();
      own = new pg.Client({ connectionString: office.databaseUrl });
      await own.connect();
      client = new pg.Client({ connectionString: database.url });
      await client.connect();
      await client.query(`create table leave (id int primary key, person text, first_day date, last_day date);
        insert into leave values (1, 'ines@alder-wren.example', '2026-12-24', '2026-12-27')`);
      const url = new URL(database.url);
      await office.client.connect({
        slug: 'book',
        name: 'Hire book',
        kind: 'postgresql',
        settings: {
          address: `postgresql://${url.host}${url.pathname}`,
          user: 'app',
          tls: 'off',
          collections: { leave: { write: ['first_day', 'last_day'] } },
        },
        secrets: { password: url.password },
      });
    });
    after(async () => {
      await own.end();
      await client.end();
      await database.drop();
    });
    let left: string;

    it('fills a calendar, and moves its events at once when a row changes', async () => {
      left = (await calendar('Leave')).href;
      expect((await office.client.tracking('book', 'leave')).install).to.match(/create or replace trigger "monsoon_leave"/);
      expect((await office.client.track('book', 'leave', true)).state).to.equal('installed');
      await office.client.makeLane('leave', {
        ...yaml('lanes/leave.yaml'),
        direction: '<->',
        may: { records: { create: false, remove: false } },
        fields: { title: { join: '{person}', direction: '->' } },
        window: null,
        records: { system: 'book', collection: 'leave' },
        calendar: { system: 'diary', calendar: left },
      });
      expect(await done('leave')).to.deep.include({ state: 'done' });
      const href = (await listEvents(office.diary, left))[0]!;
      expect((await dav(office.diary, 'GET', href)).text).to.match(/DTEND;VALUE=DATE:20261228/);
      // Until somebody listens, a change would wait for the regular check.
      await eventually(
        'it is told',
        async () => {
          await client.query(`update leave set last_day = '2026-12-31'`);
          return (await dav(office.diary, 'GET', href)).text.includes('DTEND;VALUE=DATE:20270101');
        },
        20_000,
      );
      // A notice that still waits would take the lane's own along, at once.
      const waiting = `select from graphile_worker.jobs where key like '%:notice:records'`;
      await eventually('the notices are through', async () => (await own.query(waiting)).rowCount === 0);
      const { text, etag } = await dav(office.diary, 'GET', href);
      await dav(
        office.diary,
        'PUT',
        href,
        { 'content-type': 'text/calendar', 'if-match': etag! },
        text.replace('DTEND;VALUE=DATE:20270101', 'DTEND;VALUE=DATE:20270103'),
      );
      await office.client.run('leave');
      await eventually('it came back', async () => (await client.query(`select 1 from leave where last_day = '2027-01-02'`)).rowCount === 1);
      const unhurried = `select from graphile_worker.jobs where key like '%:notice:records' and run_at > now() + interval '1 second'`;
      await eventually('the lane’s own write is looked at without haste', async () => (await own.query(unhurried)).rowCount === 1);
      expect(await office.client.audit('leave')).to.deep.include({ addsUp: true });
    });

    it('lists no run for a notice behind which there is nothing to do', async () => {
      const cursor = async () =>
        (await own.query(`select c.cursor from cursors c join lanes l on l.id = c.lane where l.slug = 'leave' and c.side = 'records'`)).rows[0]
          .cursor;
      const runs = async () => (await office.client.runs({ lane: 'leave' })).items;
      await eventually('the lane rests', async () => (await runs()).every((r) => r.state === 'done'));
      const [before, from] = [(await runs()).length, await cursor()];
      await client.query('update leave set person = person');
      await eventually('it was looked at', async () => (await cursor()) !== from);
      expect(await runs()).to.have.length(before);
    });

    it('tells when a field that a lane uses has gone, before anything is written by it, and goes on when it is back', async () => {
      expect((await office.client.checkSystem('book')).ok).to.equal(true);
      await client.query('alter table leave rename column last_day to until; alter table leave add column site text');
      const { steps } = await office.client.checkSystem('book');
      expect(steps.find((s) => s.name === 'fields')!.detail).to.match(/leave\.last_day disappeared.*leave\.until appeared.*leave\.site appeared/);
      expect((await office.client.system('book')).drift.map((d) => `${d.field} ${d.what}`)).to.include('last_day disappeared');
      const before = (await dav(office.diary, 'GET', (await listEvents(office.diary, left))[0]!)).text;
      await office.client.run('leave');
      const lane = await eventually('the lane says so', async () => {
        const now = await office.client.lane('leave');
        return now.failures > 0 && now;
      });
      expect(lane.trouble).to.match(/Leave has changed in Hire book.*last_day/i);
      expect((await dav(office.diary, 'GET', (await listEvents(office.diary, left))[0]!)).text).to.equal(before);
      await client.query('alter table leave rename column until to last_day');
      await eventually('it goes on by itself', async () => (await office.client.lane('leave')).failures === 0, 30_000);
    });
  });

  describe('a project tool', () => {
    let bench: Workbench;
    before(async () => {
      bench = await startWorkbench();
      const hook = await bench.call<{ secret: string }>('POST', '/hooks', {
        url: `${office.address}/hooks/workbench`,
        events: ['task.made', 'task.moved', 'task.changed', 'task.removed'],
      });
      const file = fromFile('workbench');
      await office.client.connect({
        ...file,
        settings: { ...file.settings, address: `${bench.address}/api` },
        secrets: { token: bench.key, webhook: hook.secret },
      });
    });
    after(() => bench.stop());

    it('is followed task by task through its notices, both ways', async () => {
      const { href } = await calendar('Restoration');
      const tasks = { title: 'Regulate', due_on: '2026-12-10' };
      const { task } = await bench.call<{ task: { id: string } }>('POST', '/tasks', { task: tasks });
      await office.client.makeLane('tasks', {
        ...yaml('lanes/restoration-tasks.yaml'),
        window: null,
        calendar: { system: 'diary', calendar: href },
        checkEvery: 1440,
      });
      expect(await done('tasks')).to.include({ state: 'done' });
      const [event] = await listEvents(office.diary, href);
      await bench.call('PATCH', `/tasks/${task.id}`, { task: { due_on: '2026-12-12', labels: [{ text: 'urgent' }] } });
      await eventually('the notice moved it', async () => {
        const { text } = await dav(office.diary, 'GET', event!);
        return text.includes('VALUE=DATE:20261212') && text.includes('CATEGORIES:urgent');
      });
      // A look of another cause may come first and do the work: then the notice finds nothing, and is no run.
      let day = 12;
      await eventually('only that task was read for it', async () => {
        await bench.call('PATCH', `/tasks/${task.id}`, { task: { due_on: `2026-12-${day++}` } });
        await new Promise((fine) => setTimeout(fine, 500));
        return (await office.client.runs({ lane: 'tasks', limit: 10 })).items.some((r) => r.scope === `items ${task.id}` && r.state === 'done');
      });
      const { text, etag } = await dav(office.diary, 'GET', event!);
      await dav(
        office.diary,
        'PUT',
        event!,
        { 'content-type': 'text/calendar', 'if-match': etag! },
        text.replace('SUMMARY:Regulate', 'SUMMARY:Regulate twice'),
      );
      await office.client.run('tasks');
      await eventually(
        'it came back',
        async () => (await bench.call<{ task: { title: string } }>('GET', `/tasks/${task.id}`)).task.title === 'Regulate twice',
      );
      await bench.call('DELETE', `/tasks/${task.id}`);
      await eventually('its event went too', async () => (await listEvents(office.diary, href)).length === 0);
    });

    it('keeps to its rate and its allowance over all calls, warns, and stops', async () => {
      const settings = { rate: { calls: 5, per: 'second' }, allowance: 40 };
      await office.client.changeSystem('workbench', { settings });
      const started = Date.now();
      const steps = (await office.client.checkSystem('workbench')).steps;
      await Promise.all(Array.from({ length: 12 }, () => office.client.collections('workbench')));
      for (let i = 0; i < 6; i++) await office.client.checkSystem('workbench');
      expect(Date.now() - started, 'fourteen calls at five a second').to.be.greaterThan(1200);
      expect(steps.find((s) => s.name === 'allowance')!.detail).to.match(/of 40 calls of this month are used/);
      await office.client.changeSystem('workbench', { settings: { rate: null, allowance: 20 } });
      await eventually('the allowance is used up', async () => !(await office.client.checkSystem('workbench')).ok);
      const system = await office.client.system('workbench');
      expect(system.calls.used).to.be.within(20, 40);
      expect(system.health.detail).to.match(/the allowance of 20 calls to Workbench in this month is used up/);
      await office.client.changeSystem('workbench', { settings: { allowance: null } });
      expect((await office.client.checkSystem('workbench')).ok).to.equal(true);
      const calls = (await office.client.calls('workbench')).items;
      expect(calls[0]).to.include({ method: 'GET', status: 200 });
      expect(JSON.stringify(calls)).to.not.include(bench.key);
    });
  });

  it('fills a spreadsheet from a feed, each day once', async () => {
    const feed = await startFeed();
    const file = join(office.dataFolder, 'files', 'closed-days.csv');
    writeFileSync(file, 'id;day;name\r\n');
    await office.client.connect({ ...fromFile('public-holidays'), settings: { address: feed.address }, secrets: {} });
    await office.client.connect({ ...fromFile('closed-days'), settings: { ...fromFile('closed-days').settings, address: file }, secrets: {} });
    await office.client.makeLane('holidays', { ...yaml('lanes/holidays.yaml'), calendar: { system: 'public-holidays', calendar: 'Holidays' } });
    expect(await done('holidays')).to.deep.include({ state: 'done', reason: null });
    const lines = () =>
      readFileSync(file, 'utf8')
        .trim()
        .split('\r\n')
        .slice(1)
        .map((l) => l.split(';').slice(1).join(' '));
    expect(lines().sort()).to.deep.equal(['2026-12-25 Christmas Day', '2026-12-26 Boxing Day']);
    expect(await office.settled(await office.client.run('holidays', { sweep: true }))).to.deep.include({ state: 'done' });
    expect(lines()).to.have.length(2);
    await feed.close();
  });

  it('are authorised by a person in a browser, who comes back to the console', async () => {
    const port = String(await freePort());
    const desk = await startStandin('front-desk', [
      '--port',
      port,
      '--token',
      't',
      '--client',
      'monsoon:hush-hush',
      '--redirect',
      `${office.address}/oauth/back`,
    ]);
    const file = fromFile('front-desk');
    const made = await office.client.connect({
      ...file,
      slug: 'desk',
      settings: { ...file.settings, address: `${desk.address}/api/v1` },
      secrets: { clientSecret: 'hush-hush' },
    });
    expect(made.consent).to.equal('needed');
    const before = await office.client.checkSystem('desk');
    expect(before.ok).to.equal(false);
    expect(before.steps.find((s) => s.outcome === 'failed')!.detail).to.match(/Monsoon is not authorised/);
    expect(before.steps.map((s) => s.name)).to.include.members(['address', 'TLS', 'clock']);
    const { url } = await office.client.authorise('desk');
    const refused = new URL(await consent((await office.client.authorise('desk')).url, `${office.address}/systems`, 'refuse'));
    expect(refused.searchParams.get('refused')).to.equal('desk');
    const said = (await office.client.activity({ limit: 500 })).items
      .filter((a) => a.what === 'Authorise a system')
      .map((a) => `${a.of}: ${a.outcome}, ${a.detail}`);
    expect(said[0]).to.match(/^system desk: refused, .*somebody at the desk refused/);
    const landed = new URL(await consent(url, `${office.address}/systems`));
    expect(landed.searchParams.has('authorised')).to.equal(true);
    expect(await office.client.system('desk')).to.include({ consent: 'given', lapsed: null });
    expect((await office.client.checkSystem('desk')).ok).to.equal(true);
    const again = await fetch(`${office.address}/oauth/back?state=made-up&code=x`);
    expect(again.status).to.equal(400);
    await office.client.changeSystem('desk', { name: 'The desk' });
    expect(JSON.stringify(await office.client.systems())).to.not.match(/hush-hush/);
    desk.stop();
  });

  it('are refused with the setting, the reason and the way out, and kinds say what they ask for', async () => {
    const { items } = await office.client.kinds();
    expect(items.map((k) => k.kind)).to.deep.equal(['caldav', 'feed', 'postgresql', 'json-api', 'csv', 'mail']);
    const connect = (kind: string, settings: object, secrets: object = {}) =>
      office.client.connect({ slug: 'x', name: 'X', kind, settings, secrets }).then(
        () => expect.fail('it was taken'),
        (e: { message: string; problems: { pointer: string }[] }) => ({ text: e.message, at: e.problems.map((p) => p.pointer) }),
      );
    expect(await connect('postgresql', { address: 'postgresql://u:p@h/db', user: 'u' }, { password: 'p' })).to.deep.include({
      at: ['/settings/address'],
    });
    expect((await connect('caldav', { address: 'http://x.example/', user: 'u' })).at).to.deep.equal(['/secrets/password']);
    expect((await connect('json-api', { address: 'http://x.example/', descriptor: { collections: {} } }, { token: 't' })).text).to.match(
      /at least one is needed/,
    );
    const cut = {
      collections: {
        a: {
          label: 'A',
          list: { path: '/a', items: '/x', next: { page: 'p', offset: 'o' } },
          read: { path: '/a' },
          id: '/id',
          fields: [{ name: 'n', type: 'texts', at: 'n' }],
        },
      },
    };
    expect((await connect('json-api', { address: 'http://x.example/', descriptor: cut }, { token: 't' })).text)
      .to.match(/has no \{id\}/)
      .and.match(/one way to the next page/)
      .and.match(/not a JSON Pointer/);
    expect((await connect('mail', { address: 'smtp://x.example', from: 'nobody' })).at).to.deep.equal(['/settings/from']);
    expect((await connect('csv', { address: 'relative.csv' })).text).to.match(/not a path such as/);
    expect((await office.client.systems()).items.map((s) => s.slug)).to.not.include('x');
    const draft = await office.client.draftDescriptor({
      openapi: '3.1.0',
      paths: {
        '/jobs': {
          get: {
            responses: {
              200: {
                content: {
                  'application/json': {
                    schema: {
                      type: 'array',
                      items: { type: 'object', properties: { id: { type: 'string' }, at: { type: 'string', format: 'date-time' } } },
                    },
                  },
                },
              },
            },
          },
        },
        '/jobs/{job}': { patch: {}, delete: {} },
      },
    });
    expect((draft.descriptor as { collections: { jobs: { fields: unknown[] } } }).collections.jobs.fields).to.deep.equal([
      { name: 'at', type: 'date-time', at: '/at' },
    ]);
    expect(draft.notes.join()).to.match(/no parameter asks for the next page/);
  });

  it('give editors a schema of descriptors that takes what Monsoon takes and names what is misspelt', async () => {
    const answer = await fetch(`${office.address}/api/v1/descriptors/schema`, { headers: { authorization: `Bearer ${office.token}` } });
    expect(answer.headers.get('content-type')).to.match(/^application\/schema\+json/);
    const fits = new Ajv2020({ strict: false, validateFormats: false }).compile((await answer.json()) as object);
    for (const name of ['front-desk', 'workbench']) {
      const { descriptor } = fromFile(name).settings as { descriptor: { collections: Record<string, Record<string, unknown>> } };
      expect(fits(descriptor), `${name}: ${JSON.stringify(fits.errors)}`).to.equal(true);
      const [collection] = Object.keys(descriptor.collections) as [string];
      descriptor.collections[collection]!['lable'] = 'Misspelt';
      expect(fits(descriptor)).to.equal(false);
      expect(fits.errors![0]).to.deep.include({ instancePath: `/collections/${collection}`, params: { additionalProperty: 'lable' } });
    }
  });
});

async function startFeed(): Promise<{ address: string; close: () => Promise<void> }> {
  const { misbehaving } = await import('../../../test/support/misbehaving.ts');
  const day = (date: string, name: string) =>
    `BEGIN:VEVENT\r\nUID:${date}\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:${date}\r\nSUMMARY:${name}\r\nEND:VEVENT\r\n`;
  const text = `BEGIN:VCALENDAR\r\nX-WR-CALNAME:Holidays\r\n${day('20261225', 'Christmas Day')}${day('20261226', 'Boxing Day')}END:VCALENDAR\r\n`;
  return misbehaving((_asked, response) => {
    response.writeHead(200).end(text);
    return true;
  });
}
