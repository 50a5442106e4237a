import type { Problem } from '../record/conditions.ts';
import { type Field, type FieldValue, isEmpty, type RecordItem, sayValue } from '../record/fields.ts';
import { type EventValues, type MappableName, properties } from './properties.ts';

/**
 * How one event property is filled from record fields.
 * `copy` takes a field as it is; `join` is a text with `{field}` placeholders and `[optional parts]` that vanish when
 * every field in them is empty; `fixed` is always the same; `table` turns each value of a field into another; `page` is
 * the link back to the record's own page. `default` stands in where the result is empty.
 */
export type FieldMap = (
  | { copy: string }
  | { join: string }
  | { fixed: string | string[] }
  | { table: string; values: Record<string, string> }
  | { page: true }
) & { default?: string | undefined };

/** A value that cannot become the property: the item fails, the rest of the run goes on. */
export class UnfitValue extends Error {
  override name = 'UnfitValue';
  readonly field: string;
  readonly value: string;
  readonly reason: string;
  constructor(field: string, value: string, reason: string) {
    super(`${field}: ${reason}`);
    this.field = field;
    this.value = value;
    this.reason = reason;
  }
}

type Part = string | { field: string } | { optional: Part[] };

/**
 * Reads a join text. `{name}` is a field, `[...]` an optional part; `\` before any of `{}[]\` makes it plain.
 * @throws RangeError with the column (from 1) of what is wrong
 */
export function parseJoin(text: string): Part[] {
  let at = 0;
  const parse = (closing: boolean): Part[] => {
    const parts: Part[] = [];
    let plain = '';
    const flush = () => {
      if (plain !== '') parts.push(plain);
      plain = '';
    };
    while (at < text.length) {
      const c = text[at]!;
      if (c === '\\' && at + 1 < text.length) {
        plain += text[at + 1];
        at += 2;
      } else if (c === '{') {
        const end = text.indexOf('}', at);
        if (end < 0) throw new RangeError(`column ${at + 1}: "{" is not closed`);
        flush();
        parts.push({ field: text.slice(at + 1, end).trim() });
        at = end + 1;
      } else if (c === '[') {
        const opened = at++;
        flush();
        parts.push({ optional: parse(true) });
        if (text[at] !== ']') throw new RangeError(`column ${opened + 1}: "[" is not closed`);
        at++;
      } else if (c === ']') {
        if (!closing) throw new RangeError(`column ${at + 1}: "]" closes nothing`);
        break;
      } else {
        plain += c;
        at++;
      }
    }
    flush();
    return parts;
  };
  return parse(false);
}

const fieldsOf = (parts: Part[]): string[] => parts.flatMap((p) => (typeof p === 'string' ? [] : 'field' in p ? [p.field] : fieldsOf(p.optional)));

function fill(parts: Part[], record: RecordItem): string {
  return parts
    .map((part) => {
      if (typeof part === 'string') return part;
      if ('field' in part) return sayValue(record.fields[part.field]);
      return fieldsOf(part.optional).every((f) => isEmpty(record.fields[f])) ? '' : fill(part.optional, record);
    })
    .join('');
}

/** Every reason why a map cannot fill its property from these fields. */
export function checkFieldMap(property: MappableName, map: FieldMap, fields: readonly Field[], pointer: string): Problem[] {
  const target = properties[property];
  const unknown = (name: string, where: string): Problem => ({
    pointer: `${pointer}/${where}`,
    reason: `there is no field "${name}"; there are ${fields.map((f) => f.name).join(', ')}`,
  });
  const problems: Problem[] = [];
  if ('copy' in map) {
    const field = fields.find((f) => f.name === map.copy);
    if (field === undefined) problems.push(unknown(map.copy, 'copy'));
    else if (!target.types.includes(field.type)) {
      const fitting = fields.filter((f) => target.types.includes(f.type)).map((f) => f.name);
      problems.push({
        pointer: `${pointer}/copy`,
        reason: `the field "${field.name}" is of type ${field.type}, which cannot fill ${property}; fitting fields are ${fitting.join(', ') || '(none)'}`,
      });
    }
  } else if ('join' in map) {
    try {
      for (const name of fieldsOf(parseJoin(map.join))) {
        if (!fields.some((f) => f.name === name)) problems.push(unknown(name, 'join'));
      }
    } catch (error) {
      problems.push({ pointer: `${pointer}/join`, reason: (error as Error).message });
    }
  }
  if ('table' in map) problems.push(...checkTable(map, fields, pointer));
  if ('page' in map && property !== 'link')
    problems.push({ pointer: `${pointer}/page`, reason: `the record's page can only fill link, not ${property}` });
  const constants = [
    ...('table' in map ? Object.entries(map.values).map(([from, to]) => [`values/${from}`, to] as const) : []),
    ...('fixed' in map ? [map.fixed].flat().map((v) => ['fixed', v] as const) : []),
    ...(map.default === undefined ? [] : [['default', map.default] as const]),
  ];
  for (const [where, value] of constants) {
    if (target.values !== undefined && !target.values.includes(value)) {
      problems.push({ pointer: `${pointer}/${where}`, reason: `"${value}" is not a value of ${property}; values are ${target.values.join(', ')}` });
    }
  }
  return problems;
}

function checkTable(map: { table: string; values: Record<string, string> }, fields: readonly Field[], pointer: string): Problem[] {
  const field = fields.find((f) => f.name === map.table);
  if (field === undefined)
    return [{ pointer: `${pointer}/table`, reason: `there is no field "${map.table}"; there are ${fields.map((f) => f.name).join(', ')}` }];
  return Object.keys(map.values)
    .filter((value) => field.choices !== undefined && !field.choices.includes(value))
    .map((value) => ({
      pointer: `${pointer}/values/${value}`,
      reason: `"${value}" is no choice of "${field.name}"; choices are ${field.choices!.join(', ')}`,
    }));
}

/** What a map makes of a record, as text. */
function textOf(map: FieldMap, record: RecordItem): string {
  if ('fixed' in map) return [map.fixed].flat().join(', ');
  if ('copy' in map) return sayValue(record.fields[map.copy]);
  if ('join' in map) return fill(parseJoin(map.join), record);
  if ('page' in map) return record.url ?? '';
  const value = sayValue(record.fields[map.table]);
  return Object.hasOwn(map.values, value) ? map.values[value]! : '';
}

/**
 * The property that a record shows through a map.
 * @throws UnfitValue naming the field, the value and the limit
 */
export function show(property: MappableName, map: FieldMap, record: RecordItem): EventValues[MappableName] {
  if (property === 'categories') {
    const words = 'fixed' in map ? [map.fixed].flat() : 'copy' in map ? wordsOf(record.fields[map.copy] ?? null) : [textOf(map, record)];
    const kept = [...new Set(words.map(clean).filter((w) => w !== ''))];
    return kept.length > 0 ? kept : map.default === undefined ? null : [map.default];
  }
  const text = clean(textOf(map, record)) || (map.default ?? '');
  if (text === '') return null;
  const { limit, values } = properties[property];
  const source = 'copy' in map ? map.copy : property;
  if (text.length > limit)
    throw new UnfitValue(
      source,
      `${text.slice(0, 40)}... (${text.length} characters)`,
      `is ${text.length} characters long, and ${property} takes ${limit}`,
    );
  if (values !== undefined && !values.includes(text))
    throw new UnfitValue(source, text, `"${text}" is not a value of ${property}; values are ${values.join(', ')}`);
  return text as EventValues[MappableName];
}

const wordsOf = (value: FieldValue): string[] => (Array.isArray(value) ? value.map((v) => sayValue(v)) : [sayValue(value)]);

/**
 * Text as iCalendar can hold it: line feeds only, no other control characters (RFC 5545, 3.3.11), which would also
 * make a calendar server's XML answers unreadable; no blanks around it, which many servers cut off.
 */
export function clean(text: string): string {
  return text
    .replace(/\r\n?/g, '\n')
    .replace(/(?![\n\t])\p{Cc}|[\ufffe\uffff]/gu, '')
    .replace(/\p{Surrogate}/gu, '\ufffd')
    .trim();
}
