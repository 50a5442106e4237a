import { type EventView, type LaneContext, readEvent, UnreadableEvent } from '@monsoon/core';
import type { StoredEvent } from '@monsoon/systems';

/** An event as it is stored, and as far as it can be read. */
export function viewOf(event: StoredEvent, context: Pick<LaneContext, 'zones'>): EventView {
  try {
    return { ...event, read: readEvent(event.text, context.zones) };
  } catch (error) {
    if (!(error instanceof UnreadableEvent)) throw error;
    return { ...event, read: null, unreadable: error.message };
  }
}
