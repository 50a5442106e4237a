import type { LaneDefinition } from '@monsoon/core';
import { judgeEvent, judgeRecord, judgeWindow, OWN } from './judge.ts';
import { eventOf, fillsEvent, fillsRecord, followed, type Link, linksOf, type Moment, matchKey, showAll } from './links.ts';
import { type Fields, Unfit } from './maps.ts';
import { type Base, merge } from './merge.ts';
import { type EventSeen, same, type Values, type When } from './values.ts';

/**
 * A synchroniser as ENGINE.md describes one, over values alone: slow, plain, and without anything of the engine's. It
 * knows no ETags, cursors or batches. Given both sides and what they last agreed on, it says what one run without faults
 * must leave behind: every value, every state, every question, every reason.
 */
export interface RecordSeen {
  fields: Fields;
  created: number;
  modified: number;
}

export type State = 'in sync' | 'held' | 'unlinked' | 'removed';
export interface ModelPair {
  record: string | null;
  moment: string;
  event: string | null;
  /** of its event, when it was last seen */
  uid?: string | undefined;
  state: State;
  base: Base | null;
  question: { asks: string; about: string } | null;
  /** something differs from the baseline, and stays so */
  loose?: boolean;
  /** both sides as they were when a new version of the lane could not write a value */
  unfit?: string;
  /** another version of the lane shows the record differently, and the record was not edited */
  redefined?: boolean;
  /** both sides were looked at, and something of them was agreed on, in the run at hand */
  seen?: boolean;
  /** the record as this pair's merge left it: another moment may have changed it after that */
  merged?: Fields;
}

export interface Ended {
  records: Map<string, Fields>;
  events: Map<string, Values>;
  pairs: ModelPair[];
  /** by `record moment` or event: why it does not cross */
  reasons: Map<string, string>;
  /** pairs of which a reason need not be said yet: both sides are as they last agreed, or the same run writes to them */
  quiet: Set<string>;
  /** what may be said already, though it holds only from the next run on */
  maybe: Map<string, string>;
  removals: number;
  rewrites: number;
}

export interface Sides {
  records: ReadonlyMap<string, RecordSeen>;
  events: ReadonlyMap<string, EventSeen>;
}

type Answer = (pair: ModelPair) => string | null;

export class Model {
  pairs: ModelPair[] = [];
  #lane: LaneDefinition;
  /** has a record another version than it had, or only another content? */
  readonly #versions: boolean;

  constructor(lane: LaneDefinition, versions = true) {
    this.#lane = lane;
    this.#versions = versions;
  }

  set lane(lane: LaneDefinition) {
    this.#lane = lane;
  }

  /**
   * Is there a record and an event, both without a pair, that stand for the same thing, and that a look at what changed
   * cannot bring together? It looks on the calendar at the time of records that changed, and for no record that did not.
   */
  mayPair({ records, events }: Sides, touched: ReadonlySet<string>): boolean {
    const timed = this.#lane.matching.includes('when');
    const paired = new Set(this.pairs.flatMap((p) => (p.state === 'removed' ? [] : [p.event, `${p.record} ${p.moment}`])));
    const free = [...events].filter(([href]) => !paired.has(href)).map(([, e]) => e);
    const keys = new Set(free.map((e) => matchKey(this.#lane, e.values)));
    const uids = new Set(free.map((e) => e.uid));
    return this.#lane.moments.some((m) =>
      [...records].some(([id, { fields }]) => {
        if (paired.has(`${id} ${m.name}`) || (timed && touched.has(id))) return false;
        const key = matchKey(this.#lane, showAll(linksOf(this.#lane, m), fields).values);
        return (key !== null && keys.has(key)) || (this.#lane.link !== null && uids.has(String(fields[this.#lane.link])));
      }),
    );
  }

  /** What a run leaves behind; it is not remembered until `accept`. @param now seconds since 1970 */
  run({ records, events }: Sides, now: number, answer: Answer): Ended {
    const lane = this.#lane;
    const versions = this.#versions;
    const look = { lane, now };
    const end: Ended = {
      records: new Map([...records].map(([id, r]) => [id, r.fields])),
      events: new Map([...events].map(([href, e]) => [href, e.values])),
      pairs: this.pairs.map(({ merged: _before, ...p }) => ({ ...p, seen: false })),
      reasons: new Map(),
      quiet: new Set(),
      maybe: new Map(),
      removals: 0,
      rewrites: 0,
    };
    const taken = new Set<string>();
    // An event that stands under another name was moved there, and nothing was deleted.
    const followedPairs = () => end.pairs.filter((p) => p.state === 'in sync' || p.state === 'held');
    for (const pair of followedPairs()) {
      if (pair.event === null || pair.record === null || events.has(pair.event)) continue;
      const moved = [...events].find(([href, e]) => e.uid === pair.uid && !end.pairs.some((p) => p.event === href && p.state !== 'removed'));
      if (moved !== undefined) pair.event = moved[0];
    }
    const before = followedPairs().map((p) => ({ ...p }));
    const askedAbout = new Set<string>();
    const pairOf = (record: string, moment: string) => end.pairs.find((p) => p.record === record && p.moment === moment);
    // Events that stood in a question wait for the run after it, whatever the answer.
    const waiting = new Set(
      this.pairs.flatMap((p) => (p.state === 'held' && p.question?.asks === 'several candidates' ? (JSON.parse(p.question.about) as string[]) : [])),
    );
    const linked = new Set(end.pairs.filter((p) => p.state !== 'removed').map((p) => p.event));
    const free = () => [...events].filter(([href]) => !linked.has(href) && !taken.has(href));
    const newEvent = lane.moments.find((m) => m.name === lane.events.moment) ?? lane.moments[0]!;

    const say = (key: string, reason: string | null) => {
      if (reason === null) end.reasons.delete(key);
      else end.reasons.set(key, reason);
    };
    const hold = (pair: ModelPair, asks: string, about = '') => {
      pair.state = 'held';
      pair.question = { asks, about };
    };
    const answered = (pair: ModelPair, asks: string, about = ''): string | null =>
      pair.state === 'held' && pair.question?.asks === asks && pair.question.about === about ? answer(pair) : null;
    const settle = (pair: ModelPair, state: State) => {
      pair.state = state;
      pair.question = null;
      if (state === 'unlinked' && pair.record !== null && end.records.has(pair.record)) say(`${pair.record} ${pair.moment}`, 'no longer followed');
    };

    // Every record with every moment, then records that are gone, then events without a record.
    const ids = [...records.keys(), ...new Set(end.pairs.flatMap((p) => (p.record !== null && !records.has(p.record) ? [p.record] : [])))];
    for (const id of ids) for (const moment of lane.moments) one(id, moment);
    if (lane.direction !== '->' && lane.may.records.create) for (const [href] of events) newcomer(href);
    return end;

    function one(id: string, moment: Moment): unknown {
      const key = `${id} ${moment.name}`;
      const pair = pairOf(id, moment.name);
      const fields = end.records.get(id);
      if (pair?.state === 'unlinked') return say(key, fields === undefined ? null : 'no longer followed');
      const links = linksOf(lane, moment);
      const event = pair?.event == null ? undefined : events.get(pair.event);
      if (fields === undefined) {
        if (pair === undefined || pair.state === 'removed') return;
        if (event === undefined) return settle(pair, 'removed');
        return depart(pair, moment, links, 'recordDeleted', null, isEdited(pair, links, 'event'));
      }
      const reason = judge(id, fields, moment, links);
      const paired = pair !== undefined && pair.state !== 'removed';
      const stays =
        reason === 'before the start line' ||
        (reason === 'out of the window' && event !== undefined && judgeWindow(look, event.values['when'] as When, event.repeats) === null);
      if (reason === null || (paired && stays)) return belongs(id, moment, links, pair);
      say(key, reason);
      if (paired && reason === 'out of the window' && event !== undefined && asAgreed(pair, links)) end.quiet.add(key);
      const departure = reason === 'no date' ? 'dateLost' : reason === 'filtered out' || reason === 'private' ? 'filteredOut' : null;
      if (!paired || departure === null) return;
      if (event === undefined) return settle(pair, 'removed');
      depart(pair, moment, links, departure, reason, false);
    }

    function belongs(id: string, moment: Moment, links: Link[], pair: ModelPair | undefined): unknown {
      const key = `${id} ${moment.name}`;
      if (pair === undefined || pair.state === 'removed' || (pair.event === null && pair.question?.asks === 'several candidates'))
        return unpaired(id, moment, links, pair);
      const event = pair.event === null ? undefined : events.get(pair.event);
      if (event === undefined) return depart(pair, moment, links, 'eventDeleted', null, isEdited(pair, links, 'record'));
      const { marked } = event;
      const takenOver = marked !== null && marked !== OWN && lane.events.otherLanes === 'leave out' && lane.may.calendar.change;
      if (takenOver && pair.base !== null && pair.base.mark !== marked) return settle(pair, 'unlinked');
      const shown = showAll(links, end.records.get(id)!);
      if (event.values['status'] === 'cancelled' && shown.values['status'] !== 'cancelled' && pair.base!.event['status'] !== 'cancelled')
        return depart(pair, moment, links, 'eventCancelled', null, false);
      if (lane.direction !== '->') {
        const out = judgeEvent(look, event, true);
        if (out !== null) {
          say(key, out);
          return depart(pair, moment, links, 'eventFilteredOut', out, false);
        }
      }
      mergePair(pair, moment, links);
    }

    function unpaired(id: string, moment: Moment, links: Link[], pair: ModelPair | undefined): unknown {
      const key = `${id} ${moment.name}`;
      const fields = end.records.get(id)!;
      const shown = showAll(links, fields);
      const uid = lane.link === null ? null : (fields[lane.link] ?? null);
      const fits = ([, e]: [string, EventSeen]) =>
        lane.direction === '->'
          ? (lane.events.repeating === 'one record' || !e.repeats) && e.values['status'] !== 'cancelled'
          : judgeEvent(look, e, false) === null;
      // The event that it had, or the one that the record names.
      const withUid = (wanted: unknown) => (wanted == null ? [] : free().filter(([, e]) => e.uid === wanted));
      const had = withUid(pair?.uid);
      const byUid = had.length > 0 ? had : withUid(uid);
      const own = matchKey(lane, shown.values);
      const found =
        byUid.length > 0
          ? byUid
          : own === null
            ? []
            : free().filter((entry) => mayMatch(entry[1]) && matchKey(lane, entry[1].values) === own && fits(entry));
      const about = JSON.stringify(found.map(([href]) => href).sort());
      function mayMatch({ marked }: EventSeen): boolean {
        return marked === null || (marked !== OWN && lane.events.otherLanes === 'take');
      }
      const choice = pair === undefined ? null : answered(pair, 'several candidates', pair.question?.about ?? '');
      const chosen = found.find(([, e]) => choice === `take ${e.uid}`) ?? (found.length === 1 ? found[0] : undefined);
      const others = (except?: string) => {
        if (choice === null || lane.direction === '->' || !lane.may.records.create) return;
        for (const [href] of found) {
          if (href === except) continue;
          taken.add(href);
          end.pairs.push({ record: null, moment: newEvent.name, event: href, state: 'unlinked', base: null, question: null });
          end.reasons.set(href, 'no longer followed');
        }
      };
      const mine = pair ?? { record: id, moment: moment.name, event: null, state: 'removed' as State, base: null, question: null };
      if (pair === undefined && (chosen !== undefined || found.length > 1 || wouldMake())) end.pairs.push(mine);
      if (chosen !== undefined) {
        taken.add(chosen[0]);
        mine.event = chosen[0];
        mine.base = null;
        others(chosen[0]);
        return mergePair(mine, moment, links);
      }
      // An answer that cannot be carried out leaves the question open.
      const impossible = shown.unfit.some((l) => fillsEvent(l)) || (lane.may.calendar.create && ownFilter(eventOf(links, shown.values)) !== null);
      if (found.length > 1 && (choice !== 'create new' || impossible)) {
        say(key, 'several candidates');
        if (choice === 'leave out') {
          settle(mine, 'unlinked');
          return others();
        }
        for (const [href] of found) {
          taken.add(href);
          askedAbout.add(href);
        }
        return hold(mine, 'several candidates', about);
      }
      if (shown.unfit.some((l) => fillsEvent(l))) return say(key, 'unfit value');
      if (!lane.may.calendar.create) {
        if (mine.state === 'held') settle(mine, 'removed');
        return say(key, 'not made here');
      }
      others();
      makeEvent(mine, links, shown.values);

      function wouldMake(): boolean {
        return !shown.unfit.some((l) => fillsEvent(l)) && lane.may.calendar.create;
      }
    }

    /** Would the lane's own filter leave it out again? */
    function ownFilter(values: Values): string | null {
      if (lane.direction === '->') return null;
      return judgeEvent(look, { uid: '', values, marked: OWN, repeats: false, created: now, modified: now, silent: new Set(), rest: [] }, true);
    }

    /** One side of the pair is made: what was known of the one before it says nothing of this one. */
    function forgetMerges(pair: ModelPair): void {
      for (const known of ['merged', 'loose', 'redefined', 'unfit'] as const) delete pair[known];
    }

    /** Not one that the lane's own filter would leave out again. */
    function makeEvent(pair: ModelPair, links: Link[], shown: Values) {
      const href = `new ${pair.record} ${pair.moment}`;
      const values = eventOf(links, shown);
      const out = ownFilter(values);
      if (out !== null) return say(`${pair.record} ${pair.moment}`, out);
      end.events.set(href, values);
      pair.event = href;
      pair.seen = true;
      forgetMerges(pair);
      settle(pair, 'in sync');
      agree(
        pair,
        links,
        followed(links).map((l) => l.key),
        null,
      );
    }

    function newcomer(href: string): unknown {
      const event = events.get(href)!;
      const pair = end.pairs.find((p) => p.event === href);
      if (!end.events.has(href)) return;
      // Its record was taken away just now: it is looked at as any other from the next run on.
      if (linked.has(href) && pair === undefined) return say(href, judgeEvent(look, event, false));
      if (taken.has(href) && !askedAbout.has(href)) return;
      // A UID stands once in a calendar: what is there twice is said of both.
      const first = followedPairs().find(
        (p) => p.uid === event.uid && p.event !== null && p.event !== href && (p.record !== null || events.has(p.event)),
      );
      const isNew = pair === undefined || (pair.state === 'removed' && pair.record === null);
      if (isNew && first !== undefined) {
        const key = `${first.record} ${first.moment}`;
        // Of what is held or left out for a reason of its own, either may be said.
        const written =
          end.events.get(first.event!) !== events.get(first.event!)?.values || end.records.get(first.record!) !== records.get(first.record!)?.fields;
        // What the same run writes may be remembered after that.
        if (written) end.quiet.add(key);
        if (end.reasons.has(key)) end.maybe.set(key, 'duplicate UID');
        else if (first.record !== null) say(key, 'duplicate UID');
        return say(href, 'duplicate UID');
      }
      // The copy of one that was followed until this run is judged again in the next.
      const was = before.find((p) => p.uid === event.uid && p.event !== null && p.event !== href);
      const letGo = (p: ModelPair) => p.state === 'unlinked' || (p.state === 'removed' && p.record !== null);
      const isLetGo = end.pairs.some((p) => p.uid === event.uid && p.event !== href && letGo(p));
      const isFree = pair === undefined || pair.state === 'removed';
      if (isFree && was !== undefined) {
        if (isLetGo) end.maybe.set(href, 'no longer followed');
        return say(href, 'duplicate UID');
      }
      if (isNew && isLetGo) return say(href, 'no longer followed');
      // Of a pair with a record it is said there.
      if (pair?.state === 'unlinked') return pair.record === null ? say(href, 'no longer followed') : undefined;
      if (pair !== undefined && pair.state !== 'removed') return;
      if (askedAbout.has(href) || waiting.has(href)) return say(href, 'several candidates');
      const reason = judgeEvent(look, event, false);
      if (reason !== null) return say(href, reason);
      // One whose record was taken away begins again.
      const fresh: ModelPair = { record: null, moment: newEvent.name, event: href, state: 'removed', base: null, question: null };
      makeRecord(href, pair?.record === null ? pair : fresh, newEvent);
    }

    function makeRecord(href: string, pair: ModelPair, moment: Moment): boolean {
      const links = linksOf(lane, moment);
      const event = events.get(href)!;
      let fields: Fields = { ...blankRecord, ...lane.defaults };
      try {
        for (const link of links) if (fillsRecord(link)) fields = { ...fields, ...link.take(fields, event.values[link.property] ?? null, true) };
      } catch (error) {
        if (!(error instanceof Unfit)) throw error;
        say(href, 'unfit value');
        return false;
      }
      if (lane.link !== null) fields[lane.link] = event.uid;
      const reason = judge(null, fields, moment, links);
      if (reason !== null && reason !== 'out of the window' && reason !== 'before the start line') {
        say(href, reason);
        return false;
      }
      const id = `new ${href}`;
      end.records.set(id, fields);
      pair.record = id;
      pair.moment = moment.name;
      pair.event = href;
      pair.uid = event.uid;
      pair.seen = true;
      forgetMerges(pair);
      if (!end.pairs.includes(pair)) end.pairs.push(pair);
      settle(pair, 'in sync');
      agree(
        pair,
        links,
        followed(links).map((l) => l.key),
        null,
      );
      return true;
    }

    function depart(
      pair: ModelPair,
      moment: Moment,
      links: Link[],
      departure: keyof LaneDefinition['departures'],
      reason: string | null,
      edited: boolean,
    ): unknown {
      const rules = lane.departures;
      if (edited) {
        const fromRecord = pair.record !== null && end.records.has(pair.record);
        const side = fromRecord ? showAll(links, end.records.get(pair.record!)!).values : events.get(pair.event!)!.values;
        const about = JSON.stringify([departure, links.map((l) => side[fromRecord ? l.key : l.property] ?? null)]);
        const said = answered(pair, 'edited and deleted', about);
        const choice = said ?? (rules.editedAndDeleted === 'hold' ? null : rules.editedAndDeleted);
        if (choice === null) return hold(pair, 'edited and deleted', about);
        if (choice === 'edit wins') return carry(pair, moment, links, departure, 'create again', reason, said !== null);
        const record = departure === 'eventDeleted';
        const removal = (record ? lane.may.records.remove : lane.may.calendar.remove) ? (record ? 'delete record' : 'remove') : 'unlink';
        return carry(pair, moment, links, departure, rules[departure] === 'hold' ? removal : rules[departure], reason, said !== null);
      }
      const asks = departure.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`);
      const rule = rules[departure];
      const choice = answered(pair, asks);
      if (choice === null && rule === 'hold') return hold(pair, asks);
      carry(pair, moment, links, departure, choice ?? rule, reason, choice !== null);
    }

    function carry(
      pair: ModelPair,
      moment: Moment,
      links: Link[],
      departure: string,
      choice: string,
      reason: string | null,
      byPerson = false,
    ): unknown {
      const key = `${pair.record} ${pair.moment}`;
      const event = pair.event === null ? undefined : end.events.get(pair.event);
      if (choice === 'remove') {
        if (event !== undefined) {
          end.events.delete(pair.event!);
          end.removals++;
        }
        pair.event = null;
        return settle(pair, 'removed');
      }
      if (choice === 'mark cancelled') {
        if (event !== undefined && event['status'] !== 'cancelled') {
          end.events.set(pair.event!, { ...event, status: 'cancelled' });
          end.rewrites++;
        }
        return settle(pair, 'unlinked');
      }
      if (choice === 'delete record') {
        end.records.delete(pair.record!);
        end.removals++;
        say(key, null);
        pair.record = null;
        return settle(pair, 'removed');
      }
      if (choice === 'set fields') {
        const wanted = departure === 'eventCancelled' ? lane.sets.eventCancelled : lane.sets.eventDeleted;
        const before = end.records.get(pair.record!)!;
        const after = { ...before, ...(wanted as Fields) };
        if (!same(before as Values, after as Values)) end.rewrites++;
        end.records.set(pair.record!, after);
        const out = judge(pair.record, after, moment, links);
        say(key, out);
        return settle(pair, out === null || event !== undefined ? 'unlinked' : 'removed');
      }
      if (choice === 'as deleted') return depart(pair, moment, links, 'eventDeleted', reason, false);
      if (choice === 'create again') {
        if (event !== undefined && departure === 'eventDeleted') {
          if (!lane.may.calendar.change) return settle(pair, 'unlinked');
          const shown = showAll(links, end.records.get(pair.record!)!).values;
          end.events.set(pair.event!, { ...event, status: shown['status'] ?? 'confirmed' });
          end.rewrites++;
          pair.seen = true;
          pair.loose = true;
          pair.redefined = isReshown(pair);
          settle(pair, 'in sync');
          // What the event says now is what it said, but for its status.
          agree(pair, links, [], pair.base);
          return;
        }
        if (departure === 'eventDeleted' && lane.may.calendar.create)
          return makeEvent(pair, links, showAll(links, end.records.get(pair.record!)!).values);
        if (
          departure === 'recordDeleted' &&
          event !== undefined &&
          lane.may.records.create &&
          judgeEvent(look, events.get(pair.event!)!, true) === null
        ) {
          const href = pair.event!;
          const before = { ...pair };
          if (makeRecord(href, pair, moment)) return;
          Object.assign(pair, before);
          // An answer that cannot be carried out leaves the question open; a rule says why it does nothing.
          const why = end.reasons.get(href) ?? null;
          say(href, null);
          return byPerson ? undefined : say(key, why);
        }
      }
      settle(pair, 'unlinked');
    }

    function asAgreed(pair: ModelPair, links: Link[]): boolean {
      const { base } = pair;
      const shown = showAll(links, end.records.get(pair.record!)!).values;
      const there = events.get(pair.event!)!.values;
      return links.every(
        (l) => base === null || !(l.key in base.record) || (same(shown[l.key], base.record[l.key]) && same(there[l.property], base.event[l.key])),
      );
    }

    /** Was the lane edited since the last agreement, and the record not? */
    function isReshown({ record, base }: ModelPair): boolean {
      const now = records.get(record!);
      if (base?.lane === undefined || base.lane === lane || now === undefined) return false;
      // Without versions, what an earlier moment wrote in the same run looks like an edit.
      return versions ? base.stamps.record === now.modified : same(base.fields as Values, end.records.get(record!) as Values);
    }

    function isEdited(pair: ModelPair, links: Link[], side: 'record' | 'event'): boolean {
      const { base } = pair;
      if (base === null) return false;
      const shown = side === 'record' ? showAll(links, end.records.get(pair.record!)!).values : events.get(pair.event!)!.values;
      return links.some((l) => {
        if (!(l.key in base.record)) return false;
        if (side === 'record' && isReshown(pair)) return false;
        return side === 'event' ? l.toRecord && !same(shown[l.property], base.event[l.key]) : l.toEvent && !same(shown[l.key], base.record[l.key]);
      });
    }

    function mergePair(pair: ModelPair, moment: Moment, links: Link[]): unknown {
      const [record, event] = [records.get(pair.record!)!, events.get(pair.event!)!];
      const before = end.records.get(pair.record!)!;
      const reshown = isReshown(pair);
      const merged = merge(lane, links, before, record.modified, event, pair.base, reshown, (about) => answered(pair, 'conflict', about));
      // Where the lane takes no series, one is not moved by a record, and does not take the place of a single event.
      const single = pair.base?.repeats === false;
      const taken = lane.direction !== '->' && lane.events.repeating === 'one record';
      if (event.repeats && !taken && pair.base !== null && (single || !same(merged.event['when'], event.values['when']))) {
        const about = JSON.stringify([single, showAll(links, before).values['when'] ?? null, event.values['when']]);
        if (answered(pair, 'repeating event', about) === 'unlink') return settle(pair, 'unlinked');
        say(`${pair.record} ${pair.moment}`, null);
        return hold(pair, 'repeating event', about);
      }
      if (!same(merged.record as Values, before as Values) || !same(merged.event, event.values)) end.rewrites++;
      end.records.set(pair.record!, merged.record);
      pair.merged = merged.record;
      end.events.set(pair.event!, merged.event);
      const key = `${pair.record} ${pair.moment}`;
      say(key, merged.unfit ? 'unfit value' : null);
      // What a new version of the lane could not write is said as long as neither side changes, also where foreign edits are left.
      const sides = JSON.stringify([merged.record, merged.event]);
      if (merged.unfit && reshown) pair.unfit = sides;
      else if (pair.unfit === sides) end.maybe.set(key, 'unfit value');
      // An item that this moves out of the window may be called so now or at the next look.
      if (judge(pair.record, merged.record, moment, links) === 'out of the window') end.maybe.set(key, 'out of the window');
      pair.loose = merged.loose;
      pair.redefined = reshown;
      pair.seen = merged.settled.length > 0 || (pair.state === 'held' && merged.asks === null) || !merged.loose;
      if (merged.asks !== null) hold(pair, 'conflict', merged.asks);
      else settle(pair, 'in sync');
      agree(pair, links, merged.settled, pair.base, event.values);
    }

    function judge(id: string | null, fields: Fields, moment: Moment, links: Link[]): string | null {
      return judgeRecord(look, fields, id === null ? null : (records.get(id)?.created ?? null), moment, links);
    }

    /** The baseline moves for what both sides agree on now. */
    function agree(pair: ModelPair, links: Link[], settled: string[], before: ModelPair['base'], was?: Values) {
      const record = end.records.get(pair.record!)!;
      const event = end.events.get(pair.event!)!;
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
}

export const recordFields = [
  'title',
  'place',
  'notes',
  'start',
  'end',
  'length',
  'date',
  'time',
  'first',
  'last',
  'due',
  'follow',
  'status',
  'kind',
  'tags',
  'guests',
  'remind',
  'url',
  'secret',
  'memo',
  'uid',
] as const;
const blankRecord: Fields = Object.fromEntries(recordFields.map((f) => [f, null]));
