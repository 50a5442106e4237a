import type { LaneDefinition } from '@monsoon/core';
import { judgeRecord } from './judge.ts';
import { type Link, type Moment, showAll } from './links.ts';
import type { Fields } from './maps.ts';
import type { Base } from './merge.ts';
import type { Ended, ModelPair, RecordSeen, Sides, State } from './pairs.ts';
import { type EventSeen, same, type Values } from './values.ts';

/** What a person answered to the question of a pair; null: nothing yet. */
export type Answer = (pair: ModelPair) => string | null;

/** What a run is given, beside both sides. */
export interface RunGiven {
  lane: LaneDefinition;
  /** has a record another version than it had, or only another content? */
  versions: boolean;
  pairs: readonly ModelPair[];
  /** seconds since 1970 */
  now: number;
  answer: Answer;
}

/** One moment of one record, with the pair that follows it. */
export interface Followed {
  pair: ModelPair;
  moment: Moment;
  links: Link[];
}

/** A run as far as it has come: both sides as they were, and what it leaves behind. */
export class Run {
  readonly lane: LaneDefinition;
  readonly look: { lane: LaneDefinition; now: number };
  readonly records: ReadonlyMap<string, RecordSeen>;
  readonly events: ReadonlyMap<string, EventSeen>;
  readonly end: Ended;
  /** followed pairs as the run found them */
  readonly before: readonly ModelPair[];
  /** events that got a record in this run, or are asked about */
  readonly taken = new Set<string>();
  readonly askedAbout = new Set<string>();
  /** events that stood in a question wait for the run after it, whatever the answer */
  readonly waiting: ReadonlySet<string>;
  /** events that had a pair when the run began */
  readonly linked: ReadonlySet<string | null>;
  /** the moment that a new event becomes */
  readonly newEvent: Moment;
  readonly #answer: Answer;
  readonly #versions: boolean;

  constructor({ records, events }: Sides, { lane, versions, pairs, now, answer }: RunGiven) {
    this.lane = lane;
    this.look = { lane, now };
    this.records = records;
    this.events = events;
    this.#answer = answer;
    this.#versions = versions;
    this.end = {
      records: new Map([...records].map(([id, r]) => [id, r.fields])),
      events: new Map([...events].map(([href, e]) => [href, e.values])),
      pairs: pairs.map(({ merged: _before, ...p }) => ({ ...p, seen: false })),
      reasons: new Map(),
      quiet: new Set(),
      maybe: new Map(),
      removals: 0,
      rewrites: 0,
    };
    this.#followMoved();
    this.before = this.followedPairs().map((p) => ({ ...p }));
    this.waiting = new Set(
      pairs.flatMap((p) => (p.state === 'held' && p.question?.asks === 'several candidates' ? (JSON.parse(p.question.about) as string[]) : [])),
    );
    this.linked = new Set(this.end.pairs.filter((p) => p.state !== 'removed').map((p) => p.event));
    this.newEvent = lane.moments.find((m) => m.name === lane.events.moment) ?? lane.moments[0]!;
  }

  /** An event that stands under another name was moved there, and nothing was deleted. */
  #followMoved(): void {
    for (const pair of this.followedPairs()) {
      if (pair.event === null || pair.record === null || this.events.has(pair.event)) continue;
      const moved = [...this.events].find(
        ([href, e]) => e.uid === pair.uid && !this.end.pairs.some((p) => p.event === href && p.state !== 'removed'),
      );
      if (moved !== undefined) pair.event = moved[0];
    }
  }

  followedPairs = (): ModelPair[] => this.end.pairs.filter((p) => p.state === 'in sync' || p.state === 'held');
  pairOf = (record: string, moment: string): ModelPair | undefined => this.end.pairs.find((p) => p.record === record && p.moment === moment);
  /** Events that stand for nothing yet. */
  free = (): [string, EventSeen][] => [...this.events].filter(([href]) => !this.linked.has(href) && !this.taken.has(href));

  say(key: string, reason: string | null): void {
    if (reason === null) this.end.reasons.delete(key);
    else this.end.reasons.set(key, reason);
  }
  hold(pair: ModelPair, asks: string, about = ''): void {
    pair.state = 'held';
    pair.question = { asks, about };
  }
  /** What a person answered to just this question. */
  answered(pair: ModelPair, asks: string, about = ''): string | null {
    return pair.state === 'held' && pair.question?.asks === asks && pair.question.about === about ? this.#answer(pair) : null;
  }
  settle(pair: ModelPair, state: State): void {
    pair.state = state;
    pair.question = null;
    if (state === 'unlinked' && pair.record !== null && this.end.records.has(pair.record))
      this.say(`${pair.record} ${pair.moment}`, 'no longer followed');
  }

  judge(id: string | null, fields: Fields, moment: Moment, links: Link[]): string | null {
    return judgeRecord(this.look, fields, id === null ? null : (this.records.get(id)?.created ?? null), moment, links);
  }

  asAgreed(pair: ModelPair, links: Link[]): boolean {
    const { base } = pair;
    const shown = showAll(links, this.end.records.get(pair.record!)!).values;
    const there = this.events.get(pair.event!)!.values;
    return links.every(
      (l) => base === null || !(l.key in base.record) || (same(shown[l.key], base.record[l.key]) && same(there[l.property], base.event[l.key])),
    );
  }

  /** Was the lane edited since the last agreement, and the record not? */
  isReshown({ record, base }: ModelPair): boolean {
    const now = this.records.get(record!);
    if (base?.lane === undefined || base.lane === this.lane || now === undefined) return false;
    // Without versions, what an earlier moment wrote in the same run looks like an edit.
    return this.#versions ? base.stamps.record === now.modified : same(base.fields as Values, this.end.records.get(record!) as Values);
  }

  isEdited(pair: ModelPair, links: Link[], side: 'record' | 'event'): boolean {
    const { base } = pair;
    if (base === null) return false;
    const shown = side === 'record' ? showAll(links, this.end.records.get(pair.record!)!).values : this.events.get(pair.event!)!.values;
    return links.some((l) => {
      if (!(l.key in base.record)) return false;
      if (side === 'record' && this.isReshown(pair)) return false;
      return side === 'event' ? l.toRecord && !same(shown[l.property], base.event[l.key]) : l.toEvent && !same(shown[l.key], base.record[l.key]);
    });
  }

  /** The baseline moves for what both sides agree on now. */
  agree(
    pair: ModelPair,
    links: Link[],
    { settled, before, was }: { settled: string[]; before: ModelPair['base'] /** what the event said before this run wrote to it */; was?: Values },
  ): void {
    const record = this.end.records.get(pair.record!)!;
    const event = this.end.events.get(pair.event!)!;
    const shown = showAll(links, record).values;
    const base: Base = {
      record: { ...before?.record },
      event: { ...before?.event },
      stamps: before?.stamps ?? { record: null, event: null },
      repeats: before?.repeats,
      mark: before?.mark,
      lane: before?.lane,
      fields: before?.fields,
    };
    for (const link of links)
      if (settled.includes(link.key)) {
        base.record[link.key] = shown[link.key] ?? null;
        base.event[link.key] = event[link.property] ?? null;
      } else if (was !== undefined && link.key in base.event && !same(was[link.property], event[link.property])) {
        // What we wrote there ourselves is not an edit that any other map of the property could carry.
        base.event[link.key] = event[link.property] ?? null;
      }
    if (!links.some((l) => l.key === 'status')) base.event['status'] = event['status'] ?? null;
    pair.base = base;
  }
}
