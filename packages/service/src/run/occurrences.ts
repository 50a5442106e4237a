import {
  certain,
  formatInstant,
  type LaneContext,
  nextOccurrence,
  occurrencesOf,
  placeName,
  placeOf,
  readSeries,
  type Series,
  type SeriesOccurrence,
  UnreadableEvent,
  type Window,
  windowOf,
} from '@monsoon/core';
import type { CalendarChanges, CalendarInfo, Calendars, ProbeStep, Scheduling, StoredEvent } from '@monsoon/systems';
import { Turns } from '@monsoon/systems';
import { mapConcurrent } from './map-concurrent.ts';
import { SeriesWriter } from './series-writer.ts';
import type { KnownSeries, RunStore } from './store.ts';
import { asEvent, seriesIn, takenApart } from './take-apart.ts';

/** Series that are remembered together. */
const ROWS = 200;

/**
 * A calendar on which each occurrence of a series is an event of its own, at the address of its object with the
 * recurrence-id behind "#". Its ETag names its content alone, so that an edit elsewhere in the series is no edit of it;
 * its text is what speaks for it. Code that reads and writes through this need not know of series: what is written becomes
 * an override, what is removed an excluded date, and edits that are under way together are one write.
 */
export class OccurrenceCalendars implements Calendars {
  readonly #inner: Calendars;
  readonly #context: LaneContext;
  readonly #store: RunStore;
  /** how series are listed: by their occurrences, as a whole, or as a whole and not to be taken */
  readonly #takes: 'each' | 'one' | 'none';
  readonly #window: Window;
  /** what was worked out in this look; null: no series stands there any more */
  readonly #fresh = new Map<string, KnownSeries | null>();
  #thorough = false;
  /** addresses of occurrences that came to light by reading */
  readonly #found: string[] = [];
  readonly #writer: SeriesWriter;

  constructor(inner: Calendars, context: LaneContext, store: RunStore) {
    this.#inner = inner;
    this.#context = context;
    this.#store = store;
    const { direction, events } = context.definition;
    const bounds = windowOf(context);
    const takes = { 'each occurrence': bounds === null ? 'none' : 'each', 'one record': 'one', 'leave out': 'none' } as const;
    this.#takes = direction === '->' ? 'none' : takes[events.repeating];
    this.#window = { from: 0, until: 0, ...bounds, home: context.zone };
    this.#writer = new SeriesWriter(inner, context);
  }

  /** Is it the event that a pair follows, or a part of a series that is followed otherwise? */
  isFollowable(href: string, isSeries: boolean): boolean {
    const isOccurrence = placeOf(href).id !== null;
    return this.#takes === 'none' || (this.#takes === 'each' ? isOccurrence || !isSeries : !isOccurrence);
  }
  get #each(): boolean {
    return this.#takes === 'each';
  }
  /** Addresses of occurrences that came to light by reading, since this was asked last. */
  takeFound(): string[] {
    return this.#found.splice(0);
  }
  get #calendar(): string {
    return this.#context.definition.calendar.calendar;
  }

  /** Remembers what was worked out, once everything that came of it is durable. */
  async keep(): Promise<void> {
    const all = [...this.#fresh];
    this.#fresh.clear();
    for (let at = 0; at < all.length; at += ROWS) {
      const part = all.slice(at, at + ROWS);
      await this.#store.keepSeries(
        part.flatMap(([, known]) => known ?? []),
        part.flatMap(([href, known]) => (known === null ? [href] : [])),
      );
    }
  }

  async *changes(calendar: string, cursor: string | null, signal: AbortSignal): AsyncIterable<CalendarChanges> {
    if (!this.#each) return yield* this.#inner.changes(calendar, cursor, signal);
    const growing = await this.#store.growingSeries(formatInstant(this.#window.until));
    if (growing.length > 0 && cursor !== null) {
      const page = { changed: growing.map(({ href, etag }) => ({ href, etag })), removed: [], complete: false };
      yield await this.#takenApart(page, new Map(growing.map((g) => [g.href, g])), signal);
    }
    for await (const page of this.#inner.changes(calendar, cursor, signal)) {
      if (this.#thorough) {
        yield await this.#everyOccurrence(page, signal);
        continue;
      }
      const hrefs = [...page.changed.map((c) => c.href), ...page.removed];
      yield await this.#takenApart(page, new Map((await this.#store.series(hrefs)).map((k) => [k.href, k])), signal);
    }
  }

  async scheduling(signal: AbortSignal): Promise<Scheduling> {
    return (await this.#inner.scheduling?.(signal)) ?? { addresses: [], invites: false };
  }

  /** From now on a listing names every occurrence that is in the window or followed, whatever was known of it: for audits. */
  beThorough(): void {
    this.#thorough = true;
  }

  async #everyOccurrence(page: CalendarChanges, signal: AbortSignal): Promise<CalendarChanges> {
    const result: CalendarChanges = { ...page, changed: [] };
    const turns = new Turns({ signal });
    for (let at = 0; at < page.changed.length; at += ROWS) {
      const part = page.changed.slice(at, at + ROWS);
      const pairs = await this.#store.pairs({ objects: part.map((c) => c.href) });
      const places = pairs.flatMap((p) => (p.href === null ? [] : [placeOf(p.href)]));
      // A single event that is followed as it was read is known to be one.
      const single = new Set(
        pairs.flatMap((p) => (p.href !== null && p.etag !== null && placeOf(p.href).id === null ? [`${p.href} ${p.etag}`] : [])),
      );
      const unsure = part.filter((c) => !single.has(`${c.href} ${c.etag}`)).map((c) => c.href);
      const read = unsure.length === 0 ? new Map<string, StoredEvent | null>() : await this.#inner.read(this.#calendar, unsure, signal);
      for (const { href, etag } of part) {
        const stored = read.get(href) ?? null;
        const followed = new Set(places.flatMap((p) => (p.object === href && p.id !== null ? [p.id] : [])));
        const series = stored === null ? null : await turns.step(() => this.#work(stored, followed));
        const whole = series === null || places.some((p) => p.object === href && p.id === null);
        result.changed.push(...(whole ? [{ href, etag }] : []), ...(series === null ? [] : listed(series).filter((o) => !whole || o.href !== href)));
      }
    }
    return result;
  }

  /** A page with the occurrences of the series that are known; one that is not known yet is found when it is read. */
  async #takenApart(page: CalendarChanges, known: ReadonlyMap<string, KnownSeries>, signal: AbortSignal): Promise<CalendarChanges> {
    const result: CalendarChanges = { ...page, changed: [], removed: [] };
    const stale: string[] = [];
    for (const { href, etag } of page.changed) {
      const series = known.get(href);
      if (series === undefined) result.changed.push({ href, etag });
      else if (etag === null || series.etag !== etag || this.#grows(series)) stale.push(href);
      else result.changed.push(...listed(series));
    }
    for (const href of page.removed) {
      const series = known.get(href);
      result.removed.push(href, ...(series === undefined ? [] : listed(series).map((o) => o.href)));
      if (series !== undefined) this.#fresh.set(href, null);
    }
    const read = stale.length === 0 ? new Map<string, StoredEvent | null>() : await this.#inner.read(this.#calendar, stale, signal);
    const turns = new Turns({ signal });
    for (const href of stale)
      await turns.step(() => this.#compare(certain(known.get(href), 'what is stale is known'), read.get(href) ?? null, result));
    return result;
  }

  #grows = ({ nextAt }: KnownSeries): boolean => nextAt !== null && Date.parse(nextAt) / 1000 < this.#window.until;

  /** What a series has now, and what it has no longer. */
  #compare(before: KnownSeries, stored: StoredEvent | null, page: CalendarChanges): void {
    const now = stored === null ? null : this.#work(stored, new Set(before.occurrences.map(([id]) => id)));
    this.#fresh.set(before.href, now);
    const there = now !== null ? listed(now) : stored === null ? [] : [{ href: stored.href, etag: stored.etag }];
    page.changed.push(...there);
    const hrefs = new Set(there.map((o) => o.href));
    for (const { href } of [...listed(before), { href: before.href }]) if (!hrefs.has(href)) page.removed.push(href);
  }

  /** Takes a series apart; null: it is a single event, or cannot be. @param also occurrences that were in the window once */
  #work(stored: StoredEvent, also: ReadonlySet<string>): KnownSeries | null {
    const series = seriesIn(stored.text);
    if (series === null) return null;
    const { zones } = this.#context;
    try {
      const occurrences = occurrencesOf(series, { ...this.#window, also }, zones).map((o): [string, string] => [o.recurrenceId, o.tag]);
      const next = nextOccurrence(series, this.#window, zones);
      return { href: stored.href, etag: stored.etag, occurrences, nextAt: next === null ? null : formatInstant(next) };
    } catch (error) {
      if (!(error instanceof UnreadableEvent)) throw error;
      return null;
    }
  }

  /**
   * Events and occurrences by their addresses. Of a series that is taken apart and was asked for as a whole, its
   * occurrences in the window come with it.
   */
  async read(calendar: string, hrefs: string[], signal: AbortSignal): Promise<Map<string, StoredEvent | null>> {
    const wanted = new Map<string, { whole: boolean; ids: Set<string> }>();
    for (const { object, id } of hrefs.map(placeOf)) {
      const of = wanted.get(object) ?? { whole: false, ids: new Set() };
      if (id === null) of.whole = true;
      else of.ids.add(id);
      wanted.set(object, of);
    }
    const found = new Map<string, StoredEvent | null>();
    const turns = new Turns({ signal });
    const stored = await this.#inner.read(calendar, [...wanted.keys()], signal);
    for (const [object, { whole, ids }] of wanted) {
      const event = stored.get(object) ?? null;
      if (whole) found.set(object, event);
      for (const id of ids) found.set(placeName(object, id), null);
      if (event !== null && (ids.size > 0 || (whole && this.#each))) await turns.step(() => this.#readInto(found, event, { whole, ids }));
    }
    await this.#noteNew(found);
    return found;
  }

  #readInto(found: Map<string, StoredEvent | null>, event: StoredEvent, { whole, ids }: { whole: boolean; ids: ReadonlySet<string> }): void {
    try {
      const series = readSeries(event.text);
      if (series === null) return;
      const window = whole && this.#each ? { ...this.#window, also: ids } : { ...this.#window, from: 0, until: 0, also: ids };
      const there = occurrencesOf(series, window, this.#context.zones);
      for (const occurrence of there) {
        const view = asEvent(event, series, occurrence, this.#context.zones);
        if (ids.has(occurrence.recurrenceId) || whole) found.set(view.href, view);
      }
    } catch (error) {
      if (!(error instanceof UnreadableEvent)) throw error;
      if (whole) found.set(event.href, { ...event, unfit: error.message });
      for (const id of ids) found.set(placeName(event.href, id), { ...event, href: placeName(event.href, id), unfit: error.message });
    }
  }

  /** Series that were found by reading: the next look at changes lists their occurrences. One that is known is left to that look: it says what is gone. */
  async #noteNew(found: ReadonlyMap<string, StoredEvent | null>): Promise<void> {
    if (!this.#each) return;
    const whole = [...found.values()].filter((e) => e !== null && placeOf(e.href).id === null && e.unfit === undefined && !this.#fresh.has(e.href));
    const series = whole.filter((e) => e !== null && seriesIn(e.text) !== null) as StoredEvent[];
    if (series.length === 0) return;
    const known = new Set((await this.#store.series(series.map((e) => e.href))).map((k) => k.href));
    const turns = new Turns();
    for (const event of series) {
      const worked = known.has(event.href) ? null : await turns.step(() => this.#work(event, new Set()));
      if (worked === null) continue;
      this.#fresh.set(event.href, worked);
      this.#found.push(...listed(worked).map((o) => o.href));
    }
  }

  /** The series at an address, and its occurrences in the window; null: there is none. */
  async seriesAt(object: string, signal: AbortSignal): Promise<{ series: Series; occurrences: SeriesOccurrence[] } | null> {
    const stored = (await this.#inner.read(this.#calendar, [object], signal)).get(object) ?? null;
    const series = stored === null ? null : seriesIn(stored.text);
    if (series === null) return null;
    try {
      return { series, occurrences: occurrencesOf(series, this.#window, this.#context.zones) };
    } catch (error) {
      if (!(error instanceof UnreadableEvent)) throw error;
      return { series, occurrences: [] };
    }
  }

  /** Where series stand that occur in a span, in seconds since 1970; none where the server cannot look by time. */
  async seriesNear(from: number, until: number, signal: AbortSignal): Promise<string[]> {
    const stored = await this.#inner.between(this.#calendar, from, until, signal);
    return stored.filter((e) => seriesIn(e.text) !== null).map((e) => e.href);
  }

  /** What can be followed at an object now: its occurrences near these times, or itself where it is a single event. @param times seconds since 1970 */
  async following(object: string, times: readonly number[], signal: AbortSignal): Promise<{ series: Series | null; places: FollowedPlace[] }> {
    const stored = (await this.#inner.read(this.#calendar, [object], signal)).get(object) ?? null;
    if (stored === null) return { series: null, places: [] };
    const series = seriesIn(stored.text);
    if (series === null) return { series: null, places: [{ href: object, uid: null, from: null }] };
    if (this.#takes === 'none') return { series, places: [] };
    if (this.#takes === 'one') return { series, places: [{ href: object, uid: series.uid, from: null }] };
    // Those that were in the window once are among them, however many have passed.
    const near = { from: Math.min(this.#window.from, ...times) - MONTH, until: Math.max(this.#window.until, ...times) + MONTH, most: MOST_FOLLOWED };
    try {
      const there = occurrencesOf(series, { ...this.#window, ...near }, this.#context.zones).filter((o) => !o.cancelled);
      return {
        series,
        places: there.map((o) => ({
          href: placeName(object, o.recurrenceId),
          uid: placeName(series.uid, o.recurrenceId),
          from: o.from,
          outside: this.isOutside(o.from),
        })),
      };
    } catch (error) {
      if (!(error instanceof UnreadableEvent)) throw error;
      return { series, places: [] };
    }
  }

  /** Does what begins then stand outside of the lane's window? @param from seconds since 1970 */
  isOutside = (from: number): boolean => from < this.#window.from || from >= this.#window.until;

  withUid = (calendar: string, uid: string, signal: AbortSignal): Promise<StoredEvent[]> => this.withUids(calendar, [uid], signal);

  /** The events with any of these UIDs: one question for each object, however many of its occurrences are meant. */
  async withUids(calendar: string, uids: readonly string[], signal: AbortSignal): Promise<StoredEvent[]> {
    const places = uids.map(placeOf);
    const read = async (object: string): Promise<StoredEvent[]> => {
      const stored = await this.#inner.withUid(calendar, object, signal);
      const ids = places.flatMap((place) => (place.object === object ? [place.id] : []));
      const also = new Set(ids.filter((id) => id !== null));
      const whole = ids.includes(null) ? stored : [];
      return also.size === 0 ? whole : [...whole, ...(await this.#occurrencesAmong(stored, { ...this.#window, from: 0, until: 0, also }))];
    };
    return (await mapConcurrent([...new Set(places.map((p) => p.object))], read, { width: 8, done: () => false })).flatMap((found) => found ?? []);
  }

  async between(calendar: string, from: number, until: number, signal: AbortSignal): Promise<StoredEvent[]> {
    const stored = await this.#inner.between(calendar, from, until, signal);
    return this.#each ? this.#occurrencesAmong(stored, { ...this.#window, from, until }) : stored;
  }

  #occurrencesAmong = (stored: readonly StoredEvent[], window: Window): Promise<StoredEvent[]> => takenApart(stored, window, this.#context.zones);

  create = (calendar: string, uid: string, text: string, signal: AbortSignal): Promise<{ href: string }> =>
    this.#writer.create(calendar, uid, text, signal);
  change = (href: string, etag: string, text: string, signal: AbortSignal): Promise<void> => this.#writer.change(href, etag, text, signal);
  remove = (href: string, etag: string, signal: AbortSignal): Promise<void> => this.#writer.remove(href, etag, signal);
  probe = (signal: AbortSignal): AsyncIterable<ProbeStep> => this.#inner.probe(signal);
  calendars = (signal: AbortSignal): Promise<CalendarInfo[]> => this.#inner.calendars(signal);
  make: Calendars['make'] = (...given) => this.#inner.make(...given);
  rename: Calendars['rename'] = (...given) => this.#inner.rename(...given);
  isSame = (calendar: string, cursor: string, signal: AbortSignal): Promise<boolean> => this.#inner.isSame(calendar, cursor, signal);
  hrefFor(calendar: string, uid: string): string {
    const { object, id } = placeOf(uid);
    const href = this.#inner.hrefFor(calendar, object);
    return id === null ? href : placeName(href, id);
  }
}

/** An occurrence, or a single event, that a pair can follow. */
export interface FollowedPlace {
  href: string;
  /** null: of an event as a whole, which says it itself */
  uid: string | null;
  /** seconds since 1970; null: not worked out */
  from: number | null;
  /** does it begin outside of the lane's window? */
  outside?: boolean;
}

const MONTH = 31 * 86_400;
/** Occurrences of one series that pairs may follow. */
const MOST_FOLLOWED = 20_000;

/** A series with an occurrence in the window is listed by its occurrences; else as a whole, so that something is said of it. */
const listed = ({ href, etag, occurrences }: KnownSeries): { href: string; etag: string | null }[] =>
  occurrences.length === 0 ? [{ href, etag }] : occurrences.map(([id, tag]) => ({ href: placeName(href, id), etag: etag === null ? null : tag }));
