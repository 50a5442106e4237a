import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
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
  token?: string;
}

const secretsFile = join(data, 'secrets.json');

export function readSecrets(): Secrets {
  mkdirSync(data, { recursive: true });
  // Hexadecimal: a secret that begins with a dash would be taken for an option.
  const make = () => randomBytes(8).toString('hex');
  const known = existsSync(secretsFile) ? (JSON.parse(readFileSync(secretsFile, 'utf8')) as Partial<Secrets>) : {};
  const all: Secrets = { admin: make(), diary: make(), frontDesk: make(), client: make(), workbench: make(), hireBook: make(), ...known };
  keepSecrets(all);
  return all;
}

export const keepSecrets = (secrets: Secrets): void => writeFileSync(secretsFile, JSON.stringify(secrets), { mode: 0o600 });

export const yaml = (file: string): Record<string, never> => parse(readFileSync(join(root, 'demo', file), 'utf8')) as Record<string, never>;

/** Something outside is in the way; said to the person without a stack. */
export class Trouble extends Error {}

export const say = (text: string): void => console.log(text);
export const step = (text: string): void => say(`- ${text}`);
