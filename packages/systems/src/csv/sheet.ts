import { createHash, randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { open, readFile, rename, unlink } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { setImmediate as turn } from 'node:timers/promises';
import type { FieldValues } from '@monsoon/core';
import { type Options, parse } from 'csv-parse';
import { stringify } from 'csv-stringify/sync';
import { OutsideError } from '../outside-error.ts';
import { type CsvColumn, guessColumns, writeCell } from './columns.ts';
import type { FileSettings } from './settings.ts';

const MOST_COLUMNS = 500;

export interface Row {
  /** as it stands in the file, without its line end: what is not changed is written back so */
  source: string;
  cells: string[];
}

/** One file as it was read. */
export interface Sheet {
  path: string;
  name: string;
  settings: FileSettings;
  /** of all its bytes */
  hash: string;
  bom: string;
  head: Row;
  rows: Row[];
  delimiter: string;
  lineEnd: string;
  encoding: 'utf-8' | 'windows-1252';
  columns: CsvColumn[];
  /** places of the columns that name a row */
  key: number[];
  mode: number;
}

/** A new row's name is the key of its making, where rows are named by one column that takes any text. */
export const ownKey = (sheet: Sheet): boolean => sheet.settings.ownKeys === true && sheet.key.length === 1;

export const idOf = (sheet: Sheet, cells: string[]): string => {
  const parts = sheet.key.map((k) => (cells[k] ?? '').trim());
  if (parts.some((p) => p === '')) return '';
  return parts.length === 1 ? parts[0]! : JSON.stringify(parts);
};

/** Would a spreadsheet compute it? A telephone number or a dash before words is text. */
const isFormula = (cell: string): boolean => /^[=@\t\r]/.test(cell) || (/^[+-]/.test(cell) && /[(|!=]/.test(cell));

export function fill(cells: string[], sheet: Sheet, fields: FieldValues): void {
  for (const [name, value] of Object.entries(fields)) {
    const at = sheet.columns.findIndex((c) => c.field.name === name);
    if (at < 0) continue;
    const cell = writeCell(sheet.columns[at]!, value);
    if (cell !== cells[at] && typeof value === 'string' && isFormula(cell))
      throw new OutsideError(
        'refused',
        `${sheet.path}: "${cell.slice(0, 50)}" would be a formula for a spreadsheet that opens the file; it is not written to "${name}" (begin it with another character)`,
      );
    cells[at] = cell;
  }
}

export const lineOf = (cells: string[], sheet: Sheet): string =>
  stringify([cells], { delimiter: sheet.delimiter, record_delimiter: sheet.lineEnd, eof: false });

/** Bytes parsed without a pause: a file of megabytes must not hold up everything else. */
const PIECE = 16_384;

/** @throws CsvError where it is no CSV */
async function parseRecords(text: string, options: Options): Promise<Row[]> {
  const records: Row[] = [];
  const parser = parse(options);
  parser.on('readable', () => {
    for (;;) {
      const read = parser.read() as { record: string[]; raw: string } | null;
      if (read === null) return;
      // Around a record the parser leaves pieces of the line ends, which are written again.
      records.push({ source: read.raw.replace(/^[\r\n]+|[\r\n]+$/g, ''), cells: read.record });
    }
  });
  const ended = new Promise<void>((fine, wrong) => parser.once('end', fine).once('error', wrong));
  // Heard of below, also when it fails in the middle.
  ended.catch(() => undefined);
  const bytes = Buffer.from(text);
  for (let at = 0; at < bytes.length && parser.errored === null; at += PIECE) {
    // What it has not taken yet would be parsed all at once later. An error ends it without a drain.
    if (!parser.write(bytes.subarray(at, at + PIECE))) await Promise.race([once(parser, 'drain'), ended]);
    await turn();
  }
  parser.end();
  await ended;
  return records;
}

/** @throws OutsideError */
export async function readSheet(bytes: Buffer, path: string, name: string, settings: FileSettings, mode: number): Promise<Sheet> {
  let text: string;
  let encoding: Sheet['encoding'] = 'utf-8';
  try {
    text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    // Spreadsheets of another age; every byte means something there.
    encoding = 'windows-1252';
    text = new TextDecoder('windows-1252').decode(bytes);
  }
  const bom = text.startsWith('\ufeff') ? '\ufeff' : '';
  const body = text.slice(bom.length);
  const firstLine = /^[^\r\n]*/.exec(body)![0];
  const delimiter = settings.delimiter ?? [',', ';', '\t', '|'].map((d) => ({ d, n: firstLine.split(d).length })).sort((a, b) => b.n - a.n)[0]!.d;
  let records: Row[];
  try {
    records = await parseRecords(body, { delimiter, raw: true, relax_column_count: true, skip_empty_lines: true, max_record_size: 1_000_000 });
  } catch (error) {
    throw new OutsideError('nonsense', `${path} cannot be read as CSV: ${(error as Error).message}`);
  }
  const [head, ...rows] = records;
  if (head === undefined) throw new OutsideError('nonsense', `${path} is empty: its first line names the columns`);
  if (head.cells.length > MOST_COLUMNS) throw new OutsideError('nonsense', `${path} has ${head.cells.length} columns; ${MOST_COLUMNS} are read`);
  const names = head.cells.map((c) => c.trim());
  const doubled = names.find((n, i) => n === '' || names.indexOf(n) !== i);
  if (doubled !== undefined)
    throw new OutsideError(
      'nonsense',
      `${path}: ${doubled === '' ? 'a column has no name in the first line' : `two columns have the name "${doubled}"`}`,
    );
  const long = rows.findIndex((r) => r.cells.length > names.length);
  if (long >= 0) throw new OutsideError('nonsense', `${path}: row ${long + 2} has ${rows[long]!.cells.length} values for ${names.length} columns`);
  const columns = await guessColumns(names, rows, settings.types ?? {}, settings.formats ?? {});
  const key =
    settings.key === undefined
      ? [columns.findIndex((c) => /^(id|key|no|number|nr|code)$/i.test(c.field.name))]
      : settings.key.map((k) => names.indexOf(k));
  if (settings.key !== undefined && key.includes(-1))
    throw new OutsideError('nonsense', `${path} has no column "${settings.key[key.indexOf(-1)]}"; it has ${names.join(', ')}`);
  // What names a row is a name, though it may be made of figures.
  for (const at of key) if (at >= 0 && settings.types?.[names[at]!] === undefined) columns[at]!.field = { ...columns[at]!.field, type: 'text' };
  return {
    path,
    name,
    settings,
    hash: createHash('sha256').update(bytes).digest('base64url'),
    bom,
    head,
    rows,
    delimiter,
    lineEnd: body.includes('\r\n') ? '\r\n' : '\n',
    encoding,
    columns,
    key: key.filter((k) => k >= 0),
    mode,
  };
}

/** Puts a whole new file in place of the old one, if that still is as it was read. */
export async function replace(sheet: Sheet, hash: string): Promise<void> {
  const now = await readFile(sheet.path);
  if (createHash('sha256').update(now).digest('base64url') !== hash)
    throw new OutsideError('changed meanwhile', `${sheet.path} was changed in the meantime`);
  const whole = [sheet.head, ...sheet.rows].map((r) => r.source + sheet.lineEnd).join('');
  const text = sheet.bom + whole;
  const bytes = sheet.encoding === 'utf-8' ? Buffer.from(text, 'utf8') : toWindows1252(text, sheet.path);
  const fresh = join(dirname(sheet.path), `.${basename(sheet.path)}.${randomUUID()}`);
  const file = await open(fresh, 'wx', sheet.mode & 0o777);
  try {
    await file.writeFile(bytes);
    await file.sync();
    await file.close();
    await rename(fresh, sheet.path);
  } catch (error) {
    await file.close().catch(() => undefined);
    await unlink(fresh).catch(() => undefined);
    throw error;
  }
}

const fromByte = new Map(Array.from({ length: 256 }, (_v, i) => [new TextDecoder('windows-1252').decode(Uint8Array.of(i)), i]));

function toWindows1252(text: string, path: string): Buffer {
  const bytes = [...text].map((c) => fromByte.get(c));
  const at = bytes.indexOf(undefined);
  if (at >= 0)
    throw new OutsideError('refused', `${path} is written in windows-1252, which has no character "${[...text][at]}"; save the file as UTF-8 once`);
  return Buffer.from(bytes as number[]);
}
