import { canonical, formatCondition, type LaneDefinition } from '@monsoon/core/text';

export interface SettingChange {
  /** RFC 6901 */
  pointer: string;
  /** undefined: it was not there */
  before: unknown;
  after: unknown;
}

/** A definition as a person would write it: conditions as text. */
export function asWritten(lane: LaneDefinition): Record<string, unknown> {
  const condition = (c: LaneDefinition['filter'] | undefined) => (c === null || c === undefined ? null : formatCondition(c));
  return {
    ...lane,
    filter: condition(lane.filter),
    events: { ...lane.events, filter: condition(lane.events.filter) },
    moments: lane.moments.map((m) => ({ ...m, filter: condition(m.filter) })),
  };
}

/** Setting by setting, what differs between two versions of a lane. */
export function compareLanes(before: LaneDefinition, after: LaneDefinition): SettingChange[] {
  return compare('', asWritten(before), asWritten(after));
}

const isObject = (v: unknown): v is Record<string, unknown> => v !== null && typeof v === 'object' && !Array.isArray(v);

function compare(pointer: string, before: unknown, after: unknown): SettingChange[] {
  if (canonical(before ?? null) === canonical(after ?? null)) return [];
  if (isObject(before) && isObject(after))
    return [...new Set([...Object.keys(before), ...Object.keys(after)])].flatMap((key) =>
      compare(`${pointer}/${key.replaceAll('~', '~0').replaceAll('/', '~1')}`, before[key], after[key]),
    );
  if (Array.isArray(before) && Array.isArray(after) && before.some(isObject))
    return Array.from({ length: Math.max(before.length, after.length) }, (_, i) => compare(`${pointer}/${i}`, before[i], after[i])).flat();
  return [{ pointer, before, after }];
}
