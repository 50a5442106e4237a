import { createHash } from 'node:crypto';
import {
  type Collection,
  canonical,
  type FieldValues,
  type GuestRow,
  type GuestRowsMap,
  guestRowsField,
  type Person,
  type RecordItem,
  type Reference,
  sayValue,
} from '@monsoon/core';
import { OutsideError, type Records } from '@monsoon/systems';
import { directoryOf } from './directories.ts';

/** Longest time for which rows may be used without a look at what changed, in milliseconds. */
const FRESH = 1000;

/** What a row is known by: whose record it belongs to, and the guest as far as the row says. */
interface KnownRow extends GuestRow {
  id: string;
  record: string;
}

const nameOf = (record: string, { email }: GuestRow): string => JSON.stringify([record, email.toLowerCase()]);

/** The rows of one map, by record: read whole once, and by changes afterwards. */
export class GuestRows {
  readonly map: GuestRowsMap;
  readonly field: string;
  readonly #records: Records;
  readonly #collection: Collection;
  readonly #byId = new Map<string, KnownRow>();
  readonly #byRecord = new Map<string, Set<string>>();
  /** how often the row of a guest was deleted */
  readonly #gone = new Map<string, number>();
  #cursor: string | null = null;
  #readAt = Number.NEGATIVE_INFINITY;
  #took = 0;
  #reading: Promise<void> | null = null;

  constructor(records: Records, map: GuestRowsMap, collection: Collection) {
    this.#records = records;
    this.map = map;
    this.field = guestRowsField(map);
    this.#collection = collection;
  }

  /** Looks at what changed since. A listing that takes long is not asked for again at once. */
  async refresh(signal: AbortSignal): Promise<void> {
    if (performance.now() - this.#readAt < Math.max(FRESH, 10 * this.#took)) return;
    // Another run may be reading, and may give up for a reason of its own.
    if (await this.#isReadByAnother()) return;
    this.#reading ??= this.#read(signal).finally(() => {
      this.#reading = null;
    });
    await this.#reading;
  }

  async #isReadByAnother(): Promise<boolean> {
    if (this.#reading === null) return false;
    const [outcome] = await Promise.allSettled([this.#reading]);
    return outcome.status === 'fulfilled';
  }

  /** Lists everything again: a list of changes can lack deletions. */
  async readWhole(signal: AbortSignal): Promise<void> {
    await this.#isReadByAnother();
    this.#cursor = null;
    this.forget();
    await this.refresh(signal);
  }

  /** What is known may be out of date. */
  forget(): void {
    this.#readAt = Number.NEGATIVE_INFINITY;
  }

  async #read(signal: AbortSignal): Promise<void> {
    const started = performance.now();
    const emails = await this.#emails(signal);
    const seen = new Set<string>();
    const since = this.#cursor;
    for await (const page of this.#records.pull(this.map.rows, since, signal)) {
      for (const item of page.items) {
        this.#note(item, emails);
        seen.add(item.id);
      }
      for (const id of page.gone) this.#drop(id);
      if (page.complete === true || (since === null && page.cursor !== undefined))
        for (const id of this.#byId.keys()) if (!seen.has(id)) this.#drop(id);
      if (page.cursor !== undefined) this.#cursor = page.cursor;
    }
    this.#readAt = performance.now();
    this.#took = this.#readAt - started;
  }

  /** The addresses of those whom rows refer to. */
  async #emails(signal: AbortSignal): Promise<ReadonlyMap<string, string>> {
    const { in: people, email = 'email' } = this.map;
    return people === undefined ? new Map() : (await directoryOf(this.#records, people, email, signal)).emails;
  }

  #note(item: RecordItem, emails: ReadonlyMap<string, string>): void {
    this.#take(item.id);
    const row = this.#rowOf(item, emails);
    if (row === null) return;
    this.#byId.set(row.id, row);
    const ids = this.#byRecord.get(row.record) ?? new Set();
    this.#byRecord.set(row.record, ids.add(row.id));
  }

  #take(id: string): KnownRow | undefined {
    const row = this.#byId.get(id);
    if (row === undefined) return undefined;
    this.#byId.delete(id);
    this.#byRecord.get(row.record)?.delete(id);
    return row;
  }

  /** The row is gone from its system. */
  #drop(id: string): void {
    const row = this.#take(id);
    if (row === undefined) return;
    const name = nameOf(row.record, row);
    this.#gone.set(name, (this.#gone.get(name) ?? 0) + 1);
  }

  #rowOf({ id, fields }: RecordItem, emails: ReadonlyMap<string, string>): KnownRow | null {
    const { map } = this;
    const record = fields[map.record];
    const guest = fields[map.guest];
    const email =
      typeof guest === 'string'
        ? guest
        : guest == null
          ? undefined
          : map.in === undefined
            ? (guest as Person).email
            : emails.get((guest as Reference).id);
    if (record == null || email === undefined || email === '') return null;
    const name = map.name === undefined ? '' : sayValue(fields[map.name]);
    const response = map.reply === undefined ? '' : sayValue(fields[map.reply]);
    return {
      id,
      record: typeof record === 'object' ? (record as Reference).id : String(record),
      email,
      ...(name === '' ? {} : { name }),
      ...(response === '' ? {} : { response }),
    };
  }

  /** In the order of their ids, so that the same rows are the same value. */
  #of = (record: string): KnownRow[] =>
    [...(this.#byRecord.get(record) ?? [])].sort((a, b) => (a < b ? -1 : 1)).map((id) => this.#byId.get(id) as KnownRow);

  /** The rows of a record, as a value of its field. */
  valueOf = (record: string): GuestRow[] => this.#of(record).map(({ id: _id, record: _record, ...row }) => row);

  /**
   * Writes what differs. @param from the rows as they were when this was planned
   * @throws OutsideError `changed meanwhile` where they are not so any more
   */
  async write(record: string, from: readonly GuestRow[], to: readonly GuestRow[], signal: AbortSignal): Promise<void> {
    await this.refresh(signal);
    if (canonical(this.valueOf(record)) !== canonical(from)) throw this.#changed(record);
    const there = this.#of(record);
    const left = new Set(there);
    for (const row of to) {
      const same = [...left].find((r) => r.email.toLowerCase() === row.email.toLowerCase());
      if (same === undefined) await this.#make(record, row, signal);
      else left.delete(same);
      if (same !== undefined && same.response !== row.response) await this.#reply(same, row, signal);
    }
    // Only what is undone takes rows away: those that were made.
    for (const row of left) await this.#remove(row, signal);
  }

  async #make(record: string, row: GuestRow, signal: AbortSignal): Promise<void> {
    const { map } = this;
    const directory = map.in === undefined ? undefined : await directoryOf(this.#records, map.in, map.email ?? 'email', signal);
    const guest = directory?.byEmail.get(row.email.toLowerCase());
    const typeOf = (name: string) => this.#collection.fields.find((f) => f.name === name)?.type;
    const fields: FieldValues = {
      [map.record]: typeOf(map.record) === 'reference' ? { id: record } : typeOf(map.record) === 'number' ? Number(record) : record,
      [map.guest]:
        guest ?? (typeOf(map.guest) === 'person' ? { email: row.email, ...(row.name === undefined ? {} : { name: row.name }) } : row.email),
      ...(map.name === undefined || row.name === undefined ? {} : { [map.name]: row.name }),
      ...(map.reply === undefined || row.response === undefined ? {} : { [map.reply]: row.response }),
    };
    // The same row asked for again after a lost answer is the same row, where the system can tell; one that was deleted is not.
    const name = nameOf(record, row);
    const key = createHash('sha256')
      .update(JSON.stringify([map.rows, name, this.#gone.get(name) ?? 0]))
      .digest('hex')
      .slice(0, 32);
    await this.#writing(this.#records.create(map.rows, fields, key, signal), signal);
  }

  async #reply(known: KnownRow, { response }: GuestRow, signal: AbortSignal): Promise<void> {
    const item = await this.#asKnown(known, signal);
    await this.#writing(this.#records.change(this.map.rows, item, { [this.map.reply as string]: response ?? null }, signal), signal);
  }

  async #remove(known: KnownRow, signal: AbortSignal): Promise<void> {
    const item = await this.#asKnown(known, signal);
    await this.#records.remove(this.map.rows, item, signal);
    this.#drop(known.id);
  }

  /** What is written is known at once; after an error it is read again. */
  async #writing(written: Promise<RecordItem>, signal: AbortSignal): Promise<void> {
    try {
      this.#note(await written, await this.#emails(signal));
    } catch (error) {
      this.forget();
      throw error;
    }
  }

  /** The row as a whole, if it still says what is known of it. */
  async #asKnown(known: KnownRow, signal: AbortSignal): Promise<RecordItem> {
    const item = await this.#records.read(this.map.rows, known.id, signal);
    if (item === null) this.#drop(known.id);
    const row = item === null ? null : this.#rowOf(item, await this.#emails(signal));
    if (item === null || canonical(row) !== canonical(known)) throw this.#changed(known.record);
    return item;
  }

  #changed(record: string): OutsideError {
    this.forget();
    return new OutsideError('changed meanwhile', `the guests of ${record} in ${this.#collection.label} were changed in the meantime`);
  }
}
