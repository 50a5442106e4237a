import type { FieldType } from '../record/fields.ts';
import { canonical } from '../record/fields.ts';
import { sameWhen, spanOf, type When } from '../time/when.ts';
import { UTC, type ZoneTable } from '../time/zones.ts';
import type { PropertyName } from './property-names.ts';
import type { Reminder } from './reminders.ts';

/** Who takes part (RFC 5545, 3.8.4.1). Known by the address alone: names and replies belong to the calendar. */
export interface Attendee {
  email: string;
  name?: string;
  /** not there: required */
  role?: 'chair' | 'optional' | 'for information';
  /** not there: a person */
  kind?: 'group' | 'resource' | 'room' | 'unknown';
  /** a reply is asked for */
  asked?: true;
  response?: Response;
  /** what the calendar server says of delivering the invitation (RFC 6638, 3.2.9): a status code (RFC 5545, 3.8.8.3) such as 2.0 */
  delivery?: string;
}

/** What a guest replied (RFC 5545, 3.2.12). */
export const responses = ['needs action', 'accepted', 'declined', 'tentative', 'delegated'] as const;
export type Response = (typeof responses)[number];

/** What Monsoon reads and writes of an event; meanings as in RFC 5545 and RFC 7986. null is "not there". */
export interface EventValues extends Record<PropertyName, unknown> {
  title: string | null;
  description: string | null;
  location: string | null;
  when: When | null;
  /** how it repeats, as one text in normal form: see `Recurrence` */
  recurrence: string | null;
  status: 'tentative' | 'confirmed' | 'cancelled' | null;
  busy: 'busy' | 'free' | null;
  visibility: 'public' | 'private' | 'confidential' | null;
  categories: string[] | null;
  link: string | null;
  conference: string | null;
  colour: string | null;
  attendees: Attendee[] | null;
  /** the guests once more, compared by what they replied */
  replies: Attendee[] | null;
  /** what the owner of the calendar replied, where they are a guest */
  ownReply: Response | null;
  organizer: Attendee | null;
  reminders: Reminder[] | null;
}

export { type PropertyName, propertyNames } from './property-names.ts';
export type PropertyValue = EventValues[PropertyName];
export type MappedValues = Partial<EventValues>;

export const noValues: EventValues = {
  title: null,
  description: null,
  location: null,
  when: null,
  recurrence: null,
  status: null,
  busy: null,
  visibility: null,
  categories: null,
  link: null,
  conference: null,
  colour: null,
  attendees: null,
  replies: null,
  ownReply: null,
  organizer: null,
  reminders: null,
};

interface PropertySpec {
  /** field types that a plain copy can fill it from */
  types: readonly FieldType[];
  /** longest text, in characters */
  limit: number;
  /** its only values */
  values?: readonly string[];
  /** what an event means that does not have it (RFC 5545) */
  absent?: string;
  /** merges element by element */
  set?: true;
}

/** For each property that a field map can fill: the field types that fit, its longest text, and its fixed values. */
export const properties: Record<Exclude<PropertyName, 'when'>, PropertySpec> = {
  title: { types: ['text', 'long text', 'choice', 'person', 'reference', 'place', 'number', 'web address'], limit: 1000 },
  description: {
    types: ['text', 'long text', 'choice', 'choices', 'person', 'people', 'reference', 'references', 'web address', 'place', 'number', 'yes/no'],
    limit: 65_536,
  },
  location: { types: ['text', 'long text', 'place', 'reference', 'choice', 'web address'], limit: 1000 },
  recurrence: { types: [], limit: 20_000 },
  status: { types: ['choice', 'text', 'long text'], limit: 20, values: ['tentative', 'confirmed', 'cancelled'], absent: 'confirmed' },
  busy: { types: ['choice', 'text', 'long text'], limit: 10, values: ['busy', 'free'], absent: 'busy' },
  visibility: { types: ['choice', 'text', 'long text'], limit: 20, values: ['public', 'private', 'confidential'], absent: 'public' },
  categories: { types: ['choice', 'choices', 'text', 'long text', 'reference', 'references'], limit: 1000, set: true },
  link: { types: ['web address', 'text', 'long text'], limit: 2000 },
  conference: { types: ['web address', 'text', 'long text'], limit: 2000 },
  colour: { types: ['text', 'long text', 'choice'], limit: 50 },
  attendees: { types: ['person', 'people'], limit: 320, set: true },
  replies: { types: [], limit: 20_000 },
  ownReply: { types: ['choice', 'text', 'long text'], limit: 20, values: responses },
  organizer: { types: ['person'], limit: 320 },
  reminders: { types: ['number', 'duration', 'text', 'long text', 'choice', 'choices'], limit: 20, set: true },
};

export type MappableName = keyof typeof properties;
export const mappableNames = Object.keys(properties) as [MappableName, ...MappableName[]];

/** What an event means that does not have the property; null where it means nothing. */
export const absentOf = (name: PropertyName): string | null => (name === 'when' ? null : (properties[name].absent ?? null));

/** What an element of a set is known by: an address, a word, minutes. */
export const elementKey = (element: Attendee | string | number): string =>
  typeof element === 'object' ? element.email.toLowerCase() : String(element);

const keysOf = (value: PropertyValue) => [...new Set((value as (Attendee | string | number)[]).map(elementKey))].sort();

/** The guests of an event that gets others: those who stay keep their reply. */
export const guestsAfter = (before: readonly Attendee[] | null, guests: readonly Attendee[] | null): Attendee[] => {
  const replied = new Map((before ?? []).map((g) => [g.email.toLowerCase(), g.response]));
  return (guests ?? []).map((guest) => {
    const response = replied.get(guest.email.toLowerCase()) ?? guest.response;
    return response === undefined ? guest : { ...guest, response };
  });
};

/** What each guest replied, in one order. Until somebody replies, there is nothing to say. */
function repliesOf(value: unknown): string[] {
  const guests = (value ?? []) as Attendee[];
  if (guests.every((g) => (g.response ?? 'needs action') === 'needs action')) return [];
  return guests.map(({ email, response }) => `${email.toLowerCase()} ${response ?? 'needs action'}`).sort();
}

/** What two values that `sameProperty` takes for the same have in common: addresses, replies, words, minutes, or instants; else the value. */
export function meaningOf(name: PropertyName, value: unknown, zones: ZoneTable): unknown {
  if (name === 'replies') return repliesOf(value);
  if (value == null) return absentOf(name);
  if (name === 'organizer') return (value as Attendee).email.toLowerCase();
  if (name !== 'when') return properties[name].set ? keysOf(value as PropertyValue) : value;
  const when = value as When;
  return when.kind === 'all-day' || when.zone === null ? when : spanOf(when, UTC, zones);
}

/** Equality of meaning: sets whatever their order, times by zone and clock, texts by their characters. */
export function sameProperty(name: PropertyName, a: unknown, b: unknown, zones: ZoneTable): boolean {
  if (a === b) return true;
  if (name === 'replies' || name === 'organizer') return canonical(meaningOf(name, a, zones)) === canonical(meaningOf(name, b, zones));
  const spec = name === 'when' ? undefined : properties[name];
  const left = a ?? spec?.absent ?? (spec?.set ? [] : null);
  const right = b ?? spec?.absent ?? (spec?.set ? [] : null);
  if (left === null || right === null) return left === right;
  if (name === 'when') return sameWhen(left as When, right as When, zones);
  if (spec?.set) return canonical(keysOf(left as PropertyValue)) === canonical(keysOf(right as PropertyValue));
  return left === right;
}
