import { otherOrganizer } from '../invitations/organizer.ts';
import type { Departure, Departures } from '../lane/definition.ts';
import { goesToEvent, goesToRecord, type Link } from '../lane/links.ts';
import { type Attendee, type EventValues, meaningOf } from '../maps/properties.ts';
import { mappedPart } from './baseline.ts';
import { carryDeparture, type DepartureAction, type Leaving } from './carry-departure.ts';
import { linkContext } from './context.ts';
import { askedAbout, type Hold, type HoldQuestion, holdChoices } from './holds.ts';
import type { Shown } from './judge.ts';
import type { Outcome } from './make-record.ts';
import { isReshown, type MomentInput, type PairedInput } from './moment-input.ts';

import { type Operation, operation } from './operation.ts';
import { type Pair, step } from './pair.ts';

const questions = {
  recordDeleted: 'record deleted',
  filteredOut: 'filtered out',
  dateLost: 'date lost',
  eventDeleted: 'event deleted',
  eventCancelled: 'event cancelled',
  eventFilteredOut: 'event filtered out',
  editedAndDeleted: 'edited and deleted',
} as const satisfies Record<Departure, HoldQuestion>;

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
      return goesToRecord(link) && may.records.change && !link.sameOnEvent(now, baseline.event[link.key], input.context);
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
  // An event of ours that was cancelled before its creation was confirmed has no baseline yet.
  return pair.baseline === null ? pair.state === 'creating' || pair.state === 'held' : pair.baseline.event['status'] !== 'cancelled';
}

/** Neither side is there any more: nothing is left to decide. */
export const bothGone = ({ pair, record }: PairedInput, cause: string): Operation =>
  operation('unlink', { ...pair, state: step(pair.state, 'removed'), href: null, etag: null, baseline: null }, cause, {
    record: record.item,
    event: null,
  });

/**
 * What the lane's rule, or a person's answer to the hold, makes of an item that has left.
 * @param edited the side that is still there was edited since the last agreement
 */
export function depart(input: PairedInput, given: Leaving, edited = false): Outcome {
  const rules = input.context.definition.departures;
  const { rule, leaving } = ruleFor(input, given);
  if (edited) {
    const about = { departure: 'editedAndDeleted', asked: askedAbout('edited and deleted', leaving.departure, editsOf(input, leaving)) } as const;
    const asking = { ...leaving, cause: `${leaving.cause}, and the other side was edited since` };
    const answered = answerTo(input, about);
    const answer = answered ?? (rules.editedAndDeleted === 'hold' ? null : rules.editedAndDeleted);
    if (answer === null) return ask(input, asking, about);
    const means = { ...asking, cause: `${asking.cause}; ${answer}` };
    const choice = answer === 'edit wins' ? 'create again' : rule === 'hold' ? removalFor(input, leaving) : rule;
    const outcome = choose(input, means, choice);
    return answered === null || outcome.operation !== null ? outcome : ask(input, impossible(asking, answered, outcome), about);
  }
  const about = { departure: leaving.departure, asked: askedAbout(questions[leaving.departure]) };
  const answer = answerTo(input, about);
  if (answer === null) return rule === 'hold' ? ask(input, leaving, about) : choose(input, leaving, rule);
  const outcome = choose(input, { ...leaving, cause: `${leaving.cause}; settled by a person: ${answer}` }, answer);
  return outcome.operation !== null ? outcome : ask(input, impossible(leaving, answer, outcome), about);
}

/** Who organises the event that is left, where that is somebody else. */
const organizerOf = ({ event, pair, context }: PairedInput, shown: Shown | null): Attendee | null =>
  event?.read == null ? null : otherOrganizer(event.read, pair, shown?.values ?? pair.baseline?.record ?? {}, context);

type Rule = Departures[Leaving['departure']];
const changesEvent: readonly Rule[] = ['remove', 'mark cancelled', 'create again'];

/** The lane's rule. What would change an event that somebody else organises is asked about, or left, as the lane says of those. */
function ruleFor(input: PairedInput, leaving: Leaving): { rule: Rule; leaving: Leaving } {
  const { departures, events } = input.context.definition;
  const rule = departures[leaving.departure];
  const counts = rule === 'as deleted' ? departures.eventDeleted : rule;
  // What a deleted record becomes again is ours.
  const changes = changesEvent.includes(counts) && !(counts === 'create again' && leaving.departure === 'recordDeleted');
  const organizer = changes ? organizerOf(input, leaving.shown) : null;
  if (organizer === null) return { rule, leaving };
  const cause = `${leaving.cause}, and ${organizer.name ?? organizer.email} organises the event`;
  return { rule: events.organisedByOthers === 'hold' ? 'hold' : 'unlink', leaving: { ...leaving, cause } };
}

/** An event that was cancelled may count as one that was deleted: then that rule decides. */
const choose = (input: PairedInput, leaving: Leaving, choice: DepartureAction | 'as deleted'): Outcome =>
  choice === 'as deleted' ? depart(input, { ...leaving, departure: 'eventDeleted' }) : carryDeparture(input, leaving, choice);

/** Only mapped values matter to the question, and of them what they mean: a guest's reply is no other guest. */
function editsOf({ links, event, context }: PairedInput, { shown }: Leaving): Record<string, unknown> | null {
  const read = event?.read?.values;
  if (shown === null && read === undefined) return null;
  const said = (l: Link) => meaningOf(l.property, shown === null ? read?.[l.property] : shown.values[l.key], context.zones);
  return Object.fromEntries(links.map((l) => [l.key, said(l)]));
}

/** What a person is asked: how the item left, and about which values. */
interface Asked<D extends Departure = Departure> {
  departure: D;
  asked: string;
}

/** An answer that cannot be carried out leaves the question open, and says so. */
const impossible = (leaving: Leaving, answer: string, { verdict }: Outcome): Leaving => ({
  ...leaving,
  cause: `${leaving.cause}; "${answer}" cannot be carried out: ${verdict?.condition ?? 'there is nothing to do it with'}`,
});

/** The answers to each question about a departure. */
type Answer<D extends Departure> = (typeof holdChoices)[(typeof questions)[D]][number];

/** A person's answer counts for the question it was given to, about the values it was given about. */
function answerTo<D extends Departure>({ hold }: MomentInput, { departure, asked }: Asked<D>): Answer<D> | null {
  const choices: readonly string[] = holdChoices[questions[departure]];
  if (hold === undefined || hold.question !== questions[departure] || hold.asked !== asked || hold.choice === null) return null;
  return choices.includes(hold.choice) ? (hold.choice as Answer<D>) : null;
}

const removalFor = (input: PairedInput, { departure, shown }: Leaving): DepartureAction => {
  const { context } = input;
  const { may } = context.definition;
  if (departure !== 'eventDeleted' && organizerOf(input, shown) !== null) return 'unlink';
  if (departure === 'eventDeleted') return may.records.remove && context.collection.may.remove ? 'delete record' : 'unlink';
  return may.calendar.remove ? 'remove' : 'unlink';
};

/** The answers that this lane could carry out. */
function choicesOf(input: PairedInput, departure: Departure, shown: Shown | null): string[] {
  const { definition, collection } = input.context;
  const { may } = definition;
  const possible: Partial<Record<string, boolean>> = {
    remove: may.calendar.remove,
    'mark cancelled': may.calendar.change && organizerOf(input, shown) === null,
    'delete record': may.records.remove && collection.may.remove,
    'set fields': may.records.change && Object.keys(definition.sets[departure === 'eventCancelled' ? 'eventCancelled' : 'eventDeleted']).length > 0,
    'create again': departure === 'recordDeleted' ? may.records.create && collection.may.create : may.calendar.create,
  };
  return holdChoices[questions[departure]].filter((choice) => possible[choice] ?? true);
}

function ask(input: PairedInput, { cause, shown, verdict }: Leaving, { departure, asked }: Asked): Outcome {
  const { pair, hold: open } = input;
  const question = questions[departure];
  if (pair.state === 'held' && open?.question === question && open.asked === asked && open.choice === null) return { operation: null, verdict };
  const hold: Hold = {
    question,
    asked,
    choices: choicesOf(input, departure, shown),
    cause,
    record: shown?.values ?? pair.baseline?.record ?? {},
    event: input.event?.read == null ? {} : mappedPart(input.event.read.values, pair.baseline?.event ?? {}),
    baseline: pair.baseline,
  };
  const held: Pair = { ...pair, state: step(pair.state, 'held') };
  return { operation: operation('hold', held, cause, { record: input.record.item, event: input.event, hold }), verdict };
}
