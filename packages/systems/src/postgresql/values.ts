import { type FieldValue, formatInstant, type Person, personOf, personText, type Reference, readDateTime, UTC, type ZoneTable } from '@monsoon/core';
import { type Column, quoted } from './catalogue.ts';
import type { Cell } from './connection.ts';

const ISO = `'YYYY-MM-DD"T"HH24:MI:SS'`;
const isArray = (c: Column) => c.sqlType.endsWith('[]');

/** The expressions that select a column, of the row called t and the joined tables r0, r1, ... @param number of its reference */
export function selected(column: Column, number: number): string[] {
  const name = `t.${quoted(column.name)}`;
  const { type } = column.field;
  if (column.refers !== null) return [`${name}::text`, column.refers.label === null ? 'null' : `r${number}.${column.refers.label}::text`];
  if (/^timestamp.* with time zone$/.test(column.sqlType)) return [`case when isfinite(${name}) then to_char(${name}, ${ISO}) || 'Z' end`];
  if (column.sqlType.startsWith('timestamp')) return [`case when isfinite(${name}) then to_char(${name}, ${ISO}) end`];
  if (column.sqlType === 'date') return [`case when isfinite(${name}) then ${name}::text end`];
  if (column.sqlType.startsWith('time')) return [`to_char(${name}::time, 'HH24:MI:SS')`];
  if (type === 'duration' && column.sqlType.startsWith('interval')) return [`round(extract(epoch from ${name}) / 60.0, 4)::float8`];
  if (isArray(column)) return [`array_to_json(${name})::text`];
  return [`${name}::text`];
}

/** @param cells what `selected` gave; a reference has two @param zone of wall clocks that name none */
export function readValue(column: Column, cells: Cell[], zone: string | undefined): FieldValue {
  const [text] = cells;
  if (text === null || text === undefined) return null;
  const list = () => (isArray(column) ? (JSON.parse(text) as unknown[]).filter((v) => v !== null).map(String) : [text]);
  switch (column.field.type) {
    case 'yes/no':
      return text === 'true' || text === 't';
    case 'number':
    case 'duration':
      return Number.isFinite(Number(text)) ? Number(text) : null;
    case 'choices':
      return list();
    case 'person':
      return personOf(text);
    case 'people':
      return list().map(personOf);
    case 'reference':
      return { id: text, ...(cells[1] == null ? {} : { label: cells[1] }) };
    case 'references':
      return list().map((id) => ({ id }));
    case 'date-time':
      return zone === undefined ? text : `${text}[${zone}]`;
    default:
      return text;
  }
}

/** A value as a parameter, and the expression that takes it. @param place its `$1` */
export function written(
  column: Column,
  value: FieldValue,
  place: string,
  zones: ZoneTable,
  zone: string | undefined,
): { sql: string; value: unknown } {
  const cast = (v: unknown) => ({ sql: `${place}::${column.sqlType}`, value: v });
  if (value === null) return cast(null);
  switch (column.field.type) {
    case 'duration':
      return column.sqlType.startsWith('interval') ? { sql: `make_interval(secs => ${place}::float8)`, value: Number(value) * 60 } : cast(value);
    case 'date-time': {
      const fallback = (zone === undefined ? undefined : zones.find(zone)) ?? UTC;
      const { instant, local } = readDateTime(String(value), fallback, zones);
      if (column.sqlType.endsWith('with time zone')) return cast(formatInstant(instant));
      if (zone === undefined) return cast(local);
      return cast(formatInstant(instant + fallback.period(instant).offset).slice(0, -1));
    }
    case 'reference':
      return cast((value as Reference).id);
    case 'references':
      return cast((value as Reference[]).map((r) => r.id));
    case 'person':
      return cast(personText(value as Person));
    case 'people':
      return cast(isArray(column) ? (value as Person[]).map(personText) : (value as Person[]).map(personText).join(', '));
    default:
      return cast(value);
  }
}
