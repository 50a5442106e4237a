import { mkdirSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { certain } from '@monsoon/core';
import { runMigrations } from 'graphile-worker';
import { pino } from 'pino';
import { ensureAdministrator } from './access/passwords.ts';
import type { App } from './app.ts';
import type { Config } from './config.ts';
import { logError } from './errors.ts';
import { ensureHosted } from './hosted/system.ts';
import { buildHealthServer, buildServer } from './http/server.ts';
import { readMailbox, readMailboxes } from './invitations/mailbox.ts';
import { sendInvitations } from './invitations/send.ts';
import { openAnnouncer } from './jobs/announcements.ts';
import { type Liveness, openLiveness } from './jobs/liveness.ts';
import { addCheckJob } from './jobs/queue.ts';
import { ensureChecks, runLane } from './jobs/run-lane.ts';
import { tidy } from './jobs/tidy.ts';
import { watchLanes } from './jobs/watchdog.ts';
import { startWorker } from './jobs/worker-pool.ts';
import { auditsDue } from './lanes/audits.ts';
import { sendDigests } from './notifications/digest.ts';
import { sendNotifications } from './notifications/mails.ts';
import { checkKey } from './storage/check-key.ts';
import { openDatabase } from './storage/database.ts';
import { startPrivatePostgres } from './storage/private-postgres.ts';
import { openVault } from './storage/secrets.ts';
import { checkDue, checkOne, wakeLanes } from './systems/check.ts';
import { Systems } from './systems/registry.ts';
import { watchSystems } from './systems/watches.ts';
import { loadZones } from './zones/system-zones.ts';

export interface Service {
  app: App;
  /** where the HTTP interface listens; null in a process that only works */
  address: string | null;
  /** who may sign in, shown once when the first administrator was made */
  administrator: { email: string; madeUp: string | null } | null;
  stop(): Promise<void>;
}

/** How long a stopping service waits for requests and runs at hand, in milliseconds. */
const GRACE = 5_000;

/** Starts everything that the configuration asks for; where that fails, what was started is stopped again. */
export async function startService(config: Config, lost: () => void = () => undefined): Promise<Service> {
  const started: Stop[] = [];
  try {
    return await startAll(config, lost, started);
  } catch (error) {
    for (const stop of started.reverse()) await stop()?.catch(() => undefined);
    throw error;
  }
}

/** Stops a part that was started. */
type Stop = () => Promise<unknown> | undefined;

async function startAll(config: Config, lost: () => void, started: Stop[]): Promise<Service> {
  mkdirSync(config.dataFolder, { recursive: true });
  const log = pino({
    level: config.logLevel,
    base: null,
    serializers: { error: logError },
    redact: ['password', 'secret', 'token', 'headers.authorization', 'headers.cookie'],
  });
  const postgres = config.databaseUrl === undefined ? await startPrivatePostgres(config.dataFolder) : null;
  const url = config.databaseUrl ?? certain(postgres, 'it was started where no other database is named').url;
  started.push(() => postgres?.stop());
  const { db, pool, close } = await openDatabase(url, log);
  started.push(close);
  await runMigrations({ pgPool: pool });
  const vault = openVault(config.dataFolder, config.key);
  const keyAt = config.key === undefined ? join(config.dataFolder, 'key') : 'MONSOON_KEY';
  const dropped = await checkKey(db, vault, keyAt, config.dropSecrets === true);
  if (dropped !== null) log.warn({ secretsOf: dropped }, 'stored secrets were dropped: enter them again for these systems');
  const announcer = await openAnnouncer(url, pool, log);
  started.push(() => announcer.close());
  const zones = loadZones();
  const files = join(config.dataFolder, 'files');
  const folders = [files, ...config.folders];
  mkdirSync(files, { recursive: true });
  const systems = new Systems({ db, pool, databaseUrl: url, vault, zones, announcer, log, allowedAddresses: config.allowedAddresses, folders });
  started.push(() => systems.close());
  systems.onRefused = (system) => void addCheckJob(db, system).catch((error: Error) => log.warn({ error }, 'a check could not be asked for'));
  systems.onRecovered = (system) =>
    void wakeLanes(db, system)
      .then(() => announcer.announce(['lanes']))
      .catch((error: Error) => log.warn({ error }, 'lanes could not be woken'));
  let listening: string | null = null;
  let liveness: Liveness | null = null;
  const app: App = {
    config,
    log,
    db,
    pool,
    vault,
    zones,
    systems,
    announcer,
    checkLease: () => liveness?.checkLease(),
    publicAddress: () => config.publicAddress ?? listening ?? `http://${config.host}:${config.port}`,
  };
  await ensureHosted(db, vault);
  const administrator = await ensureAdministrator(db, config.admin.email, config.admin.password);

  const stopping = new AbortController();
  let runner: { stop(): Promise<void> } | null = null;
  let sharing: NodeJS.Timeout | undefined;
  let watches: { close(): Promise<void> } | null = null;
  liveness = config.role === 'web' ? null : await openLiveness(url, pool, log, lost);
  started.push(() => liveness?.close());
  if (liveness !== null) {
    const shared = liveness;
    sharing = setInterval(() => {
      systems.processes = shared.count();
    }, 1000).unref();
    runner = await startWorker(pool, log, liveness, {
      runLane: (job) => runLane(app, job, stopping.signal),
      checkSystem: (system) => checkOne(app, system),
      checkDue: () => checkDue(app),
      readMailbox: (system) => readMailbox(app, system),
      readMailboxes: () => readMailboxes(app),
      invite: (lane) => sendInvitations(app, lane),
      notify: (to) => sendNotifications(app, to),
      digests: () => sendDigests(app),
      auditsDue: () => auditsDue(app),
      tidy: () => tidy(app),
    });
    started.push(() => runner?.stop());
    await ensureChecks(app);
    watches = watchSystems(app, url);
  }
  started.push(() => watches?.close());
  const watchdog = watchLanes(app);
  const closing = setInterval(
    () => void systems.closeDisconnected().catch((error: unknown) => log.warn({ error }, 'disconnected systems could not be closed')),
    60_000,
  ).unref();
  const server = config.role !== 'worker' ? buildServer(app) : config.healthPort === undefined ? null : buildHealthServer(app);
  const door = config.role === 'worker' ? (config.healthPort ?? 0) : config.port;
  if (server !== null) await new Promise<void>((resolve, reject) => server.once('error', reject).listen(door, config.host, resolve));
  const port = server === null ? null : (server.address() as AddressInfo).port;
  listening = port === null ? null : `http://${config.host}:${port}`;
  return {
    app,
    administrator,
    address: listening,
    async stop() {
      stopping.abort(new Error('the service stops'));
      clearInterval(sharing);
      watchdog.close();
      clearInterval(closing);
      await watches?.close();
      const closed = server === null ? Promise.resolve() : new Promise<void>((resolve) => server.close(() => resolve()));
      const force = setTimeout(() => server?.closeAllConnections(), 500);
      await Promise.race([Promise.all([runner?.stop(), closed]), new Promise((resolve) => setTimeout(resolve, GRACE))]);
      clearTimeout(force);
      await liveness?.close();
      await app.announcer.close();
      await app.systems.close();
      await close();
      await postgres?.stop();
    },
  };
}
