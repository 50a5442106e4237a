import { type EventView, isFollowed, type LaneContext, type Pair, type RecordItem, type Refused, takenByAnswers, type When } from '@monsoon/core';
import type { RecordPage } from '@monsoon/systems';
import { BatchReader, type GatheredBatch } from './batch-reader.ts';
import { changedEvents } from './changed-events.ts';
import { chunks } from './chunks.ts';
import { findCreateCandidates } from './create-candidates.ts';
import { storableEvents, storableRecords } from './names.ts';
import { oldEvents } from './old-events.ts';
import { prefetch } from './prefetch.ts';
import type { Cursors, ItemNames, JudgedItem, RunStore, Waiting } from './store.ts';
import type { OpenWork } from './work.ts';

/**
 * What a run looks at: everything, where an ETag says that an event is as it was (`sweep`) or reading every event again
 * (`audit`); what changed on both sides; what changed in the records; or some items alone.
 */
export type Scope = 'audit' | 'sweep' | 'changes' | 'records' | ({ records: string[] } & Partial<ItemNames>);

/** Most items that are looked at together: planning them holds up whatever else is being written. */
const BATCH = 100;

/** Fewer than these may all be deleted by people between two runs. */
const FEW = 5;

const REPLACED = 'the calendar was deleted and created again at the same address, so missing events are no deletions';
const allGone = (count: number, what: 'events' | 'records'): string =>
  `all ${count} ${what} that the lane follows are gone at once: this is probably an accident`;

/** Did it stand on both sides when it was last seen? */
const stoodThere = ({ state, href, recordId }: Pair): boolean => (state === 'in sync' || state === 'held') && href !== null && recordId !== null;

/** One reading of both sides, batch by batch: each item is planned from the truth about it, and then forgotten. */
export class Gathering {
  /** where to go on next time, once everything behind them is durable */
  readonly cursors: Partial<Cursors> = {};
  /** why nothing that was found may be taken for a deletion until a person says so */
  readonly alarms: string[] = [];
  /** after an audit: how many events were listed, and how many of them no followed pair speaks of */
  listed = { events: 0, unknown: 0 };
  /** waits until everything that was planned so far is committed; set by the run */
  settled: () => Promise<void> = async () => undefined;
  readonly #work: OpenWork;
  readonly #context: LaneContext;
  readonly #sides: OpenWork['sides'];
  readonly #store: RunStore;
  readonly #scope: Scope;
  readonly #signal: AbortSignal;
  readonly #read: BatchReader;
  /** items that no run could know again by their name */
  readonly #refused: Refused[] = [];
  /** hrefs of events that no pair speaks of; null: the staging knows them */
  #unknown: string[] | null = [];
  #unpairedRead = false;
  /** was the calendar listed whole? */
  #listedWhole = false;
  /** is an event without a record gone, as far as this look can tell? */
  #gone: (href: string) => boolean = () => false;
  #waiting!: Waiting;

  constructor(work: OpenWork, scope: Scope) {
    const { context, sides, store, signal } = work;
    this.#work = work;
    this.#context = context;
    this.#sides = sides;
    this.#store = store;
    this.#scope = scope;
    this.#signal = signal;
    if (scope === 'audit') work.sides.calendars.beThorough();
    this.#read = new BatchReader(work, scope === 'sweep');
    this.#read.lost.newObjects = () => this.#newObjects();
  }

  get #whole(): boolean {
    return this.#scope === 'sweep' || this.#scope === 'audit';
  }
  get #collection(): string {
    return this.#context.definition.records.collection;
  }
  get #calendar(): string {
    return this.#context.definition.calendar.calendar;
  }

  async *batches(): AsyncIterable<GatheredBatch> {
    this.#waiting = await this.#store.waiting(this.#context.now);
    this.#read.reserved = takenByAnswers(this.#waiting.candidates ? await this.#store.holds('several candidates') : []);
    if (!this.#whole) {
      yield* this.#some();
      return yield* this.#refusals();
    }
    try {
      yield* this.#sweep();
      yield* this.#refusals();
      if (this.#scope === 'audit') this.listed = await this.#store.countListed();
    } finally {
      await this.#store.endSweep();
    }
  }

  /**
   * Reads what else is on the calendar, for records that may have an event already. True when there was something to read.
   * @param uids UIDs that records name as those of their events, and of events that are gone from their address
   * @param whens when those records are that have no event yet
   */
  async readUnpaired(uids: readonly string[], whens: readonly (When | null)[]): Promise<boolean> {
    let found = false;
    const add = async (events: readonly EventView[]) => {
      found ||= events.length > 0;
      const moved = await this.#movedAmong(events);
      // Their texts are read again if they are needed: only what they are known by is kept.
      for (const event of events) this.#read.unpaired.add({ ...event, text: null }, this.#context, moved.has(event.read?.uid ?? ''));
    };
    if (!this.#listedWhole && this.#unknown !== null) {
      const reading = { context: this.#context, calendars: this.#sides.calendars, store: this.#store, signal: this.#signal };
      const unread = uids.filter((uid) => !this.#read.unpaired.has(uid));
      for await (const events of oldEvents(reading, unread, whens)) await add(events);
    }
    if (this.#unpairedRead) return found;
    this.#unpairedRead = true;
    // A notice looks at records alone: what is new on the calendar may be the event that it would make.
    if (typeof this.#scope === 'object' || this.#scope === 'records') await this.#changedEvents((await this.#store.cursors()).calendar, null);
    this.#read.unpaired.complete = this.#listedWhole;
    found ||= this.#listedWhole;
    // An event whose adoption failed has no pair either, and is no news.
    const pages =
      this.#unknown === null ? this.#store.unknownEvents() : paged([...new Set([...this.#unknown, ...(await this.#store.setAside()).hrefs])]);
    for await (const hrefs of pages) await add(await this.#read.readNew(hrefs));
    return found;
  }

  /** UIDs of events that pairs follow at another address, which is gone: no other record may take them for its own. */
  async #movedAmong(events: readonly EventView[]): Promise<ReadonlySet<string>> {
    const uids = events.flatMap(({ read }) => (read === null ? [] : [read.uid]));
    if (uids.length === 0) return new Set();
    const followed = (await this.#store.pairs({ uids })).flatMap((p) => (isFollowed(p) && p.href !== null ? [{ uid: p.uid, href: p.href }] : []));
    if (followed.length === 0) return new Set();
    const there = await this.#sides.calendars.read(
      this.#calendar,
      followed.map((p) => p.href),
      this.#signal,
    );
    return new Set(followed.filter((p) => there.get(p.href) == null).map((p) => p.uid));
  }

  async *#sweep(): AsyncIterable<GatheredBatch> {
    const { calendars } = this.#sides;
    const cursor = (await this.#store.cursors()).calendar;
    if (cursor !== null && !(await calendars.isSame(this.#calendar, cursor, this.#signal))) this.alarms.push(REPLACED);
    await this.#store.beginSweep();
    for await (const page of storableEvents(calendars.changes(this.#calendar, null, this.#signal), this.#refused)) {
      for (const part of chunks(page.changed, 5000)) await this.#store.stageEvents(part);
      if (page.cursor !== undefined) this.cursors.calendar = page.cursor;
    }
    this.#unknown = null;
    this.#listedWhole = true;
    const { standing, there } = await this.#store.countListed();
    if (standing >= FEW && there === 0) this.alarms.push(allGone(standing, 'events'));
    yield* this.#unfinishedPairs(() => true);
    await this.#noteDue();
    yield* prefetch(this.#listedRecords());
    // Their verdicts stay as long as they are listed.
    await this.#store.stageRecords(this.#refused.flatMap((r) => r.recordId ?? []));
    await this.settled();
    // A record that a complete listing lacks is not deleted until a direct read says so.
    const missing = new Set<string>();
    let unlisted = 0;
    for await (const pairs of this.#store.unlistedPairs()) {
      unlisted += pairs.filter(stoodThere).length;
      for (const { recordId } of pairs) if (recordId !== null) missing.add(recordId);
    }
    if (unlisted >= FEW && unlisted === standing) this.alarms.push(allGone(unlisted, 'records'));
    for await (const items of this.#store.staleVerdicts()) {
      for (const { recordId } of items) if (recordId !== null) missing.add(recordId);
      yield this.#goneEvents(items);
    }
    for (const part of chunks([...missing], BATCH)) yield await this.#read.batch(await this.#read.readRecords(part));
    yield* this.#newcomers([]);
  }

  async *#listedRecords(): AsyncGenerator<GatheredBatch> {
    for await (const page of this.#pull(null)) {
      await this.#store.stageRecords([...page.items.map((i) => i.id), ...page.gone]);
      if (page.cursor !== undefined) this.cursors.records = page.cursor;
      const found = new Map<string, RecordItem | null>(page.items.map((i) => [i.id, i]));
      for (const id of page.gone) found.set(id, null);
      for (const part of chunks([...found], BATCH)) yield { ...(await this.#read.batch(new Map(part))), apart: true };
    }
  }

  #pull(cursor: string | null): AsyncIterable<RecordPage> {
    return storableRecords(this.#sides.records.pull(this.#collection, cursor, this.#signal), this.#refused);
  }

  async *#some(): AsyncIterable<GatheredBatch> {
    const scope = this.#scope;
    const found = new Map<string, RecordItem | null>();
    const touched: ItemNames = { records: [], hrefs: [] };
    if (typeof scope === 'object') {
      touched.records.push(...scope.records);
      touched.hrefs.push(...(scope.hrefs ?? []));
      for (const id of scope.records) this.#read.due.add(id);
    } else {
      const cursors = await this.#store.cursors();
      let complete = cursors.records === null;
      for await (const page of this.#pull(cursors.records)) {
        for (const item of page.items) found.set(item.id, item);
        for (const id of page.gone) found.set(id, null);
        if (page.cursor !== undefined) this.cursors.records = page.cursor;
        if (page.complete === true) complete = true;
      }
      // Where everything was listed, a record that is missing may be deleted: it is looked at directly.
      if (complete) touched.records.push(...(await this.#missing(found)));
      if (scope === 'changes') {
        await this.#changedEvents(cursors.calendar, touched);
        for await (const items of this.#store.judged()) {
          const gone = items.filter((i) => i.href !== null && this.#gone(i.href));
          if (gone.length > 0) yield this.#goneEvents(gone);
        }
      }
      const due = await this.#noteDue();
      touched.records.push(...due.records);
      touched.hrefs.push(...due.hrefs);
      yield* this.#unfinishedPairs(await this.#unfinished(touched));
    }
    for (const hold of this.#waiting.settled ? await this.#store.holds('settled') : []) {
      if (hold.recordId !== null) touched.records.push(hold.recordId);
      else if (hold.href !== null) touched.hrefs.push(hold.href);
    }
    if (typeof scope === 'object') yield* this.#unfinishedPairs((p) => scope.hrefs?.includes(p.href ?? '') === true);
    for (const [id, item] of await this.#read.readRecords([...new Set(touched.records)].filter((id) => !found.has(id)))) found.set(id, item);
    for (const part of chunks([...found], BATCH)) yield await this.#read.batch(new Map(part));
    yield* this.#newcomers([...new Set(touched.hrefs)]);
  }

  *#refusals(): Generator<GatheredBatch> {
    if (this.#refused.length > 0) yield { gathered: { ...this.#read.empty(), refused: this.#refused }, due: this.#read.due };
  }

  /** What was said of events that are not there any more is said no longer. */
  #goneEvents(items: readonly JudgedItem[]): GatheredBatch {
    const gone = items.flatMap(({ recordId, href, moment, label }) => (recordId === null && href !== null ? [{ href, moment, label }] : []));
    return { gathered: { ...this.#read.empty(), gone }, due: this.#read.due };
  }

  /** Records that a complete listing lacks, of those that pairs or verdicts speak of. */
  async #missing(found: ReadonlyMap<string, RecordItem | null>): Promise<string[]> {
    const missing: string[] = [];
    let [standing, there] = [0, 0];
    for await (const pairs of this.#store.allPairs()) {
      for (const pair of pairs) {
        if (!isFollowed(pair) || pair.recordId === null) continue;
        if (stoodThere(pair)) standing++;
        if (!found.has(pair.recordId)) missing.push(pair.recordId);
        else if (stoodThere(pair)) there++;
      }
    }
    if (standing >= FEW && there === 0) this.alarms.push(allGone(standing, 'records'));
    for await (const items of this.#store.judged())
      for (const { recordId } of items) if (recordId !== null && !found.has(recordId)) missing.push(recordId);
    return missing;
  }

  /** Events that no pair speaks of, as far as this look knows them. */
  async #newObjects(): Promise<string[]> {
    if (this.#unknown !== null) return this.#unknown;
    for await (const hrefs of this.#store.unknownEvents()) return hrefs;
    return [];
  }

  /** Which pairs an incremental look at the calendar touches, and which events are new. @param touched null: only what is new */
  async #changedEvents(cursor: string | null, touched: ItemNames | null): Promise<void> {
    const found = await changedEvents(this.#work, cursor);
    this.#listedWhole = found.whole;
    this.#refused.push(...found.refused);
    for (const href of found.unknown) this.#unknown?.push(href);
    this.#gone = found.gone;
    if (found.replaced) this.alarms.push(REPLACED);
    if (found.lost >= FEW) this.alarms.push(allGone(found.lost, 'events'));
    if (touched === null) return;
    if (found.cursor !== undefined) this.cursors.calendar = found.cursor;
    for (const { recordId, href } of found.touched) {
      if (recordId !== null) touched.records.push(recordId);
      else if (href !== null) touched.hrefs.push(href);
    }
    if (this.#context.definition.may.records.create) for (const href of this.#unknown ?? []) touched.hrefs.push(href);
  }

  /** What was started and not finished, unless it was refused: that waits until it or the lane changes. @returns which of the pairs without a record are tried again */
  async #unfinished(touched: ItemNames): Promise<(pair: Pair) => boolean> {
    if (!this.#waiting.creating && !this.#waiting.unfinished) return () => false;
    const aside = await this.#store.setAside();
    const [records, hrefs] = [new Set(aside.records), new Set(aside.hrefs)];
    for (const pair of await this.#store.pairs({ states: ['creating'] }))
      if (pair.recordId !== null && !records.has(pair.recordId)) touched.records.push(pair.recordId);
    const named = new Set(touched.hrefs);
    return (pair) => !hrefs.has(pair.href ?? '') || named.has(pair.href ?? '');
  }

  /**
   * Unfinished creates of records come before everything else: until their outcome is known, a record
   * without a pair may be one of them.
   */
  async *#unfinishedPairs(again: (pair: Pair) => boolean): AsyncIterable<GatheredBatch> {
    if (!this.#waiting.unfinished) return;
    const unfinished = (await this.#store.pairs({ unfinished: true })).filter(again);
    await this.#lookForAttempts();
    if (unfinished.length === 0) return;
    const hrefs = unfinished.flatMap((p) => p.href ?? []);
    const events = await this.#sides.calendars.read(this.#calendar, hrefs, this.#signal);
    // First those that can be tried again: a system that knows its keys then says which record is whose.
    for (const part of chunks(
      hrefs.filter((h) => events.get(h) !== null),
      BATCH,
    ))
      yield await this.#read.newcomerBatch(part);
    const gone = unfinished.filter((p) => p.href === null || events.get(p.href) === null);
    if (gone.length === 0) return;
    // Those whose series was moved meanwhile go on where it is now.
    const moved = await this.#read.followGone(gone);
    for (const part of chunks([...moved.values()], BATCH))
      yield await this.#read.newcomerBatch(
        part.flatMap((m) => m.pair.href ?? []),
        part,
      );
    const lost = gone.filter((p) => !moved.has(p.id));
    if (lost.length === 0) return;
    if (lost.length < unfinished.length) await this.#lookForAttempts();
    yield await this.#read.complete([], lost, new Map(lost.map((p) => [p.href ?? '', null])), []);
  }

  async #lookForAttempts(): Promise<void> {
    const attempts = (await this.#store.pairs({ unfinished: true })).filter((p) => p.tried !== null);
    this.#read.createCandidates = await findCreateCandidates(this.#work, attempts);
  }

  async #noteDue(): Promise<ItemNames> {
    if (!this.#waiting.due) return { records: [], hrefs: [] };
    const due = await this.#store.due(this.#context.now);
    for (const id of due.records) this.#read.due.add(id);
    return due;
  }

  async *#newcomers(named: string[]): AsyncIterable<GatheredBatch> {
    const mayCreate = this.#context.definition.may.records.create;
    for (const hrefs of chunks(named, BATCH)) yield await this.#read.newcomerBatch(hrefs);
    if (!mayCreate) return;
    if (this.#unknown === null) for await (const hrefs of this.#store.unknownEvents()) yield await this.#read.newcomerBatch(hrefs);
    for (const hrefs of chunks(this.#read.foundMeanwhile(), BATCH)) yield await this.#read.newcomerBatch(hrefs);
  }
}

async function* paged(hrefs: string[]): AsyncIterable<string[]> {
  yield* chunks(hrefs, BATCH);
}
