import type { LaneContext } from '../engine/context.ts';
import type { LinkValues } from '../engine/pair.ts';
import type { EventRead } from '../ical/event-text.ts';
import type { Attendee } from '../maps/properties.ts';
import type { PropertyName } from '../maps/property-names.ts';

/** What an event says to the calendar's owner alone; everything else belongs to its organizer (RFC 5546, 2.1.4). */
const ownersProperties: ReadonlySet<PropertyName> = new Set(['categories', 'busy', 'visibility', 'reminders', 'colour', 'replies']);
export const belongsToOrganizer = (property: PropertyName): boolean => !ownersProperties.has(property);

/**
 * Who organises an event, where that is somebody else than the owner of the calendar; null: it is ours to change, or it is
 * not known whose calendar it is.
 * @param shown what the record says
 */
export function otherOrganizer({ values, mark }: EventRead, shown: LinkValues, context: LaneContext): Attendee | null {
  const { organizer } = values;
  const { ownerAddresses, ownAddresses } = context;
  if (organizer === null || ownerAddresses === undefined || ownerAddresses.size === 0 || mark?.lane === context.lane) return null;
  const email = organizer.email.toLowerCase();
  const meant = (shown['organizer'] as Attendee | null | undefined)?.email.toLowerCase();
  return ownerAddresses.has(email) || ownAddresses?.has(email) === true || email === meant ? null : organizer;
}
