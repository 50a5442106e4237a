import { certain } from '../certain.ts';
import type { RecordItem } from '../record/fields.ts';
import type { When } from '../time/when.ts';
import type { ReadEvent } from './context.ts';
import { type Decision, decide, type EventFact, type PairFact, type RecordFact } from './decide.ts';
import { bothGone, depart, isCancelled, isEdited } from './depart.ts';
import {
  judgeEvent,
  judgeMark,
  judgeRecord,
  judgeWindow,
  labelOf,
  labelOfLeftOut,
  noLongerFollowed,
  type Shown,
  showAll,
  type Verdict,
} from './judge.ts';
import { mergePair } from './merge-pair.ts';
import type { MomentInput, PairedInput, Planned } from './moment-input.ts';
import { operation } from './operation.ts';
import { type Pair, step } from './pair.ts';
import { planUnpaired } from './plan-unpaired.ts';

/** What is planned for one moment of one record: the facts, the decision, and how it is carried out. */
export function planMoment(given: MomentInput): Planned {
  const input = atItsPlace(given);
  const { pair, record, hold } = input;
  // A person's answer comes before every rule.
  if (pair !== undefined && hold?.question === 'keeps changing' && hold.choice === 'unlink') {
    const cause = 'settled by a person: unlink';
    return { operation: operation('unlink', unlinked(pair), cause, { record: record.item, event: input.event }), verdict: null, label: pair.label };
  }
  const facts = factsOf(input);
  const carried = carryOut[decide(facts)](input as PairedInput, facts);
  // Where nothing else is to be done about an event that was moved, its new address is remembered.
  const address = input.moved === true && carried.operation === null && pair !== undefined ? { refreshed: pair } : {};
  return { label: facts.label, when: facts.shown?.values.when as When | null | undefined, ...address, ...carried };
}

/** An event that is gone from its address, and whose UID stands at another one: its server or a client moved it, and nothing was deleted. */
function atItsPlace(input: MomentInput): MomentInput {
  const { pair, event, claims } = input;
  if (pair === undefined || pairFact(pair) !== 'followed' || pair.state === 'creating' || pair.href === null || event !== null) return input;
  const moved = claims.byUid(pair.uid);
  if (moved?.read == null) return input;
  claims.take(moved.href);
  return { ...input, pair: { ...pair, href: moved.href, etag: null }, event: moved, moved: true };
}

/** What is known of a moment; values that a fact does not need are not worked out. */
interface Facts {
  pair: PairFact;
  record: RecordFact;
  event: EventFact;
  label: string;
  /** what the record shows; null: it is gone, or not needed */
  shown: Shown | null;
  /** why the record does not belong, or why the event does not */
  verdict: Verdict | null;
}

const unlinked = (pair: Pair, label = pair.label): Pair => ({ ...pair, state: step(pair.state, 'unlinked'), label });

const pairFact = (pair: Pair | undefined): PairFact =>
  pair === undefined ? 'none' : pair.state === 'removed' ? 'removed' : pair.state === 'unlinked' ? 'unlinked' : 'followed';

const departures = { 'no date': 'dateLost', 'filtered out': 'filteredOut', private: 'filteredOut' } as const;
const departureOf = ({ reason }: Verdict) => departures[reason as keyof typeof departures] as 'dateLost' | 'filteredOut' | undefined;

function factsOf(input: MomentInput): Facts {
  const { context, record, moment } = input;
  const pair = pairFact(input.pair);
  const nothing = { shown: null, verdict: null };
  if (pair === 'unlinked' || record.item === null)
    return {
      ...nothing,
      pair,
      record: record.item === null ? 'gone' : 'there',
      event: hasNoEvent(input, 'recordDeleted') ? 'gone' : 'there',
      label: input.pair?.label ?? record.id,
    };
  const shown = showAll(input.links, record.item, context);
  const label = labelOf(shown, record.item.id);
  const verdict = judgeRecord(context, record.item, moment, shown);
  if (verdict !== null && !(pair === 'followed' && stays(input, verdict))) {
    const departure = departureOf(verdict);
    if (departure !== undefined && pair === 'followed')
      return { ...nothing, pair, record: 'left the lane', event: hasNoEvent(input, departure) ? 'gone' : 'there', label, shown, verdict };
    return { ...nothing, pair, record: 'left out', event: 'there', label: labelOfLeftOut(verdict, label, record.item.id), shown, verdict };
  }
  return { pair, record: 'there', label, shown, ...eventFact(input, shown) };
}

function eventFact(input: MomentInput, shown: Shown): Pick<Facts, 'event' | 'verdict'> {
  const { context, pair, event } = input;
  const fact = (name: EventFact, verdict: Verdict | null = null) => ({ event: name, verdict });
  if (pair === undefined || pair.state === 'removed') return fact('never there');
  if (event === null) return fact(pair.state === 'creating' || pair.href === null ? 'never there' : 'gone');
  if (event.read === null)
    return fact('unreadable', { reason: 'unreadable event', condition: 'the event can be read', value: event.unreadable ?? '', recheckAt: null });
  const marked = judgeMark(context, event.read, pair.baseline);
  if (marked !== null) return fact('of another lane', marked);
  if (isCancelled(pair, event.read.values.status, shown)) return fact('cancelled');
  const out = context.definition.direction === '->' ? null : judgeEvent(context, event as ReadEvent, true);
  return out === null ? fact('there') : fact('left the lane', out);
}

/**
 * A pair goes on while either side stands in the window: an item that a person moves out of it takes its other side
 * along, where leaving it would show a time that is wrong. The start line is for new items alone.
 */
function stays(input: MomentInput, verdict: Verdict): boolean {
  if (verdict.reason === 'before the start line') return true;
  if (verdict.reason !== 'out of the window' || input.event?.read == null) return false;
  const { when, recurrence } = input.event.read.values;
  return judgeWindow(input.context, when, recurrence) === null;
}

/**
 * Is there no event that anything could be decided about? One whose creation was never confirmed may stand under another
 * name: where the rule is to remove it, the removal looks for it.
 */
const hasNoEvent = ({ event, pair, context }: MomentInput, departure: 'recordDeleted' | 'filteredOut' | 'dateLost'): boolean =>
  event === null && (pair?.state !== 'creating' || context.definition.departures[departure] !== 'remove');

const found = ({ reason, condition, value }: Verdict): string => `${reason}: ${condition}, found ${value}`;

type Carried = Omit<Planned, 'label'> & { label?: string };
type Carry = (input: PairedInput, facts: Facts) => Carried;

/** How each decision is carried out. Those about a pair are only made where there is one: the table sees to it. */
const carryOut: Record<Decision, Carry> = {
  nothing: ({ record }, { pair }) => ({ operation: null, verdict: pair === 'unlinked' && record.item !== null ? noLongerFollowed : null }),
  'leave out': (_, { verdict }) => ({ operation: null, verdict }),
  'find or create': (input, { shown, label }) => planUnpaired(input, itemOf(input), sure(shown), label),
  merge: (input, { shown, label }) =>
    mergePair(input, {
      item: itemOf(input),
      shown: sure(shown),
      event: input.event as ReadEvent,
      kind: input.pair.state === 'creating' || input.moved === true ? 'adopt' : 'change',
      label,
    }),
  'say why it cannot be read': (_, { verdict }) => ({ operation: null, verdict }),
  'unlink for another lane': ({ pair, record, event }, { label, verdict }) => ({
    operation: operation('unlink', unlinked(pair, label), `another lane has written on it: ${sure(verdict).value}`, { record: record.item, event }),
    verdict,
  }),
  'let go of both': (input, { record, verdict }) => ({
    operation: bothGone(input, record === 'gone' ? 'gone on both sides' : 'it left the lane, and it has no event'),
    verdict,
  }),
  'depart: record deleted': (input) =>
    depart(input, { departure: 'recordDeleted', cause: 'the record was deleted', shown: null, verdict: null }, isEdited(input, input.pair, 'event')),
  'depart: record left': (input, { shown, verdict }) =>
    depart(input, { departure: sure(departureOf(sure(verdict))), cause: found(sure(verdict)), shown, verdict }),
  'depart: event deleted': (input, { shown, verdict }) =>
    depart(
      input,
      { departure: 'eventDeleted', cause: 'the event was deleted on the calendar', shown, verdict },
      isEdited(input, input.pair, { shown: sure(shown) }),
    ),
  'depart: event cancelled': (input, { shown, verdict }) =>
    depart(input, { departure: 'eventCancelled', cause: 'the event was cancelled on the calendar', shown, verdict }),
  'depart: event left': (input, { shown, verdict }) => depart(input, { departure: 'eventFilteredOut', cause: found(sure(verdict)), shown, verdict }),
};

const itemOf = ({ record }: MomentInput): RecordItem => sure(record.item);
const sure = <T>(fact: T): NonNullable<T> => certain(fact, 'the decision follows from it');
