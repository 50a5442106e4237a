/** What an event has, in the order in which people want to read it. In a file of its own, because every page needs it. */
export const propertyNames = [
  'when',
  'recurrence',
  'title',
  'location',
  'description',
  'attendees',
  'replies',
  'ownReply',
  'organizer',
  'categories',
  'busy',
  'status',
  'visibility',
  'reminders',
  'link',
  'conference',
  'colour',
] as const;
export type PropertyName = (typeof propertyNames)[number];

/** What an event says to the calendar's owner alone; everything else belongs to its organizer (RFC 5546, 2.1.4). */
const ownersProperties: ReadonlySet<PropertyName> = new Set(['categories', 'busy', 'visibility', 'reminders', 'colour', 'replies', 'ownReply']);
export const belongsToOrganizer = (property: PropertyName): boolean => !ownersProperties.has(property);
