import { setImmediate as turn } from 'node:timers/promises';
import { type Field, type FieldType, type FieldValue, type Person, personOf, personText, type Reference } from '@monsoon/core';

/** How dates stand in a column: year first, day first or month first, and what stands between. */
export const dateForms = ['y-m-d', 'd/m/y', 'm/d/y', 'd.m.y', 'd-m-y', 'y/m/d'] as const;
export type DateForm = (typeof dateForms)[number];

export interface CsvColumn {
  field: Field;
  form: DateForm;
  /** between the day and the time */
  between: 'T' | ' ';
  /** were there seconds? */
  seconds: boolean;
  /** the words for yes and no, as the file has them */
  yes: string;
  no: string;
  /** `3,5` instead of `3.5` */
  comma: boolean;
}

/** Rows that are looked at to guess what a column holds. */
const LOOKED_AT = 5000;
const MOST_CHOICES = 20;

const yesNo: [string, string][] = [
  ['yes', 'no'],
  ['true', 'false'],
  ['y', 'n'],
  ['x', ''],
];

/** What each column holds, by its values: the type that all of them have. @param given the types that a person said */
export async function guessColumns(
  names: string[],
  rows: readonly { cells: string[] }[],
  given: Record<string, FieldType>,
  forms: Record<string, DateForm>,
): Promise<CsvColumn[]> {
  const columns: CsvColumn[] = [];
  for (const [i, name] of names.entries()) {
    // Looking through one column is all that is done in one go.
    await turn();
    const values = rows.slice(0, LOOKED_AT).map((r) => (r.cells[i] ?? '').trim());
    const filled = values.filter((v) => v !== '');
    const all = (test: (v: string) => boolean) => filled.length > 0 && filled.every(test);
    const form = forms[name] ?? dateForms.find((f) => all((v) => parseDate(v.slice(0, 10).replace(/[ T].*$/, ''), f) !== null)) ?? 'y-m-d';
    const words = yesNo.find(
      ([yes, no]) => (filled.length > 0 || no === '') && filled.every((v) => [yes, no].includes(v.toLowerCase())) && filled.length > 0,
    );
    const distinct = [...new Set(filled)];
    const type = given[name] ?? guess();
    function guess(): FieldType {
      if (words !== undefined) return 'yes/no';
      if (all((v) => parseDate(v, form) !== null)) return 'date';
      if (all((v) => parseDateTime(v, form) !== null)) return 'date-time';
      if (all((v) => /^\d{1,2}:\d\d(:\d\d)?$/.test(v))) return 'time';
      // A number that begins with a nought is a name: 0113 496 is no quantity.
      if (all((v) => /^-?(0|[1-9]\d{0,14})([.,]\d+)?$/.test(v))) return 'number';
      if (all((v) => /^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(v))) return 'person';
      if (all((v) => /^https?:\/\/\S+$/.test(v))) return 'web address';
      if (distinct.length > 0 && distinct.length <= MOST_CHOICES && filled.length >= distinct.length * 3 && distinct.every((v) => v.length <= 40))
        return 'choice';
      return filled.some((v) => v.length > 200 || v.includes('\n')) ? 'long text' : 'text';
    }
    const [yes, no] = words ?? ['yes', 'no'];
    const cased = (word: string) => distinct.find((v) => v.toLowerCase() === word) ?? word;
    columns.push({
      field: {
        name,
        label: `${name[0]!.toUpperCase()}${name.slice(1).replace(/[_-]+/g, ' ')}`,
        type,
        ...(type === 'choice' ? { choices: distinct.sort() } : {}),
        ...(type === 'duration' ? { unit: 'minutes' as const } : {}),
      },
      form,
      between: filled.some((v) => v.includes('T')) ? 'T' : ' ',
      seconds: filled.some((v) => /\d:\d\d:\d\d/.test(v)),
      yes: cased(yes),
      no: cased(no),
      comma: filled.some((v) => /^-?\d+,\d+$/.test(v)),
    });
  }
  return columns;
}

/** `15/12/2026` as `2026-12-15`; null for what is no day in this form */
export function parseDate(text: string, form: DateForm): string | null {
  const parts = /^(\d{1,4})([-/.])(\d{1,2})\2(\d{1,4})$/.exec(text.trim());
  if (parts === null || parts[2] !== form[1]) return null;
  const order = form.split(/[-/.]/);
  const given = [parts[1]!, parts[3]!, parts[4]!];
  const part = (letter: string) => given[order.indexOf(letter)]!;
  if (part('y').length !== 4) return null;
  const day = `${part('y')}-${part('m').padStart(2, '0')}-${part('d').padStart(2, '0')}`;
  const read = new Date(`${day}T00:00:00Z`);
  return Number.isNaN(read.getTime()) || read.toISOString().slice(0, 10) !== day ? null : day;
}

export function parseDateTime(text: string, form: DateForm): string | null {
  const parts = /^(\S+?)[T ]+(\d{1,2}):(\d\d)(?::(\d\d)(?:\.\d+)?)?\s*(Z|[+-]\d\d:?\d\d)?$/.exec(text.trim());
  const day = parts === null ? null : parseDate(parts[1]!, form);
  if (day === null || Number(parts![2]) > 23 || Number(parts![3]) > 59) return null;
  return `${day}T${parts![2]!.padStart(2, '0')}:${parts![3]}:${parts![4] ?? '00'}${parts![5] ?? ''}`;
}

/** A cell as its column's type; what does not fit is nothing there. */
export function readCell(column: CsvColumn, cell: string): FieldValue {
  const text = cell.trim();
  const { type } = column.field;
  if (type === 'yes/no') return text === '' && column.no !== '' ? null : text.toLowerCase() === column.yes.toLowerCase();
  if (text === '') return null;
  const list = () =>
    text
      .split(/[;,\n]/)
      .map((t) => t.trim())
      .filter((t) => t !== '');
  switch (type) {
    case 'number':
    case 'duration': {
      const number = Number(text.replace(',', '.'));
      return Number.isFinite(number) ? number : null;
    }
    case 'date':
      return parseDate(text, column.form);
    case 'date-time':
      return parseDateTime(text, column.form) ?? (parseDate(text, column.form) === null ? null : `${parseDate(text, column.form)}T00:00:00`);
    case 'time':
      return /^\d{1,2}:\d\d(:\d\d)?$/.test(text)
        ? `${text.length < 5 || text[1] === ':' ? '0' : ''}${text}${text.split(':').length === 2 ? ':00' : ''}`
        : null;
    case 'choices':
      return list();
    case 'person':
      return personOf(text);
    case 'people':
      return list().map(personOf);
    case 'reference':
      return { id: text };
    case 'references':
      return list().map((id) => ({ id }));
    case 'text':
    case 'long text':
    case 'choice':
    case 'place':
    case 'web address':
      return cell;
  }
}

/** A value as the column has them. */
export function writeCell(column: CsvColumn, value: FieldValue): string {
  if (value === null) return '';
  const day = (iso: string) => {
    const [y, m, d] = iso.split('-') as [string, string, string];
    return column.form.replace('y', y).replace('m', m).replace('d', d);
  };
  const time = (t: string) => (column.seconds ? t : t.slice(0, 5));
  switch (column.field.type) {
    case 'yes/no':
      return value === true ? column.yes : column.no;
    case 'number':
    case 'duration':
      return column.comma ? String(value).replace('.', ',') : String(value);
    case 'date':
      return day(String(value));
    case 'date-time': {
      const [date, rest = ''] = String(value).replace(/\[.*$/, '').split('T') as [string, string?];
      const offset = /(Z|[+-]\d\d:?\d\d)$/.exec(rest)?.[0] ?? '';
      return `${day(date)}${column.between}${time(rest.slice(0, 8))}${offset}`;
    }
    case 'time':
      return time(String(value));
    case 'choices':
      return (value as string[]).join('; ');
    case 'person':
      return personText(value as Person) ?? '';
    case 'people':
      return (value as Person[]).map(personText).join('; ');
    case 'reference':
      return (value as Reference).id;
    case 'references':
      return (value as Reference[]).map((r) => r.id).join('; ');
    case 'text':
    case 'long text':
    case 'choice':
    case 'place':
    case 'web address':
      return String(value);
  }
}
