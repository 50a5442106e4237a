import type { LaneDefinition } from '@monsoon/core';
import { OWN } from './judge.ts';
import { followed, goesToEvent, goesToRecord, type Link, showAll } from './links.ts';
import { carryWhen, type Fields, isSet, Unfit } from './maps.ts';
import { type EventSeen, isEmpty, same, type Value, type Values, type When } from './values.ts';

/** What both sides last agreed on, link by link, and when each was last edited then. */
export interface Base {
  record: Values;
  event: Values;
  stamps: { record: number | null; event: number | null };
  /** did the event repeat then? */
  repeats?: boolean | undefined;
  /** the lane as it was then, and what the record said in every field */
  lane?: LaneDefinition | undefined;
  fields?: Fields | undefined;
  /** of another lane that wrote on it */
  mark?: string | null | undefined;
}

interface Work {
  link: Link;
  to: 'nothing' | 'agreed' | 'event' | 'record' | 'both' | 'left' | 'conflict';
  forEvent: Value;
  forRecord: Value;
  contested: boolean;
  /** the lane shows the same record differently now */
  reshown?: boolean;
}

/** What a pair is after both sides were merged. */
export interface Merged {
  record: Fields;
  event: Values;
  /** links on which both sides agree now */
  settled: string[];
  /** what a person is asked, as a text that says what about; null: nothing */
  asks: string | null;
  /** something does not fit the other side */
  unfit: boolean;
  /** something differs from the baseline, and stays so */
  loose: boolean;
}

/**
 * Merges the two sides of a pair, link by link.
 * @param modified when the record was last edited, in seconds since 1970
 * @param unedited the lane was edited since the last agreement, and the record was not
 * @param answer what a person said to the question about these values
 */
export function merge(
  lane: LaneDefinition,
  links: Link[],
  before: Fields,
  modified: number,
  event: EventSeen,
  base: Base | null,
  unedited: boolean,
  answer: (about: string) => string | null,
): Merged {
  const shown = showAll(links, before);
  /** What another lane wrote on an event is that lane's to put back. */
  const shared = event.marked !== null && event.marked !== OWN;
  let record = before;
  const values: Values = { ...event.values };
  const settled: string[] = [];
  let unfit = false;
  /** a person's answer could not be carried out */
  let failed = false;
  const work: Work[] = followed(links).map((link) => ({
    link,
    forEvent: shown.values[link.key] ?? null,
    forRecord: event.values[link.property] ?? null,
    contested: false,
    ...decide(link),
  }));

  /** What the event says in so many words fills an empty field, also where it is what saying nothing means. */
  function fills({ property, field }: Link): boolean {
    return ['status', 'busy', 'visibility'].includes(property) && !event.silent.has(property) && field !== null && isEmpty(before[field] as Value);
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
    const leave = lane.foreignEdits === 'leave' || (shared && goesToEvent(link));
    const [r, e] = [shown.values[link.key] ?? null, event.values[link.property] ?? null];
    const [there, here] = [link.toEvent, link.toRecord];
    const set = isSet(link.property);
    const reshown = unedited && base !== null && link.key in base.record && !same(r, base.record[link.key]);
    if (base === null || !(link.key in base.record) || (reshown && !there)) {
      if (agrees(link)) return { to: 'agreed' };
      if (!there && !here) return { to: 'left' };
      if (set) {
        const all = union(e, r);
        if (!here) return { to: 'event', forEvent: all };
        return there ? { to: 'both', forEvent: all, forRecord: all } : { to: 'record', forRecord: union(r, e) };
      }
      if (!here || (there && (isEmpty(e) || event.silent.has(link.property)))) return { to: 'event' };
      // A field that is empty is filled, whatever its emptiness shows on the calendar.
      const unsaid = ['status', 'busy', 'visibility'].includes(link.property) && link.field !== null && isEmpty(before[link.field] as Value);
      if (!there || isEmpty(r) || unsaid) return { to: 'record' };
      return { to: 'conflict' };
    }
    return { ...compare(link, leave, reshown ? r : (base.record[link.key] ?? null), base.event[link.key] ?? null), reshown };
  }
  function compare(link: Link, leave: boolean, rb: Value, eb: Value): Partial<Work> & { to: Work['to'] } {
    const [r, e] = [shown.values[link.key] ?? null, event.values[link.property] ?? null];
    const [there, here] = [link.toEvent, link.toRecord];
    const set = isSet(link.property);
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
    if (moved) return there ? overThere : leave ? { to: 'left' } : { to: 'record' };
    if (here) return { to: 'record', forRecord: set ? changedBy(r, eb, e) : e };
    return leave ? { to: 'left' } : { to: 'event', forEvent: set ? eb : r };
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
  const choice = open.length === 0 ? null : answer(about);
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
    const [mine, theirs] = [modified, event.modified];
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
    if (touched && ['nothing', 'agreed', 'event'].includes(w.to) && link.toEvent) {
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
    // The event is to say what the lane shows now, of the record as it is once an edit of the event was taken.
    if (w.reshown && link.toEvent && w.to !== 'left' && w.to !== 'conflict') {
      w.contested = w.to !== 'nothing' && w.to !== 'agreed';
      try {
        w.forEvent = link.show(record);
        w.to = 'event';
      } catch (error) {
        if (!(error instanceof Unfit)) throw error;
        unfit = true;
        w.to = 'left';
      }
    }
    if (w.to === 'agreed') settled.push(link.key);
    if (w.to !== 'event' && w.to !== 'both') continue;
    settled.push(link.key);
    values[link.property] = w.contested || base === null || !link.toRecord ? w.forEvent : kept(link, w.forEvent);
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
  const asks = open.length > 0 && (choice === null || failed);
  return { record, event: values, settled, asks: asks ? about : null, unfit, loose: asks || unfit || work.some((w) => w.to === 'left') };
}

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
