import { type ChildProcess, execFile, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join, resolve } from 'node:path';
import { promisify } from 'node:util';
import { MonsoonClient, ServiceProblem } from '@monsoon/client';
import type { LaneAnswer, RunAnswer } from '@monsoon/core';
import { parse } from 'yaml';
import { makeData } from './data.ts';

/** Starts Alder & Wren: their calendar server, their Front desk, and Monsoon between them. `--once`: sums up and ends. */

const root = resolve(import.meta.dirname, '..');
const once = process.argv.includes('--once');
const base = Number(process.env['MONSOON_DEMO_PORT'] ?? 4700);
const ports = { service: base, frontDesk: base + 10, diary: base + 20 };
const data = resolve(process.env['MONSOON_DATA'] ?? join(root, '.data', 'demo'));
const started = Date.now();
const children: ChildProcess[] = [];
const run = promisify(execFile);

interface Secrets {
  admin: string;
  diary: string;
  frontDesk: string;
  token?: string;
}
const LANES = ['tuning-visits', 'calls'];
const email = 'ines@alder-wren.example';
const secretsFile = join(data, 'secrets.json');

const say = (text: string) => console.log(text);
const step = (text: string) => say(`- ${text}`);

class Trouble extends Error {}

function readSecrets(): Secrets {
  mkdirSync(data, { recursive: true });
  if (existsSync(secretsFile)) return JSON.parse(readFileSync(secretsFile, 'utf8')) as Secrets;
  // Hexadecimal: a secret that begins with a dash would be taken for an option.
  const make = () => randomBytes(8).toString('hex');
  const made = { admin: make(), diary: make(), frontDesk: make() };
  writeFileSync(secretsFile, JSON.stringify(made), { mode: 0o600 });
  return made;
}

async function needPort(port: number, whose: string): Promise<void> {
  await new Promise<void>((fine, reject) => {
    const probe = createServer()
      .once('error', () =>
        reject(new Trouble(`port ${port} (${whose}) is taken. Stop what uses it, or choose others: MONSOON_DEMO_PORT=5700 npm run demo`)),
      )
      .once('listening', () => probe.close(() => fine()))
      .listen(port, '127.0.0.1');
  });
}

/** Starts a program of ours and waits for its first line; its later output is kept for troubles. */
function start(name: string, args: string[], env: NodeJS.ProcessEnv): Promise<void> {
  return new Promise((fine, reject) => {
    const child = spawn(process.execPath, args, { cwd: root, env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
    children.push(child);
    let seen = '';
    const look = (text: Buffer) => {
      seen = (seen + text.toString()).slice(-4000);
      if (/ at http:/.test(seen)) fine();
    };
    child.stdout.on('data', look);
    child.stderr.on('data', look);
    child.on('exit', (code) => {
      reject(new Trouble(`${name} did not start (${code}): ${seen.trim()}`));
      if (!stopping) {
        console.error(`${name} ended by itself (${code}): ${seen.trim().slice(-500)}`);
        void stop(1);
      }
    });
  });
}

let stopping = false;
async function stop(code: number): Promise<never> {
  stopping = true;
  const alive = children.filter((c) => c.exitCode === null && c.signalCode === null);
  const gone = alive.map((c) => new Promise((fine) => c.once('exit', fine)));
  for (const child of alive) child.kill('SIGTERM');
  await Promise.race([Promise.all(gone), new Promise((fine) => setTimeout(fine, 10_000))]);
  await run('bash', ['scripts/radicale.sh', 'stop', join(data, 'diary')], { cwd: root }).catch(() => undefined);
  process.exit(code);
}

const yaml = (file: string) => parse(readFileSync(join(root, 'demo', file), 'utf8')) as Record<string, never>;

async function frontDesk<T>(secrets: Secrets, method: string, path: string, body?: unknown): Promise<T> {
  const answer = await fetch(`http://127.0.0.1:${ports.frontDesk}/api/v1${path}`, {
    method,
    headers: { authorization: `Bearer ${secrets.frontDesk}`, 'content-type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  if (!answer.ok) throw new Trouble(`the Front desk answered ${answer.status} to ${method} ${path}`);
  return (await answer.json()) as T;
}

/** Speaks to the Diary directly, as somebody with a calendar program would. */
async function diary(secrets: Secrets, method: string, path: string, headers: Record<string, string>, body?: string): Promise<string> {
  const authorization = `Basic ${Buffer.from(`alderwren:${secrets.diary}`).toString('base64')}`;
  const answer = await fetch(`http://127.0.0.1:${ports.diary}${path}`, {
    method,
    headers: { authorization, ...headers },
    ...(body === undefined ? {} : { body }),
  });
  if (!answer.ok) throw new Trouble(`the Diary answered ${answer.status} to ${method} ${path}`);
  return answer.text();
}

async function countEvents(secrets: Secrets, calendar: string): Promise<number> {
  const text = await diary(
    secrets,
    'PROPFIND',
    calendar,
    { depth: '1', 'content-type': 'application/xml' },
    '<propfind xmlns="DAV:"><prop><getetag/></prop></propfind>',
  );
  return [...text.matchAll(/<(?:\w+:)?href>[^<]*\.ics</g)].length;
}

/** One visit stands in the Diary already, entered by hand: the first run must find it, not make a second. */
async function enterByHand(secrets: Secrets, calendar: string): Promise<void> {
  const { items } = await frontDesk<{
    items: { start: string | null; instrument: string | null; kind: string; notes: string | null; customer: { name: string } | null }[];
  }>(secrets, 'GET', '/visits?limit=500');
  const visit = items.find((v) => v.notes?.startsWith('Somebody entered this'));
  if (visit?.start == null) return;
  const clock = visit.start.replace(/[-:]/g, '');
  const until = `${clock.slice(0, 9)}${String(Number(clock.slice(9, 11)) + 1).padStart(2, '0')}${clock.slice(11)}`;
  const title = `${visit.customer?.name ?? ''}: ${visit.kind}\\, ${visit.instrument ?? ''}`;
  const text = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Alder and Wren//By hand//EN',
    'BEGIN:VEVENT',
    'UID:by-hand-1@alder-wren.example',
    'DTSTAMP:20260101T000000Z',
    `DTSTART;TZID=Europe/London:${clock}`,
    `DTEND;TZID=Europe/London:${until}`,
    `SUMMARY:${title}`,
    'X-HAND-WRITTEN:yes',
    'BEGIN:VALARM',
    'ACTION:DISPLAY',
    'DESCRIPTION:Take the good lamp',
    'TRIGGER:-PT30M',
    'END:VALARM',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n');
  await diary(secrets, 'PUT', `${calendar}by-hand-1.ics`, { 'content-type': 'text/calendar; charset=utf-8' }, text);
}

async function signIn(secrets: Secrets): Promise<MonsoonClient> {
  const address = `http://127.0.0.1:${ports.service}`;
  if (secrets.token === undefined) {
    const cookies: string[] = [];
    const browser = new MonsoonClient({
      address,
      fetch: async (input, init) => {
        const answer = await fetch(input, { ...init, headers: { ...(init?.headers as Record<string, string>), cookie: cookies.join('; ') } });
        cookies.push(...answer.headers.getSetCookie().map((c) => c.split(';')[0]!));
        return answer;
      },
    });
    await browser.signIn(email, secrets.admin);
    secrets.token = (await browser.makeToken('demo', 'write')).token;
    writeFileSync(secretsFile, JSON.stringify(secrets), { mode: 0o600 });
  }
  // From this folder, the command line finds its way by itself.
  mkdirSync(join(root, '.monsoon'), { recursive: true, mode: 0o700 });
  writeFileSync(
    join(root, '.monsoon', 'cli.json'),
    JSON.stringify({ address, token: secrets.token, demo: { frontDesk: `http://127.0.0.1:${ports.frontDesk}`, token: secrets.frontDesk } }),
    { mode: 0o600 },
  );
  return new MonsoonClient({ address, token: secrets.token });
}

async function arrange(client: MonsoonClient, secrets: Secrets): Promise<void> {
  const connect = async (file: string, address: string, given: Record<string, string>) => {
    const { secretsFrom: _named, ...system } = yaml(file) as unknown as {
      secretsFrom: unknown;
      slug: string;
      name: string;
      kind: string;
      settings: Record<string, unknown>;
    };
    await client.connect({ ...system, settings: { ...system.settings, address }, secrets: given });
    const { ok, steps } = await client.checkSystem(system.slug);
    if (!ok) throw new Trouble(`${system.name}: ${steps.map((s) => s.detail).join('; ')}`);
  };
  const hook = await frontDesk<{ secret: string }>(secrets, 'POST', '/webhooks', { url: `http://127.0.0.1:${ports.service}/hooks/front-desk` });
  await connect('systems/front-desk.yaml', `http://127.0.0.1:${ports.frontDesk}/api/v1`, { token: secrets.frontDesk, webhook: hook.secret });
  await connect('systems/diary.yaml', `http://127.0.0.1:${ports.diary}/`, { password: secrets.diary });
  const calendar = await client.makeCalendar('diary', 'Tuning visits', '#12706d');
  await enterByHand(secrets, calendar.href);
  await client.makeCalendar('diary', 'Calls', '#5f584f');
  for (const lane of LANES) await client.makeLane(lane, yaml(`lanes/${lane}.yaml`));
}

/** Two people reword the same visit, one here and one there: that is for a third to settle. */
async function leaveAConflict(client: MonsoonClient, secrets: Secrets): Promise<void> {
  const visits = (await client.items('tuning-visits', { state: 'agreed', limit: 20 })).items;
  const { recordId } = visits[6] ?? visits[0]!;
  const { href } = (await client.item('tuning-visits', recordId!)).event;
  const text = await diary(secrets, 'GET', href!, {});
  const [, before = ''] = /^SUMMARY:(.*?)\r?$/m.exec(text) ?? [];
  const reworded = text.replace(/^SUMMARY:.*$/m, `SUMMARY:${before.replace(/(\\, .*)?$/, '\\, Alder upright\\, two pedals')}`);
  await frontDesk(secrets, 'PATCH', `/visits/${recordId}`, { instrument: 'Alder upright 122' });
  await diary(secrets, 'PUT', href!, { 'content-type': 'text/calendar; charset=utf-8' }, reworded);
  await followRun(client, 'tuning-visits', await client.run('tuning-visits'));
  say('\nOne conflict waits for a person: npx monsoon holds');
}

async function followRun(client: MonsoonClient, lane: string, begun: RunAnswer | null): Promise<RunAnswer> {
  for (let shown = 0, tries = 0; tries < 1200; tries++) {
    const current = begun === null ? (await client.runs({ lane, limit: 1 })).items[0] : await client.oneRun(begun.id);
    if (current !== undefined && current.state !== 'waiting' && current.state !== 'running') return current;
    if (current !== undefined && current.done > shown) step(`  ${lane}: ${current.done} of ${current.planned}`);
    shown = current?.done ?? shown;
    await new Promise((fine) => setTimeout(fine, 100));
  }
  throw new Trouble('the run did not end within two minutes');
}

async function sumUp(client: MonsoonClient, secrets: Secrets, lane: LaneAnswer, last: RunAnswer): Promise<boolean> {
  const events = await countEvents(secrets, lane.definition.calendar.calendar);
  const { counts } = last;
  const left = (await client.items(lane.slug, { state: 'left out', limit: 500 })).items;
  const failed = (await client.items(lane.slug, { state: 'failed', limit: 500 })).items;
  const reasons = new Map<string, number>();
  for (const item of left) reasons.set(item.verdict?.reason ?? '', (reasons.get(item.verdict?.reason ?? '') ?? 0) + 1);
  say(
    `\n${lane.definition.name}, records ${lane.definition.direction} calendar: ${counts.made} made, ${counts.adopted} found on the calendar already, ${counts.changed} changed, ${counts.unchanged} as they were.`,
  );
  say(`Counts: ${lane.pairs} pairs here, ${events} events in the Diary.`);
  say(`Left out: ${[...reasons].map(([reason, n]) => `${n} ${reason}`).join(', ') || 'nothing'}.`);
  for (const item of failed) say(`Needs mending: ${item.recordId} ${item.label}: ${item.verdict?.condition ?? ''}`);
  const right = last.state === 'done' && events === lane.pairs && lane.pairs > 0;
  if (!right) say(`Not right: the run is ${last.state}${last.reason === null ? '' : ` (${last.reason})`}.`);
  return right;
}

async function main(): Promise<void> {
  const secrets = readSecrets();
  for (const [port, whose] of [
    [ports.service, 'Monsoon'],
    [ports.frontDesk, 'the Front desk'],
    [ports.diary, 'the Diary'],
  ] as const)
    await needPort(port, whose);
  step('starting the Diary (radicale), the Front desk, PostgreSQL and Monsoon');
  const seed = join(data, 'seed.json');
  if (!existsSync(seed)) writeFileSync(seed, JSON.stringify(makeData(new Date().toISOString().slice(0, 10))));
  await Promise.all([
    run('bash', ['scripts/radicale.sh', 'start', join(data, 'diary'), String(ports.diary), 'alderwren', secrets.diary], { cwd: root }).catch(
      (error: { stderr?: string }) => {
        throw new Trouble(`the Diary did not start: ${error.stderr ?? ''}`);
      },
    ),
    start(
      'the Front desk',
      [
        'packages/standins/dist/front-desk/main.js',
        '--port',
        String(ports.frontDesk),
        '--data',
        join(data, 'front-desk.jsonl'),
        '--token',
        secrets.frontDesk,
        '--seed',
        seed,
      ],
      {},
    ),
    start('Monsoon', ['packages/service/dist/main.js'], {
      MONSOON_DATA: data,
      MONSOON_PORT: String(ports.service),
      MONSOON_ALLOW_ADDRESSES: '127.0.0.1',
      MONSOON_ADMIN_EMAIL: email,
      MONSOON_ADMIN_PASSWORD: secrets.admin,
      MONSOON_LOG: 'warn',
    }),
  ]);
  const client = await signIn(secrets);
  const fresh = (await client.lanes()).items.length === 0;
  if (fresh) step('connecting both systems and starting the lanes');
  if (fresh) await arrange(client, secrets);
  let right = true;
  for (const lane of LANES) {
    const last = await followRun(client, lane, fresh ? null : await client.run(lane));
    right = (await sumUp(client, secrets, await client.lane(lane), last)) && right;
  }
  if (fresh) await leaveAConflict(client, secrets);
  say(`Up in ${((Date.now() - started) / 1000).toFixed(1)} s${fresh ? '' : ', with the data of last time'}.`);
  if (once) return void (await stop(right ? 0 : 1));
  const visit = (await client.items('tuning-visits', { state: 'agreed', limit: 1 })).items[0]?.recordId ?? 'V-1001';
  const missing =
    (await client.items('tuning-visits', { state: 'left out', limit: 500 })).items.find((i) => i.verdict?.reason === 'no date')?.recordId ?? 'V-1105';
  say(`
Console     http://127.0.0.1:${ports.service}/    ${email}    ${secrets.admin}
Front desk  http://127.0.0.1:${ports.frontDesk}/

Try next, in another terminal in this folder:
  npx monsoon demo reschedule ${visit} ${new Date(Date.now() + 5 * 86_400_000).toISOString().slice(0, 10)}T09:30    and watch it move in the console
  npx monsoon why tuning-visits ${missing}              why a visit is not on the calendar
  npx monsoon forecast tuning-visits          what a run would do now
  npx monsoon holds                           the conflict that waits

Ctrl-C stops everything.`);
}

process.on('SIGINT', () => void (stopping || stop(0)));
process.on('SIGTERM', () => void (stopping || stop(0)));
try {
  await main();
} catch (error) {
  console.error(`demo: ${error instanceof Trouble || error instanceof ServiceProblem ? error.message : (error as Error).stack}`);
  await stop(1);
}
