import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { SeedRow } from '../../demo/data.ts';

const main = resolve(import.meta.dirname, '../../packages/standins/src/front-desk/main.ts');

export interface FrontDesk {
  address: string;
  token: string;
  call<T = Record<string, unknown>>(method: string, path: string, body?: unknown): Promise<T>;
  stop(): void;
}

/** A Front desk as a process of its own, with its own storage. */
export async function startFrontDesk(seed: SeedRow[] = []): Promise<FrontDesk> {
  const folder = mkdtempSync(join(tmpdir(), 'front-desk-'));
  writeFileSync(join(folder, 'seed.json'), JSON.stringify(seed));
  const token = 'let-me-in';
  const child: ChildProcess = spawn(
    process.execPath,
    ['--import', 'tsx', main, '--port', '0', '--data', join(folder, 'data.jsonl'), '--token', token, '--seed', join(folder, 'seed.json')],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  );
  const address = await new Promise<string>((fine, reject) => {
    child.stdout!.on('data', (text: Buffer) => {
      const found = /http:\/\/[\d.:]+/.exec(text.toString());
      if (found !== null) fine(found[0]);
    });
    child.once('exit', (code) => reject(new Error(`the Front desk ended with ${code}`)));
  });
  return {
    address,
    token,
    async call(method, path, body) {
      const answer = await fetch(`${address}/api/v1${path}`, {
        method,
        headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      if (!answer.ok) throw new Error(`the Front desk answered ${answer.status}: ${await answer.text()}`);
      return (answer.status === 204 ? undefined : await answer.json()) as never;
    },
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
