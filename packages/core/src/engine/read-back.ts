import { type EventValues, type MappedValues, type PropertyName, propertyNames, sameProperty } from '../maps/properties.ts';
import { spanOf, type When } from '../time/when.ts';
import type { Zone, ZoneTable } from '../time/zones.ts';
import { mappedPart } from './merge.ts';

const squeeze = (text: string) =>
  text
    .replace(/[\s\\]+/g, ' ')
    .trim()
    .toLowerCase();

/**
 * Could a server have made `stored` out of `written` by itself: trimmed, cut short, folded in case, re-escaped, left out
 * as a default, or said the same instants in another zone?
 */
function couldBeRewriting(
  name: PropertyName,
  written: EventValues[PropertyName],
  stored: EventValues[PropertyName],
  home: Zone,
  zones: ZoneTable,
): boolean {
  if (stored === null || stored === undefined) return true;
  if (written === null || written === undefined) return name !== 'title' && name !== 'when';
  if (name === 'when') return JSON.stringify(spanOf(written as When, home, zones)) === JSON.stringify(spanOf(stored as When, home, zones));
  const words = (v: EventValues[PropertyName]) => squeeze([v].flat().join(' ').replace(/,/g, ' '));
  return words(written).startsWith(words(stored)) || words(stored) === words(written);
}

/**
 * The event's side of a new baseline, from what was read back after a write. What the server may have rewritten counts
 * as agreed. What it cannot have made of our value is somebody's edit that came in between (some servers let two
 * simultaneous writers both succeed): there the value we wrote stays the baseline, so that the next run sees the edit.
 */
export function readBack(
  written: MappedValues,
  stored: EventValues,
  home: Zone,
  zones: ZoneTable,
): { values: MappedValues; foreign: PropertyName[] } {
  const values = mappedPart(stored, written);
  const foreign = propertyNames.filter(
    (p) => written[p] !== undefined && !sameProperty(p, written[p], stored[p], zones) && !couldBeRewriting(p, written[p]!, stored[p], home, zones),
  );
  return { values: { ...values, ...Object.fromEntries(foreign.map((p) => [p, written[p]])) }, foreign };
}
