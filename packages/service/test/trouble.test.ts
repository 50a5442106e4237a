import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { expect } from 'chai';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { type Answerer, type Misbehaving, misbehaving, pass } from '../../../test/support/misbehaving.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { account, eventually, radicale } from '../../../test/support/servers.ts';

const status =
  (code: number, headers = {}): Answerer =>
  (_asked, response) => {
    response.writeHead(code, headers).end();
    return true;
  };

/** An office whose calendar server is behind a proxy that can be told to fail. */
async function officeBehindProxy(visits: number): Promise<{ office: Office; proxy: Misbehaving }> {
  const proxy = await misbehaving(null, radicale());
  const office = await openOffice({ seed: plainVisits(visits), diaryAddress: proxy.address });
  await firstRun(office);
  return { office, proxy };
}
const firstRun = (office: Office) =>
  eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done', 30_000);
const moveOne = (office: Office, visit: string) => office.frontDesk.call('PATCH', `/visits/${visit}`, { start: '2026-12-24T08:00:00' });
const moved = (office: Office, visit: string) =>
  eventually(`${visit} has moved`, async () => (await office.event(visit))?.text.includes('20261224T080000'), 15_000);

describe('when the calendar server is in trouble', () => {
  let office: Office;
  let proxy: Misbehaving;
  before(async function () {
    this.timeout(60_000);
    ({ office, proxy } = await officeBehindProxy(8));
  });
  after(async () => {
    await office.stop();
    await proxy.close();
  });
  afterEach(() => {
    proxy.fault = null;
  });

  const write =
    (fault: Answerer): Answerer =>
    (asked, response) =>
      asked.method === 'PUT' ? fault(asked, response) : undefined;
  let visit = 1000;
  for (const [what, fault, words] of [
    [
      'a connection that breaks',
      (_asked, response) => {
        response.destroy();
        return true;
      },
      /connection to .* failed/,
    ],
    ['no answer in time', () => true, /did not answer within 3 seconds/],
    ['a 500 for every call', status(500), /failed \(500\)/],
    ['a 429 with Retry-After', status(429, { 'retry-after': '1' }), /asks to slow down \(429\)/],
  ] as [string, Answerer, RegExp][]) {
    it(`says so after ${what}, tries again by itself, and loses nothing`, async function () {
      this.timeout(60_000);
      const id = `V-${++visit}`;
      proxy.fault = fault;
      await moveOne(office, id);
      const lane = await eventually(
        'the lane is in trouble',
        async () => {
          const now = await office.client.lane('tuning-visits');
          return now.failures > 0 && now;
        },
        20_000,
      );
      expect(lane.trouble).to.match(words);
      expect((await office.client.today()).troubles.map((t) => t.slug)).to.include.members(['tuning-visits', 'diary']);
      expect(Date.parse(lane.nextRunAt!)).to.be.greaterThan(Date.parse(lane.lastRunAt!));
      proxy.fault = null;
      await moved(office, id);
      await eventually('the trouble is over', async () => (await office.client.today()).troubles.length === 0);
    });
  }

  it('rests with one notice while credentials are not accepted, and goes on when they are', async function () {
    this.timeout(60_000);
    const id = `V-${++visit}`;
    proxy.fault = status(401);
    await moveOne(office, id);
    const system = await eventually('the credentials have lapsed', async () => {
      const now = await office.client.system('diary');
      return now.lapsed !== null && now;
    });
    expect(system.lapsed!.reason).to.match(/does not accept the credentials \(401\)/);
    const lane = await eventually('the lane rests', async () => {
      const now = await office.client.lane('tuning-visits');
      return now.nextRunAt === null && now;
    });
    expect(lane.trouble).to.match(/paused until the credentials of Diary are renewed/);
    const { troubles } = await office.client.today();
    expect(troubles.map((t) => t.slug)).to.deep.equal(['diary']);
    expect(troubles[0]!.detail).to.match(/no longer accepted; until they are renewed, tuning-visits is paused/);
    const { length } = (await office.client.runs({ limit: 100 })).items;
    await moveOne(office, `V-${visit}`);
    await new Promise((fine) => setTimeout(fine, 2000));
    expect((await office.client.runs({ limit: 100 })).items, 'nothing is tried in vain').to.have.length(length);
    proxy.fault = null;
    expect((await office.client.checkSystem('diary')).ok).to.equal(true);
    await moved(office, id);
    await eventually('the trouble is over', async () => (await office.client.today()).troubles.length === 0);
  });

  it('does not wait out a time-out for every item when the server hangs', async function () {
    this.timeout(120_000);
    let asked = 0;
    proxy.fault = write(() => {
      asked++;
      return true;
    });
    await office.client.pause('tuning-visits');
    for (let i = 0; i < 40; i++)
      await office.frontDesk.call('POST', '/visits', {
        start: `2026-12-10T${String(8 + (i % 10)).padStart(2, '0')}:${String(10 + i)}:00`,
        customer_id: 'C-1001',
        instrument: `hanging ${i}`,
      });
    const run = await office.run();
    expect(run).to.include({ state: 'failed' });
    expect(asked, 'only the few at hand were tried').to.be.lessThan(20);
    proxy.fault = null;
    await office.client.resume('tuning-visits');
    // After so many failures in a row the server is left alone for a moment.
    await eventually('it goes on by itself', async () => (await office.run()).state === 'done', 60_000);
    expect(await office.events()).to.have.length(48);
  });

  it('goes on within seconds of the server being there again, however long the pause had grown', async function () {
    this.timeout(90_000);
    proxy.fault = status(503);
    await moveOne(office, 'V-1005');
    const away = () => office.client.system('diary').then((system) => system.health.state === 'failing');
    await eventually('it is noticed', away);
    // As after an hour: the lane would look again in five minutes.
    await office.app.pool.query(`update lanes set failures = 12, trouble = coalesce(trouble, 'away'), next_run_at = now() + interval '5 minutes'`);
    await office.app.pool.query(
      `update graphile_worker._private_jobs j set run_at = now() + interval '5 minutes' from graphile_worker._private_tasks t where t.id = j.task_id and t.identifier = 'run-lane'`,
    );
    await office.app.pool.query(`update systems set health_at = now() - interval '1 minute' where slug = 'diary'`);
    proxy.fault = null;
    const began = Date.now();
    await eventually('V-1005 has moved', async () => (await office.event('V-1005'))?.text.includes('20261224T080000'), 40_000);
    expect(Date.now() - began).to.be.lessThan(35_000);
  });

  it('finds out by looking when the answer to a write was lost', async function () {
    this.timeout(30_000);
    let lost = 0;
    proxy.fault = write((asked, response) => {
      if (lost++ > 0) return undefined;
      pass(asked, radicale(), response, () => response.destroy());
      return true;
    });
    const { id } = await office.frontDesk.call<{ id: string }>('POST', '/visits', {
      start: '2026-12-24T10:00:00',
      customer_id: 'C-1001',
      instrument: 'Wren grand 212',
    });
    const event = await eventually('the event is known', () => office.event(id), 15_000);
    expect(event.text).to.include('20261224T100000');
    const journal = (await office.client.journal({ record: id })).items;
    expect(journal.map((e) => e.kind)).to.deep.equal(['adopt']);
    expect((await office.events()).length, 'one event, not two').to.equal(49);
  });

  it('sets one item aside when only that one is refused, and lets the rest go on', async () => {
    proxy.fault = write((asked, response) => (asked.body.includes('Poison') ? status(400)(asked, response) : undefined));
    await office.frontDesk.call('PATCH', '/visits/V-1006', { instrument: 'Poison' });
    await office.frontDesk.call('PATCH', '/visits/V-1007', { instrument: 'Honey' });
    await eventually('the other is written', async () => (await office.event('V-1007'))?.text.includes('Honey'));
    const item = await eventually('the item failed', async () => {
      const found = await office.client.item('tuning-visits', 'V-1006');
      return found.state === 'failed' && found;
    });
    expect(item.verdict)
      .to.include({ reason: 'refused by the system' })
      .and.property('value')
      .match(/refused PUT .* \(400\)/);
    proxy.fault = null;
    await office.run({ records: ['V-1006'] });
    expect((await office.client.item('tuning-visits', 'V-1006')).state).to.equal('in sync');
  });

  it('sees the edit that a careless server let win over its own', async () => {
    let raced = false;
    proxy.fault = write(async (asked, response) => {
      if (raced) return undefined;
      raced = true;
      // The server says yes to us, and keeps what somebody else wrote in the same moment.
      const headers = {
        authorization: `Basic ${Buffer.from(`${account.user}:${account.password}`).toString('base64')}`,
        'content-type': 'text/calendar',
      };
      await fetch(new URL(asked.url, radicale()), {
        method: 'PUT',
        headers,
        body: asked.body.replace(/SUMMARY:[^\r\n]*(\r?\n [^\r\n]*)*/, 'SUMMARY:Lunch'),
      });
      return status(204)(asked, response);
    });
    // Paused, the lane runs only when it is told to.
    await office.client.pause('tuning-visits');
    await office.frontDesk.call('PATCH', '/visits/V-1004', { instrument: 'Harrow studio upright' });
    await office.run();
    const [noted] = (await office.client.journal({ record: 'V-1004' })).items;
    expect(JSON.stringify(noted!.notes)).to.include('in the same moment');
    expect((await office.event('V-1004'))!.text).to.include('SUMMARY:Lunch');
    expect((await office.run()).counts.changed).to.equal(1);
    expect((await office.event('V-1004'))!.text).to.include('Harrow studio upright');
    await office.client.resume('tuning-visits');
  });

  it('plans again when somebody edits an event in the very moment', async () => {
    let raced = false;
    proxy.fault = write(async (asked) => {
      if (raced) return undefined;
      raced = true;
      // Somebody else's program gets in between our read and our write.
      const event = (await office.event('V-1008'))!;
      const headers = {
        authorization: `Basic ${Buffer.from(`${account.user}:${account.password}`).toString('base64')}`,
        'content-type': 'text/calendar',
      };
      await fetch(new URL(asked.url, radicale()), {
        method: 'PUT',
        headers,
        body: event.text.replace('END:VEVENT', 'X-MEANWHILE:yes\r\nEND:VEVENT'),
      });
      return undefined;
    });
    await office.frontDesk.call('PATCH', '/visits/V-1008', { instrument: 'Finch player piano' });
    const event = await eventually('the title changes', async () => {
      const now = await office.event('V-1008');
      return now?.text.includes('Finch player piano') && now;
    });
    expect(event.text).to.include('X-MEANWHILE:yes');
  });

  it('says in one message that everything is refused, and crosses all of it when it is not', async function () {
    this.timeout(60_000);
    await office.client.pause('tuning-visits');
    const { counts } = await office.run();
    for (let i = 0; i < 25; i++)
      await office.frontDesk.call('POST', '/visits', {
        start: `2026-12-11T${String(8 + (i % 10)).padStart(2, '0')}:${String(10 + i)}:00`,
        customer_id: 'C-1001',
        instrument: `refused ${i}`,
      });
    proxy.fault = write(status(400));
    const run = await office.run();
    expect(run).to.include({ state: 'failed' });
    expect(run.reason).to.match(/^every one of 2\d writes was refused, so the cause is not in the items; the first: .*\(400\)/);
    expect((await office.client.failures('tuning-visits')).items).to.deep.equal([]);
    proxy.fault = null;
    expect(await office.run()).to.deep.include({ state: 'done' });
    expect((await office.client.items('tuning-visits', { search: 'refused', state: 'in sync', limit: 100 })).items).to.have.length(25);
    expect(counts.failed).to.equal(0);
  });
});

describe('when a whole side goes away', () => {
  const radicaleScript = resolve(import.meta.dirname, '../../../scripts/radicale.sh');
  it('goes on by itself when the calendar server is back, and takes a vanished calendar for no deletion', async function () {
    this.timeout(90_000);
    const folder = mkdtempSync(join(tmpdir(), 'radicale-'));
    const port = 20_000 + Math.floor(Math.random() * 20_000);
    const start = () =>
      execFileSync('bash', [radicaleScript, 'start', folder, String(port), account.user, account.password])
        .toString()
        .trim();
    const stop = () => execFileSync('bash', [radicaleScript, 'stop', folder]);
    const diary = start();
    const office = await openOffice({ seed: plainVisits(5), diary });
    try {
      await firstRun(office);
      stop();
      await moveOne(office, 'V-1002');
      await eventually('the lane is in trouble', async () => (await office.client.lane('tuning-visits')).trouble?.includes('connection refused'));
      start();
      await moved(office, 'V-1002');

      execFileSync('bash', ['-c', `mv "$0/collections/collection-root/${account.user}" "$0/aside"`, folder]);
      const run = await office.run({ sweep: true });
      expect(run.state).to.equal('failed');
      expect(run.counts).to.include({ removed: 0, held: 0, created: 0 });
      execFileSync('bash', [
        '-c',
        `rm -rf "$0/collections/collection-root/${account.user}"; mv "$0/aside" "$0/collections/collection-root/${account.user}"`,
        folder,
      ]);
      const after = await office.run({ sweep: true });
      expect(after).to.include({ state: 'done' }).and.nested.property('counts.unchanged').equal(5);
    } finally {
      await office.stop();
      stop();
      rmSync(folder, { recursive: true, force: true });
    }
  });

  it('takes an empty or failing Front desk for no deletion', async function () {
    this.timeout(60_000);
    const front: { fault: Answerer | null } = { fault: null };
    const office = await openOffice({
      seed: plainVisits(5),
      notices: false,
      lane: { departures: { recordDeleted: 'remove', eventDeleted: 'hold' } },
    });
    const proxy = await misbehaving((asked, response) => front.fault?.(asked, response), office.frontDesk.address);
    try {
      await firstRun(office);
      await office.client.changeSystem('front-desk', { settings: { address: `${proxy.address}api/v1` } });
      front.fault = (asked, response) => {
        if (!asked.url.startsWith('/api/v1/visits?')) return undefined;
        response.writeHead(200, { 'content-type': 'application/json' }).end('{"items":[],"next":null}');
        return true;
      };
      const empty = await office.run({ sweep: true });
      expect(empty.counts).to.include({ removed: 0, unchanged: 5 });
      front.fault = (asked, response) => (asked.url.includes('cursor') || asked.url.includes('/visits?') ? status(500)(asked, response) : undefined);
      expect(await office.run({ sweep: true })).to.include({ state: 'failed' });
      front.fault = null;
      expect((await office.run({ sweep: true })).counts.unchanged).to.equal(5);
      expect(await office.events()).to.have.length(5);
    } finally {
      await office.stop();
      await proxy.close();
    }
  });
});
