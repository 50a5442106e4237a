import { createHash } from 'node:crypto';
import type { FieldValues, RecordItem } from '@monsoon/core';
import type { Table } from './catalogue.ts';
import type { Cell } from './connection.ts';
import { quoted } from './names.ts';
import { plainIn, selected, valueIn } from './values.ts';

/** The statement that reads rows, without its condition, and what makes records of what it gives. */
export function reading(table: Table, zone: string | undefined): { text: string; read: (cells: Cell[]) => RecordItem } {
  const { settings } = table;
  const referring = table.columns.filter((c) => c.refers !== null);
  const joins = referring.map((c, i) => ` left join ${c.refers!.table} r${i} on r${i}.${c.refers!.key} = t.${quoted(c.name)}`);
  const parts = table.columns.map((c) => selected(c, referring.indexOf(c)));
  const head = [keyText(table), table.view ? 'null' : 't.xmin::text'];
  const columns = table.columns.map((column, i) => ({
    name: column.name,
    at: head.length + parts.slice(0, i).flat().length,
    labelled: parts[i]!.length > 1,
    plain: plainIn(column),
    value: valueIn(column, zone),
  }));
  const named = (name: string | undefined) => columns.find((c) => c.name === name);
  const [modifiedIn, createdIn] = [named(settings.modified), named(settings.created)];
  const text = `select ${[...head, ...parts.flat()].join(', ')} from ${table.sql} t${joins.join('')}`;
  const read = (cells: Cell[]): RecordItem => {
    const fields: FieldValues = {};
    const labels: Cell[] = [];
    for (const { name, at, labelled, plain, value } of columns) {
      const own = plain(cells[at]);
      const label = labelled ? cells[at + 1]! : null;
      if (labelled) labels.push(label);
      fields[name] = own === null ? null : value(own, label);
    }
    const [id, xmin] = cells;
    const modified = modifiedIn?.plain(cells[modifiedIn.at]) ?? null;
    const created = createdIn?.plain(cells[createdIn.at]) ?? null;
    return {
      id: id!,
      fields,
      ...(xmin == null
        ? {}
        : { version: labels.length === 0 ? xmin : `${xmin} ${createHash('sha1').update(JSON.stringify(labels)).digest('hex').slice(0, 10)}` }),
      ...(modified === null ? {} : { modified: instant(modified) }),
      ...(created === null ? {} : { created: instant(created) }),
      ...(settings.page === undefined ? {} : { url: settings.page.replace('{id}', encodeURIComponent(id!)) }),
    };
  };
  return { text, read };
}

const instant = (text: string): string => (text.endsWith('Z') ? text : `${text}Z`);

/** A row's name: its key as text; of several columns, a JSON array of texts. */
export const keyText = (table: Table): string =>
  table.key.length === 1
    ? `t.${quoted(table.key[0]!.name)}::text`
    : `jsonb_build_array(${table.key.map((k) => `t.${quoted(k.name)}::text`).join(', ')})::text`;

/** Can a new row be named by its maker? Then an attempt that is repeated makes no second one. */
export const ownKeys = (table: Table): boolean => table.may.create && table.key.length === 1 && table.key[0]!.sqlType === 'uuid';

export function keyOf(table: Table, id: string): string[] | null {
  if (table.key.length === 1) return [id];
  try {
    const parts = JSON.parse(id) as unknown;
    return Array.isArray(parts) && parts.length === table.key.length && parts.every((p) => typeof p === 'string') ? parts : null;
  } catch {
    return null;
  }
}

/** The condition that names a row. @param first number of its first parameter */
export function byKey(table: Table, id: string, first: number): { sql: string | null; values: string[] } {
  const values = keyOf(table, id);
  if (values === null) return { sql: null, values: [] };
  return { sql: table.key.map((k, i) => `t.${quoted(k.name)} = $${first + i}::${k.sqlType}`).join(' and '), values };
}
