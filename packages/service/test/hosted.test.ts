import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import type pg from 'pg';
import { type Device, type HostedService, openHosted } from '../../../test/support/hosted.ts';
import { eventually } from '../../../test/support/servers.ts';

const rows =
  'id,title,starts,ends,place\nb1,Rehearsal,2026-12-01T18:00,2026-12-01T20:00,Hall\nb2,Tuning,2026-12-02T09:00,2026-12-02T10:30,Workshop\n';

/** Rows of a table that statements have read so far. */
async function rowsRead(db: Pick<pg.Pool, 'query'>, table: string): Promise<number> {
  await db.query('select pg_stat_force_next_flush()');
  const { rows } = await db.query('select (seq_tup_read + idx_tup_fetch)::int as n from pg_stat_user_tables where relname = $1', [table]);
  return rows[0].n as number;
}

/** A firm with a file and no calendar server: the file becomes events of a calendar that Monsoon keeps. */
describe('A lane to a hosted calendar', () => {
  let hosted: HostedService;
  let ines: Device;
  let file: string;
  const run = async (lane: string) => {
    const { id } = await hosted.client.run(lane, {});
    return eventually('the run ends', async () => {
      const now = await hosted.client.oneRun(id);
      return now.state !== 'waiting' && now.state !== 'running' && now;
    });
  };
  const lane = (calendar: string, direction: '->' | '<->') => ({
    name: `Bookings ${direction}`,
    records: { system: 'bookings', collection: 'bookings' },
    calendar: { system: 'hosted', calendar },
    direction,
    zone: 'Europe/London',
    moments: [{ name: 'booking', when: { start: 'starts', end: 'ends' } }],
    fields: { title: { copy: 'title' }, location: { copy: 'place' } },
    window: { behind: 3650, ahead: 3650 },
    departures: { recordDeleted: 'remove', ...(direction === '<->' ? { eventDeleted: 'delete record' } : {}) },
  });

  before(async () => {
    hosted = await openHosted();
    ines = await hosted.person('administrator');
    const folder = join(hosted.app.config.dataFolder, 'files');
    mkdirSync(folder, { recursive: true });
    file = join(folder, 'bookings.csv');
    writeFileSync(file, rows);
    await hosted.client.connect({
      slug: 'bookings',
      name: 'Bookings',
      kind: 'csv',
      settings: {
        address: file,
        collections: { bookings: { key: ['id'], ownKeys: true, write: ['title', 'starts', 'ends', 'place'], create: true, remove: true } },
      },
      secrets: {},
    });
  });
  after(() => hosted.stop());

  it('is there from the first start, once, and stays', async () => {
    const { items } = await hosted.client.systems();
    const own = items.find((s) => s.slug === 'hosted')!;
    expect(own).to.deep.include({ kind: 'hosted', offers: ['calendars'], push: true, address: `${hosted.address}/dav/` });
    expect(await hosted.client.checkSystem('hosted')).to.deep.include({ ok: true });
    for (const wrong of [
      hosted.client.disconnect('hosted'),
      hosted.client.connect({ slug: 'second', name: 'x', kind: 'hosted', settings: {}, secrets: {} }),
    ]) {
      const refused = await wrong.then(
        () => null,
        (e: Error) => e.message,
      );
      expect(refused).to.match(/part of Monsoon|keeps itself|not a kind of system/);
    }
  });

  it('one way fills it, and the door says that no one else writes there', async () => {
    const { href, slug } = await hosted.client.makeHostedCalendar({ name: 'Filled', slug: 'filled' });
    await hosted.client.makeLane('bookings-out', lane(href, '->'));
    await run('bookings-out');
    const list = await ines.dav('PROPFIND', href, { depth: '1' });
    const [name] = /[^/<]+\.ics/.exec(list.text)!;
    const text = (await ines.dav('GET', href + name)).text;
    const refused = await ines.dav('PUT', href + name, { 'content-type': 'text/calendar' }, text);
    expect([refused.status, refused.text]).to.deep.equal([403, refused.text]);
    expect(refused.text).to.contain('need-privileges').and.contain('filled from records by the lane &#34;Bookings -&#62;&#34;: edit the record');
    const ask = '<propfind xmlns="DAV:"><prop><current-user-privilege-set/></prop></propfind>';
    expect((await ines.dav('PROPFIND', href, { depth: '0', 'content-type': 'application/xml' }, ask)).text).to.not.contain('write-content');
    expect((await hosted.client.hostedCalendar(slug)).filledBy).to.deep.equal(['Bookings ->']);
    expect((await ines.dav('DELETE', href)).text).to.contain('the lane &#34;Bookings -&#62;&#34; use this calendar');
    const removal = await hosted.client.removeHostedCalendar(slug).catch((e: Error) => e.message);
    expect(removal).to.contain('the lane "Bookings ->" use "Filled"');
  });

  it('both ways brings an edit at the door into the row at once', async () => {
    const { href } = await hosted.client.makeHostedCalendar({ name: 'Both', slug: 'both' });
    await hosted.client.makeLane('bookings-both', lane(href, '<->'));
    await run('bookings-both');
    const names = [...(await ines.dav('PROPFIND', href, { depth: '1' })).text.matchAll(/[^/<]+\.ics/g)].map(([n]) => n);
    const texts = await Promise.all(names.map(async (n) => [n, (await ines.dav('GET', href + n)).text] as const));
    const [name, text] = texts.find(([, t]) => t.includes('Rehearsal'))!;
    const took: number[] = [];
    let now = text;
    for (let i = 0; i < 5; i++) {
      now = now.replace(/SUMMARY:.*/, `SUMMARY:Rehearsal ${i}`);
      const at = Date.now();
      expect((await ines.dav('PUT', href + name, { 'content-type': 'text/calendar' }, now)).status).to.equal(204);
      await eventually('the row changes', async () => readFileSync(file, 'utf8').includes(`Rehearsal ${i}`));
      took.push(Date.now() - at);
      now = (await ines.dav('GET', href + name)).text;
    }
    if (process.env['MONSOON_SHOW'] !== undefined) console.log('milliseconds from the door to the row:', took);
    const fresh = now
      .replace(/UID:.*/, 'UID:from-a-phone')
      .replace(/X-MONSOON.*\r\n/g, '')
      .replace(/SUMMARY:.*/, 'SUMMARY:Concert');
    expect((await ines.dav('PUT', `${href}from-a-phone.ics`, { 'content-type': 'text/calendar' }, fresh)).status).to.equal(201);
    await eventually('a row is made', async () => readFileSync(file, 'utf8').includes('Concert'));
    expect((await ines.dav('DELETE', `${href}from-a-phone.ics`)).status).to.equal(204);
    await eventually('the row goes', async () => !readFileSync(file, 'utf8').includes('Concert'));
    expect(readFileSync(file, 'utf8')).to.contain('Tuning');
  });

  it('reads no more of a young calendar for a write than stands in its way', async () => {
    await hosted.client.makeHostedCalendar({ name: 'Young', slug: 'young' });
    const db = await hosted.app.pool.connect();
    try {
      const before = await rowsRead(db, 'hosted_objects');
      for (let i = 0; i < 300; i++)
        await db.query({
          name: 'put',
          text: `select outcome from put_hosted('young', $1, $1, 'x', $2, 'VEVENT', $3, $3, false, false, null)`,
          values: [`v${i}`, 'x'.repeat(600), i],
        });
      // All that there is for each, it would be 45,000.
      expect((await rowsRead(db, 'hosted_objects')) - before).to.be.below(1000);
    } finally {
      db.release();
    }
  });

  it('keeps a password for each device, shown once, until it is withdrawn', async () => {
    const made = await hosted.client.addDevice('Telephone');
    expect(made.password).to.match(/^([a-z2-9]{5}-){3}[a-z2-9]{5}$/);
    const come = () =>
      fetch(new URL('/dav/', hosted.address), {
        method: 'PROPFIND',
        headers: {
          depth: '0',
          authorization: `Basic ${Buffer.from(`${made.user.toUpperCase()}:${made.password}`).toString('base64')}`,
          'user-agent': 'Telephone/1.0',
        },
      });
    expect((await come()).status).to.equal(207);
    const [device] = (await hosted.client.devices()).items;
    expect(device).to.deep.include({ name: 'Telephone', agent: 'Telephone/1.0' });
    expect(device!.lastUsedAt).to.be.a('string');
    expect(JSON.stringify(await hosted.client.devices())).to.not.contain(made.password);
    await hosted.client.withdrawDevice(made.id);
    expect((await come()).status).to.equal(401);
  });
});
