import { Temporal } from 'temporal-polyfill';
import type { Taken } from '../maps/field-map.ts';
import { UnfitValue } from '../maps/unfit.ts';
import { type Field, type FieldValue, type FieldValues, isEmpty, type RecordItem, sayValue, unitSeconds } from '../record/fields.ts';
import { readDateTime, sayable, type ZonedMoment } from '../time/date-time.ts';
import { isDefinedZone } from '../time/defined-zone.ts';
import { sameWhen, spanOf, type When } from '../time/when.ts';
import { formatInstant, toInstant, toLocal, UTC, type Zone, type ZoneTable } from '../time/zones.ts';
import { readWhen, type WhenSource } from './when-source.ts';

export interface WhenContext {
  fields: readonly Field[];
  /** the lane's zone */
  zone: Zone;
  zones: ZoneTable;
}

const DAY = 86_400;
const addDays = (day: string, days: number) => Temporal.PlainDate.from(day).add({ days }).toString();
const daysBetween = (from: string, to: string) => Temporal.PlainDate.from(from).until(Temporal.PlainDate.from(to), { largestUnit: 'days' }).days;

/**
 * The way back of a moment's time: what changes in the record's fields so that it takes place then. A record that
 * takes place then already changes nothing; what its fields cannot hold stays on the calendar, and is said.
 * @throws UnfitValue when the fields cannot hold it
 */
export function takeWhen(source: WhenSource, record: RecordItem, when: When, context: WhenContext): Taken {
  const back = new RecordTimeWriter(source, record, when, context);
  if (back.isShown()) return { fields: {}, notes: [] };
  const fields = back.fields();
  return { fields: Object.fromEntries(Object.entries(fields).filter(([name, value]) => !back.holds(name, value))), notes: back.notes };
}

class RecordTimeWriter {
  readonly notes: string[] = [];
  readonly #source: WhenSource;
  readonly #record: RecordItem;
  readonly #when: When;
  readonly #context: WhenContext;

  constructor(source: WhenSource, record: RecordItem, when: When, context: WhenContext) {
    this.#source = source;
    this.#record = record;
    this.#when = when;
    this.#context = context;
  }

  /** Does the record show just that? Then there is nothing to take, however else it could be said. */
  isShown(): boolean {
    try {
      const { fields, zone, zones } = this.#context;
      return sameWhen(readWhen(this.#source, this.#record, fields, zone, zones).when, this.#when, zones);
    } catch (error) {
      if (error instanceof UnfitValue) return false;
      throw error;
    }
  }

  /** Does the field say that already? Date-times by their instant: the record keeps its own zone and form. */
  holds(name: string, value: FieldValue): boolean {
    const now = this.#record.fields[name] ?? null;
    const field = this.#context.fields.find((f) => f.name === name);
    if (isEmpty(now) || isEmpty(value)) return isEmpty(now) && isEmpty(value);
    if (field?.type === 'date-time') return this.#read(String(now))?.instant === this.#read(String(value))?.instant;
    if (field?.type === 'time') return clock(String(now)) === clock(String(value));
    return sayValue(now) === sayValue(value);
  }

  fields(): FieldValues {
    const source = this.#source;
    const when = this.#when;
    if ('due' in source) return this.#due(source);
    if ('first' in source) {
      const { first, end } = this.#days();
      if (when.kind === 'timed') this.notes.push(`"${source.first}" and "${source.last}" hold days only: the clock times stay on the calendar`);
      return { [source.first]: first, [source.last]: source.lastCounts ? addDays(end, -1) : end };
    }
    if ('day' in source) {
      const { first, end } = this.#days();
      if (when.kind === 'timed') this.notes.push(`"${source.day}" holds a day only: the clock times stay on the calendar`);
      else if (daysBetween(first, end) > 1) this.notes.push(`"${source.day}" holds one day: the length stays on the calendar`);
      return { [source.day]: first };
    }
    const timed = when.kind === 'timed' ? this.#span() : this.#allDay(when);
    if ('date' in source) {
      const zone = this.#context.zone;
      const [date, time] = this.#local(timed.from, zone, source.date).split('T') as [string, string];
      return { [source.date]: date, [source.time]: time, ...this.#length(source, timed) };
    }
    return {
      [source.start]: this.#dateTime(source.start, timed.from),
      ...('end' in source ? { [source.end]: this.#dateTime(source.end, timed.until) } : {}),
      ...this.#length(source, timed),
    };
  }

  #read(text: string): ZonedMoment | null {
    try {
      return readDateTime(text, this.#context.zone, this.#context.zones);
    } catch {
      return null;
    }
  }

  #span(): { from: number; until: number } {
    return spanOf(this.#when, this.#context.zone, this.#context.zones);
  }

  /** The days that the event touches, on the lane's clock. */
  #days(): { first: string; end: string } {
    if (this.#when.kind === 'all-day') return this.#when;
    const { zone } = this.#context;
    const { from, until } = this.#span();
    const first = toLocal(from, zone).slice(0, 10);
    return { first, end: addDays(toLocal(Math.max(from, until - 1), zone).slice(0, 10), 1) };
  }

  /**
   * The instants of an event that a person made all-day, where the record can hold nothing but clock times: it keeps
   * its own. Null for a record that has none yet, which cannot be told from days alone.
   */
  #allDay(when: When & { kind: 'all-day' }): { from: number; until: number } {
    const { zone, zones, fields } = this.#context;
    const source = this.#source;
    if ('allDayFrom' in source && source.allDayFrom !== undefined && source.allDayUntil !== undefined) {
      const until = toInstant(`${addDays(when.end, -1)}T${source.allDayUntil}:00`, zone).instant;
      return { from: toInstant(`${when.first}T${source.allDayFrom}:00`, zone).instant, until };
    }
    let shown: When | null = null;
    try {
      shown = readWhen(this.#source, this.#record, fields, zone, zones).when;
    } catch (error) {
      if (!(error instanceof UnfitValue)) throw error;
    }
    if (shown === null || shown.kind !== 'timed')
      throw new UnfitValue(
        Object.values(this.#source).join(', '),
        `${when.first}`,
        'an all-day event has no clock times, and the record has none to keep',
      );
    this.notes.push('the event is all-day: the record keeps its own time of day');
    const home = shown.zone === null ? zone : (zones.find(shown.zone) ?? zone);
    const from = toInstant(`${when.first}T${shown.start.slice(11)}`, home).instant;
    const last = addDays(when.end, -1);
    if (!('end' in this.#source)) {
      const old = spanOf(shown, zone, zones);
      const length = old.until - old.from;
      const rest = length > DAY ? length % DAY : length;
      return { from, until: from + rest + (daysBetween(when.first, when.end) - 1) * DAY };
    }
    const until = toInstant(`${last}T${shown.end.slice(11)}`, home).instant;
    return { from, until: until >= from ? until : toInstant(`${addDays(last, 1)}T${shown.end.slice(11)}`, home).instant };
  }

  /** The length field, where there is one; a length that stays on the calendar is said. */
  #length(source: object, span: { from: number; until: number }): FieldValues {
    const seconds = span.until - span.from;
    if ('minutes' in source) {
      if (seconds !== Number(source.minutes) * 60) this.notes.push('the record has no field for a length: the altered length stays on the calendar');
      return {};
    }
    if (!('length' in source)) return {};
    const name = String(source.length);
    const unit = this.#context.fields.find((f) => f.name === name)?.unit ?? 'minutes';
    return { [name]: seconds / unitSeconds[unit] };
  }

  /** An instant in the form that the record uses: its own zone, UTC, or a plain clock time. */
  #dateTime(name: string, instant: number): string {
    const now = this.#record.fields[name];
    const when = this.#when;
    // A zone that only the event defines means nothing to a record, and UTC says when, not where: its days are the lane's.
    const named = when.kind === 'timed' && when.zone !== null && when.zone !== 'UTC' && !isDefinedZone(when.zone) ? when.zone : null;
    const eventZone = named === null ? this.#context.zone : (this.#context.zones.find(named) ?? UTC);
    if (isEmpty(now)) return zoned(instant, eventZone);
    const text = String(now);
    const read = this.#read(text);
    if (read === null) return zoned(instant, eventZone);
    if (text.endsWith(']')) return zoned(instant, read.zone);
    if (/Z$/i.test(text)) return formatInstant(instant);
    if (/[+-]\d\d:?\d\d$/.test(text)) return zoned(instant, read.zone).replace(/\[.*\]$/, '');
    return this.#local(instant, read.zone, name);
  }

  /** @throws UnfitValue where a wall clock alone cannot say which passage of a repeated hour is meant */
  #local(instant: number, zone: Zone, name: string): string {
    const local = toLocal(instant, zone);
    if (toInstant(local, zone).instant !== instant)
      throw new UnfitValue(name, local, `${local} comes twice in ${zone.name} that night, and the field has no room to say that the second is meant`);
    return local;
  }

  /** A due time moves with the event; shown as a day, it moves by whole days and keeps its own time of day. */
  #due(source: Extract<WhenSource, { due: string }>): FieldValues {
    const { zone, zones, fields } = this.#context;
    const old = isEmpty(this.#record.fields[source.due]) ? null : this.#read(String(this.#record.fields[source.due]));
    const when = this.#when;
    if (source.show !== 'all-day' && when.kind === 'timed') {
      const { from, until } = this.#span();
      const moved = source.show === 'ending' ? until : from;
      if ('minutes' in source && until - from !== source.minutes * 60)
        this.notes.push(`"${source.due}" has no length: the altered length stays on the calendar`);
      return { [source.due]: this.#dateTime(source.due, moved) };
    }
    const { first } = this.#days();
    if (old === null) {
      if (when.kind === 'timed') return { [source.due]: this.#dateTime(source.due, this.#span().from) };
      // Nothing says at what time it is due: the end of the lane's day holds on every reading of "that day".
      return { [source.due]: zoned(toInstant(`${first}T23:59:00`, zone).instant, zone) };
    }
    if (source.show === 'all-day' ? when.kind === 'timed' : when.kind === 'all-day') this.notes.push(`"${source.due}" keeps its own time of day`);
    const shown = readWhen(source, this.#record, fields, zone, zones).when;
    const shownDay = shown.kind === 'all-day' ? shown.first : shown.start.slice(0, 10);
    const eventDay = when.kind === 'timed' ? toLocal(this.#span().from, old.zone).slice(0, 10) : first;
    const days = daysBetween(shownDay, eventDay);
    if (days === 0) return {};
    const moved = toInstant(`${addDays(old.local.slice(0, 10), days)}T${old.local.slice(11)}`, old.zone).instant;
    return { [source.due]: this.#dateTime(source.due, moved) };
  }
}

/** RFC 9557, with the offset, so that both passages of a repeated hour can be said. */
function zoned(instant: number, zone: Zone): string {
  if (zone.name === 'UTC') return `${formatInstant(instant)}[UTC]`;
  const { offset } = zone.period(instant);
  const minutes = Math.abs(Math.round(offset / 60));
  const two = (n: number) => String(n).padStart(2, '0');
  return `${toLocal(instant, zone)}${offset < 0 ? '-' : '+'}${two(Math.floor(minutes / 60))}:${two(minutes % 60)}[${zone.name}]`;
}

const clock = (time: string) => (/^\d\d:\d\d$/.test(time) ? `${time}:00` : time);

/** The same span by the clock of another zone. */
const inZone = (event: When & { kind: 'timed' }, zone: Zone, zones: ZoneTable): When & { kind: 'timed' } => {
  const { from, until } = spanOf(event, zone, zones);
  const { zone: said, start, end } = sayable(from, until, zone);
  return { kind: 'timed', start, end, zone: said.name };
};

/**
 * What goes to the calendar when the record moves an event on which people altered something that the record cannot
 * hold: a length, clock times, a zone, all-day instead of timed. The event moves, and what they altered stays.
 *
 * @param shown what the record shows now
 * @param before what it showed at the last agreement
 * @param event the event as it stands
 */
export function carryWhen(shown: When, before: When, event: When, context: WhenContext): When {
  const { zone, zones } = context;
  if (shown.kind !== before.kind) return shown;
  if (shown.kind === 'all-day' && before.kind === 'all-day') {
    if (event.kind === 'timed') {
      const days = daysBetween(before.first, shown.first);
      // A program that writes UTC means the clock of the lane; else the event keeps the time of day of its own zone.
      const onClock = event.zone === UTC.name ? inZone(event, zone, zones) : event;
      return {
        ...onClock,
        start: `${addDays(onClock.start.slice(0, 10), days)}${onClock.start.slice(10)}`,
        end: `${addDays(onClock.end.slice(0, 10), days)}${onClock.end.slice(10)}`,
      };
    }
    const altered = daysBetween(event.first, event.end) - daysBetween(before.first, before.end);
    return altered === 0
      ? shown
      : { kind: 'all-day', first: shown.first, end: addDays(shown.end, Math.max(altered, 1 - daysBetween(shown.first, shown.end))) };
  }
  if (shown.kind !== 'timed') return shown;
  const old = spanOf(before, zone, zones);
  const now = spanOf(shown, zone, zones);
  if (event.kind === 'all-day') {
    const first = toLocal(now.from, zones.find(shown.zone ?? '') ?? zone).slice(0, 10);
    return { kind: 'all-day', first, end: addDays(first, daysBetween(event.first, event.end)) };
  }
  const there = spanOf(event, zone, zones);
  const kept = event.zone !== null && before.kind === 'timed' && event.zone !== before.zone ? zones.find(event.zone) : undefined;
  const altered = { from: there.from - old.from, until: there.until - old.until };
  if (altered.from === 0 && altered.until === 0 && kept === undefined) return shown;
  const home = kept ?? zones.find(shown.zone ?? '') ?? zone;
  const from = now.from + altered.from;
  const { zone: said, start, end } = sayable(from, Math.max(from, now.until + altered.until), home);
  return { kind: 'timed', start, end, zone: said.name };
}
