import { execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { request as plainRequest } from 'node:http';
import { type AddressInfo, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { expect } from 'chai';
import { Agent, fetch as fetchWith } from 'undici';
import { parse } from 'yaml';
import { admin, type Office, openOffice } from '../../../test/support/office.ts';
import { eventually } from '../../../test/support/servers.ts';

const root = resolve(import.meta.dirname, '../../..');
const deploy = (file: string) => readFileSync(join(root, 'deploy', file), 'utf8');
const site = 'monsoon.alder-wren.example';

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((fine) => server.listen(0, '127.0.0.1', fine));
  const { port } = server.address() as AddressInfo;
  await new Promise((fine) => server.close(fine));
  return port;
}

describe('the example site of nginx', () => {
  let office: Office;
  let stop = async (): Promise<void> => undefined;
  let ports: { plain: number; tls: number };
  let agent: Agent;

  before(async function () {
    this.timeout(60_000);
    ports = { plain: await freePort(), tls: await freePort() };
    // People name no port; a test cannot listen at 443 everywhere.
    office = await openOffice({ seed: [], withLane: false, config: { publicAddress: `https://${site}`, trustProxy: ['loopback'] } });
    const folder = mkdtempSync(join(tmpdir(), 'nginx-'));
    const [certificate, key] = [join(folder, 'certificate.pem'), join(folder, 'key.pem')];
    execFileSync(
      'openssl',
      ['req', '-x509', '-newkey', 'rsa:2048', '-nodes', '-days', '2', '-subj', `/CN=${site}`, '-keyout', key, '-out', certificate],
      {
        stdio: 'ignore',
      },
    );
    const own = deploy('nginx/monsoon.conf')
      .replaceAll('/etc/ssl/monsoon/certificate.pem', certificate)
      .replaceAll('/etc/ssl/monsoon/key.pem', key)
      .replaceAll('http://127.0.0.1:4700', office.address)
      .replace(/listen \[::\].*\n/g, '')
      .replace('listen 80;', `listen 127.0.0.1:${ports.plain};`)
      .replace('listen 443 ssl http2;', `listen 127.0.0.1:${ports.tls} ssl http2;`);
    mkdirSync(join(folder, 'temporary'));
    const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map((n) => `${n}_temp_path ${folder}/temporary;`).join(' ');
    writeFileSync(
      join(folder, 'nginx.conf'),
      `daemon off; master_process off; pid ${folder}/pid; error_log ${folder}/error.log; events {} http { access_log off; ${temporary}\n${own}\n}`,
    );
    const nginx = spawn('/usr/sbin/nginx', ['-c', join(folder, 'nginx.conf'), '-p', folder], { stdio: 'ignore' });
    agent = new Agent({ connect: { rejectUnauthorized: false, servername: site } });
    stop = async () => {
      await agent.destroy();
      nginx.kill('SIGTERM');
      await office.stop();
      rmSync(folder, { recursive: true, force: true });
    };
    await eventually('nginx listens', () =>
      ask('/healthz').then(
        (a) => a.status === 200,
        () => false,
      ),
    );
  });
  after(() => stop());

  const ask = (path: string, more: { method?: string; headers?: Record<string, string>; body?: string } = {}) =>
    fetchWith(`https://127.0.0.1:${ports.tls}${path}`, { ...more, headers: { host: site, ...more.headers }, dispatcher: agent, redirect: 'manual' });

  it('signs people in over TLS, passes changes on at once, and keeps the numbers inside', async () => {
    const signed = await ask('/api/v1/session', {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: `https://${site}`, 'x-forwarded-for': '203.0.113.9' },
      body: JSON.stringify(admin),
    });
    expect(signed.status).to.equal(201);
    expect(signed.headers.get('strict-transport-security')).to.match(/max-age/);
    const cookie = signed.headers.getSetCookie()[0]!.split(';')[0]!;
    expect(cookie).to.match(/^__Host-monsoon_session=/);
    const stream = await ask('/api/v1/changes', { headers: { cookie } });
    const reader = stream.body!.getReader();
    const heard = (async () => {
      let text = '';
      for (;;) {
        const { value, done } = await reader.read();
        text += Buffer.from((value as Uint8Array | undefined) ?? []).toString();
        if (done || text.includes('"webhooks"') || text.includes('event: changed')) return text;
      }
    })();
    await office.app.announcer.announce(['lanes']);
    expect(await heard).to.match(/event: changed\ndata: \["lanes"\]/);
    await reader.cancel();
    expect((await ask('/metrics')).status).to.equal(404);
    expect((await ask('/api/v1/metrics')).status).to.equal(404);
    // A claim about one's own address is not passed on: the guesses are counted for the address that nginx saw.
    for (let i = 0; i < 6; i++)
      await ask('/api/v1/session', {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-forwarded-for': `203.0.113.${i}` },
        body: JSON.stringify({ email: 'somebody@alder-wren.example', password: 'wrong' }),
      });
    const { rows } = await office.app.pool.query("select source, failures from sign_in_failures where source <> 'all'");
    expect(rows).to.deep.equal([{ source: 'ip 127.0.0.1', failures: 5 }]);
  });

  it('sends plain HTTP to TLS', async () => {
    const location = await new Promise<string | undefined>((fine, wrong) => {
      plainRequest({ host: '127.0.0.1', port: ports.plain, path: '/lanes', headers: { host: site } }, (a) => fine(a.resume().headers.location))
        .on('error', wrong)
        .end();
    });
    expect(location).to.equal(`https://${site}/lanes`);
  });
});

describe('what is shipped for operating it', () => {
  it('starts files that are there, as the units and the image say', () => {
    const units = readdirSync(join(root, 'deploy/systemd')).map((file) => deploy(`systemd/${file}`));
    expect(units).to.have.length(2);
    for (const text of [...units, deploy('Containerfile')]) {
      const main = /(packages\/\S+?main\.js)/.exec(text)![1]!;
      expect(existsSync(join(root, main.replace('/dist/', '/src/').replace(/js$/, 'ts'))), main).to.equal(true);
    }
    if (existsSync('/usr/bin/systemd-analyze'))
      for (const file of readdirSync(join(root, 'deploy/systemd'))) {
        const found = spawnText('/usr/bin/systemd-analyze', ['verify', '--man=no', join(root, 'deploy/systemd', file)]);
        expect(found.split('\n').filter((line) => line.includes(`${file}:`))).to.deep.equal([]);
      }
  });

  it('packs the command line into one file that needs nothing else', async function () {
    this.timeout(60_000);
    const folder = mkdtempSync(join(tmpdir(), 'pack-'));
    execFileSync(process.execPath, [join(root, 'scripts/pack-cli.mjs'), folder], { stdio: ['ignore', 'ignore', 'pipe'] });
    const [file] = readdirSync(folder);
    execFileSync('tar', ['-xzf', file!], { cwd: folder });
    const { version } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')) as { version: string };
    expect(execFileSync(process.execPath, [join(folder, 'package/monsoon.mjs'), '--version'], { encoding: 'utf8' })).to.equal(`${version}\n`);
    rmSync(folder, { recursive: true, force: true });
  });

  it('alerts only by numbers that there are', () => {
    const metrics = readFileSync(join(root, 'packages/service/src/http/metrics.ts'), 'utf8');
    const { groups } = parse(deploy('prometheus/alerts.yaml')) as { groups: { rules: { expr: string }[] }[] };
    const names = groups.flatMap((g) => g.rules.flatMap((r) => r.expr.match(/monsoon_\w+/g) ?? []));
    expect(names).to.have.length.greaterThan(5);
    for (const name of names) expect(metrics, name).to.include(`'${name}'`);
  });

  it('documents every variable, and no other', () => {
    const read = readFileSync(join(root, 'packages/service/src/config.ts'), 'utf8').match(/(?<=env\[')\w+/g)!;
    const told = readFileSync(join(root, 'docs/operating.md'), 'utf8')
      .match(/^\| (`[A-Z_`, ]+) \|/gm)!
      .flatMap((row) => row.match(/\b(MONSOON_|DATABASE_)\w+/g)!);
    expect([...new Set(told)].sort()).to.deep.equal([...new Set(read)].sort());
  });
});

function spawnText(command: string, args: string[]): string {
  try {
    return execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
  } catch (error) {
    const { stdout, stderr } = error as { stdout: string; stderr: string };
    return stdout + stderr;
  }
}
