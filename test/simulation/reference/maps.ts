import type { FieldMap, LaneDefinition } from '@monsoon/core';
import { addDays, dayNumber, instantIn, localIn, londonDay, londonInstant, type Place } from './clock.ts';
import { isDays, isEmpty, same, type Value, type When } from './values.ts';

/** Where a record's start says that it is: its clock times are of that place. */
const PLACE = Symbol('place');

/** A record as plain values: date-times are instants, people are addresses, lists are in order. */
export type Fields = { [field: string]: Value | boolean; [PLACE]?: Place };

/** A value that does not fit. */
export class Unfit extends Error {}

const dateTimes = new Set(['start', 'end', 'due', 'follow']);

/** A record as its system holds it, in those terms. */
export function fieldsOf(item: Record<string, unknown>): Fields {
  const fields: Fields = Object.fromEntries(
    Object.entries(item).map(([name, value]) => {
      if (isEmpty(value as Value)) return [name, null];
      if (dateTimes.has(name)) return [name, instantOf(String(value))];
      if (name === 'guests') return [name, (value as { email: string }[]).map((p) => p.email.toLowerCase()).sort()];
      if (name === 'tags') return [name, [...(value as string[])].sort()];
      return [name, value as Value];
    }),
  );
  return String(item['start']).endsWith('[Europe/Athens]') ? { ...fields, [PLACE]: 'Europe/Athens' } : fields;
}

function instantOf(text: string): number {
  const zoned = /^(.{19})(Z|[+-]\d\d:\d\d)/.exec(text);
  return zoned === null ? instantIn('Europe/London', text.replace('[Europe/London]', '')) : Date.parse(`${zoned[1]}${zoned[2]}`) / 1000;
}

type Source = LaneDefinition['moments'][number]['when'];
const DAY = 86_400;
const num = (r: Fields, name: string): number => {
  const value = r[name];
  if (typeof value !== 'number') throw new Unfit(name);
  return value;
};
const text = (r: Fields, name: string): string => {
  const value = r[name];
  if (typeof value !== 'string') throw new Unfit(name);
  return value;
};

/** The time that a record says. */
export function showWhen(source: Source, r: Fields): When {
  const lasting = (from: number): When => {
    const minutes = 'minutes' in source ? source.minutes : num(r, (source as { length: string }).length);
    if (minutes < 0) throw new Unfit('length');
    return { from, until: from + minutes * 60 };
  };
  if ('due' in source) {
    const due = num(r, source.due);
    if (source.show === 'all-day') return { first: londonDay(due), end: addDays(londonDay(due), 1) };
    const span = source.minutes * 60;
    return source.show === 'ending' ? { from: due - span, until: due } : { from: due, until: due + span };
  }
  if ('day' in source) return { first: text(r, source.day), end: addDays(text(r, source.day), 1) };
  if ('first' in source) {
    const [first, last] = [text(r, source.first), text(r, source.last)];
    if (last < first) throw new Unfit(source.last);
    return { first, end: source.lastCounts ? addDays(last, 1) : last > first ? last : addDays(first, 1) };
  }
  if ('date' in source) return lasting(londonInstant(text(r, source.date), text(r, source.time)));
  const from = num(r, source.start);
  if (!('end' in source)) return lasting(from);
  const until = num(r, source.end);
  if (until < from) throw new Unfit(source.end);
  return { from, until };
}

/** What changes in a record so that it takes place then; what its fields cannot hold stays on the calendar. */
export function takeWhen(source: Source, r: Fields, when: When): Fields {
  let shown: When | null = null;
  try {
    shown = showWhen(source, r);
  } catch (error) {
    if (!(error instanceof Unfit)) throw error;
  }
  if (shown !== null && same(shown, when)) return {};
  const days = isDays(when) ? when : { first: londonDay(when.from), end: addDays(londonDay(Math.max(when.from, when.until - 1)), 1) };
  return onlyChanges(r, wanted());

  function wanted(): Fields {
    if ('due' in source) return due(source);
    if ('day' in source) return { [source.day]: days.first };
    if ('first' in source) return { [source.first]: days.first, [source.last]: source.lastCounts ? addDays(days.end, -1) : days.end };
    const { from, until } = isDays(when) ? clockTimes(when) : when;
    const length = 'length' in source ? { [source.length]: (until - from) / 60 } : {};
    if ('date' in source) {
      const [day, clock] = localIn('Europe/London', from).split('T') as [string, string];
      return { [source.date]: day, [source.time]: clock, ...length };
    }
    return { [source.start]: from, ...('end' in source ? { [source.end]: until } : {}), ...length };
  }

  /** Days, where the record holds clock times: those that the lane names, or its own. */
  function clockTimes(of: { first: string; end: string }): { from: number; until: number } {
    const last = addDays(of.end, -1);
    if ('allDayFrom' in source && source.allDayFrom !== undefined)
      return { from: londonInstant(of.first, source.allDayFrom), until: londonInstant(last, source.allDayUntil!) };
    if (shown === null || isDays(shown)) throw new Unfit('all-day');
    const place = r[PLACE] ?? 'Europe/London';
    const [own, ownEnd] = [localIn(place, shown.from).slice(11), localIn(place, shown.until).slice(11)];
    const from = instantIn(place, `${of.first}T${own}`);
    if ('end' in source) {
      const until = instantIn(place, `${last}T${ownEnd}`);
      return { from, until: until >= from ? until : instantIn(place, `${addDays(last, 1)}T${ownEnd}`) };
    }
    const length = shown.until - shown.from;
    return { from, until: from + (length > DAY ? length % DAY : length) + (dayNumber(of.end) - dayNumber(of.first) - 1) * DAY };
  }

  function due(of: Extract<Source, { due: string }>): Fields {
    const old = r[of.due];
    if (of.show !== 'all-day' && !isDays(when)) return { [of.due]: of.show === 'ending' ? when.until : when.from };
    if (typeof old !== 'number') return { [of.due]: isDays(when) ? londonInstant(when.first, '23:59') : when.from };
    const shownDay = isDays(shown!) ? shown.first : londonDay(shown!.from);
    const moved = dayNumber(days.first) - dayNumber(shownDay);
    const [day, clock] = localIn('Europe/London', old).split('T') as [string, string];
    return moved === 0 ? {} : { [of.due]: londonInstant(addDays(day, moved), clock) };
  }
}

const onlyChanges = (r: Fields, wanted: Fields): Fields =>
  Object.fromEntries(Object.entries(wanted).filter(([name, value]) => !same(value as Value, r[name] as Value)));

/** What goes to an event on which people altered something that the record cannot hold. */
export function carryWhen(now: When, before: When, event: When): When {
  if (isDays(now) !== isDays(before)) return now;
  if (isDays(now) && isDays(before)) {
    const moved = dayNumber(now.first) - dayNumber(before.first);
    if (!isDays(event)) {
      const shift = (at: number) => {
        const [day, clock] = localIn('Europe/London', at).split('T') as [string, string];
        return londonInstant(addDays(day, moved), clock);
      };
      return { from: shift(event.from), until: shift(event.until) };
    }
    const size = (w: { first: string; end: string }) => dayNumber(w.end) - dayNumber(w.first);
    const altered = size(event) - size(before);
    return { first: now.first, end: addDays(now.end, Math.max(altered, 1 - size(now))) };
  }
  const [shown, old] = [now as { from: number; until: number }, before as { from: number; until: number }];
  if (isDays(event)) {
    const first = londonDay(shown.from);
    return { first, end: addDays(first, dayNumber(event.end) - dayNumber(event.first)) };
  }
  const from = shown.from + event.from - old.from;
  return { from, until: Math.max(from, shown.until + event.until - old.until) };
}

const say = (v: Value | boolean | undefined): string =>
  v === null || v === undefined ? '' : typeof v === 'boolean' ? (v ? 'yes' : 'no') : Array.isArray(v) ? v.join(', ') : String(v);

/** `{field}` and `[optional {field}]`; these tests nest nothing deeper. */
function fill(join: string, r: Fields): string {
  const plain = (part: string) => part.replace(/\{(\w+)\}/g, (_m, name: string) => say(r[name]));
  return join
    .replace(/\[([^\]]*)\]/g, (_m, part: string) =>
      [...part.matchAll(/\{(\w+)\}/g)].every(([, name]) => isEmpty(r[name!] as Value)) ? '' : plain(part),
    )
    .replace(/\{(\w+)\}/g, (_m, name: string) => say(r[name]))
    .trim();
}

const sets = new Set(['categories', 'attendees', 'reminders']);
export const isSet = (property: string): boolean => sets.has(property);
const words: Record<string, readonly string[]> = {
  status: ['tentative', 'confirmed', 'cancelled'],
  busy: ['busy', 'free'],
  visibility: ['public', 'private', 'confidential'],
};
const silent: Record<string, string> = { status: 'confirmed', busy: 'busy', visibility: 'public' };

/** What a record shows through a map. A property with a default shows that where the record says nothing. */
export function show(property: string, map: FieldMap, r: Fields): Value {
  if (sets.has(property)) return showSet(property, map, r);
  const shown =
    'join' in map
      ? fill(map.join, r)
      : 'table' in map
        ? (map.values[say(r[map.table])] ?? '')
        : 'fixed' in map
          ? String(map.fixed)
          : 'copy' in map
            ? say(r[map.copy])
            : '';
  const said = shown.trim() || map.default || '';
  if (words[property] !== undefined && said !== '' && !words[property].includes(said)) throw new Unfit(property);
  return said || (silent[property] ?? null);
}

function showSet(property: string, map: FieldMap, r: Fields): Value {
  const given = 'fixed' in map ? [map.fixed].flat() : 'copy' in map ? [r[map.copy] ?? []].flat() : [];
  if (property === 'reminders') {
    const minutes = given.map(Number);
    if (minutes.some((m) => !Number.isInteger(m) || m < 0 || m > 40_320)) throw new Unfit('reminders');
    return minutes.length === 0 ? null : [...new Set(minutes)].sort((a, b) => a - b);
  }
  const all = [...new Set(given.map((v) => (property === 'attendees' ? String(v).toLowerCase() : String(v))))].sort();
  return all.length === 0 ? null : all;
}

const choices: Record<string, string[]> = { status: ['open', 'done', 'later'], kind: ['tuning', 'voicing'], tags: ['red', 'green', 'blue'] };
/** Longest texts that the record's system takes. */
export const limits: Record<string, number> = { title: 40 };

function intoField(name: string, said: string | null): Fields {
  if (said === null || said === '') return { [name]: null };
  if (name === 'secret') return { secret: said === 'yes' };
  const fits = choices[name];
  if (fits !== undefined && !fits.includes(said)) throw new Unfit(name);
  if (said.length > (limits[name] ?? 5000)) throw new Unfit(name);
  if (name === 'url' && !/^[a-z]+:\S+$/.test(said)) throw new Unfit(name);
  return { [name]: said };
}

/** The way back of a map: what changes in the record. */
export function take(property: string, map: FieldMap, r: Fields, value: Value, stated = false): Fields {
  if ('words' in map) {
    const all = ` ${say(value)
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, ' ')} `;
    const chosen = map.choose.find((c) => all.includes(` ${c.word.toLowerCase()} `))?.value ?? map.default;
    return chosen === undefined ? {} : onlyChanges(r, intoField(map.words, chosen));
  }
  const shownNow = (): Value => {
    try {
      return show(property, map, r);
    } catch (error) {
      if (error instanceof Unfit) return null;
      throw error;
    }
  };
  // A new record gets the default that a missing property stands for, but not the default of the map.
  if (same(shownNow(), value) && (!stated || same(value, map.default ?? null))) return {};
  if (sets.has(property)) {
    const name = (map as { copy: string }).copy;
    const all = (value ?? []) as (string | number)[];
    if (property === 'reminders') {
      if (all.length > 1) throw new Unfit(name);
      return onlyChanges(r, { [name]: (all[0] as number | undefined) ?? null });
    }
    const fitting = property === 'attendees' ? (all as string[]) : choices['tags']!.filter((t) => all.includes(t)).sort();
    return onlyChanges(r, { [name]: fitting.length === 0 ? null : fitting });
  }
  const said = value === null ? null : String(value);
  if ('copy' in map) return onlyChanges(r, intoField(map.copy, said));
  if ('table' in map) {
    const from = Object.entries(map.values).find(([, to]) => to === said)?.[0];
    if (from === undefined && said !== null && said !== map.default) throw new Unfit(map.table);
    return onlyChanges(r, intoField(map.table, from ?? null));
  }
  if ('join' in map) {
    const edit = map.edit ?? 'title';
    if (fill(map.join, { ...r, [edit]: null }) === (said ?? '')) return onlyChanges(r, { [edit]: null });
    const [before, after] = fill(map.join, { ...r, [edit]: '\u0001' }).split('\u0001') as [string, string | undefined];
    if (after === undefined || said === null || said.length < before.length + after.length || !said.startsWith(before) || !said.endsWith(after))
      throw new Unfit(edit);
    return onlyChanges(r, intoField(edit, said.slice(before.length, said.length - after.length).trim() || null));
  }
  throw new Unfit(property);
}
