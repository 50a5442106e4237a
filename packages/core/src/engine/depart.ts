import type { Departure } from '../lane/definition.ts';
import { goesToEvent, goesToRecord, type Link } from '../lane/links.ts';
import { type EventValues, meaningOf, sameProperty } from '../maps/properties.ts';
import type { FieldValues } from '../record/fields.ts';
import { mappedPart } from './baseline.ts';
import type { Change } from './change.ts';
import { linkContext } from './context.ts';
import { askedAbout, type Hold, type HoldQuestion, holdChoices } from './holds.ts';
import { judgeEvent, judgeRecord, labelOf, type Shown, showAll, type Verdict } from './judge.ts';
import { makeEvent } from './make.ts';
import { makeRecord, type Outcome, type ReadEvent } from './make-record.ts';
import { isReshown, type MomentInput } from './moment-input.ts';

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
export function isEdited(input: MomentInput, pair: Pair, side: { shown: Shown } | 'event'): boolean {
  const { baseline } = pair;
  const { item } = input.record;
  if (baseline === null || (side !== 'event' && item !== null && isReshown(input.context, pair, item))) return false;
  const { may } = input.context.definition;
  const context = linkContext(input.context);
  return input.links.some((link) => {
    if (!(link.key in baseline.record)) return false;
    if (side === 'event') {
      const now = input.event?.read?.values[link.property] ?? null;
      return goesToRecord(link) && may.records.change && !sameProperty(link.property, now, baseline.event[link.key], input.context.zones);
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
export const bothGone = (input: MomentInput, pair: Pair, cause: string): Operation =>
  operation('part', { ...pair, state: step(pair.state, 'removed'), href: null, etag: null, baseline: null }, cause, {
    record: input.record.item,
    event: null,
  });

/** The record is gone, and its event may still be there. */
export function gone(input: MomentInput, pair: Pair): Outcome {
  const edited = isEdited(input, pair, 'event');
  return depart(input, pair, 'recordDeleted', 'the record was deleted', null, null, edited);
}

/**
 * What the lane's rule, or a person's answer to the hold, makes of an item that has left.
 * @param edited the side that is still there was edited since the last agreement
 */
export function depart(
  input: MomentInput,
  pair: Pair,
  departure: Departure,
  cause: string,
  shown: Shown | null,
  verdict: Verdict | null,
  edited = false,
): Outcome {
  const rules = input.context.definition.departures;
  if (edited) {
    // Only mapped values matter to the question, and of them what they mean: a guest's reply is no other guest.
    const read = input.event?.read?.values;
    const said = (l: Link) => meaningOf(l.property, shown === null ? read?.[l.property] : shown.values[l.key], input.context.zones);
    const edits = shown === null && read === undefined ? null : Object.fromEntries(input.links.map((l) => [l.key, said(l)]));
    const asked = askedAbout('edited and deleted', departure, edits);
    const told = `${cause}, and the other side was edited since`;
    const answered = answerTo(input, 'edited and deleted', asked);
    const answer = answered ?? (rules.editedAndDeleted === 'hold' ? null : rules.editedAndDeleted);
    if (answer === null) return ask(input, pair, 'editedAndDeleted', asked, told, shown, verdict);
    const means = `${told}; ${answer}`;
    const rule = rules[departure];
    const choice = answer === 'edit wins' ? 'make again' : rule === 'hold' ? removalFor(input, departure) : rule;
    const outcome = carry(input, pair, departure, choice, means, shown, verdict);
    return answered === null || outcome.operation !== null
      ? outcome
      : ask(input, pair, 'editedAndDeleted', asked, impossible(told, answered, outcome), shown, verdict);
  }
  const question = questions[departure];
  const asked = askedAbout(question);
  const answer = answerTo(input, question, asked);
  const rule = rules[departure];
  if (answer === null && rule === 'hold') return ask(input, pair, departure, asked, cause, shown, verdict);
  const outcome = carry(input, pair, departure, answer ?? rule, answer === null ? cause : `${cause}; settled by a person: ${answer}`, shown, verdict);
  return answer === null || outcome.operation !== null
    ? outcome
    : ask(input, pair, departure, asked, impossible(cause, answer, outcome), shown, verdict);
}

/** An answer that cannot be carried out leaves the question open, and says so. */
const impossible = (cause: string, answer: string, { verdict }: Outcome): string =>
  `${cause}; "${answer}" cannot be carried out: ${verdict?.condition ?? 'there is nothing to do it with'}`;

/** A person's answer counts for the question it was given to, about the values it was given about. */
function answerTo(input: MomentInput, question: HoldQuestion, asked: string): string | null {
  const { hold } = input;
  if (hold === undefined || hold.question !== question || hold.asked !== asked || hold.choice === null) return null;
  return hold.choice;
}

const removalFor = (input: MomentInput, departure: Departure): string => {
  const { may } = input.context.definition;
  const record = departure === 'eventDeleted';
  return (record ? may.records.remove && input.context.collection.may.remove : may.calendar.remove) ? (record ? 'delete record' : 'remove') : 'part';
};

/** The answers that this lane could carry out. */
function choicesOf(input: MomentInput, departure: Departure): string[] {
  const { definition, collection } = input.context;
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

function ask(
  input: MomentInput,
  pair: Pair,
  departure: Departure,
  asked: string,
  cause: string,
  shown: Shown | null,
  verdict: Verdict | null,
): Outcome {
  const question = questions[departure];
  if (pair.state === 'held' && input.hold?.question === question && input.hold.asked === asked && input.hold.choice === null)
    return { operation: null, verdict };
  const event = input.event?.read == null ? {} : mappedPart(input.event.read.values, pair.baseline?.event ?? {});
  const hold: Hold = {
    question,
    asked,
    choices: choicesOf(input, departure),
    cause,
    record: shown?.values ?? pair.baseline?.record ?? {},
    event,
    baseline: pair.baseline,
  };
  const held: Pair = { ...pair, state: step(pair.state, 'held') };
  return { operation: operation('hold', held, cause, { record: input.record.item, event: input.event }, { hold }), verdict };
}

function carry(
  input: MomentInput,
  pair: Pair,
  departure: Departure,
  choice: string,
  cause: string,
  shown: Shown | null,
  verdict: Verdict | null,
): Outcome {
  const sides = { record: input.record.item, event: input.event };
  const to = (state: PairState): Pair => ({ ...pair, state: step(pair.state, state) });
  const done = (o: Operation | null, still: Verdict | null = verdict): Outcome => ({ operation: o, verdict: still });
  const part = (why = cause): Outcome => done(operation('part', to('parted'), why, sides), verdict);
  switch (choice) {
    case 'remove':
      return done(operation('remove', to('removed'), cause, sides, { changes: lost(input, pair, cause) }));
    case 'mark cancelled':
      return done(operation('part', to('parted'), cause, sides, cancelling(input, cause)));
    case 'delete record':
      // What is said then is said of the event, which may stay without a record.
      return done(operation('remove record', to('removed'), cause, sides, { changes: lostFields(input, cause) }), staysWithout(input));
    case 'set fields':
      return setFields(input, pair, departure, cause);
    case 'make again':
      // A cancelled event is still there: it takes place again.
      if (input.event?.read != null && departure === 'eventDeleted')
        return input.context.definition.may.calendar.change
          ? done(operation('change', to('agreed'), cause, sides, revived(input, shown, cause)))
          : part();
      if (departure === 'recordDeleted') return makeAgain(input, pair, cause, part);
      if (departure === 'eventDeleted' && shown !== null)
        return input.context.definition.may.calendar.create ? makeEvent(input, pair, shown, labelOf(shown, pair.label), cause) : part();
      return part();
    case 'as deleted':
      return depart(input, pair, 'eventDeleted', cause, shown, verdict);
    default:
      // keep, part, leave
      return part();
  }
}

/** Why an event whose record was removed does not become a record again; null: it does. */
const staysWithout = ({ context, event }: MomentInput): Verdict | null =>
  event?.read == null || !context.definition.may.records.create ? null : judgeEvent(context, event as ReadEvent, false);

function makeAgain(input: MomentInput, pair: Pair, cause: string, part: () => Outcome): Outcome {
  const { context } = input;
  if (input.event?.read == null || !context.definition.may.records.create || !context.collection.may.create) return part();
  // An event that no longer belongs, because it became private for instance, becomes no record.
  if (judgeEvent(context, input.event as ReadEvent, true) !== null) return part();
  return makeRecord(context, input.moment, input.event as ReadEvent, { ...pair, recordId: null, version: null, baseline: null }, cause);
}

/** What an event that is taken away said, for the journal. */
function lost(input: MomentInput, pair: Pair, cause: string): Change[] {
  const values = input.event?.read?.values;
  if (values === undefined) return [];
  return Object.entries(mappedPart(values, pair.baseline?.event ?? {}))
    .filter(([, before]) => before !== null)
    .map(([property, before]) => ({ side: 'event', property, before: before ?? null, after: null, cause }));
}

const lostFields = (input: MomentInput, cause: string): Change[] =>
  Object.entries(input.record.item?.fields ?? {})
    .filter(([, before]) => before !== null && before !== '')
    .map(([property, before]) => ({ side: 'record', property, before, after: null, cause }));

function cancelling(input: MomentInput, cause: string): Partial<Operation> {
  const before = input.event?.read?.values.status ?? null;
  if (input.event?.read == null || before === 'cancelled') return {};
  return { eventEdits: { status: 'cancelled' }, changes: [{ side: 'event', property: 'status', before, after: 'cancelled', cause }] };
}

/** Un-cancels an event: its status is the record's, where the lane maps one. */
function revived(input: MomentInput, shown: Shown | null, cause: string): Partial<Operation> {
  const before = input.event?.read?.values.status ?? null;
  const status = (shown?.values['status'] ?? 'confirmed') as NonNullable<EventValues['status']>;
  return { eventEdits: { status }, changes: [{ side: 'event', property: 'status', before, after: status, cause }], loose: true };
}

/** The record gets the values that the lane gives for it; if it still belongs then, it is no longer followed. */
function setFields(input: MomentInput, pair: Pair, departure: Departure, cause: string): Outcome {
  const { context } = input;
  const item = input.record.item!;
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
  const verdict = judgeRecord(context, after, input.moment, showAll(input.links, after, context));
  const state = step(pair.state, verdict === null || input.event !== null ? 'parted' : 'removed');
  return { operation: operation('part', { ...pair, state }, cause, { record: item, event: input.event }, { recordEdits, changes }), verdict };
}
