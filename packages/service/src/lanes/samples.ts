import { valuesOf } from '@monsoon/arranging';
import { type Collection, type RecordItem, sayValue } from '@monsoon/core';
import type { CalendarInfo, Calendars, Records, StoredEvent } from '@monsoon/systems';
import type { Sides } from '../run/work.ts';

/** Most records that a preview looks at; beyond, it says so. */
const MOST_RECORDS = 5_000;
/** Most events whose texts are read. */
const MOST_EVENTS = 500;
/** Milliseconds for which what was read is shown again: somebody who arranges a lane asks several times a minute. */
const FRESH = 60_000;

export interface SampledRecords {
  items: RecordItem[];
  complete: boolean;
}
export interface SampledEvents {
  events: StoredEvent[];
  listed: number;
}

type Remembered = Map<string, { at: number; value: Promise<unknown> }>;
const remembered = new WeakMap<Records | Calendars, Remembered>();

/** Asks once for what several ask at the same time, or one after the other within a minute; a failure is asked again. */
function fresh<T>(of: Records | Calendars, key: string, ask: () => Promise<T>): Promise<T> {
  const known: Remembered = remembered.get(of) ?? new Map();
  remembered.set(of, known);
  for (const [name, { at }] of known) if (Date.now() - at > FRESH) known.delete(name);
  const found = known.get(key);
  if (found !== undefined) return found.value as Promise<T>;
  const value = ask();
  known.set(key, { at: Date.now(), value });
  value.catch(() => known.delete(key));
  return value;
}

/** What was read a moment ago is forgotten: somebody wrote there. */
export const forgetSamples = (sides: Partial<Sides>): void => {
  for (const of of [sides.records, sides.calendars]) if (of !== undefined) remembered.delete(of);
};

/** The first records of a collection. @throws OutsideError */
export const sampleRecords = (records: Records, collection: string, signal: AbortSignal): Promise<SampledRecords> =>
  fresh(records, `records ${collection}`, async () => {
    const items: RecordItem[] = [];
    for await (const page of records.pull(collection, null, signal)) {
      for (const item of page.items) items.push(item);
      if (items.length >= MOST_RECORDS) return { items: items.slice(0, MOST_RECORDS), complete: false };
    }
    return { items, complete: true };
  });

export const describeFresh = (records: Records): Promise<Collection[]> => fresh(records, 'collections', () => records.describe());
export const calendarsFresh = (calendars: Calendars, signal: AbortSignal): Promise<CalendarInfo[]> =>
  fresh(calendars, 'calendars', () => calendars.calendars(signal));

/** The first events of a calendar, and how many there are. @throws OutsideError */
export const sampleEvents = (calendars: Calendars, calendar: string, signal: AbortSignal): Promise<SampledEvents> =>
  fresh(calendars, `events ${calendar}`, async () => {
    const hrefs: string[] = [];
    let listed = 0;
    for await (const page of calendars.changes(calendar, null, signal)) {
      listed += page.changed.length;
      for (const { href } of page.changed) if (hrefs.length < MOST_EVENTS) hrefs.push(href);
    }
    const read = hrefs.length === 0 ? new Map<string, StoredEvent | null>() : await calendars.read(calendar, hrefs, signal);
    return { events: [...read.values()].filter((e) => e !== null), listed };
  });

/** A date-time with its offset or zone (RFC 9557). With Z the clock is that of UTC, whatever zone is named beside it. */
const DATE_TIME = /^(\d{4}-\d\d-\d\d)T(\d\d:\d\d)(?::\d\d(?:\.\d+)?)?(Z|[+-]\d\d:\d\d)?(?:\[([^\]]+)\])?$/;
const asPeopleWrite = (text: string) =>
  text.replace(DATE_TIME, (_all, day: string, time: string, offset: string | undefined, zone: string | undefined) =>
    `${day} ${time} ${offset === 'Z' ? 'UTC' : (zone ?? offset ?? '')}`.trim(),
  );

/** What a record's fields say, in words; times as people write them. */
export const sayFields = (record: Pick<RecordItem, 'fields'>): Record<string, string> =>
  Object.fromEntries(Object.entries(record.fields).map(([name, value]) => [name, asPeopleWrite(sayValue(value))]));

/** Of each field: how often it is filled, and its most frequent values. */
export const describeFields = (collection: Collection, items: readonly RecordItem[]) =>
  collection.fields.map((field) => {
    const values = valuesOf(field, items);
    const filled = items.filter((r) => sayValue(r.fields[field.name]) !== '').length;
    return {
      name: field.name,
      label: field.label,
      type: field.type,
      filled,
      values: values.slice(0, 60).map((v) => ({ ...v, value: v.value.slice(0, 200) })),
    };
  });

/** Records worth looking at: ordinary ones, and those with which something could go wrong. */
export function pickRecords(collection: Collection, items: readonly RecordItem[]): { record: RecordItem; about: string }[] {
  const picked = new Map<string, { record: RecordItem; about: string }>();
  const pick = (record: RecordItem | undefined, about: string) => {
    if (record !== undefined && !picked.has(record.id)) picked.set(record.id, { record, about });
  };
  const textOf = (r: RecordItem) => Object.values(r.fields).reduce<number>((n, v) => n + sayValue(v).length, 0);
  const filled = (r: RecordItem) => collection.fields.filter((f) => sayValue(r.fields[f.name]) !== '').length;
  const dated = collection.fields.filter((f) => f.type === 'date' || f.type === 'date-time');
  const ordinary = [...items].filter((r) => dated.some((f) => sayValue(r.fields[f.name]) !== '')).sort((a, b) => filled(b) - filled(a));
  for (const record of ordinary.slice(0, 2)) pick(record, 'with most fields filled');
  const longest = items.reduce<RecordItem | undefined>((a, b) => (a === undefined || textOf(b) > textOf(a) ? b : a), undefined);
  pick(longest, 'the longest texts');
  pick(
    items.find((r) => dated.every((f) => sayValue(r.fields[f.name]) === '')),
    'no date',
  );
  const hidden = collection.fields.find((f) => f.type === 'yes/no' && /private|confidential/i.test(f.name));
  if (hidden !== undefined)
    pick(
      items.find((r) => r.fields[hidden.name] === true),
      'private',
    );
  const times = collection.fields.filter((f) => f.type === 'date-time');
  pick(
    items.find((r) => times.some((f) => /T2[23]:/.test(sayValue(r.fields[f.name])))),
    'late in the evening: it may cross midnight',
  );
  pick(
    items.find((r) => times.some((f) => /-(03|10)-(2[5-9]|3[01])T0[0-3]/.test(sayValue(r.fields[f.name])))),
    'in the night when clocks may change',
  );
  for (const field of collection.fields.filter((f) => f.type === 'choice').slice(0, 2)) {
    const rarest = valuesOf(field, items)
      .filter((v) => v.count > 0)
      .at(-1);
    if (rarest !== undefined)
      pick(
        items.find((r) => sayValue(r.fields[field.name]) === rarest.value),
        `${field.label}: ${rarest.value}`,
      );
  }
  return [...picked.values()];
}
