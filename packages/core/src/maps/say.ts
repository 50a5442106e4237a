import { type GuestRow, sayPerson } from '../record/fields.ts';
import { isRecurrence } from '../recurrence/recurrence-text.ts';
import { sayRecurrence } from '../recurrence/say-rule.ts';
import { formatWhen } from '../time/format-when.ts';
import type { When } from '../time/when.ts';

/** Any value of either side in words: a field's, a property's, a moment's time. In a file without checks, because every page needs it. */
export function sayAny(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.map(sayAny).join(', ');
  if (typeof value === 'string' && isRecurrence(value)) return sayRecurrence(value);
  if (typeof value !== 'object') return String(value);
  if ('kind' in value) return formatWhen(value as When);
  const { label, id, ...person } = value as { label?: string; name?: string; email?: string; response?: string; id?: string };
  return label ?? (sayPerson(person) || id) ?? '';
}

/** A value of a property in words: of the guests, who they are; of the replies, who replied what. */
export function sayProperty(name: string, value: unknown): string {
  const [property] = name.split('>');
  if (property === 'attendees' && Array.isArray(value)) return sayAny(value.map(({ response: _reply, ...guest }) => guest));
  if (property !== 'replies' || !Array.isArray(value)) return sayAny(value);
  return (value as GuestRow[]).map((guest) => sayPerson({ ...guest, response: guest.response ?? 'needs action' })).join('; ');
}

/** What an item is called in tables: its record, or that it has none. */
export const sayItem = (item: { recordId: string | null }): string => item.recordId ?? '(event)';
