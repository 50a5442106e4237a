/** Which way values go; `once` sets the other side when an item is made there, and leaves both alone afterwards. */
export const mapDirections = ['->', '<-', '<->', 'once'] as const;
export type MapDirection = (typeof mapDirections)[number];

/**
 * How one event property and the fields of a record correspond.
 * `copy` takes a field as it is; `join` is a text with `{field}` placeholders and `[optional parts]` that vanish when
 * every field in them is empty, of which `edit` names the one that comes back; `fixed` is always the same; `table` turns
 * each value of a field into another; `words` chooses a field's value by the first word found in the property; `people`
 * are attendees, looked up by address `in` another collection where the field refers to it; `page` is the link back to
 * the record. `default` stands in where the result is empty.
 */
export type FieldMap = (
  | { copy: string }
  | { join: string; edit?: string | undefined }
  | { fixed: string | string[] }
  | { table: string; values: Record<string, string> }
  | { words: string; choose: { word: string; value: string }[] }
  | { people: string; in?: string | undefined; email?: string | undefined }
  | { page: true }
) & { default?: string | undefined; direction?: MapDirection | undefined };
