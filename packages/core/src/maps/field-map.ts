import type { FieldValues } from '../record/fields.ts';
import type { Response } from './properties.ts';
import type { RepliesMap } from './replies.ts';

/** Which way values go; `once` sets the other side when an item is made there, and leaves both alone afterwards. */
export const mapDirections = ['->', '<-', '<->', 'once'] as const;
export type MapDirection = (typeof mapDirections)[number];

/** The fields that hold the parts of a recurrence rule. */
export interface RepeatFields {
  frequency: string;
  /** what the field calls each frequency; their own names unless said */
  values?: { daily?: string | undefined; weekly?: string | undefined; monthly?: string | undefined; yearly?: string | undefined } | undefined;
  interval?: string | undefined;
  /** names of days */
  weekdays?: string | undefined;
  monthDay?: string | undefined;
  until?: string | undefined;
  count?: string | undefined;
}

/** Guests as rows of another collection: one for each guest of a record, found by e-mail, with what the guest replied. */
export interface GuestRowsMap {
  /** the collection that the rows stand in */
  rows: string;
  /** the field of a row that refers to the record */
  record: string;
  /** the field of a row that has the guest's address, or refers to the guest in the collection `in` */
  guest: string;
  /** where the guests are looked up by address, and the field that has it there (`email` unless said) */
  in?: string | undefined;
  email?: string | undefined;
  /** the field for the guest's name; only new rows get it */
  name?: string | undefined;
  /** the field for the reply */
  reply?: string | undefined;
  /** what the rows call each reply; a reply that is not among them leaves the row as it is */
  values?: Partial<Record<Response, string>> | undefined;
  /** are rows made for guests who have none? Unless said, they are not */
  make?: boolean | undefined;
  /** the reply of a row whose guest is not invited any more; unless said, the row stays as it is */
  uninvited?: string | undefined;
}

/**
 * How one event property and the fields of a record correspond.
 * `copy` takes a field as it is; `join` is a text with `{field}` placeholders and `[optional parts]` that vanish when
 * every field in them is empty, of which `edit` names the one that comes back; `fixed` is always the same; `table` turns
 * each value of a field into another; `words` chooses a field's value by the first word found in the property; `people`
 * are attendees, looked up by address `in` another collection where the field refers to it; `page` is the link back to
 * the record. `replies` puts what the guests replied into a field, `rows` into rows of another collection, one for each guest. How
 * an event repeats comes from `rule`, a field that holds a recurrence rule (RFC 5545, 3.3.10), with the field of the days that
 * are left out; or from fields of its own for each part. `default` stands in where the result is empty.
 */
export type FieldMap = (
  | { copy: string }
  | { join: string; edit?: string | undefined }
  | { fixed: string | string[] }
  | { table: string; values: Record<string, string> }
  | { words: string; choose: { word: string; value: string }[] }
  | { people: string; in?: string | undefined; email?: string | undefined }
  | { page: true }
  | { rule: string; excluded?: string | undefined }
  | { repeats: RepeatFields }
  | RepliesMap
  | GuestRowsMap
) & { default?: string | undefined; direction?: MapDirection | undefined };

/** What the way back changes in a record. */
export interface Taken {
  /** the fields that change, and to what */
  fields: FieldValues;
  notes: string[];
}
