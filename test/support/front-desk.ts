import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { SeedRow } from '../../demo/data.ts';

const standins = resolve(import.meta.dirname, '../../packages/standins/src');

export interface FrontDesk {
  address: string;
  token: string;
  call<T = Record<string, unknown>>(method: string, path: string, body?: unknown): Promise<T>;
  stop(): void;
}

/** A Front desk as a process of its own, with its own storage. @param more options of its command line */
export async function startFrontDesk(seed: SeedRow[] = [], more: string[] = []): Promise<FrontDesk> {
  const token = 'let-me-in';
  const { address, stop } = await startStandin('front-desk', ['--token', token, ...more], seed);
  return { address, token, call: caller(`${address}/api/v1`, { authorization: `Bearer ${token}` }), stop };
}

export interface Workbench extends Omit<FrontDesk, 'token'> {
  key: string;
}

export async function startWorkbench(seed: SeedRow[] = [], more: string[] = []): Promise<Workbench> {
  const key = 'bench-key';
  const { address, stop } = await startStandin('workbench', ['--key', key, ...more], seed);
  return { address, key, call: caller(`${address}/api`, { 'x-workbench-key': key }), stop };
}

const caller =
  (base: string, credentials: Record<string, string>): FrontDesk['call'] =>
  async (method, path, body) => {
    const answer = await fetch(base + path, {
      method,
      headers: { ...credentials, 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    if (!answer.ok) throw new Error(`${base} answered ${answer.status}: ${await answer.text()}`);
    return (answer.status === 204 ? undefined : await answer.json()) as never;
  };

/** @returns where it listens, everything that it says at its start, and how to stop it */
export async function startStandin(name: string, args: string[], seed: SeedRow[] = []): Promise<{ address: string; said: string; stop: () => void }> {
  const folder = mkdtempSync(join(tmpdir(), `${name}-`));
  writeFileSync(join(folder, 'seed.json'), JSON.stringify(seed));
  const port = args.includes('--port') ? [] : ['--port', '0'];
  const seeded = name === 'post-room' ? [] : ['--seed', join(folder, 'seed.json')];
  const child: ChildProcess = spawn(
    process.execPath,
    ['--import', 'tsx', join(standins, name, 'main.ts'), ...port, '--data', join(folder, 'data.jsonl'), ...seeded, ...args],
    { stdio: ['ignore', 'pipe', 'pipe'] },
  );
  let said = '';
  let wrong = '';
  child.stderr!.on('data', (text: Buffer) => {
    wrong += text.toString();
  });
  const address = await new Promise<string>((fine, reject) => {
    child.stdout!.on('data', (text: Buffer) => {
      said += text.toString();
      const found = /http:\/\/[\d.:]+/.exec(said);
      if (found !== null) fine(found[0]);
    });
    child.once('exit', (code) => reject(new Error(`${name} ended with ${code}: ${wrong}`)));
  });
  return {
    address,
    said,
    stop() {
      child.kill('SIGKILL');
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** Visits one after another from tomorrow on, all of them fit for the calendar. */
export function plainVisits(count: number): SeedRow[] {
  const at = '2026-01-01T08:00:00.000Z';
  const stamp = (i: number) => new Date(Date.parse(at) + i * 1000).toISOString();
  const contact: SeedRow = {
    kind: 'contacts',
    row: { id: 'C-1001', name: 'Ottoline Marsh', email: 'ottoline@post.example', created_at: at, updated_at: at, deleted: false },
  };
  return [
    contact,
    ...Array.from({ length: count }, (_, i): SeedRow => {
      const start = new Date(Date.now() + 86_400_000 + i * 1_800_000).toISOString().slice(0, 16);
      return {
        kind: 'visits',
        row: {
          id: `V-${1001 + i}`,
          customer_id: 'C-1001',
          instrument: `Alder upright ${i}`,
          kind: 'tuning',
          start: `${start}:00`,
          time_zone: 'Europe/London',
          length_minutes: 60,
          status: 'booked',
          technician: null,
          private: false,
          venue_id: null,
          site: 'Leeds',
          guests: [],
          notes: null,
          created_at: stamp(i),
          updated_at: stamp(i),
          deleted: false,
        },
      };
    }),
  ];
}
