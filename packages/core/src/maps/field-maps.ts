import { certain } from '../certain.ts';
import { type Field, type FieldValue, findField, isEmpty, type RecordItem, sayValue } from '../record/fields.ts';
import { attendeesOf, type Directory, fieldFromAttendees, fieldFromText, fieldFromWords, wordsOf } from './convert.ts';
import type { FieldMap, Taken } from './field-map.ts';
import { guestRowsField, takeGuestRows } from './guest-rows.ts';
import { fillJoin, parseJoin, unjoin } from './join.ts';
import { editableOf } from './map-fields.ts';
import { type Attendee, elementKey, type MappableName, type PropertyValue, properties } from './properties.ts';
import { inOrder, LONGEST_REMINDER, type Reminder, readReminder, reminderOf } from './reminders.ts';
import { type RepliesMap, sayReplies } from './replies.ts';
import { UnfitValue } from './unfit.ts';

export interface MapContext {
  fields: readonly Field[];
  /** by collection */
  directories?: ReadonlyMap<string, Directory> | undefined;
  /** what the event said when both sides agreed, where a record keeps what people changed in it since */
  agreed?: PropertyValue;
}

/** What a map makes of a record, as text. */
function textOf(map: FieldMap, record: RecordItem): string {
  if ('copy' in map) return sayValue(record.fields[map.copy]);
  if ('join' in map) return fillJoin(parseJoin(map.join), record.fields);
  if ('fixed' in map) return [map.fixed].flat().join(', ');
  if ('page' in map) return record.url ?? '';
  if ('words' in map) return sayValue(record.fields[map.words]);
  if ('people' in map) return sayValue(record.fields[map.people]);
  if ('replies' in map) return sayValue(record.fields[map.replies]);
  if ('rows' in map) return sayValue(record.fields[guestRowsField(map)]);
  if (!('table' in map)) return '';
  const value = sayValue(record.fields[map.table]);
  return Object.hasOwn(map.values, value) ? (map.values[value] ?? '') : '';
}

/** An address as mail has it (RFC 5322, 3.4.1), without quoted parts: whatever else it holds could end a line of an event. */
const ADDRESS = /^[^\s\p{Cc}"<>()[\]:;,\\@]+@[^\s\p{Cc}"<>()[\]:;,\\@]+$/u;

const directoryOf = (map: { in?: string | undefined }, context: MapContext) => (map.in === undefined ? undefined : context.directories?.get(map.in));

/** Can this be the address of a guest? */
export const isAddress = (email: string): boolean => ADDRESS.test(email) && email.length <= properties.attendees.limit;

/** `Alder & Wren <visits@alder-wren.example>`, or an address alone. */
export function attendeeOf(text: string): Attendee {
  const [, name = '', email = text] = /^(.*?)\s*<([^<>]*)>$/.exec(text) ?? [];
  const said = name.replace(/^"(.*)"$/, '$1').trim();
  return { email, ...(said === '' ? {} : { name: said }) };
}

/** The people whom a map names. @throws UnfitValue for an address that is none */
function peopleOf(property: MappableName, map: FieldMap, record: RecordItem, context: MapContext): Attendee[] {
  const people =
    'people' in map
      ? attendeesOf(record.fields[map.people], directoryOf(map, context))
      : 'copy' in map
        ? attendeesOf(record.fields[map.copy], undefined)
        : ('fixed' in map ? [map.fixed].flat() : [textOf(map, record)]).map(clean).flatMap((text) => (text === '' ? [] : [attendeeOf(text)]));
  const odd = people.find(({ email }) => !isAddress(email));
  if (odd !== undefined) throw new UnfitValue(sourceOf(map) ?? property, odd.email, `"${odd.email.slice(0, 100)}" is no e-mail address`);
  return people;
}

function elementsOf(property: MappableName, map: FieldMap, record: RecordItem, context: MapContext): (Attendee | string | number)[] {
  if (property === 'attendees') return peopleOf(property, map, record, context);
  const words = 'fixed' in map ? [map.fixed].flat() : 'copy' in map ? wordsOf(record.fields[map.copy]) : [textOf(map, record)];
  const kept = [...new Set(words.map(clean).filter((w) => w !== ''))];
  const given = kept.length > 0 || map.default === undefined ? kept : [map.default];
  return property === 'reminders' ? remindersOf(given, map, context) : given;
}

/** Reminders by number fields are minutes, or hours by their unit; texts may hold several. @throws UnfitValue */
function remindersOf(given: readonly string[], map: FieldMap, context: MapContext): Reminder[] {
  const field = 'copy' in map ? findField(context.fields, map.copy) : undefined;
  const unfit = (value: string) =>
    new UnfitValue(
      sourceOf(map) ?? 'reminders',
      value,
      `"${value}" is not 0 to ${LONGEST_REMINDER} minutes before, such as 30, mail 60 or 10 before end`,
    );
  if (field?.type === 'number' || field?.type === 'duration')
    return given.map((minutes) => {
      const n = Number(minutes) * (field.unit === 'hours' ? 60 : 1);
      if (!Number.isInteger(n) || n < 0 || n > LONGEST_REMINDER) throw unfit(minutes);
      return n;
    });
  const read = given
    .flatMap((text) => text.split(/[,;\n]/))
    .flatMap((word): Reminder[] => {
      if (word.trim() === '') return [];
      const parts = readReminder(word);
      if (parts === null) throw unfit(word.trim());
      return [reminderOf(parts)];
    });
  return inOrder(read);
}

/** The field whose value a map carries alone; for errors. */
const sourceOf = (map: FieldMap): string | undefined =>
  'copy' in map
    ? map.copy
    : 'table' in map
      ? map.table
      : 'people' in map
        ? map.people
        : 'words' in map
          ? map.words
          : 'replies' in map
            ? map.replies
            : undefined;

/**
 * The property that a record shows through a map.
 * @throws UnfitValue naming the field, the value and the limit
 */
export function show(property: MappableName, map: FieldMap, record: RecordItem, context: MapContext): PropertyValue {
  const { limit, values, set } = properties[property];
  if (property === 'organizer') return peopleOf(property, map, record, context)[0] ?? null;
  if (set) {
    const elements = elementsOf(property, map, record, context);
    return elements.length === 0 ? null : (elements as PropertyValue);
  }
  const text = clean(textOf(map, record)) || (map.default ?? '');
  if (text === '') return null;
  const source = sourceOf(map) ?? property;
  if (text.length > limit) throw new UnfitValue(source, text, `is ${text.length} characters long, and ${property} takes ${limit}`);
  if (values !== undefined && !values.includes(text))
    throw new UnfitValue(source, text, `"${text}" is not a value of ${property}; values are ${values.join(', ')}`);
  return text as PropertyValue;
}

const nothing: Taken = { fields: {}, notes: [] };

/**
 * The way back: what changes in a record so that it shows this value. What the calendar cannot express stays as it is
 * in the record; a value that the record shows already changes nothing.
 * @throws UnfitValue when the record cannot hold it
 */
export function take(property: MappableName, map: FieldMap, record: RecordItem, value: PropertyValue, context: MapContext): Taken {
  if ('rows' in map) {
    const [guests, agreed] = [(value ?? []) as Attendee[], context.agreed as Attendee[] | null | undefined];
    return takeGuestRows(map, record, { guests, agreed, directory: directoryOf(map, context) });
  }
  if ('words' in map) return takeWords(map, record, value, context);
  if ('replies' in map) return takeReplies(map, record, value as Attendee[] | null, context);
  // Who is no guest of an event has not replied to it, and has not taken a reply back.
  if (property === 'ownReply' && value === null) return nothing;
  if (property === 'organizer') return takeOrganizer(map, record, value as Attendee | null, context);
  if (properties[property].set) return takeSet(property, map, record, value, context);
  const text = value === null ? (properties[property].absent ?? null) : clean(String(value)) || null;
  // A value that the event states fills an empty field, also where it is what the absence of a value means. A field that
  // holds something which the calendar does not show keeps it.
  const kept = 'table' in map && !isEmpty(record.fields[map.table]);
  const silent = value === null || kept ? (properties[property].absent ?? null) : null;
  const shown = clean(textOf(map, record)) || (map.default ?? '') || silent;
  if (shown === text) return nothing;
  const one = (name: string, held: string | null): Taken => {
    const field = fieldOf(context, name);
    const next = fieldFromText(field, held);
    return sayValue(next) === sayValue(record.fields[name]) ? nothing : { fields: { [name]: next }, notes: [] };
  };
  if ('copy' in map) return one(map.copy, text);
  if ('table' in map) {
    const from = Object.entries(map.values).find(([, to]) => to === text)?.[0];
    if (from === undefined && text !== null && text !== map.default)
      throw new UnfitValue(map.table, text, `"${text}" stands for no value of "${map.table}"; the table has ${Object.values(map.values).join(', ')}`);
    return one(map.table, from ?? null);
  }
  if ('join' in map) {
    const editable = certain(editableOf(map, context.fields), 'a join that comes back was checked to have a part that may be edited');
    const part = unjoin(parseJoin(map.join), editable, record.fields, text ?? '', clean);
    if (part === null) {
      const example = clean(fillJoin(parseJoin(map.join), { ...record.fields, [editable]: `{${editable}}` }));
      throw new UnfitValue(editable, text ?? '', `"${text ?? ''}" does not read as "${example}", so it is not known what "${editable}" should be`);
    }
    return one(editable, clean(part) || null);
  }
  throw new UnfitValue(property, text ?? '', 'this map has no way back');
}

function fieldOf(context: MapContext, name: string): Field {
  const field = findField(context.fields, name);
  if (field === undefined) throw new UnfitValue(name, '', `there is no field "${name}" any more`);
  return field;
}

/** The value that the words of a text choose. */
export function chosen(map: { choose: { word: string; value: string }[]; default?: string | undefined }, text: string | null): string | null {
  const words = ` ${(text ?? '').toLowerCase().replace(/[^\p{L}\p{N}]+/gu, ' ')} `;
  const hit = map.choose.find(({ word }) =>
    words.includes(
      ` ${word
        .toLowerCase()
        .replace(/[^\p{L}\p{N}]+/gu, ' ')
        .trim()} `,
    ),
  );
  return hit?.value ?? map.default ?? null;
}

function takeWords(
  map: FieldMap & { words: string; choose: { word: string; value: string }[] },
  record: RecordItem,
  value: PropertyValue,
  context: MapContext,
): Taken {
  const text = Array.isArray(value) ? value.map(elementKey).join(' ') : value === null || typeof value === 'object' ? null : value;
  const choice = chosen(map, text);
  if (choice === null || choice === sayValue(record.fields[map.words])) return nothing;
  return { fields: { [map.words]: fieldFromText(fieldOf(context, map.words), choice) }, notes: [] };
}

/** A field with a table that has no value for the reply, or no guest whose reply it could show, keeps what it has. */
function takeReplies(map: RepliesMap & { default?: string | undefined }, record: RecordItem, guests: Attendee[] | null, context: MapContext): Taken {
  const text = sayReplies(map, guests) ?? map.default ?? null;
  if ((text === null && map.values !== undefined) || (text ?? '') === sayValue(record.fields[map.replies])) return nothing;
  return { fields: { [map.replies]: fieldFromText(fieldOf(context, map.replies), text) }, notes: [] };
}

function takeOrganizer(map: FieldMap, record: RecordItem, organizer: Attendee | null, context: MapContext): Taken {
  const name = sourceOf(map);
  if (name === undefined) throw new UnfitValue('organizer', organizer?.email ?? '', 'this map has no way back');
  if (peopleOf('organizer', map, record, context)[0]?.email.toLowerCase() === organizer?.email.toLowerCase()) return nothing;
  const directory = 'people' in map ? directoryOf(map, context) : undefined;
  const people = organizer === null ? [] : [organizer];
  const { value, unmatched } = fieldFromAttendees(fieldOf(context, name), record.fields[name], people, directory);
  return { fields: { [name]: value }, notes: unmatched.length === 0 ? [] : [`not found by address, so kept on the calendar alone: ${unmatched[0]}`] };
}

function takeSet(property: MappableName, map: FieldMap, record: RecordItem, value: PropertyValue, context: MapContext): Taken {
  const name = sourceOf(map);
  if (name === undefined || (!('copy' in map) && !('people' in map))) throw new UnfitValue(property, '', 'this map has no way back');
  const field = fieldOf(context, name);
  const elements = (value ?? []) as (Attendee | string | number)[];
  const key = (v: PropertyValue) => JSON.stringify(((v ?? []) as (Attendee | string | number)[]).map(elementKey).sort());
  if (key(show(property, map, record, context)) === key(value)) return nothing;
  const changed = (next: RecordItem['fields'][string], notes: string[]): Taken =>
    JSON.stringify(next) === JSON.stringify(record.fields[name]) || (isEmpty(next) && isEmpty(record.fields[name]))
      ? { fields: {}, notes }
      : { fields: { [name]: next }, notes };
  if (property === 'attendees') {
    const directory = 'people' in map ? directoryOf(map, context) : undefined;
    const { value: next, unmatched } = fieldFromAttendees(field, record.fields[name], elements as Attendee[], directory);
    return changed(next, unmatched.length === 0 ? [] : [`not found by address, so kept on the calendar alone: ${unmatched.join(', ')}`]);
  }
  if (property === 'reminders') return changed(fieldFromReminders(field, elements as Reminder[]), []);
  return changed(fieldFromWords(field, elements as string[]), []);
}

/** A number holds one reminder before the start; a text holds them all. @throws UnfitValue */
function fieldFromReminders(field: Field, reminders: readonly Reminder[]): FieldValue {
  if (field.type !== 'number' && field.type !== 'duration') return fieldFromWords(field, inOrder(reminders).map(String));
  const unfit = (reason: string) => new UnfitValue(field.name, reminders.join(', '), `the field "${field.name}" holds ${reason}`);
  if (reminders.length > 1) throw unfit(`one number, and the event has ${reminders.length} reminders`);
  const [minutes] = reminders;
  if (typeof minutes === 'string') throw unfit(`minutes before the start, and the event reminds by "${minutes}"`);
  if (minutes === undefined) return null;
  return field.unit === 'hours' ? minutes / 60 : minutes;
}

/**
 * Text as iCalendar can hold it: line feeds only, no other control characters (RFC 5545, 3.3.11), which would also
 * make a calendar server's XML answers unreadable; no blanks around it, which many servers cut off.
 */
export function clean(text: string): string {
  // Most texts are plain: one look spares four passes.
  if (/^(?! )[\x20-\x7e\u00a1-\u02ff]*$/.test(text) && !text.endsWith(' ')) return text;
  return text
    .replace(/\r\n?/g, '\n')
    .replace(/(?![\n\t])\p{Cc}|[\ufffe\uffff]/gu, '')
    .replace(/\p{Surrogate}/gu, '\ufffd')
    .trim();
}
