import { type ItemVerdict, type Pair, placeOf } from '@monsoon/core';
import type { Batch, Cursors, JudgedItem, KnownSeries, NewHold, PairQuery, RunStore, Waiting } from '../../packages/service/src/run/store.ts';

type Verdict = NonNullable<Batch['verdicts']>[number];
type Entry = NonNullable<Batch['entries']>[number];

interface StoredHold extends Omit<NewHold, 'pair'> {
  pair: string;
  recordId: string | null;
  href: string | null;
  state: 'open' | 'settled' | 'done' | 'void';
  choice: string | null;
}

/** The database did not take a statement, or did and its answer was lost. */
export class FailedStatement extends Error {
  readonly done: boolean;
  constructor(moment: 'before' | 'after') {
    super(`a statement failed ${moment} it took effect`);
    this.done = moment === 'after';
  }
}

/** The memory of a lane's runs, in memory: what the database keeps over a crash. Frozen, so that nobody changes what is stored by changing what was read. */
export class MemoryStore implements RunStore {
  readonly #pairs = new Map<string, Pair>();
  #cursors: Cursors = { records: null, calendar: null };
  readonly #verdicts = new Map<string, Verdict>();
  #listedEvents = new Map<string, string | null>();
  #listedRecords = new Set<string>();
  readonly #series = new Map<string, KnownSeries>();
  readonly journal: Entry[] = [];
  #intents: Entry[] = [];
  readonly questions: StoredHold[] = [];
  /** called before anything is written and after: a crash, or a failing statement, is thrown here */
  crash: (moment: 'before' | 'after') => void = () => undefined;

  get verdicts(): Verdict[] {
    return [...this.#verdicts.values()];
  }
  get all(): Pair[] {
    return [...this.#pairs.values()];
  }

  /** The lanes of histories do not invite. */
  guests = async () => [];
  mailsToday = async () => new Map<string, number>();
  waiting = async (now: string): Promise<Waiting> => ({
    unfinished: (await this.pairs({ unfinished: true })).length > 0,
    creating: (await this.pairs({ states: ['creating'] })).length > 0,
    due: this.verdicts.some((v) => isDue(v, now)),
    settled: (await this.holds('settled')).length > 0,
    candidates: (await this.holds('several candidates')).length > 0,
  });
  cursors = async (): Promise<Cursors> => ({ ...this.#cursors });
  async moveCursors(moved: Partial<Cursors>): Promise<void> {
    this.crash('before');
    this.#cursors = { ...this.#cursors, ...moved };
  }
  series = async (hrefs: string[]) => hrefs.flatMap((h) => this.#series.get(h) ?? []);
  growingSeries = async (before: string) => [...this.#series.values()].filter((s) => s.nextAt !== null && s.nextAt < before);
  async keepSeries(known: KnownSeries[], gone: string[]): Promise<void> {
    this.crash('before');
    for (const href of gone) this.#series.delete(href);
    for (const one of known) this.#series.set(one.href, Object.freeze(one));
    this.crash('after');
  }
  async pairs(which: PairQuery): Promise<Pair[]> {
    const all = { filter: (wanted: (p: Pair) => boolean) => [...this.#pairs.values()].filter(wanted) };
    if ('unfinished' in which) return all.filter((p) => p.recordId === null && ['creating', 'unconfirmed', 'held'].includes(p.state));
    if ('states' in which) return all.filter((p) => which.states.includes(p.state));
    if ('records' in which) return all.filter((p) => p.recordId !== null && which.records.includes(p.recordId));
    if ('hrefs' in which) return all.filter((p) => p.href !== null && which.hrefs.includes(p.href));
    if ('objects' in which) return all.filter((p) => p.href !== null && which.objects.includes(objectOf(p.href)));
    return 'uids' in which ? all.filter((p) => which.uids.includes(p.uid)) : all.filter((p) => which.ids.includes(p.id));
  }
  async *allPairs(): AsyncIterable<Pair[]> {
    yield this.all;
  }
  countPairs = async () => this.all.filter((p) => p.state !== 'unlinked' && p.state !== 'removed').length;
  #names(verdicts: Verdict[]) {
    return {
      records: verdicts.flatMap((v) => v.recordId ?? []),
      hrefs: verdicts.flatMap((v) => (v.recordId === null && v.href !== null ? [v.href] : [])),
    };
  }
  due = async (now: string) => this.#names(this.verdicts.filter((v) => isDue(v, now)));
  setAside = async () => this.#names(this.verdicts.filter((v) => ['refused by the system', 'duplicate UID'].includes(v.verdict!.reason)));
  attempts = async (item: { recordId: string | null; href: string | null; moment: string }) => {
    const verdict = this.#verdicts.get(verdictKey(item))?.verdict;
    return { count: verdict?.attempts ?? 0, recheckAt: verdict?.recheckAt ?? null };
  };
  async holds(which: { pairs: string[] } | 'settled' | 'several candidates') {
    return this.questions
      .filter((q) => {
        const stands = q.state === 'open' || q.state === 'settled';
        if (which === 'settled') return q.state === 'settled';
        return which === 'several candidates' ? stands && q.question === which && q.recordId !== null : stands && which.pairs.includes(q.pair);
      })
      .map((q) => ({
        pair: q.pair,
        recordId: q.recordId,
        href: q.href,
        question: q.question,
        asked: q.asked,
        choices: q.choices,
        choice: q.state === 'settled' ? q.choice : null,
      }));
  }
  intents = async () => [...this.#intents];
  progress = async () => undefined;
  checkLease = () => undefined;
  async write(batch: Batch): Promise<void> {
    this.crash('before');
    for (const pair of batch.pairs ?? []) {
      const twin = [...this.#pairs.values()].find(
        (p) => p.id !== pair.id && p.recordId !== null && p.recordId === pair.recordId && p.moment === pair.moment,
      );
      if (twin !== undefined) throw new Error(`two pairs for ${pair.recordId} ${pair.moment}`);
      this.#pairs.set(pair.id, Object.freeze(pair));
      if (pair.state === 'held') continue;
      for (const q of this.questions)
        if (q.pair === pair.id && (q.state === 'open' || q.state === 'settled')) q.state = q.state === 'settled' ? 'done' : 'void';
    }
    for (const { pair, changes } of batch.attempts ?? []) {
      const known = this.#pairs.get(pair.id);
      if (known !== undefined) this.#pairs.set(pair.id, Object.freeze({ ...known, attempted: [...(known.attempted ?? []), ...changes] }));
    }
    if (batch.answered === true) this.#intents = [];
    this.#intents.push(...(batch.intents ?? []));
    this.journal.push(...(batch.entries ?? []));
    for (const verdict of batch.verdicts ?? []) {
      if (verdict.verdict === null) this.#verdicts.delete(verdictKey(verdict));
      else this.#verdicts.set(verdictKey(verdict), Object.freeze(verdict));
    }
    for (const { pair, ...hold } of batch.holds ?? []) {
      for (const q of this.questions) if (q.pair === pair.id && (q.state === 'open' || q.state === 'settled')) q.state = 'void';
      this.questions.push({ ...hold, pair: pair.id, recordId: pair.recordId, href: pair.href, state: 'open', choice: null });
    }
    this.crash('after');
  }

  async beginSweep(): Promise<void> {
    this.#listedEvents = new Map();
    this.#listedRecords = new Set();
  }
  async endSweep(): Promise<void> {
    await this.beginSweep();
  }
  async stageEvents(events: { href: string; etag: string | null }[]): Promise<void> {
    for (const { href, etag } of events) this.#listedEvents.set(href, etag);
  }
  async stageRecords(ids: string[]): Promise<void> {
    for (const id of ids) this.#listedRecords.add(id);
  }
  listed = async (hrefs: string[]) =>
    new Map(hrefs.flatMap((href) => (this.#listedEvents.has(href) ? [[href, this.#listedEvents.get(href) ?? null] as const] : [])));
  async *unlistedPairs(): AsyncIterable<Pair[]> {
    yield [...this.#pairs.values()].filter(
      (p) => p.recordId !== null && p.state !== 'unlinked' && p.state !== 'removed' && !this.#listedRecords.has(p.recordId),
    );
  }
  #judged = (): JudgedItem[] =>
    this.verdicts.map(({ recordId, href, moment, label }) => ({ recordId, href: recordId === null ? href : null, moment, label }));
  async *judged(): AsyncIterable<JudgedItem[]> {
    yield this.#judged();
  }
  async *staleVerdicts(): AsyncIterable<JudgedItem[]> {
    yield this.#judged().filter((v) => (v.recordId !== null ? !this.#listedRecords.has(v.recordId) : !this.#listedEvents.has(v.href ?? '')));
  }
  async *unknownEvents(): AsyncIterable<string[]> {
    const known = new Set([...this.#pairs.values()].map((p) => p.href));
    yield [...this.#listedEvents.keys()].filter((href) => !known.has(href)).sort();
  }
  async countListed() {
    const known = new Set(this.all.filter((p) => p.state !== 'unlinked' && p.state !== 'removed').map((p) => p.href));
    const standing = this.all.filter((p) => ['in sync', 'held'].includes(p.state) && p.href !== null && p.recordId !== null);
    const listed = new Set([...this.#listedEvents.keys()].map(objectOf));
    const there = standing.filter((p) => listed.has(objectOf(p.href!))).length;
    return {
      standing: standing.length,
      there,
      events: this.#listedEvents.size,
      unknown: [...this.#listedEvents.keys()].filter((href) => !known.has(href)).length,
    };
  }

  /** A person's answer. */
  settle(hold: StoredHold, choice: string): void {
    hold.state = 'settled';
    hold.choice = choice;
  }
}

/** By the clock: a fraction of a second is written or not. */
const isDue = ({ verdict }: ItemVerdict, now: string): boolean => verdict?.recheckAt != null && Date.parse(verdict.recheckAt) <= Date.parse(now);

const objectOf = (href: string): string => placeOf(href).object;

const verdictKey = (item: { recordId: string | null; href: string | null; moment: string }) =>
  JSON.stringify([item.recordId ?? '', item.recordId === null ? item.href : '', item.moment]);
