import { execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { type AddressInfo, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { readConfig, startService } from '@monsoon/service';
import { expect } from 'chai';
import { and, eq } from 'drizzle-orm';
import pg from 'pg';
import { pino } from 'pino';
import { MemoryStore } from '../../../test/simulation/memory-store.ts';
import { openLaneStore } from '../../../test/support/lane-store.ts';
import { admin } from '../../../test/support/office.ts';
import { runStoreAcceptance, storedPair } from '../../../test/support/run-store-acceptance.ts';
import { eventually, freshDatabase } from '../../../test/support/servers.ts';
import { mapConcurrent } from '../src/run/map-concurrent.ts';
import { openDatabase } from '../src/storage/database.ts';
import { holds, journal } from '../src/storage/schema.ts';
import { openVault } from '../src/storage/secrets.ts';

describe('the vault', () => {
  const folder = mkdtempSync(join(tmpdir(), 'vault-'));
  after(() => rmSync(folder, { recursive: true }));

  it('seals so that nothing shows, differently each time, and opens again', () => {
    const vault = openVault(folder, undefined);
    const [one, two] = [vault.seal({ password: 'well-tempered' }), vault.seal({ password: 'well-tempered' })];
    expect(one).to.not.equal(two);
    expect(Buffer.from(one, 'base64').toString('latin1')).to.not.include('well-tempered');
    expect(openVault(folder, undefined).open(two)).to.deep.equal({ password: 'well-tempered' });
    expect((statSync(join(folder, 'key')).mode & 0o777).toString(8)).to.equal('600');
  });

  it('refuses what was altered, another key, and a key that is none', () => {
    const vault = openVault(folder, undefined);
    const sealed = Buffer.from(vault.seal('x'), 'base64');
    sealed[sealed.length - 1]! ^= 1;
    expect(() => vault.open(sealed.toString('base64'))).to.throw('cannot be opened');
    expect(() => openVault(folder, Buffer.alloc(32, 7).toString('base64')).open(vault.seal('x'))).to.throw('the key is not the one');
    expect(() => openVault(folder, 'short')).to.throw('MONSOON_KEY: give 32 bytes in base64');
  });
});

describe('working in turn', () => {
  it('does everything, a few at a time', async () => {
    let busy = 0;
    let most = 0;
    const results = await mapConcurrent(
      [1, 2, 3, 4, 5, 6, 7],
      async (n) => {
        most = Math.max(most, ++busy);
        await new Promise((fine) => setTimeout(fine, 5));
        busy--;
        return n * 2;
      },
      { width: 3, done: () => false },
    );
    expect(results).to.deep.equal([2, 4, 6, 8, 10, 12, 14]);
    expect(most).to.equal(3);
  });

  it('starts nothing more once it is told to end', async () => {
    const begun: number[] = [];
    const results = await mapConcurrent(
      [1, 2, 3, 4, 5, 6],
      async (n) => {
        begun.push(n);
        return n;
      },
      { width: 2, done: (n) => n === 2 },
    );
    expect(begun).to.have.length.lessThan(5);
    expect(results.at(-1)).to.equal(undefined);
  });
});

describe('the configuration', () => {
  it('has working defaults, and names the variable that is wrong', () => {
    expect(readConfig({})).to.include({ host: '127.0.0.1', port: 4700, role: 'both', databaseUrl: undefined });
    expect(readConfig({ MONSOON_ALLOW_ADDRESSES: '127.0.0.1, intranet.example' }).allowedAddresses).to.deep.equal(['127.0.0.1', 'intranet.example']);
    expect(() => readConfig({ MONSOON_PORT: 'eighty' })).to.throw('MONSOON_PORT: "eighty" is not a port');
    expect(() => readConfig({ MONSOON_ROLE: 'boss' })).to.throw('MONSOON_ROLE: "boss" is not web, worker or both');
  });
});

runStoreAcceptance('in memory', async () => {
  const store = new MemoryStore();
  const settle = async (pair: string, choice: string) => store.settle(store.questions.find((q) => q.pair === pair && q.state === 'open')!, choice);
  return { store, settle, close: async () => undefined };
});

runStoreAcceptance('in PostgreSQL', async () => {
  const { store, open, close } = await openLaneStore();
  const settle = async (pair: string, choice: string) =>
    void (await open.db
      .update(holds)
      .set({ state: 'settled', choice })
      .where(and(eq(holds.pair, pair), eq(holds.state, 'open'))));
  return { store, settle, close };
});

describe('the database', () => {
  it('writes ten thousand pairs with their journal in one batch', async () => {
    const { store, open, close } = await openLaneStore();
    const many = Array.from({ length: 10_000 }, (_, i) => storedPair(`many-${i}`, { state: 'removed', href: null }));
    await store.write({
      pairs: many,
      entries: many.map((p) => ({ pair: p, kind: 'remove', cause: 'test', changes: [], notes: [], removed: 'BEGIN:VCALENDAR', changedAt: null })),
    });
    expect((await store.pairs({ records: many.map((p) => p.recordId!) })).length).to.equal(10_000);
    expect(await open.db.$count(journal)).to.equal(10_000);
    await close();
  }).timeout(60_000);

  it('takes a batch whole or not at all', async () => {
    const { store, close } = await openLaneStore();
    const broken = store.write({
      pairs: [storedPair('E')],
      entries: [{ pair: storedPair('E'), kind: null as never, cause: 'x', changes: [], notes: [], removed: null, changedAt: null }],
    });
    expect(
      await broken.then(
        () => 'written',
        () => 'refused',
      ),
    ).to.equal('refused');
    expect(await store.pairs({ records: ['E'] })).to.deep.equal([]);
    await close();
  });

  it('is made once by many processes that start together', async () => {
    const fresh = await freshDatabase();
    const all = await Promise.all(Array.from({ length: 4 }, () => openDatabase(fresh.url, pino({ level: 'silent' }))));
    expect((await all[0]!.pool.query('select count(*)::int as n from drizzle.__drizzle_migrations')).rows[0].n).to.be.greaterThan(0);
    await Promise.all(all.map((d) => d.close()));
    await fresh.drop();
  });
});

describe('the service alone', () => {
  const script = resolve(import.meta.dirname, '../scripts/postgres.sh');
  it('starts a PostgreSQL of its own, keeps its data over a restart, and stops it', async function () {
    this.timeout(90_000);
    const folder = mkdtempSync('/tmp/alone-');
    execFileSync('chmod', ['711', folder]);
    const config = { ...readConfig({ MONSOON_DATA: folder, MONSOON_LOG: 'silent' }), port: 0, admin };
    try {
      const first = await startService(config);
      expect(first.administrator).to.include({ email: admin.email, madeUp: null });
      await first.stop();
      const second = await startService(config);
      expect(second.administrator, 'the people of last time are still there').to.equal(null);
      expect(await (await fetch(`${second.address}/api/v1/health`)).json()).to.include({ ok: true, database: true });
      const password = readFileSync(join(folder, 'postgres', 'password'), 'utf8');
      const port = Number(readFileSync(join(folder, 'postgres', 'port'), 'utf8'));
      // Another service on the folder, as in a restart without a pause: the last to end stops what they share.
      const other = spawn(process.execPath, ['-e', 'setTimeout(() => {}, 600000)']);
      execFileSync('bash', [script, 'start', join(folder, 'postgres'), String(other.pid)]);
      const connects = () => {
        const client = new pg.Client({ host: '127.0.0.1', port, user: 'app', password, database: 'app' });
        return client.connect().then(
          () => client.end().then(() => 'runs'),
          () => 'stopped',
        );
      };
      await second.stop();
      expect(await connects()).to.equal('runs');
      const gone = new Promise((fine) => other.once('exit', fine));
      other.kill('SIGKILL');
      await gone;
      await (await startService(config)).stop();
      expect(await connects()).to.equal('stopped');
      // A start that fails stops what it had started.
      const taken = createServer();
      await new Promise<void>((fine) => taken.listen(0, '127.0.0.1', fine));
      const failed = startService({ ...config, port: (taken.address() as AddressInfo).port });
      expect((await failed.catch((e: NodeJS.ErrnoException) => e)) as NodeJS.ErrnoException).to.include({ code: 'EADDRINUSE' });
      expect(await connects()).to.equal('stopped');
      taken.close();
    } finally {
      execFileSync('bash', [script, 'stop', join(folder, 'postgres')]);
      rmSync(folder, { recursive: true, force: true });
    }
  });

  it('says what is wrong when it cannot start', () => {
    const main = resolve(import.meta.dirname, '../src/main.ts');
    const start = (env: Record<string, string>) => {
      try {
        execFileSync(process.execPath, ['--import', 'tsx', '--conditions=source', '--no-warnings', main], {
          env: { ...process.env, ...env },
          stdio: ['ignore', 'pipe', 'pipe'],
          timeout: 30_000,
        });
        return 'started';
      } catch (error) {
        return String((error as { stderr: Buffer }).stderr);
      }
    };
    expect(start({ MONSOON_PORT: 'eighty' })).to.match(/monsoon did not start: MONSOON_PORT: "eighty" is not a port/);
    expect(start({ DATABASE_URL: 'postgres://nobody@127.0.0.1:9/none', MONSOON_DATA: mkdtempSync(join(tmpdir(), 'x-')) })).to.match(
      /monsoon did not start: .*ECONNREFUSED/,
    );
  }).timeout(60_000);

  it('runs a lane on one process at a time, and takes over from one that died', async function () {
    this.timeout(60_000);
    const { startFrontDesk, plainVisits } = await import('../../../test/support/front-desk.ts');
    const { furnish, getToken, spawnService } = await import('../../../test/support/office.ts');
    const { cyrus, listEvents } = await import('../../../test/support/servers.ts');
    const frontDesk = await startFrontDesk(plainVisits(120));
    const places = { databaseUrl: (await freshDatabase()).url, dataFolder: mkdtempSync(join(tmpdir(), 'monsoon-')) };
    writeFileSync(join(places.dataFolder, 'key'), Buffer.alloc(32, 1).toString('base64'));
    const [one, two] = [await spawnService(places), await spawnService(places)];
    try {
      const office = await furnish(one.address, await getToken(one.address), frontDesk, { diary: cyrus(), notices: false }, places);
      const asked = await Promise.all([1, 2, 3].map(() => office.client.run('tuning-visits', { sweep: true })));
      await new Promise((fine) => setTimeout(fine, 300));
      one.child.kill('SIGKILL');
      const { MonsoonClient } = await import('@monsoon/contract/client');
      const survivor = new MonsoonClient({ address: two.address, token: office.token });
      for (const run of asked) await eventually('every run ends', async () => (await survivor.oneRun(run.id)).state === 'done', 30_000);
      const all = (await survivor.runs({ limit: 50 })).items
        .filter((r) => r.startedAt !== null && r.endedAt !== null)
        .sort((a, b) => (a.startedAt! < b.startedAt! ? -1 : 1));
      for (const [i, run] of all.entries()) if (i > 0) expect(run.startedAt! >= all[i - 1]!.endedAt!, 'runs of a lane do not overlap').to.equal(true);
      expect(await listEvents(cyrus(), office.calendar)).to.have.length(120);
    } finally {
      for (const s of [one, two]) s.child.kill('SIGKILL');
      frontDesk.stop();
    }
  });
});
