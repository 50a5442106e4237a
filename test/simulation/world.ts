import { type Collection, plan as enginePlan, type LaneContext, type LaneDefinition } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { OutsideError } from '@monsoon/systems';
import { type Executed, execute } from '../../packages/service/src/run/execute.ts';
import type { Scope } from '../../packages/service/src/run/gather.ts';
import type { RunStore } from '../../packages/service/src/run/store.ts';
import { executeUndo, prepareUndo } from '../../packages/service/src/run/undo.ts';
import type { DoneToPair } from '../../packages/service/src/storage/journal-of.ts';
import { type Edit, laneOf, type Setting, type Step, tags } from './history.ts';
import { MemoryStore } from './memory-store.ts';
import { MemoryCalendar, MemoryRecords } from './memory-systems.ts';
import { Random } from './random.ts';

const zones = loadZones();
const london = zones.find('Europe/London')!;

const LANE = '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11';

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

/** What a person wrote last in a field, on one side. */
export interface LastEdit {
  side: 'record' | 'event';
  id: string;
  field: 'title' | 'when';
  /** a title; an instant in seconds; a day */
  value: string | number;
}

/** Times that people give: quarter hours from a day on, among them the nights on which clocks change. */
const timeOf = (n: number): number => {
  const day = n % 11 === 0 ? Date.UTC(2026, 9, 24, 22) : n % 13 === 0 ? Date.UTC(2027, 2, 27, 22) : Date.UTC(2026, 11, 1, 8);
  return day / 1000 + n * 900;
};
const compact = (seconds: number) => new Date(seconds * 1000).toISOString().replace(/[-:]|\.\d+/g, '');

export type Planner = typeof enginePlan;

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
  /** pairs of which anything was ever taken back */
  readonly undoneOnce = new Set<string>();
  /** both sides as they were before the last run, and where the journal ended then; null once anybody did anything since */
  #before: { journal: number; sides: Sides } | null = null;
  /** the last undo, for the checker */
  takenBack: { before: Sides; impossible: string[]; ended: Executed['state'] } | null = null;
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

  get context(): LaneContext {
    return {
      lane: this.#lane,
      definition: this.definition,
      version: this.version,
      collection: { name: 'items', label: 'Items', fields, may: { create: true, change: true, remove: true }, retries: this.setting.retries },
      zone: london,
      zones,
      now: new Date(this.now).toISOString(),
    };
  }

  /** One run with one fault at a given call; a crash ends it like a power cut. */
  async run(scope: Scope, fault: (Step & { do: 'run' }) | null = null, allowed: Executed['damage'] = null): Promise<Executed | null> {
    this.now += 20 * 60_000;
    this.#before = (fault?.fault ?? 'none') === 'none' ? { journal: this.store.journal.length, sides: this.sides() } : null;
    this.#arrange(fault);
    // As the service does: a new version, and a lane that never saw everything, begin with a sweep.
    const whole = scope === 'sweep' || (typeof scope === 'string' && this.#swept !== this.version);
    try {
      const ended = await execute(
        this.context,
        { records: this.records, calendars: this.calendar },
        this.#runStore,
        whole ? 'sweep' : scope,
        allowed,
        new AbortController().signal,
        this.#planner,
        // Small, so that chunks follow each other as they do in large lanes.
        this.setting.chunk,
      );
      if (whole && ended.state === 'done') this.#swept = this.version;
      return ended;
    } catch (error) {
      if (error instanceof Crash) return null;
      throw error;
    } finally {
      this.#arrange(null);
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
      kind === 'make' ? events.has(pair.href ?? '') : kind === 'make record' && records.has(pair.recordId ?? ''),
    );
    const done = new Map<string, DoneToPair>();
    const writing = ['make', 'make record', 'change', 'adopt', 'remove', 'remove record', 'part', 'attempt'];
    for (const { pair, kind, changes, removed } of entries.reverse()) {
      if (!writing.includes(kind) && !(kind === 'hold' && changes.some((c) => c.seen !== true))) continue;
      const { id, recordId, href, moment, label } = pair;
      const known = done.get(id) ?? { pair: id, recordId, href, moment, label, done: [], writtenSince: false };
      known.done.push({ kind, changes, removed });
      done.set(id, known);
    }
    const systems = { records: this.records, calendars: this.calendar };
    const signal = new AbortController().signal;
    const what: Parameters<typeof executeUndo> = [this.context, systems, this.#runStore, [...done.values()], 'undo of a run', false, signal];
    const { impossible } = await prepareUndo(...what);
    const { state } = await executeUndo(...what);
    for (const id of done.keys()) this.undoneOnce.add(id);
    for (const id of done.keys()) for (const field of ['title', 'when', 'tags']) this.undone.add(`${id} ${field}`);
    const reasons = [...impossible.map((i) => i.reason), ...(early ? ['it was made before that run'] : [])];
    this.takenBack = { before: before.sides, impossible: reasons, ended: state };
  }

  #arrange(step: (Step & { do: 'run' }) | null): void {
    let calls = 0;
    let crashed = false;
    const kind = step?.fault ?? 'none';
    const due = () => step !== null && kind !== 'none' && calls++ === step.after;
    const crash = () => {
      crashed = true;
      throw new Crash();
    };
    const mischief = (call: string, moment: 'before' | 'after') => {
      if (crashed) throw new Crash();
      if (step === null || kind === 'none') return;
      if (kind === 'crash' && due()) crash();
      if (kind === 'lost before' && moment === 'before' && due()) throw new OutsideError('timed out', 'no answer in time');
      if (kind === 'lost after' && moment === 'after' && due()) throw new OutsideError('timed out', 'no answer in time');
      if (kind === 'broken' && moment === 'before' && due()) throw new OutsideError('broken', 'a 500');
      if (kind === 'throttled' && moment === 'before' && due()) throw new OutsideError('throttled', 'a 429', { retryAfter: 30 });
      if (kind === 'meddle' && due()) this.edit(step.meddle);
      if (kind === 'meddle always' && moment === 'before' && call.startsWith('change'))
        this.edit({ ...step.meddle, n: step.meddle.n * 1000 + ++calls });
    };
    this.calendar.mischief = mischief;
    this.records.mischief = mischief;
    this.store.crash = () => {
      if (crashed || (kind === 'crash' && due())) crash();
    };
  }

  async take(step: Step): Promise<void> {
    this.now += 5 * 60_000;
    this.takenBack = null;
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
      if (step.again !== null) this.edit(step.again);
    } else if (step.do === 'undo') await this.#undo();
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
    else this.edit(step);
  }

  ours = (): [string, string][] => [...this.calendar.events].filter(([href]) => href !== '/c/foreign.ics').map(([href, e]) => [href, e.text]);

  #note(side: LastEdit['side'], id: string, field: LastEdit['field'], value: string | number, changed = true): void {
    this.last.set(`${side} ${id} ${field}`, { side, id, field, value });
    if (changed) this.#followAgain(side, id, field);
  }

  /** Does a pair stand apart in this field because a person took a run back? */
  apart(pair: { id: string; recordId: string | null }, field: string): boolean {
    if (this.undone.has(`${pair.id} ${field}`)) return true;
    // A record without its length has no time that could be told from none: what an undo left so is not revised.
    const length = this.records.rows.get(pair.recordId ?? '')?.item?.fields['length'] ?? null;
    return field === 'when' && this.undoneOnce.has(pair.id) && 'length' in this.definition.moments[0]!.when && length === null;
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
  #forget(side: LastEdit['side'], id: string): void {
    for (const field of ['title', 'when']) this.last.delete(`${side} ${id} ${field}`);
  }

  /** What a person does, on either side. */
  edit(step: Edit): void {
    const { n } = step;
    const title = `T${n} ${['Marsh', 'Quill', 'Rooke', 'Venn'][n % 4]}`;
    if (step.do === 'new record' || step.do === 'twins') {
      const id = `R${n}`;
      this.records.put(id, {
        title,
        start: this.#wall(timeOf(n)),
        length: 60,
        status: 'open',
        tags: [],
        ...(n % 3 === 0 ? { follow: this.#wall(timeOf(n) + 86_400) } : {}),
      });
      this.#note('record', id, 'title', title);
      this.#note('record', id, 'when', timeOf(n));
    }
    if (step.do === 'new event' || step.do === 'twins') {
      const href = `/c/E${n}.ics`;
      const clock = this.setting.alike && step.do === 'twins' ? (at: number) => `;TZID=Europe/London:${this.#wall(at).replace(/[-:]/g, '')}` : utc;
      this.calendar.put(href, newEvent(`E${n}`, title, timeOf(n), compact(this.now / 1000 + this.setting.skew.calendar), clock));
      this.#note('event', href, 'title', title);
      this.#note('event', href, 'when', timeOf(n));
    }
    if (!('at' in step)) return;
    if (step.do.endsWith('record')) this.#editRecord(step, title);
    else this.#editEvent(step, title);
  }

  #editRecord(step: Edit & { at: number }, title: string): void {
    const rows = this.records.live();
    const row = rows[step.at % Math.max(1, rows.length)];
    if (row === undefined) return;
    const { n } = step;
    const put = (f: Parameters<MemoryRecords['put']>[1]) => this.records.put(row.id, f);
    if (step.do === 'title record') {
      put({ title });
      this.#note('record', row.id, 'title', title);
    } else if (step.do === 'move record') {
      put({ start: this.#wall(timeOf(n)) });
      this.#note('record', row.id, 'when', timeOf(n));
    } else if (step.do === 'memo record') {
      put({ memo: `memo ${n}` });
      this.memos.set(row.id, `memo ${n}`);
    } else if (step.do === 'tag record') {
      const now = (row.fields['tags'] as string[] | null) ?? [];
      put({ tags: now.includes(step.tag) ? now.filter((t) => t !== step.tag) : [...now, step.tag] });
    } else if (step.do === 'undate record') {
      put({ start: null });
      this.last.delete(`record ${row.id} when`);
    } else if (step.do === 'finish record') put({ status: 'done' });
    else if (step.do === 'reopen record') put({ status: 'open' });
    else if (step.do === 'drop record') {
      this.records.drop(row.id);
      this.#forget('record', row.id);
    }
  }

  #editEvent(step: Edit & { at: number }, title: string): void {
    const events = this.ours();
    const found = events[step.at % Math.max(1, events.length)];
    if (found === undefined) return;
    const [href, text] = found;
    const { n } = step;
    const stamp = `LAST-MODIFIED:${compact(this.now / 1000 + this.setting.skew.calendar)}`;
    const put = (changed: string) => this.calendar.put(href, setLines(changed, [stamp]));
    if (step.do === 'title event') {
      put(setLines(text, [`SUMMARY:${title}`]));
      this.#note('event', href, 'title', title);
    } else if (step.do === 'move event') {
      put(setLines(text, [`DTSTART:${compact(timeOf(n))}`, `DTEND:${compact(timeOf(n) + 3600)}`]));
      this.#note('event', href, 'when', timeOf(n));
    } else if (step.do === 'stretch event') {
      const from = /\r\nDTSTART:(\d{8}T\d{6}Z)/.exec(text)?.[1];
      if (from === undefined) return;
      put(
        setLines(text, [
          `DTEND:${compact(Date.parse(`${from.slice(0, 4)}-${from.slice(4, 6)}-${from.slice(6, 11)}:${from.slice(11, 13)}:${from.slice(13)}`) / 1000 + 900 * (2 + (n % 9)))}`,
        ]),
      );
    } else if (step.do === 'all-day event') {
      const day = new Date(timeOf(n) * 1000).toISOString().slice(0, 10);
      const next = new Date(timeOf(n) * 1000 + 86_400_000).toISOString().slice(0, 10);
      put(setLines(text, [`DTSTART;VALUE=DATE:${day.replaceAll('-', '')}`, `DTEND;VALUE=DATE:${next.replaceAll('-', '')}`]));
      this.#note('event', href, 'when', day, !text.includes(`DTSTART;VALUE=DATE:${day.replaceAll('-', '')}\r`));
    } else if (step.do === 'tag event') {
      const now =
        /^CATEGORIES:(.*)$/m
          .exec(text)?.[1]
          ?.trim()
          .split(',')
          .filter((t) => t !== '') ?? [];
      const next = now.includes(step.tag) ? now.filter((t) => t !== step.tag) : [...now, step.tag];
      put(setLines(text, [`CATEGORIES:${next.join(',')}`]));
    } else if (step.do === 'cancel event') put(setLines(text, ['STATUS:CANCELLED']));
    else if (step.do === 'hide event') put(setLines(text, ['CLASS:PRIVATE']));
    else if (step.do === 'keep event') {
      put(setLines(text, [`X-KEEP:me ${n}`]));
      this.kept.set(href, `X-KEEP:me ${n}`);
    } else if (step.do === 'drop event') {
      this.calendar.drop(href);
      this.kept.delete(href);
      this.#forget('event', href);
    } else if (step.do === 'copy event') {
      const uid = `C${n}`;
      const copy = `/c/${uid}.ics`;
      this.calendar.put(copy, setLines(text, [`UID:${uid}`]));
      this.copies.add(copy);
    }
  }

  /** A plain clock time in London, by the rule itself: summer time from the last Sunday of March to that of October, at 01:00 UTC. */
  #wall = (seconds: number): string => new Date((seconds + londonOffset(seconds)) * 1000).toISOString().slice(0, 19);
}

/** Seconds east of UTC. */
export function londonOffset(seconds: number): number {
  const year = new Date(seconds * 1000).getUTCFullYear();
  const lastSunday = (month: number) => {
    const end = new Date(Date.UTC(year, month + 1, 0, 1));
    return (end.getTime() - end.getUTCDay() * 86_400_000) / 1000;
  };
  return seconds >= lastSunday(2) && seconds < lastSunday(9) ? 3600 : 0;
}

const foreign =
  'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:foreign\r\nDTSTAMP:20261101T000000Z\r\nDTSTART:20261201T090000Z\r\nSUMMARY:Another lane made this\r\nX-MONSOON-LANE:11111111-2222-5333-8444-555555555555\r\nX-MONSOON-PAIR:99999999-2222-5333-8444-555555555555\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n';
export const foreignEvent = foreign;

const utc = (at: number) => `:${compact(at)}`;
const newEvent = (uid: string, title: string, start: number, stamp: string, clock: (at: number) => string) =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:${stamp}\r\nCREATED:${stamp}\r\nLAST-MODIFIED:${stamp}\r\nDTSTART${clock(start)}\r\nDTEND${clock(start + 3600)}\r\nSUMMARY:${title}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;

/** Sets lines of the VEVENT as a calendar program does, and leaves the others. */
function setLines(text: string, lines: string[]): string {
  const at = text.indexOf('BEGIN:VEVENT');
  const end = text.indexOf('END:VEVENT');
  let event = text.slice(at, end);
  for (const line of lines) {
    const name = /^[A-Z-]+/.exec(line)![0];
    event = event.replace(new RegExp(`^${name}[;:].*\\r\\n`, 'gm'), '');
    if (!line.endsWith('CATEGORIES:')) event += `${line}\r\n`;
  }
  return text.slice(0, at) + event + text.slice(end);
}
