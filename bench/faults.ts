import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import pg from 'pg';
import { percentile, type Trial, tryManyLanes } from '../test/support/many-lanes.ts';

/**
 * Two workers, 8 lanes, 400 pairs, 8 edits a second on both sides, and half-way one thing goes wrong: connections are cut,
 * the database takes no writes, its disk is full, or a worker freezes. Afterwards every edit must be across, once.
 * SECONDS changes how long each takes; FAULTS names those to try, with commas between them.
 */
const seconds = Number(process.env['SECONDS'] ?? 60);
const asked = (process.env['FAULTS'] ?? '').split(',').filter(Boolean);

async function ask(sql: string, database?: string): Promise<void> {
  const url = new URL(process.env['MONSOON_TEST_PG']!);
  if (database !== undefined) url.pathname = `/${database}`;
  const client = new pg.Client({ connectionString: url.href });
  await client.connect();
  await client.query(sql);
  await client.end();
}

/** A disk of its own for Monsoon's tables, with no room left on it. */
async function fillDisk(database: string): Promise<void> {
  const folder = join(process.env['MONSOON_TEST_PG_FOLDER']!, '..', `small-${database}`);
  mkdirSync(folder, { recursive: true });
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64m,mode=777', 'tmpfs', folder]);
  const disk = join(folder, 'tables');
  const filler = join(folder, 'filler');
  mkdirSync(disk);
  execFileSync('chown', [`${execFileSync('stat', ['-c', '%u:%g', process.env['MONSOON_TEST_PG_FOLDER']!], { encoding: 'utf8' }).trim()}`, disk]);
  const space = `small_${database}`;
  await ask(`create tablespace "${space}" location '${disk}'`);
  try {
    for (const table of ['pairs', 'journal', 'runs']) await ask(`alter table ${table} set tablespace "${space}"`, database);
    // Full in a moment, and for 25 seconds.
    execFileSync('sh', ['-c', `dd if=/dev/zero of=${filler} bs=1M 2>/dev/null || true`]);
    await pause(25_000);
  } finally {
    execFileSync('rm', ['-f', filler]);
    for (const table of ['pairs', 'journal', 'runs']) await ask(`alter table ${table} set tablespace pg_default`, database);
    await ask(`drop tablespace "${space}"`);
    execFileSync('umount', ['-l', folder]);
  }
}

const faults: Record<string, Trial['disturb']> = {
  'connections cut': async (database) => {
    for (let i = 0; i < 12; i++) {
      await ask(`select pg_terminate_backend(pid) from pg_stat_activity where datname = '${database}' order by random() limit 4`);
      await pause(1000);
    }
  },
  'read-only': async (database) => {
    await ask(`alter database "${database}" set default_transaction_read_only = on`);
    await ask(`select pg_terminate_backend(pid) from pg_stat_activity where datname = '${database}'`);
    await pause(25_000);
    await ask(`alter database "${database}" reset default_transaction_read_only`);
    await ask(`select pg_terminate_backend(pid) from pg_stat_activity where datname = '${database}'`);
  },
  'disk full': fillDisk,
  'a frozen worker': async (_database, workers) => {
    workers[0]!.kill('SIGSTOP');
    await pause(25_000);
    workers[0]!.kill('SIGCONT');
  },
};

const say = (list: number[]) =>
  list.length === 0 ? 'none' : `median ${percentile(list, 0.5).toFixed(1)} s, all within ${percentile(list, 1).toFixed(1)} s (${list.length})`;
let wrong = 0;
for (const [name, disturb] of Object.entries(faults)) {
  if (asked.length > 0 && !asked.includes(name)) continue;
  const result = await tryManyLanes({ lanes: 8, pairs: 50, workers: 2, rate: 8, seconds, killEvery: Number.POSITIVE_INFINITY, disturb });
  wrong += result.wrong.length;
  console.log(`${name}: ${result.edits} edits
  before and long after: ${say(result.calm)}
  around it: ${say(result.disturbed)}
  ${result.wrong.length === 0 ? 'nothing lost, nothing doubled, every audit clean' : `WRONG: ${result.wrong.slice(0, 10).join('; ')}`}`);
}
process.exit(wrong === 0 ? 0 : 1);
