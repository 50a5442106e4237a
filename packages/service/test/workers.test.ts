import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import pg from 'pg';
import { plainVisits, startFrontDesk } from '../../../test/support/front-desk.ts';
import { openLaneStore } from '../../../test/support/lane-store.ts';
import { tryManyLanes } from '../../../test/support/many-lanes.ts';
import { furnish, getToken, spawnService } from '../../../test/support/office.ts';
import { dav, eventually, freshDatabase } from '../../../test/support/servers.ts';
import { raiseFence } from '../src/storage/fences.ts';
import { noRun, runStore } from '../src/storage/run-store.ts';

describe('several workers', () => {
  it('lose nothing and double nothing while they are killed and the database goes away', async function () {
    this.timeout(400_000);
    const result = await tryManyLanes({
      lanes: 4,
      pairs: 20,
      workers: 2,
      rate: 4,
      seconds: 15,
      killEvery: 5,
      // What a restart does to open connections; the tests beside this one keep their databases.
      disturb: async (database) => {
        const client = new pg.Client({ connectionString: process.env['MONSOON_TEST_PG'] });
        await client.connect();
        await client.query('select pg_terminate_backend(pid) from pg_stat_activity where datname = $1', [database]);
        await client.end();
      },
    });
    expect(result.wrong).to.deep.equal([]);
    expect(result.kills).to.be.greaterThan(0);
    expect(result.calm.length + result.disturbed.length).to.be.greaterThan(20);
  });
});

describe('a process that freezes', () => {
  it('is replaced within seconds, and writes nothing when it thaws', async function () {
    this.timeout(120_000);
    const database = await freshDatabase();
    const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
    const frontDesk = await startFrontDesk(plainVisits(3));
    const places = { databaseUrl: database.url, dataFolder };
    const web = await spawnService(places, { role: 'web' });
    const frozen = await spawnService(places, { role: 'worker' });
    const office = await furnish(web.address, await getToken(web.address), frontDesk, {}, places);
    const healthy = await spawnService(places, { role: 'worker' });
    const edit = async (id: string, instrument: string) => {
      const began = Date.now();
      await frontDesk.call('PATCH', `/visits/${id}`, { instrument });
      await eventually('it crosses', async () => (await office.event(id))!.text.includes(instrument));
      return Date.now() - began;
    };
    const system = await office.client.system('diary');
    await office.client.changeSystem('diary', { settings: { ...(system.settings as object), look: 1 } });
    const lane = await office.client.lane('tuning-visits');
    await office.client.changeLane('tuning-visits', lane.version, { ...lane.definition, foreignEdits: 'put back', checkEvery: 1440 });
    await office.run();
    // The first of the workers listens to the systems for all.
    await edit('V-1001', 'Rook grand');
    frozen.child.kill('SIGSTOP');
    expect(await edit('V-1002', 'Finch player piano')).to.be.lessThan(20_000);
    const event = (await office.event('V-1003'))!;
    await dav(office.diary, 'PUT', event.href, { 'content-type': 'text/calendar' }, event.text.replace(/SUMMARY:.*/, 'SUMMARY:Moved while frozen'));
    const seen = Date.now();
    await eventually('the edit on the calendar is seen', async () => (await office.event('V-1003'))!.text.includes('Moved while frozen') === false);
    expect(Date.now() - seen).to.be.lessThan(20_000);
    // It is written outside first, and then journalled.
    await eventually('it is in the journal', async () =>
      (await office.client.journal({ record: 'V-1003', limit: 5 })).items.some((e) => e.cause === 'changed on the calendar: put back'),
    );
    const ended = new Promise<number | null>((fine) => frozen.child.once('exit', (code) => fine(code)));
    const before = await office.client.journal({ limit: 500 });
    frozen.child.kill('SIGCONT');
    expect(await ended).to.equal(1);
    expect((await office.client.journal({ limit: 500 })).items).to.deep.equal(before.items);
    expect((await office.client.audit('tuning-visits')).differences).to.deep.equal([]);
    for (const { child } of [web, healthy]) {
      const gone = new Promise((fine) => child.once('exit', fine));
      child.kill('SIGTERM');
      await gone;
    }
    frontDesk.stop();
    await database.drop();
  });

  it('cannot write for a lane that another has taken over', async () => {
    const { store, open, lane, close } = await openLaneStore();
    const { db } = open;
    const first = await raiseFence(db, lane);
    const turn = (fence: number) => runStore(db, lane, 1, { ...noRun, fence });
    const verdict = { reason: 'no date' as const, condition: 'start is not empty', value: 'nothing', recheckAt: null };
    const batch = { verdicts: [{ recordId: 'V-1', href: null, moment: 'visit', label: 'x', verdict }] };
    await turn(first).write(batch);
    await turn(first).moveCursors({ records: 'a' });
    const second = await raiseFence(db, lane);
    for (const work of [turn(first).write({ verdicts: [] }), turn(first).moveCursors({ records: 'b' })])
      expect(await work.catch((e: Error) => e.name)).to.equal('TakenOver');
    expect((await store.cursors()).records).to.equal('a');
    await turn(second).moveCursors({ records: 'c' });
    expect((await store.cursors()).records).to.equal('c');
    await close();
  });
});
