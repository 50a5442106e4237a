import { absentOf, elementKey, type PropertyName, type PropertyValue } from '../maps/properties.ts';
import { canonical } from '../record/fields.ts';
import type { When } from '../time/when.ts';
import { spanOf } from '../time/when.ts';
import type { EventView, LaneContext, ReadEvent } from './context.ts';

const fold = (text: string) => text.trim().toLowerCase();

/** What items are matched by when they are first paired; null when there is too little to match by. */
export function matchKey(context: LaneContext, values: { [name: string]: PropertyValue | undefined }): string | null {
  const { matching } = context.definition;
  if (matching.length === 0) return null;
  const parts: (string | number)[] = [];
  for (const name of matching) {
    const value = values[name] ?? absentOf(name);
    if (value === null || value === undefined || value === '') return null;
    parts.push(keyOf(name, value, context));
  }
  return canonical(parts);
}

function keyOf(name: PropertyName, value: NonNullable<PropertyValue>, context: LaneContext): string | number {
  if (name !== 'when') return fold(Array.isArray(value) ? canonical(value.map(elementKey).sort()) : String(value));
  const when = value as When;
  return when.kind === 'all-day' ? when.first : spanOf(when, context.zone, context.zones).from;
}

/**
 * The events that no pair speaks of, found by UID or by what the lane matches by. Planning reads them and lays claim to
 * some; what it claimed holds for the rest of the run once the plan is used.
 */
export class UnpairedEvents {
  readonly #byUid = new Map<string, ReadEvent>();
  readonly #byKey = new Map<string, ReadEvent[]>();
  readonly #hrefs = new Set<string>();
  readonly #taken = new Set<string>();
  readonly #asked = new Set<string>();
  /** are these all there are? If not, it is unknown whether there is only one, or none. */
  complete = false;

  /** @param moved a pair follows it: it may be found by its UID alone */
  add(view: EventView, context: LaneContext, moved = false): void {
    if (view.read === null || this.#hrefs.has(view.href)) return;
    const event: ReadEvent = { ...view, read: view.read };
    this.#hrefs.add(event.href);
    this.#byUid.set(event.read.uid, event);
    if (moved) return;
    // An event of another lane is that lane's; one with our mark is a copy that a person made of one of ours.
    if (event.read.mark !== null && (event.read.mark.lane === context.lane || context.definition.events.otherLanes === 'leave out')) return;
    const key = matchKey(context, { ...event.read.values });
    if (key !== null) this.#byKey.set(key, [...(this.#byKey.get(key) ?? []), event]);
  }

  has = (uid: string): boolean => this.#byUid.has(uid);
  byUid = (uid: string): ReadEvent | undefined => this.#byUid.get(uid);
  byKey = (key: string): readonly ReadEvent[] => this.#byKey.get(key) ?? [];
  isTaken = (href: string): boolean => this.#taken.has(href);
  isAsked = (href: string): boolean => this.#asked.has(href);

  /** From here on what a plan claimed is claimed. */
  claim({ taken, asked }: Pick<Claims, 'taken' | 'asked'>): void {
    for (const href of taken) this.#taken.add(href);
    for (const { href } of asked) this.#asked.add(href);
  }
}

/**
 * What one plan claims of the unpaired events: those that it pairs, and those that it asks a person about. An event that
 * was claimed once is not offered again in the same run.
 */
export class Claims {
  readonly taken = new Set<string>();
  /** Until a person has answered, they become no records of their own. */
  readonly asked: ReadEvent[] = [];
  /** When the records are for which an event was sought; null: it has no time. */
  readonly wanted: (When | null)[] = [];
  /** UIDs of events that are gone from their address, and may stand at another one */
  readonly sought: string[] = [];
  readonly #events: UnpairedEvents;

  constructor(events: UnpairedEvents) {
    this.#events = events;
  }

  get complete(): boolean {
    return this.#events.complete;
  }
  /** an event of that UID that no pair speaks of */
  byUid(uid: string): ReadEvent | undefined {
    this.sought.push(uid);
    return this.#events.byUid(uid);
  }
  isTaken = (href: string): boolean => this.taken.has(href) || this.#events.isTaken(href);
  isAsked = (href: string): boolean => this.#events.isAsked(href) || this.asked.some((e) => e.href === href);
  take(href: string): void {
    this.taken.add(href);
  }
  ask(event: ReadEvent): void {
    if (!this.isAsked(event.href)) this.asked.push(event);
    this.taken.add(event.href);
  }

  /**
   * What may already stand for a record's moment: the event with its UID, or with the UID that the record names; else
   * those that match.
   */
  candidates(context: LaneContext, uids: (string | null)[], values: { [name: string]: PropertyValue | undefined }): ReadEvent[] {
    this.wanted.push((values['when'] ?? null) as When | null);
    for (const uid of uids) {
      const own = uid === null ? undefined : this.#events.byUid(uid);
      if (own !== undefined && !this.isTaken(own.href)) return [own];
    }
    const key = matchKey(context, values);
    return key === null ? [] : this.#events.byKey(key).filter((e) => !this.isTaken(e.href));
  }
}
