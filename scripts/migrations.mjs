// A migration that was committed is never edited: databases that have it would not get the change, or get it twice.
import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';

const folder = 'packages/service/migrations';
/** Edited once, before this was checked; databases with the first form are repaired when they are opened. */
const known = new Map([['0005_watching.sql', 2]]);
const git = (...args) => execFileSync('git', args, { encoding: 'utf8' }).trim();

if (git('rev-parse', '--is-shallow-repository') === 'true') {
  console.log('migrations: the history is not here, so nothing can be said');
  process.exit(0);
}
const edited = readdirSync(folder).filter((name) => {
  if (!name.endsWith('.sql')) return false;
  const commits = git('log', '--format=%h', '--', `${folder}/${name}`).split('\n').filter(Boolean).length;
  const dirty = commits > 0 && git('status', '--porcelain', '--', `${folder}/${name}`) !== '';
  return dirty || commits > (known.get(name) ?? 1);
});
for (const name of edited) console.error(`${folder}/${name} was edited after it had been committed: undo that, and make a new migration`);
if (edited.length > 0) process.exit(1);
console.log('migrations: none was edited after it had been committed');
