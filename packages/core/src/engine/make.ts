import { certain } from '../certain.ts';
import { fillsEvent } from '../lane/links.ts';
import { type Attendee, type MappedValues, noValues, type PropertyValue } from '../maps/properties.ts';
import type { FieldValues, RecordItem } from '../record/fields.ts';
import type { Change } from './change.ts';
import { linkContext, type ReadEvent } from './context.ts';
import { waysOf } from './decide-link.ts';
import { judgeEvent, type Shown } from './judge.ts';
import type { Outcome } from './make-record.ts';
import type { MomentInput } from './moment-input.ts';

import { type Operation, operation } from './operation.ts';
import { type Pair, step, uidToMake } from './pair.ts';

/** What a new event is made of, and why. */
interface Making {
  pair: Pair;
  shown: Shown;
  label: string;
  cause: string;
}

/** A new event, or why there is none: one that the lane's own filter would leave out again is better not made. */
export function makeEvent(input: MomentInput, making: Making): Outcome {
  const operation = makeOperation(input, making);
  if (input.context.definition.direction === '->') return { operation, verdict: null };
  const out = judgeEvent(input.context, asEvent(operation), true);
  return out === null
    ? { operation, verdict: null }
    : { operation: null, verdict: { ...out, condition: `the event it would become passes: ${out.condition}` } };
}

/** The event that an operation would make, as it would be read. */
const asEvent = ({ pair, eventEdits }: Operation): ReadEvent => ({
  href: '',
  etag: null,
  text: null,
  read: {
    uid: pair.uid,
    values: { ...noValues, ...eventEdits },
    mark: null,
    repeating: false,
    rules: [],
    occurrence: null,
    modified: null,
    created: null,
    stamped: null,
    sequence: 0,
  },
});

/** What a new event gets from a record. */
function makeOperation(input: MomentInput, { pair, shown, label, cause }: Making): Operation {
  const { context, moment } = input;
  const item = certain(input.record.item, 'an event is made for a record that is there');
  const eventEdits: Record<string, PropertyValue> = {};
  const changes: Change[] = [];
  for (const link of input.links) {
    const value = shown.values[link.key] ?? null;
    if (!fillsEvent(link) || value === null) continue;
    eventEdits[link.property] = value;
    changes.push({ side: 'event', property: link.property, before: null, after: value, cause });
  }
  const { recordEdits, notes } = guestsTaken(input, (eventEdits['attendees'] ?? null) as Attendee[] | null);
  for (const [property, after] of Object.entries(recordEdits))
    changes.push({ side: 'record', property, before: item.fields[property] ?? null, after, cause });
  const made: Pair = {
    ...pair,
    uid: uidToMake(context.lane, item.id, { ...pair, moment: moment.name }),
    href: null,
    etag: null,
    state: step(pair.state, 'creating'),
    baseline: null,
    label,
  };
  // What only comes back has nothing to say yet: that the new event lacks it is not an edit.
  const settled = input.links.filter((l) => l.direction !== 'once').map((l) => l.key);
  return operation('create', made, cause, {
    record: item,
    event: null,
    restore: null,
    changes,
    eventEdits: eventEdits as MappedValues,
    recordEdits,
    settled,
    notes: [...momentNotes(input, item), ...notes],
  });
}

/** What the record says of the guests of its new event, such as a row for each. */
function guestsTaken({ context, links, record }: MomentInput, guests: Attendee[] | null): { recordEdits: FieldValues; notes: string[] } {
  let item = certain(record.item, 'an event is made for a record that is there');
  const taken = links.flatMap((link) => {
    if (link.property !== 'replies' || !waysOf(link, context.definition).toRecord || link.sameOnEvent(null, guests, context)) return [];
    const { fields, notes } = link.take(item, guests, linkContext(context));
    item = { ...item, fields: { ...item.fields, ...fields } };
    return [{ fields, notes }];
  });
  return { recordEdits: Object.assign({}, ...taken.map((t) => t.fields)) as FieldValues, notes: taken.flatMap((t) => t.notes) };
}

/** Notes about clocks that went forward or back. */
export function momentNotes(input: MomentInput, item: RecordItem): string[] {
  return input.links.flatMap((link) => link.notes?.(item, linkContext(input.context)) ?? []);
}
