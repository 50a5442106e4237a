import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, join, resolve } from 'node:path';

/** Where the service is and how to get in; and for the demo, where the Front desk is. */
export interface Settings {
  address: string;
  token?: string | undefined;
  demo?: { frontDesk: string; token: string } | undefined;
}

const NAME = join('.monsoon', 'cli.json');
const home = () => join(homedir(), NAME);

/** The settings file in this folder or the nearest one above it, else the one in the home folder. */
function findFile(): string | null {
  for (let folder = resolve('.'); ; folder = dirname(folder)) {
    if (existsSync(join(folder, NAME))) return join(folder, NAME);
    if (dirname(folder) === folder) return existsSync(home()) ? home() : null;
  }
}

/** Environment before file: MONSOON_URL and MONSOON_TOKEN. */
export function readSettings(): Settings {
  const file = findFile();
  const stored: Partial<Settings> = file === null ? {} : (JSON.parse(readFileSync(file, 'utf8')) as Settings);
  return {
    address: process.env['MONSOON_URL'] ?? stored.address ?? 'http://127.0.0.1:4700',
    token: process.env['MONSOON_TOKEN'] ?? stored.token,
    demo: stored.demo,
  };
}

/** @returns where they were written, readable by their owner alone */
export function writeSettings(settings: Settings): string {
  const file = home();
  mkdirSync(dirname(file), { recursive: true, mode: 0o700 });
  writeFileSync(file, `${JSON.stringify(settings, null, 2)}\n`, { mode: 0o600 });
  return file;
}
