import { departureChoices, type LaneDefinition, parseLane } from '@monsoon/core';
import { Random } from './random.ts';

/** What can go wrong in a run, at its n-th call. */
const plainFaults = ['none', 'lost before', 'lost after', 'broken', 'throttled', 'crash', 'meddle', 'meddle always'] as const;
/**
 * `refused`: a write that the system takes for wrong; `database before` and `after`: a statement of Monsoon's own database
 * fails, and in the second case was done all the same; `short listing`: a listing that calls itself whole lacks items.
 */
const laterFaults = ['refused', 'not authorised', 'nonsense', 'database before', 'database after', 'short listing'] as const;
export type Fault = (typeof plainFaults)[number] | (typeof laterFaults)[number];
/** A fault and the call it happens at, counted from the first of the run. */
export interface FaultAt {
  fault: Fault;
  after: number;
}

/** Edits by people. `n` counts up, so that every value they write can be told from every other. */
export type Edit =
  | { do: 'new record' | 'new event'; n: number }
  | { do: 'title record' | 'title event' | 'move record' | 'move event' | 'memo record' | 'keep event'; at: number; n: number }
  | {
      do:
        | 'stretch event'
        | 'all-day event'
        | 'cancel event'
        | 'hide event'
        | 'drop record'
        | 'drop event'
        | 'undate record'
        | 'finish record'
        | 'reopen record'
        | 'copy event';
      at: number;
      n: number;
    }
  | { do: 'tag record' | 'tag event'; at: number; tag: string; n: number }
  | { do: 'twins'; n: number };

export type Step =
  | Edit
  | ({ do: 'run'; scope: 'changes' | 'records' | 'sweep' | 'notice'; meddle: Edit; second?: FaultAt } & FaultAt)
  | { do: 'settle'; at: number; choice: number; again: Edit | null }
  | { do: 'expire' }
  | { do: 'pause' }
  /** takes back the run before it */
  | { do: 'undo' }
  /** takes back one of the runs so far, or one entry of its journal */
  | { do: 'undo older'; at: number; entry: number | null }
  | { do: 'audit' }
  | { do: 'new version'; seed: number };

/** How the world of a history is: its lane, and how its systems behave. */
export interface Setting {
  lane: LaneDefinition;
  versions: boolean;
  retries: 'key' | 'none';
  tombstones: boolean;
  tokens: boolean;
  contentTags: boolean;
  /** do people who enter the same visit here and there mean it by the same clock, so that pairing them writes nothing? */
  alike: boolean;
  /** operations that are done and remembered together */
  chunk: number;
  /** what the calendar does to what it stores, and the records' system to what it is given */
  calendarTrims: boolean;
  recordsTrim: boolean;
  /** seconds by which the records' clock and the calendar's are ahead of the right time */
  skew: { records: number; calendar: number };
}

export interface History {
  seed: number;
  setting: Setting;
  steps: Step[];
  /** how the lane is stopped when all is over; absent: it is not */
  stop?: 'remove' | 'unlink';
}

export const tags = ['red', 'green', 'blue'];

/** A lane by chance: direction, permissions, rules, departures. */
export function laneOf(random: Random): LaneDefinition {
  const direction = random.pick(['->', '<-', '<->', '<->', '<->'] as const);
  const both = direction === '<->';
  const link = direction !== '->' && random.chance(0.3);
  const departures = Object.fromEntries(
    Object.entries(departureChoices).map(([name, choices]) => {
      const fitting = (choices as readonly string[]).filter((c) => {
        if (c === 'remove' || c === 'mark cancelled' || c === 'create again') return direction !== '<-';
        return c !== 'delete record' && c !== 'set fields' ? true : direction !== '->';
      });
      return [name, random.pick(fitting)];
    }),
  );
  return parseLane({
    name: 'Items',
    records: { system: 'a', collection: 'items' },
    calendar: { system: 'b', calendar: '/c/' },
    direction,
    zone: 'Europe/London',
    filter: direction !== '<-' && random.chance(0.6) ? { field: 'status', test: 'is not', value: 'done' } : null,
    events: { private: random.pick(['leave out', 'take']) },
    moments: [
      { name: 'visit', when: random.chance(0.6) ? { start: 'start', length: 'length' } : { start: 'start', minutes: 60 } },
      ...(direction !== '<-' && random.chance(0.3)
        ? [
            {
              name: 'follow',
              direction: '->',
              when: { start: 'follow', minutes: 30 },
              fields: { title: { join: 'After {title}', direction: '->' }, categories: { copy: 'tags', direction: '->' } },
            },
          ]
        : []),
    ],
    fields: { title: { copy: 'title' }, categories: { copy: 'tags' }, ...(direction === '<-' ? {} : { busy: { fixed: 'busy' } }) },
    defaults: direction === '->' ? {} : { status: 'open' },
    link: link ? 'uid' : null,
    ...(both && random.chance(0.2) ? { may: { records: { create: false } } } : {}),
    ...(both && random.chance(0.1) ? { may: { calendar: { create: false } } } : {}),
    conflicts: {
      rule: random.pick(['hold', 'hold', 'records win', 'calendar wins', 'later edit wins']),
      tolerance: 60,
      fields: random.chance(0.3) ? { when: 'calendar wins' } : {},
    },
    departures: fix(departures, both),
    sets: { eventDeleted: { status: 'done' }, eventCancelled: { status: 'done' } },
    foreignEdits: random.pick(['put back', 'leave']),
    guard: random.chance(0.2)
      ? { removals: 1, removedPercent: 100, rewrittenPercent: 100 }
      : { removals: 1000, removedPercent: 100, rewrittenPercent: 100 },
  });
}

/** A rule needs the permission to carry it out: lanes that may not make events do not make them again. */
function fix(departures: Record<string, string>, both: boolean): Record<string, string> {
  return both && departures['eventDeleted'] === 'create again' ? { ...departures, eventDeleted: 'unlink' } : departures;
}

/** A history with all that can happen in it: what came later than the kept seeds draws its chances from a row of its own. */
export function historyOf(seed: number, steps = 60): History {
  const history = undoneHistoryOf(seed, steps);
  const random = new Random(seed ^ 0x2545f491);
  return { ...history, steps: history.steps.flatMap((step) => worse(step, random)), stop: random.pick(['remove', 'unlink']) };
}

/** @param steps how many steps people and runs take before peace */
export function undoneHistoryOf(seed: number, steps = 60): History {
  const { setting, steps: taken } = plainHistoryOf(seed, steps);
  const random = new Random(seed ^ 0x5f3759df);
  const followed = taken.flatMap((step): Step[] =>
    step.do === 'run' && step.fault === 'none' && random.chance(0.15) ? [step, { do: 'undo' }] : [step],
  );
  return {
    seed,
    setting: { ...setting, contentTags: random.chance(0.3), alike: random.chance(0.5), chunk: random.pick([100, 3, 1]) },
    steps: followed,
  };
}

/** Other faults than those of the first kept seeds, two in one run, and what people do beside edits. */
function worse(step: Step, random: Random): Step[] {
  if (step.do === 'run') {
    const fault = random.chance(0.3) ? random.pick(laterFaults) : step.fault;
    const second = fault !== 'none' && random.chance(0.2) ? { fault: random.pick(laterFaults), after: random.below(24) } : undefined;
    return [{ ...step, fault, ...(second === undefined ? {} : { second }) }];
  }
  if (random.chance(0.02)) return [step, { do: 'undo older', at: random.below(8), entry: random.chance(0.5) ? random.below(6) : null }];
  return random.chance(0.02) ? [step, { do: 'audit' }] : [step];
}

/** @param steps how many steps people and runs take before peace */
export function plainHistoryOf(seed: number, steps = 60): History {
  const random = new Random(seed);
  const setting: Setting = {
    lane: laneOf(random),
    versions: random.chance(0.7),
    retries: random.pick(['key', 'none']),
    tombstones: random.chance(0.7),
    tokens: random.chance(0.7),
    contentTags: false,
    alike: false,
    chunk: 100,
    calendarTrims: random.chance(0.2),
    recordsTrim: random.chance(0.2),
    skew: { records: random.pick([0, 0, 20, -200]), calendar: random.pick([0, 0, -20, 300]) },
  };
  let n = 0;
  const edit = (): Edit => {
    n++;
    const at = random.below(8);
    const roll = random.below(100);
    if (roll < 16) return { do: 'new record', n };
    if (roll < 26) return { do: 'new event', n };
    if (roll < 34) return { do: 'title record', at, n };
    if (roll < 42) return { do: 'title event', at, n };
    if (roll < 50) return { do: 'move record', at, n };
    if (roll < 58) return { do: 'move event', at, n };
    if (roll < 63) return { do: random.pick(['tag record', 'tag event'] as const), at, tag: random.pick(tags), n };
    if (roll < 67) return { do: 'drop record', at, n };
    if (roll < 71) return { do: 'drop event', at, n };
    if (roll < 76) return { do: random.pick(['finish record', 'reopen record', 'undate record'] as const), at, n };
    if (roll < 80) return { do: 'memo record', at, n };
    if (roll < 84) return { do: 'keep event', at, n };
    if (roll < 88) return { do: 'stretch event', at, n };
    if (roll < 91) return { do: 'all-day event', at, n };
    if (roll < 93) return { do: 'cancel event', at, n };
    if (roll < 95) return { do: 'hide event', at, n };
    if (roll < 97) return { do: 'copy event', at, n };
    return { do: 'twins', n };
  };
  const list: Step[] = [];
  for (let i = 0; i < steps; i++) {
    const roll = random.below(100);
    if (roll < 58 || i < 4) list.push(edit());
    else if (roll < 88)
      list.push({
        do: 'run',
        scope: random.pick(['changes', 'changes', 'records', 'sweep', 'notice']),
        fault: random.pick(plainFaults),
        after: random.below(16),
        meddle: edit(),
      });
    else if (roll < 96) list.push({ do: 'settle', at: random.below(4), choice: random.below(4), again: random.chance(0.3) ? edit() : null });
    else if (roll < 98) list.push(random.chance(0.5) ? { do: 'expire' } : { do: 'pause' });
    else list.push({ do: 'new version', seed: random.below(1_000_000) });
  }
  return { seed, setting, steps: list };
}

/** A history in words, for whoever has to follow it. */
export function tellHistory({ seed, setting, steps }: History): string {
  const { lane, ...rest } = setting;
  const { direction, filter, events, moments, link, may, conflicts, departures, foreignEdits, guard } = lane;
  const told = {
    direction,
    may,
    filter,
    private: events.private,
    moments: moments.map((m) => m.when),
    link,
    conflicts,
    departures,
    foreignEdits,
    removals: guard.removals,
    ...rest,
  };
  return `seed ${seed}\n${JSON.stringify(told)}\n${steps.map((s, i) => `${String(i + 1).padStart(3)}. ${JSON.stringify(s)}`).join('\n')}`;
}
