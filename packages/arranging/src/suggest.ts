import {
  type Collection,
  checkFieldMap,
  directionOf,
  type Field,
  type FieldMap,
  type FieldMaps,
  isEmpty,
  type MappableName,
  type Moment,
  mappableNames,
  properties,
  type RecordItem,
  sayValue,
  type WhenSource,
} from '@monsoon/core';

export type Direction = '->' | '<-' | '<->';

/** Part of a lane that fits what was found in a collection, and what speaks for it. */
export interface Suggestion<T> {
  value: T;
  reason: string;
}

/** Words by which people name fields; earlier ones say it more clearly. */
const words: Partial<Record<MappableName | 'start' | 'end' | 'length' | 'due' | 'first' | 'last' | 'private' | 'who', string[]>> = {
  title: ['title', 'subject', 'summary', 'name', 'topic', 'what', 'piece', 'instrument', 'person', 'work', 'customer'],
  description: ['description', 'details', 'notes', 'note', 'body', 'comment', 'comments', 'memo', 'remarks', 'agenda'],
  location: ['location', 'place', 'venue', 'address', 'where', 'room', 'site', 'town'],
  attendees: ['attendees', 'guests', 'participants', 'invitees', 'people', 'owner', 'assignee', 'technician'],
  categories: ['categories', 'category', 'labels', 'tags', 'kind', 'type'],
  status: ['status', 'state', 'stage'],
  link: ['link', 'url', 'page', 'web'],
  conference: ['conference', 'meeting', 'video', 'call', 'join'],
  colour: ['colour', 'color'],
  reminders: ['reminder', 'reminders', 'alarm', 'remind'],
  start: ['start', 'starts', 'begin', 'begins', 'from', 'when', 'at', 'scheduled', 'doors', 'time', 'date', 'day'],
  end: ['end', 'ends', 'finish', 'until', 'to', 'through'],
  length: ['length', 'duration', 'minutes', 'hours', 'takes'],
  due: ['due', 'deadline', 'by'],
  first: ['first', 'start', 'starts', 'from', 'begin', 'begins'],
  last: ['last', 'end', 'ends', 'until', 'to', 'due', 'finish'],
  who: ['customer', 'client', 'account', 'company', 'contact'],
  private: ['private', 'confidential', 'personal'],
};

const parts = (field: Field) =>
  `${field.name} ${field.label}`
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u);

/** How clearly a field's name says what it is: 0 is clearest; null: it does not. */
function likeness(field: Field, meaning: keyof typeof words): number | null {
  const own = parts(field);
  const at = (words[meaning] ?? []).findIndex((word) => own.includes(word));
  return at < 0 ? null : at;
}

const best = (fields: readonly Field[], meaning: keyof typeof words, types: readonly string[]): Field | undefined =>
  fields
    .filter((f) => types.includes(f.type))
    .map((f) => ({ f, at: likeness(f, meaning) }))
    .filter((x): x is { f: Field; at: number } => x.at !== null)
    .sort((a, b) => a.at - b.at)[0]?.f;

const filled = (name: string, samples: readonly RecordItem[]): number => samples.filter((r) => !isEmpty(r.fields[name])).length;
const sayFilled = (name: string, samples: readonly RecordItem[]): string =>
  samples.length === 0 ? '' : `, and ${filled(name, samples)} of ${samples.length} have it`;

/** Ways in which the dated fields of a collection can be read as times, likeliest first. */
export function suggestWhens({ fields }: Collection, samples: readonly RecordItem[]): Suggestion<WhenSource>[] {
  const found: Suggestion<WhenSource>[] = [];
  const add = (value: WhenSource, reason: string) => found.push({ value, reason });
  const moments = fields.filter((f) => f.type === 'date-time');
  const days = fields.filter((f) => f.type === 'date');
  const start = best(moments, 'start', ['date-time']) ?? moments.find((f) => likeness(f, 'due') === null && likeness(f, 'end') === null);
  const end = best(
    moments.filter((f) => f !== start),
    'end',
    ['date-time'],
  );
  const length = best(fields, 'length', ['duration']) ?? fields.find((f) => f.type === 'duration');
  const due = best(fields, 'due', ['date', 'date-time']);
  if (start !== undefined && end !== undefined)
    add({ start: start.name, end: end.name }, `${start.label} and ${end.label} are times${sayFilled(end.name, samples)}`);
  if (start !== undefined && length !== undefined)
    add({ start: start.name, length: length.name }, `${start.label} is a time and ${length.label} a length${sayFilled(start.name, samples)}`);
  const clock = fields.find((f) => f.type === 'time');
  if (clock !== undefined && days[0] !== undefined)
    add(
      length === undefined ? { date: days[0].name, time: clock.name, minutes: 60 } : { date: days[0].name, time: clock.name, length: length.name },
      `${days[0].label} is a day and ${clock.label} a time of day`,
    );
  const first = best(days, 'first', ['date']);
  const last = best(
    days.filter((f) => f !== first),
    'last',
    ['date'],
  );
  if (first !== undefined && last !== undefined)
    add({ first: first.name, last: last.name, lastCounts: true }, `${first.label} and ${last.label} are days${sayFilled(last.name, samples)}`);
  if (due !== undefined)
    add(
      due.type === 'date' ? { day: due.name } : { due: due.name, show: 'all-day' },
      `${due.label} says when it is due${sayFilled(due.name, samples)}`,
    );
  for (const f of moments)
    if (f !== due && f !== end) add({ start: f.name, minutes: 60 }, `${f.label} is a time; how long it takes is not known, so an hour`);
  for (const f of days) if (f !== due) add({ day: f.name }, `${f.label} is a day`);
  return found;
}

const tentativeWords = /^(provisional|tentative|draft|planned|proposed|option|requested|pending|maybe|waiting)/i;
const statusOf = (choice: string) =>
  /cancel|declin|reject|void|lost/i.test(choice) ? 'cancelled' : tentativeWords.test(choice) ? 'tentative' : 'confirmed';

/** The values of a field that occur, most frequent first, beside the choices that its system names. */
export function valuesOf(field: Field, samples: readonly RecordItem[]): { value: string; count: number }[] {
  const counts = new Map<string, number>((field.choices ?? []).map((c) => [c, 0]));
  for (const record of samples)
    for (const one of [record.fields[field.name] ?? null].flat()) {
      const said = sayValue(one);
      if (said !== '') counts.set(said, (counts.get(said) ?? 0) + 1);
    }
  return [...counts].map(([value, count]) => ({ value, count })).sort((a, b) => b.count - a.count || (a.value < b.value ? -1 : 1));
}

/** Maps that fit a collection, by name, type and sample values; each goes only the ways it can. */
export function suggestMaps(
  collection: Collection,
  samples: readonly RecordItem[],
  direction: Direction,
  taken: readonly string[] = [],
): Partial<Record<MappableName, Suggestion<FieldMap>>> {
  const { fields } = collection;
  const used = new Set(taken);
  const found: Partial<Record<MappableName, Suggestion<FieldMap>>> = {};
  const offer = (property: MappableName, map: FieldMap, reason: string) => {
    const ways = checkFieldMap(property, map, directionOf(map, direction), fields, '');
    const oneWay: FieldMap = { ...map, direction: '->' };
    if (ways.length > 0 && (direction === '<-' || checkFieldMap(property, oneWay, '->', fields, '').length > 0)) return;
    found[property] = {
      value: ways.length === 0 ? map : oneWay,
      reason: ways.length === 0 ? reason : `${reason}; towards the calendar only, because ${ways[0]!.reason.split(';')[0]}`,
    };
  };
  for (const property of ['title', 'description', 'location', 'attendees', 'categories', 'conference', 'colour', 'reminders'] as const) {
    const field = best(
      fields.filter((f) => !used.has(f.name)),
      property,
      properties[property].types,
    );
    if (field === undefined) continue;
    used.add(field.name);
    offer(property, { copy: field.name }, `${field.label} sounds like the ${property} and is of type ${field.type}${sayFilled(field.name, samples)}`);
  }
  if (found.title === undefined) {
    const text = fields.find((f) => properties.title.types.includes(f.type) && !used.has(f.name) && filled(f.name, samples) === samples.length);
    if (text !== undefined) {
      used.add(text.name);
      offer('title', { copy: text.name }, `${text.label} is the first text that every record has`);
    }
  }
  const who = best(
    fields.filter((f) => !used.has(f.name)),
    'who',
    ['text', 'long text', 'reference', 'person', 'choice'],
  );
  const what = found.title?.value;
  // What it is about says little without whom it is for.
  if (who !== undefined && what !== undefined && 'copy' in what && !/title|subject|summary|topic/i.test(what.copy)) {
    used.add(who.name);
    offer('title', { join: `{${who.name}}: {${what.copy}}`, edit: what.copy }, `${who.label} says whom it is for, and ${found.title!.reason}`);
  }
  const status = best(
    fields.filter((f) => !used.has(f.name)),
    'status',
    ['choice'],
  );
  if (status !== undefined && direction !== '<-') {
    const values = Object.fromEntries(valuesOf(status, samples).map(({ value }) => [value, statusOf(value)]));
    if (Object.keys(values).length > 0)
      offer('status', { table: status.name, values }, `${status.label} is a choice; each of its values stands for one`);
  }
  if (direction !== '<-' && samples.some((r) => r.url !== undefined)) offer('link', { page: true }, 'every record has a page of its own');
  else {
    const link = best(fields, 'link', ['web address']);
    if (link !== undefined) offer('link', { copy: link.name }, `${link.label} is a web address`);
  }
  return found;
}

/** A yes/no field that marks what must not be seen by others. */
export const suggestPrivate = ({ fields }: Collection): string | null => best(fields, 'private', ['yes/no'])?.name ?? null;

/** The names of fields that a time is read from. */
export const usedBy = (when: WhenSource | undefined): string[] =>
  when === undefined ? [] : Object.values(when).filter((v) => typeof v === 'string');

/** Only those field maps that were suggested. */
export const mapsOf = (suggested: Partial<Record<MappableName, Suggestion<FieldMap>>>): FieldMaps =>
  Object.fromEntries(mappableNames.flatMap((p) => (suggested[p] === undefined ? [] : [[p, suggested[p].value]])));

/** Every dated field as a moment of its own. */
export function suggestMoments(collection: Collection): Moment[] {
  const dated = collection.fields.filter((f) => f.type === 'date' || f.type === 'date-time');
  return dated.slice(0, 12).map((f) => ({
    name: f.label.replace(/\s*(\bat|\bon|\bdate)$/i, '').trim() || f.label,
    when: f.type === 'date' ? { day: f.name } : { start: f.name, minutes: 60 },
  }));
}

/** A field of that type, by name. */
export const fieldOfType = (collection: Collection, meaning: 'status' | 'attendees', types: readonly string[]): Field | undefined =>
  best(collection.fields, meaning, types) ?? collection.fields.find((f) => types.includes(f.type));
