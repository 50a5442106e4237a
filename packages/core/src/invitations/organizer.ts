import type { LaneContext } from '../engine/context.ts';
import { isMadeFor, type LinkValues, type Pair } from '../engine/pair.ts';
import type { EventRead } from '../ical/event-text.ts';
import type { Attendee } from '../maps/properties.ts';

/**
 * Who organises an event, where that is somebody else than the owner of the calendar; null: it is ours to change, or it is
 * not known whose calendar it is.
 * @param shown what the record says
 */
export function otherOrganizer({ values, uid }: EventRead, pair: Pair, shown: LinkValues, context: LaneContext): Attendee | null {
  const { organizer } = values;
  const { ownerAddresses, ownAddresses } = context;
  if (organizer === null || ownerAddresses === undefined || ownerAddresses.size === 0) return null;
  if (isMadeFor(pair, context.lane, uid)) return null;
  const email = organizer.email.toLowerCase();
  const meant = (shown['organizer'] as Attendee | null | undefined)?.email.toLowerCase();
  return ownerAddresses.has(email) || ownAddresses?.has(email) === true || email === meant ? null : organizer;
}
