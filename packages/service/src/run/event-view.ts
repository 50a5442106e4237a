import { type EventView, type LaneContext, readEvent, UnreadableEvent } from '@monsoon/core';
import type { StoredEvent } from '@monsoon/systems';

/** An event as it is stored, and as far as it can be read. */
export function viewOf(event: StoredEvent, context: Pick<LaneContext, 'zones' | 'formerLanes'>): EventView {
  try {
    const read = readEvent(event.text, context.zones);
    const claimed = read.mark !== null && context.formerLanes?.has(read.mark.lane) !== true;
    return { ...event, read: claimed ? read : { ...read, mark: null } };
  } catch (error) {
    if (!(error instanceof UnreadableEvent)) throw error;
    return { ...event, read: null, unreadable: error.message };
  }
}
