import type { RunStore } from '../../packages/service/src/run/store.ts';
import { Broken, checkPeace, checkStep, endOf } from './checker.ts';
import { type History, historyOf, type Step, tellHistory } from './history.ts';
import type { MemoryStore } from './memory-store.ts';
import type { MemoryCalendar } from './memory-systems.ts';
import { LANE, type Planner, World } from './world.ts';

export interface Failure {
  history: History;
  error: Error;
}

/** Regular checks until nothing moves; a run that the guard holds is let through, as a person would. */
async function makePeace(world: World, runs = 4): Promise<void> {
  world.now += 24 * 3_600_000;
  for (let i = 0; i < runs; i++) {
    const ended = await world.run('changes');
    if (ended?.state === 'held') await world.run('changes', null, ended.damage);
  }
}

/** Plays one history to its end and checks it on the way. @throws Broken */
export async function play(
  history: History,
  planner?: Planner,
  store?: (memory: MemoryStore) => RunStore,
  calendar?: MemoryCalendar,
): Promise<World> {
  const world = new World(history.setting, planner, store, calendar === undefined ? undefined : { calendar, lane: LANE });
  for (const step of history.steps) await takeChecked(world, step);
  // While there is still something to find.
  await takeChecked(world, { do: 'audit' });
  await makePeace(world);
  // Which of several events a record's own is, only a look at the whole calendar can tell: that is the daily sweep's.
  // So is what a listing lacked that called itself whole, and what a system refused.
  const refused = world.store.verdicts.some((v) => v.verdict?.reason === 'refused by the system');
  if (world.listedShort || refused || world.store.questions.some((q) => q.question === 'several candidates')) {
    await world.run('sweep');
    await makePeace(world, 2);
  }
  const counted = marks(world);
  checkPeace(world);
  // 2 and 4: in peace, one more run writes nothing, whether it looks at changes or at everything.
  await world.run('changes');
  await world.run('sweep');
  const after = marks(world);
  if (after.events !== counted.events || after.records !== counted.records)
    throw new Broken(
      'no echo',
      `a run in peace wrote ${JSON.stringify([...world.calendar.writes.slice(counted.events), ...world.records.writes.slice(counted.records)]).slice(0, 500)}`,
    );
  if (after.journal !== counted.journal)
    throw new Broken(
      'agreement',
      `a run in peace still has to do: ${world.store.journal
        .slice(counted.journal)
        .map((e) => `${e.kind} ${e.pair.recordId} ${e.cause}`)
        .join('; ')}`,
    );
  checkPeace(world);
  await world.take({ do: 'audit' });
  checkStep(world, after, true);
  if (history.stop !== undefined) await stopped(world, history.stop);
  return world;
}

/** Stopping a lane takes away only what it made, and follows nothing afterwards. @throws Broken */
async function stopped(world: World, how: 'remove' | 'unlink'): Promise<void> {
  const before = marks(world);
  const made = new Set([...world.calendar.writes, ...world.records.writes].filter((w) => w.call === 'create').map((w) => w.id));
  const state = await world.stop(how);
  if (state !== 'done') throw new Broken('everything explained', `stopping a lane in peace ended as ${state}`);
  for (const write of [...world.calendar.writes.slice(before.events), ...world.records.writes.slice(before.records)])
    if (how === 'unlink' || write.call !== 'remove' || !made.has(write.id))
      throw new Broken('no removal without leave', `stopping the lane (${how}) did ${write.call} the ${write.side} ${write.id}`);
  const followed = world.store.all.find((p) => p.state !== 'unlinked' && p.state !== 'removed');
  if (followed !== undefined) throw new Broken('everything explained', `a stopped lane still follows ${followed.recordId ?? followed.href}`);
}

const marks = (world: World) => ({ events: world.calendar.writes.length, records: world.records.writes.length, journal: world.store.journal.length });

async function takeChecked(world: World, step: Step): Promise<void> {
  const before = marks(world);
  const clean = step.do !== 'run' || step.fault === 'none';
  if (!clean) world.uncertain = true;
  await world.take(step);
  checkStep(world, before, clean, step.do === 'undo older');
}

/** 9: the same edits, told in another order, in other portions, and twice, end the same. @throws Broken */
export async function playInAnotherOrder(history: History, planner?: Planner): Promise<void> {
  // What a guard holds waits for a person: when they let it through is theirs to say.
  if (history.setting.lane.guard.removals < 100) return;
  const ends: string[] = [];
  for (const reversed of [false, true]) {
    const world = new World(history.setting, planner);
    for (const step of history.steps) await world.take(step);
    world.reversed = reversed;
    if (reversed) {
      // Notices, one by one, the last first, and each of them twice.
      await world.run('changes');
      const ids = [...world.records.rows.keys()].reverse();
      for (const id of [...ids, ...ids]) await world.run({ records: [id] });
    }
    await makePeace(world);
    await world.run('sweep');
    await makePeace(world, 2);
    ends.push(endOf(world));
  }
  if (ends[0] !== ends[1]) throw new Broken('order does not matter', `one order ends in\n${ends[0]}\nthe other in\n${ends[1]}`);
}

const OTHER = '3d7a8f60-94c2-4b1e-8d0f-5c2b7e9a1f44';

/**
 * 4: two lanes on one calendar, each with records of its own, as if two installations knew nothing of each other. People
 * edit here and there, the lanes run by turns; then neither chases the other, and none makes a thing twice.
 * @throws Broken
 */
export async function playTwoLanes(history: History, planner?: Planner): Promise<void> {
  const one = new World(history.setting, planner);
  const another = historyOf(history.seed + 500_000).setting;
  // A lane of its own, or the same lane in another installation.
  const lane = history.seed % 4 === 0 ? another.lane : history.setting.lane;
  const setting = { ...another, lane, calendarTrims: history.setting.calendarTrims };
  const other = new World(setting, planner, undefined, { calendar: one.calendar, lane: OTHER });
  const worlds = [one, other];
  for (const [i, step] of history.steps.entries()) {
    await worlds[i % 2]!.take(step);
    // Both systems know the same visit: then both lanes look for its event.
    if (step.do === 'twins' || step.do === 'new record') await worlds[1 - (i % 2)]!.take({ do: 'new record', n: step.n });
  }
  for (let round = 0; round < 3; round++)
    for (const world of worlds) {
      await world.run('sweep');
      await makePeace(world, 2);
    }
  const counted = worlds.map(marks);
  for (const scope of ['changes', 'sweep', 'changes'] as const) for (const world of worlds) await world.run(scope);
  const wrote = one.calendar.writes.slice(counted[0]!.events).concat(...worlds.map((w, i) => w.records.writes.slice(counted[i]!.records)));
  if (wrote.length > 0) throw new Broken('no echo', `two lanes in peace still write ${JSON.stringify(wrote).slice(0, 600)}`);
}

export type Play = (history: History, planner?: Planner) => Promise<unknown>;

async function failureOf(history: History, how: Play, planner?: Planner): Promise<Error | null> {
  try {
    await how(history, planner);
    return null;
  } catch (error) {
    return error as Error;
  }
}

/** One seed; on failure the shortest history that was found to fail in the same way. */
export async function trySeed(seed: number, how: Play = play, planner?: Planner): Promise<Failure | null> {
  const history = historyOf(seed);
  const error = await failureOf(history, how, planner);
  return error === null ? null : shrink(history, error, how, planner);
}

const kindOf = (error: Error) => (error instanceof Broken ? error.invariant : error.message.slice(0, 30));

/** Leaves out steps, half of them at first and then fewer, as long as it still fails in the same way (delta debugging). */
async function shrink(history: History, error: Error, how: Play, planner?: Planner): Promise<Failure> {
  let best: Failure = { history, error };
  const kind = kindOf(error);
  for (let size = Math.ceil(history.steps.length / 2); size >= 1; ) {
    let smaller = false;
    for (let at = 0; at < best.history.steps.length; ) {
      const steps = best.history.steps.filter((_s, i) => i < at || i >= at + size);
      const shorter = { ...best.history, steps };
      const failed = await failureOf(shorter, how, planner);
      if (failed !== null && kindOf(failed) === kind) {
        best = { history: shorter, error: failed };
        smaller = true;
      } else at += size;
    }
    if (size === 1 && !smaller) break;
    size = size === 1 ? 1 : Math.floor(size / 2);
  }
  return best;
}

export const tellFailure = ({ history, error }: Failure): string =>
  `${error.message}\n${tellHistory(history)}\n${error instanceof Broken ? '' : (error.stack ?? '')}`;
