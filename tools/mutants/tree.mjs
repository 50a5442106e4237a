import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readdirSync, rmSync, symlinkSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';

export const here = import.meta.dirname;
export const root = resolve(here, '../..');
export const tree = join(root, '.data/mutants/tree');
export const folders = ['engine', 'maps', 'lane', 'record', 'time', 'ical'].map((name) => `packages/core/src/${name}`);

export const git = (...args) => execFileSync('git', args, { cwd: root, encoding: 'utf8' }).split('\n').filter(Boolean);

/** What is mutated, by its path from the root. */
export const mutated = () => folders.flatMap((f) => git('ls-files', '--cached', '--others', '--exclude-standard', f));

/** Mutants are written into the sources, so the work is done in a copy; it links to the installed packages, and to itself. */
export function copyTree(into = tree) {
  rmSync(into, { recursive: true, force: true });
  for (const file of git('ls-files', '--cached', '--others', '--exclude-standard')) {
    // A second biome.json below the first would stop the linter.
    if (!existsSync(join(root, file)) || file.startsWith('docs/') || file === 'biome.json') continue;
    mkdirSync(dirname(join(into, file)), { recursive: true });
    cpSync(join(root, file), join(into, file));
  }
  mkdirSync(join(into, 'node_modules/@monsoon'), { recursive: true });
  for (const name of readdirSync(join(root, 'node_modules')))
    if (name !== '@monsoon' && !name.startsWith('.')) symlinkSync(join(root, 'node_modules', name), join(into, 'node_modules', name));
  for (const name of readdirSync(join(into, 'packages'))) {
    symlinkSync(join(into, 'packages', name), join(into, 'node_modules/@monsoon', name));
    const own = join(root, 'packages', name, 'node_modules');
    if (existsSync(own)) symlinkSync(own, join(into, 'packages', name, 'node_modules'));
  }
}
