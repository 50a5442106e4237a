import { type EventValues, type MappedValues, type PropertyName, propertyNames, sameProperty } from '../maps/properties.ts';
import type { ZoneTable } from '../time/zones.ts';
import type { Baseline } from './pair.ts';

type Value = EventValues[PropertyName];

/** What becomes of one property of a pair. */
export type Merged =
  | { outcome: 'unchanged' }
  /** both sides say the same now: only the baseline moves */
  | { outcome: 'agreed' }
  /** the record's value goes to the event */
  | { outcome: 'to event'; cause: string }
  /** the event was edited, and the lane leaves such edits alone */
  | { outcome: 'left'; cause: string };

interface Sides {
  record: Value;
  event: Value;
  /** undefined when there is no baseline for this property yet */
  base: { record: Value; event: Value } | undefined;
}

/** The three-way decision for one property of a lane from records to calendar. */
export function mergeProperty(name: PropertyName, sides: Sides, foreignEdits: 'put back' | 'leave', zones: ZoneTable): Merged {
  const same = (a: Value, b: Value) => sameProperty(name, a, b, zones);
  const { record, event, base } = sides;
  if (base === undefined) return same(record, event) ? { outcome: 'agreed' } : { outcome: 'to event', cause: 'not the same when first paired' };
  const recordChanged = !same(record, base.record);
  const eventChanged = !same(event, base.event);
  if (!recordChanged && !eventChanged) return { outcome: 'unchanged' };
  if (same(record, event)) return { outcome: 'agreed' };
  if (recordChanged && eventChanged) return { outcome: 'to event', cause: 'changed on both sides: records win' };
  if (recordChanged) return { outcome: 'to event', cause: 'changed in the record' };
  return foreignEdits === 'leave'
    ? { outcome: 'left', cause: 'changed on the calendar, which this lane leaves alone' }
    : { outcome: 'to event', cause: 'changed on the calendar: put back' };
}

/** One field of an operation, for forecasts and the journal. */
export interface Change {
  property: PropertyName;
  before: Value;
  after: Value;
  cause: string;
}

export interface MergeResult {
  changes: Change[];
  /** properties that agree now though the baseline says otherwise */
  agreed: PropertyName[];
}

/** Merges every property that the lane maps: those that `record` has a value (or null) for. */
export function merge(
  record: MappedValues,
  event: EventValues,
  baseline: Baseline | null,
  foreignEdits: 'put back' | 'leave',
  zones: ZoneTable,
): MergeResult {
  const result: MergeResult = { changes: [], agreed: [] };
  for (const property of propertyNames) {
    const value = record[property];
    if (value === undefined) continue;
    const known = baseline !== null && property in baseline.record;
    const base = known ? { record: baseline.record[property] ?? null, event: baseline.event[property] ?? null } : undefined;
    const merged = mergeProperty(property, { record: value, event: event[property], base }, foreignEdits, zones);
    if (merged.outcome === 'agreed') result.agreed.push(property);
    if (merged.outcome === 'to event') result.changes.push({ property, before: event[property], after: value, cause: merged.cause });
  }
  return result;
}

/** The part of an event that a lane maps: what goes into the baseline. */
export function mappedPart(event: EventValues, mapped: MappedValues): MappedValues {
  return Object.fromEntries(propertyNames.filter((p) => mapped[p] !== undefined).map((p) => [p, event[p]]));
}
