/** What an event has, in the order in which people want to read it. In a file of its own, because every page needs it. */
export const propertyNames = [
  'when',
  'recurrence',
  'title',
  'location',
  'description',
  'attendees',
  'replies',
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
