import type { Departure } from '../lane/definition.ts';
import { goesToEvent, goesToRecord, type Link } from '../lane/links.ts';
import { type EventValues, meaningOf, sameProperty } from '../maps/properties.ts';
import type { FieldValues } from '../record/fields.ts';
import { mappedPart } from './baseline.ts';
import { type Case, isReshown } from './case.ts';
import type { Change } from './change.ts';
import { linkContext } from './context.ts';
import { askedAbout, type Hold, type HoldQuestion, holdChoices } from './holds.ts';
import { judgeEvent, judgeRecord, labelOf, type Shown, showAll, type Verdict } from './judge.ts';
import { makeEvent } from './make.ts';
import { makeRecord, type Outcome, type ReadEvent } from './make-record.ts';

import { type Operation, operation } from './operation.ts';
import { type Pair, type PairState, step } from './pair.ts';

const questions: Record<Departure, HoldQuestion> = {
  recordDeleted: 'record deleted',
  filteredOut: 'filtered out',
  dateLost: 'date lost',
  eventDeleted: 'event deleted',
  eventCancelled: 'event cancelled',
  eventFilteredOut: 'event filtered out',
  editedAndDeleted: 'edited and deleted',
};

/** Was one side edited since the last agreement, in a way that would cross? */
export function isEdited(at: Case, pair: Pair, side: { shown: Shown } | 'event'): boolean {
  const { baseline } = pair;
  const { item } = at.record;
  if (baseline === null || (side !== 'event' && item !== null && isReshown(at.context, pair, item))) return false;
  const { may } = at.context.definition;
  const context = linkContext(at.context);
  return at.links.some((link) => {
    if (!(link.key in baseline.record)) return false;
    if (side === 'event') {
      const now = at.event?.read?.values[link.property] ?? null;
      return goesToRecord(link) && may.records.change && !sameProperty(link.property, now, baseline.event[link.key], at.context.zones);
    }
    return goesToEvent(link) && may.calendar.change && !link.same(side.shown.values[link.key] ?? null, baseline.record[link.key] ?? null, context);
  });
}

/**
 * Was the event cancelled since the last agreement? That is a departure first, and a value of `status` second. It
 * is none where the record says the same.
 */
export function isCancelled(pair: Pair, status: EventValues['status'], shown: Shown): boolean {
  if (status !== 'cancelled' || shown.values['status'] === 'cancelled') return false;
  // An event of ours that was cancelled before its making was confirmed has no baseline yet.
  return pair.baseline === null ? pair.state === 'making' || pair.state === 'held' : pair.baseline.event['status'] !== 'cancelled';
}

/** Neither side is there any more: nothing is left to decide. */
export const bothGone = (at: Case, pair: Pair, cause: string): Operation =>
  operation('part', { ...pair, state: step(pair.state, 'removed'), href: null, etag: null, baseline: null }, cause, {
    record: at.record.item,
    event: null,
  });

/** The record is gone, and its event may still be there. */
export function gone(at: Case, pair: Pair): Outcome {
  const edited = isEdited(at, pair, 'event');
  return depart(at, pair, 'recordDeleted', 'the record was deleted', null, null, edited);
}

/**
 * What the lane's rule, or a person's answer to the hold, makes of an item that has left.
 * @param edited the side that is still there was edited since the last agreement
 */
export function depart(
  at: Case,
  pair: Pair,
  departure: Departure,
  cause: string,
  shown: Shown | null,
  verdict: Verdict | null,
  edited = false,
): Outcome {
  const rules = at.context.definition.departures;
  if (edited) {
    // Only mapped values matter to the question, and of them what they mean: a guest's reply is no other guest.
    const read = at.event?.read?.values;
    const said = (l: Link) => meaningOf(l.property, shown === null ? read?.[l.property] : shown.values[l.key], at.context.zones);
    const edits = shown === null && read === undefined ? null : Object.fromEntries(at.links.map((l) => [l.key, said(l)]));
    const asked = askedAbout('edited and deleted', departure, edits);
    const told = `${cause}, and the other side was edited since`;
    const answered = answerTo(at, 'edited and deleted', asked);
    const answer = answered ?? (rules.editedAndDeleted === 'hold' ? null : rules.editedAndDeleted);
    if (answer === null) return ask(at, pair, 'editedAndDeleted', asked, told, shown, verdict);
    const means = `${told}; ${answer}`;
    const rule = rules[departure];
    const choice = answer === 'edit wins' ? 'make again' : rule === 'hold' ? removalFor(at, departure) : rule;
    const outcome = carry(at, pair, departure, choice, means, shown, verdict);
    return answered === null || outcome.operation !== null
      ? outcome
      : ask(at, pair, 'editedAndDeleted', asked, impossible(told, answered, outcome), shown, verdict);
  }
  const question = questions[departure];
  const asked = askedAbout(question);
  const answer = answerTo(at, question, asked);
  const rule = rules[departure];
  if (answer === null && rule === 'hold') return ask(at, pair, departure, asked, cause, shown, verdict);
  const outcome = carry(at, pair, departure, answer ?? rule, answer === null ? cause : `${cause}; settled by a person: ${answer}`, shown, verdict);
  return answer === null || outcome.operation !== null
    ? outcome
    : ask(at, pair, departure, asked, impossible(cause, answer, outcome), shown, verdict);
}

/** An answer that cannot be carried out leaves the question open, and says so. */
const impossible = (cause: string, answer: string, { verdict }: Outcome): string =>
  `${cause}; "${answer}" cannot be carried out: ${verdict?.condition ?? 'there is nothing to do it with'}`;

/** A person's answer counts for the question it was given to, about the values it was given about. */
function answerTo(at: Case, question: HoldQuestion, asked: string): string | null {
  const { hold } = at;
  if (hold === undefined || hold.question !== question || hold.asked !== asked || hold.choice === null) return null;
  return hold.choice;
}

const removalFor = (at: Case, departure: Departure): string => {
  const { may } = at.context.definition;
  const record = departure === 'eventDeleted';
  return (record ? may.records.remove && at.context.collection.may.remove : may.calendar.remove) ? (record ? 'delete record' : 'remove') : 'part';
};

/** The answers that this lane could carry out. */
function choicesOf(at: Case, departure: Departure): string[] {
  const { definition, collection } = at.context;
  const { may } = definition;
  const possible: Record<string, boolean> = {
    remove: may.calendar.remove,
    'mark cancelled': may.calendar.change,
    'delete record': may.records.remove && collection.may.remove,
    'set fields': may.records.change && Object.keys(definition.sets[departure === 'eventCancelled' ? 'eventCancelled' : 'eventDeleted']).length > 0,
    'make again': departure === 'recordDeleted' ? may.records.create && collection.may.create : may.calendar.create,
  };
  return holdChoices[questions[departure]].filter((choice) => possible[choice] ?? true);
}

function ask(at: Case, pair: Pair, departure: Departure, asked: string, cause: string, shown: Shown | null, verdict: Verdict | null): Outcome {
  const question = questions[departure];
  if (pair.state === 'held' && at.hold?.question === question && at.hold.asked === asked && at.hold.choice === null)
    return { operation: null, verdict };
  const event = at.event?.read == null ? {} : mappedPart(at.event.read.values, pair.baseline?.event ?? {});
  const hold: Hold = {
    question,
    asked,
    choices: choicesOf(at, departure),
    cause,
    record: shown?.values ?? pair.baseline?.record ?? {},
    event,
    baseline: pair.baseline,
  };
  const held: Pair = { ...pair, state: step(pair.state, 'held') };
  return { operation: operation('hold', held, cause, { record: at.record.item, event: at.event }, { hold }), verdict };
}

function carry(at: Case, pair: Pair, departure: Departure, choice: string, cause: string, shown: Shown | null, verdict: Verdict | null): Outcome {
  const sides = { record: at.record.item, event: at.event };
  const to = (state: PairState): Pair => ({ ...pair, state: step(pair.state, state) });
  const done = (o: Operation | null, still: Verdict | null = verdict): Outcome => ({ operation: o, verdict: still });
  const part = (why = cause): Outcome => done(operation('part', to('parted'), why, sides), verdict);
  switch (choice) {
    case 'remove':
      return done(operation('remove', to('removed'), cause, sides, { changes: lost(at, pair, cause) }));
    case 'mark cancelled':
      return done(operation('part', to('parted'), cause, sides, cancelling(at, cause)));
    case 'delete record':
      // What is said then is said of the event, which may stay without a record.
      return done(operation('remove record', to('removed'), cause, sides, { changes: lostFields(at, cause) }), staysWithout(at));
    case 'set fields':
      return setFields(at, pair, departure, cause);
    case 'make again':
      // A cancelled event is still there: it takes place again.
      if (at.event?.read != null && departure === 'eventDeleted')
        return at.context.definition.may.calendar.change ? done(operation('change', to('agreed'), cause, sides, revived(at, shown, cause))) : part();
      if (departure === 'recordDeleted') return makeAgain(at, pair, cause, part);
      if (departure === 'eventDeleted' && shown !== null)
        return at.context.definition.may.calendar.create ? makeEvent(at, pair, shown, labelOf(shown, pair.label), cause) : part();
      return part();
    case 'as deleted':
      return depart(at, pair, 'eventDeleted', cause, shown, verdict);
    default:
      // keep, part, leave
      return part();
  }
}

/** Why an event whose record was removed does not become a record again; null: it does. */
const staysWithout = ({ context, event }: Case): Verdict | null =>
  event?.read == null || !context.definition.may.records.create ? null : judgeEvent(context, event as ReadEvent, false);

function makeAgain(at: Case, pair: Pair, cause: string, part: () => Outcome): Outcome {
  const { context } = at;
  if (at.event?.read == null || !context.definition.may.records.create || !context.collection.may.create) return part();
  // An event that no longer belongs, because it became private for instance, becomes no record.
  if (judgeEvent(context, at.event as ReadEvent, true) !== null) return part();
  return makeRecord(context, at.moment, at.event as ReadEvent, { ...pair, recordId: null, version: null, baseline: null }, cause);
}

/** What an event that is taken away said, for the journal. */
function lost(at: Case, pair: Pair, cause: string): Change[] {
  const values = at.event?.read?.values;
  if (values === undefined) return [];
  return Object.entries(mappedPart(values, pair.baseline?.event ?? {}))
    .filter(([, before]) => before !== null)
    .map(([property, before]) => ({ side: 'event', property, before: before ?? null, after: null, cause }));
}

const lostFields = (at: Case, cause: string): Change[] =>
  Object.entries(at.record.item?.fields ?? {})
    .filter(([, before]) => before !== null && before !== '')
    .map(([property, before]) => ({ side: 'record', property, before, after: null, cause }));

function cancelling(at: Case, cause: string): Partial<Operation> {
  const before = at.event?.read?.values.status ?? null;
  if (at.event?.read == null || before === 'cancelled') return {};
  return { eventEdits: { status: 'cancelled' }, changes: [{ side: 'event', property: 'status', before, after: 'cancelled', cause }] };
}

/** Un-cancels an event: its status is the record's, where the lane maps one. */
function revived(at: Case, shown: Shown | null, cause: string): Partial<Operation> {
  const before = at.event?.read?.values.status ?? null;
  const status = (shown?.values['status'] ?? 'confirmed') as NonNullable<EventValues['status']>;
  return { eventEdits: { status }, changes: [{ side: 'event', property: 'status', before, after: status, cause }], loose: true };
}

/** The record gets the values that the lane gives for it; if it still belongs then, it is no longer followed. */
function setFields(at: Case, pair: Pair, departure: Departure, cause: string): Outcome {
  const { context } = at;
  const item = at.record.item!;
  const wanted = context.definition.sets[departure === 'eventCancelled' ? 'eventCancelled' : 'eventDeleted'] as FieldValues;
  const recordEdits = Object.fromEntries(Object.entries(wanted).filter(([name, value]) => (item.fields[name] ?? null) !== value));
  const changes: Change[] = Object.entries(recordEdits).map(([property, after]) => ({
    side: 'record',
    property,
    before: item.fields[property] ?? null,
    after,
    cause,
  }));
  const after = { ...item, fields: { ...item.fields, ...recordEdits } };
  const verdict = judgeRecord(context, after, at.moment, showAll(at.links, after, context));
  const state = step(pair.state, verdict === null || at.event !== null ? 'parted' : 'removed');
  return { operation: operation('part', { ...pair, state }, cause, { record: item, event: at.event }, { recordEdits, changes }), verdict };
}
