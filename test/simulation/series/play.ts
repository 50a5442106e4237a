import type { Collection, LaneContext } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { OutsideError } from '@monsoon/systems';
import { auditSides } from '../../../packages/service/src/run/audit.ts';
import { type Executed, execute } from '../../../packages/service/src/run/execute.ts';
import { forecast } from '../../../packages/service/src/run/forecast.ts';
import { MemoryStore } from '../memory-store.ts';
import { collectionOf, MemoryCalendar, MemoryRecords } from '../memory-systems.ts';
import { plainLane } from '../plain-lane.ts';
import { Random } from '../random.ts';
import type { Played } from '../transcript.ts';
import { Crash } from '../world.ts';
import * as program from './program.ts';

const zones = loadZones();
const london = zones.find('Europe/London')!;
const { DAY } = program;
const fields: Collection['fields'] = [
  { name: 'title', label: 'Title', type: 'text' },
  { name: 'start', label: 'Start', type: 'date-time' },
  { name: 'end', label: 'End', type: 'date-time' },
  { name: 'rule', label: 'Rule', type: 'text' },
  { name: 'without', label: 'Without', type: 'text' },
];
const BEHIND = 30;
const AHEAD = 60;

/** What does not hold, and in which history. */
export class Wrong extends Error {}

type Log = (line: string) => void;

/** What a lane makes of a series in a history. */
export type Repeating = 'each occurrence' | 'one record';

/** A history of series that a lane takes: people edit both sides, runs fail in between, and in peace both sides say the same. */
class SeriesWorld {
  readonly random: Random;
  readonly calendar: MemoryCalendar;
  readonly records: MemoryRecords;
  readonly store = new MemoryStore();
  readonly both: boolean;
  readonly #log: Log;
  readonly #editedAndDeleted: string;
  readonly #rule: string;
  /** what the lane makes of series */
  readonly #takes: Repeating;
  repeating: Repeating | 'leave out';
  version = 1;
  #swept = 0;
  /** on a day from which a change of the clock is a few weeks away, now and then */
  now: number;
  #n = 0;
  /** events with a property that Monsoon must leave alone */
  readonly #kept = new Set<string>();

  constructor(seed: number, takes: Repeating, log: Log) {
    this.random = new Random(seed);
    this.#takes = takes;
    this.repeating = takes;
    this.#log = log;
    this.both = this.random.chance(0.7);
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

  get context(): LaneContext {
    const definition = plainLane({
      direction: this.both ? '<->' : '<-',
      moments: [{ name: 'visit', when: { start: 'start', end: 'end' } }],
      ...(this.#takes === 'one record' ? { fields: { title: { copy: 'title' }, recurrence: { rule: 'rule', excluded: 'without' } } } : {}),
      window: { behind: BEHIND, ahead: AHEAD },
      events: { repeating: this.repeating },
      conflicts: { rule: this.#rule },
      foreignEdits: 'put back',
      departures: {
        eventDeleted: 'delete record',
        eventCancelled: 'as deleted',
        eventFilteredOut: 'delete record',
        recordDeleted: this.both ? 'remove' : 'keep',
        editedAndDeleted: this.both ? this.#editedAndDeleted : 'deletion wins',
      },
      guard: { removals: 1000, removedPercent: 100, rewrittenPercent: 100 },
    });
    return {
      lane: '5b8f0c1e-9a55-4f43-8a51-0d3c9f1d2e11',
      definition,
      version: this.version,
      collection: collectionOf(fields, 'key'),
      zone: london,
      zones,
      now: new Date(this.now).toISOString(),
    };
  }
  get #work() {
    return {
      context: this.context,
      sides: { records: this.records, calendars: this.calendar },
      store: this.store,
      signal: new AbortController().signal,
    };
  }
  /** seconds since 1970 */
  get #today(): number {
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
        this.act();
        meddling = false;
        return;
      }
      if ((fault === 'lost after') !== (moment === 'after')) return;
      left = Number.POSITIVE_INFINITY;
      this.#log(`  ${fault} at ${call}`);
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
      const ended = await execute({ ...this.#work, signal: ending.signal, scope: sweep ? 'sweep' : 'changes', chunk: 5 });
      if (sweep && ended.state === 'done') this.#swept = this.version;
      if (ended.state === 'held') {
        // A person looks at it, and lets it through.
        this.#log(`held: ${ended.reason}`);
        await execute({ ...this.#work, scope: sweep ? 'sweep' : 'changes', chunk: 5, allowed: ended.damage });
      }
      this.#log(`run (${sweep ? 'sweep' : 'changes'}): ${ended.state} ${ended.reason ?? ''} ${JSON.stringify(ended.counts)}`);
      return ended;
    } catch (error) {
      if (!(error instanceof Crash) && !ending.signal.aborted) throw error;
      return null;
    } finally {
      this.calendar.mischief = () => undefined;
      this.records.mischief = () => undefined;
    }
  }

  /** Somebody does something, on either side. */
  act(): void {
    const { random } = this;
    const n = ++this.#n;
    if (this.both && random.chance(0.35)) {
      this.#actOnRecord(n);
      return;
    }
    const hrefs = [...this.calendar.events.keys()];
    const href = hrefs.length === 0 ? null : random.pick(hrefs);
    if (href === null || (hrefs.length < 6 && random.chance(0.25))) this.#newSeries(n);
    else this.#actOnEvent(href, n);
  }

  #put(href: string, text: string): void {
    if (text.includes('X-KEPT:')) this.#kept.add(href);
    this.calendar.put(href, text);
  }

  #newSeries(n: number): void {
    const { random } = this;
    const first = this.#today + (random.below(40) - 10) * DAY + (8 + random.below(10)) * 3600;
    const end = random.pick([`;COUNT=${2 + random.below(9)}`, `;UNTIL=${program.stamp(first + (10 + random.below(60)) * DAY)}Z`, '']);
    const rule = random.pick([
      null,
      `FREQ=WEEKLY${end}`,
      `FREQ=WEEKLY;INTERVAL=2${end}`,
      `FREQ=DAILY;INTERVAL=${2 + random.below(4)}${end}`,
      `FREQ=MONTHLY${end}`,
    ]);
    this.#log(`new on the calendar: E${n} ${rule ?? 'single'} from ${program.stamp(first)}`);
    // A rule in a record goes by the clock of the lane: of a series in UTC it says only when that begins.
    const utc = random.chance(0.2) && this.#takes === 'each occurrence';
    this.#put(`/c/e${n}.ics`, program.write(`e${n}`, `T${n}`, first, 60, utc, rule));
  }

  #actOnEvent(href: string, n: number): void {
    const { random } = this;
    const { text } = this.calendar.events.get(href)!;
    const seen = program.look(text);
    const one = seen.length === 0 ? undefined : random.pick(seen);
    const put = (next: string | null, said: string) => {
      this.#log(`${href}: ${said}`);
      if (next === null) this.calendar.drop(href);
      else this.#put(href, next);
    };
    const isSeries = one !== undefined && one.id !== null;
    const current = program.ruleOf(program.open(text));
    const acts: (() => void)[] = [
      () => put(program.retitle(text, `T${n}`), `all are called T${n}`),
      () => {
        const [days, hours, keep] = [random.below(7) - 3, random.below(5) - 2, random.chance(0.5)];
        put(program.drag(text, days, hours, keep), `all are dragged by ${days} days and ${hours} hours`);
      },
      () => put(null, 'deleted'),
    ];
    if (!isSeries) acts.push(() => put(program.rule(text, `FREQ=WEEKLY;COUNT=${2 + random.below(5)}`), 'is made to repeat'));
    if (isSeries && one !== undefined)
      acts.push(
        () => put(program.edit(text, one.id!, { by: (random.below(9) - 4) * 6 * 3600 }), `the occurrence of ${program.stamp(one.id!)} is moved`),
        () => put(program.edit(text, one.id!, { title: `T${n}` }), `the occurrence of ${program.stamp(one.id!)} is called T${n}`),
        () =>
          put(
            program.edit(text, one.id!, { cancelled: !one.cancelled }),
            `the occurrence of ${program.stamp(one.id!)} is cancelled, or not any more`,
          ),
        () => put(program.exclude(text, one.id!), `the occurrence of ${program.stamp(one.id!)} is deleted`),
        () => put(program.revive(text), 'single edits are forgotten'),
      );
    if (isSeries && current !== null)
      acts.push(
        () => {
          const { old, made } = program.split(text, random.below(seen.length), random.below(5) - 2, `e${n}`) ?? { old: text, made: null };
          put(old, `this and all following is split off${made === null ? ': nothing to do' : `, as E${n}`}`);
          if (made !== null) this.#put(`/c/e${n}.ics`, made);
        },
        () => {
          const next = random.pick([
            `FREQ=WEEKLY;COUNT=${2 + random.below(8)}`,
            'FREQ=WEEKLY;INTERVAL=2',
            `FREQ=DAILY;INTERVAL=3;COUNT=${3 + random.below(8)}`,
          ]);
          put(program.rule(text, next), `the rule is ${next}`);
        },
        () => put(program.rule(text, null), 'does not repeat any more'),
      );
    random.pick(acts)();
  }

  #actOnRecord(n: number): void {
    const { random } = this;
    const live = this.records.live();
    if (live.length === 0 || random.chance(0.1)) {
      const start = this.#today + (1 + random.below(30)) * DAY + 36_000;
      const rule = this.#takes === 'one record' && random.chance(0.5) ? { rule: random.pick(recordRules) } : {};
      this.#log(`new record R${n} ${rule.rule ?? ''}`);
      this.records.put(`R${n}`, { title: `T${n}`, start: said(start), end: said(start + 3600), ...rule });
      return;
    }
    const { id, fields: now } = random.pick(live);
    const act = random.pick(['title', this.#takes === 'one record' ? 'rule' : 'title', 'move', 'drop'] as const);
    this.#log(`${id}: ${act} ${act === 'title' ? `T${n}` : ''}`);
    if (act === 'drop') this.records.drop(id);
    else if (act === 'rule') {
      const rule = random.pick([null, ...recordRules]);
      this.records.put(id, rule === null ? { rule, without: null } : { rule });
    } else if (act === 'title') this.records.put(id, { title: `T${n}` });
    else {
      const by = (random.below(9) - 4) * 5400;
      const [start, end] = [now['start'], now['end']].map((v) => instant(v as string) + by);
      this.records.put(id, { start: said(start!), end: said(end!) });
    }
  }

  /** Both sides, in a window that no edge of the lane's touches. */
  sides(): { records: string[]; events: string[] } {
    return this.repeating === 'one record' ? this.#wholeSides() : this.#sidesByOccurrence();
  }

  /** Series as wholes: the calendar's without what was edited of single occurrences, the records' as the series that they describe. */
  #wholeSides(): { records: string[]; events: string[] } {
    const from = this.#today - (BEHIND - 3) * DAY;
    const until = this.#today + (AHEAD - 3) * DAY;
    const lines = (texts: string[]) =>
      texts
        .map((text) => program.look(program.plain(text)))
        .filter((seen) => seen.some((o) => o.start > from && o.start < until))
        .map(
          (seen) =>
            `${seen[0]!.title} ${seen
              .map((o) => `${program.stamp(o.start)}-${program.stamp(o.end)}`)
              .slice(0, 20)
              .join(' ')}`,
        )
        .sort();
    return {
      records: lines(this.records.live().map((r) => textOf(r.fields))),
      events: lines([...this.calendar.events.values()].map((e) => e.text)),
    };
  }

  #sidesByOccurrence(): { records: string[]; events: string[] } {
    const from = this.#today - (BEHIND - 3) * DAY;
    const until = this.#today + (AHEAD - 3) * DAY;
    const lines = (all: { title: string; start: number; end: number }[]) =>
      all
        .filter((o) => o.start > from && o.start < until)
        .map((o) => `${o.title} ${program.stamp(o.start)}-${program.stamp(o.end)}`)
        .sort();
    // Somebody deleted the record of an occurrence that was edited and cancelled at once, and the lane's rule is that edits
    // win; or a question waits: an event was made a series of which nothing can be followed.
    const cancelled = new Set(
      [...this.calendar.events].flatMap(([href, { text }]) => program.look(text).flatMap((o) => (o.cancelled ? [placeOf(href, o)] : []))),
    );
    const ofCancelled = new Set(this.store.all.flatMap((p) => (cancelled.has(p.href ?? '') || p.state === 'held' ? [p.recordId] : [])));
    const records = this.records
      .live()
      .filter((r) => !ofCancelled.has(r.id))
      .map(({ fields: f }) => ({ title: f['title'] as string, start: instant(f['start'] as string), end: instant(f['end'] as string) }));
    // A record that a person deleted took its occurrence along; put back on the calendar, the lane follows it no longer.
    const letGo = new Set([
      ...this.store.verdicts.flatMap((v) => (v.verdict?.reason === 'no longer followed' ? [v.href] : [])),
      ...this.store.all.flatMap((p) => (p.state === 'unlinked' ? [p.href] : [])),
    ]);
    const events = [...this.calendar.events].flatMap(([href, { text }]) =>
      program.look(text).filter((o) => !o.cancelled && !letGo.has(placeOf(href, o))),
    );
    return { records: lines(records), events: lines(events) };
  }

  async settle(): Promise<void> {
    for (let i = 0; i < 4; i++) await this.run(i !== 1, false);
  }

  /** In peace both sides say the same, nothing more is written, and an audit adds up. */
  async checkPeace(): Promise<void> {
    // No day begins in between, on which another occurrence would enter the window.
    this.now = (this.#today + DAY + 9 * 3600) * 1000;
    await this.settle();
    const written = this.calendar.writes.length + this.records.writes.length;
    const foreseen = await forecast(this.#work, 'sweep');
    if (foreseen.operations.length > 0)
      throw new Wrong(`no peace: ${foreseen.operations.map((o) => `${o.kind} ${o.pair.href} (${o.cause})`).join('; ')}`);
    await this.run(true, false);
    await this.run(false, false);
    if (this.calendar.writes.length + this.records.writes.length > written) throw new Wrong('no peace: something is written again and again');
    const { records, events } = this.sides();
    const missing = without(events, records);
    const more = without(records, events);
    const failed = this.store.verdicts.find((v) => v.verdict?.reason === 'unexpected error');
    if (failed !== undefined) throw new Wrong(`Monsoon failed at ${failed.href ?? failed.recordId}: ${failed.verdict!.value}`);
    if (missing.length + more.length > 0)
      throw new Wrong(
        `the calendar has ${missing.join(', ') || 'nothing more'}; the records have ${more.join(', ') || 'nothing more'}; left out: ${this.store.verdicts.map((v) => `${v.href ?? v.recordId} ${v.verdict!.reason} ${v.verdict!.value}`).join('; ')}`,
      );
    const { addsUp, counts } = await auditSides(this.#work);
    if (!addsUp) throw new Wrong(`an audit does not add up: ${JSON.stringify(counts)}`);
    for (const [href, { text }] of this.calendar.events)
      if (this.#kept.has(href) && !text.includes('X-KEPT:')) throw new Wrong(`${href} has lost a property that Monsoon must leave alone`);
  }

  /** A whole series is dragged, in peace: its records are the same ones afterwards. */
  async checkDrag(): Promise<void> {
    // Days that are left out or cancelled come to lie on others by a drag: then one record may go for another.
    const isPlain = (text: string) => !/RECURRENCE-ID|EXDATE/.test(text) && program.look(text).length > 1;
    const series = [...this.calendar.events].filter(([, { text }]) => isPlain(text) && program.ruleOf(program.open(text)) !== null);
    if (series.length === 0) return;
    const [href, { text }] = this.random.pick(series);
    const by = this.random.pick([1, 2, -1]);
    const dragged = program.drag(text, by, 0, true);
    // Not every month has a 31st: by such a day a series has its occurrences in other months.
    const starts = program.look(text).map((o) => o.start + by * DAY);
    if (program.look(dragged).length !== starts.length || !program.look(dragged).every((o, i) => Math.abs(o.start - starts[i]!) <= 3600)) return;
    this.#log(`in peace: ${href} is dragged by ${by} days`);
    this.calendar.put(href, dragged);
    const from = this.store.journal.length;
    await this.run(false, false);
    // What was removed stands nowhere any more: its UID says of which series it was.
    const uid = program.valueIn(program.open(text).master!, 'UID');
    const gone = this.store.journal.slice(from).find((e) => e.kind === 'remove record' && e.pair.uid.startsWith(`${uid}#`));
    if (gone !== undefined) throw new Wrong(`a series was dragged, and ${gone.pair.label} (${gone.pair.recordId}) was removed: ${gone.cause}`);
  }

  /** One record is edited, or deleted, in peace: its occurrence says the same, or is excluded, and the others are as they were. */
  async checkEdit(): Promise<void> {
    const pairs = this.store.all.filter(
      (p) => p.state === 'in sync' && p.href?.includes('#') === true && this.records.rows.get(p.recordId!)?.item != null,
    );
    if (!this.both || pairs.length === 0) return;
    const { recordId, href } = this.random.pick(pairs);
    const object = href!.slice(0, href!.indexOf('#'));
    const look = () => new Map(program.look(this.calendar.events.get(object)?.text ?? '').map((o) => [placeOf(object, o), JSON.stringify(o)]));
    const before = look();
    // Out of the window both sides stay as they are.
    const start = program.look(this.calendar.events.get(object)?.text ?? '').find((o) => placeOf(object, o) === href)?.start ?? 0;
    if (start < this.#today - (BEHIND - 3) * DAY || start > this.#today + (AHEAD - 3) * DAY) return;
    const drops = this.random.chance(0.5);
    const title = `T${++this.#n}`;
    this.#log(`in peace: ${recordId} (${href}) is ${drops ? 'deleted' : `called ${title}`}`);
    if (drops) this.records.drop(recordId!);
    else this.records.put(recordId!, { title });
    await this.run(drops, false);
    const after = look();
    const own = after.get(href!);
    if (drops ? own !== undefined : own === undefined || !own.includes(`"${title}"`))
      throw new Wrong(`${recordId} was ${drops ? 'deleted' : `called ${title}`}, and the calendar has ${own ?? 'nothing'} at ${href}`);
    const others = (all: Map<string, string>) => [...all].filter(([place]) => place !== href).sort();
    if (JSON.stringify(others(before)) !== JSON.stringify(others(after)))
      throw new Wrong(`an edit of ${recordId} changed other occurrences of ${object}`);
  }

  /** A live lane leaves series out, and takes them again: nothing is doubled, and the forecast said what goes. */
  async checkSwitch(): Promise<void> {
    for (const choice of ['leave out', this.#takes] as const) {
      this.repeating = choice;
      this.version++;
      const foreseen = await forecast(this.#work, 'sweep');
      const before = this.records.writes.length;
      await this.run(true, false);
      const removed = this.records.writes.slice(before).filter((w) => w.call === 'remove').length;
      if (removed !== foreseen.counts.removed)
        throw new Wrong(`"${choice}" removed ${removed} records, and the forecast said ${foreseen.counts.removed}`);
    }
  }

  passTime(): void {
    this.now += this.random.below(6) * DAY * 1000;
  }
}

const recordRules = ['FREQ=WEEKLY', 'FREQ=WEEKLY;COUNT=4', 'FREQ=WEEKLY;INTERVAL=2', 'FREQ=DAILY;INTERVAL=3;COUNT=5', 'FREQ=MONTHLY'];

/** The series that a record describes. */
function textOf(record: Readonly<Record<string, unknown>>): string {
  const [start, end] = [record['start'], record['end']].map((v) => program.londonWall(instant(v as string)));
  const text = program.write(
    'of a record',
    record['title'] as string,
    start!,
    (end! - start!) / 60,
    false,
    (record['rule'] as string | null) ?? null,
  );
  const days = ((record['without'] as string | null) ?? '').split(', ').filter((day) => day !== '');
  return days.reduce((series, day) => program.excludeDay(series, day), text);
}

const placeOf = (href: string, { id }: program.Seen): string => (id === null ? href : `${href}#${program.stamp(id)}Z`);

/** Elements of one list that the other lacks, each as often as it has more of them. */
function without(all: readonly string[], others: readonly string[]): string[] {
  const left = [...others];
  return all.filter((line) => {
    const at = left.indexOf(line);
    if (at >= 0) left.splice(at, 1);
    return at < 0;
  });
}

/** A time as records hold it (RFC 9557). */
function said(at: number): string {
  const wall = program.londonWall(at);
  return `${new Date(wall * 1000).toISOString().slice(0, 19)}${wall === at ? '+00:00' : '+01:00'}[Europe/London]`;
}
const instant = (text: string): number => Date.parse(text.replace(/\[.*$/, '')) / 1000;

/** A history of series by the number that it is drawn with, for those that are kept. */
export interface SeriesHistory {
  series: number;
  takes: Repeating;
}

/** @throws Wrong */
export async function playSeries(seed: number, log: Log = () => undefined, takes: Repeating = 'each occurrence'): Promise<{ played: Played }> {
  const world = new SeriesWorld(seed, takes, log);
  const steps = 6 + world.random.below(14);
  for (let i = 0; i < steps; i++) {
    for (let acts = world.random.below(3); acts >= 0; acts--) world.act();
    if (world.random.chance(0.15)) world.passTime();
    if (world.random.chance(0.8)) await world.run(world.random.chance(0.2), world.random.chance(0.4));
    if (world.random.chance(0.15)) {
      await world.settle();
      if (takes === 'each occurrence') {
        await world.checkDrag();
        await world.settle();
        await world.checkEdit();
      }
    }
  }
  await world.checkPeace();
  if (world.random.chance(0.3)) {
    await world.checkSwitch();
    await world.checkPeace();
  }
  return { played: world.played };
}
