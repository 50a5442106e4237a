import { type ChildProcess, fork } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { RunAnswer } from '@monsoon/contract';
import { MonsoonClient } from '@monsoon/contract/client';
import { type App, type Config, type Service, startService } from '@monsoon/service';
import { parse } from 'yaml';
import type { SeedRow } from '../../demo/data.ts';
import { type FrontDesk, startFrontDesk } from './front-desk.ts';
import { account, comeAs, dav, eventually, freshDatabase, listEvents, radicale } from './servers.ts';

const root = resolve(import.meta.dirname, '../..');
export const admin = { email: 'ines@alder-wren.example', password: 'a-tuned-password' };

const yaml = (file: string) => parse(readFileSync(join(root, 'demo', file), 'utf8')) as Record<string, never>;
/** The lane of the demo, from records to calendar alone, with a window so wide that days named in tests lie in it for years. */
export const laneFile = (): Record<string, unknown> => {
  // Guests have tests of their own.
  const { invitations: _invitations, fields, ...file } = yaml('lanes/tuning-visits.yaml') as Record<string, unknown>;
  const { attendees: _attendees, organizer: _organizer, replies: _replies, ...maps } = fields as Record<string, unknown>;
  return { ...file, fields: maps, ...wide };
};
const wide = {
  direction: '->',
  window: { behind: 3650, ahead: 3650 },
};
const systemFile = (name: string) =>
  yaml(`systems/${name}.yaml`) as unknown as { slug: string; name: string; kind: string; settings: Record<string, unknown>; secretsFrom?: unknown };

export interface Office {
  client: MonsoonClient;
  /** the service's own parts, for what no interface shows */
  app: App;
  address: string;
  token: string;
  frontDesk: FrontDesk;
  /** the calendar server, and the calendar of the lane on it */
  diary: string;
  calendar: string;
  databaseUrl: string;
  dataFolder: string;
  /** runs the lane and waits for its end */
  run(options?: { sweep?: boolean; records?: string[]; hrefs?: string[] }): Promise<RunAnswer>;
  /** waits for the end of any run */
  settled(run: RunAnswer): Promise<RunAnswer>;
  /** the event of a visit as the server has it, its lines unfolded, or null */
  event(visit: string): Promise<{ href: string; text: string; etag: string | null } | null>;
  events(): Promise<string[]>;
  stop(): Promise<void>;
}

export interface OfficeOptions {
  seed?: SeedRow[];
  /** a calendar server; radicale unless said. `hosted`: Monsoon itself, looked at through its door */
  diary?: string;
  /** what Monsoon is told the calendar server's address is: a proxy, say */
  diaryAddress?: string;
  /** changes to the lane file */
  lane?: Record<string, unknown>;
  /** false: no lane yet */
  withLane?: boolean;
  /** another service that people sign in with */
  provider?: () => NonNullable<Config['provider']>;
  /** false: the Front desk sends no notices */
  notices?: boolean;
  /** other settings of the service */
  config?: Partial<Config>;
}

/** A service for tests: on a free port of loopback, saying nothing. */
export const serviceConfig = (dataFolder: string, databaseUrl: string): Config => ({
  dataFolder,
  databaseUrl,
  host: '127.0.0.1',
  port: 0,
  role: 'both',
  key: undefined,
  allowedAddresses: ['127.0.0.1'],
  folders: [],
  publicAddress: undefined,
  trustProxy: [],
  sessionIdleHours: 12,
  healthPort: undefined,
  provider: undefined,
  admin,
  logLevel: process.env['MONSOON_LOG'] ?? 'silent',
});

/** A whole Alder & Wren: a Front desk, a calendar, and a service between them in this process. */
export async function openOffice(options: OfficeOptions = {}): Promise<Office> {
  const database = await freshDatabase();
  const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
  const frontDesk = await startFrontDesk(options.seed);
  const service: Service = await startService({
    ...serviceConfig(dataFolder, database.url),
    provider: options.provider?.(),
    ...options.config,
  });
  const token = await getToken(service.address!);
  const office = await furnish(service.address!, token, frontDesk, options, { databaseUrl: database.url, dataFolder });
  return {
    ...office,
    app: service.app,
    async stop() {
      await service.stop();
      frontDesk.stop();
      await database.drop();
      rmSync(dataFolder, { recursive: true, force: true });
    },
  };
}

export async function getToken(address: string): Promise<string> {
  const signed = await fetch(`${address}/api/v1/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(admin),
  });
  const cookie = signed.headers.getSetCookie()[0]!.split(';')[0]!;
  const made = await fetch(`${address}/api/v1/tokens`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', cookie },
    body: JSON.stringify({ name: 'tests', may: 'write' }),
  });
  return ((await made.json()) as { token: string }).token;
}

/** Connects both systems and makes the lane. */
export async function furnish(
  address: string,
  token: string,
  frontDesk: FrontDesk,
  options: OfficeOptions,
  places: { databaseUrl: string; dataFolder: string },
): Promise<Omit<Office, 'stop' | 'app'>> {
  const client = new MonsoonClient({ address, token });
  const hosted = options.diary === 'hosted';
  const diary = hosted ? address : (options.diary ?? radicale());
  const system = hosted ? 'hosted' : 'diary';
  const hook =
    options.notices === false ? null : await frontDesk.call<{ secret: string }>('POST', '/webhooks', { url: `${address}/hooks/front-desk` });
  const connect = (name: string, settings: Record<string, unknown>, secrets: Record<string, string>) => {
    const { secretsFrom: _, ...file } = systemFile(name);
    // Here the Front desk is opened with its token; OAuth has tests of its own.
    const { client: _client, ...own } = file.settings as { client?: string; descriptor?: { authentication?: unknown } };
    delete own.descriptor?.authentication;
    file.settings = own;
    return client.connect({ ...file, settings: { ...file.settings, ...settings }, secrets });
  };
  await connect(
    'front-desk',
    { address: `${frontDesk.address}/api/v1` },
    { token: frontDesk.token, ...(hook === null ? {} : { webhook: hook.secret }) },
  );
  // Nothing runs by itself because the calendar was looked at: tests say when.
  if (hosted) {
    const device = await client.addDevice('tests');
    comeAs(address, device.user, device.password);
  } else await connect('diary', { address: options.diaryAddress ?? diary, user: account.user, timeout: 3, look: 0 }, { password: account.password });
  const calendar = (await client.makeCalendar(system, `Visits ${randomUUID().slice(0, 8)}`, null)).href;
  if (options.withLane !== false) await client.makeLane('tuning-visits', { ...laneFile(), calendar: { system, calendar }, ...options.lane });
  const settled = async (id: string) =>
    eventually(
      'the run ends',
      async () => {
        const run = await client.oneRun(id);
        return run.state !== 'waiting' && run.state !== 'running' && run;
      },
      60_000,
    );
  return {
    client,
    address,
    token,
    frontDesk,
    diary,
    calendar,
    ...places,
    run: async (given = {}) => settled((await client.run('tuning-visits', given)).id),
    settled: (run) => settled(run.id),
    async event(visit) {
      const { items } = await client.items('tuning-visits', { search: visit });
      const href = items.some((i) => i.recordId === visit) ? (await client.item('tuning-visits', visit)).event.href : null;
      if (href === null) return null;
      const found = await dav(diary, 'GET', href);
      return found.status === 200 ? { href, text: found.text.replace(/\r?\n[ \t]/g, ''), etag: found.etag } : null;
    },
    events: () => listEvents(diary, calendar),
  };
}

export interface ServiceProcess {
  child: ChildProcess;
  address: string;
}

/** The service as a process of its own, to be killed. */
export async function spawnService(
  places: { databaseUrl: string; dataFolder: string },
  { port = 0, role = 'both' }: { port?: number; role?: string } = {},
): Promise<ServiceProcess> {
  const built = process.env['MONSOON_TEST_BUILT'] === '1';
  const child = fork(join(root, built ? 'packages/service/dist/main.js' : 'packages/service/src/main.ts'), {
    execArgv: [
      ...(process.env['MONSOON_TEST_NODE']?.split(' ') ?? []),
      ...(built ? [] : ['--import', 'tsx', '--conditions=source', '--no-warnings']),
    ],
    env: {
      ...process.env,
      DATABASE_URL: places.databaseUrl,
      MONSOON_DATA: places.dataFolder,
      MONSOON_PORT: String(port),
      MONSOON_ROLE: role,
      MONSOON_ALLOW_ADDRESSES: '127.0.0.1',
      MONSOON_ADMIN_EMAIL: admin.email,
      MONSOON_ADMIN_PASSWORD: admin.password,
      MONSOON_LOG: process.env['MONSOON_LOG'] ?? 'error',
    },
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  const address = await new Promise<string>((fine, reject) => {
    child.once('message', (message) => fine((message as { ready: string }).ready));
    child.once('exit', (code) => reject(new Error(`the service ended with ${code}`)));
  });
  return { child, address };
}
