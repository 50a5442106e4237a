import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { plainVisits, startFrontDesk } from '../test/support/front-desk.ts';
import { furnish, getToken, laneFile, spawnService } from '../test/support/office.ts';
import { cyrus, eventually, freshDatabase, listEvents } from '../test/support/servers.ts';

/** kill -9 at 50 random moments of a first run of 2,000 visits against the fast server: every visit once, by itself. */
const ROUNDS = Number(process.env['ROUNDS'] ?? 50);
const VISITS = Number(process.env['VISITS'] ?? 2000);

const frontDesk = await startFrontDesk(plainVisits(VISITS));
const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
const database = await freshDatabase();
const places = { databaseUrl: database.url, dataFolder };
let service = await spawnService(places);
const port = Number(new URL(service.address).port);
const office = await furnish(
  service.address,
  await getToken(service.address),
  frontDesk,
  { diary: cyrus(), withLane: false, notices: false },
  places,
);
const midway: number[] = [];
const recovered: number[] = [];
let bad = 0;
for (let round = 0; round < ROUNDS; round++) {
  const { href } = await office.client.makeCalendar('diary', `Crash ${round} ${Date.now()}`, null);
  const slug = `crash-${round}`;
  await office.client.makeLane(slug, { ...laneFile(), window: null, calendar: { system: 'diary', calendar: href } });
  await new Promise((fine) => setTimeout(fine, 50 + Math.random() * 12_000));
  service.child.kill('SIGKILL');
  await new Promise((fine) => service.child.once('exit', fine));
  const left = (await listEvents(cyrus(), href)).length;
  midway.push(left);
  service = await spawnService(places, { port });
  const up = performance.now();
  await eventually(
    'the run goes on',
    async () =>
      (await listEvents(cyrus(), href)).length > left ||
      left === VISITS ||
      (await office.client.runs({ lane: slug })).items.some((r) => r.state === 'done'),
    60_000,
  );
  recovered.push(performance.now() - up);
  await eventually('the run completes', async () => (await office.client.runs({ lane: slug })).items.some((r) => r.state === 'done'), 120_000);
  const events = await listEvents(cyrus(), href);
  const pairs = (await office.client.lane(slug)).pairs;
  if (new Set(events).size !== VISITS || events.length !== VISITS || pairs !== VISITS) {
    bad++;
    console.log(`  round ${round}: ${events.length} events, ${pairs} pairs of ${VISITS}`);
  }
  await office.client.removeLane(slug);
  await fetch(new URL(href, cyrus()), { method: 'DELETE', headers: { authorization: `Basic ${btoa('alderwren:well-tempered')}` } });
}
service.child.kill('SIGKILL');
frontDesk.stop();
await database.drop();
rmSync(dataFolder, { recursive: true, force: true });
const sorted = [...recovered].sort((a, b) => a - b);
console.log(`kill -9 in a first run of ${VISITS} visits, ${ROUNDS} times: ${ROUNDS - bad} complete with every visit once, ${bad} not
  killed with ${Math.min(...midway)} to ${Math.max(...midway)} events made; work went on ${(sorted[Math.floor(sorted.length / 2)]! / 1000).toFixed(1)} s after the restart (median), ${(sorted.at(-1)! / 1000).toFixed(1)} s at most`);
process.exit(bad === 0 ? 0 : 1);
