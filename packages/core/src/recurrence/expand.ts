import { type Component, knownLine, type Line, lineOf, paramOf } from '../ical/content.ts';
import { compact, expand as expandDate } from '../ical/dates.ts';
import { readClock, readWhen } from '../ical/event-times.ts';
import { isTextZone, whenInTextZone } from '../ical/read-timezone.ts';
import { isDefinedZone } from '../time/defined-zone.ts';
import { spanOf, type When } from '../time/when.ts';
import { clockToInstant, instantToClock, toLocal, type Zone, type ZoneTable } from '../time/zones.ts';
import { clockOf, clockOfSeries, idOf, keyOf, onClock, type Reading, type SeriesClock } from './clock-of-series.ts';
import { dateText, localText, secondsOf } from './clock-texts.ts';
import { type Excluded, excludedBy, isExcluded, MOST_DATES } from './dates-of-series.ts';
import { InvalidRule } from './rule.ts';
import { SeenTimes } from './seen-times.ts';
import { eachTimeOf } from './times-of-series.ts';

/** Most occurrences of one series in a window: an item with more fails, and says so. */
export const MOST_OCCURRENCES = 1000;
const DAY = 86_400;

/** One of the times of a series (RFC 5545, 3.8.4.4), or of an object that holds single occurrences alone. */
export interface Occurrence {
  /** its original start: `20261201` for days, `20261201T090000Z` as an instant, `20261201T090000` without zone */
  readonly recurrenceId: string;
  readonly when: When;
  /** when it begins and ends, in seconds since 1970; days and times without zone on the clock of the window */
  readonly from: number;
  readonly until: number;
  /** what speaks for it: the series itself, or the override */
  readonly component: Component;
  readonly cancelled: boolean;
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
  const overrides = events.length === 1 && master !== undefined ? [] : events.filter((e) => e !== master);
  if (overrides.length > MOST_DATES) throw new InvalidRule(`the series has ${overrides.length} overrides; at most ${MOST_DATES} are read`);
  const reading = { roots, zones, home: window.home };
  const found = new Found(window);
  if (master !== undefined) new Expansion(master, overrides, reading).into(found);
  else
    for (const event of overrides) {
      const clock = clockOf(knownLine(event, 'RECURRENCE-ID'), reading);
      found.addOverride(idOf(clock.start, clock), event, reading);
    }
  return found.inOrder();
}

const isCancelled = (event: Component): boolean => lineOf(event, 'STATUS')?.value.trim().toUpperCase() === 'CANCELLED';

/** Occurrences that touch the window, or are asked for. */
class Found {
  readonly window: Window;
  readonly #all: Occurrence[] = [];
  #inside = 0;
  #ordered = true;
  #last = Number.NEGATIVE_INFINITY;
  readonly #most: number;

  constructor(window: Window) {
    this.window = window;
    this.#most = window.most ?? MOST_OCCURRENCES;
  }

  add(occurrence: Occurrence): void {
    const { window } = this;
    const { from } = occurrence;
    const outside = from >= window.until || (from < window.from && occurrence.until <= window.from);
    if (outside && window.also?.has(occurrence.recurrenceId) !== true) return;
    if (from <= this.#last) this.#ordered = false;
    this.#last = from;
    this.#all.push(occurrence);
    if (!outside && ++this.#inside > this.#most) throw new InvalidRule(`the series has more than ${this.#most} occurrences in the window`);
  }

  /** One with a time of its own. */
  addOverride(recurrenceId: string, component: Component, { roots, zones, home }: Reading, when = readWhen(component, roots, zones)): void {
    const { from, until } = spanOf(when, home, zones);
    this.add({ recurrenceId, when, from, until, component, cancelled: isCancelled(component) });
  }

  inOrder(): Occurrence[] {
    if (this.#ordered) return this.#all;
    return this.#all.sort((a, b) => a.from - b.from || (a.recurrenceId < b.recurrenceId ? -1 : 1));
  }
}

/**
 * An occurrence as its series has it. Its texts are made when they are asked for: most are only counted, or compared. Its
 * fields are plain ones, because they are made by the hundred thousand.
 */
class OfTheSeries implements Occurrence {
  readonly from: number;
  private readonly series: Expansion;
  /** where it begins and ends on the clock of its series */
  private readonly wall: number;
  private readonly end: number;
  constructor(series: Expansion, wall: number, end: number, from: number) {
    this.series = series;
    this.wall = wall;
    this.end = end;
    this.from = from;
  }
  get until(): number {
    const { zone, home } = this.series.clock;
    return Math.max(this.from, clockToInstant(this.end, zone ?? home).instant);
  }
  get component(): Component {
    return this.series.master;
  }
  get cancelled(): boolean {
    return this.series.cancelled;
  }
  get recurrenceId(): string {
    return idOf(this.wall, this.series.clock);
  }
  get when(): When {
    return this.series.whenLike(this.series.first, this.wall, this.end);
  }
}

/** An override with RANGE=THISANDFUTURE: it speaks for all that follow, too. */
interface Following {
  from: number;
  component: Component;
  when: When;
  /** by how much it moves them */
  moved: number;
}

/** A series with its rules, dates and overrides. */
class Expansion {
  readonly master: Component;
  readonly clock: SeriesClock;
  readonly first: When;
  readonly cancelled: boolean;
  readonly #reading: Reading;
  readonly #length: number;
  readonly #excluded: Excluded;
  readonly #own = new Map<number, { wall: number; component: Component }>();
  readonly #following: Following[] = [];

  constructor(master: Component, overrides: readonly Component[], reading: Reading) {
    this.master = master;
    this.#reading = reading;
    this.clock = clockOfSeries(master, reading);
    this.first = readWhen(master, reading.roots, reading.zones);
    this.cancelled = isCancelled(master);
    this.#length = this.#lengthOf(this.first);
    this.#excluded = excludedBy(master, this.clock);
    for (const override of overrides) this.#readOverride(override);
    this.#following.sort((a, b) => a.from - b.from);
  }

  #readOverride(component: Component): void {
    const line = knownLine(component, 'RECURRENCE-ID');
    const wall = onClock(line, line.value, this.clock);
    this.#own.set(keyOf(wall, this.clock), { wall, component });
    if (paramOf(line, 'RANGE')?.toUpperCase() !== 'THISANDFUTURE') return;
    const when = readWhen(component, this.#reading.roots, this.#reading.zones);
    this.#following.push({ from: wall, component, when, moved: this.#wallsOf(when).start - wall });
  }

  /** Where a time stands on the clock that it is written on. One in a zone of the text stands on the clock of that zone. */
  #wallsOf(when: When): { start: number; end: number } {
    const { zone } = this.clock;
    if (!isTextZone(zone) || !isNamedByText(when)) return { start: secondsOf(startText(when)), end: secondsOf(when.end) };
    const { from, until } = spanOf(when, zone, this.#reading.zones);
    return { start: instantToClock(from, zone), end: instantToClock(until, zone) };
  }

  /** By the clock: an hour that a change skips or repeats counts as it is written. */
  #lengthOf(when: When): number {
    const { start, end } = this.#wallsOf(when);
    return end - start;
  }

  /** A time like another one, at another place of its clock. */
  whenLike(like: When, wall: number, end: number): When {
    const { zone } = this.clock;
    if (isTextZone(zone) && isNamedByText(like)) return whenInTextZone(zone, clockToInstant(wall, zone).instant, clockToInstant(end, zone).instant);
    if (like.kind === 'all-day') return { kind: 'all-day', first: dateText(wall), end: dateText(end) };
    return { kind: 'timed', start: localText(wall), end: localText(end), zone: like.zone };
  }

  into(found: Found): void {
    const { clock } = this;
    const seen = new SeenTimes();
    const plain = this.#following.length + this.#own.size + this.#excluded.times.size + this.#excluded.days.size === 0;
    eachTimeOf(this.master, clock, this.#wallWindow(found.window), (wall, until) => {
      const from = clock.instantOf(wall);
      const key = clock.zone === null ? wall : from;
      if (!seen.add(key)) return true;
      if (!plain && (isExcluded(this.#excluded, wall, key) || this.#own.has(key))) return true;
      const governing = plain ? undefined : this.#following.findLast((f) => f.from <= wall);
      if (governing !== undefined) {
        const moved = wall + governing.moved;
        const when = this.whenLike(governing.when, moved, moved + this.#lengthOf(governing.when));
        found.addOverride(idOf(wall, clock), governing.component, this.#reading, when);
        return true;
      }
      found.add(new OfTheSeries(this, wall, until ?? wall + this.#length, from));
      return true;
    });
    // Also where no rule names its time any more: it stands in the object, and calendar programs show it.
    for (const [key, { wall, component }] of this.#own)
      if (!isExcluded(this.#excluded, wall, key)) found.addOverride(idOf(wall, clock), component, this.#reading);
  }

  /** The stretch of the clock in which an occurrence could touch the window. */
  #wallWindow(window: Window): { from: number; until: number } {
    const clock = this.clock.zone ?? window.home;
    const length = Math.max(this.#length, ...this.#following.map((f) => this.#lengthOf(f.when)));
    // What a clock change at either end moves, and what an override with THISANDFUTURE does.
    const change = (t: number) => Math.abs(clock.period(t + DAY).offset - clock.period(t - DAY).offset);
    const slack = Math.max(change(window.from), change(window.until)) + Math.max(0, ...this.#following.map((f) => Math.abs(f.moved)));
    const asked = window.also === undefined ? [] : [...window.also].map((id) => wallOf(id, clock));
    return {
      from: Math.max(this.clock.start, Math.min(instantToClock(window.from, clock) - length - slack, ...asked)),
      until: Math.max(instantToClock(window.until, clock) + slack, ...asked),
    };
  }
}

/** Where a recurrence-id stands on a clock. */
const wallOf = (id: string, clock: Zone): number => {
  const text = expandDate(id);
  return text.endsWith('Z') ? instantToClock(secondsOf(text.slice(0, -1)), clock) : secondsOf(text);
};

/** A recurrence-id as the series writes it: in the form of its start (RFC 5545, 3.8.4.4). @param start its DTSTART */
export function recurrenceIdOf(id: string, start: Line, { roots, zones }: { roots: Component[]; zones: ZoneTable }): string {
  if (!id.endsWith('Z') || /Z$/i.test(start.value.trim())) return id;
  const { zone } = readClock(start, roots, zones);
  return zone === null ? id : compact(toLocal(secondsOf(expandDate(id).slice(0, -1)), zone));
}

/** The first start of an occurrence at or after the end of a window, in seconds since 1970; null: there is none. */
export function nextStart(events: readonly Component[], roots: Component[], window: Window, zones: ZoneTable): number | null {
  const master = events.find((e) => lineOf(e, 'RECURRENCE-ID') === undefined);
  const overrides = events.filter((e) => e !== master).map((e) => spanOf(readWhen(e, roots, zones), window.home, zones).from);
  let next = Math.min(Number.POSITIVE_INFINITY, ...overrides.filter((from) => from >= window.until));
  if (master === undefined) return Number.isFinite(next) ? next : null;
  const clock = clockOfSeries(master, { roots, zones, home: window.home });
  const excluded = excludedBy(master, clock);
  const wall = { from: instantToClock(window.until, clock.zone ?? window.home) - 2 * DAY, until: Number.POSITIVE_INFINITY };
  try {
    eachTimeOf(master, clock, wall, (time) => {
      const instant = clock.instantOf(time);
      if (instant >= next) return false;
      if (instant < window.until || isExcluded(excluded, time, keyOf(time, clock))) return true;
      next = instant;
      return false;
    });
  } catch (error) {
    // What is too rare to be found will not be missed for a while: the series is read again when it changes, and once a day.
    if (!(error instanceof InvalidRule)) throw error;
  }
  return Number.isFinite(next) ? next : null;
}

const startText = (when: When): string => (when.kind === 'all-day' ? when.first : when.start);

/** In a zone that the text defines: its name holds for its start, and for other times of the series another may. */
const isNamedByText = (when: When): boolean => when.kind === 'timed' && when.zone !== null && isDefinedZone(when.zone);
