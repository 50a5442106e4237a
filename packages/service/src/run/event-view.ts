import {
  type Baseline,
  type EventValues,
  type EventView,
  foreignMark,
  type LaneContext,
  noValues,
  type OccurrenceFacts,
  type Pair,
  placeName,
  placeOf,
  readEvent,
  UnreadableEvent,
  unescapeText,
  valuesAt,
  withOwnReply,
} from '@monsoon/core';
import type { StoredEvent } from '@monsoon/systems';
import { sayError } from '../errors.ts';

/** An event as it is stored, and as far as it can be read. */
export function viewOf(event: StoredEvent, context: Pick<LaneContext, 'zones' | 'formerLanes' | 'ownerAddresses'>): EventView {
  try {
    if (event.unfit !== undefined) throw new UnreadableEvent(event.unfit);
    const { occurrence } = event;
    const own = withOwnReply(readEvent(event.text, context.zones), context.ownerAddresses);
    const read = occurrence === undefined ? own : { ...own, occurrence, repeating: false, uid: placeName(own.uid, occurrence.id) };
    const claimed = read.mark !== null && context.formerLanes?.has(read.mark.lane) !== true;
    return { href: event.href, etag: event.etag, text: event.text, read: claimed ? read : { ...read, mark: null } };
  } catch (error) {
    // Whatever it is that a reader stumbles over, it is this event that cannot be read.
    const unreadable = error instanceof UnreadableEvent ? error.message : sayError(error);
    return { href: event.href, etag: event.etag, text: event.text, read: null, unreadable, title: titleIn(event.text) };
  }
}

/** The title of a text that cannot be understood, where a line of it still says one. */
const titleIn = (text: string): string | undefined => {
  const line = /^SUMMARY[^:\r\n]{0,200}:([^\r\n]{1,200})/m.exec(text)?.[1];
  return line === undefined ? undefined : unescapeText(line).trim() || undefined;
};

/** What its address alone says of an occurrence. */
function occurrenceIn(href: string): OccurrenceFacts | null {
  const { id } = placeOf(href);
  return id === null ? null : { id, rules: [], isOverride: false };
}

/** An event of which its ETag alone says that it is as it was last agreed on. */
export const viewAtAgreement = (pair: Pair & { href: string; baseline: Baseline }, etag: string): EventView => ({
  href: pair.href,
  etag,
  text: null,
  read: {
    uid: pair.uid,
    values: seenAt(pair.baseline),
    mark: foreignMark(pair.baseline),
    repeating: pair.baseline.repeating ?? false,
    rules: [],
    occurrence: occurrenceIn(pair.href),
    modified: null,
    created: null,
    stamped: null,
    sequence: 0,
  },
});

/** What both sides agreed on, and what else the event said that its being followed depends on. */
const seenAt = (baseline: Baseline): EventValues => {
  const { organizer, recurrence } = baseline;
  const values = valuesAt(baseline, noValues);
  return {
    ...values,
    recurrence: values.recurrence ?? recurrence ?? null,
    organizer: values.organizer ?? (organizer === undefined ? null : { email: organizer }),
  };
};
