import { Temporal } from 'temporal-polyfill';
import type { EventRead } from '../ical/event-text.ts';
import type { Moment } from '../lane/definition.ts';
import { eventItem } from '../lane/event-fields.ts';
import { goesToEvent, type Link, linksOf } from '../lane/links.ts';
import { dateField } from '../lane/when-source.ts';
import { UnfitValue } from '../maps/unfit.ts';
import { formatCondition } from '../record/condition-text.ts';
import { judgeCondition } from '../record/conditions.ts';
import { isEmpty, type RecordItem, sayValue } from '../record/fields.ts';
import { occursWithin } from '../recurrence/of-values.ts';
import { parseRecurrence } from '../recurrence/recurrence-text.ts';
import { sayRules } from '../recurrence/say-rule.ts';
import { readDateTime } from '../time/date-time.ts';
import { formatWhen } from '../time/format-when.ts';
import { spanOf, type When } from '../time/when.ts';
import { formatInstant, parseInstant, toInstant } from '../time/zones.ts';
import { type EventView, type LaneContext, linkContext } from './context.ts';
import { type Baseline, foreignMark, type LinkValues } from './pair.ts';

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
  'repeating',
  'made by another lane',
  'duplicate UID',
  'not made here',
  'organised by another',
  'unexpected error',
] as const;
export type VerdictReason = (typeof verdictReasons)[number];

/** Conditions of the reason `repeating` that are said in other words. */
export const REPEATING_RECORD = 'the record does not repeat';
export const WHOLE_SERIES = 'it is a series as a whole';

/** Reasons that are failures, not decisions: a person has to correct something. */
export const failureReasons: readonly string[] = ['refused by the system', 'unreadable event', 'unfit value', 'unexpected error'];

/** Why an item does not come across: the exact condition, and the value that failed it. */
export interface Verdict {
  reason: VerdictReason;
  condition: string;
  value: string;
  /** RFC 3339: when the clock alone can change the verdict, or a retry is due */
  recheckAt: string | null;
}

const verdict = (reason: VerdictReason, condition: string, value: string, recheckAt: string | null = null): Verdict => ({
  reason,
  condition,
  value,
  recheckAt,
});
/** The verdict on an unlinked item. */
export const noLongerFollowed = verdict('no longer followed', 'the pair is followed', 'unlinked');
/** A fault in Monsoon, of which one item is the victim: the others go on. */
export const unexpectedVerdict = (error: unknown): Verdict =>
  verdict(
    'unexpected error',
    'Monsoon can process the item',
    error instanceof Error ? `${error.name}: ${error.message}`.slice(0, 300) : 'an unknown error',
  );
export const organisedVerdict = (organizer: string): Verdict => verdict('organised by another', 'the event is ours to change', organizer);
export const unfitVerdict = (error: UnfitValue): Verdict => verdict('unfit value', error.message, error.value);

/** What a record says through the links of a moment; what does not fit is named instead. */
export interface Shown {
  values: LinkValues;
  unfit: Map<string, UnfitValue>;
}

export function showAll(links: readonly Link[], record: RecordItem, context: LaneContext): Shown {
  const shown: Shown = { values: {}, unfit: new Map() };
  const at = linkContext(context);
  for (const link of links) {
    try {
      shown.values[link.key] = link.show(record, at);
    } catch (error) {
      if (!(error instanceof UnfitValue)) throw error;
      shown.values[link.key] = null;
      // A record that only receives may have nothing there, or anything else.
      if (goesToEvent(link) || link.direction === 'once') shown.unfit.set(link.key, error);
    }
  }
  return shown;
}

/** Does this moment of the record belong? Null when it does. */
export function judgeRecord(context: LaneContext, record: RecordItem, moment: Moment, shown: Shown): Verdict | null {
  const { definition } = context;
  if (record.repeats !== undefined) return verdict('repeating', REPEATING_RECORD, sayRules(record.repeats));
  if (definition.direction === '<-') return null;
  const timed = moment.direction === undefined || moment.direction === '->' || moment.direction === '<->';
  const dated = dateField(moment.when);
  if (timed && isEmpty(record.fields[dated])) return verdict('no date', `${dated} is not empty`, '(empty)');
  for (const filter of [definition.filter, moment.filter ?? null]) {
    if (filter === null) continue;
    const result = judgeCondition(filter, record, context);
    if (!result.holds) return verdict('filtered out', formatCondition(result.failed), sayValue(result.value) || '(empty)');
  }
  if (definition.private?.treat === 'leave out' && record.fields[definition.private.field] === true)
    return verdict('private', `${definition.private.field} is no`, 'yes');
  const early = judgeStartLine(context, record.created ?? null);
  if (early !== null) return early;
  const unfit = shown.unfit.get('when');
  if (unfit !== undefined) return unfitVerdict(unfit);
  return judgeWindow(context, (shown.values['when'] ?? null) as When | null, (shown.values['recurrence'] ?? null) as string | null);
}

/** A start line that is a day begins with that day, in the lane's zone. */
function judgeStartLine({ definition: { startLine }, zone }: LaneContext, created: string | null): Verdict | null {
  if (startLine === null) return null;
  const from = startLine.length === 10 ? toInstant(`${startLine}T00:00:00`, zone).instant : parseInstant(startLine);
  if (created !== null && parseInstant(created) >= from) return null;
  return verdict('before the start line', `made since ${startLine}`, created ?? '(it does not say when it was made)');
}

/**
 * Does an event belong, where the calendar's items become records? Null when it does.
 * @param paired a pair speaks of it already: who made it, and whether it repeats, was settled then
 */
export function judgeEvent(context: LaneContext, event: EventView & { read: object }, paired: boolean): Verdict | null {
  const { definition } = context;
  const read = event.read as NonNullable<EventView['read']>;
  const { events } = definition;
  if (!paired && events.otherLanes === 'leave out' && read.mark !== null && read.mark.lane !== context.lane)
    return verdict('made by another lane', 'it carries no mark of another lane', `the mark of lane ${read.mark.lane}`);
  if (events.filter !== null) {
    const result = judgeCondition(events.filter, eventItem(read), context);
    if (!result.holds) return verdict('filtered out', formatCondition(result.failed), sayValue(result.value) || '(empty)');
  }
  const { visibility } = read.values;
  const carried = [definition.fields.visibility, ...definition.moments.map((m) => m.fields?.visibility)].some((m) => m !== undefined);
  if (events.private === 'leave out' && !carried && (visibility === 'private' || visibility === 'confidential'))
    return verdict('private', 'visibility is public', visibility);
  const repeating = judgeRepeating(context, read, paired);
  if (repeating !== null || paired) return repeating;
  // An event need not say when it was made (RFC 5545, 3.8.7.1); it was there when it was last changed.
  const early = judgeStartLine(context, read.created ?? read.modified ?? read.stamped);
  if (early !== null) return early;
  if (read.values.status === 'cancelled') return verdict('filtered out', 'status is not cancelled', 'cancelled');
  return judgeWindow(context, read.values.when, read.values.recurrence);
}

/** Does the lane take series, and in this way? */
function judgeRepeating(context: LaneContext, { repeating, rules, occurrence }: EventRead, paired: boolean): Verdict | null {
  const { repeating: choice } = context.definition.events;
  if (occurrence !== null && choice !== 'each occurrence')
    return verdict('repeating', choice === 'leave out' ? 'repeating is no' : WHOLE_SERIES, sayRules(occurrence.rules));
  // Whether a paired event repeats was settled when it was paired.
  if (paired || !repeating || choice === 'one record') return null;
  if (choice === 'leave out') return verdict('repeating', 'repeating is no', sayRules(rules));
  const bounds = context.definition.window === null ? 'in the window' : boundsOf(context, context.definition.window).condition;
  return verdict('out of the window', `it has an occurrence ${bounds}`, sayRules(rules));
}

/** The window of a lane in seconds since 1970, from its first day to the end of its last; null: it takes all times. */
export function windowOf(context: LaneContext): { from: number; until: number } | null {
  return context.definition.window === null ? null : boundsOf(context, context.definition.window);
}

/**
 * Has another lane written on a paired event since the last agreement? Where both may write there, only one goes on: two
 * that put back each other's words would never come to rest.
 */
export function judgeMark({ lane, definition }: LaneContext, { mark }: EventRead, baseline: Baseline | null): Verdict | null {
  if (mark === null || mark.lane === lane || definition.events.otherLanes === 'take' || !definition.may.calendar.change) return null;
  if (baseline === null || foreignMark(baseline)?.lane === mark.lane) return null;
  return verdict('made by another lane', 'it carries no mark of another lane', `the mark of lane ${mark.lane}`);
}

/** The title that a record shows, for lists. */
export const labelOf = (shown: Shown, fallback: string): string => {
  const title = shown.values['title'];
  return typeof title === 'string' && title !== '' ? title : fallback;
};

type Window = NonNullable<LaneContext['definition']['window']>;
interface Bounds {
  from: number;
  until: number;
  condition: string;
  ahead: number;
}
const bounds = new WeakMap<LaneContext, Bounds>();

/** The window's days are days of the lane's zone. */
function boundsOf(context: LaneContext, window: Window): Bounds {
  const known = bounds.get(context);
  if (known !== undefined) return known;
  const today = Temporal.PlainDate.from(readDateTime(context.now, context.zone, context.zones).local.slice(0, 10));
  const first = today.subtract({ days: window.behind });
  const last = today.add({ days: window.ahead });
  const startOfDay = (day: Temporal.PlainDate) => toInstant(`${day.toString()}T00:00:00`, context.zone).instant;
  const condition = `between ${first.toString()} and ${last.toString()} (${window.behind} days behind, ${window.ahead} ahead)`;
  const found = { from: startOfDay(first), until: startOfDay(last.add({ days: 1 })), condition, ahead: window.ahead };
  bounds.set(context, found);
  return found;
}

/**
 * An item belongs when any part of it lies within. Null when it does.
 * @param recurrence of an item that stands for a whole series: one occurrence within is enough
 */
export function judgeWindow(context: LaneContext, when: When | null, recurrence: string | null = null): Verdict | null {
  const { window } = context.definition;
  if (window === null || when === null) return null;
  if (recurrence !== null) return judgeSeries(context, when, recurrence, window);
  const { from, until, condition, ahead } = boundsOf(context, window);
  const span = spanOf(when, context.zone, context.zones);
  if (Math.max(span.until, span.from + 1) <= from) return verdict('out of the window', condition, formatWhen(when));
  if (span.from < until) return null;
  return verdict('out of the window', condition, formatWhen(when), entersAt(context, span.from, ahead));
}

/** When the window reaches what begins at an instant: it moves by days, at midnight. @returns RFC 3339 */
function entersAt({ zone, zones }: LaneContext, from: number, ahead: number): string {
  const day = Temporal.PlainDate.from(readDateTime(formatInstant(from), zone, zones).local.slice(0, 10));
  return formatInstant(toInstant(`${day.subtract({ days: ahead }).toString()}T00:00:00`, zone).instant);
}

function judgeSeries(context: LaneContext, when: When, recurrence: string, window: Window): Verdict | null {
  const { from, until, condition, ahead } = boundsOf(context, window);
  const { occurs, next } = occursWithin({ when, recurrence }, { from, until, home: context.zone }, context.zones);
  if (occurs) return null;
  const said = `${formatWhen(when)}, ${sayRules(parseRecurrence(recurrence).rules)}`;
  return verdict('out of the window', `it has an occurrence ${condition}`, said, next === null ? null : entersAt(context, next, ahead));
}

export const momentLinks = (context: LaneContext, moment: Moment): Link[] => linksOf(context.definition, moment, context.collection.fields);

/** When a left-out item takes place; null for a private one. */
export const openTime = (verdict: Verdict, when: When | null | undefined): When | null => (verdict.reason === 'private' ? null : (when ?? null));

/** How an item that is left out is called in lists: what is private is not named to everybody who reads them. */
export const labelOfLeftOut = (verdict: Verdict, label: string, id: string | null): string =>
  verdict.reason === 'private' ? (id ?? 'a private event') : label;
