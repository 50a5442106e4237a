import {
  certain,
  type Free,
  formatWhen,
  isFollowed,
  type Lost,
  type Pair,
  pairAgain,
  placeOf,
  readEvent,
  type Series,
  spanOf,
  type When,
} from '@monsoon/core';
import type { FollowedPlace } from './occurrences.ts';
import type { OpenWork } from './work.ts';

/** A pair that follows another occurrence from now on. */
export interface Moved {
  pair: Pair;
  /** why, for the journal */
  note: string;
}

/** Where a pair goes. Worked out once in a look, in which the pair itself may change: only names are handed on. */
interface Destination {
  href: string;
  uid: string;
  note: string;
}

/** A pair whose occurrence is gone, and when that was, in seconds since 1970. */
interface LostPair {
  pair: Pair;
  from: number;
}

/** Objects that may hold what a series was split into. */
const MOST_NEW = 200;
/** A part of a series that was split off begins near where the first of the lost occurrences was. */
const NEAR = 31 * 86_400;

/**
 * Which occurrences the pairs of a series follow now, whose own are gone: a series that was moved as a whole, got
 * another rule or was split takes its records along. Worked out once for each calendar object in a look.
 */
export class LostOccurrences {
  readonly #work: OpenWork;
  /** by calendar object: what its pairs follow now */
  readonly #found = new Map<string, Promise<ReadonlyMap<string, Destination>>>();
  /** addresses that pairs of any series follow from now on */
  readonly #assigned = new Set<string>();
  /** of those, the ones at which nothing new stands: a record is there already */
  readonly given = new Set<string>();
  /** events that no pair speaks of, as far as this look knows them */
  newObjects: () => Promise<string[]> = async () => [];

  constructor(work: OpenWork) {
    this.#work = work;
  }

  /**
   * What a pair follows now that lost its occurrence; undefined: nothing, or what it follows already and is gone as well.
   * @param pair as it is now: this look may have made its record since it was worked out
   * @param object in which its occurrence was
   */
  async of(object: string, pair: Pair): Promise<Moved | undefined> {
    const known = this.#found.get(object) ?? this.#follow(object, pair);
    this.#found.set(object, known);
    const found = (await known).get(pair.id);
    if (found === undefined || found.href === pair.href) return undefined;
    const { href, uid, note } = found;
    return { pair: { ...pair, href, uid, etag: null }, note };
  }

  async #follow(object: string, asker: Pair): Promise<ReadonlyMap<string, Destination>> {
    const { store, signal, sides } = this.#work;
    const stored = (await store.pairs({ objects: [object] })).filter(isFollowed);
    const pairs = [...new Map([asker, ...stored].map((p) => [p.id, { ...p, href: p.href ?? asker.href ?? object }])).values()];
    const times = pairs.flatMap((p) => this.#startOf(p) ?? []);
    const { series, places } = await sides.calendars.following(object, times, signal);
    const taken = new Set(places.map((p) => p.href));
    // What nothing was agreed on yet was made as one event: it goes on as the first of its occurrences.
    const first = places[0]?.from ?? null;
    const lost = pairs.flatMap((pair) => {
      const from = this.#startOf(pair) ?? (placeOf(pair.href).id === null ? first : null);
      return taken.has(pair.href) || from === null ? [] : [{ pair, from }];
    });
    for (const pair of pairs) taken.delete(pair.href);
    const moved = new Map<string, Destination>();
    this.#pair(lost, await this.#freeOf(places.filter((p) => taken.has(p.href))), moved);
    const left = lost.filter(({ pair }) => !moved.has(pair.id));
    if (left.length > 0) this.#pair(left, await this.#splitOff(left, series, places), moved);
    return moved;
  }

  #pair(lost: readonly LostPair[], free: readonly Free[], moved: Map<string, Destination>): void {
    const byId = new Map(lost.map(({ pair }) => [pair.id, pair]));
    const { calendars } = this.#work.sides;
    const seeking = lost.map(({ pair, from }): Lost => ({ pair: pair.id, href: pair.href ?? '', from, outside: calendars.isOutside(from) }));
    for (const [id, place] of pairAgain(
      seeking,
      free.filter((f) => !this.#assigned.has(f.href)),
    )) {
      this.#assigned.add(place.href);
      const pair = certain(byId.get(id), 'only those that were sought are found');
      // One whose record is not there yet finishes its creation with the event.
      if (pair.recordId !== null) this.given.add(place.href);
      moved.set(id, { href: place.href, uid: place.uid, note: noteOf(pair, place) });
    }
  }

  #startOf(pair: Pair): number | null {
    const when = pair.baseline?.event['when'] as When | null | undefined;
    return when == null ? null : spanOf(when, this.#work.context.zone, this.#work.context.zones).from;
  }

  /** A single event says its own time and UID. */
  async #freeOf(places: readonly FollowedPlace[]): Promise<Free[]> {
    const { context, sides, signal } = this.#work;
    const free: Free[] = [];
    for (const { href, uid, from, outside = false } of places) {
      if (uid !== null && from !== null) free.push({ href, uid, from, outside });
      else {
        const stored = (await sides.calendars.read(context.definition.calendar.calendar, [href], signal)).get(href);
        if (stored == null) continue;
        const read = readEvent(stored.text, context.zones);
        const { when } = read.values;
        if (when !== null) free.push({ href, uid: read.uid, from: spanOf(when, context.zone, context.zones).from });
      }
    }
    return free;
  }

  /**
   * The occurrences of new series that go on where this one ends: calendar programs split a series so when a person edits
   * one occurrence and all that follow, and no standard links the two.
   */
  async #splitOff(lost: readonly LostPair[], series: Series | null, kept: readonly FollowedPlace[]): Promise<Free[]> {
    const { sides, signal, store } = this.#work;
    const about = series?.master == null ? null : aboutOf(series);
    const first = Math.min(...lost.map((l) => l.from));
    const last = Math.max(0, ...kept.flatMap((p) => (p.from !== null && p.from < first + NEAR ? p.from : [])));
    if (about === null || kept.some((p) => p.from === null)) return [];
    const near = await sides.calendars.seriesNear(first - NEAR, first + NEAR, signal);
    // Where the server cannot look by time, what this look found without a pair.
    const unpaired = (await this.newObjects()).filter((href) => placeOf(href).id === null).slice(0, MOST_NEW);
    const free: Free[] = [];
    for (const object of new Set([...near, ...unpaired])) {
      const { series: other, places } = await sides.calendars.following(object, [], signal);
      const begins = places[0]?.from ?? null;
      if (other?.master == null || begins === null || aboutOf(other) !== about) continue;
      if (begins > last && Math.abs(begins - first) <= NEAR) {
        const followed = new Set((await store.pairs({ objects: [object] })).map((p) => p.href));
        free.push(
          ...places.flatMap((p) =>
            p.uid === null || p.from === null || followed.has(p.href)
              ? []
              : [{ href: p.href, uid: p.uid, from: p.from, outside: p.outside === true }],
          ),
        );
      }
    }
    return free;
  }
}

/** What a series is known by, apart from its UID: title and organizer. */
function aboutOf({ master }: Series): string {
  const of = (name: string) =>
    master?.lines
      .find((l) => l.name === name)
      ?.value.trim()
      .toLowerCase() ?? '';
  return JSON.stringify([of('SUMMARY'), of('ORGANIZER')]);
}

function noteOf(pair: Pair, place: Free): string {
  const when = pair.baseline?.event['when'] as When | null | undefined;
  const was = when == null ? 'its event' : `its occurrence of ${formatWhen(when)}`;
  const other = placeOf(place.href).object !== placeOf(pair.href ?? '').object;
  return `${was} is gone; it follows ${other ? 'an occurrence of the series that goes on in its place' : placeOf(place.href).id === null ? 'the event' : 'another occurrence of the series'}`;
}
