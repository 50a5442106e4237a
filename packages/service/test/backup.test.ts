import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { promisify } from 'node:util';
import { MonsoonClient } from '@monsoon/contract/client';
import { expect } from 'chai';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { openOffice, spawnService } from '../../../test/support/office.ts';
import { dav, eventually, freshDatabase } from '../../../test/support/servers.ts';

const run = promisify(execFile);
const script = (name: string) => resolve(import.meta.dirname, `../../../scripts/${name}.sh`);

describe('a backup', () => {
  it('is restored into an empty database, and what happened since is found without making anything twice', async function () {
    this.timeout(120_000);
    const office = await openOffice({ seed: plainVisits(5), lane: { direction: '<->', conflicts: { rule: 'records win' } } });
    const other = await freshDatabase();
    const folder = mkdtempSync(join(tmpdir(), 'monsoon-'));
    try {
      await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done');
      const file = join(folder, 'monsoon.tar');
      const at = { ...process.env, MONSOON_DATA: office.dataFolder, DATABASE_URL: office.databaseUrl };
      expect((await run('bash', [script('backup'), file], { env: at })).stdout).to.match(/it holds the key too/);
      // Since the backup: a visit more, and one that moved.
      await office.frontDesk.call('POST', '/visits', { start: '2026-12-30T09:00:00', customer_id: 'C-1001', instrument: 'since the backup' });
      await office.frontDesk.call('PATCH', '/visits/V-1002', { instrument: 'changed since' });
      await eventually(
        'both crossed',
        async () => (await office.events()).length === 6 && (await office.event('V-1002'))!.text.includes('changed since'),
      );
      // And one that moved there and was edited on the calendar: what the backup knows of it is older than both.
      await office.client.pause('tuning-visits');
      await office.frontDesk.call('PATCH', '/visits/V-1003', { instrument: 'by the clerk' });
      const third = (await office.event('V-1003'))!;
      await dav(
        office.diary,
        'PUT',
        third.href,
        { 'content-type': 'text/calendar' },
        third.text.replace(/SUMMARY:.*/, 'SUMMARY:Edited on the calendar'),
      );
      const there = { ...process.env, MONSOON_DATA: folder, DATABASE_URL: other.url };
      expect((await run('bash', [script('restore'), file], { env: there })).stdout).to.match(/restored; start the service/);
      const refused = await run('bash', [script('restore'), file], { env: there }).catch((e: { code: number; stderr: string }) => e);
      expect(refused).to.include({ code: 4 });
      const service = await spawnService({ databaseUrl: other.url, dataFolder: folder });
      const client = new MonsoonClient({ address: service.address, token: office.token });
      await client.run('tuning-visits');
      await eventually('it has looked', async () => (await client.lane('tuning-visits')).pairs === 6);
      const last = await eventually('it rests', async () => {
        const { lastRun } = await client.lane('tuning-visits');
        return lastRun?.state === 'done' && lastRun;
      });
      expect(last.reason).to.match(/first run since a backup was restored/);
      expect(new Set(await office.events()).size).to.equal(6);
      // The lane's rule is that records win; the newer edit on the calendar stays until a person decides.
      expect((await office.event('V-1003'))!.text).to.include('SUMMARY:Edited on the calendar');
      expect((await client.holds()).items.map((h) => [h.recordId, h.question])).to.deep.equal([['V-1003', 'conflict']]);
      const { differences, counts } = await client.audit('tuning-visits');
      expect({ differ: differences.map((d) => d.recordId), inSync: counts.inSync, foreign: counts.foreign }).to.deep.equal({
        differ: ['V-1003'],
        inSync: 5,
        foreign: 0,
      });
      service.child.kill('SIGTERM');
      await new Promise((fine) => service.child.once('exit', fine));
    } finally {
      await other.drop();
      await office.stop();
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
