import type { FieldMap, LaneDefinition } from '@monsoon/core';
import { addDays, londonDay, londonInstant } from './clock.ts';
import { holds } from './conditions.ts';
import { carryWhen, type Fields, isSet, show, showWhen, take, takeWhen, Unfit } from './maps.ts';
import { type EventSeen, isDays, isEmpty, same, type Value, type Values, type When } from './values.ts';

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
  state: State;
  base: { record: Values; event: Values; stamps: { record: number | null; event: number | null } } | null;
  question: { asks: string; about: string } | null;
  /** both sides were looked at, and something of them was agreed on, in the run at hand */
  seen?: boolean;
}

export interface Ended {
  records: Map<string, Fields>;
  events: Map<string, Values>;
  pairs: ModelPair[];
  /** by `record moment` or event: why it does not cross */
  reasons: Map<string, string>;
  /** pairs on which both sides are as they last agreed: that they left the window need not be said */
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

interface Link {
  key: string;
  property: string;
  direction: '->' | '<-' | '<->' | 'once';
  show(r: Fields): Value;
  take(r: Fields, value: Value, stated?: boolean): Fields;
  field: string | null;
}

type Moment = LaneDefinition['moments'][number];
type Answer = (pair: ModelPair) => string | null;

const order = [
  'title',
  'description',
  'location',
  'status',
  'busy',
  'visibility',
  'categories',
  'link',
  'conference',
  'colour',
  'attendees',
  'reminders',
];

export function linksOf(lane: LaneDefinition, moment: Moment): Link[] {
  const maps = { ...lane.fields, ...moment.fields } as Record<string, FieldMap | FieldMap[] | undefined>;
  const when: Link = {
    key: 'when',
    property: 'when',
    direction: moment.direction ?? lane.direction,
    show: (r) => showWhen(moment.when, r),
    take: (r, value) => (value === null ? {} : takeWhen(moment.when, r, value as When)),
    field: null,
  };
  const rest = order.flatMap((property) =>
    [maps[property] ?? []].flat().map((map, i): Link => {
      const words = 'words' in map ? map.words : null;
      const target = 'copy' in map ? map.copy : 'table' in map ? map.table : 'join' in map ? (map.edit ?? 'title') : words;
      return {
        key: i === 0 ? property : `${property}>${target}`,
        property,
        direction: map.direction ?? ('fixed' in map ? '->' : words !== null ? '<-' : lane.direction),
        show: (r) => (words === null ? show(property, map, r) : ((r[words] as Value) ?? null)),
        take: (r, value, stated) => take(property, map, r, value, stated),
        field: 'fixed' in map ? null : target,
      };
    }),
  );
  return [when, ...rest];
}

export class Model {
  pairs: ModelPair[] = [];
  readonly #lane: LaneDefinition;

  constructor(lane: LaneDefinition) {
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
    const end: Ended = {
      records: new Map([...records].map(([id, r]) => [id, r.fields])),
      events: new Map([...events].map(([href, e]) => [href, e.values])),
      pairs: this.pairs.map((p) => ({ ...p, seen: false })),
      reasons: new Map(),
      quiet: new Set(),
      maybe: new Map(),
      removals: 0,
      rewrites: 0,
    };
    const taken = new Set<string>();
    const askedAbout = new Set<string>();
    const pairOf = (record: string, moment: string) => end.pairs.find((p) => p.record === record && p.moment === moment);
    // Events that stood in a question wait for the run after it, whatever became of it.
    const waiting = new Set(
      this.pairs.flatMap((p) => (p.state === 'held' && p.question?.asks === 'several candidates' ? (JSON.parse(p.question.about) as string[]) : [])),
    );
    const linked = new Set(this.pairs.filter((p) => p.state !== 'removed').map((p) => p.event));
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
      const reason = judgeRecord(id, fields, moment, links);
      const paired = pair !== undefined && pair.state !== 'removed';
      const stays =
        reason === 'before the start line' ||
        (reason === 'out of the window' && event !== undefined && judgeWindow(event.values['when'] as When) === null);
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
      const shown = showAll(links, end.records.get(id)!);
      if (event.values['status'] === 'cancelled' && shown.values['status'] !== 'cancelled' && pair.base!.event['status'] !== 'cancelled')
        return depart(pair, moment, links, 'eventCancelled', null, false);
      if (lane.direction !== '->') {
        const out = judgeEvent(event, true);
        if (out !== null) {
          say(key, out);
          return depart(pair, moment, links, 'eventFilteredOut', out, false);
        }
      }
      merge(pair, links, key);
    }

    function unpaired(id: string, moment: Moment, links: Link[], pair: ModelPair | undefined): unknown {
      const key = `${id} ${moment.name}`;
      const fields = end.records.get(id)!;
      const shown = showAll(links, fields);
      const uid = lane.link === null ? null : (fields[lane.link] ?? null);
      const fits = ([, e]: [string, EventSeen]) =>
        lane.direction === '->' ? !e.repeats && e.values['status'] !== 'cancelled' : judgeEvent(e, false) === null;
      const byUid = uid === null ? [] : free().filter(([, e]) => e.uid === uid);
      const own = matchKey(lane, shown.values);
      const found =
        byUid.length > 0
          ? byUid.filter(([, e]) => lane.direction === '->' || e.uid === uid)
          : own === null
            ? []
            : free().filter((entry) => entry[1].marked === null && matchKey(lane, entry[1].values) === own && fits(entry));
      const about = JSON.stringify(found.map(([href]) => href).sort());
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
        return merge(mine, links, key);
      }
      // An answer that cannot be carried out leaves the question open.
      const impossible = shown.unfit.some((l) => fillsEvent(l)) || (lane.may.calendar.create && ownFilter(eventOf(links, shown.values)) !== null);
      if (found.length > 1 && (choice !== 'make new' || impossible)) {
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

    function eventOf(links: Link[], shown: Values): Values {
      const values: Values = { ...bare };
      for (const link of links) if (fillsEvent(link) && !isEmpty(shown[link.key])) values[link.property] = shown[link.key]!;
      return values;
    }

    /** Would the lane's own filter leave it out again? */
    function ownFilter(values: Values): string | null {
      if (lane.direction === '->') return null;
      return judgeEvent({ uid: '', values, marked: OWN, repeats: false, created: now, modified: now, silent: new Set(), rest: [] }, true);
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
      settle(pair, 'in sync');
      agree(
        pair,
        links,
        links.filter((l) => l.direction !== 'once').map((l) => l.key),
        null,
      );
    }

    function newcomer(href: string): unknown {
      const event = events.get(href)!;
      const pair = end.pairs.find((p) => p.event === href);
      if (!end.events.has(href)) return;
      // Its record was taken away just now: it is looked at as any other from the next run on.
      if (linked.has(href) && pair === undefined) return say(href, judgeEvent(event, false));
      if (taken.has(href) && !askedAbout.has(href)) return;
      // Of a pair with a record it is said there.
      if (pair?.state === 'unlinked') return pair.record === null ? say(href, 'no longer followed') : undefined;
      if (pair !== undefined && pair.state !== 'removed') return;
      if (askedAbout.has(href) || waiting.has(href)) return say(href, 'several candidates');
      const reason = judgeEvent(event, false);
      if (reason !== null) return say(href, reason);
      makeRecord(href, { record: null, moment: newEvent.name, event: href, state: 'removed', base: null, question: null }, newEvent);
    }

    function makeRecord(href: string, pair: ModelPair, moment: Moment): boolean {
      const links = linksOf(lane, moment);
      const event = events.get(href)!;
      let fields: Fields = { ...blankRecord, ...lane.defaults };
      try {
        for (const link of links)
          if (link.direction === '<-' || link.direction === '<->' || (link.direction === 'once' && (link.field !== null || link.key === 'when')))
            fields = { ...fields, ...link.take(fields, event.values[link.property] ?? null, true) };
      } catch (error) {
        if (!(error instanceof Unfit)) throw error;
        say(href, 'unfit value');
        return false;
      }
      if (lane.link !== null) fields[lane.link] = event.uid;
      const reason = judgeRecord(null, fields, moment, links);
      if (reason !== null && reason !== 'out of the window' && reason !== 'before the start line') {
        say(href, reason);
        return false;
      }
      const id = `new ${href}`;
      end.records.set(id, fields);
      pair.record = id;
      pair.event = href;
      pair.seen = true;
      if (!end.pairs.includes(pair)) end.pairs.push(pair);
      settle(pair, 'in sync');
      agree(
        pair,
        links,
        links.filter((l) => l.direction !== 'once').map((l) => l.key),
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
        if (choice === 'edit wins') return carry(pair, moment, links, departure, 'make again', reason, said !== null);
        const record = departure === 'eventDeleted';
        const removal = (record ? lane.may.records.remove : lane.may.calendar.remove) ? (record ? 'delete record' : 'remove') : 'part';
        return carry(pair, moment, links, departure, rules[departure] === 'hold' ? removal : rules[departure], reason, said !== null);
      }
      const asks = departure.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`).replace('filtered out', 'filtered out');
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
        const out = judgeRecord(pair.record, after, moment, links);
        say(key, out);
        return settle(pair, out === null || event !== undefined ? 'unlinked' : 'removed');
      }
      if (choice === 'as deleted') return depart(pair, moment, links, 'eventDeleted', reason, false);
      if (choice === 'make again') {
        if (event !== undefined && departure === 'eventDeleted') {
          if (!lane.may.calendar.change) return settle(pair, 'unlinked');
          const shown = showAll(links, end.records.get(pair.record!)!).values;
          end.events.set(pair.event!, { ...event, status: shown['status'] ?? 'confirmed' });
          end.rewrites++;
          pair.seen = true;
          settle(pair, 'in sync');
          // What the event says now is what it said, but for its status.
          agree(pair, links, [], pair.base);
          return;
        }
        if (departure === 'eventDeleted' && lane.may.calendar.create)
          return makeEvent(pair, links, showAll(links, end.records.get(pair.record!)!).values);
        if (departure === 'recordDeleted' && event !== undefined && lane.may.records.create && judgeEvent(events.get(pair.event!)!, true) === null) {
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

    function isEdited(pair: ModelPair, links: Link[], side: 'record' | 'event'): boolean {
      const { base } = pair;
      if (base === null) return false;
      const shown = side === 'record' ? showAll(links, end.records.get(pair.record!)!).values : events.get(pair.event!)!.values;
      return links.some((l) => {
        if (!(l.key in base.record)) return false;
        return side === 'event' ? toRecord(l) && !same(shown[l.property], base.event[l.key]) : toEvent(l) && !same(shown[l.key], base.record[l.key]);
      });
    }

    function merge(pair: ModelPair, links: Link[], key: string) {
      const event = events.get(pair.event!)!;
      const before = end.records.get(pair.record!)!;
      const shown = showAll(links, before);
      const base = pair.base;
      // Another lane's mark: that lane puts back what it carries, and this one leaves it alone.
      let record = before;
      const values: Values = { ...end.events.get(pair.event!)! };
      const settled: string[] = [];
      let unfit = false;
      /** a person's answer could not be carried out */
      let failed = false;
      type Work = {
        link: Link;
        to: 'nothing' | 'agreed' | 'event' | 'record' | 'both' | 'left' | 'conflict';
        forEvent: Value;
        forRecord: Value;
        contested: boolean;
      };
      const work: Work[] = links
        .filter((l) => l.direction !== 'once')
        .map((link) => ({
          link,
          forEvent: shown.values[link.key] ?? null,
          forRecord: event.values[link.property] ?? null,
          contested: false,
          ...decide(link),
        }));

      /** What the event says in so many words fills an empty field, also where it is what saying nothing means. */
      function fills({ property, field }: Link): boolean {
        return (
          ['status', 'busy', 'visibility'].includes(property) && !event.silent.has(property) && field !== null && isEmpty(before[field] as Value)
        );
      }
      function agrees(link: Link): boolean {
        const [r, e] = [shown.values[link.key] ?? null, event.values[link.property] ?? null];
        if (goesToEvent(link) && same(r, e)) return true;
        if (!goesToRecord(link)) return false;
        try {
          return Object.keys(link.take(before, e, fills(link))).length === 0;
        } catch (error) {
          if (error instanceof Unfit) return false;
          throw error;
        }
      }
      function decide(link: Link): Partial<Work> & { to: Work['to'] } {
        const [r, e] = [shown.values[link.key] ?? null, event.values[link.property] ?? null];
        const [there, here] = [toEvent(link), toRecord(link)];
        const set = isSet(link.property);
        if (base === null || !(link.key in base.record)) {
          if (agrees(link)) return { to: 'agreed' };
          if (!there && !here) return { to: 'left' };
          if (set) {
            const all = union(e, r);
            if (!here) return { to: 'event', forEvent: all };
            return there ? { to: 'both', forEvent: all, forRecord: all } : { to: 'record', forRecord: union(r, e) };
          }
          if (!here || (there && (isEmpty(e) || event.silent.has(link.property)))) return { to: 'event' };
          if (!there || isEmpty(r)) return { to: 'record' };
          return { to: 'conflict' };
        }
        const [rb, eb] = [base.record[link.key] ?? null, base.event[link.key] ?? null];
        const [moved, altered] = [!same(r, rb), !same(e, eb)];
        if (!moved && !altered) return { to: 'nothing' };
        const overThere = { to: 'event' as const, forEvent: set ? changedBy(eb, rb, r) : r };
        if (moved && !altered && there && !same(r, e)) return overThere;
        if (agrees(link)) return { to: 'agreed' };
        if (!there && !here) return { to: 'left' };
        if (moved && altered) {
          if (there && here) return set ? { to: 'both', forEvent: changedBy(e, rb, r), forRecord: changedBy(r, eb, e) } : { to: 'conflict' };
          return { to: there ? 'event' : 'record' };
        }
        if (moved) return there ? overThere : lane.foreignEdits === 'leave' ? { to: 'left' } : { to: 'record' };
        if (here) return { to: 'record', forRecord: set ? changedBy(r, eb, e) : e };
        return lane.foreignEdits === 'leave' ? { to: 'left' } : { to: 'event', forEvent: set ? eb : r };
      }

      // Conflicts: by the property's rule, or the lane's; what stays open is one question.
      const open = work.filter((w) => {
        if (w.to !== 'conflict') return false;
        const winner = winnerOf(w.link.property);
        if (winner === null) return true;
        w.contested = true;
        w.to = winner;
        return false;
      });
      const about = JSON.stringify(open.map((w) => [w.link.key, w.forEvent, w.forRecord]));
      const choice = open.length === 0 ? null : answered(pair, 'conflict', about);
      if (choice !== null)
        for (const w of open) {
          w.contested = true;
          w.to = choice === 'records win' ? 'event' : 'record';
        }
      function winnerOf(property: string): 'event' | 'record' | null {
        const rule = lane.conflicts.fields[property as 'title'] ?? lane.conflicts.rule;
        if (rule === 'records win') return 'event';
        if (rule === 'calendar wins') return 'record';
        if (rule === 'hold') return null;
        const [mine, theirs] = [records.get(pair.record!)!.modified, event.modified];
        if (theirs === null || mine === base?.stamps.record || theirs === base?.stamps.event) return null;
        return Math.abs(mine - theirs) <= lane.conflicts.tolerance ? null : mine > theirs ? 'event' : 'record';
      }

      for (const w of work.filter((w) => w.to === 'record' || w.to === 'both')) {
        try {
          record = { ...record, ...w.link.take(record, w.forRecord, fills(w.link)) };
          settled.push(w.link.key);
        } catch (error) {
          if (!(error instanceof Unfit)) throw error;
          w.to = 'left';
          if (open.includes(w)) failed = true;
          else unfit = true;
        }
      }
      const touched = !same(record as Values, before as Values);
      for (const w of work) {
        const { link } = w;
        if (shown.unfit.includes(link) && w.to !== 'record') {
          unfit = true;
          continue;
        }
        // Whatever else shows the fields that have just changed follows at once.
        if (touched && ['nothing', 'agreed', 'event'].includes(w.to) && toEvent(link)) {
          try {
            const now = link.show(record);
            if (!same(now, shown.values[link.key])) {
              w.to = 'event';
              w.forEvent = now;
            }
          } catch (error) {
            if (!(error instanceof Unfit)) throw error;
            unfit = true;
            continue;
          }
        }
        if (w.to === 'agreed') settled.push(link.key);
        if (w.to !== 'event' && w.to !== 'both') continue;
        settled.push(link.key);
        values[link.property] = w.contested || base === null || !toRecord(link) ? w.forEvent : kept(link, w.forEvent);
      }
      /** What people altered on the event, and the record cannot hold, stays. */
      function kept(link: Link, given: Value): Value {
        if (link.key !== 'when' || base === null || !('when' in base.record)) return given;
        try {
          const then = { ...record, ...link.take(record, base.record['when']!) };
          if (Object.keys(link.take(then, base.event['when']!)).length > 0) return given;
        } catch (error) {
          if (error instanceof Unfit) return given;
          throw error;
        }
        return given === null || base.record['when'] === null
          ? given
          : carryWhen(given as When, base.record['when'] as When, event.values['when'] as When);
      }
      const wrote = touched || !same(values, end.events.get(pair.event!)!);
      if (wrote) end.rewrites++;
      end.records.set(pair.record!, record);
      end.events.set(pair.event!, values);
      say(key, unfit ? 'unfit value' : null);
      const moment = lane.moments.find((x) => x.name === pair.moment)!;
      // Moved out of the window just now, that may be said at once or at the next look.
      if (judgeRecord(pair.record, record, moment, links) === 'out of the window') end.maybe.set(key, 'out of the window');
      const asks = open.length > 0 && (choice === null || failed);
      const looseEnd = asks || unfit || work.some((w) => w.to === 'left');
      pair.seen = settled.length > 0 || (pair.state === 'held' && !asks) || !looseEnd;
      if (asks) hold(pair, 'conflict', about);
      else settle(pair, 'in sync');
      agree(pair, links, settled, base, event.values);
    }

    /** The baseline moves for what both sides agree on now. */
    function agree(pair: ModelPair, links: Link[], settled: string[], before: ModelPair['base'], was?: Values) {
      const record = end.records.get(pair.record!)!;
      const event = end.events.get(pair.event!)!;
      const shown = showAll(links, record).values;
      const base = { record: { ...before?.record }, event: { ...before?.event }, stamps: before?.stamps ?? { record: null, event: null } };
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

    function judgeRecord(id: string | null, fields: Fields, moment: Moment, links: Link[]): string | null {
      if (lane.direction === '<-') return null;
      const when = moment.when as Record<string, string>;
      const dated = when['start'] ?? when['date'] ?? when['first'] ?? when['day'] ?? when['due'];
      if (moment.direction !== '<-' && moment.direction !== 'once' && isEmpty(fields[dated!] as Value)) return 'no date';
      for (const filter of [lane.filter, moment.filter ?? null]) if (filter !== null && !holds(filter, fields, now)) return 'filtered out';
      if (lane.private?.treat === 'leave out' && fields[lane.private.field] === true) return 'private';
      const created = id === null ? null : (records.get(id)?.created ?? null);
      if (lane.startLine !== null && (created === null || created < startOf(lane.startLine))) return 'before the start line';
      const shown = showAll(links, fields);
      if (shown.unfit.some((l) => l.key === 'when')) return 'unfit value';
      return judgeWindow((shown.values['when'] ?? null) as When | null);
    }

    function judgeEvent(event: EventSeen, paired: boolean): string | null {
      if (!paired && lane.events.otherLanes === 'leave out' && event.marked !== null && event.marked !== OWN) return 'made by another lane';
      const when = event.values['when'] as When;
      const item: Fields = {
        ...event.values,
        start: isDays(when) ? londonInstant(when.first, '00:00') : when.from,
        'all-day': isDays(when),
        repeating: event.repeats,
        private: event.values['visibility'] !== 'public',
      };
      if (lane.events.filter !== null && !holds(lane.events.filter, item, now)) return 'filtered out';
      const carried = [lane.fields.visibility, ...lane.moments.map((m) => m.fields?.visibility)].some((m) => m !== undefined);
      if (lane.events.private === 'leave out' && !carried && event.values['visibility'] !== 'public') return 'private';
      if (paired) return null;
      if (lane.events.repeating === 'leave out' && event.repeats) return 'repeating';
      if (lane.startLine !== null && (event.created ?? 0) < startOf(lane.startLine)) return 'before the start line';
      if (event.values['status'] === 'cancelled') return 'filtered out';
      return judgeWindow(when);
    }

    function judgeWindow(when: When | null): string | null {
      if (lane.window === null || when === null) return null;
      const today = londonDay(now);
      const from = londonInstant(addDays(today, -lane.window.behind), '00:00');
      const until = londonInstant(addDays(today, lane.window.ahead + 1), '00:00');
      const span = isDays(when) ? { from: londonInstant(when.first, '00:00'), until: londonInstant(when.end, '00:00') } : when;
      return Math.max(span.until, span.from + 1) <= from || span.from >= until ? 'out of the window' : null;
    }

    function toEvent(l: Link): boolean {
      return goesToEvent(l) && lane.may.calendar.change;
    }
    function toRecord(l: Link): boolean {
      return goesToRecord(l) && lane.may.records.change;
    }
    function fillsEvent(l: Link): boolean {
      return goesToEvent(l) || (l.direction === 'once' && !l.key.includes('>'));
    }
  }
}

function showAll(links: Link[], fields: Fields): { values: Values; unfit: Link[] } {
  const found: { values: Values; unfit: Link[] } = { values: {}, unfit: [] };
  for (const link of links) {
    try {
      found.values[link.key] = link.show(fields);
    } catch (error) {
      if (!(error instanceof Unfit)) throw error;
      found.values[link.key] = null;
      if (goesToEvent(link) || link.direction === 'once') found.unfit.push(link);
    }
  }
  return found;
}

function goesToEvent(l: Link): boolean {
  return l.direction === '->' || l.direction === '<->';
}

function goesToRecord(l: Link): boolean {
  return l.direction === '<-' || l.direction === '<->';
}

/** What items are matched by when they are first paired. */
function matchKey(lane: LaneDefinition, values: Values): string | null {
  const parts = lane.matching.map((name) => {
    const value = values[name] ?? null;
    if (name !== 'when' || value === null) return Array.isArray(value) ? value : typeof value === 'string' ? value.trim().toLowerCase() : value;
    return isDays(value as When) ? (value as { first: string }).first : (value as { from: number }).from;
  });
  return parts.length === 0 || parts.some((p) => isEmpty(p)) ? null : JSON.stringify(parts);
}

export const OWN = '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11';
const startOf = (line: string): number => (line.length === 10 ? londonInstant(line, '00:00') : Date.parse(line) / 1000);

/** An event of which nothing is said. */
const bare: Values = {
  title: null,
  description: null,
  location: null,
  when: null,
  status: 'confirmed',
  busy: 'busy',
  visibility: 'public',
  categories: null,
  link: null,
  attendees: null,
  reminders: null,
};
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

const setOf = (v: Value | undefined): (string | number)[] => (Array.isArray(v) ? v : []);
const ordered = (all: (string | number)[]): Value => {
  const once = [...new Set(all)].sort((a, b) => (a < b ? -1 : 1));
  return once.length === 0 ? null : (once as string[]);
};
const union = (a: Value, b: Value): Value => ordered([...setOf(a), ...setOf(b)]);
/** A set with what came and went between two others. */
const changedBy = (target: Value, before: Value, after: Value): Value => {
  const [had, has] = [new Set(setOf(before)), new Set(setOf(after))];
  return ordered([...setOf(target).filter((e) => has.has(e) || !had.has(e)), ...[...has].filter((e) => !had.has(e))]);
};
