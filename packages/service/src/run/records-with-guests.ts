import {
  type Collection,
  canonical,
  type FieldValue,
  type FieldValues,
  fieldMapsOf,
  type GuestRow,
  type GuestRowsMap,
  type LaneDefinition,
  type RecordItem,
  stateOf,
} from '@monsoon/core';
import { OutsideError, type RecordPage, type Records } from '@monsoon/systems';
import { GuestRows } from './guest-rows.ts';

/** The maps of a lane that keep guests as rows of another collection. */
export const guestRowMaps = (definition: LaneDefinition): GuestRowsMap[] => fieldMapsOf(definition).flatMap((m) => ('rows' in m ? [m] : []));

const opened = new WeakMap<Records, Map<string, Records>>();

/**
 * The records of a lane with their guests' rows as a field of each. What is known of the rows is kept for the next run,
 * which asks for changes only.
 */
export function withGuestRows(records: Records, definition: LaneDefinition, collections: readonly Collection[]): Records {
  const maps = guestRowMaps(definition);
  if (maps.length === 0) return records;
  const { collection } = definition.records;
  const inside = collections.filter((c) => maps.some((m) => m.rows === c.name));
  const key = canonical([collection, maps, inside]);
  const known = opened.get(records) ?? new Map<string, Records>();
  opened.set(records, known);
  const found = known.get(key) ?? new RecordsWithGuests(records, collection, maps, inside);
  known.set(key, found);
  return found;
}

/** What the version of a record ends with that has rows. */
const ROWS = / with rows \S+$/;

/** Records whose guests' rows are a field of each, for one collection; everything else is as it is. */
class RecordsWithGuests implements Records {
  readonly probe: Records['probe'];
  readonly describe: Records['describe'];
  readonly #records: Records;
  readonly #collection: string;
  readonly #rows: readonly GuestRows[];

  constructor(records: Records, collection: string, maps: readonly GuestRowsMap[], collections: readonly Collection[]) {
    this.#records = records;
    this.#collection = collection;
    this.probe = records.probe.bind(records);
    this.describe = records.describe.bind(records);
    this.#rows = maps.map((map) => new GuestRows(records, map, collections.find((c) => c.name === map.rows) as Collection));
  }

  async *pull(collection: string, cursor: string | null, signal: AbortSignal): AsyncIterable<RecordPage> {
    const has = collection === this.#collection;
    if (has) for (const rows of this.#rows) await (cursor === null ? rows.readWhole(signal) : rows.refresh(signal));
    for await (const page of this.#records.pull(collection, cursor, signal))
      yield has ? { ...page, items: page.items.map((item) => this.#withRows(item)) } : page;
  }

  async read(collection: string, id: string, signal: AbortSignal): Promise<RecordItem | null> {
    const item = await this.#records.read(collection, id, signal);
    if (item === null || collection !== this.#collection) return item;
    await this.#refresh(signal);
    return this.#withRows(item);
  }

  /** A record is made though its rows cannot be: it says so, and they are tried again. */
  async create(collection: string, fields: FieldValues, key: string, signal: AbortSignal): Promise<RecordItem> {
    if (collection !== this.#collection) return this.#records.create(collection, fields, key, signal);
    const { plain, guests } = this.#apart(fields);
    const item = await this.#records.create(collection, plain, key, signal);
    const unwritten: { field: string; reason: string }[] = [];
    for (const { rows, to } of guests) {
      try {
        await rows.refresh(signal);
        await rows.write(item.id, rows.valueOf(item.id), to, signal);
      } catch (error) {
        if (!(error instanceof OutsideError)) throw error;
        unwritten.push({ field: rows.field, reason: error.message });
      }
    }
    return { ...this.#withRows(item), ...(unwritten.length === 0 ? {} : { unwritten }) };
  }

  /** First the record, under its condition, then the rows. */
  async change(collection: string, from: RecordItem, fields: FieldValues, signal: AbortSignal): Promise<RecordItem> {
    if (collection !== this.#collection) return this.#records.change(collection, from, fields, signal);
    const { plain, guests } = this.#apart(fields);
    const before = this.#withoutRows(from);
    const item = Object.keys(plain).length === 0 ? before : await this.#records.change(collection, before, plain, signal);
    for (const { rows, to } of guests) await rows.write(from.id, (from.fields[rows.field] ?? []) as GuestRow[], to, signal);
    return this.#withRows(item);
  }

  /** Rows go with their record where its system has it so, and stay otherwise. */
  remove(collection: string, from: RecordItem, signal: AbortSignal): Promise<void> {
    return this.#records.remove(collection, collection === this.#collection ? this.#withoutRows(from) : from, signal);
  }

  async #refresh(signal: AbortSignal): Promise<void> {
    for (const rows of this.#rows) await rows.refresh(signal);
  }

  #withRows(item: RecordItem): RecordItem {
    const values = this.#rows.flatMap((rows): [string, FieldValue][] => {
      const value = rows.valueOf(item.id);
      return value.length === 0 ? [] : [[rows.field, value]];
    });
    if (values.length === 0) return item;
    const added = Object.fromEntries(values);
    const fields = { ...item.fields, ...added };
    if (item.version === undefined) return { ...item, fields };
    // A row is no part of its record's version: that it changed would not be seen.
    return { ...item, fields, version: `${item.version} with rows ${stateOf({ id: '', fields: added }).split(' ')[1]}` };
  }

  #withoutRows(item: RecordItem): RecordItem {
    const fields = Object.fromEntries(Object.entries(item.fields).filter(([name]) => !this.#rows.some((r) => r.field === name)));
    return { ...item, fields, ...(item.version === undefined ? {} : { version: item.version.replace(ROWS, '') }) };
  }

  /** What is written into the record itself, and what into rows. */
  #apart(fields: FieldValues): { plain: FieldValues; guests: { rows: GuestRows; to: GuestRow[] }[] } {
    const plain = { ...fields };
    const guests = this.#rows.flatMap((rows) => {
      if (!(rows.field in fields)) return [];
      delete plain[rows.field];
      return [{ rows, to: (fields[rows.field] ?? []) as GuestRow[] }];
    });
    return { plain, guests };
  }
}
