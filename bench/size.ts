/**
 * A large installation: 200 lanes, 200,000 pairs, a million journal entries. Every page is asked for over HTTP, beside the
 * same request for an installation of one lane with four pairs, and the database notes every statement that takes 100 ms.
 */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { plainVisits } from '../test/support/front-desk.ts';
import { openOffice } from '../test/support/office.ts';

const LANES = 200;
const PAIRS = 1000;
const ENTRIES = 1_000_000;

const office = await openOffice({ seed: plainVisits(4) });
const wait = (ms: number) => new Promise((fine) => setTimeout(fine, ms));
for (;;) {
  if ((await office.client.lane('tuning-visits')).lastRun?.state === 'done') break;
  await wait(200);
}
const { items } = await office.client.items('tuning-visits', { limit: 1 });
const record = items[0]!.recordId!;
const [run] = (await office.client.runs({ limit: 1 })).items;
const pages = [
  '/today',
  '/lanes',
  '/lanes/tuning-visits',
  '/lanes/tuning-visits/items?limit=100',
  '/lanes/tuning-visits/items?limit=100&order=title&descending=true',
  '/lanes/tuning-visits/items?search=upright',
  '/lanes/tuning-visits/items?state=held',
  `/lanes/tuning-visits/items/${record}`,
  '/lanes/tuning-visits/failures',
  '/lanes/tuning-visits/audits',
  '/lanes/tuning-visits/versions',
  '/runs?limit=100',
  '/runs?lane=tuning-visits',
  '/runs?state=held',
  `/runs/${run!.id}`,
  '/journal?limit=100',
  '/journal?lane=tuning-visits',
  `/journal?lane=tuning-visits&record=${record}`,
  '/holds',
  '/people',
  '/activity',
  '/systems',
  '/systems/diary',
  '/counts?from=2026-10-01&until=2027-03-01&lane=tuning-visits',
  '/settings',
  '/tokens',
];
const ask = async (page: string): Promise<number> => {
  const began = performance.now();
  const answer = await fetch(`${office.address}/api/v1${page}`, { headers: { authorization: `Bearer ${office.token}` } });
  await answer.text();
  if (!answer.ok) throw new Error(`${page}: ${answer.status}`);
  return performance.now() - began;
};
/** The middle of 21: the first ones warm up the process and the database, as in a service that is in use. */
const timed = async (page: string): Promise<number> => {
  const all: number[] = [];
  for (let i = 0; i < 21; i++) all.push(await ask(page));
  return all.sort((a, b) => a - b)[10]!;
};
const small = new Map<string, number>();
for (const page of pages) small.set(page, await timed(page));

const client = new pg.Client({ connectionString: office.databaseUrl });
await client.connect();
const began = performance.now();
await client.query(`insert into lanes (slug, version, definition, state, records_system, calendar_system, calendar_name)
  select 'lane-' || n, version, jsonb_set(definition, '{name}', to_jsonb('Lane ' || n)), 'paused', records_system, calendar_system, calendar_name
  from lanes, generate_series(1, ${LANES - 1}) n where slug = 'tuning-visits'`);
await client.query(`insert into pairs (id, lane, record_id, moment, uid, href, etag, version, state, baseline, label, lane_version)
  select gen_random_uuid(), l.id, 'R-' || n, p.moment, l.slug || '-' || n, '/c/' || l.slug || '/' || n || '.ics', 'e', 'v', 'in sync', p.baseline,
    'Alder upright ' || n, 1
  from lanes l, generate_series(1, ${PAIRS}) n, (select * from pairs where state = 'in sync' limit 1) p`);
await client.query(`insert into runs (lane, lane_version, cause, scope, state, counts, created_at, started_at, ended_at)
  select l.id, 1, 'check', 'changes', 'done', r.counts, now() - make_interval(mins => n), now(), now()
  from lanes l, generate_series(1, 100) n, (select counts from runs limit 1) r`);
await client.query(`insert into journal (run, lane, lane_version, pair, record_id, href, moment, label, kind, cause, changes, notes, at)
  select '${run!.id}', p.lane, 1, p.id, p.record_id, p.href, p.moment, p.label, 'change', 'changed in the record',
    '[{"side":"event","property":"title","before":"a","after":"b","cause":"changed in the record"}]', '[]', now() - make_interval(secs => random() * 400 * 86400)
  from pairs p, generate_series(1, ${ENTRIES / (LANES * PAIRS)}) n`);
// As after a night: statistics, and what is visible to all.
await client.query('vacuum analyze');
const said = await client.query<{ pairs: number; journal: number }>(
  'select (select count(*) from pairs)::int as pairs, (select count(*) from journal)::int as journal',
);
console.log(
  `${LANES} lanes, ${said.rows[0]!.pairs} pairs, ${said.rows[0]!.journal} journal entries, made in ${Math.round((performance.now() - began) / 1000)} s`,
);
await client.query(`alter system set log_min_duration_statement = 100`);
await client.query('select pg_reload_conf()');
await wait(500);
const log = join(process.env['MONSOON_TEST_PG_FOLDER']!, 'log');
const before = readFileSync(log, 'utf8').length;

console.log('\npage                                                        large      small   ratio');
let slowest = 0;
for (const page of pages) {
  const large = await timed(page);
  slowest = Math.max(slowest, large);
  console.log(
    `${page.padEnd(56)} ${large.toFixed(1).padStart(6)} ms ${small.get(page)!.toFixed(1).padStart(6)} ms ${(large / small.get(page)!).toFixed(1).padStart(6)}`,
  );
}
const slow = readFileSync(log, 'utf8')
  .slice(before)
  .split('\n')
  .filter((line) => line.includes('duration:'));
console.log(`\nslowest page ${slowest.toFixed(0)} ms (wanted: below 100); statements of 100 ms or more: ${slow.length} (wanted: 0)`);
for (const line of slow.slice(0, 10)) console.log(`  ${line.slice(0, 300)}`);
await client.query('alter system reset log_min_duration_statement');
await client.query('select pg_reload_conf()');
await client.end();
await office.stop();
process.exit(0);
