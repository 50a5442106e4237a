import type { ItemDetail } from '@monsoon/contract';
import { type LaneDefinition, REPEATING_RECORD, type Verdict, WHOLE_SERIES } from '@monsoon/core';

interface Facts {
  /** a direct read says that the record is not there */
  recordGone: boolean;
  /** the lane has a pair or a verdict for it */
  known: boolean;
  lane: LaneDefinition;
  /** what the lane would say of the record, or of an event without one, now; null: it belongs */
  verdict: Verdict | null;
  /** neither the record nor the event could be judged */
  unjudged: boolean;
}

const atTime = (iso: string) => `${iso.slice(0, 10)} ${iso.slice(11, 19)} UTC`;

/** Why an item is as it is, and what to do next, in words a person can act on. */
export function explain(item: Omit<ItemDetail, 'why' | 'next'>, facts: Facts): { why: string; next: string } {
  const { verdict, history, hold, state } = item;
  const last = history[0];
  const lately = last === undefined ? '' : ` Last: ${last.kind} at ${atTime(last.at)} (${last.cause}).`;
  if (hold !== null) return { why: `It is held: ${hold.cause}.`, next: `Decide: ${hold.choices.join(' or ')}.` };
  if (verdict !== null) {
    const at = verdict.recheckAt === null ? '' : ` It is looked at again by itself at ${atTime(verdict.recheckAt)}.`;
    return {
      why: `${says[verdict.reason as Verdict['reason']](verdict.condition, verdict.value)}${lately}`,
      next: `${advice[verdict.reason as Verdict['reason']]}${at}`,
    };
  }
  if (facts.recordGone && history.length > 0) return { why: `The record was deleted.${lately}`, next: 'Nothing is left to do.' };
  if (!facts.known && !facts.unjudged) {
    const found = facts.verdict;
    if (found === null && !mayCross(item, facts.lane))
      return item.recordId === null
        ? { why: 'The lane makes no records of events, and no record stands for this one.', next: 'Nothing, or let the lane make records.' }
        : { why: says['not made here']('', ''), next: advice['not made here'] };
    if (found === null) return { why: 'The lane has not seen it yet; it would belong.', next: 'Run the lane, or wait for its next check.' };
    return { why: says[found.reason](found.condition, found.value), next: advice[found.reason] };
  }
  const side = item.recordId === null ? 'record' : 'event';
  if (state === 'creating')
    return { why: `Its ${side} is being created, or its creation was interrupted.`, next: 'The next run finds out and finishes it.' };
  if (state === 'unconfirmed')
    return {
      why: 'Its record was asked for, and it is not known yet whether it was made.',
      next: 'The next run looks among the newly made records.',
    };
  if (!facts.known && last !== undefined)
    return { why: `It no longer has an event.${lately}`, next: 'Nothing; it is followed again if the record comes back into the lane.' };
  return { why: `It is on both sides, and they stand as last agreed.${lately}`, next: 'Nothing.' };
}

/** May the lane make the other side of it? */
const mayCross = (item: { recordId: string | null }, { may }: LaneDefinition): boolean =>
  item.recordId === null ? may.records.create : may.calendar.create;

const says: Record<Verdict['reason'], (condition: string, value: string) => string> = {
  'no date': (condition) => `No date, so nothing to put on the calendar (${condition}).`,
  'filtered out': (condition, value) => `It does not pass the filter: ${condition}; found ${value}.`,
  private: (condition, value) => `It is private, and the lane leaves private items out: ${condition}; found ${value}.`,
  'before the start line': (condition, value) => `It is older than the lane's start line: ${condition}; found ${value}.`,
  'out of the window': (condition, value) => `It lies outside the window: ${condition}; found ${value}.`,
  'unfit value': (condition, value) => `A value does not fit: ${condition} (found: ${value}).`,
  'several candidates': (condition, value) => `It is not clear which event is its own: ${condition}, and ${value}.`,
  'no longer followed': () => 'The lane unlinked it and no longer follows it.',
  'refused by the system': (condition, value) => `It failed: ${condition}, and ${value}.`,
  'unreadable event': (_condition, value) => `Its event cannot be read: ${value}.`,
  'unexpected error': (_condition, value) => `Monsoon failed at this item: ${value}.`,
  // Those of before a rule was kept say "yes".
  repeating: (condition, value) => {
    if (condition === REPEATING_RECORD) return `The task repeats (${value}), and which of its times is meant cannot be said.`;
    if (condition === WHOLE_SERIES) return `It is one occurrence of a series (${value}), and the lane takes a series as a whole.`;
    return `The event repeats${value === 'yes' ? '' : ` (${value})`}, and the lane leaves repeating events out.`;
  },
  'made by another lane': (_condition, value) => `Another lane made it: the event carries ${value}.`,
  'duplicate UID': (_condition, value) => `Two events of the calendar have the same UID: ${value}.`,
  'organised by another': (_condition, value) => `It differs, and stays so: ${value} organises the event, and it is theirs to change.`,
  'not made here': () => 'The lane makes no events, and no event on the calendar stands for this record.',
};

const advice: Record<Verdict['reason'], string> = {
  'no date': 'Give the record a start.',
  'filtered out': 'Change what the condition asks for, or the filter of the lane.',
  private: 'Nothing, unless it should not be private.',
  'before the start line': 'Nothing, unless the lane should take older ones.',
  'out of the window': 'Nothing, or widen the window of the lane.',
  'unfit value': 'Fix the value; the lane notices it by itself.',
  'several candidates': 'Remove or rename the events that are not meant, then run the lane.',
  'no longer followed': 'Nothing, or follow it again.',
  'refused by the system': 'Fix the cause and run this item again.',
  'unreadable event': 'Fix or remove the event on the calendar, then run this item again.',
  'unexpected error': 'This is a fault in Monsoon. Report it with this text; meanwhile the item is left as it is, and the others go on.',
  repeating: 'Nothing, or, for events, let the lane take repeating ones.',
  'made by another lane': 'Nothing, unless the lane should take in the events of other lanes.',
  'duplicate UID': 'Remove the copy on the calendar, or make it an event with a UID of its own.',
  'organised by another': 'Ask the organizer, or change the record back.',
  'not made here': 'Nothing, or let the lane make events.',
};
