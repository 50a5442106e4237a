import {
  type FieldValue,
  type FieldValues,
  formatInstant,
  type Person,
  type RecordItem,
  type Reference,
  readDateTime,
  UTC,
  type ZoneTable,
} from '@monsoon/core';
import type { CollectionDescriptor, FieldDescriptor } from './descriptor.ts';

/** Sets the value at a JSON Pointer (RFC 6901), making the objects on the way. */
export function put(target: Record<string, unknown>, pointer: string, value: unknown): void {
  const tokens = pointer
    .split('/')
    .slice(1)
    .map((t) => t.replaceAll('~1', '/').replaceAll('~0', '~'));
  let current = target;
  for (const token of tokens.slice(0, -1)) {
    const next = Object.hasOwn(current, token) ? current[token] : undefined;
    if (typeof next !== 'object' || next === null) current[token] = {};
    current = current[token] as Record<string, unknown>;
  }
  const last = tokens.at(-1);
  if (last !== undefined) current[last] = value;
}

/** The body that writes these fields, as the descriptor says. @param from the record as it is; null for a new one */
export function writeRecord(
  fields: FieldValues,
  from: RecordItem | null,
  descriptor: CollectionDescriptor,
  zones: ZoneTable,
): Record<string, unknown> {
  const body: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(fields)) {
    const field = descriptor.fields.find((f) => f.name === name);
    if (field === undefined || field.readOnly === true) continue;
    if (field.type === 'date-time') writeDateTime(body, field, value, from, zones);
    else put(body, field.writeAt ?? field.at, written(value, field));
  }
  return body;
}

function written(value: FieldValue, field: FieldDescriptor): unknown {
  if (value === null) return null;
  if (field.values !== undefined && typeof value !== 'object') {
    const code = Object.keys(field.values).find((c) => field.values![c] === value);
    return code === undefined ? value : field.numbered === true ? Number(code) : code;
  }
  if (field.itemAt !== undefined && Array.isArray(value)) return value.map((v) => wrapped(field.itemAt!, v));
  if (field.type === 'reference') return field.writeAt === undefined ? value : (value as Reference).id;
  if (field.type === 'references') return field.writeAt === undefined ? value : (value as Reference[]).map((r) => r.id);
  if (field.type === 'person') return knownPerson(value as Person);
  if (field.type === 'people') return (value as Person[]).map(knownPerson);
  return value;
}

function wrapped(pointer: string, value: unknown): Record<string, unknown> {
  const object: Record<string, unknown> = {};
  put(object, pointer, value);
  return object;
}

/** Systems that know people know their names: where the calendar has none, the address stands for it. */
const knownPerson = ({ name, email }: Person): Person => ({ name: name ?? email ?? '', ...(email === undefined ? {} : { email }) });

function writeDateTime(body: Record<string, unknown>, field: FieldDescriptor, value: FieldValue, from: RecordItem | null, zones: ZoneTable): void {
  put(body, field.writeAt ?? field.at, value === null ? null : dateTimeOf(body, field, String(value), from, zones));
}

function dateTimeOf(
  body: Record<string, unknown>,
  field: FieldDescriptor,
  value: string,
  from: RecordItem | null,
  zones: ZoneTable,
): string | number {
  const { instant, local, zone } = readDateTime(value, UTC, zones);
  if (field.as === 'seconds') return instant;
  if (field.as === 'milliseconds') return instant * 1000;
  if (!/(Z|[+-]\d\d:?\d\d|\])$/.test(value)) return value;
  // A new record takes the event's zone; an old one keeps its own, in which the value is written already.
  if (field.zoneAt !== undefined && (from === null || from.fields[field.name] === null)) put(body, field.zoneAt, zone.name);
  const as = field.as ?? (field.zoneAt === undefined ? 'offset' : 'local');
  if (as === 'utc') return formatInstant(instant);
  // The second passage of a repeated hour has no wall clock of its own: it is written as an instant.
  if (as === 'local') return readDateTime(`${local}[${zone.name}]`, UTC, zones).instant === instant ? local : formatInstant(instant);
  const offset = /^.{10}T[\d:.]+(Z|[+-]\d\d:?\d\d)/.exec(value)?.[1];
  return offset === undefined ? formatInstant(instant) : `${local}${zone === UTC ? 'Z' : offset}`;
}
