import { type FieldValue, formatInstant, type Person, personOf, personText, type Reference, readDateTime, UTC, type ZoneTable } from '@monsoon/core';
import type { Column } from './catalogue.ts';
import type { Cell } from './connection.ts';
import { quoted } from './names.ts';

const DASH = '-'.charCodeAt(0);
const isArray = (c: Column) => c.sqlType.endsWith('[]');

/** The expressions that select a column, of the row called t and the joined tables r0, r1, ... @param number of its reference */
export function selected(column: Column, number: number): string[] {
  const name = `t.${quoted(column.name)}`;
  const { type } = column.field;
  if (column.refers !== null) return [`${name}::text`, column.refers.label === null ? 'null' : `r${number}.${column.refers.label}::text`];
  if (column.sqlType === 'date') return [`case when isfinite(${name}) then ${name}::text end`];
  if (/^time\b/.test(column.sqlType)) return [`to_char(${name}::time, 'HH24:MI:SS')`];
  if (type === 'duration' && column.sqlType.startsWith('interval')) return [`round(extract(epoch from ${name}) / 60.0, 4)::float8`];
  if (isArray(column)) return [`array_to_json(${name})::text`];
  return [`${name}::text`];
}

/**
 * Makes of a cell what its column means: a time in ISO 8601, of our sessions' UTC where it has a zone; null where it is
 * infinite, or of a year that has not four digits. The database writes a time in a third of the time that it would take to format it there.
 */
export function plainIn(column: Column): (cell: Cell | undefined) => string | null {
  if (!column.sqlType.startsWith('timestamp') || isArray(column)) return (cell) => cell ?? null;
  const end = /^timestamp.* with time zone$/.test(column.sqlType) ? 'Z' : '';
  return (cell) => (cell == null || cell.charCodeAt(4) !== DASH || cell.endsWith('BC') ? null : `${cell.slice(0, 10)}T${cell.slice(11, 19)}${end}`);
}

/** Makes a field's value of plain text, and of the label that a reference has. @param zone of wall clocks that name none */
export function valueIn(column: Column, zone: string | undefined): (text: string, label: Cell) => FieldValue {
  const list = isArray(column) ? (text: string) => (JSON.parse(text) as unknown[]).filter((v) => v !== null).map(String) : (text: string) => [text];
  switch (column.field.type) {
    case 'yes/no':
      return (text) => text === 'true' || text === 't';
    case 'number':
    case 'duration':
      return (text) => (Number.isFinite(Number(text)) ? Number(text) : null);
    case 'choices':
      return list;
    case 'person':
      return personOf;
    case 'people':
      return (text) => list(text).map(personOf);
    case 'reference':
      return (id, label) => ({ id, ...(label === null ? {} : { label }) });
    case 'references':
      return (text) => list(text).map((id) => ({ id }));
    case 'date-time':
      return (text) => (zone === undefined ? text : `${text}[${zone}]`);
    case 'text':
    case 'long text':
    case 'choice':
    case 'date':
    case 'time':
    case 'place':
    case 'web address':
      return (text) => text;
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
    case 'text':
    case 'long text':
    case 'number':
    case 'yes/no':
    case 'choice':
    case 'choices':
    case 'date':
    case 'time':
    case 'place':
    case 'web address':
      return cast(value);
  }
}
