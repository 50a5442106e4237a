import { createHash } from 'node:crypto';
import { readdir, readFile, realpath, stat } from 'node:fs/promises';
import { basename, join, sep } from 'node:path';
import { setImmediate as turn } from 'node:timers/promises';
import type { Collection, FieldValues, RecordItem } from '@monsoon/core';
import type { ProbeStep, RecordPage, Records } from '../interfaces.ts';
import type { OpenOptions } from '../kind.ts';
import { type Observed, observed } from '../observed.ts';
import { OutsideError } from '../outside-error.ts';
import { failedStep } from '../probe-steps.ts';
import { readCell } from './columns.ts';
import type { CsvSettings } from './settings.ts';
import { fill, idOf, lineOf, ownKey, type Row, readSheet, replace, type Sheet } from './sheet.ts';

/** Rows of a page. */
const PAGE = 1000;
/** Largest file that is read, in bytes. */
const LARGEST = 64 * 1024 * 1024;

/** CSV files (RFC 4180): a folder, or one file; each file is a collection, and is replaced as a whole when it is written. */
export class CsvFiles implements Records {
  readonly #settings: CsvSettings;
  readonly #options: OpenOptions;
  readonly #observed: Observed;
  readonly #sheets = new Map<string, { stamp: string; sheet: Sheet }>();
  #turn: Promise<unknown> = Promise.resolve();

  constructor(settings: CsvSettings, options: OpenOptions) {
    this.#settings = settings;
    this.#options = options;
    this.#observed = observed('FILE', settings.address, options);
  }

  async *probe(): AsyncIterable<ProbeStep> {
    try {
      const files = await this.#files();
      yield { name: 'reachable', outcome: 'ok', detail: `${this.#settings.address} can be read` };
      if (files.length === 0) yield { name: 'collections', outcome: 'warning', detail: 'there is no file whose name ends in .csv' };
      for (const name of Object.keys(this.#settings.collections ?? {}))
        if (!files.includes(name))
          yield {
            name: `collection ${name}`,
            outcome: 'failed',
            detail: `the settings name it, and there is no file ${name}.csv; there are ${files.join(', ') || 'none'}`,
          };
      for (const name of files) {
        const step = `collection ${name}`;
        try {
          const sheet = await this.#sheet(name);
          const doubled = this.#doubled(sheet);
          const found = `${sheet.rows.length} rows, ${sheet.columns.length} columns (${sheet.columns.map((c) => `${c.field.name}: ${c.field.type}`).join(', ')})`;
          if (sheet.key.length === 0)
            yield { name: step, outcome: 'failed', detail: `${found}; no column names a row: say with "key" which ones do` };
          else if (doubled !== null) yield { name: step, outcome: 'failed', detail: `${found}; ${doubled}` };
          else
            yield {
              name: step,
              outcome: 'ok',
              detail: `${found}; rows are named by ${sheet.key.map((k) => sheet.columns[k]!.field.name).join(' and ')}`,
            };
        } catch (error) {
          if (!(error instanceof OutsideError)) throw error;
          yield { name: step, outcome: 'failed', detail: error.message };
        }
      }
      const writes = Object.values(this.#settings.collections ?? {}).some((c) => (c.write ?? []).length > 0);
      yield {
        name: 'writing',
        outcome: 'ok',
        detail: writes ? 'the named columns are written; a file is replaced as a whole' : 'nothing is written: no column is named for it',
      };
    } catch (error) {
      yield failedStep(error);
    }
  }

  async describe(): Promise<Collection[]> {
    const found: Collection[] = [];
    for (const name of await this.#files()) {
      const sheet = await this.#sheet(name).catch((error: unknown) => {
        if (error instanceof OutsideError && (error.trouble === 'nonsense' || error.trouble === 'gone')) return null;
        throw error;
      });
      if (sheet === null || sheet.key.length === 0) continue;
      const writable = new Set(sheet.settings.write ?? []);
      const may = { create: sheet.settings.create === true, change: writable.size > 0, remove: sheet.settings.remove === true };
      const fields = sheet.columns.map((c) =>
        writable.has(c.field.name) || (may.create && sheet.key.some((k) => sheet.columns[k] === c)) ? c.field : { ...c.field, readOnly: true },
      );
      found.push({
        name,
        label: sheet.settings.label ?? name.replace(/[_-]+/g, ' '),
        fields,
        may,
        retries: may.create && sheet.key.length === 1 && ownKey(sheet) ? 'key' : 'none',
        stamps: { created: false, modified: false },
      });
    }
    return found;
  }

  async wanting(name: string): Promise<string | null> {
    const sheet = (await this.#paths()).has(name) ? await this.#sheet(name) : null;
    return sheet === null ? null : sheet.key.length === 0 ? 'no column names a row: say with "key" which ones do' : this.#doubled(sheet);
  }

  async *pull(name: string, cursor: string | null, signal: AbortSignal): AsyncIterable<RecordPage> {
    signal.throwIfAborted();
    const sheet = await this.#usable(name);
    if (cursor === sheet.hash) yield { items: [], gone: [], cursor };
    else
      for (let at = 0; at === 0 || at < sheet.rows.length; at += PAGE) {
        const items = sheet.rows.slice(at, at + PAGE).map((r) => this.#item(sheet, r));
        const last = at + PAGE >= sheet.rows.length;
        yield { items, gone: [], ...(last ? { cursor: sheet.hash, ...(cursor === null ? {} : { complete: true as const }) } : {}) };
        await turn();
      }
  }

  async read(name: string, id: string): Promise<RecordItem | null> {
    const sheet = await this.#usable(name);
    const row = sheet.rows.find((r) => idOf(sheet, r.cells) === id);
    return row === undefined ? null : this.#item(sheet, row);
  }

  async create(name: string, fields: FieldValues, key: string): Promise<RecordItem> {
    return this.#write(name, (sheet) => {
      if (sheet.settings.create !== true) throw new OutsideError('refused', `${name}: rows cannot be made here: say "create: true"`);
      const cells = sheet.columns.map(() => '');
      if (ownKey(sheet)) {
        const known = sheet.rows.find((r) => idOf(sheet, r.cells) === key);
        if (known !== undefined) return known;
        cells[sheet.key[0]!] = key;
      }
      fill(cells, sheet, fields);
      const id = idOf(sheet, cells);
      if (id === '')
        throw new OutsideError('refused', `${name}: a new row needs a value for ${sheet.key.map((k) => sheet.columns[k]!.field.name).join(' and ')}`);
      if (sheet.rows.some((r) => idOf(sheet, r.cells) === id)) throw new OutsideError('exists', `${name} has a row ${id} already`);
      const row = { source: lineOf(cells, sheet), cells };
      sheet.rows.push(row);
      return row;
    });
  }

  async change(name: string, from: RecordItem, fields: FieldValues): Promise<RecordItem> {
    return this.#write(name, (sheet) => {
      const row = this.#same(sheet, from);
      if (row === null) throw new OutsideError('gone', `the row ${from.id} of ${name} is gone`);
      const cells = [...row.cells];
      const writable = new Set(sheet.settings.write ?? []);
      fill(cells, sheet, Object.fromEntries(Object.entries(fields).filter(([f]) => writable.has(f))));
      const changed = { source: lineOf(cells, sheet), cells };
      sheet.rows[sheet.rows.indexOf(row)] = changed;
      return changed;
    });
  }

  async remove(name: string, from: RecordItem): Promise<void> {
    await this.#write(name, (sheet) => {
      if (sheet.settings.remove !== true) throw new OutsideError('refused', `${name}: rows cannot be removed here: say "remove: true"`);
      const row = this.#same(sheet, from);
      if (row !== null) sheet.rows.splice(sheet.rows.indexOf(row), 1);
      return row;
    });
  }

  /** The row, if it still is as it was read. @throws `changed meanwhile` */
  #same(sheet: Sheet, from: RecordItem): Row | null {
    const row = sheet.rows.find((r) => idOf(sheet, r.cells) === from.id);
    if (row === undefined) return null;
    if (this.#item(sheet, row).version !== from.version)
      throw new OutsideError('changed meanwhile', `the row ${from.id} of ${sheet.name} was changed in the meantime`);
    return row;
  }

  #item(sheet: Sheet, row: Row): RecordItem {
    return {
      id: idOf(sheet, row.cells),
      fields: Object.fromEntries(sheet.columns.map((c, i) => [c.field.name, readCell(c, row.cells[i] ?? '')])),
      version: createHash('sha1').update(JSON.stringify(row.cells)).digest('base64url').slice(0, 16),
    };
  }

  async #usable(name: string): Promise<Sheet> {
    const sheet = await this.#sheet(name);
    if (sheet.key.length === 0) throw new OutsideError('nonsense', `${name}: no column names a row: say with "key" which ones do`);
    const doubled = this.#doubled(sheet);
    if (doubled !== null) throw new OutsideError('nonsense', `${name}: ${doubled}`);
    return sheet;
  }

  #doubled(sheet: Sheet): string | null {
    const seen = new Map<string, number>();
    for (const [i, row] of sheet.rows.entries()) {
      const id = idOf(sheet, row.cells);
      const line = i + 2;
      if (id === '') return `row ${line} has no value in ${sheet.key.map((k) => sheet.columns[k]!.field.name).join(' and ')}, which names it`;
      const other = seen.get(id);
      if (other !== undefined) return `rows ${other} and ${line} have the same name ${id}; fix one, or say with "key" what names a row`;
      seen.set(id, line);
    }
    return null;
  }

  /** Reads, changes and replaces one file; two writes of ours never cross. */
  #write(name: string, work: (sheet: Sheet) => Row | null): Promise<RecordItem> {
    const next = this.#turn.then(async () => {
      const read = await this.#usable(name);
      const sheet: Sheet = { ...read, rows: [...read.rows] };
      const row = work(sheet);
      if (JSON.stringify(read.rows.map((r) => r.source)) !== JSON.stringify(sheet.rows.map((r) => r.source)))
        await this.#observed(`writing ${name}`, () => replace(sheet, read.hash).catch((error: unknown) => Promise.reject(explain(error, read.path))));
      this.#sheets.delete(name);
      return row === null ? { id: '', fields: {} } : this.#item(sheet, row);
    });
    this.#turn = next.catch(() => undefined);
    return next;
  }

  /** The names of the files, and where they are. Whatever links say, they lie below a folder that the operator named. */
  async #files(): Promise<string[]> {
    return [...(await this.#paths()).keys()];
  }

  async #paths(): Promise<Map<string, string>> {
    const { address } = this.#settings;
    return this.#observed('looking', async () => {
      try {
        const top = await this.#checked(address);
        if (!(await stat(top)).isDirectory()) return new Map([[basename(top).replace(/\.csv$/i, ''), top]]);
        const found = (await readdir(top, { withFileTypes: true })).filter((e) => /\.csv$/i.test(e.name) && !e.name.startsWith('.')).slice(0, 200);
        const paths = new Map<string, string>();
        for (const entry of found) paths.set(entry.name.replace(/\.csv$/i, ''), await this.#checked(join(top, entry.name)));
        return new Map([...paths].sort(([a], [b]) => (a < b ? -1 : 1)));
      } catch (error) {
        throw explain(error, address);
      }
    });
  }

  async #checked(path: string): Promise<string> {
    const folders = this.#options.folders ?? [];
    const real = await realpath(path);
    for (const folder of folders) {
      const home = await realpath(folder).catch(() => null);
      if (home !== null && (real === home || real.startsWith(home + sep))) return real;
    }
    throw new OutsideError(
      'forbidden address',
      `${path} does not lie in a folder that this installation reads; its operator can allow a folder in MONSOON_ALLOW_FOLDERS (now ${folders.join(', ') || 'none'})`,
    );
  }

  async #sheet(name: string): Promise<Sheet> {
    const path = (await this.#paths()).get(name);
    if (path === undefined) throw new OutsideError('gone', `there is no file ${name}.csv in ${this.#settings.address}`);
    return this.#observed(`reading ${name}`, async () => {
      try {
        const found = await stat(path);
        const { size, mtimeMs, mode, ino } = found;
        // Reading a pipe or a device would wait for ever.
        if (!found.isFile()) throw new OutsideError('nonsense', `${path} is no regular file`);
        if (size > LARGEST) throw new OutsideError('nonsense', `${path} has ${size} bytes; ${LARGEST} are read`);
        const stamp = `${ino} ${mtimeMs} ${size}`;
        const known = this.#sheets.get(name);
        if (known?.stamp === stamp) return known.sheet;
        const sheet = await readSheet(await readFile(path), path, name, this.#settings.collections?.[name] ?? {}, mode);
        this.#sheets.set(name, { stamp, sheet });
        return sheet;
      } catch (error) {
        throw explain(error, path);
      }
    });
  }
}

function explain(error: unknown, path: string): unknown {
  const code = (error as { code?: string }).code;
  if (error instanceof OutsideError || code === undefined) return error;
  if (code === 'ENOENT') return new OutsideError('unreachable', `there is no file or folder ${path}`, { cause: error });
  if (code === 'EACCES' || code === 'EPERM')
    return new OutsideError('not authorised', `Monsoon's user may not read or write ${path}`, { cause: error });
  return new OutsideError('broken', `${path} cannot be used (${code})`, { cause: error });
}
