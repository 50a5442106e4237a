import { makeEvent } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { plainVisits } from '../test/support/front-desk.ts';
import { laneFile, openOffice } from '../test/support/office.ts';
import { cyrus, eventually, listEvents } from '../test/support/servers.ts';
import { barePuts } from './bare-puts.ts';

/** 2,000 visits to the fast server, beside a bare loop of the same PUTs at the same concurrency. Alternating, three times. */
const VISITS = Number(process.env['VISITS'] ?? 2000);
const CONCURRENCY = 4;
const ROUNDS = 3;

const office = await openOffice({ seed: plainVisits(VISITS), diary: cyrus(), withLane: false, notices: false });
const zones = loadZones();

async function bareLoop(round: number, calendar: string): Promise<number> {
  const start = new Date(Date.now() + 86_400_000).toISOString().slice(0, 16).concat(':00');
  const texts = Array.from({ length: VISITS }, (_, i) =>
    makeEvent(
      `bare-${round}-${i}`,
      {
        title: `Ottoline Marsh: tuning, Alder upright ${i}`,
        busy: 'busy',
        categories: ['tuning'],
        when: { kind: 'timed', start, end: start.replace(/..$/, '59'), zone: 'Europe/London' },
      },
      { lane: 'bare', pair: `bare-${round}-${i}` },
      { zones, now: '2026-01-01T00:00:00Z' },
    ),
  );
  return barePuts(calendar, texts, CONCURRENCY);
}

async function lane(round: number, calendar: string): Promise<number> {
  const slug = `bench-${round}`;
  await office.client.makeLane(slug, { ...laneFile(), window: null, calendar: { system: 'diary', calendar } }, false);
  const from = Date.now();
  const asked = await office.client.run(slug);
  const ended = await eventually(
    'the run ends',
    async () => {
      // To ask all the time would be work that is not the run's.
      await new Promise((fine) => setTimeout(fine, 250));
      const run = await office.client.oneRun(asked.id);
      return run.state === 'done' && run;
    },
    300_000,
  );
  const took = Date.parse(ended.endedAt!) - from;
  const there = await listEvents(cyrus(), calendar);
  if (there.length !== VISITS) throw new Error(`${there.length} events of ${VISITS}`);
  return took;
}

const times = { bare: [] as number[], monsoon: [] as number[] };
for (let round = 0; round < ROUNDS; round++) {
  const make = async (name: string) => (await office.client.makeCalendar('diary', `${name} ${Date.now()}`, null)).href;
  times.bare.push(await bareLoop(round, await make('bare')));
  times.monsoon.push(await lane(round, await make('lane')));
}
await office.stop();
const best = (t: number[]) => Math.min(...t) / 1000;
const middle = (t: number[]) => [...t].sort((a, b) => a - b)[Math.floor(t.length / 2)]! / 1000;
const ratio = middle(times.monsoon) / middle(times.bare);
console.log(`first run of ${VISITS} visits to cyrus, concurrency ${CONCURRENCY}, ${ROUNDS} rounds each, by turns
  Monsoon        median ${middle(times.monsoon).toFixed(1)} s, best ${best(times.monsoon).toFixed(1)} s (${Math.round(VISITS / middle(times.monsoon))} visits/s)
  bare PUT loop  median ${middle(times.bare).toFixed(1)} s, best ${best(times.bare).toFixed(1)} s (${Math.round(VISITS / middle(times.bare))} PUT/s)
  ratio          ${ratio.toFixed(2)} (wanted: at most 1.5)`);
process.exit(ratio <= 1.5 ? 0 : 1);
