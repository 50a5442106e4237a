import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { expect } from 'chai';
import { plainVisits, startFrontDesk } from '../../../test/support/front-desk.ts';
import { admin, furnish, getToken } from '../../../test/support/office.ts';
import { dav, eventually, freshDatabase } from '../../../test/support/servers.ts';

/** Planted where a careless line would carry them along. */
const planted = { instrument: 'Quillfeather spinet', notes: 'Door code 4711 Zanzibar', secret: 'sesame-zwieback-9' };

describe('what logs, errors, exports and the recorder say', () => {
  it('holds no secret, no token and no personal value', async function () {
    this.timeout(120_000);
    const frontDesk = await startFrontDesk(plainVisits(4));
    const database = await freshDatabase();
    const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
    const child = fork(resolve(import.meta.dirname, '../src/main.ts'), {
      execArgv: ['--import', 'tsx', '--conditions=source', '--no-warnings'],
      env: {
        ...process.env,
        DATABASE_URL: database.url,
        MONSOON_DATA: dataFolder,
        MONSOON_PORT: '0',
        MONSOON_ALLOW_ADDRESSES: '127.0.0.1',
        MONSOON_ADMIN_EMAIL: admin.email,
        MONSOON_ADMIN_PASSWORD: admin.password,
        MONSOON_LOG: 'trace',
      },
      stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
    });
    let logs = '';
    for (const stream of [child.stdout!, child.stderr!])
      stream.on('data', (piece) => {
        logs += piece;
      });
    try {
      const address = await new Promise<string>((fine) => child.once('message', (m) => fine((m as { ready: string }).ready)));
      const token = await getToken(address);
      const office = await furnish(address, token, frontDesk, {}, { databaseUrl: database.url, dataFolder });
      const { client } = office;
      await eventually('the first run', async () => (await client.lane('tuning-visits')).lastRun?.state === 'done');
      let answers = '';
      const wrong = async (method: string, path: string, body?: unknown) => {
        const answer = await fetch(`${address}/api/v1${path}`, {
          method,
          headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
          ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        });
        expect(answer.status).to.be.greaterThan(399);
        answers += await answer.text();
      };
      // Values that are refused, lost on the way, in conflict, and removed; secrets that are wrong.
      await frontDesk.call('PATCH', '/visits/V-1001', { instrument: planted.instrument, notes: planted.notes });
      await office.run();
      const { href, text } = (await office.event('V-1001'))!;
      expect(text).to.include(planted.instrument);
      await dav(office.diary, 'PUT', href, { 'content-type': 'text/calendar' }, 'BEGIN:VCALENDAR\r\nNOT AN EVENT\r\n');
      await office.run({ sweep: true });
      await frontDesk.call('PATCH', '/visits/V-1002', { instrument: planted.instrument, length_minutes: null });
      await frontDesk.call('PATCH', '/visits/V-1003', { instrument: planted.instrument, status: 'cancelled' });
      await office.run();
      await client.changeSystem('diary', { secrets: { password: planted.secret } });
      await office.run();
      await wrong('POST', '/session', { email: 'nobody@alder-wren.example', password: planted.secret });
      await wrong('POST', '/systems', {
        slug: 'x',
        name: 'X',
        kind: 'caldav',
        settings: { address: 'nowhere' },
        secrets: { password: planted.secret, more: planted.secret },
      });
      await wrong('PATCH', '/systems/diary', { secrets: { password: 5, token: [planted.secret] } });
      await wrong('POST', '/people', { email: 'x', name: 'X', role: 'viewer', password: planted.secret.slice(0, 5) });
      let exported = '';
      for (const format of ['csv', 'json'] as const) for await (const piece of client.exportJournal({ format })) exported += piece;
      const recorded = JSON.stringify([await client.calls('diary'), await client.calls('front-desk')]);
      const metrics = await (await fetch(`${address}/metrics`, { headers: { authorization: `Bearer ${token}` } })).text();
      const activity = JSON.stringify(await client.activity({ limit: 500 }));
      const dates = { logs, answers, exported, recorded, metrics, activity };
      expect(logs.length, 'something was logged').to.be.greaterThan(500);
      expect(exported).to.include('V-1001');
      const forbidden = [
        ...Object.values(planted),
        'Quillfeather',
        'Zanzibar',
        token,
        admin.password,
        'well-tempered',
        frontDesk.token,
        'Ottoline',
        'Marsh',
      ];
      for (const [where, said] of Object.entries(dates))
        for (const value of forbidden) expect(said.includes(value), `${value} in ${where}`).to.equal(false);
    } finally {
      child.kill('SIGTERM');
      await new Promise((fine) => child.once('exit', fine));
      frontDesk.stop();
      await database.drop();
      rmSync(dataFolder, { recursive: true, force: true });
    }
  });
});
