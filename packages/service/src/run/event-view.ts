import {
  type Baseline,
  type EventView,
  foreignMark,
  type LaneContext,
  noValues,
  type Pair,
  readEvent,
  UnreadableEvent,
  unescapeText,
  valuesAt,
} from '@monsoon/core';
import type { StoredEvent } from '@monsoon/systems';
import { sayError } from '../errors.ts';

/** An event as it is stored, and as far as it can be read. */
export function viewOf(event: StoredEvent, context: Pick<LaneContext, 'zones' | 'formerLanes'>): EventView {
  try {
    const read = readEvent(event.text, context.zones);
    const claimed = read.mark !== null && context.formerLanes?.has(read.mark.lane) !== true;
    return { ...event, read: claimed ? read : { ...read, mark: null } };
  } catch (error) {
    // Whatever it is that a reader stumbles over, it is this event that cannot be read.
    const unreadable = error instanceof UnreadableEvent ? error.message : sayError(error);
    return { ...event, read: null, unreadable, title: titleIn(event.text) };
  }
}

/** The title of a text that cannot be understood, where a line of it still says one. */
const titleIn = (text: string): string | undefined => {
  const line = /^SUMMARY[^:\r\n]{0,200}:([^\r\n]{1,200})/m.exec(text)?.[1];
  return line === undefined ? undefined : unescapeText(line).trim() || undefined;
};

/** An event of which its ETag alone says that it is as it was last agreed on. */
export const viewAtAgreement = (pair: Pair & { href: string; baseline: Baseline }, etag: string): EventView => ({
  href: pair.href,
  etag,
  text: null,
  read: {
    uid: pair.uid,
    values: valuesAt(pair.baseline, noValues),
    mark: foreignMark(pair.baseline),
    repeating: pair.baseline.repeating ?? false,
    rules: [],
    modified: null,
    created: null,
    stamped: null,
    organizer: null,
  },
});
