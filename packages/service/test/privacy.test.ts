import { execFileSync, fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { roles } from '@monsoon/contract';
import type { MonsoonClient } from '@monsoon/contract/client';
import { expect } from 'chai';
import pg from 'pg';
import { plainVisits, startFrontDesk } from '../../../test/support/front-desk.ts';
import { misbehaving } from '../../../test/support/misbehaving.ts';
import { admin, furnish, getToken } from '../../../test/support/office.ts';
import { account, dav, eventually, freshDatabase } from '../../../test/support/servers.ts';

/** Planted where a careless line would carry them along. */
const planted = { instrument: 'Quillfeather spinet', notes: 'Door code 4711 Zanzibar', secret: 'sesame-zwieback-9' };

describe('what logs, errors, exports and the recorder say', () => {
  it('holds no secret, no token and no personal value', async function () {
    this.timeout(400_000);
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
      // A calendar server that quotes what it was asked with, and a database that quotes what it was to keep.
      const quoting = await misbehaving((asked, response) => {
        const said = asked.headers.authorization ?? '';
        response.writeHead(500).end(`cannot: ${said} ${Buffer.from(said.replace('Basic ', ''), 'base64').toString()}`);
        return true;
      });
      await client.changeSystem('diary', { settings: { address: quoting.address }, secrets: { password: planted.secret } });
      await office.run();
      answers += JSON.stringify(await client.checkSystem('diary'));
      await client.changeSystem('diary', { settings: { address: office.diary }, secrets: { password: account.password } });
      const own = new pg.Client({ connectionString: database.url });
      await own.connect();
      const { rows: tables } = await own.query<{ name: string }>("select tablename as name from pg_tables where schemaname = 'public'");
      await own.query(`create function quote_row() returns trigger language plpgsql as $$ begin raise exception 'refused: %', new; end $$`);
      const lane = await client.lane('tuning-visits');
      for (const [i, { name }] of tables.entries()) {
        await own.query(`create trigger quoting before insert or update on ${name} for each row execute function quote_row()`);
        await frontDesk.call('PATCH', '/visits/V-1001', { notes: `${planted.notes} ${i}` });
        const attempts: Promise<unknown>[] = [
          client.run('tuning-visits', { sweep: true }).then((r) => office.settled(r)),
          client.makeToken(`t${i}`, 'read', null),
          client.addPerson({ email: `p${i}@alder-wren.example`, name: 'P', role: 'viewer', password: `${planted.secret} ${i} harps` }),
          client.makeDraft({ slug: `d${i}`, definition: { name: planted.instrument } }),
          client.changeSystem('front-desk', { secrets: { token: frontDesk.token } }),
          client.addWebhook({ name: `w${i}`, url: 'https://chat.alder-wren.example/', occasions: ['allowance'] }),
          client.changeSettings({ keep: { journal: 400 - i } }),
          client.signIn(admin.email, planted.secret),
        ];
        for (const attempt of attempts)
          answers += await Promise.race([
            attempt.then(
              () => '',
              (e: Error & { problems?: unknown }) => e.message + JSON.stringify(e.problems ?? ''),
            ),
            wait(4000, ''),
          ]);
        await own.query(`drop trigger quoting on ${name}`);
      }
      await own.query('drop function quote_row()');
      await own.end();
      expect(answers).to.match(/refused|fault in Monsoon|database/);
      await eventually('it goes on', async () => (await office.run({ sweep: true })).state === 'done', 60_000);
      const seen = await everythingFor(address, await everyRole(client, address), {
        lane: lane.slug,
        run: (await client.runs({ limit: 1 })).items[0]!.id,
      });
      for (const format of ['csv', 'json'] as const) for await (const piece of client.exportJournal({ format })) exported += piece;
      const recorded = JSON.stringify([await client.calls('diary'), await client.calls('front-desk')]);
      const metrics = await (await fetch(`${address}/metrics`, { headers: { authorization: `Bearer ${token}` } })).text();
      const activity = JSON.stringify(await client.activity({ limit: 500 }));
      const dump = execFileSync('bash', ['-c', `$(ls /usr/lib/postgresql/*/bin/pg_dump | tail -1) "${database.url}"`], {
        encoding: 'utf8',
        maxBuffer: 1e9,
      });
      const dates = { logs, answers, exported, recorded, metrics, activity };
      // Secrets show nowhere; what an item holds is shown to people in its place, and kept in the database.
      const secrets = [planted.secret, token, admin.password, 'well-tempered', frontDesk.token];
      for (const [where, said] of Object.entries({ ...seen, dump }))
        for (const value of secrets) expect(said.includes(value), `${value} in ${where}`).to.equal(false);
      expect(seen['administrator get lanes/{lane}/items']).to.include('V-1001');
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

/** A token of somebody of each role. */
async function everyRole(client: MonsoonClient, address: string): Promise<Record<string, string>> {
  const found: Record<string, string> = {};
  for (const role of roles) {
    const [email, given, password] = [`${role}.planted@alder-wren.example`, 'four loud violas here', 'five soft violas there'];
    await client.addPerson({ email, name: role, role, password: given });
    const ask = (method: string, path: string, body: object, headers: Record<string, string>) =>
      fetch(`${address}/api/v1${path}`, { method, headers: { 'content-type': 'application/json', ...headers }, body: JSON.stringify(body) });
    const signed = await ask('POST', '/session', { email, password: given }, {});
    const cookie = signed.headers.getSetCookie()[0]!.split(';')[0]!;
    await ask('PUT', '/session/password', { current: given, password }, { cookie });
    const made = await ask('POST', '/tokens', { name: 'all' }, { cookie });
    found[role] = ((await made.json()) as { token: string }).token;
  }
  return found;
}

/** What every role gets from every address that can be read. */
async function everythingFor(address: string, tokens: Record<string, string>, known: Record<string, string>): Promise<Record<string, string>> {
  const said: Record<string, string> = {};
  const values: Record<string, string> = { system: 'diary', collection: 'visits', record: 'V-1001', ...known };
  const document = (await (await fetch(`${address}/api/v1/openapi.json`)).json()) as { paths: Record<string, Record<string, unknown>> };
  for (const [role, token] of Object.entries(tokens))
    for (const [path, methods] of Object.entries(document.paths)) {
      if (methods['get'] === undefined) continue;
      for (const system of path.includes('{system}') ? ['diary', 'front-desk'] : ['']) {
        const real = path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(name === 'system' ? system : (values[name] ?? 'nothing')));
        const query = path.endsWith('/counts') ? '?from=2026-01-01&until=2026-12-31' : path.endsWith('/why') ? '?item=V-1001' : '';
        const answer = await fetch(address + real + query, { headers: { authorization: `Bearer ${token}` } });
        said[`${role} get ${path.replace('/api/v1/', '')}${system}`] = await answer.text();
      }
    }
  return said;
}
