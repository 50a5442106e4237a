import {
  type CreateCandidates,
  certain,
  type EventView,
  eventPairIds,
  type Gathered,
  invites,
  isFollowed,
  type KnownGuest,
  type Pair,
  placeOf,
  type RecordItem,
  UnpairedEvents,
} from '@monsoon/core';
import type { StoredEvent } from '@monsoon/systems';
import { viewAtAgreement, viewOf } from './event-view.ts';
import { LostOccurrences, type Moved } from './lost-occurrences.ts';
import { mapConcurrent } from './map-concurrent.ts';
import type { OpenWork } from './work.ts';

/** Is it known whether the event repeats, and how? An occurrence is an event of its own. */
const knowsRecurrence = ({ baseline, href }: Pair): boolean =>
  baseline?.repeating === false || (baseline?.repeating === true && (baseline.recurrence !== undefined || placeOf(href ?? '').id !== null));

/** Items to be planned together, with the truth about them. */
export interface GatheredBatch {
  gathered: Gathered;
  /** records to be looked at even if nothing changed, because the clock says so */
  due: ReadonlySet<string>;
  /** nothing that comes after it asks what becomes of it, until it is said that everything is settled */
  apart?: true;
  /** pairs that follow another occurrence than they did: that is to be remembered before anything else */
  moved?: readonly Pair[];
}

/** Reads the truth about some items, for the engine: records with their pairs, and each pair with its event as it is now. */
export class BatchReader {
  readonly unpaired = new UnpairedEvents();
  /** records to be looked at though nothing changed, because the clock says so */
  readonly due = new Set<string>();
  /** UIDs of events of which a person is asked whether they stand for a record */
  reserved: ReadonlySet<string> = new Set();
  createCandidates: ReadonlyMap<string, CreateCandidates> = new Map();
  /** events that were looked at as new ones */
  readonly #shown = new Set<string>();
  /** what pairs follow whose occurrence is gone */
  readonly lost: LostOccurrences;
  readonly #work: OpenWork;
  /** does a staged listing know the ETags? */
  readonly #listed: boolean;

  constructor(work: OpenWork, listed: boolean) {
    this.#work = work;
    this.lost = new LostOccurrences(work);
    this.#listed = listed;
  }

  async batch(found: ReadonlyMap<string, RecordItem | null>): Promise<GatheredBatch> {
    const known = await this.#work.store.pairs({ records: [...found.keys()] });
    // An event whose creation was never confirmed is where it would have been made.
    const pairs = known.map((p) =>
      p.state === 'creating' && p.href === null
        ? { ...p, href: this.#work.sides.calendars.hrefFor(this.#work.context.definition.calendar.calendar, p.uid) }
        : p,
    );
    const events = await this.#readEvents(pairs.filter(isFollowed));
    const moved = await this.#follow(pairs, events);
    const batch = await this.complete(
      [...found].map(([id, item]) => ({ id, item })),
      pairs.map((p) => moved.get(p.id)?.pair ?? p),
      events,
      [],
    );
    return {
      ...batch,
      gathered: { ...batch.gathered, moved: new Map([...moved].map(([id, m]) => [id, m.note])) },
      moved: [...moved.values()].map((m) => m.pair),
    };
  }

  /** Pairs whose occurrence is gone, or whose event became a series, follow another one where there is one. Adds the events of those. */
  async #follow(pairs: readonly Pair[], events: Map<string, EventView | null>): Promise<Map<string, Moved>> {
    const moved = new Map<string, Moved>();
    for (const pair of pairs) {
      if (pair.href === null || !events.has(pair.href) || !this.#isAstray(pair.href, events.get(pair.href) ?? null)) continue;
      const found = await this.lost.of(placeOf(pair.href).object, pair);
      if (found !== undefined) moved.set(pair.id, found);
      // A series of which no occurrence is left, or none for this pair: the event that it followed is there no more.
      else if (placeOf(pair.href).id === null) events.set(pair.href, null);
    }
    const { calendar } = this.#work.context.definition.calendar;
    const hrefs = [...moved.values()].flatMap((m) => m.pair.href ?? []);
    if (hrefs.length === 0) return moved;
    const read = await this.#work.sides.calendars.read(calendar, hrefs, this.#work.signal);
    for (const href of hrefs) {
      const event = read.get(href) ?? null;
      events.set(href, event === null ? null : viewOf(event, this.#work.context));
    }
    return moved;
  }

  /** Is an occurrence gone, or an event a series now that is taken apart? */
  #isAstray(href: string, event: EventView | null): boolean {
    if (placeOf(href).id !== null && event === null) return true;
    return event?.read != null && !this.#work.sides.calendars.isFollowable(href, event.read.repeating);
  }

  async complete(records: Gathered['records'], pairs: Pair[], events: Gathered['events'], newcomers: EventView[]): Promise<GatheredBatch> {
    const holds =
      pairs.length === 0
        ? []
        : await this.#work.store.holds({ pairs: pairs.filter((p) => p.state === 'held' || p.recordId === null).map((p) => p.id) });
    const guests = await this.guestsOf(pairs);
    return {
      gathered: { ...this.empty(), records, pairs, events, newcomers, holds: new Map(holds.map((h) => [h.pair, h])), guests },
      due: this.due,
    };
  }

  /** What is noted of the guests of these pairs, by pair; nothing where the lane does not invite. */
  async guestsOf(pairs: readonly Pair[]): Promise<ReadonlyMap<string, KnownGuest[]>> {
    const found = new Map<string, KnownGuest[]>();
    if (!invites(this.#work.context)) return found;
    for (const guest of await this.#work.store.guests(pairs.map((p) => p.id))) found.set(guest.pair, [...(found.get(guest.pair) ?? []), guest]);
    return found;
  }

  /** Nothing to be planned, with what is known of everything else. */
  empty(): Gathered {
    return {
      records: [],
      pairs: [],
      events: new Map(),
      newcomers: [],
      reserved: this.reserved,
      unpaired: this.unpaired,
      holds: new Map(),
      createCandidates: this.createCandidates,
    };
  }

  /**
   * Events that may become records: those that were named, and, where everything was listed, all that no pair speaks of.
   * @param following unfinished pairs that go on with some of them
   */
  async newcomerBatch(hrefs: string[], following: readonly Moved[] = []): Promise<GatheredBatch> {
    const all = await this.readNew(hrefs);
    const apart = await this.#followApart(all);
    const views = all.filter((v) => !this.lost.given.has(v.href));
    for (const { href } of all) this.#shown.add(href);
    const uids = views.flatMap((v) => v.read?.uid ?? []);
    const places = [...new Set([...hrefs, ...views.map((v) => v.href)])];
    const pairs = new Map<string, Pair>();
    const { store, context } = this.#work;
    // What began with an occurrence may follow another one now: its identity is taken.
    const ids = views.flatMap((v) => (v.read?.occurrence == null ? [] : eventPairIds(context.lane, v.read.uid)));
    for (const which of [{ hrefs: places }, { uids }, { ids }]) for (const pair of await store.pairs(which)) pairs.set(pair.id, pair);
    const moved = [...apart, ...following].map((m) => m.pair);
    // Those that have a record are only to be remembered: they are looked at with their records.
    for (const pair of moved.filter((p) => p.recordId === null)) pairs.set(pair.id, pair);
    const batch = await this.complete([], [...pairs.values()], new Map(views.map((v) => [v.href, v])), views);
    return { ...batch, moved };
  }

  /** Pairs whose event was a single one, or is being made as one, and is a series now: they go on as one of its occurrences. */
  async #followApart(views: readonly EventView[]): Promise<Moved[]> {
    const { store, sides, context } = this.#work;
    const occurrences = views.filter((v) => v.read !== null && placeOf(v.href).id !== null);
    if (occurrences.length === 0) return [];
    const objects = new Set(occurrences.map((v) => placeOf(v.href).object));
    const uids = new Set(occurrences.map((v) => placeOf(certain(v.read, 'occurrences are read').uid).object));
    const whole = new Map([...(await store.pairs({ hrefs: [...objects] })), ...(await store.pairs({ uids: [...uids] }))].map((p) => [p.id, p]));
    const moved: Moved[] = [];
    for (const pair of whole.values()) {
      const href = pair.href ?? sides.calendars.hrefFor(context.definition.calendar.calendar, pair.uid);
      if (!isFollowed(pair) || !objects.has(href)) continue;
      const found = await this.lost.of(href, { ...pair, href });
      if (found !== undefined) moved.push(found);
    }
    return moved;
  }

  /** What unfinished pairs follow now whose own occurrence is gone, by pair. */
  async followGone(pairs: readonly Pair[]): Promise<Map<string, Moved>> {
    const moved = new Map<string, Moved>();
    for (const pair of pairs) {
      if (pair.href === null || placeOf(pair.href).id === null) continue;
      const found = await this.lost.of(placeOf(pair.href).object, pair);
      if (found !== undefined) moved.set(pair.id, found);
    }
    return moved;
  }

  /** Occurrences of series that came to light while other events were read. */
  foundMeanwhile = (): string[] => this.#work.sides.calendars.takeFound().filter((href) => !this.#shown.has(href));

  async readNew(hrefs: string[]): Promise<EventView[]> {
    const found = await this.#work.sides.calendars.read(this.#work.context.definition.calendar.calendar, hrefs, this.#work.signal);
    const apart = new Set([...found.values()].flatMap((e) => (e?.occurrence === undefined ? [] : [placeOf(e.href).object])));
    // Of a series that is taken apart, its occurrences are the events; those that pairs follow from now on are not new.
    const all = [...found.values()].filter((e) => e !== null && !apart.has(e.href) && !this.lost.given.has(e.href)) as StoredEvent[];
    return all.map((e) => viewOf(e, this.#work.context));
  }

  /** One by one: the rare path. */
  async readRecords(ids: string[]): Promise<Map<string, RecordItem | null>> {
    const found = new Map<string, RecordItem | null>();
    let failure: unknown;
    const read = async (id: string): Promise<boolean> => {
      try {
        found.set(id, await this.#work.sides.records.read(this.#work.context.definition.records.collection, id, this.#work.signal));
        return false;
      } catch (error) {
        failure ??= error;
        return true;
      }
    };
    await mapConcurrent(ids, read, { width: 8, done: (failed) => failed });
    if (failure !== undefined) throw failure;
    return found;
  }

  async #readEvents(pairs: Pair[]): Promise<Map<string, EventView | null>> {
    const events = new Map<string, EventView | null>();
    const wanted: string[] = [];
    const replied = new Set(
      [...(await this.guestsOf(pairs)).values()].flatMap((all) =>
        all.flatMap((g) => (g.reply === null && (g.proposal == null || g.proposal.answered === true) ? [] : [g.pair])),
      ),
    );
    const listed = this.#listed ? await this.#work.store.listed(pairs.flatMap((p) => p.href ?? [])) : new Map<string, string | null>();
    for (const pair of pairs) {
      if (pair.href === null) continue;
      const etag = listed.get(pair.href) ?? null;
      // Another version of the lane may map or judge what the last agreement does not speak of; nor does one made by an
      // earlier Monsoon say whether the event repeats.
      const isCurrent = pair.laneVersion === this.#work.context.version && knowsRecurrence(pair);
      if (etag !== null && etag === pair.etag && pair.baseline !== null && pair.state === 'in sync' && isCurrent && !replied.has(pair.id)) {
        // Unchanged by its ETag: what was read at the last agreement still holds. Its text is read when it is needed.
        events.set(pair.href, viewAtAgreement({ ...pair, href: pair.href, baseline: pair.baseline }, etag));
      } else wanted.push(pair.href);
    }
    for (const [href, event] of await this.#work.sides.calendars.read(this.#work.context.definition.calendar.calendar, wanted, this.#work.signal))
      events.set(href, event === null ? null : viewOf(event, this.#work.context));
    return events;
  }
}
