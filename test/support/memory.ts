import type { RecordItem } from '@monsoon/core';
import { type CalendarChanges, type Calendars, OutsideError, type RecordPage, type Records, type StoredEvent } from '@monsoon/systems';
import type { Batch, Cursors, RunStore } from '../../packages/service/src/run/store.ts';

/** A crash: nothing in a run may catch it. */
export class Crash extends Error {}

/** What may go wrong at a call: before it took effect, or after. */
export type Mischief = (call: string, moment: 'before' | 'after') => void;

/** A calendar in memory, with ETags of its content and a list of changes, like the real ones. */
export class MemoryCalendar implements Calendars {
  readonly events = new Map<string, { text: string; changed: number }>();
  readonly #gone = new Map<string, number>();
  writes = 0;
  #clock = 0;
  mischief: Mischief = () => undefined;

  etag = (text: string) => `"${Buffer.from(text).toString('base64url').slice(-40)}${text.length}"`;
  hrefFor = (calendar: string, uid: string) => `${calendar}${uid}.ics`;

  async #call<T>(name: string, work: () => T): Promise<T> {
    this.mischief(name, 'before');
    const result = work();
    this.mischief(name, 'after');
    return result;
  }

  put(href: string, text: string): void {
    this.events.set(href, { text, changed: ++this.#clock });
    this.#gone.delete(href);
  }
  drop(href: string): void {
    if (this.events.delete(href)) this.#gone.set(href, ++this.#clock);
  }

  async *probe() {}
  calendars = async () => [];
  make = async () => {
    throw new Error('not asked for');
  };
  changes(_calendar: string, cursor: string | null): Promise<CalendarChanges> {
    return this.#call('changes', () => {
      const since = cursor === null ? 0 : Number(cursor);
      const changed = [...this.events].filter(([, e]) => e.changed > since).map(([href, e]) => ({ href, etag: this.etag(e.text) }));
      const removed = cursor === null ? [] : [...this.#gone].filter(([, at]) => at > since).map(([href]) => href);
      return { changed, removed, cursor: String(this.#clock), complete: cursor === null };
    });
  }
  read(_calendar: string, hrefs: string[]): Promise<Map<string, StoredEvent | null>> {
    return this.#call('read', () => new Map(hrefs.map((href) => [href, this.#stored(href)])));
  }
  #stored(href: string): StoredEvent | null {
    const event = this.events.get(href);
    return event === undefined ? null : { href, etag: this.etag(event.text), text: event.text };
  }
  create(calendar: string, uid: string, text: string): Promise<{ href: string }> {
    const href = this.hrefFor(calendar, uid);
    return this.#call('create', () => {
      if (this.events.has(href)) throw new OutsideError('exists', 'it exists', { href });
      this.writes++;
      this.put(href, text);
      return { href };
    });
  }
  change(href: string, etag: string, text: string): Promise<void> {
    return this.#call('change', () => {
      this.#match(href, etag);
      this.writes++;
      this.put(href, text);
    });
  }
  remove(href: string, etag: string): Promise<void> {
    return this.#call('remove', () => {
      if (!this.events.has(href)) return;
      this.#match(href, etag);
      this.writes++;
      this.drop(href);
    });
  }
  #match(href: string, etag: string): void {
    const event = this.events.get(href);
    if (event === undefined) throw new OutsideError('gone', 'it is gone');
    if (this.etag(event.text) !== etag) throw new OutsideError('changed meanwhile', 'it was changed');
  }
}

/** Records in memory, with tombstones and a cursor. */
export class MemoryRecords implements Records {
  readonly rows = new Map<string, { item: RecordItem | null; changed: number }>();
  #clock = 0;
  mischief: Mischief = () => undefined;

  get clock(): number {
    return this.#clock;
  }
  put(id: string, fields: RecordItem['fields']): void {
    this.rows.set(id, { item: { id, fields }, changed: ++this.#clock });
  }
  drop(id: string): void {
    this.rows.set(id, { item: null, changed: ++this.#clock });
  }
  async *probe() {}
  describe = async () => [];
  async *pull(_collection: string, cursor: string | null): AsyncIterable<RecordPage> {
    this.mischief('pull', 'before');
    const found = [...this.rows].filter(([, r]) => r.changed > Number(cursor ?? 0));
    const half = Math.ceil(found.length / 2);
    const page = (rows: typeof found) => ({
      items: rows.flatMap(([, r]) => (r.item === null ? [] : [r.item])),
      gone: rows.flatMap(([id, r]) => (r.item === null ? [id] : [])),
    });
    yield page(found.slice(0, half));
    this.mischief('pull', 'after');
    yield { ...page(found.slice(half)), cursor: String(this.#clock) };
  }
  async read(_collection: string, id: string): Promise<RecordItem | null> {
    this.mischief('read record', 'before');
    return this.rows.get(id)?.item ?? null;
  }
}

/** The memory of a run, in memory: what the database keeps over a crash. */
export class MemoryStore implements RunStore {
  #pairs = new Map<string, string>();
  #cursors: Cursors = { records: null, calendar: null };
  #verdicts = new Map<string, { recordId: string; reason: string; recheckAt: string | null; attempts: number }>();
  readonly journal: NonNullable<Batch['entries']> = [];
  crash: () => void = () => undefined;

  async readCursors(): Promise<Cursors> {
    return { ...this.#cursors };
  }
  cursors = () => this.readCursors();
  async moveCursors(moved: Partial<Cursors>): Promise<void> {
    this.crash();
    this.#cursors = { ...this.#cursors, ...moved };
  }
  async pairs(which: Parameters<RunStore['pairs']>[0]) {
    // Stored as text: nobody may change what is stored by changing what was read.
    const all = [...this.#pairs.values()].map((p) => JSON.parse(p) as Awaited<ReturnType<RunStore['pairs']>>[number]);
    if (which === 'all') return all;
    if ('records' in which) return all.filter((p) => which.records.includes(p.recordId));
    if ('hrefs' in which) return all.filter((p) => p.href !== null && which.hrefs.includes(p.href));
    return all.filter((p) => p.state === which.state);
  }
  countPairs = async () => (await this.pairs('all')).filter((p) => p.state !== 'parted' && p.state !== 'removed').length;
  due = async (now: string) => [...this.#verdicts.values()].filter((v) => v.recheckAt !== null && v.recheckAt <= now).map((v) => v.recordId);
  setAside = async () => new Set([...this.#verdicts.values()].filter((v) => v.reason === 'refused by the system').map((v) => v.recordId));
  attempts = async (recordId: string, moment: string) => this.#verdicts.get(`${recordId} ${moment}`)?.attempts ?? 0;
  settlements = async () => [];
  progress = async () => undefined;
  async write(batch: Batch): Promise<void> {
    this.crash();
    for (const pair of batch.pairs ?? []) this.#pairs.set(pair.id, JSON.stringify(pair));
    this.journal.push(...(batch.entries ?? []));
    for (const { recordId, moment, verdict } of batch.verdicts ?? []) {
      if (verdict === null) this.#verdicts.delete(`${recordId} ${moment}`);
      else
        this.#verdicts.set(`${recordId} ${moment}`, {
          recordId,
          reason: verdict.reason,
          recheckAt: verdict.recheckAt,
          attempts: verdict.attempts ?? 0,
        });
    }
  }
}
