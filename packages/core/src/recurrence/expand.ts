import { Temporal } from 'temporal-polyfill';
import { type Component, type Line, lineOf, paramOf, UnreadableEvent } from '../ical/content.ts';
import { compact, expand as expandDate } from '../ical/dates.ts';
import { lengthOf, readClock, readWhen } from '../ical/event-times.ts';
import { spanOf, type When } from '../time/when.ts';
import { toInstant, toLocal, UTC, type Zone, type ZoneTable } from '../time/zones.ts';
import { InvalidRule, parseRule, type Rule } from './rule.ts';
import { compactDate, compactLocal, dateText, instantsIn, localText } from './series-clock.ts';
import { wallClockTimes } from './wall-clock.ts';

/** Most occurrences of one series in a window: an item with more fails, and says so. */
export const MOST_OCCURRENCES = 1000;
/** Most RDATE, EXDATE and overrides of one series. */
const MOST_DATES = 10_000;

/** One of the times of a series (RFC 5545, 3.8.4.4), or of an object that holds single occurrences alone. */
export interface Occurrence {
  /** its original start: `20261201` for days, `20261201T090000Z` as an instant, `20261201T090000` without zone */
  recurrenceId: string;
  when: When;
  /** what speaks for it: the series itself, or the override */
  component: Component;
  cancelled: boolean;
}

export interface Window {
  /** seconds since 1970; an occurrence counts that ends after `from` and begins before `until` */
  from: number;
  until: number;
  /** of times without zone */
  home: Zone;
  /** recurrence-ids of occurrences that are wanted wherever they are; they are not counted against the limit */
  also?: ReadonlySet<string>;
  /** most occurrences in the window; {@link MOST_OCCURRENCES} unless said */
  most?: number;
}

/** What the times of a series are counted in: days, instants of a zone, or a clock without zone. */
interface Base {
  days: boolean;
  zone: Zone | null;
  /** the first time, on the wall clock, in seconds */
  start: number;
  roots: Component[];
  zones: ZoneTable;
  /** of a time on that clock; of days and floating times, on the clock where the series is looked at */
  instantOf: (wall: number) => number;
}

const seconds = (local: string): number => Date.parse(`${local.length === 10 ? `${local}T00:00:00` : local}Z`) / 1000;
/**
 * The occurrences of one calendar object in a window, in the order of their times.
 * RDATE and EXDATE in every form, several rules, overrides with and without THISANDFUTURE; a time that a clock change
 * skips is read with the offset before it, and of two the first is meant (RFC 5545, 3.3.5).
 *
 * @param events the VEVENTs of one UID
 * @throws UnreadableEvent naming the rule or the date; InvalidRule also for more than {@link MOST_OCCURRENCES}
 */
export function expandSeries(events: readonly Component[], roots: Component[], window: Window, zones: ZoneTable): Occurrence[] {
  const master = events.find((e) => lineOf(e, 'RECURRENCE-ID') === undefined);
  const overrides = events.filter((e) => e !== master);
  if (overrides.length > MOST_DATES) throw new InvalidRule(`the series has ${overrides.length} overrides; at most ${MOST_DATES} are read`);
  const found: { occurrence: Occurrence; from: number }[] = [];
  let inside = 0;
  const add: Add = (occurrence, known) => {
    const { from, until } = known ?? spanOf(occurrence.when, window.home, zones);
    const outside = from >= window.until || (from < window.from && (typeof until === 'number' ? until : until()) <= window.from);
    if (outside && window.also?.has(occurrence.recurrenceId) !== true) return;
    found.push({ occurrence, from });
    const most = window.most ?? MOST_OCCURRENCES;
    if (!outside && ++inside > most) throw new InvalidRule(`the series has more than ${most} occurrences in the window`);
  };
  if (master === undefined) for (const event of overrides) add(single(event, { roots, window, zones }));
  else expandMaster(master, overrides, { roots, window, zones }, add);
  return found.sort((a, b) => a.from - b.from || (a.occurrence.recurrenceId < b.occurrence.recurrenceId ? -1 : 1)).map((f) => f.occurrence);
}

/** @param known its span in seconds since 1970, where there is a cheaper way than by its time */
type Add = (occurrence: Occurrence, known?: { from: number; until: () => number }) => void;

const isCancelled = (event: Component): boolean => lineOf(event, 'STATUS')?.value.trim().toUpperCase() === 'CANCELLED';

function single(event: Component, reading: Reading): Occurrence {
  const line = lineOf(event, 'RECURRENCE-ID')!;
  const base = baseOf(line, reading);
  return {
    recurrenceId: idOf(base.start, base),
    when: readWhen(event, reading.roots, reading.zones),
    component: event,
    cancelled: isCancelled(event),
  };
}

function baseOf(line: Line, { roots, zones, window }: Reading): Base {
  const days = /^\d{8}$/.test(line.value.trim());
  if (days) return { days, zone: null, start: seconds(expandDate(line.value)), roots, zones, instantOf: instantsIn(window.home) };
  const clock = readClock(line, roots, zones);
  return { days, zone: clock.zone, start: seconds(clock.local), roots, zones, instantOf: instantsIn(clock.zone ?? window.home) };
}

/** @param wall seconds of the wall clock */
function idOf(wall: number, { days, zone, instantOf }: Base): string {
  if (days) return compactDate(wall);
  if (zone === null) return compactLocal(wall);
  return `${compactLocal(instantOf(wall))}Z`;
}

interface Reading {
  roots: Component[];
  window: Window;
  zones: ZoneTable;
}

function expandMaster(master: Component, overrides: readonly Component[], reading: Reading, add: Add): void {
  const { roots, zones } = reading;
  const start = lineOf(master, 'DTSTART');
  if (start === undefined) throw new UnreadableEvent('the event has no DTSTART');
  const base = baseOf(start, reading);
  const first = readWhen(master, roots, zones);
  const excluded = excludedBy(master, base);
  const own = new Map<number, { wall: number; component: Component }>();
  const following: { from: number; component: Component }[] = [];
  for (const override of overrides) {
    const line = lineOf(override, 'RECURRENCE-ID')!;
    const wall = onWallClock(line, line.value, base);
    own.set(keyOf(wall, base), { wall, component: override });
    if (paramOf(line, 'RANGE')?.toUpperCase() === 'THISANDFUTURE') following.push({ from: wall, component: override });
  }
  following.sort((a, b) => a.from - b.from);
  const wanted = wallWindow(first, base, following, reading);
  const said = new Set<number>();
  const length = lengthOfWhen(first);
  const cancelled = isCancelled(master);
  for (const { wall, until } of times(master, base, wanted)) {
    const key = keyOf(wall, base);
    if (said.has(key) || isExcluded(excluded, wall, base)) continue;
    said.add(key);
    if (own.has(key)) continue;
    const governing = following.length === 0 ? undefined : following.findLast((f) => f.from <= wall)?.component;
    if (governing !== undefined) {
      add({ recurrenceId: idOf(wall, base), when: shifted(governing, wall, reading, base), component: governing, cancelled: isCancelled(governing) });
      continue;
    }
    const end = until ?? wall + length;
    const occurrence = new OfTheSeries(master, cancelled, { base, first, wall, end });
    add(occurrence, { from: base.instantOf(wall), until: () => toInstantOf(end, base) });
  }
  // Also where no rule names its time any more: it stands in the object, and calendar programs show it.
  for (const { wall, component } of own.values())
    if (!isExcluded(excluded, wall, base))
      add({ recurrenceId: idOf(wall, base), when: readWhen(component, roots, zones), component, cancelled: isCancelled(component) });
}

/** An end does not come in the order of the starts: the clock of those must not be asked. */
const toInstantOf = (wall: number, { zone, instantOf }: Base): number => (zone === null ? instantOf(wall) : toInstant(localText(wall), zone).instant);

/** An occurrence as its series has it. Its texts are made when they are asked for: most are only counted, or compared. */
class OfTheSeries implements Occurrence {
  readonly component: Component;
  readonly cancelled: boolean;
  readonly #at: { base: Base; first: When; wall: number; end: number };
  constructor(component: Component, cancelled: boolean, at: { base: Base; first: When; wall: number; end: number }) {
    this.component = component;
    this.cancelled = cancelled;
    this.#at = at;
  }
  get recurrenceId(): string {
    return idOf(this.#at.wall, this.#at.base);
  }
  get when(): When {
    return whenOf(this.#at.first, this.#at.wall, this.#at.end);
  }
}

/** The stretch of the wall clock in which an occurrence could touch the window. */
function wallWindow(
  first: When,
  { start, zone }: Base,
  following: { from: number; component: Component }[],
  { window, roots, zones }: Reading,
): { from: number; until: number } {
  const whens = following.map((f) => readWhen(f.component, roots, zones));
  const lengths = [first, ...whens].map(lengthOfWhen);
  const shifts = whens.map((when, i) => Math.abs(seconds(startText(when)) - following[i]!.from));
  const clock = zone ?? window.home;
  const onClock = (instant: number) => seconds(toLocal(instant, clock));
  // What a clock change at either end moves, and what an override with THISANDFUTURE does.
  const changes = [window.from, window.until].map((t) => Math.abs(clock.period(t + 86_400).offset - clock.period(t - 86_400).offset));
  const slack = Math.max(0, ...changes) + Math.max(0, ...shifts);
  const asked = [...(window.also ?? [])].map((id) => wallOf(id, clock));
  return {
    from: Math.max(start, Math.min(onClock(window.from) - Math.max(...lengths) - slack, ...asked)),
    until: Math.max(onClock(window.until) + slack, ...asked),
  };
}

/** Where a recurrence-id stands on a wall clock, in seconds. */
const wallOf = (id: string, clock: Zone): number => {
  const text = expandDate(id);
  return text.endsWith('Z') ? seconds(toLocal(seconds(text.slice(0, -1)), clock)) : seconds(text);
};

/** A recurrence-id as the series writes it: in the form of its start (RFC 5545, 3.8.4.4). @param start its DTSTART */
export function recurrenceIdOf(id: string, start: Line, { roots, zones }: { roots: Component[]; zones: ZoneTable }): string {
  if (!id.endsWith('Z') || /Z$/i.test(start.value.trim())) return id;
  const { zone } = readClock(start, roots, zones);
  return zone === null ? id : compact(toLocal(seconds(expandDate(id).slice(0, -1)), zone));
}

/** The first start of an occurrence at or after the end of a window, in seconds since 1970; null: there is none. */
export function nextStart(events: readonly Component[], roots: Component[], window: Window, zones: ZoneTable): number | null {
  const master = events.find((e) => lineOf(e, 'RECURRENCE-ID') === undefined);
  const reading = { roots, window, zones };
  const overrides = events.filter((e) => e !== master).map((e) => spanOf(readWhen(e, roots, zones), window.home, zones).from);
  let next = Math.min(Number.POSITIVE_INFINITY, ...overrides.filter((from) => from >= window.until));
  if (master === undefined) return Number.isFinite(next) ? next : null;
  const base = baseOf(lineOf(master, 'DTSTART')!, reading);
  const excluded = excludedBy(master, base);
  const wall = { from: seconds(toLocal(window.until, base.zone ?? window.home)) - 2 * 86_400, until: Number.POSITIVE_INFINITY };
  try {
    for (const sequence of sequences(master, base, wall))
      for (const time of sequence) {
        const instant = base.instantOf(time.wall);
        if (instant >= next) break;
        if (instant < window.until || isExcluded(excluded, time.wall, base)) continue;
        next = instant;
        break;
      }
  } catch (error) {
    // What is too rare to be found will not be missed for a while: the series is read again when it changes, and once a day.
    if (!(error instanceof InvalidRule)) throw error;
  }
  return Number.isFinite(next) ? next : null;
}

/** By the clock: an hour that a change skips or repeats counts as it is written. */
const lengthOfWhen = (when: When): number => seconds(when.end) - seconds(startText(when));

const startText = (when: When): string => (when.kind === 'all-day' ? when.first : when.start);

/** The series' own time at another place of its wall clock. */
function whenOf(first: When, wall: number, end: number): When {
  if (first.kind === 'all-day') return { kind: 'all-day', first: dateText(wall), end: dateText(end) };
  return { kind: 'timed', start: localText(wall), end: localText(end), zone: first.zone };
}

/** What THISANDFUTURE moves by, later occurrences are moved by too. */
function shifted(governing: Component, wall: number, { roots, zones }: Reading, base: Base): When {
  const line = lineOf(governing, 'RECURRENCE-ID')!;
  const when = readWhen(governing, roots, zones);
  const moved = seconds(startText(when)) + wall - onWallClock(line, line.value, base);
  return whenOf(when, moved, moved + lengthOfWhen(when));
}

/** A date of the series on the wall clock of its start: what is said in UTC or in another zone is the same instant there. */
function onWallClock(line: Line, value: string, base: Base): number {
  const text = expandDate(value);
  if (text.length === 10) return seconds(text) + (base.days ? 0 : base.start - Math.floor(base.start / 86_400) * 86_400);
  const clock = readClock({ ...line, value }, base.roots, base.zones);
  if (base.days) return seconds(clock.local.slice(0, 10));
  if (clock.zone === null || base.zone === null || clock.zone.name === base.zone.name) return seconds(clock.local);
  return seconds(toLocal(toInstant(clock.local, clock.zone).instant, base.zone));
}

/** What is left out: times by what names them, and days on which whatever begins is. */
interface Excluded {
  times: Set<number>;
  days: Set<number>;
}

function excludedBy(master: Component, base: Base): Excluded {
  const excluded: Excluded = { times: new Set(), days: new Set() };
  for (const line of master.lines.filter((l) => l.name === 'EXDATE'))
    for (const value of valuesOf(line)) {
      if (/^\d{8}$/.test(value.trim())) excluded.days.add(seconds(expandDate(value)) / DAY);
      else excluded.times.add(keyOf(onWallClock(line, value, base), base));
      if (excluded.times.size + excluded.days.size > MOST_DATES) throw new InvalidRule(`the series has more than ${MOST_DATES} excluded dates`);
    }
  return excluded;
}

const DAY = 86_400;
/** What names an occurrence, as a number: an instant, or, where there is no zone, a place on the clock. */
const keyOf = (wall: number, { zone, instantOf }: Base): number => (zone === null ? wall : instantOf(wall));

/** @param wall seconds of the wall clock of the series */
const isExcluded = ({ times: at, days }: Excluded, wall: number, base: Base): boolean =>
  (at.size > 0 && at.has(keyOf(wall, base))) || (days.size > 0 && days.has(Math.floor(wall / DAY)));

const valuesOf = (line: Line): string[] => line.value.split(',').filter((v) => v.trim() !== '');

interface Time {
  wall: number;
  /** the end of a period that RDATE gives */
  until: number | null;
}

/** All times of a series, rule by rule: its start first, which is one whether or not a rule names it (RFC 5545, 3.8.5.3). */
function* times(master: Component, base: Base, window: { from: number; until: number }): Generator<Time> {
  for (const sequence of sequences(master, base, window)) yield* sequence;
}

/** The same, each part in the order of its times. */
function* sequences(master: Component, base: Base, window: { from: number; until: number }): Generator<Iterable<Time>> {
  yield [{ wall: base.start, until: null }];
  for (const line of master.lines.filter((l) => l.name === 'RRULE')) yield ruleTimes(parseRule(line.value), base, window);
  for (const line of master.lines.filter((l) => l.name === 'RDATE')) {
    const values = valuesOf(line);
    if (values.length > MOST_DATES) throw new InvalidRule(`the series has more than ${MOST_DATES} added dates`);
    yield values.map((value) => addedTime(line, value, base)).sort((a, b) => a.wall - b.wall);
  }
}

/** A date that is added to a series, or excluded, on the clock of its start. */
export interface SeriesDate {
  /** seconds of that clock */
  wall: number;
  /** is it at the time of day at which the series starts? */
  atStart: boolean;
  /** where it has an end of its own */
  until: number | null;
}

/** The dates that a series has of its own, beside its rules. @throws UnreadableEvent */
export function datesOf(master: Component, name: 'RDATE' | 'EXDATE', { roots, zones }: { roots: Component[]; zones: ZoneTable }): SeriesDate[] {
  const base = baseOf(lineOf(master, 'DTSTART')!, { roots, zones, window: { from: 0, until: 0, home: UTC } });
  const timeOf = (wall: number) => ((wall % 86_400) + 86_400) % 86_400;
  return master.lines
    .filter((l) => l.name === name)
    .flatMap((line) => valuesOf(line).map((value) => addedTime(line, value, base)))
    .slice(0, MOST_DATES)
    .map(({ wall, until }) => ({ wall, until, atStart: timeOf(wall) === timeOf(base.start) }));
}

/** The excluded dates of a series, without those that leave out one occurrence, in whatever form they are written. */
export function withoutExclusion(master: Component, id: string, { roots, zones }: { roots: Component[]; zones: ZoneTable }): Line[] {
  const base = baseOf(lineOf(master, 'DTSTART')!, { roots, zones, window: { from: 0, until: 0, home: UTC } });
  return master.lines.flatMap((line) => {
    if (line.name !== 'EXDATE') return [line];
    const values = valuesOf(line);
    const kept = values.filter((value) => idOf(onWallClock(line, value, base), base) !== id);
    if (kept.length === values.length) return [line];
    return kept.length === 0 ? [] : [{ ...line, value: kept.join(','), source: null }];
  });
}

function addedTime(line: Line, value: string, base: Base): Time {
  const [begin = '', end] = value.split('/');
  const wall = onWallClock(line, begin, base);
  if (end === undefined) return { wall, until: null };
  if (!/^[+-]?P/i.test(end.trim())) return { wall, until: onWallClock(line, end, base) };
  const length = lengthOf(end);
  const until = Temporal.PlainDateTime.from(localText(wall)).add(length);
  return { wall, until: seconds(until.toString({ smallestUnit: 'second' })) };
}

function* ruleTimes(rule: Rule, base: Base, window: { from: number; until: number }): Generator<Time> {
  // Clock times say nothing of days (RFC 5545, 3.3.10).
  const fitting = base.days ? { ...rule, hours: [], minutes: [], seconds: [] } : rule;
  if (base.days && ['SECONDLY', 'MINUTELY', 'HOURLY'].includes(rule.frequency))
    throw new InvalidRule(`the rule goes by ${rule.frequency} and its series by days`);
  const end = endOfRule(rule, base);
  // The start is the first of those that are counted.
  let left = rule.count === null ? Number.POSITIVE_INFINITY : rule.count - 1;
  for (const wall of wallClockTimes(fitting, base.start, window)) {
    if (wall === base.start) continue;
    if (wall > window.until || end(wall) || left-- <= 0) return;
    if (wall >= window.from) yield { wall, until: null };
  }
}

/** Is a time after UNTIL? It may be a day, an instant, or a time on the clock of the start. */
function endOfRule({ until }: Rule, base: Base): (wall: number) => boolean {
  if (until === null) return () => false;
  const text = expandDate(until);
  if (text.length === 10) return (wall) => Math.floor(wall / 86_400) * 86_400 > seconds(text);
  if (base.days) return (wall) => wall > seconds(text.slice(0, 10));
  if (!text.endsWith('Z') || base.zone === null) return (wall) => wall > seconds(text.replace('Z', ''));
  const instant = seconds(text.slice(0, -1));
  return (wall) => base.instantOf(wall) > instant;
}
