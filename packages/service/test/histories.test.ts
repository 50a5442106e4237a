import { type Collection, type LaneContext, parseLane, readEvent } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { OutsideError } from '@monsoon/systems';
import { expect } from 'chai';
import fc from 'fast-check';
import { Crash, MemoryCalendar, MemoryRecords, MemoryStore } from '../../../test/support/memory.ts';
import { execute } from '../src/run/execute.ts';
import type { Batch } from '../src/run/store.ts';

/**
 * Random histories drive the real gathering, planning and applying against sides in memory: edits on both sides, faults
 * before and after a call took effect, and crashes between any two steps. Then peace: whatever happened, both sides
 * must agree, every record once, nothing foreign touched, and one more run writes nothing.
 */
const zones = loadZones();
const collection: Collection = {
  name: 'visits',
  label: 'Visits',
  fields: [
    { name: 'title', label: 'Title', type: 'text' },
    { name: 'start', label: 'Start', type: 'date-time' },
    { name: 'private', label: 'Private', type: 'yes/no' },
  ],
};
const definition = parseLane({
  name: 'Visits',
  records: { system: 'a', collection: 'visits' },
  calendar: { system: 'b', calendar: '/c/' },
  direction: '->',
  zone: 'Europe/London',
  private: { field: 'private', treat: 'leave out' },
  moments: [{ name: 'visit', when: { start: 'start', minutes: 60 } }],
  fields: { title: { copy: 'title', default: 'Visit' }, busy: { fixed: 'busy' } },
  departures: { recordDeleted: 'remove', filteredOut: 'remove', dateLost: 'remove', eventDeleted: 'make again' },
  guard: { removals: 1000, removedPercent: 100, rewrittenPercent: 100 },
});

type Fault = 'none' | 'before' | 'after' | 'broken' | 'crash';
type Step =
  | { do: 'put'; id: string; title: string; hour: number; dated: boolean; private: boolean }
  | { do: 'drop'; id: string }
  | { do: 'edit event' | 'drop event'; at: number; title: string }
  | { do: 'run'; scope: 'sweep' | 'changes' | 'records'; fault: Fault; after: number };

const id = fc.constantFrom('A', 'B', 'C', 'D', 'E');
const title = fc.constantFrom('Marsh', 'Quill', 'Rooke', 'Venn');
const step: fc.Arbitrary<Step> = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('put' as const),
      id,
      title,
      hour: fc.integer({ min: 8, max: 18 }),
      dated: fc.boolean(),
      private: fc.boolean(),
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('drop' as const), id }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constantFrom('edit event' as const, 'drop event' as const), at: fc.nat(10), title }) },
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('run' as const),
      scope: fc.constantFrom('sweep' as const, 'changes' as const, 'records' as const),
      fault: fc.constantFrom<Fault>('none', 'before', 'after', 'broken', 'crash'),
      after: fc.nat(12),
    }),
  },
);

class World {
  readonly calendar = new MemoryCalendar();
  readonly records = new MemoryRecords();
  readonly store: MemoryStore;
  #now = Date.parse('2026-11-23T08:00:00Z');

  constructor(makeStore: (world: World) => MemoryStore = () => new MemoryStore()) {
    this.store = makeStore(this);
    this.calendar.put(
      '/c/foreign.ics',
      'BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:foreign\r\nDTSTART:20261201T090000Z\r\nSUMMARY:Not ours\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n',
    );
  }

  /** One run with one fault at a given call; a crash ends it like a power cut. */
  async run(scope: 'sweep' | 'changes' | 'records', fault: Fault = 'none', after = 0): Promise<void> {
    let calls = 0;
    let crashed = false;
    const due = () => fault !== 'none' && calls++ === after;
    const mischief = (_call: string, moment: 'before' | 'after') => {
      if (crashed) throw new Crash();
      if (fault === 'crash' && due()) {
        crashed = true;
        throw new Crash();
      }
      if (fault === moment && due()) throw new OutsideError('timed out', 'no answer in time');
      if (fault === 'broken' && moment === 'before' && due()) throw new OutsideError('broken', 'a 500');
    };
    this.calendar.mischief = mischief;
    this.records.mischief = mischief;
    this.store.crash = () => {
      if (crashed || (fault === 'crash' && due())) {
        crashed = true;
        throw new Crash();
      }
    };
    this.#now += 60_000 * 60 * 3;
    const context: LaneContext = {
      lane: '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11',
      definition,
      collection,
      zone: zones.find('Europe/London')!,
      zones,
      now: new Date(this.#now).toISOString(),
    };
    try {
      const known = (await this.store.cursors()).records !== null;
      await execute(
        context,
        { records: this.records, calendars: this.calendar },
        this.store,
        known ? scope : 'sweep',
        null,
        new AbortController().signal,
      );
    } catch (error) {
      if (!(error instanceof Crash)) throw error;
    }
  }

  ours = () => [...this.calendar.events].filter(([href]) => href !== '/c/foreign.ics');

  async take(s: Step): Promise<void> {
    if (s.do === 'put')
      this.records.put(s.id, { title: s.title, start: s.dated ? `2026-12-01T${String(s.hour).padStart(2, '0')}:00:00` : null, private: s.private });
    else if (s.do === 'drop') this.records.drop(s.id);
    else if (s.do === 'run') await this.run(s.scope, s.fault, s.after);
    else {
      const event = this.ours()[s.at];
      if (event === undefined) return;
      if (s.do === 'drop event') this.calendar.drop(event[0]);
      else
        this.calendar.put(
          event[0],
          event[1].text
            .replace(/^SUMMARY:.*$/m, `SUMMARY:${s.title} (edited)`)
            .replace('END:VEVENT', event[1].text.includes('X-KEEP') ? 'END:VEVENT' : 'X-KEEP:me\r\nEND:VEVENT'),
        );
    }
  }

  /** What the calendar has to hold by the records alone. */
  expected = () =>
    [...this.records.rows.values()]
      .flatMap(({ item }) =>
        item === null || item.fields['start'] === null || item.fields['private'] === true
          ? []
          : [`${String(item.fields['title'])} ${String(item.fields['start'])}`],
      )
      .sort();
  found = () =>
    this.ours()
      .map(([, { text }]) => readEvent(text, zones).values)
      .map((v) => `${v.title} ${v.when?.kind === 'timed' ? v.when.start : ''}`)
      .sort();
}

/** Regular checks alone, without a sweep: what a cursor passed over stays lost. */
const peace = async (world: World) => {
  for (let i = 0; i < 3; i++) await world.run('changes');
};

async function play(steps: Step[], makeStore?: (world: World) => MemoryStore): Promise<void> {
  const world = new World(makeStore);
  for (const s of steps) await world.take(s);
  const kept = new Set(
    world
      .ours()
      .filter(([, e]) => e.text.includes('X-KEEP'))
      .map(([href]) => href),
  );
  await peace(world);
  expect(world.found()).to.deep.equal(world.expected());
  expect(world.calendar.events.get('/c/foreign.ics')!.text).to.include('SUMMARY:Not ours').and.not.include('MONSOON');
  for (const [href, event] of world.ours()) if (kept.has(href)) expect(event.text, 'what it does not know stays').to.include('X-KEEP:me');
  const writes = world.calendar.writes;
  const entries = world.store.journal.length;
  await world.run('changes');
  await world.run('sweep');
  expect(world.calendar.writes, 'peace').to.equal(writes);
  expect(world.store.journal.length).to.equal(entries);
  const explained = new Set(world.store.journal.map((e) => e.pair.id));
  for (const pair of await world.store.pairs('all'))
    if (pair.state === 'agreed') expect(explained.has(pair.id), 'every pair has an entry').to.equal(true);
}

const history = (makeStore?: (world: World) => MemoryStore) =>
  fc.asyncProperty(fc.array(step, { minLength: 5, maxLength: 40 }), (steps) => play(steps, makeStore));

/** Moves its cursors when the work begins, not when it is done. */
class HastyStore extends MemoryStore {
  readonly #world: World;
  constructor(world: World) {
    super();
    this.#world = world;
  }
  override cursors = async () => {
    const known = await MemoryStore.prototype.readCursors.call(this);
    if (known.records !== null) await MemoryStore.prototype.moveCursors.call(this, { records: String(this.#world.records.clock) });
    return known;
  };
}

/** Forgets which event a pair has. */
class ForgetfulStore extends MemoryStore {
  override async write(batch: Batch): Promise<void> {
    await super.write({ ...batch, pairs: (batch.pairs ?? []).map((p) => ({ ...p, uid: `${p.uid}-${this.journal.length}` })) });
  }
}

/** What the checks say of a broken variant; empty when they see nothing. */
const fault = async (makeStore: (world: World) => MemoryStore): Promise<string> => {
  const result = await fc.check(history(makeStore), { numRuns: 400 });
  return result.failed ? String(result.errorInstance) : '';
};

describe('random histories with faults and crashes', function () {
  this.timeout(120_000);
  it('end in agreement: every record once, nothing foreign touched, nothing lost, and one more run writes nothing', async () => {
    await fc.assert(history(), { numRuns: 800 });
  });

  it('keep the date of a retry when the run that retries is stopped before it comes to it', async () => {
    const put = (id: string, dated: boolean): Step => ({ do: 'put', id, title: 'Marsh', hour: 8, dated, private: false });
    const run = (scope: 'sweep' | 'records', fault: Fault, after: number): Step => ({ do: 'run', scope, fault, after });
    await play([
      put('B', true),
      run('sweep', 'none', 0),
      put('B', false),
      run('records', 'broken', 3),
      run('sweep', 'broken', 3),
      run('sweep', 'before', 0),
      put('A', false),
      run('sweep', 'crash', 0),
    ]);
  });

  it('would show a run that moves its cursors before the work is done', async () => {
    expect(await fault((world) => new HastyStore(world))).to.match(/to deeply equal/);
  });

  it('would show a run that does not know its own events again', async () => {
    expect(await fault(() => new ForgetfulStore())).to.match(/AssertionError/);
  });
});
