/** The types a record field can have. */
export const fieldTypes = [
  'text',
  'long text',
  'number',
  'yes/no',
  'choice',
  'choices',
  'date',
  'time',
  'date-time',
  'duration',
  'person',
  'people',
  'reference',
  'references',
  'web address',
  'place',
] as const;
export type FieldType = (typeof fieldTypes)[number];

export const durationUnits = ['seconds', 'minutes', 'hours', 'days'] as const;
export type DurationUnit = (typeof durationUnits)[number];

/** Seconds in one of each unit. A day of length is 24 hours; days of a calendar are dates, not lengths. */
export const unitSeconds: Record<DurationUnit, number> = { seconds: 1, minutes: 60, hours: 3600, days: 86_400 };

/** One field of a collection. */
export interface Field {
  name: string;
  label: string;
  type: FieldType;
  /** the values of a choice */
  choices?: string[] | undefined;
  /** the unit of a duration */
  unit?: DurationUnit | undefined;
  /** the system does not let it be written */
  readOnly?: boolean | undefined;
  /** the longest text it takes, in characters */
  limit?: number | undefined;
}

export const findField = (fields: readonly Field[], name: string): Field | undefined => fields.find((f) => f.name === name);

export interface Person {
  name?: string;
  email?: string;
}

/** A guest as a row of another collection has them. */
export interface GuestRow extends Person {
  email: string;
  /** what the row says that they replied */
  response?: string;
}

/** A person as systems without people write them: by address, or by name. */
export const personOf = (text: string): Person => (text.includes('@') ? { email: text } : { name: text });
export const personText = ({ email, name }: Person): string | null => email ?? name ?? null;

export interface Reference {
  id: string;
  label?: string;
}

/**
 * The value of a field, by its type: text types and choice are strings; number and duration (in the field's unit)
 * are numbers; date `2026-12-15`; time `09:30:00`; date-time in the RFC 9557 text form of time/date-time.ts.
 * null is "nothing there", for every type.
 */
export type FieldValue = string | number | boolean | string[] | Person | Person[] | GuestRow[] | Reference | Reference[] | null;

export type FieldValues = Record<string, FieldValue>;

/** A record as its system gave it. */
export interface RecordItem {
  id: string;
  fields: FieldValues;
  /** what the system calls this state of the record: an ETag or version */
  version?: string | undefined;
  /** RFC 3339 */
  created?: string | undefined;
  /** RFC 3339 */
  modified?: string | undefined;
  /** where a person can see the record */
  url?: string | undefined;
  /** recurrence rules by which it repeats in its own system, which no lane can carry: it is left out */
  repeats?: string[] | undefined;
  /** parts of a new record that could not be written, and why: they are tried again */
  unwritten?: { field: string; reason: string }[] | undefined;
}

/**
 * What a state of a record is called: by its system's version, or by a number made of its content (53 bits; two states
 * of one record that share it by chance are not to be expected).
 */
export function stateOf(record: RecordItem): string {
  if (record.version !== undefined) return record.version;
  const plain = JSON.stringify(record.fields);
  // An empty list says what no list says: a system that gives now one and now the other has changed nothing.
  const text = plain.includes('[]') ? JSON.stringify(record.fields, (_, v: unknown) => (Array.isArray(v) && v.length === 0 ? null : v)) : plain;
  let [a, b] = [0xdeadbeef, 0x41c6ce57];
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    a = Math.imul(a ^ code, 2654435761);
    b = Math.imul(b ^ code, 1597334677);
  }
  a = Math.imul(a ^ (a >>> 16), 2246822507) ^ Math.imul(b ^ (b >>> 13), 3266489909);
  b = Math.imul(b ^ (b >>> 16), 2246822507) ^ Math.imul(a ^ (a >>> 13), 3266489909);
  return `content ${(4294967296 * (2097151 & b) + (a >>> 0)).toString(36)}`;
}

/** Records of one kind in a system. */
export interface Collection {
  name: string;
  label: string;
  fields: Field[];
  /** what the system lets a client do */
  may: { create: boolean; change: boolean; remove: boolean };
  /**
   * How the system knows a creation that is tried again: by an idempotency key it remembers (`key`), or not at all
   * (`none`); then the attempt is looked for among its records.
   */
  retries: 'key' | 'none';
  /** do its records say when they were made, and when they were last changed? */
  stamps: { created: boolean; modified: boolean };
}

/** Types that a system can be told a field is of, where its own type does not say what it means. */
const means: Partial<Record<FieldType, readonly FieldType[]>> = {
  number: ['duration'],
  text: ['person', 'people', 'place', 'web address', 'choice'],
  'long text': ['person', 'people', 'place', 'web address', 'choice'],
};

/** How a field that does not fit by its type may be made to: a database cannot say that a number is a length, a person can. */
export function sayCure(field: Field, wanted: readonly FieldType[]): string {
  const type = means[field.type]?.find((t) => wanted.includes(t));
  return type === undefined ? '' : `; if "${field.name}" is one, say so in the settings of its system (types: { ${field.name}: ${type} })`;
}

export const isEmpty = (value: FieldValue | undefined): boolean =>
  value === null || value === undefined || value === '' || (Array.isArray(value) && value.length === 0);

/** A value in words for titles, tables and reasons. */
export function sayValue(value: FieldValue | undefined): string {
  if (value === null || value === undefined) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.map((v) => sayValue(v)).join(', ');
  if (typeof value === 'object') return 'id' in value ? (value.label ?? value.id) : sayPerson(value);
  return String(value);
}

/** `Ada Lark`; of a row of guests `Ada Lark: accepted` */
export const sayPerson = ({ name, email, response }: Person & { response?: string }): string =>
  `${name ?? email ?? ''}${response === undefined ? '' : `: ${response}`}`;

/** One text for equal values whatever the order of their keys, because databases reorder them. */
export function canonical(value: unknown): string {
  return JSON.stringify(value, (_key, v: unknown) =>
    v !== null && typeof v === 'object' && !Array.isArray(v) ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1))) : v,
  );
}
