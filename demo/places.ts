import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parse } from 'yaml';

/** Where everything of the demo is, and what it is opened with. */
export const root = resolve(import.meta.dirname, '..');
const base = Number(process.env['MONSOON_DEMO_PORT'] ?? 4700);
export const ports = {
  service: base,
  frontDesk: base + 10,
  workbench: base + 11,
  postRoom: base + 12,
  smtp: base + 13,
  imap: base + 15,
  holidays: base + 14,
  diary: base + 20,
};
export const at = (port: number): string => `http://127.0.0.1:${port}`;
export const data = resolve(process.env['MONSOON_DATA'] ?? join(root, '.data', 'demo'));
export const email = 'ines@alder-wren.example';

export interface Secrets {
  admin: string;
  diary: string;
  frontDesk: string;
  /** what Monsoon is known by at the Front desk's authorization server */
  client: string;
  workbench: string;
  hireBook: string;
  /** of the mailboxes in the Post room */
  postRoom: string;
  token?: string;
}

const secretsFile = join(data, 'secrets.json');

export function readSecrets(): Secrets {
  mkdirSync(data, { recursive: true });
  // Hexadecimal: a secret that begins with a dash would be taken for an option.
  const make = () => randomBytes(8).toString('hex');
  const known = existsSync(secretsFile) ? (JSON.parse(readFileSync(secretsFile, 'utf8')) as Partial<Secrets>) : {};
  const all: Secrets = {
    admin: make(),
    diary: make(),
    frontDesk: make(),
    client: make(),
    workbench: make(),
    hireBook: make(),
    postRoom: make(),
    ...known,
  };
  keepSecrets(all);
  return all;
}

export const keepSecrets = (secrets: Secrets): void => writeFileSync(secretsFile, JSON.stringify(secrets), { mode: 0o600 });

export const yaml = (file: string): Record<string, never> => parse(readFileSync(join(root, 'demo', file), 'utf8')) as Record<string, never>;

/** Something outside is in the way; said to the person without a stack. */
export class Trouble extends Error {}

export const say = (text: string): void => console.log(text);
export const step = (text: string): void => say(`- ${text}`);

/** There once the demo was set up to its end. */
export const arranged = join(data, 'arranged');

const claim = join(data, 'demo.pid');
/** When a process began (proc(5), field 22): its number may be given to another later. */
const began = (pid: string): string | undefined => {
  try {
    return readFileSync(`/proc/${pid}/stat`, 'utf8')
      .replace(/^.*\) /s, '')
      .split(' ')[19];
  } catch {
    return undefined;
  }
};

/** @throws Trouble when another demo runs on the folder */
function refuseTaken(): void {
  const [pid, since] = existsSync(claim) ? readFileSync(claim, 'utf8').split(' ') : [];
  if (pid !== undefined && since !== undefined && began(pid) === since)
    throw new Trouble(
      `a demo runs on ${data} already (process ${pid}). Stop it, or give this one a folder of its own: MONSOON_DATA=... MONSOON_DEMO_PORT=5700 npm run demo`,
    );
}

/** Takes the folder for this demo. @throws Trouble when another demo runs on it */
export function claimFolder(): void {
  refuseTaken();
  mkdirSync(data, { recursive: true });
  writeFileSync(claim, `${process.pid} ${began(String(process.pid))}`);
}

/** Throws away what an earlier demo left. */
export function startOver(): void {
  if (!existsSync(data)) return;
  if (!existsSync(secretsFile)) throw new Trouble(`${data} is no folder of a demo: nothing in it was touched`);
  refuseTaken();
  for (const server of ['postgres', 'hire-book'])
    execFileSync('bash', ['packages/service/scripts/postgres.sh', 'remove', join(data, server)], { cwd: root });
  execFileSync('bash', ['scripts/radicale.sh', 'stop', join(data, 'diary')], { cwd: root });
  rmSync(data, { recursive: true, force: true });
}
