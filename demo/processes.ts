import { type ChildProcess, execFile, spawn } from 'node:child_process';
import { createServer as createHttp, type Server } from 'node:http';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { at, data, ports, root, Trouble } from './places.ts';

export const run = promisify(execFile);
const children: ChildProcess[] = [];
const servers: Server[] = [];
let stopping = false;

export async function needPorts(): Promise<void> {
  const whose = {
    service: 'Monsoon',
    frontDesk: 'the Front desk',
    workbench: 'the Workbench',
    postRoom: 'the Post room',
    smtp: 'the Post room',
    imap: 'the Post room',
    holidays: 'the holidays',
    diary: 'the Diary',
  };
  for (const [name, port] of Object.entries(ports) as [keyof typeof ports, number][])
    await new Promise<void>((fine, reject) => {
      const probe = createServer()
        .once('error', () =>
          reject(new Trouble(`port ${port} (${whose[name]}) is taken. Stop what uses it, or choose others: MONSOON_DEMO_PORT=5700 npm run demo`)),
        )
        .once('listening', () => probe.close(() => fine()))
        .listen(port, '127.0.0.1');
    });
}

/** Starts a program of ours and waits for its first line; its later output is kept for troubles. */
export function start(name: string, args: string[], env: NodeJS.ProcessEnv = {}): Promise<void> {
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

/** The folder of a stand-in that ships with Monsoon. */
export const standin = (name: string): string => `packages/standins/dist/${name}/main.js`;

/** Serves one file, as a publisher of a calendar does. */
export async function publish(text: string): Promise<void> {
  const etag = `"${Buffer.from(text).length}-${text.length}"`;
  const server = createHttp((request, response) => {
    if (request.headers['if-none-match'] === etag) response.writeHead(304, { etag }).end();
    else response.writeHead(200, { 'content-type': 'text/calendar; charset=utf-8', etag }).end(text);
  });
  servers.push(server);
  await new Promise<void>((fine) => server.listen(ports.holidays, '127.0.0.1', fine));
}

export const isStopping = (): boolean => stopping;

export async function stop(code: number): Promise<never> {
  stopping = true;
  const alive = children.filter((c) => c.exitCode === null && c.signalCode === null);
  const gone = alive.map((c) => new Promise((fine) => c.once('exit', fine)));
  for (const child of alive) child.kill('SIGTERM');
  for (const server of servers) server.close();
  await Promise.race([Promise.all(gone), new Promise((fine) => setTimeout(fine, 10_000))]);
  await run('bash', ['scripts/radicale.sh', 'stop', join(data, 'diary')], { cwd: root }).catch(() => undefined);
  await run('bash', ['packages/service/scripts/postgres.sh', 'stop', join(data, 'hire-book')], { cwd: root }).catch(() => undefined);
  process.exit(code);
}

export const holidaysAddress = `${at(ports.holidays)}/holidays.ics`;
