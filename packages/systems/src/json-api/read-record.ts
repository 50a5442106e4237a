import type { FieldValue, Person, RecordItem, Reference } from '@monsoon/core';
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
export function readRecord(raw: unknown, descriptor: CollectionDescriptor): RecordItem | undefined {
  const id = text(at(raw, descriptor.id));
  if (id === undefined || id === '') return undefined;
  const optional = (pointer: string | undefined) => (pointer === undefined ? undefined : text(at(raw, pointer)));
  return {
    id,
    fields: Object.fromEntries(descriptor.fields.map((field) => [field.name, readField(raw, field)])),
    version: optional(descriptor.version),
    created: optional(descriptor.created),
    modified: optional(descriptor.modified),
    url: descriptor.page?.replace('{id}', encodeURIComponent(id)),
  };
}

function readField(raw: unknown, field: FieldDescriptor): FieldValue {
  const value = at(raw, field.at);
  if (value === null || value === undefined) return null;
  const list = <T>(read: (v: unknown) => T | null): T[] =>
    Array.isArray(value)
      ? value
          .slice(0, 1000)
          .map(read)
          .filter((v): v is T & {} => v !== null)
      : [];
  switch (field.type) {
    case 'number':
    case 'duration':
      return typeof value === 'number' ? value : Number.isFinite(Number.parseFloat(String(value))) ? Number(value) : null;
    case 'yes/no':
      return typeof value === 'boolean' ? value : null;
    case 'choices':
      return list((v) => text(v) ?? null);
    case 'person':
      return person(value);
    case 'people':
      return list(person);
    case 'reference':
      return reference(value, field);
    case 'references':
      return list((v) => reference(v, field));
    case 'date-time':
      return dateTime(raw, text(value) ?? '', field);
    default:
      return text(value) ?? null;
  }
}

function person(value: unknown): Person | null {
  if (typeof value === 'string') return value.includes('@') ? { email: value } : { name: value };
  const name = text(at(value, '/name'));
  const email = text(at(value, '/email'));
  return name === undefined && email === undefined ? null : { ...(name === undefined ? {} : { name }), ...(email === undefined ? {} : { email }) };
}

function reference(value: unknown, field: FieldDescriptor): Reference | null {
  if (typeof value !== 'object') return text(value) === undefined ? null : { id: text(value)! };
  const id = text(at(value, field.idAt ?? '/id'));
  const label = text(at(value, field.labelAt ?? '/name'));
  return id === undefined ? null : { id, ...(label === undefined ? {} : { label }) };
}

/** The value in the RFC 9557 text form, with the zone that the record names beside it. */
function dateTime(raw: unknown, value: string, field: FieldDescriptor): string | null {
  if (value === '') return null;
  const zone = field.zoneAt === undefined ? undefined : text(at(raw, field.zoneAt));
  return zone === undefined || value.includes('[') ? value : `${value}[${zone}]`;
}
