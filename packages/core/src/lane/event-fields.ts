import type { EventRead } from '../ical/event-text.ts';
import type { Field, FieldValues, RecordItem } from '../record/fields.ts';
import type { When } from '../time/when.ts';

const field = (name: string, label: string, type: Field['type'], choices?: string[]): Field => ({ name, label, type, choices });

/** An event as conditions see it: the same small language, over these fields. */
export const eventFields: readonly Field[] = [
  field('title', 'Title', 'text'),
  field('description', 'Description', 'long text'),
  field('location', 'Location', 'place'),
  field('start', 'Start', 'date-time'),
  field('end', 'End', 'date-time'),
  field('all-day', 'All-day', 'yes/no'),
  field('repeating', 'Repeating', 'yes/no'),
  field('private', 'Private', 'yes/no'),
  field('status', 'Status', 'choice', ['tentative', 'confirmed', 'cancelled']),
  field('busy', 'Busy or free', 'choice', ['busy', 'free']),
  field('visibility', 'Visibility', 'choice', ['public', 'private', 'confidential']),
  field('categories', 'Categories', 'choices'),
  field('link', 'Link', 'web address'),
  field('conference', 'Conference link', 'web address'),
  field('colour', 'Colour', 'text'),
  field('organizer', 'Organizer', 'person'),
  field('attendees', 'Attendees', 'people'),
];

function edges(when: When | null): { start: string | null; end: string | null } {
  if (when === null) return { start: null, end: null };
  if (when.kind === 'all-day') return { start: `${when.first}T00:00:00`, end: `${when.end}T00:00:00` };
  const tail = when.zone === null ? '' : when.zone === 'UTC' ? 'Z' : `[${when.zone}]`;
  return { start: `${when.start}${tail}`, end: `${when.end}${tail}` };
}

/** An event as an item that conditions can judge. */
export function eventItem(read: EventRead): RecordItem {
  const { values } = read;
  const fields: FieldValues = {
    title: values.title,
    description: values.description,
    location: values.location,
    ...edges(values.when),
    'all-day': values.when?.kind === 'all-day',
    repeating: read.repeating || read.occurrence !== null,
    private: values.visibility === 'private' || values.visibility === 'confidential',
    status: values.status ?? 'confirmed',
    busy: values.busy ?? 'busy',
    visibility: values.visibility ?? 'public',
    categories: values.categories,
    link: values.link,
    conference: values.conference,
    colour: values.colour,
    organizer: values.organizer,
    attendees: values.attendees,
  };
  return { id: read.uid, fields, created: read.created ?? undefined, modified: read.modified ?? undefined };
}
