import { execFile } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { promisify } from 'node:util';
import { expect } from 'chai';
import { brokenEngines } from '../../../test/simulation/broken-engines.ts';
import { Broken } from '../../../test/simulation/checker.ts';
import { historyOf, plainHistoryOf, undoneHistoryOf } from '../../../test/simulation/history.ts';
import { MemoryCalendar } from '../../../test/simulation/memory-systems.ts';
import { HostedCopy } from '../../../test/simulation/on-hosted.ts';
import { onPostgres } from '../../../test/simulation/on-postgres.ts';
import { plainLane } from '../../../test/simulation/plain-lane.ts';
import { play, playInAnotherOrder, playTwoLanes } from '../../../test/simulation/play.ts';
import type { Act } from '../../../test/simulation/reference/acts.ts';
import { exactOf, playExact } from '../../../test/simulation/reference/exact.ts';
import { wrongEngines } from '../../../test/simulation/reference/wrong-engines.ts';
import { playSeries } from '../../../test/simulation/series/play.ts';
import { World } from '../../../test/simulation/world.ts';
import { openHosted } from '../../../test/support/hosted.ts';
import { openLaneStore } from '../../../test/support/lane-store.ts';

const HISTORIES = 2200;
const EXACT = 800;
const SERIES = 300;
const HOSTED = Number(process.env['MONSOON_HOSTED_HISTORIES'] ?? 60);
const main = resolve(import.meta.dirname, '../../../test/simulation/main.ts');

/** Histories that found a fault once. */
const kept = [
  5, 11, 16, 64, 97, 124, 273, 330, 350, 450, 532, 851, 882, 1127, 1360, 1437, 1616, 1896, 1953, 2464, 2486, 2679, 2913, 3375, 3610, 3657, 7020, 7969,
  109822, 119215, 144205, 168674, 176408, 187454, 245730,
];
/** These needed an undo for it. */
const keptWithUndo = [162, 211, 229, 2_003_942];
/** These needed another fault, an audit, or an older undo. */
const keptWithFaults = [276];
/** Exact ones. */
const keptExact = [2_005_990, 2_015_494, 2_022_715];
/** Of series: each found a fault of following, naming, or taking apart. */
const keptSeries = [
  1_000_115, 1_003_971, 1_005_622, 200542, 100890, 100919, 40, 78, 1206, 1252, 3461, 20_689, 21_016, 510_175, 512_221, 530_286, 605_106, 619_976,
  802_935,
];
/** Of series by any rule. */
const keptOfAnyRule = [1_303_579];
const keptInAnotherOrder = [2512, 3596, 27988];

describe('random histories', () => {
  const playAll = async (count: number, from: number, ...how: string[]) => {
    const workers = Math.min(8, availableParallelism());
    const share = Math.ceil(count / workers);
    const node = ['--max-semi-space-size=64', '--import', 'tsx', '--conditions=source', main];
    const run = (first: number) =>
      promisify(execFile)(process.execPath, [...node, ...how, '--seeds', String(share), '--from', String(first)]).catch((e: { stdout: string }) => {
        throw new Error(e.stdout);
      });
    const ended = await Promise.all(Array.from({ length: workers }, (_, i) => run(from + i * share)));
    for (const { stdout } of ended) expect(stdout).to.include('are clean');
  };

  it(`leave every invariant standing, in ${HISTORIES} of them`, () => playAll(HISTORIES, 1)).timeout(400_000);

  it(`without faults end exactly as the reference model says, in ${EXACT} of them`, () => playAll(EXACT, 1, '--exact')).timeout(400_000);

  it(`with series end with both sides saying the same, in ${SERIES} of them`, () => playAll(SERIES, 1, '--series')).timeout(400_000);

  it('with series that found a fault once stay clean', async () => {
    for (const seed of keptSeries) await playSeries(seed);
    for (const seed of keptOfAnyRule) await playSeries(seed, undefined, 'each occurrence', 'all');
  });

  it('end as the reference model says past the size of every batch, too', async () => {
    const many = (n: number, act: (i: number) => Act): Act[] => Array.from({ length: n }, (_, i) => act(i));
    const guard = { removals: 1000, removedPercent: 100, rewrittenPercent: 100 };
    const lane = plainLane({
      direction: '<->',
      moments: [{ name: 'visit', when: { start: 'start', end: 'end' } }],
      departures: { recordDeleted: 'remove', eventDeleted: 'delete record', editedAndDeleted: 'deletion wins' },
      guard,
    });
    const acts: Act[] = [
      ...many(560, (v) => ({ do: 'new record', v })),
      ...many(60, (v) => ({ do: 'new event', v, form: 1 })),
      { do: 'run', sweep: true },
      // More than are kept as planned: those beyond are planned again when their turn comes.
      ...many(530, (i) => ({ do: 'set record', at: i, what: 0, v: i + 1, stamps: false })),
      { do: 'run', sweep: false },
      ...many(520, () => ({ do: 'drop record', at: 0, v: 0 })),
      ...many(30, (i) => ({ do: 'drop event', at: 5 * i, v: 0 })),
      { do: 'run', sweep: false },
    ];
    const world = await playExact({ lane, acts });
    for (const kind of ['change', 'remove']) expect(world.store.journal.filter((e) => e.kind === kind).length).to.be.at.least(500);
  }).timeout(120_000);

  it('that found a fault once stay clean', async () => {
    for (const seed of kept) await play(plainHistoryOf(seed));
    for (const seed of keptInAnotherOrder) await playInAnotherOrder(plainHistoryOf(seed));
    for (const seed of keptWithUndo) await play(undoneHistoryOf(seed));
    for (const seed of keptWithFaults) await play(historyOf(seed));
    for (const seed of keptExact) await playExact({ ...exactOf(seed), rare: [] });
    await playInAnotherOrder(undoneHistoryOf(9660));
    await playTwoLanes(undoneHistoryOf(123));
  }).timeout(60_000);

  it('are the same every time', async () => {
    const journal = async () => JSON.stringify((await play(historyOf(7))).store.journal);
    expect(await journal()).to.equal(await journal());
  });

  it('go the same way with PostgreSQL as the memory', async () => {
    for (const seed of [1, 2, 3, 11, 64, 350, 1437, 7969]) {
      const opened = await openLaneStore();
      const world = await play(historyOf(seed), undefined, (memory) => onPostgres(memory, opened.store, opened.open.db));
      const stored = (await opened.store.pairs({ states: ['creating', 'unconfirmed', 'in sync', 'held', 'unlinked', 'removed'] })).map((p) => p.id);
      expect(stored, `seed ${seed}`).to.have.members(world.store.all.map((p) => p.id));
      await opened.close();
    }
  }).timeout(120_000);
});

describe('random histories on hosted calendars', () => {
  it('leave every invariant standing, too', async () => {
    const hosted = await openHosted();
    try {
      for (let seed = 1; seed <= HOSTED; seed++) {
        const { slug } = await hosted.client.makeHostedCalendar({ name: `History ${seed}` });
        await play(historyOf(seed), undefined, undefined, new HostedCopy(hosted.app, slug)).catch((error: Error) => {
          throw new Error(`history ${seed}: ${error.stack}`);
        });
      }
    } finally {
      await hosted.stop();
    }
  }).timeout(240_000);
});

describe('a calendar server that has forgotten a token', () => {
  it('and answers with everything but what was deleted, hides no deletion', async () => {
    const { setting } = historyOf(1);
    const lane = plainLane({ direction: '->', moments: [{ name: 'visit', when: { start: 'start', length: 'length' } }] });
    const calendar = new MemoryCalendar({ forgets: true });
    const world = new World({ ...setting, lane }, undefined, undefined, { calendar, lane: randomUUID() });
    for (let n = 1; n <= 30; n++) await world.take({ do: 'new record', n });
    await world.run('sweep');
    const [gone] = world.ours()[7]!;
    calendar.drop(gone);
    calendar.expireTokens();
    await world.run('changes');
    expect(world.store.questions.map((q) => [q.question, q.href])).to.deep.equal([['event deleted', gone]]);
  });
});

describe('the checker', () => {
  for (const { invariant, wrong, planner, inAnotherOrder, twoLanes, from = 1 } of brokenEngines)
    it(`finds out an engine that ${wrong}: ${invariant}`, async () => {
      const how = twoLanes ? playTwoLanes : inAnotherOrder ? playInAnotherOrder : play;
      const found = new Set<string>();
      for (let seed = from; seed < from + 400 && !found.has(invariant); seed++) {
        const error = await Promise.resolve(how(historyOf(seed), planner)).then(
          () => null,
          (e: Error) => e,
        );
        if (error instanceof Broken) found.add(error.invariant);
      }
      expect([...found]).to.include(invariant);
    }).timeout(120_000);
});

describe('the reference model', () => {
  const histories = Array.from({ length: 300 }, (_, i) => exactOf(i + 1));
  for (const { rule, wrong, planner, overlooks } of wrongEngines)
    it(`finds out an engine that ${wrong} (${rule})`, async () => {
      let found = false;
      for (const history of histories) {
        found = await playExact(overlooks === undefined ? history : { ...history, manners: { ...history.manners!, ...overlooks } }, planner).then(
          () => false,
          (e: unknown) => e instanceof Broken,
        );
        if (found) break;
      }
      expect(found).to.equal(true);
    }).timeout(120_000);
});
