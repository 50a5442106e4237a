import { type Attendee, elementKey, type PropertyValue } from '../maps/properties.ts';

type Value = PropertyValue;

/** What becomes of one link of a pair. */
export type Merged =
  | { outcome: 'unchanged' }
  /** both sides say the same now: only the baseline moves */
  | { outcome: 'agreed' }
  | { outcome: 'to event'; cause: string; value: Value }
  | { outcome: 'to record'; cause: string; value: Value }
  /** a set of which each side has something for the other */
  | { outcome: 'to both'; cause: string; event: Value; record: Value }
  /** an edit that this lane does not carry, and leaves alone */
  | { outcome: 'left' }
  | { outcome: 'conflict' };

export interface Sides {
  record: Value;
  event: Value;
  /** what the record holds though the lane shows nothing of it: it is not to be filled like an empty field */
  unshown?: string;
  /** undefined when there is no baseline for this link yet */
  base: { record: Value; event: Value } | undefined;
  /** the side on which stands what we were writing when the answer was lost: what it says came from the other */
  ours?: 'record' | 'event' | undefined;
}

/** Which ways a link may carry an edit: its direction, and what the lane may change on each side. */
export interface Ways {
  toEvent: boolean;
  toRecord: boolean;
  foreignEdits: 'put back' | 'leave';
}

export interface Equality {
  record(a: Value, b: Value): boolean;
  event(a: Value, b: Value): boolean;
  /** do the two sides say the same, as far as the record can say it? */
  across(record: Value, event: Value): boolean;
}

/** The three-way decision for one link, by its values alone. */
export function mergeLink(sides: Sides, ways: Ways, same: Equality, set: boolean): Merged {
  const { record, event, base } = sides;
  const carries = ways.toEvent || ways.toRecord;
  if (base === undefined) return firstPairing(sides, ways, same, set);
  const recordChanged = sides.ours === 'event' || (sides.ours !== 'record' && !same.record(record, base.record));
  const eventChanged = sides.ours === 'record' || (sides.ours !== 'event' && !same.event(event, base.event));
  if (!recordChanged && !eventChanged) return { outcome: 'unchanged' };
  // Only the record moved: the event follows, also where the record could have been read out of it as it stands.
  if (recordChanged && !eventChanged && ways.toEvent && !same.event(record, event)) return toEvent(sides, base, set);
  if (same.across(record, event)) return { outcome: 'agreed' };
  if (!carries) return { outcome: 'left' };
  if (recordChanged && eventChanged) {
    if (ways.toEvent && ways.toRecord) return set ? mergeSets(sides.record, sides.event, base) : { outcome: 'conflict' };
    return ways.toEvent
      ? { outcome: 'to event', cause: 'changed on both sides: records win', value: record }
      : { outcome: 'to record', cause: 'changed on both sides: calendar wins', value: event };
  }
  if (recordChanged) {
    if (ways.toEvent) return toEvent(sides, base, set);
    return ways.foreignEdits === 'leave' ? { outcome: 'left' } : { outcome: 'to record', cause: 'changed in the record: put back', value: event };
  }
  if (ways.toRecord) return { outcome: 'to record', cause: 'changed on the calendar', value: set ? withChanges(record, base.event, event) : event };
  // What stood on the event at the last agreement goes back, with whatever the record cannot say.
  return ways.foreignEdits === 'leave'
    ? { outcome: 'left' }
    : { outcome: 'to event', cause: 'changed on the calendar: put back', value: set ? base.event : record };
}

const toEvent = ({ record }: Sides, base: { record: Value; event: Value }, set: boolean): Merged => ({
  outcome: 'to event',
  cause: 'changed in the record',
  value: set ? withChanges(base.event, base.record, record) : record,
});

function firstPairing({ record, event, unshown }: Sides, ways: Ways, same: Equality, set: boolean): Merged {
  const cause = 'not the same when first paired';
  if (same.across(record, event)) return { outcome: 'agreed' };
  if (!ways.toEvent && !ways.toRecord) return { outcome: 'left' };
  const none: Value = set ? [] : null;
  if (set) {
    const all = withChanges(event, none, record);
    if (!ways.toRecord) return { outcome: 'to event', cause, value: all };
    return ways.toEvent
      ? { outcome: 'to both', cause, event: all, record: all }
      : { outcome: 'to record', cause, value: withChanges(record, none, event) };
  }
  const empty = (v: Value) => v === null || v === '';
  if (!ways.toRecord || (ways.toEvent && empty(event))) return { outcome: 'to event', cause, value: record };
  if (!ways.toEvent || (empty(record) && unshown === undefined)) return { outcome: 'to record', cause, value: event };
  return { outcome: 'conflict' };
}

type Elements = (Attendee | string | number)[];

/** A set with what came and went between two others: people by address, words and minutes by themselves. */
function withChanges(target: Value, before: Value, after: Value): Value {
  const list = (v: Value) => (v ?? []) as Elements;
  const keys = (v: Value) => new Set(list(v).map(elementKey));
  const [had, has] = [keys(before), keys(after)];
  const kept = list(target).filter((e) => has.has(elementKey(e)) || !had.has(elementKey(e)));
  const there = keys(kept as Value);
  const result = [...kept, ...list(after).filter((e) => !had.has(elementKey(e)) && !there.has(elementKey(e)))];
  return (result.length === 0 ? null : result) as Value;
}

function mergeSets(record: Value, event: Value, base: { record: Value; event: Value }): Merged {
  return {
    outcome: 'to both',
    cause: 'changed on both sides: merged as a set',
    event: withChanges(event, base.record, record),
    record: withChanges(record, base.event, event),
  };
}
