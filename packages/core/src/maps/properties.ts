import type { FieldType } from '../record/fields.ts';
import { canonical } from '../record/fields.ts';
import { formatWhen } from '../time/format-when.ts';
import { sameWhen, type When } from '../time/when.ts';
import type { ZoneTable } from '../time/zones.ts';

/** What Monsoon reads and writes of an event; meanings as in RFC 5545 and RFC 7986. null is "not there". */
export interface EventValues {
  title: string | null;
  description: string | null;
  location: string | null;
  when: When | null;
  status: 'tentative' | 'confirmed' | 'cancelled' | null;
  busy: 'busy' | 'free' | null;
  visibility: 'public' | 'private' | 'confidential' | null;
  categories: string[] | null;
  link: string | null;
  colour: string | null;
}

export type PropertyName = keyof EventValues;
export type MappedValues = Partial<EventValues>;

/** For each property that a field map can fill: the field types that fit, its longest text, and its fixed values. */
export const properties: Record<Exclude<PropertyName, 'when'>, { types: readonly FieldType[]; limit: number; values?: readonly string[] }> = {
  title: { types: ['text', 'long text', 'choice', 'person', 'reference', 'place', 'number'], limit: 1000 },
  description: {
    types: ['text', 'long text', 'choice', 'choices', 'person', 'people', 'reference', 'references', 'web address', 'place', 'number'],
    limit: 65_536,
  },
  location: { types: ['text', 'long text', 'place', 'reference', 'choice'], limit: 1000 },
  status: { types: ['choice', 'text'], limit: 20, values: ['tentative', 'confirmed', 'cancelled'] },
  busy: { types: ['choice', 'text'], limit: 10, values: ['busy', 'free'] },
  visibility: { types: ['choice', 'text'], limit: 20, values: ['public', 'private', 'confidential'] },
  categories: { types: ['choice', 'choices', 'text', 'reference', 'references'], limit: 1000 },
  link: { types: ['web address', 'text'], limit: 2000 },
  colour: { types: ['text', 'choice'], limit: 50 },
};

export const propertyNames = [
  'when',
  'title',
  'location',
  'description',
  'categories',
  'busy',
  'status',
  'visibility',
  'link',
  'colour',
] as const satisfies readonly PropertyName[];
export type MappableName = keyof typeof properties;
export const mappableNames = Object.keys(properties) as [MappableName, ...MappableName[]];

/** Equality of meaning: categories are a set, times are compared by zone and clock, texts by their characters. */
export function sameProperty(name: PropertyName, a: unknown, b: unknown, zones: ZoneTable): boolean {
  if (a === null || b === null || a === undefined || b === undefined) return (a ?? null) === (b ?? null);
  if (name === 'when') return sameWhen(a as When, b as When, zones);
  if (name === 'categories') return canonical([...(a as string[])].sort()) === canonical([...(b as string[])].sort());
  return a === b;
}

/** A property's value in words, for tables. */
export function sayProperty(value: EventValues[PropertyName] | undefined): string {
  if (value === null || value === undefined) return '';
  if (Array.isArray(value)) return value.join(', ');
  return typeof value === 'object' ? formatWhen(value) : value;
}
