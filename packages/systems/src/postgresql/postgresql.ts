import type { Collection, FieldValues, RecordItem } from '@monsoon/core';
import type { ProbeStep, RecordPage, Records, Tracking } from '../interfaces.ts';
import type { OpenOptions } from '../kind.ts';
import { OutsideError } from '../outside-error.ts';
import { type Column, readCatalogue, type Table, VERSIONS } from './catalogue.ts';
import { Connection } from './connection.ts';
import { quoted } from './names.ts';
import { foundBy, probeDatabase } from './probe.ts';
import { byKey, keyOf, keyText, ownKeys, reading } from './rows.ts';
import type { PostgreSqlSettings } from './settings.ts';
import { CHANNEL, heardFrom, installSql, uninstallSql } from './tracking.ts';
import { written } from './values.ts';

const PAGE = 2000;
/** Milliseconds for which the catalogue may be used again. */
const FRESH = 30_000;
/** The table of changes is emptied of what is older than a week; a cursor that is older lists everything. */
const LOG_DAYS = 7;
/** Seconds that are looked back again where a column reports changes: transactions end later than the time they write. */
const OVERLAP = 60;

/** Where the next pull goes on. `log`: the oldest open transaction; `column`: the newest time, and a sum of the keys; `sum`: of all rows. */
type Cursor = { by: 'log'; xid: string; at: string } | { by: 'column'; since: string | null; keys: string } | { by: 'sum'; sum: string };

/** A table as it was last looked at. */
interface Seen {
  table: Table;
  /** of its rows in the catalogue */
  versions: string;
  at: number;
}

/** Tables and views of a PostgreSQL database as collections. */
export class PostgreSql implements Records {
  readonly #connection: Connection;
  readonly #settings: PostgreSqlSettings;
  readonly #zones: OpenOptions['zones'];
  readonly #seen = new Map<string, Seen>();

  constructor(settings: PostgreSqlSettings, password: string, options: OpenOptions) {
    this.#settings = settings;
    this.#zones = options.zones;
    this.#connection = new Connection(settings, password, options);
  }

  get #schema(): string {
    return this.#settings.schema ?? 'public';
  }

  /** All of them, read again. */
  #tables(): Promise<Map<string, Table>> {
    return readCatalogue(this.#connection, this.#schema, this.#settings.collections ?? {});
  }

  /** Some of them as they are now: of a large schema a fraction, and read again only where there is anything to see. */
  async #look(names: readonly string[]): Promise<Table[]> {
    const given = this.#settings.collections ?? {};
    const called = (name: string) => given[name]?.table ?? name;
    const rows = await this.#connection.query('looking at columns', VERSIONS, [this.#schema, names.map(called)]);
    const versions = new Map(rows.map(([name, text]) => [name!, text!]));
    const stale = names.filter((name) => {
      const seen = this.#seen.get(name);
      return seen === undefined || seen.versions !== versions.get(called(name)) || Date.now() - seen.at >= FRESH;
    });
    const fresh = stale.length === 0 ? new Map<string, Table>() : await readCatalogue(this.#connection, this.#schema, given, stale);
    for (const name of stale) {
      const table = fresh.get(name);
      if (table === undefined) this.#seen.delete(name);
      else this.#seen.set(name, { table, versions: versions.get(called(name)) ?? '', at: Date.now() });
    }
    return names.flatMap((name) => this.#seen.get(name)?.table ?? []);
  }

  async #table(name: string): Promise<Table> {
    const seen = this.#seen.get(name);
    const table = seen !== undefined && Date.now() - seen.at < FRESH ? seen.table : (await this.#look([name]))[0];
    if (table === undefined)
      throw new OutsideError(
        'nonsense',
        `${this.#connection.database} has no table or view "${name}" that may be read; there are ${[...(await this.#tables()).keys()].join(', ')}`,
      );
    if (table.wanting !== null) throw new OutsideError('nonsense', `${table.label} cannot be used: ${table.wanting}`);
    return table;
  }

  probe(signal: AbortSignal): AsyncIterable<ProbeStep> {
    return probeDatabase(this.#connection, this.#settings, () => this.#tables(), signal);
  }

  async describe(only?: readonly string[]): Promise<Collection[]> {
    const tables = only === undefined ? [...(await this.#tables()).values()] : await this.#look(only);
    return tables
      .filter((t) => t.wanting === null)
      .map((t) => ({
        name: t.name,
        label: t.label,
        fields: t.columns.map((c) => c.field),
        may: t.may,
        retries: ownKeys(t) ? ('key' as const) : ('none' as const),
        stamps: { created: t.settings.created !== undefined, modified: t.settings.modified !== undefined },
      }));
  }

  async wanting(name: string): Promise<string | null> {
    return (await this.#tables()).get(name)?.wanting ?? null;
  }

  async *pull(name: string, cursor: string | null, signal: AbortSignal): AsyncIterable<RecordPage> {
    const table = await this.#table(name);
    const known = cursor === null ? null : (JSON.parse(cursor) as Cursor);
    if (table.hasTrigger) yield* this.#byLog(table, known?.by === 'log' ? known : null, signal);
    else if (table.settings.modified !== undefined) yield* this.#byColumn(table, known?.by === 'column' ? known : null, cursor !== null, signal);
    else yield* this.#bySum(table, known?.by === 'sum' ? known : null, cursor !== null, signal);
  }

  async *#byLog(table: Table, cursor: (Cursor & { by: 'log' }) | null, signal: AbortSignal): AsyncIterable<RecordPage> {
    const usable = cursor !== null && Date.now() - Date.parse(cursor.at) < (LOG_DAYS - 1) * 86_400_000;
    // One statement, one snapshot: what is not in it belongs to a transaction at or after its oldest open one.
    const [row] = await this.#connection.query(
      `looking for changes of ${table.name}`,
      `select pg_snapshot_xmin(pg_current_snapshot())::text, (select json_agg(distinct key)::text from ${quoted(this.#schema)}.${quoted(CHANNEL)} where source = $1 and xid >= $2::xid8)`,
      [table.name, usable ? cursor.xid : '9223372036854775807'],
      signal,
    );
    const next: Cursor = { by: 'log', xid: row![0]!, at: new Date().toISOString() };
    const keys = JSON.parse(row![1] ?? '[]') as string[];
    if (!usable || keys.includes('*')) yield* this.#all(table, JSON.stringify(next), cursor !== null, signal);
    else yield* this.#these(table, keys, JSON.stringify(next), signal);
  }

  async *#byColumn(table: Table, cursor: (Cursor & { by: 'column' }) | null, complete: boolean, signal: AbortSignal): AsyncIterable<RecordPage> {
    const column = `t.${quoted(table.settings.modified!)}`;
    const [row] = await this.#connection.query(
      `looking for changes of ${table.name}`,
      `select max(${column})::text, count(*) || ' ' || coalesce(sum(hashtextextended(${keyText(table)}, 0)::numeric), 0) from ${table.sql} t`,
      [],
      signal,
    );
    const next: Cursor = { by: 'column', since: row![0]!, keys: row![1]! };
    // A deleted row leaves no time behind: the keys tell, and then all rows are read.
    if (cursor === null || cursor.keys !== next.keys || cursor.since === null) {
      yield* this.#all(table, JSON.stringify(next), complete, signal);
      return;
    }
    const type = table.columns.find((c) => c.name === table.settings.modified)!.sqlType;
    yield* this.#rows(table, `${column} >= $1::${type} - interval '${OVERLAP} seconds'`, [cursor.since], { cursor: JSON.stringify(next) }, signal);
  }

  async *#bySum(table: Table, cursor: (Cursor & { by: 'sum' }) | null, complete: boolean, signal: AbortSignal): AsyncIterable<RecordPage> {
    const columns = table.columns.map((c) => `t.${quoted(c.name)}`).join(', ');
    const [row] = await this.#connection.query(
      `looking for changes of ${table.name}`,
      `select count(*) || ' ' || coalesce(sum(hashtextextended(row(${columns})::text, 0)::numeric), 0) from ${table.sql} t`,
      [],
      signal,
    );
    const next: Cursor = { by: 'sum', sum: row![0]! };
    if (cursor?.sum === next.sum) yield { items: [], gone: [], cursor: JSON.stringify(next) };
    else yield* this.#all(table, JSON.stringify(next), complete, signal);
  }

  async *#these(table: Table, keys: string[], cursor: string, signal: AbortSignal): AsyncIterable<RecordPage> {
    for (let at = 0; at < keys.length; at += PAGE) {
      const part = keys.slice(at, at + PAGE);
      const rows = await this.#select(table, `${keyText(table)} = any($1::text[])`, [part], '', signal);
      const found = new Set(rows.map((r) => r.id));
      yield { items: rows, gone: part.filter((k) => !found.has(k)) };
    }
    yield { items: [], gone: [], cursor };
  }

  async *#all(table: Table, cursor: string, complete: boolean, signal: AbortSignal): AsyncIterable<RecordPage> {
    yield* this.#rows(table, 'true', [], { cursor, ...(complete ? { complete: true } : {}) }, signal);
  }

  /** In pages by key: a statement that stays open as long as a run lasts would keep the database from tidying up. */
  async *#rows(
    table: Table,
    where: string,
    values: unknown[],
    last: Pick<RecordPage, 'cursor' | 'complete'>,
    signal: AbortSignal,
  ): AsyncIterable<RecordPage> {
    const order = table.key.map((k) => `t.${quoted(k.name)}`).join(', ');
    let after: string[] | null = null;
    for (;;) {
      const beyond: string =
        after === null ? '' : ` and (${order}) > (${table.key.map((k, i) => `$${values.length + i + 1}::${k.sqlType}`).join(', ')})`;
      const items = await this.#select(table, where + beyond, [...values, ...(after ?? [])], ` order by ${order} limit ${PAGE}`, signal);
      if (items.length < PAGE) {
        yield { items, gone: [], ...last };
        return;
      }
      yield { items, gone: [] };
      after = keyOf(table, items.at(-1)!.id);
    }
  }

  async #select(table: Table, where: string, values: unknown[], tail: string, signal: AbortSignal): Promise<RecordItem[]> {
    const { text, read } = reading(table, this.#settings.zone);
    return (await this.#connection.query(`reading ${table.name}`, `${text} where ${where}${tail}`, values, signal)).map(read);
  }

  async read(name: string, id: string, signal: AbortSignal): Promise<RecordItem | null> {
    const table = await this.#table(name);
    const { sql, values } = byKey(table, id, 1);
    if (sql === null) return null;
    try {
      return (await this.#select(table, sql, values, '', signal))[0] ?? null;
    } catch (error) {
      // An id that cannot be a key of this table is no row's.
      if (error instanceof OutsideError && (error.cause as { code?: string } | undefined)?.code === '22P02') return null;
      throw error;
    }
  }

  async create(name: string, fields: FieldValues, key: string, signal: AbortSignal): Promise<RecordItem> {
    const table = await this.#table(name);
    if (!table.may.create)
      throw new OutsideError('refused', `${table.label}: rows cannot be made here: say "create: true" and which columns are written`);
    const set = this.#setting(table, fields, ownKeys(table) ? 2 : 1);
    const names = [...(ownKeys(table) ? [quoted(table.key[0]!.name)] : []), ...set.map((s) => quoted(s.column.name))];
    const places = [...(ownKeys(table) ? ['$1::uuid'] : []), ...set.map((s) => s.sql)];
    const values = [...(ownKeys(table) ? [key] : []), ...set.map((s) => s.value)];
    const what = names.length === 0 ? 'default values' : `(${names.join(', ')}) values (${places.join(', ')})`;
    const rows = await this.#connection.query(
      `making a row of ${table.name}`,
      `insert into ${table.sql} as t ${what}${ownKeys(table) ? ` on conflict (${quoted(table.key[0]!.name)}) do nothing` : ''} returning ${keyText(table)}`,
      values,
      signal,
    );
    const id = rows[0]?.[0] ?? (ownKeys(table) ? key : null);
    const made = id === null ? null : await this.read(name, id, signal);
    if (made === null) throw new OutsideError('nonsense', `${this.#connection.host} made a row of ${table.name} and does not show it`);
    return made;
  }

  async change(name: string, from: RecordItem, fields: FieldValues, signal: AbortSignal): Promise<RecordItem> {
    const table = await this.#table(name);
    if (!table.may.change) throw new OutsideError('refused', `${table.label}: rows cannot be changed here: say which columns are written`);
    const set = this.#setting(table, fields, 1);
    if (set.length > 0) {
      const to = `${set.map((s) => `${quoted(s.column.name)} = ${s.sql}`).join(', ')}`;
      const done = await this.#conditionally(
        table,
        from,
        `update ${table.sql} t set ${to}`,
        set.map((s) => s.value),
        signal,
      );
      if (!done) throw new OutsideError('gone', `the row ${from.id} of ${table.label} is gone`);
    }
    const changed = await this.read(name, from.id, signal);
    if (changed === null) throw new OutsideError('gone', `the row ${from.id} of ${table.label} is gone`);
    return changed;
  }

  async remove(name: string, from: RecordItem, signal: AbortSignal): Promise<void> {
    const table = await this.#table(name);
    if (!table.may.remove) throw new OutsideError('refused', `${table.label}: rows cannot be removed here: say "remove: true"`);
    await this.#conditionally(table, from, `delete from ${table.sql} t`, [], signal);
  }

  #setting(table: Table, fields: FieldValues, first: number): { column: Column; sql: string; value: unknown }[] {
    return Object.entries(fields)
      .map(([name]) => table.columns.find((c) => c.name === name))
      .filter((c): c is Column => c !== undefined && c.field.readOnly !== true)
      .map((column, i) => ({ column, ...written(column, fields[column.name]!, `$${first + i}`, this.#zones, this.#settings.zone) }));
  }

  /** Carries out a statement on one row that still is as it was read. @returns false when the row is gone @throws `changed meanwhile` */
  async #conditionally(table: Table, from: RecordItem, statement: string, values: unknown[], signal: AbortSignal): Promise<boolean> {
    signal.throwIfAborted();
    const meanwhile = () => new OutsideError('changed meanwhile', `the row ${from.id} of ${table.label} was changed in the meantime`);
    const { sql: key, values: keys } = byKey(table, from.id, values.length + 1);
    if (key === null) return false;
    const { text, read } = reading(table, this.#settings.zone);
    return this.#connection.transaction(`writing ${table.name}`, async (query) => {
      const own = byKey(table, from.id, 1);
      const lock = table.view ? '' : ' for update of t';
      const row = (await query(`${text} where ${own.sql}${lock}`, own.values))[0];
      if (row === undefined) return false;
      const now = read(row);
      const same = from.version === undefined ? JSON.stringify(now.fields) === JSON.stringify(from.fields) : now.version === from.version;
      if (!same) throw meanwhile();
      await query(`${statement} where ${key}`, [...values, ...keys]);
      return true;
    });
  }

  async tracking(collection: string): Promise<Tracking> {
    this.#seen.delete(collection);
    const table = await this.#table(collection);
    const possible = !table.view;
    return {
      state: table.hasTrigger ? 'installed' : possible ? 'possible' : null,
      now: foundBy(table),
      install: possible ? installSql(table, this.#schema, this.#settings.user) : '',
      uninstall: possible ? uninstallSql(table, this.#schema) : '',
    };
  }

  async track(collection: string, on: boolean): Promise<void> {
    const table = await this.#table(collection);
    if (table.view)
      throw new OutsideError('refused', `${table.label} is a view: put triggers on the tables below it, or name a column that reports changes`);
    await this.#connection.transaction(on ? `installing triggers on ${table.name}` : `removing triggers from ${table.name}`, (query) =>
      query(on ? installSql(table, this.#schema, this.#settings.user) : uninstallSql(table, this.#schema)),
    );
    this.#seen.delete(collection);
  }

  async watch(changed: (collection: string, ours: boolean) => void, lost: (error: Error) => void): Promise<() => Promise<void>> {
    const tidy = () =>
      this.#connection
        .query('tidying up', `delete from ${quoted(this.#schema)}.${quoted(CHANNEL)} where at < now() - interval '${LOG_DAYS} days'`)
        // Where there is no such table, or no right to it, there is nothing to do.
        .catch(() => undefined);
    const timer = setInterval(() => void tidy(), 6 * 3_600_000);
    timer.unref();
    const stop = await this.#connection.listen(
      CHANNEL,
      (payload) => {
        const { source, ours } = heardFrom(payload);
        changed(source, ours);
      },
      lost,
    );
    return async () => {
      clearInterval(timer);
      await stop();
    };
  }

  close(): Promise<void> {
    return this.#connection.close();
  }
}
