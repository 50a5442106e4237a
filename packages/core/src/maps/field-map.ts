import type { FieldValues } from '../record/fields.ts';
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

/**
 * How one event property and the fields of a record correspond.
 * `copy` takes a field as it is; `join` is a text with `{field}` placeholders and `[optional parts]` that vanish when
 * every field in them is empty, of which `edit` names the one that comes back; `fixed` is always the same; `table` turns
 * each value of a field into another; `words` chooses a field's value by the first word found in the property; `people`
 * are attendees, looked up by address `in` another collection where the field refers to it; `page` is the link back to
 * the record. `replies` puts what the guests replied into a field. How an event repeats comes from `rule`, a field that holds a recurrence rule (RFC 5545, 3.3.10), with the
 * field of the days that are left out; or from fields of its own for each part. `default` stands in where the result is empty.
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
) & { default?: string | undefined; direction?: MapDirection | undefined };

/** What the way back changes in a record. */
export interface Taken {
  /** the fields that change, and to what */
  fields: FieldValues;
  notes: string[];
}
