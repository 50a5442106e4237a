import { Temporal } from 'temporal-polyfill';
import type { LaneDefinition, Moment } from '../lane/definition.ts';
import { dateField, readWhen } from '../lane/when-source.ts';
import { show, UnfitValue } from '../maps/field-maps.ts';
import { type MappableName, type MappedValues, mappableNames } from '../maps/properties.ts';
import { formatCondition } from '../record/condition-text.ts';
import { judgeCondition } from '../record/conditions.ts';
import { isEmpty, type RecordItem, sayValue } from '../record/fields.ts';
import { readDateTime } from '../time/date-time.ts';
import { formatWhen } from '../time/format-when.ts';
import { spanOf, type WhenRead } from '../time/when.ts';
import { formatInstant, parseInstant, toInstant } from '../time/zones.ts';
import type { LaneContext } from './context.ts';

export const verdictReasons = [
  'no date',
  'filtered out',
  'private',
  'before the start line',
  'out of the window',
  'unfit value',
  'several candidates',
  'no longer followed',
  'refused by the system',
  'unreadable event',
] as const;
export type VerdictReason = (typeof verdictReasons)[number];

/** Why an item does not come across: the exact condition, and the value that failed it. */
export interface Verdict {
  reason: VerdictReason;
  condition: string;
  value: string;
  /** RFC 3339: when the clock alone can change the verdict, or a retry is due */
  recheckAt: string | null;
}

export type Judged = { belongs: true; values: MappedValues; notes: string[] } | { belongs: false; verdict: Verdict; label: string };

/** Does this moment of the record belong on the calendar, and as what? */
export function judge(context: LaneContext, record: RecordItem, moment: Moment): Judged {
  const { definition } = context;
  const label = titleOf(record, moment, definition);
  const no = (reason: VerdictReason, condition: string, value: string, recheckAt: string | null = null): Judged => ({
    belongs: false,
    verdict: { reason, condition, value, recheckAt },
    label,
  });

  const dated = dateField(moment.when);
  if (isEmpty(record.fields[dated])) return no('no date', `${dated} is not empty`, '(empty)');
  if (definition.filter !== null) {
    const result = judgeCondition(definition.filter, record, context);
    if (!result.holds) return no('filtered out', formatCondition(result.failed), sayValue(result.value) || '(empty)');
  }
  if (definition.private?.treat === 'leave out' && record.fields[definition.private.field] === true) {
    return no('private', `${definition.private.field} is no`, 'yes');
  }
  if (definition.startLine !== null && record.created !== undefined && parseInstant(record.created) < parseInstant(definition.startLine)) {
    return no('before the start line', `made since ${definition.startLine}`, record.created);
  }
  let read: WhenRead;
  try {
    read = readWhen(moment.when, record, context.collection.fields, context.zone, context.zones);
  } catch (error) {
    if (error instanceof UnfitValue) return no('unfit value', error.message, error.value);
    throw error;
  }
  const outside = judgeWindow(context, read);
  if (outside !== null) return no('out of the window', outside.condition, formatWhen(read.when), outside.recheckAt);
  try {
    return { belongs: true, values: { when: read.when, ...showAll(record, moment, definition) }, notes: read.notes };
  } catch (error) {
    if (error instanceof UnfitValue) return no('unfit value', error.message, error.value);
    throw error;
  }
}

/** The event properties that the maps fill, without the time. @throws UnfitValue */
function showAll(record: RecordItem, moment: Moment, definition: LaneDefinition): MappedValues {
  const maps = { ...definition.fields, ...moment.fields };
  const values: Record<string, unknown> = {};
  for (const property of mappableNames) {
    const map = maps[property];
    if (map !== undefined) values[property] = show(property, map, record);
  }
  return values as Pick<MappedValues, MappableName>;
}

function titleOf(record: RecordItem, moment: Moment, definition: LaneDefinition): string {
  const map = moment.fields?.title ?? definition.fields.title;
  try {
    return (map === undefined ? null : (show('title', map, record) as string | null)) ?? record.id;
  } catch {
    return record.id;
  }
}

/** The window's days are days of the lane's zone; a moment belongs when any part of it lies within. */
function judgeWindow(context: LaneContext, read: WhenRead): { condition: string; recheckAt: string | null } | null {
  const { window } = context.definition;
  if (window === null) return null;
  const today = Temporal.PlainDate.from(readDateTime(context.now, context.zone, context.zones).local.slice(0, 10));
  const first = today.subtract({ days: window.behind });
  const last = today.add({ days: window.ahead });
  const startOfDay = (day: Temporal.PlainDate) => toInstant(`${day.toString()}T00:00:00`, context.zone).instant;
  const span = spanOf(read.when, context.zone, context.zones);
  const condition = `between ${first.toString()} and ${last.toString()} (${window.behind} days behind, ${window.ahead} ahead)`;
  if (Math.max(span.until, span.from + 1) <= startOfDay(first)) return { condition, recheckAt: null };
  if (span.from < startOfDay(last.add({ days: 1 }))) return null;
  const day = Temporal.PlainDate.from(readDateTime(formatInstant(span.from), context.zone, context.zones).local.slice(0, 10));
  return { condition, recheckAt: formatInstant(startOfDay(day.subtract({ days: window.ahead }))) };
}
