import { type FieldValues, isEmpty, sayValue } from '../record/fields.ts';

export type Part = string | { field: string } | { optional: Part[] };

/** Each level looks through all that is in it: deeper ones would cost more than they say. */
const DEEPEST = 5;

const read = new Map<string, Part[]>();

/**
 * Reads a join text. `{name}` is a field, `[...]` an optional part; `\` before any of `{}[]\` makes it plain.
 * @throws RangeError with the column (from 1) of what is wrong
 */
export function parseJoin(text: string): Part[] {
  const known = read.get(text);
  if (known !== undefined) return known;
  let at = 0;
  const parse = (depth: number): Part[] => {
    const parts: Part[] = [];
    let plain = '';
    const flush = () => {
      if (plain !== '') parts.push(plain);
      plain = '';
    };
    while (at < text.length) {
      const c = text.charAt(at);
      if (c === '\\' && at + 1 < text.length) {
        plain += text[at + 1];
        at += 2;
      } else if (c === '{') {
        const end = text.indexOf('}', at);
        if (end < 0) throw new RangeError(`column ${at + 1}: "{" is not closed`);
        flush();
        parts.push({ field: text.slice(at + 1, end).trim() });
        at = end + 1;
      } else if (c === '[') {
        const opened = at++;
        flush();
        if (depth === DEEPEST) throw new RangeError(`column ${opened + 1}: optional parts are nested more than ${DEEPEST} deep`);
        parts.push({ optional: parse(depth + 1) });
        if (text[at] !== ']') throw new RangeError(`column ${opened + 1}: "[" is not closed`);
        at++;
      } else if (c === ']') {
        if (depth === 0) throw new RangeError(`column ${at + 1}: "]" closes nothing`);
        break;
      } else {
        plain += c;
        at++;
      }
    }
    flush();
    return parts;
  };
  const parts = parse(0);
  if (read.size > 10_000) read.clear();
  read.set(text, parts);
  return parts;
}

export const joinFields = (parts: Part[]): string[] =>
  parts.flatMap((p) => (typeof p === 'string' ? [] : 'field' in p ? [p.field] : joinFields(p.optional)));

/** The text; an optional part vanishes when every field in it is empty. */
export function fillJoin(parts: Part[], fields: FieldValues): string {
  return parts
    .map((part) => {
      if (typeof part === 'string') return part;
      if ('field' in part) return sayValue(fields[part.field]);
      return joinFields(part.optional).every((f) => isEmpty(fields[f])) ? '' : fillJoin(part.optional, fields);
    })
    .join('');
}

/** Stands for the editable part while the rest is written out: a character that means nothing anywhere, and is not cleaned away. */
const SLOT = '\ue000';

/**
 * What the editable part must have been for the join to read `text`: everything else is matched off against the
 * record. Null when the rest of the text is not what the record says.
 */
export function unjoin(parts: Part[], editable: string, fields: FieldValues, text: string, trim: (text: string) => string): string | null {
  // Without a value the optional part around it is gone: that reading comes first, for it needs no value at all.
  if (trim(fillJoin(parts, { ...fields, [editable]: null })) === text) return '';
  const [before = '', after] = trim(fillJoin(parts, { ...fields, [editable]: SLOT })).split(SLOT);
  if (after === undefined || text.length < before.length + after.length || !text.startsWith(before) || !text.endsWith(after)) return null;
  return text.slice(before.length, text.length - after.length);
}
