import type { Collection, LaneContext, LaneDefinition } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { OutsideError } from '@monsoon/systems';
import { type Executed, execute } from '../../../packages/service/src/run/execute.ts';
import type { Work } from '../../../packages/service/src/run/work.ts';
import { MemoryStore } from '../memory-store.ts';
import { collectionOf, MemoryCalendar, MemoryRecords } from '../memory-systems.ts';
import { plainLane } from '../plain-lane.ts';
import { Random } from '../random.ts';
import type { Played } from '../transcript.ts';
import { Crash } from '../world.ts';
import { type Forms, type Place, type Repeating, SeriesPeople } from './people.ts';
import * as program from './program.ts';

const zones = loadZones();
const london = zones.find('Europe/London')!;
const { DAY } = program;
const fields: Collection['fields'] = [
  { name: 'title', label: 'Title', type: 'text' },
  { name: 'start', label: 'Start', type: 'date-time' },
  { name: 'end', label: 'End', type: 'date-time' },
  { name: 'first', label: 'First day', type: 'date' },
  { name: 'last', label: 'Last day', type: 'date' },
  { name: 'rule', label: 'Rule', type: 'text' },
  { name: 'without', label: 'Without', type: 'text' },
];
export const BEHIND = 30;
export const AHEAD = 60;

/** A history of series that a lane takes: people edit both sides, runs fail in between, and in peace both sides say the same. */
export class SeriesWorld implements Place {
  readonly random: Random;
  readonly calendar: MemoryCalendar;
  readonly records: MemoryRecords;
  readonly store = new MemoryStore();
  readonly people: SeriesPeople;
  readonly toCalendar: boolean;
  /** do events come to records? */
  readonly toRecords: boolean;
  readonly log: Place['log'];
  readonly #editedAndDeleted: string;
  readonly #rule: string;
  /** what the lane makes of series */
  readonly takes: Repeating;
  readonly forms: Forms;
  readonly rulesInRecords: boolean;
  repeating: 'each occurrence' | 'one record' | 'leave out';
  /** of the map of the rule; null: as the lane's */
  readonly ruleGoes: '->' | '<-' | null;
  version = 1;
  #swept = 0;
  readonly #definitions = new Map<string, LaneDefinition>();
  /** on a day from which a change of the clock is a few weeks away, now and then */
  now: number;
  /** events with a property that Monsoon must leave alone */
  readonly kept = new Set<string>();

  constructor(seed: number, takes: Repeating, forms: Forms, log: Place['log']) {
    this.random = new Random(seed);
    this.takes = takes;
    this.forms = forms;
    this.people = new SeriesPeople(this);
    this.repeating = takes === 'of records' ? 'leave out' : takes === 'each occurrence' ? takes : 'one record';
    this.rulesInRecords = takes !== 'each occurrence' && takes !== 'without its rule';
    this.ruleGoes = takes === 'rule one way' ? this.random.pick(['->', '<-'] as const) : null;
    this.log = log;
    this.toCalendar = this.random.chance(0.7) || takes === 'of records' || takes === 'rule one way';
    this.toRecords = takes !== 'of records' || this.random.chance(0.5);
    this.#rule = this.random.pick(['calendar wins', 'records win']);
    this.#editedAndDeleted = this.random.pick(['edit wins', 'deletion wins']);
    this.now = Date.parse(this.random.pick(['2026-11-23T08:00:00Z', '2026-10-12T08:00:00Z', '2026-03-10T08:00:00Z']));
    this.calendar = new MemoryCalendar({ tokens: this.random.chance(0.8), contentTags: this.random.chance(0.3), forgets: this.random.chance(0.2) });
    this.records = new MemoryRecords(fields, {
      versions: this.random.chance(0.7),
      tombstones: this.random.chance(0.7),
      retries: 'key',
      now: () => new Date(this.now).toISOString(),
    });
  }

  /** Read once for each way in which series are taken: a history asks for it hundreds of times. */
  get #definition(): LaneDefinition {
    const known = this.#definitions.get(this.repeating);
    if (known !== undefined) return known;
    const direction = this.ruleGoes === null ? {} : { direction: this.ruleGoes };
    const definition = plainLane({
      direction: this.toRecords ? (this.toCalendar ? '<->' : '<-') : '->',
      moments: [{ name: 'visit', when: this.forms === 'days' ? { first: 'first', last: 'last', lastCounts: true } : { start: 'start', end: 'end' } }],
      ...(this.rulesInRecords ? { fields: { title: { copy: 'title' }, recurrence: { rule: 'rule', excluded: 'without', ...direction } } } : {}),
      window: { behind: BEHIND, ahead: AHEAD },
      events: { repeating: this.repeating },
      conflicts: { rule: this.#rule },
      foreignEdits: 'put back',
      departures: !this.toRecords
        ? { eventDeleted: 'create again', eventCancelled: 'as deleted', recordDeleted: 'remove', editedAndDeleted: 'deletion wins' }
        : {
            eventDeleted: 'delete record',
            eventCancelled: 'as deleted',
            eventFilteredOut: 'delete record',
            recordDeleted: this.toCalendar ? 'remove' : 'keep',
            editedAndDeleted: this.toCalendar ? this.#editedAndDeleted : 'deletion wins',
          },
      guard: { removals: 1000, removedPercent: 100, rewrittenPercent: 100 },
    });
    this.#definitions.set(this.repeating, definition);
    return definition;
  }

  get context(): LaneContext {
    return {
      lane: '5b8f0c1e-9a55-4f43-8a51-0d3c9f1d2e11',
      definition: this.#definition,
      version: this.version,
      collection: collectionOf(fields, 'key'),
      zone: london,
      zones,
      now: new Date(this.now).toISOString(),
    };
  }
  get work(): Work {
    return {
      context: this.context,
      sides: { records: this.records, calendars: this.calendar },
      store: this.store,
      signal: new AbortController().signal,
    };
  }
  /** seconds since 1970 */
  get today(): number {
    return Math.floor(this.now / 1000 / DAY) * DAY;
  }

  get played(): Played {
    const texts = new Map([...this.calendar.events].map(([href, e]) => [href, e.text]));
    return { context: this.context, systems: { records: this.records, calendars: this.calendar }, store: this.store, texts, audits: [] };
  }

  async run(whole: boolean, faulty: boolean): Promise<Executed | null> {
    this.now += 20 * 60_000;
    let left = faulty ? this.random.below(14) : Number.POSITIVE_INFINITY;
    const fault = this.random.pick(['crash', 'lost before', 'lost after', 'throttled', 'meddle', 'meddle'] as const);
    let meddling = false;
    const ending = new AbortController();
    const mischief = (call: string, moment: 'before' | 'after') => {
      if (meddling || left-- > 0) return;
      if (fault === 'meddle') {
        if (moment !== 'before') return;
        left = Number.POSITIVE_INFINITY;
        meddling = true;
        this.people.act();
        meddling = false;
        return;
      }
      if ((fault === 'lost after') !== (moment === 'after')) return;
      left = Number.POSITIVE_INFINITY;
      this.log(`  ${fault} at ${call}`);
      if (fault === 'crash') {
        ending.abort();
        throw new Crash();
      }
      throw new OutsideError(fault === 'throttled' ? 'throttled' : 'timed out', `${call} failed`);
    };
    this.calendar.mischief = mischief;
    this.records.mischief = mischief;
    const sweep = whole || this.#swept !== this.version;
    try {
      const ended = await execute({ ...this.work, signal: ending.signal, scope: sweep ? 'sweep' : 'changes', chunk: 5 });
      if (sweep && ended.state === 'done') this.#swept = this.version;
      if (ended.state === 'held') {
        // A person looks at it, and lets it through.
        this.log(`held: ${ended.reason}`);
        await execute({ ...this.work, scope: sweep ? 'sweep' : 'changes', chunk: 5, allowed: ended.damage });
      }
      this.log(`run (${sweep ? 'sweep' : 'changes'}): ${ended.state} ${ended.reason ?? ''} ${JSON.stringify(ended.counts)}`);
      return ended;
    } catch (error) {
      if (!(error instanceof Crash) && !ending.signal.aborted) throw error;
      return null;
    } finally {
      this.calendar.mischief = () => undefined;
      this.records.mischief = () => undefined;
    }
  }

  async settle(): Promise<void> {
    for (let i = 0; i < 4; i++) await this.run(i !== 1, false);
  }

  passTime(): void {
    this.now += this.random.below(6) * DAY * 1000;
  }
}
