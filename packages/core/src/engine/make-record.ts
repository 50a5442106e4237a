import { certain } from '../certain.ts';
import type { Moment } from '../lane/definition.ts';
import { fillsRecord } from '../lane/links.ts';
import { absentOf, type PropertyValue } from '../maps/properties.ts';
import { UnfitValue } from '../maps/unfit.ts';
import type { FieldValues, RecordItem } from '../record/fields.ts';
import type { Change } from './change.ts';
import { type LaneContext, linkContext, type ReadEvent } from './context.ts';
import { judgeRecord, momentLinks, showAll, unfitVerdict, type Verdict } from './judge.ts';

import { type Operation, operation } from './operation.ts';
import { type Pair, step } from './pair.ts';

/** The moment that a new event becomes. */
export const momentOfEvents = (context: LaneContext): Moment => {
  const { events, moments } = context.definition;
  return moments.find((m) => m.name === events.moment) ?? certain(moments[0], 'a lane has a moment');
};

/** An operation, or why there is none. */
export interface Outcome {
  operation: Operation | null;
  verdict: Verdict | null;
}

/** A record's fields as an event gives them: the lane's defaults, then what each map brings back. @throws UnfitValue */
function fieldsFrom(context: LaneContext, moment: Moment, event: ReadEvent): { item: RecordItem; notes: string[] } {
  const { definition, collection } = context;
  let item: RecordItem = { id: '', fields: { ...Object.fromEntries(collection.fields.map((f) => [f.name, null])), ...definition.defaults } };
  const notes: string[] = [];
  for (const link of momentLinks(context, moment)) {
    if (!fillsRecord(link)) continue;
    // Without the property the event means its default (RFC 5545): a new record says so.
    const stated = (event.read.values[link.property] ?? absentOf(link.property)) as PropertyValue;
    const taken = link.take(item, stated, linkContext(context, event.read.values));
    item = { ...item, fields: { ...item.fields, ...taken.fields } };
    notes.push(...taken.notes);
  }
  if (definition.link !== null) item.fields[definition.link] = event.read.uid;
  return { item, notes };
}

/** Of an event without a record, where the lane makes none. */
export const makesNoRecords: Verdict = {
  reason: 'not made here',
  condition: 'the lane makes records',
  value: 'it only pairs events with records that are there',
  recheckAt: null,
};

/** What a new record is made of, and why. */
export interface RecordMaking {
  moment: Moment;
  event: ReadEvent;
  pair: Pair;
  cause: string;
}

/** Asks for a record. Where its system cannot tell a second attempt from a second record, it is unconfirmed until the answer. */
export function makeRecord(context: LaneContext, { moment, event, pair, cause }: RecordMaking): Outcome {
  try {
    const { item, notes } = fieldsFrom(context, moment, event);
    const links = momentLinks(context, moment);
    const shown = showAll(links, item, context);
    const out = judgeRecord(context, item, moment, shown);
    // Made and filtered out at once, it would leave again: better not to make it, and to say why.
    if (out !== null && out.reason !== 'out of the window' && out.reason !== 'before the start line')
      return { operation: null, verdict: { ...out, condition: `the record it would become passes: ${out.condition}` } };
    const given: FieldValues = Object.fromEntries(Object.entries(item.fields).filter(([, v]) => v !== null && !(Array.isArray(v) && v.length === 0)));
    const changes: Change[] = Object.entries(given).map(([property, after]) => ({ side: 'record', property, before: null, after, cause }));
    const state = step(pair.state, context.collection.retries === 'key' ? 'creating' : 'unconfirmed');
    const attempt = { record: shown.values, event: Object.fromEntries(links.map((l) => [l.key, event.read.values[l.property]])) };
    const made: Pair = {
      ...pair,
      href: event.href,
      state,
      tried: pair.tried ?? context.now,
      baseline: attempt,
      label: event.read.values.title ?? event.read.uid,
    };
    const settled = links.filter((l) => l.direction !== 'once').map((l) => l.key);
    return {
      operation: operation('create record', made, cause, { record: null, event, restore: null, changes, notes, recordEdits: given, settled }),
      verdict: null,
    };
  } catch (error) {
    if (!(error instanceof UnfitValue)) throw error;
    return { operation: null, verdict: unfitVerdict(error) };
  }
}
