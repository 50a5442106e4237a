import { certain } from '../certain.ts';
import type { Departure, DepartureChoice } from '../lane/definition.ts';
import type { EventValues } from '../maps/properties.ts';
import type { FieldValues } from '../record/fields.ts';
import { mappedPart } from './baseline.ts';
import type { Change } from './change.ts';
import type { ReadEvent } from './context.ts';
import { judgeEvent, judgeRecord, labelOf, type Shown, showAll, type Verdict } from './judge.ts';
import { makeEvent } from './make.ts';
import { makeRecord, type Outcome } from './make-record.ts';
import type { MomentInput, PairedInput } from './moment-input.ts';
import { type Operation, operation, type Writing } from './operation.ts';
import { type Pair, type PairState, step } from './pair.ts';

/** An item that has left: how, why, and what is known of it. */
export interface Leaving {
  departure: Exclude<Departure, 'editedAndDeleted'>;
  cause: string;
  /** what the record shows; null: it is gone */
  shown: Shown | null;
  verdict: Verdict | null;
}

/** What can be done about an item that has left; a lane's rules and people's answers choose among these. */
export type DepartureAction = Exclude<DepartureChoice, 'hold' | 'edit wins' | 'deletion wins' | 'as deleted'>;

/** @returns the operation; none, with the reason, where the action cannot be carried out */
export function carryDeparture(input: PairedInput, leaving: Leaving, action: DepartureAction): Outcome {
  const { pair } = input;
  const { departure, cause, shown, verdict } = leaving;
  const sides = { record: input.record.item, event: input.event };
  const to = (state: PairState): Pair => ({ ...pair, state: step(pair.state, state) });
  const done = (o: Operation, still: Verdict | null = verdict): Outcome => ({ operation: o, verdict: still });
  const unlink = (): Outcome => done(operation('unlink', to('unlinked'), cause, sides));
  switch (action) {
    case 'remove':
      return done(operation('remove', to('removed'), cause, { ...sides, changes: lost(input, cause) }));
    case 'mark cancelled':
      return done(operation('unlink', to('unlinked'), cause, { ...sides, ...cancelling(input, cause) }));
    case 'delete record':
      // What is said then is said of the event, which may stay without a record.
      return done(
        operation('remove record', to('removed'), cause, { ...sides, record: recordOf(input), changes: lostFields(input, cause) }),
        staysWithout(input),
      );
    case 'set fields':
      return setFields(input, leaving);
    case 'create again':
      if (departure === 'recordDeleted') return makeRecordAgain(input, cause) ?? unlink();
      if (departure !== 'eventDeleted') return unlink();
      // A cancelled event is still there: it takes place again.
      if (input.event?.read != null) {
        if (!input.context.definition.may.calendar.change) return unlink();
        const event: ReadEvent = { ...input.event, read: input.event.read };
        return done(operation('change', to('in sync'), cause, { record: recordOf(input), event, ...revived(event, shown, cause) }));
      }
      return shown !== null && input.context.definition.may.calendar.create
        ? makeEvent(input, { pair, shown, label: labelOf(shown, pair.label), cause })
        : unlink();
    case 'keep':
    case 'unlink':
      return unlink();
  }
}

const recordOf = (input: MomentInput) => certain(input.record.item, 'an event departs from a record that is there');

/** Why an event whose record was removed does not become a record again; null: it does. */
const staysWithout = ({ context, event }: MomentInput): Verdict | null =>
  event?.read == null || !context.definition.may.records.create ? null : judgeEvent(context, event as ReadEvent, false);

/** @returns null where no record can be made of the event */
function makeRecordAgain({ context, moment, event, pair }: PairedInput, cause: string): Outcome | null {
  if (event?.read == null || !context.definition.may.records.create || !context.collection.may.create) return null;
  // An event that no longer belongs, because it became private for instance, becomes no record.
  if (judgeEvent(context, event as ReadEvent, true) !== null) return null;
  return makeRecord(context, { moment, event: event as ReadEvent, pair: { ...pair, recordId: null, version: null, baseline: null }, cause });
}

/** What an event that is taken away said, for the journal. */
function lost(input: PairedInput, cause: string): Change[] {
  const values = input.event?.read?.values;
  if (values === undefined) return [];
  return Object.entries(mappedPart(values, input.pair.baseline?.event ?? {}))
    .filter(([, before]) => before !== null)
    .map(([property, before]) => ({ side: 'event', property, before: before ?? null, after: null, cause }));
}

const lostFields = (input: MomentInput, cause: string): Change[] =>
  Object.entries(input.record.item?.fields ?? {})
    .filter(([, before]) => before !== null && before !== '')
    .map(([property, before]) => ({ side: 'record', property, before, after: null, cause }));

function cancelling(input: MomentInput, cause: string): Writing {
  const before = input.event?.read?.values.status ?? null;
  if (input.event?.read == null || before === 'cancelled') return {};
  return { eventEdits: { status: 'cancelled' }, changes: [{ side: 'event', property: 'status', before, after: 'cancelled', cause }] };
}

/** Un-cancels an event: its status is the record's, where the lane maps one. */
function revived({ read }: ReadEvent, shown: Shown | null, cause: string): Writing {
  const before = read.values.status;
  const status = (shown?.values['status'] ?? 'confirmed') as NonNullable<EventValues['status']>;
  return { eventEdits: { status }, changes: [{ side: 'event', property: 'status', before, after: status, cause }], loose: true };
}

/** The record gets the values that the lane gives for it; if it still belongs then, it is no longer followed. */
function setFields(input: PairedInput, { departure, cause }: Leaving): Outcome {
  const { context, pair } = input;
  const item = recordOf(input);
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
  const state = step(pair.state, verdict === null || input.event !== null ? 'unlinked' : 'removed');
  return { operation: operation('unlink', { ...pair, state }, cause, { record: item, event: input.event, recordEdits, changes }), verdict };
}
