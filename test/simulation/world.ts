import { type Audit, type Collection, plan as enginePlan, type LaneContext, type LaneDefinition } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { OutsideError } from '@monsoon/systems';
import { auditSides } from '../../packages/service/src/run/audit.ts';
import { type Executed, execute } from '../../packages/service/src/run/execute.ts';
import type { Scope } from '../../packages/service/src/run/gather.ts';
import { executeStop } from '../../packages/service/src/run/stop.ts';
import type { RunStore } from '../../packages/service/src/run/store.ts';
import { executeUndo, prepareUndo } from '../../packages/service/src/run/undo.ts';
import { laneOf, type Setting, type Step, tags } from './history.ts';
import { FailedStatement, MemoryStore } from './memory-store.ts';
import { collectionOf, MemoryCalendar, MemoryRecords } from './memory-systems.ts';
import { edit, type LastEdit } from './people.ts';
import { Random } from './random.ts';
import { see } from './seeing.ts';
import { journalled, type Played } from './transcript.ts';

const zones = loadZones();
const london = zones.find('Europe/London')!;

export const LANE = '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11';

/** What a second lane shares with a first. */
export interface Neighbour {
  calendar: MemoryCalendar;
  lane: string;
}

/** A crash: nothing in a run may catch it. */
export class Crash extends Error {}

export const fields: Collection['fields'] = [
  { name: 'title', label: 'Title', type: 'text' },
  { name: 'start', label: 'Start', type: 'date-time' },
  { name: 'length', label: 'Length', type: 'duration', unit: 'minutes' },
  { name: 'follow', label: 'Follow-up', type: 'date-time' },
  { name: 'status', label: 'Status', type: 'choice', choices: ['open', 'done'] },
  { name: 'tags', label: 'Tags', type: 'choices', choices: tags },
  { name: 'memo', label: 'Memo', type: 'long text' },
  { name: 'uid', label: 'UID', type: 'text' },
];

/** What names a pair. */
interface Names {
  id: string;
  recordId: string | null;
  href: string | null;
  moment: string;
}

export type Planner = typeof enginePlan;

/** What the lane made of each of these pairs, by its journal. */
export function makingsIn(store: MemoryStore, ids: string[]): Map<string, 'create' | 'create record'> {
  const made = store.journal.filter((e) => ids.includes(e.pair.id) && (e.kind === 'create' || e.kind === 'create record'));
  return new Map(made.map((e) => [e.pair.id, e.kind as 'create' | 'create record']));
}

/** Everything that both systems hold. */
export interface Sides {
  events: Map<string, string>;
  records: Map<string, string>;
}

/** Both systems, the run's memory, a clock, and people. */
export class World {
  readonly setting: Setting;
  readonly calendar: MemoryCalendar;
  readonly records: MemoryRecords;
  readonly store: MemoryStore;
  definition: LaneDefinition;
  version = 1;
  #swept = 0;
  /** every definition that was ever in force: a removal needs the leave of one of them */
  readonly definitions: LaneDefinition[];
  readonly last = new Map<string, LastEdit>();
  readonly copies = new Set<string>();
  readonly kept = new Map<string, string>();
  readonly memos = new Map<string, string>();
  readonly settled: { pair: string; choice: string }[] = [];
  /**
   * What was taken back and not edited since, as pair and field: there both sides stand apart by a person's will. Tags are
   * taken back one by one, and stay apart one by one.
   */
  readonly undone = new Set<string>();
  /** what both sides said then: whoever edits that and edits it back before anybody looks has edited nothing */
  readonly #leftAs = new Map<string, string>();
  /** pairs of which anything was ever taken back */
  readonly undoneOnce = new Set<string>();
  /** both sides as they were before the last run, and where the journal ended then; null once anybody did anything since */
  #before: { journal: number; sides: Sides } | null = null;
  /** the last undo, for the checker */
  takenBack: { before: Sides; impossible: string[]; ended: Executed['state'] } | null = null;
  /** where each run's entries are in the journal */
  readonly runs: { from: number; until: number }[] = [];
  /** undoes of older runs and of entries so far */
  undoes = 0;
  /** the last audit, for the checker */
  audited: Audit | null = null;
  readonly audits: Audit[] = [];
  #listedShort = false;
  now = Date.parse('2026-11-23T08:00:00Z');
  readonly #planner: Planner;
  readonly #runStore: RunStore;
  /** newest first where true: the order in which a system lists is nobody's promise */
  reversed = false;
  /** a fault may have cut off what the journal was about to say */
  uncertain = false;

  readonly #lane: string;

  constructor(setting: Setting, planner: Planner = enginePlan, store?: (memory: MemoryStore) => RunStore, neighbour?: Neighbour) {
    this.setting = setting;
    this.definition = setting.lane;
    this.definitions = [setting.lane];
    this.#planner = planner;
    const trim = (text: string) => (setting.calendarTrims ? text.replace(/^(SUMMARY:.{0,12}).*$/m, '$1') : text);
    this.#lane = neighbour?.lane ?? LANE;
    this.calendar = neighbour?.calendar ?? new MemoryCalendar({ tokens: setting.tokens, contentTags: setting.contentTags, normalise: trim });
    this.records = new MemoryRecords(fields, {
      versions: setting.versions,
      retries: setting.retries,
      tombstones: setting.tombstones,
      normalise: (f) => (setting.recordsTrim && typeof f['title'] === 'string' ? { ...f, title: f['title'].slice(0, 14) } : f),
      now: () => new Date(this.now + setting.skew.records * 1000).toISOString(),
      order: (ids) => (this.reversed ? [...ids].reverse() : ids),
    });
    this.store = new MemoryStore();
    this.#runStore = store?.(this.store) ?? this.store;
    this.calendar.put('/c/foreign.ics', foreign);
  }

  /** The end state, for the transcript. */
  get played(): Played {
    const texts = new Map([...this.calendar.events].map(([href, e]) => [href, e.text]));
    return { context: this.context, systems: { records: this.records, calendars: this.calendar }, store: this.store, texts, audits: this.audits };
  }

  get context(): LaneContext {
    return {
      lane: this.#lane,
      definition: this.definition,
      version: this.version,
      collection: collectionOf(fields, this.setting.retries),
      zone: london,
      zones,
      now: new Date(this.now).toISOString(),
    };
  }

  get #work() {
    const sides = { records: this.records, calendars: this.calendar };
    return { context: this.context, sides, store: this.#runStore, signal: new AbortController().signal };
  }

  /** One run with one fault at a given call; a crash ends it like a power cut. */
  async run(scope: Scope, fault: (Step & { do: 'run' }) | null = null, allowed: Executed['damage'] = null): Promise<Executed | null> {
    this.now += 20 * 60_000;
    const from = this.store.journal.length;
    this.#before = (fault?.fault ?? 'none') === 'none' ? { journal: this.store.journal.length, sides: this.sides() } : null;
    this.#arrange(fault);
    // As the service does: a new version, and a lane that never saw everything, begin with a sweep.
    const whole = scope === 'sweep' || (typeof scope === 'string' && this.#swept !== this.version);
    try {
      const ended = await execute({
        ...this.#work,
        scope: whole ? 'sweep' : scope,
        allowed,
        planner: this.#planner,
        // Small, so that chunks follow each other as they do in large lanes.
        chunk: this.setting.chunk,
      });
      if (whole && ended.state === 'done') this.#swept = this.version;
      if (scope === 'sweep' && ended.state === 'done' && fault === null) this.#listedShort = false;
      return ended;
    } catch (error) {
      // The service notes it, and the next run goes on.
      if (error instanceof Crash || error instanceof FailedStatement) return null;
      throw error;
    } finally {
      this.#arrange(null);
      this.runs.push({ from, until: this.store.journal.length });
    }
  }

  sides = (): Sides => ({
    events: new Map([...this.calendar.events].map(([href, e]) => [href, e.text])),
    records: new Map(this.records.live().map((r) => [r.id, JSON.stringify(r.fields)])),
  });

  /** A person takes back the run that has just ended. */
  async #undo(): Promise<void> {
    const before = this.#before;
    if (before === null) return;
    const entries = this.store.journal.slice(before.journal);
    const { events, records } = before.sides;
    // What an interrupted run had made was there before this run said so.
    const early = entries.some(({ kind, pair }) =>
      kind === 'create' ? events.has(pair.href ?? '') : kind === 'create record' && records.has(pair.recordId ?? ''),
    );
    const done = journalled(this.store, before.journal);
    const undo = { done, cause: 'undo of a run', trial: false };
    const { impossible } = await prepareUndo(this.#work, undo);
    const { state } = await executeUndo(this.#work, undo);
    this.#leave(done.map((d) => d.pair));
    const reasons = [...impossible.map((i) => i.reason), ...(early ? ['it was made before that run'] : [])];
    this.takenBack = { before: before.sides, impossible: reasons, ended: state };
  }

  /** From here on the two sides of these stand apart by a person's will. */
  #leave(ids: string[]): void {
    const undone = new Set(ids);
    for (const id of undone) this.undoneOnce.add(id);
    for (const pair of this.store.all.filter((p) => undone.has(p.id)))
      for (const field of ['title', 'when', 'tags'] as const) {
        this.undone.add(`${pair.id} ${field}`);
        this.#leftAs.set(`${pair.id} ${field}`, this.#saidOf(pair, field));
      }
  }

  #arrange(step: (Step & { do: 'run' }) | null): void {
    let crashed = false;
    let changes = 0;
    const coming = (step === null ? [] : [step, ...(step.second === undefined ? [] : [step.second])])
      .filter((f) => f.fault !== 'none')
      .map(({ fault, after }) => ({ fault, left: after }));
    const wrong = (message: string, trouble: ConstructorParameters<typeof OutsideError>[0]) => new OutsideError(trouble, message);
    const crash = () => {
      crashed = true;
      throw new Crash();
    };
    const mischief = (call: string, moment: 'before' | 'after') => {
      if (crashed) throw new Crash();
      const writes = /^(create|change|remove)/.test(call);
      for (const one of coming) {
        const { fault } = one;
        const due = (when: boolean) => when && one.left-- === 0;
        if (fault === 'crash' && due(true)) crash();
        if (fault === 'lost before' && due(moment === 'before')) throw wrong('no answer in time', 'timed out');
        if (fault === 'lost after' && due(moment === 'after')) throw wrong('no answer in time', 'timed out');
        if (fault === 'broken' && due(moment === 'before')) throw wrong('a 500', 'broken');
        if (fault === 'throttled' && due(moment === 'before')) throw new OutsideError('throttled', 'a 429', { retryAfter: 30 });
        if (fault === 'refused' && due(moment === 'before' && writes)) throw wrong('a 422', 'refused');
        if (fault === 'not authorised' && due(moment === 'before')) throw wrong('a 401', 'not authorised');
        if (fault === 'nonsense' && due(moment === 'before')) throw wrong('a page in HTML', 'nonsense');
        if (fault === 'meddle' && due(true)) edit(this, step!.meddle);
        if (fault === 'meddle always' && moment === 'before' && call.startsWith('change'))
          edit(this, { ...step!.meddle, n: step!.meddle.n * 1000 + ++changes });
      }
    };
    const short = coming.find((f) => f.fault === 'short listing');
    if (short !== undefined) this.#listedShort = true;
    const lacks = (id: string) => short !== undefined && [...id].reduce((sum, c) => sum + c.charCodeAt(0), short.left) % 3 === 0;
    for (const system of [this.calendar, this.records]) Object.assign(system, { mischief, lacks });
    this.store.crash = (moment) => {
      if (crashed) throw new Crash();
      for (const one of coming) {
        const due = (when: boolean) => when && one.left-- === 0;
        if (one.fault === 'crash' && due(moment === 'before')) crash();
        if (one.fault === 'database before' && due(moment === 'before')) throw new FailedStatement('before');
        if (one.fault === 'database after' && due(moment === 'after')) throw new FailedStatement('after');
      }
    };
  }

  /** Did a listing that called itself whole lack items since everything was last seen? What changed in them waits for the next sweep. */
  get listedShort(): boolean {
    return this.#listedShort;
  }

  /** A person takes back an older run, or one entry: what was written since stays, and is listed. */
  async #undoOlder({ at, entry }: Step & { do: 'undo older' }): Promise<void> {
    const run = this.runs[this.runs.length - 1 - (at % Math.max(1, this.runs.length))];
    if (run === undefined || run.from === run.until) return;
    const from = entry === null ? run.from : run.from + (entry % (run.until - run.from));
    const done = journalled(this.store, from, entry === null ? run.until : from + 1);
    await executeUndo(this.#work, { done, cause: 'undo', trial: false });
    this.#leave(done.map((d) => d.pair));
    this.undoes++;
  }

  async audit(): Promise<void> {
    this.audited = await auditSides(this.#work);
    this.audits.push(this.audited);
  }

  /** The lane is stopped for good. */
  async stop(how: 'remove' | 'unlink'): Promise<Executed['state']> {
    return (await executeStop(this.#work, async (ids) => makingsIn(this.store, ids), how)).state;
  }

  async take(step: Step): Promise<void> {
    this.now += 5 * 60_000;
    this.takenBack = null;
    this.audited = null;
    if (step.do !== 'undo') this.#before = null;
    if (step.do === 'run') {
      const ids = [...this.records.rows.keys()];
      const notice = { records: ids.length === 0 ? [] : [ids[step.after % ids.length]!] };
      await this.run(step.scope === 'notice' ? notice : step.scope, step);
    } else if (step.do === 'settle') {
      const open = this.store.questions.filter((q) => q.state === 'open');
      const question = open[step.at % Math.max(1, open.length)];
      if (question !== undefined && question.choices.length > 0) {
        const choice = question.choices[step.choice % question.choices.length]!;
        this.store.settle(question, choice);
        this.settled.push({ pair: question.pair, choice });
      }
      if (step.again !== null) edit(this, step.again);
    } else if (step.do === 'undo') await this.#undo();
    else if (step.do === 'undo older') await this.#undoOlder(step);
    else if (step.do === 'audit') await this.audit();
    else if (step.do === 'expire') this.calendar.expireTokens();
    else if (step.do === 'new version') {
      const fresh = laneOf(new Random(step.seed));
      // The sides and their direction stay; the rules change.
      if (fresh.direction !== this.definition.direction || fresh.moments.length !== this.definition.moments.length) return;
      this.definition = { ...fresh, link: this.definition.link, guard: this.definition.guard };
      this.definitions.push(this.definition);
      this.version++;
      await this.run('sweep');
    } else if (step.do === 'pause') this.now += 3 * 3_600_000;
    else edit(this, step);
  }

  ours = (): [string, string][] => [...this.calendar.events].filter(([href]) => href !== '/c/foreign.ics').map(([href, e]) => [href, e.text]);

  /** A person wrote a value. */
  note(side: LastEdit['side'], id: string, field: LastEdit['field'], value: string | number, changed = true): void {
    this.last.set(`${side} ${id} ${field}`, { side, id, field, value });
    if (changed) this.#followAgain(side, id, field);
  }

  /** Does a pair stand apart in this field because a person took a run back? */
  apart(pair: Names, field: 'title' | 'when' | 'tags'): boolean {
    const key = `${pair.id} ${field}`;
    if (this.undone.has(key) || this.#leftAs.get(key) === this.#saidOf(pair, field)) return true;
    // A record without its length has no time that could be told from none: what an undo left so is not revised.
    const length = this.records.rows.get(pair.recordId ?? '')?.item?.fields['length'] ?? null;
    return field === 'when' && this.undoneOnce.has(pair.id) && 'length' in this.definition.moments[0]!.when && length === null;
  }

  #saidOf({ recordId, href, moment }: Names, field: 'title' | 'when' | 'tags'): string {
    const fields = this.records.rows.get(recordId ?? '')?.item?.fields ?? {};
    const text = this.calendar.events.get(href ?? '')?.text;
    const event = text === undefined ? null : see(text);
    const dates = moment === 'follow' ? [fields['follow']] : [fields['start'], fields['length']];
    return JSON.stringify(field === 'when' ? [dates, event?.start] : [fields[field], event?.[field]]);
  }

  /** Whoever edits what was taken back has the word from then on. */
  #followAgain(side: LastEdit['side'], id: string, field: string): void {
    for (const pair of this.store.all) {
      // The follow-up has a date of its own, which nobody moves.
      if (side === 'record' && field === 'when' && pair.moment !== 'visit') continue;
      if ((side === 'record' ? pair.recordId : pair.href) === id) this.undone.delete(`${pair.id} ${field}`);
    }
  }

  /** Who deletes an item supersedes what was written in it. */
  forget(side: LastEdit['side'], id: string, fields: LastEdit['field'][] = ['title', 'when']): void {
    for (const field of fields) this.last.delete(`${side} ${id} ${field}`);
  }
}

const foreign =
  'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:foreign\r\nDTSTAMP:20261101T000000Z\r\nDTSTART:20261201T090000Z\r\nSUMMARY:Another lane made this\r\nX-MONSOON-LANE:11111111-2222-5333-8444-555555555555\r\nX-MONSOON-PAIR:99999999-2222-5333-8444-555555555555\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n';
export const foreignEvent = foreign;
