import { execFile } from 'node:child_process';
import { dirname } from 'node:path';
import { promisify } from 'node:util';
import { percentile, tryManyLanes } from '../test/support/many-lanes.ts';

/**
 * Three workers, 40 lanes, 10,000 pairs, 20 edits a second on both sides for five minutes, while workers are killed and
 * restarted at random and PostgreSQL is restarted once. LANES, PAIRS (of each lane), RATE and SECONDS change that.
 */
const number = (name: string, otherwise: number) => Number(process.env[name] ?? otherwise);
const folder = dirname(process.env['MONSOON_TEST_PG_FOLDER'] ?? '.');
const postgres = (verb: string) =>
  promisify(execFile)('bash', ['packages/service/scripts/postgres.sh', verb, `${folder}/pg`], { env: { ...process.env, MONSOON_PG_FAST: '1' } });

const result = await tryManyLanes({
  lanes: number('LANES', 40),
  pairs: number('PAIRS', 250),
  workers: 3,
  rate: number('RATE', 20),
  seconds: number('SECONDS', 300),
  killEvery: number('KILL_EVERY', 30),
  disturb: async () => {
    await postgres('stop');
    await new Promise((fine) => setTimeout(fine, 1000));
    await postgres('start');
  },
  say: (line) => console.log(`  ${line}`),
});
const say = (list: number[]) =>
  `median ${percentile(list, 0.5).toFixed(2)} s, 95 % within ${percentile(list, 0.95).toFixed(2)} s, all within ${percentile(list, 1).toFixed(2)} s (${list.length})`;
console.log(`three workers: ${result.edits} edits, ${result.kills} workers killed, PostgreSQL restarted once
  while all was well: ${say(result.calm)}
  around a kill or the restart: ${say(result.disturbed)}
  ${result.wrong.length === 0 ? 'nothing lost, nothing doubled, every audit clean' : `WRONG: ${result.wrong.slice(0, 10).join('; ')}`}`);
process.exit(result.wrong.length === 0 ? 0 : 1);
