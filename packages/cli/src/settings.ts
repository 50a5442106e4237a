import { chmodSync, existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { WrongInput } from './input.ts';

/** Where the service is and how to get in; and for the demo, where the Front desk is. */
export interface Settings {
  address: string;
  token?: string | undefined;
  demo?: { frontDesk: string; token: string } | undefined;
}

const NAME = join('.monsoon', 'cli.json');
const home = () => join(homedir(), NAME);

/** The file says where passwords and tokens go, so only the current user may be able to write it. */
function isOwn(file: string): boolean {
  const { uid, mode } = statSync(file);
  return (process.getuid === undefined || uid === process.getuid()) && (mode & 0o022) === 0;
}

/** The settings file in this folder or the nearest one above it, else the one in the home folder. */
function findFile(): string | null {
  for (let folder = resolve('.'); ; folder = dirname(folder)) {
    const file = join(folder, NAME);
    if (existsSync(file) && isOwn(file)) return file;
    if (dirname(folder) === folder) return existsSync(home()) ? home() : null;
  }
}

const readFile = (file: string | null): Partial<Settings> =>
  file === null || !existsSync(file) ? {} : (JSON.parse(readFileSync(file, 'utf8')) as Settings);
const sameService = (a: string | undefined, b: string) =>
  a !== undefined && URL.canParse(a) && URL.canParse(b) && new URL(a).href === new URL(b).href;

/**
 * An address and its token belong together: a token that is kept for one service is never sent to another, whatever names
 * it. Before any file come `--url`, MONSOON_URL and MONSOON_TOKEN.
 * @param url from the command line
 */
export function readSettings(url?: string): Settings {
  const file = findFile();
  const stored = readFile(file);
  const given = url ?? (process.env['MONSOON_URL'] || undefined);
  const token = process.env['MONSOON_TOKEN'] || undefined;
  if (given !== undefined) {
    const kept = [stored, readFile(home())].find((s) => sameService(s.address, given));
    return { address: given, token: token ?? kept?.token, demo: kept?.demo };
  }
  if (token !== undefined && file !== null && file !== home())
    throw new WrongInput(`MONSOON_TOKEN is given, and ${file} names a service: say which service the token is for, with MONSOON_URL or --url`);
  return { address: stored.address ?? 'http://127.0.0.1:4700', token: token ?? stored.token, demo: stored.demo };
}

/** @returns where they were written, readable by their owner alone */
export function writeSettings(settings: Settings): string {
  const file = home();
  mkdirSync(dirname(file), { recursive: true, mode: 0o700 });
  writeFileSync(file, `${JSON.stringify(settings, null, 2)}\n`, { mode: 0o600 });
  // A file that was there before keeps its mode.
  chmodSync(file, 0o600);
  return file;
}
