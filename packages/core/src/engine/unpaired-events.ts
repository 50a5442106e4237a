import { absentOf, elementKey, type PropertyName, type PropertyValue } from '../maps/properties.ts';
import { canonical } from '../record/fields.ts';
import type { When } from '../time/when.ts';
import { spanOf } from '../time/when.ts';
import type { EventView, LaneContext } from './context.ts';

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
 * The events that no pair speaks of, found by UID or by what the lane matches by. Events that carry another lane's mark
 * are nobody's. An event that was taken once is not offered again in the same run.
 */
export class UnpairedEvents {
  readonly #byUid = new Map<string, EventView>();
  readonly #byKey = new Map<string, EventView[]>();
  readonly #taken = new Set<string>();
  readonly #asked = new Set<string>();
  #untold: EventView[] = [];
  /** are these all there are? If not, nobody can say that there is only one, or none. */
  complete = false;
  readonly #hrefs = new Set<string>();
  #wanted: (When | null)[] = [];

  add(event: EventView, context: LaneContext): void {
    if (event.read === null || this.#hrefs.has(event.href)) return;
    this.#hrefs.add(event.href);
    this.#byUid.set(event.read.uid, event);
    // An event of another lane is that lane's; one with our mark is a copy that a person made of one of ours.
    if (event.read.mark !== null && (event.read.mark.lane === context.lane || context.definition.events.otherLanes === 'leave out')) return;
    const key = matchKey(context, { ...event.read.values });
    if (key !== null) this.#byKey.set(key, [...(this.#byKey.get(key) ?? []), event]);
  }

  /** When the records are for which an event was looked for here since this was last asked; null where a UID says enough. */
  takeWanted(): (When | null)[] {
    const wanted = this.#wanted;
    this.#wanted = [];
    return wanted;
  }
  /** an event of that UID that no pair speaks of */
  byUid(uid: string): EventView | undefined {
    this.#wanted.push(null);
    return this.#byUid.get(uid);
  }
  has = (uid: string): boolean => this.#byUid.has(uid);
  isTaken = (href: string): boolean => this.#taken.has(href);
  isAsked = (href: string): boolean => this.#asked.has(href);
  /** A person is asked whether it stands for a record: until then it becomes none of its own. */
  ask(event: EventView): void {
    if (!this.#asked.has(event.href)) this.#untold.push(event);
    this.#asked.add(event.href);
    this.#taken.add(event.href);
  }
  /** Those that came into a question since this was last asked. */
  takeAsked(): EventView[] {
    const untold = this.#untold;
    this.#untold = [];
    return untold;
  }
  take(href: string): void {
    this.#taken.add(href);
  }

  /**
   * What may already stand for a record's moment: the event with its UID, or with the UID that the record names; else
   * those that match.
   */
  candidates(context: LaneContext, uids: (string | null)[], values: { [name: string]: PropertyValue | undefined }): EventView[] {
    this.#wanted.push((values['when'] ?? null) as When | null);
    for (const uid of uids) {
      const own = uid === null ? undefined : this.#byUid.get(uid);
      if (own !== undefined && !this.#taken.has(own.href)) return [own];
    }
    const key = matchKey(context, values);
    return key === null ? [] : (this.#byKey.get(key) ?? []).filter((e) => !this.#taken.has(e.href));
  }
}
