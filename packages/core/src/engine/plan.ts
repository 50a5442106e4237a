import type { Departure, Moment } from '../lane/definition.ts';
import type { MappedValues } from '../maps/properties.ts';
import { type EventValues, type PropertyName, propertyNames } from '../maps/properties.ts';
import type { RecordItem } from '../record/fields.ts';
import type { EventView, Gathered, LaneContext, RecordView } from './context.ts';
import { judge, type Verdict } from './judge.ts';
import { match } from './match.ts';
import { type Change, mappedPart, merge } from './merge.ts';
import { type Pair, type PairState, pairId, step } from './pair.ts';

interface Step {
  /** the pair as it will be when the operation is done */
  pair: Pair;
  cause: string;
  changes: Change[];
  notes: string[];
}

/** One thing a run does. `make`, `change` and `remove` write on the calendar; the others only in Monsoon's own books. */
type Draft = Step &
  (
    | { kind: 'make'; values: MappedValues }
    /** `values`: the mapped values of the record, for the baseline; the event gets `changes` */
    | { kind: 'change'; values: MappedValues; event: EventView }
    | { kind: 'adopt'; values: MappedValues; event: EventView }
    | { kind: 'agree'; values: MappedValues; event: EventView }
    | { kind: 'remove'; event: EventView | null }
    | { kind: 'part' }
    | { kind: 'hold'; question: HoldQuestion; event: EventView | null }
  );

/** A draft with what is to be said of the item once it is done; null: it is on the calendar as it should be. */
export type Operation = Draft & { verdict: Verdict | null };

export const holdChoices = {
  'record deleted': ['remove', 'keep'],
  'filtered out': ['remove', 'keep'],
  'date lost': ['remove', 'keep'],
  'event deleted': ['make again', 'part'],
} as const;
export type HoldQuestion = keyof typeof holdChoices;

const questions: Record<Departure, HoldQuestion> = {
  recordDeleted: 'record deleted',
  filteredOut: 'filtered out',
  dateLost: 'date lost',
  eventDeleted: 'event deleted',
};

export interface ItemVerdict {
  recordId: string;
  moment: string;
  label: string;
  /** null: it belongs now, an earlier verdict is out of date */
  verdict: Verdict | null;
}

/** What a run does, in order. A forecast is this value, printed; a run is this value, applied. */
export interface Plan {
  operations: Operation[];
  verdicts: ItemVerdict[];
  /** pairs that were looked at and need nothing */
  unchanged: number;
}

export function plan(context: LaneContext, gathered: Gathered): Plan {
  const matches = match(context, gathered);
  const result: Plan = { operations: [], verdicts: [], unchanged: 0 };
  for (const record of gathered.records) {
    for (const moment of context.definition.moments) {
      const pair = matches.pair(record.id, moment.name);
      const planned = planMoment({ context, gathered, record, moment, pair, candidates: matches.candidates, newness: 'new in the records' });
      if (planned.operation !== null) result.operations.push({ ...planned.operation, verdict: planned.verdict });
      else if (pair?.state === 'agreed' && planned.verdict === null) result.unchanged++;
      result.verdicts.push({ recordId: record.id, moment: moment.name, label: planned.label, verdict: planned.verdict });
    }
  }
  return result;
}

interface Planned {
  operation: Draft | null;
  verdict: Verdict | null;
  label: string;
}

interface Case {
  context: LaneContext;
  gathered: Gathered;
  record: RecordView;
  moment: Moment;
  pair: Pair | undefined;
  candidates: ReturnType<typeof match>['candidates'];
  /** why there is no pair yet */
  newness: string;
}

function planMoment(at: Case): Planned {
  const { context, gathered, record, moment } = at;
  if (at.pair?.state === 'parted') {
    const verdict: Verdict = { reason: 'no longer followed', condition: 'the pair is followed', value: 'parted', recheckAt: null };
    return { operation: null, verdict: record.item === null ? null : verdict, label: at.pair.label };
  }
  if (at.pair?.state === 'removed') return planMoment({ ...at, pair: undefined, newness: 'it belongs again' });
  const event = at.pair?.href == null ? null : (gathered.events.get(at.pair.href) ?? null);
  if (record.item === null) {
    const label = at.pair?.label ?? record.id;
    return { operation: at.pair === undefined ? null : depart(at, at.pair, event, 'recordDeleted', 'the record was deleted'), verdict: null, label };
  }
  const judged = judge(context, record.item, moment);
  if (judged.belongs) return { ...planBelonging(at, record.item, judged.values, judged.notes, event), label: judged.values.title ?? record.id };
  const { verdict, label } = judged;
  const departure = { 'no date': 'dateLost', 'filtered out': 'filteredOut', private: 'filteredOut' } as const;
  const kind = departure[verdict.reason as keyof typeof departure] as Departure | undefined;
  const operation =
    at.pair === undefined || kind === undefined
      ? null
      : depart(at, at.pair, event, kind, `${verdict.reason}: ${verdict.condition}, found ${verdict.value}`);
  return { operation, verdict, label };
}

function planBelonging(at: Case, item: RecordItem, values: MappedValues, notes: string[], event: EventView | null): Omit<Planned, 'label'> {
  const { context, moment } = at;
  const label = values.title ?? item.id;
  const fine = (operation: Draft | null) => ({ operation, verdict: null });
  if (at.pair === undefined || (at.pair.state === 'making' && event === null)) {
    const found = at.candidates(item.id, moment.name, values);
    if (found.length === 0)
      return fine(makeOperation(context, at.pair ?? freshPair(context, item.id, moment.name), values, label, notes, at.newness));
    if (found.length > 1) return { operation: null, verdict: severalCandidates(found, values) };
    const pair = at.pair ?? freshPair(context, item.id, moment.name);
    return fine(adoptOperation(context, pair, found[0]!, values, notes));
  }
  if (at.pair.state === 'making') return fine(adoptOperation(context, at.pair, event!, values, notes));
  if (event === null) return fine(depart(at, at.pair, null, 'eventDeleted', 'the event was deleted on the calendar', { values, notes }));
  if (event.read === null) {
    return {
      operation: null,
      verdict: { reason: 'unreadable event', condition: 'the event can be read', value: event.unreadable ?? '', recheckAt: null },
    };
  }
  const { changes, agreed } = merge(values, event.read.values, at.pair.baseline, context.definition.foreignEdits, context.zones);
  const pair: Pair = { ...at.pair, state: step(at.pair.state, 'agreed'), label };
  if (changes.length > 0) {
    const cause = [...new Set(changes.map((c) => c.cause))].join('; ');
    return fine({ kind: 'change', pair, cause, changes, notes, values, event });
  }
  if (agreed.length > 0 || at.pair.state === 'held')
    return fine({ kind: 'agree', pair, cause: 'both sides say the same', changes: [], notes, values, event });
  return fine(null);
}

const freshPair = (context: LaneContext, recordId: string, moment: string): Pair => {
  const id = pairId(context.lane, recordId, moment);
  return { id, recordId, moment, uid: id, href: null, etag: null, state: 'making', baseline: null, label: '' };
};

function severalCandidates(found: EventView[], values: MappedValues): Verdict {
  const value = `${found.length} events have this title and start`;
  return { reason: 'several candidates', condition: `one event at most is "${values.title ?? ''}" at that time`, value, recheckAt: null };
}

function makeOperation(context: LaneContext, pair: Pair, values: MappedValues, label: string, notes: string[], cause: string): Draft {
  const changes = allChanges(values, null, cause);
  return {
    kind: 'make',
    pair: { ...pair, uid: pairId(context.lane, pair.recordId, pair.moment), href: null, state: step(pair.state, 'making'), baseline: null, label },
    cause,
    changes,
    notes,
    values,
  };
}

function adoptOperation(context: LaneContext, pair: Pair, event: EventView, values: MappedValues, notes: string[]): Draft {
  const read = event.read!;
  const { changes } = merge(values, read.values, null, context.definition.foreignEdits, context.zones);
  const cause = read.uid === pair.id ? 'its event was made before an interruption' : 'an event with this title and start is on the calendar already';
  return {
    kind: 'adopt',
    pair: { ...pair, uid: read.uid, href: event.href, state: step(pair.state, 'agreed'), label: values.title ?? '' },
    cause,
    changes,
    notes,
    values,
    event,
  };
}

function allChanges(values: MappedValues, event: EventValues | null, cause: string): Change[] {
  return propertyNames
    .filter((p): p is PropertyName => values[p] !== undefined && values[p] !== null)
    .map((property) => ({ property, before: event?.[property] ?? null, after: values[property] ?? null, cause }));
}

/** What the lane's rule, or a person's answer to the hold, makes of an item that has left. */
function depart(
  at: Case,
  pair: Pair,
  event: EventView | null,
  departure: Departure,
  cause: string,
  again?: { values: MappedValues; notes: string[] },
): Draft | null {
  const question = questions[departure];
  const settlement = at.gathered.settlements.get(pair.id);
  const answered = (holdChoices[question] as readonly string[]).find((c) => c === settlement);
  const choice = answered ?? at.context.definition.departures[departure];
  const told = answered === undefined ? cause : `${cause}; settled by a person: ${choice}`;
  const to = (state: PairState): Pair => ({ ...pair, state: step(pair.state, state) });
  // An event whose making was never confirmed may be there all the same: the removal looks for it by its name.
  if (choice === 'remove' && event === null && pair.state !== 'making')
    return { kind: 'part', pair: to('removed'), cause: `${told}; the event is gone already`, changes: [], notes: [] };
  if (choice === 'remove') {
    const before = event?.read == null ? {} : mappedPart(event.read.values, pair.baseline?.record ?? {});
    const changes = propertyNames
      .filter((p) => before[p] != null)
      .map((property) => ({ property, before: before[property] ?? null, after: null, cause: told }));
    return { kind: 'remove', pair: to('removed'), event, cause: told, changes, notes: [] };
  }
  if (choice === 'keep' || choice === 'part') return { kind: 'part', pair: to('parted'), cause: told, changes: [], notes: [] };
  if (choice === 'make again' && again !== undefined) return makeOperation(at.context, pair, again.values, pair.label, again.notes, told);
  return pair.state === 'held' ? null : { kind: 'hold', pair: to('held'), cause: told, changes: [], notes: [], question, event };
}
