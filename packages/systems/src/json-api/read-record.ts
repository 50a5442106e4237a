import { type FieldValue, type Person, personOf, type RecordItem, type Reference } from '@monsoon/core';
import type { CollectionDescriptor, FieldDescriptor } from './descriptor.ts';

/** The value at a JSON Pointer (RFC 6901); undefined where there is none. */
export function at(value: unknown, pointer: string): unknown {
  let current = value;
  for (const token of pointer.split('/').slice(1)) {
    if (current === null || typeof current !== 'object') return undefined;
    const key = token.replaceAll('~1', '/').replaceAll('~0', '~');
    current = Object.hasOwn(current, key) ? (current as Record<string, unknown>)[key] : undefined;
  }
  return current;
}

const text = (value: unknown): string | undefined => (typeof value === 'string' ? value : typeof value === 'number' ? String(value) : undefined);

/** A record as the descriptor says; undefined when it has no id. */
export function readRecord(raw: unknown, descriptor: CollectionDescriptor, etag?: string): RecordItem | undefined {
  const id = text(at(raw, descriptor.id));
  if (id === undefined || id === '') return undefined;
  const optional = (pointer: string | undefined) => (pointer === undefined ? undefined : text(at(raw, pointer)));
  return {
    id,
    fields: Object.fromEntries(descriptor.fields.map((field) => [field.name, readField(raw, field, descriptor.zone)])),
    version: descriptor.etag === true ? etag : optional(descriptor.version),
    created: time(optional(descriptor.created)),
    modified: time(optional(descriptor.modified)),
    url: descriptor.page?.replace('{id}', encodeURIComponent(id)),
  };
}

/** Numbers since 1970 are distinguished by their size: seconds until the year 5000, then milliseconds. */
const time = (value: string | undefined): string | undefined => {
  if (value === undefined || !/^\d+(\.\d+)?$/.test(value)) return value;
  const number = Number(value);
  return new Date(number < 95_000_000_000 ? number * 1000 : number).toISOString();
};

function readField(raw: unknown, field: FieldDescriptor, defaultZone: string | undefined): FieldValue {
  const given = at(raw, field.at);
  const named = (v: unknown): unknown => (field.values === undefined || typeof v === 'object' ? v : (field.values[String(v)] ?? v));
  const inside = (v: unknown): unknown => named(field.itemAt === undefined ? v : at(v, field.itemAt));
  const value = Array.isArray(given) ? given : named(given);
  if (value === null || value === undefined) return null;
  const list = <T>(read: (v: unknown) => T | null): T[] => (Array.isArray(value) ? value.map(read).filter((v): v is T & {} => v !== null) : []);
  switch (field.type) {
    case 'number':
    case 'duration':
      return typeof value === 'number' ? value : Number.isFinite(Number.parseFloat(String(value))) ? Number(value) : null;
    case 'yes/no':
      return typeof value === 'boolean' ? value : yesNo(value);
    case 'choices':
      return list((v) => text(inside(v)) ?? null);
    case 'person':
      return person(value, field);
    case 'people':
      return list((v) => person(field.itemAt === undefined ? v : at(v, field.itemAt), field));
    case 'reference':
      return reference(value, field);
    case 'references':
      return list((v) => reference(field.itemAt === undefined ? v : at(v, field.itemAt), field));
    case 'date-time':
      return dateTime(raw, value, field, defaultZone);
    case 'text':
    case 'long text':
    case 'choice':
    case 'date':
    case 'time':
    case 'place':
    case 'web address':
      return text(value) ?? null;
  }
}

const yesNo = (value: unknown): boolean | null => {
  if (value === 1 || value === '1' || value === 'true' || value === 'yes' || value === 'Y') return true;
  return value === 0 || value === '0' || value === 'false' || value === 'no' || value === 'N' ? false : null;
};

function person(value: unknown, field: FieldDescriptor): Person | null {
  if (typeof value === 'string') return personOf(value);
  const name = text(at(value, field.nameAt ?? '/name'));
  const email = text(at(value, field.emailAt ?? '/email'));
  return name === undefined && email === undefined ? null : { ...(name === undefined ? {} : { name }), ...(email === undefined ? {} : { email }) };
}

function reference(value: unknown, field: FieldDescriptor): Reference | null {
  if (typeof value !== 'object') return text(value) === undefined ? null : { id: text(value)! };
  const id = text(at(value, field.idAt ?? '/id'));
  const label = text(at(value, field.labelAt ?? '/name'));
  return id === undefined ? null : { id, ...(label === undefined ? {} : { label }) };
}

/** The value in the RFC 9557 text form, with the zone that the record names beside it. */
function dateTime(raw: unknown, given: unknown, field: FieldDescriptor, defaultZone: string | undefined): string | null {
  if (field.as === 'seconds' || field.as === 'milliseconds') {
    const number = Number(given);
    if (given === '' || !Number.isFinite(number)) return null;
    const date = new Date(field.as === 'seconds' ? number * 1000 : number);
    return Number.isNaN(date.getTime()) ? null : `${date.toISOString().slice(0, 19)}Z`;
  }
  const value = text(given) ?? '';
  if (value === '') return null;
  const zone =
    (field.zoneAt === undefined ? undefined : text(at(raw, field.zoneAt))) ?? (/(Z|[+-]\d\d:?\d\d)$/.test(value) ? undefined : defaultZone);
  return zone === undefined || value.includes('[') ? value : `${value}[${zone}]`;
}
