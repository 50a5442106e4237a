import { UnfitValue } from '../maps/unfit.ts';
import type { Problem } from '../record/conditions.ts';
import { type Field, type FieldType, type FieldValue, isEmpty, type RecordItem, sayCure, sayValue, unitSeconds } from '../record/fields.ts';
import { readDateTime } from '../time/date-time.ts';
import { type WhenRead, whenFromDays, whenFromStartEnd, whenFromStartLength } from '../time/when.ts';
import { formatInstant, type Zone, type ZoneTable } from '../time/zones.ts';

/**
 * From which fields of a record a moment's time is read. `minutes` is the lane's own length where the record has none;
 * `lastCounts` says whether the last day is part of the range; a due time is shown as an event that ends or starts
 * there, or as its day.
 */
export type WhenSource =
  | ({ start: string; end: string } & AllDay)
  /** the length is written along, and not read */
  | ({ start: string; end: string; length: string } & AllDay)
  | ({ start: string; length: string } & AllDay)
  | ({ start: string; minutes: number } & AllDay)
  | ({ date: string; time: string; length: string } & AllDay)
  | ({ date: string; time: string; minutes: number } & AllDay)
  | { first: string; last: string; lastCounts: boolean }
  | { day: string }
  | { due: string; show: 'ending' | 'starting'; minutes: number }
  | { due: string; show: 'all-day' };

/** The parts of a source that name fields, and the types that fit. */
const fitting: Record<string, readonly FieldType[]> = {
  start: ['date-time'],
  end: ['date-time'],
  length: ['duration'],
  date: ['date'],
  time: ['time'],
  first: ['date'],
  last: ['date'],
  day: ['date'],
  due: ['date-time'],
};

/** For times that come from events: the clock times (`08:00`) that an all-day event stands for. */
interface AllDay {
  allDayFrom?: string | undefined;
  allDayUntil?: string | undefined;
}

const shapes = [
  ['start', 'end'],
  ['start', 'end', 'length'],
  ['start', 'length'],
  ['start', 'minutes'],
  ['date', 'time', 'length'],
  ['date', 'time', 'minutes'],
  ['first', 'last', 'lastCounts'],
  ['day'],
  ['due', 'show', 'minutes'],
  ['due', 'show'],
];
export const sayShapes = shapes.map((s) => s.join(' + ')).join('; ');

/** Is this one of the shapes? Null when it is, else what is wrong. */
export function checkWhenShape(source: unknown): string | null {
  if (source === null || typeof source !== 'object' || Array.isArray(source)) return `names the fields of a time: ${sayShapes}`;
  const given = source as Record<string, unknown>;
  const names = Object.keys(given).filter((n) => given[n] !== undefined && n !== 'allDayFrom' && n !== 'allDayUntil');
  const shape = shapes.find((s) => s.length === names.length && s.every((n) => names.includes(n)));
  if (shape === undefined) return `${names.join(' + ') || 'nothing'} is not how a time is read; ways are ${sayShapes}`;
  const clocks = ['allDayFrom', 'allDayUntil'].filter((n) => given[n] !== undefined);
  if (clocks.length > 0 && (clocks.length === 1 || !(shape.includes('start') || shape.includes('time'))))
    return 'allDayFrom and allDayUntil go together, where a start or a time is read';
  for (const name of clocks) if (!/^([01]\d|2[0-3]):[0-5]\d$/.test(String(given[name]))) return `${name} is a time such as 08:00`;
  if (clocks.length === 2 && String(given['allDayUntil']) <= String(given['allDayFrom'])) return 'allDayUntil is later than allDayFrom';
  for (const name of shape) {
    const value = given[name];
    if (name === 'minutes' && !(typeof value === 'number' && Number.isInteger(value) && value >= 0 && value <= 527_040))
      return 'minutes is a whole number from 0 to 527040';
    if (name === 'lastCounts' && typeof value !== 'boolean') return 'lastCounts is true when the last day is part of the range, else false';
    const ways = shape.length === 3 ? ['ending', 'starting'] : ['all-day'];
    if (name === 'show' && !ways.includes(value as string))
      return `show is ${shape.length === 3 ? 'ending or starting' : 'all-day, or ending or starting with minutes'}`;
    if (name in fitting && !(typeof value === 'string' && value !== '')) return `${name} names a field`;
  }
  return null;
}

/** Every field that a source names is there and fits. */
export function checkWhenSource(source: WhenSource, fields: readonly Field[], pointer: string): Problem[] {
  return Object.entries(source).flatMap(([part, name]) => {
    const types = fitting[part];
    if (types === undefined) return [];
    const found = fields.find((f) => f.name === name);
    if (found !== undefined && types.includes(found.type)) return [];
    const others =
      fields
        .filter((f) => types.includes(f.type))
        .map((f) => f.name)
        .join(', ') || '(none)';
    const reason =
      found === undefined
        ? `there is no field "${String(name)}"; fitting fields are ${others}`
        : `the field "${found.name}" is of type ${found.type}; fitting fields are ${others}${sayCure(found, types)}`;
    return [{ pointer: `${pointer}/${part}`, reason }];
  });
}

/** The field without which there is no date at all. */
export const dateField = (source: WhenSource): string =>
  'start' in source ? source.start : 'date' in source ? source.date : 'first' in source ? source.first : 'day' in source ? source.day : source.due;

/** The fields that a source names. */
export const whenFields = (source: WhenSource): string[] =>
  Object.entries(source)
    .filter(([part]) => part in fitting)
    .map(([, name]) => String(name));

/**
 * Reads a moment's time from a record.
 * @throws UnfitValue naming the fields and the values
 */
export function readWhen(source: WhenSource, record: RecordItem, fields: readonly Field[], zone: Zone, zones: ZoneTable): WhenRead {
  const value = (name: string, lack: string): FieldValue => {
    const found = record.fields[name] ?? null;
    if (isEmpty(found)) throw nothingThere(name, lack);
    return found;
  };
  const text = (name: string, lack: string) => sayValue(value(name, lack));
  const seconds = (name: string) => Number(value(name, 'when the event ends')) * unitSeconds[fields.find((f) => f.name === name)?.unit ?? 'minutes'];
  const length = (from: { length: string } | { minutes: number }) => ('length' in from ? seconds(from.length) : from.minutes * 60);
  try {
    if ('start' in source) {
      const start = text(source.start, 'when the event starts');
      if ('end' in source) return whenFromStartEnd(start, text(source.end, 'when the event ends'), zone, zones);
      return whenFromStartLength(start, length(source), zone, zones);
    }
    if ('date' in source)
      return whenFromStartLength(
        `${text(source.date, 'on which day it is')}T${clock(text(source.time, 'when the event starts'))}`,
        length(source),
        zone,
        zones,
      );
    if ('first' in source) return range(text(source.first, 'when it starts'), text(source.last, 'when it ends'), source.lastCounts);
    if ('day' in source) return whenFromDays(text(source.day, 'on which day it is'), text(source.day, 'on which day it is'));
    const due = readDateTime(text(source.due, 'when it is due'), zone, zones);
    if (source.show === 'all-day') return whenFromDays(due.local.slice(0, 10), due.local.slice(0, 10));
    const from = source.show === 'ending' ? due.instant - source.minutes * 60 : due.instant;
    return whenFromStartLength(`${formatInstant(from)}[${due.zone.name}]`, source.minutes * 60, zone, zones);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    throw unfitWhen(source, record, error.message);
  }
}

/** The fields of a time do not fit, with what they hold. */
export function unfitWhen(source: WhenSource, record: RecordItem, reason: string): UnfitValue {
  const used = whenFields(source);
  return new UnfitValue(used.join(', '), used.map((name) => sayValue(record.fields[name]) || '(empty)').join(', '), reason);
}

const absent = new Map<string, UnfitValue>();

/** Made once: an empty date is the most ordinary thing, and a stack trace for each would cost more than all the rest. */
function nothingThere(name: string, lack: string): UnfitValue {
  const key = `${name} ${lack}`;
  const known = absent.get(key) ?? new UnfitValue(name, '(empty)', `nothing there, so it is not known ${lack}`);
  if (absent.size < 1000) absent.set(key, known);
  return known;
}

const clock = (time: string) => (/^\d\d:\d\d$/.test(time) ? `${time}:00` : time);

/** A range of days. Where the last day does not count, it is the day after, and one day at least is meant. */
function range(first: string, last: string, lastCounts: boolean): WhenRead {
  if (lastCounts) return whenFromDays(first, last);
  const read = whenFromDays(first, last);
  return { ...read, when: { kind: 'all-day', first, end: last > first ? last : (read.when as { end: string }).end } };
}
