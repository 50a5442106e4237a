import { type Field, type FieldValue, isEmpty, type Person, type Reference, sayValue } from '../record/fields.ts';
import type { Attendee } from './properties.ts';
import { UnfitValue } from './unfit.ts';

/** Field types whose value can be read from a text. */
export const tellable: readonly Field['type'][] = ['text', 'long text', 'number', 'duration', 'yes/no', 'choice', 'choices', 'web address', 'place'];

/**
 * The value of a field that a text stands for; an empty text is nothing there.
 * @throws UnfitValue naming the field, the value and the limit
 */
export function fieldFromText(field: Field, text: string | null): FieldValue {
  const unfit = (reason: string) => new UnfitValue(field.name, text ?? '', reason);
  if (text === null || text === '') return field.type === 'choices' ? [] : null;
  switch (field.type) {
    case 'number':
    case 'duration': {
      if (!/^[+-]?\d+(\.\d+)?$/.test(text.trim())) throw unfit(`"${text}" is no number`);
      return Number(text);
    }
    case 'yes/no':
      if (text !== 'yes' && text !== 'no') throw unfit(`"${text}" is neither yes nor no`);
      return text === 'yes';
    case 'choice':
      return choiceOf(field, text);
    case 'choices':
      return text.split(',').map((t) => choiceOf(field, t.trim()));
    case 'web address':
      if (!/^[a-z][a-z0-9+.-]*:\S+$/i.test(text)) throw unfit(`"${text}" is no web address such as https://alder-wren.example/visits/1`);
      return within(field, text);
    case 'text':
    case 'long text':
    case 'place':
      return within(field, text);
    case 'date':
    case 'time':
    case 'date-time':
    case 'person':
    case 'people':
    case 'reference':
    case 'references':
      throw unfit(`a ${field.type} cannot be read from a text`);
  }
}

function choiceOf(field: Field, text: string): string {
  const { choices } = field;
  if (choices === undefined) return within(field, text);
  const found = choices.find((c) => c === text) ?? choices.find((c) => c.toLowerCase() === text.trim().toLowerCase());
  if (found === undefined) throw new UnfitValue(field.name, text, `"${text}" is no choice of "${field.name}"; choices are ${choices.join(', ')}`);
  return found;
}

function within(field: Field, text: string): string {
  if (field.limit !== undefined && text.length > field.limit)
    throw new UnfitValue(field.name, text, `is ${text.length} characters long, and the field "${field.name}" takes ${field.limit}`);
  return text;
}

/** The words of a field, for categories. */
export const wordsOf = (value: FieldValue | undefined): string[] =>
  isEmpty(value) ? [] : Array.isArray(value) ? value.map((v) => sayValue(v)) : [sayValue(value)];

/** The field with these words; words that are none of its choices belong to the calendar alone. */
export function fieldFromWords(field: Field, words: string[]): FieldValue {
  const { choices } = field;
  const fitting = choices === undefined ? words : choices.filter((c) => words.some((w) => w.toLowerCase() === c.toLowerCase()));
  if (field.type === 'choices') return fitting;
  if (fitting.length > 1)
    throw new UnfitValue(field.name, words.join(', '), `the field "${field.name}" holds one value, and the event has ${fitting.join(' and ')}`);
  return fitting[0] === undefined ? null : fieldFromText(field, fitting[0]);
}

/** People of another collection, by their address and by their id. */
export interface Directory {
  byEmail: ReadonlyMap<string, Reference>;
  emails: ReadonlyMap<string, string>;
}

/** The people of a field who have an address. */
export function attendeesOf(value: FieldValue | undefined, directory: Directory | undefined): Attendee[] {
  if (isEmpty(value)) return [];
  const found = ([value].flat() as (Person | Reference)[]).flatMap((v): Attendee[] => {
    const known = 'id' in v ? { email: directory?.emails.get(v.id), name: v.label } : v;
    return known.email === undefined || known.email === ''
      ? []
      : [{ email: known.email, ...(known.name === undefined || known.name === '' ? {} : { name: known.name }) }];
  });
  return [...new Map(found.map((a) => [a.email.toLowerCase(), a])).values()];
}

/**
 * The field with these people. Who stands in it without an address stays: the calendar cannot speak of them. Who is not
 * in the directory stays on the calendar, and is listed.
 */
export function fieldFromAttendees(
  field: Field,
  before: FieldValue | undefined,
  attendees: Attendee[],
  directory: Directory | undefined,
): { value: FieldValue; unmatched: string[] } {
  const unmatched: string[] = [];
  const old = (isEmpty(before) ? [] : [before].flat()) as (Person | Reference)[];
  const emailOf = (v: Person | Reference) => ('id' in v ? directory?.emails.get(v.id) : v.email)?.toLowerCase();
  const linked = field.type === 'reference' || field.type === 'references';
  const added = attendees.flatMap((a): (Person | Reference)[] => {
    const known = old.find((v) => emailOf(v) === a.email.toLowerCase());
    if (known !== undefined) return [known];
    if (!linked) return [{ ...(a.name === undefined ? {} : { name: a.name }), email: a.email }];
    const found = directory?.byEmail.get(a.email.toLowerCase());
    if (found === undefined) unmatched.push(a.email);
    return found === undefined ? [] : [found];
  });
  const wanted = new Set(added);
  const all = [...old.filter((v) => !emailOf(v) || wanted.has(v)), ...added.filter((v) => !old.includes(v))];
  if (field.type === 'people' || field.type === 'references') return { value: all as Person[], unmatched };
  if (added.length > 1)
    throw new UnfitValue(
      field.name,
      attendees.map((a) => a.email).join(', '),
      `the field "${field.name}" holds one person, and the event has ${added.length}`,
    );
  return { value: (added[0] ?? old.find((v) => !emailOf(v)) ?? null) as FieldValue, unmatched };
}
