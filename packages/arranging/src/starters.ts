import type { Collection, FieldMap, RecordItem } from '@monsoon/core';

import {
  type Direction,
  fieldOfType,
  mapsOf,
  type Suggestion,
  suggestMaps,
  suggestMoments,
  suggestPrivate,
  suggestWhens,
  usedBy,
  valuesOf,
} from './suggest.ts';

/** A lane as far as it is arranged: the shape of a lane file, any part of which may still be missing. */
export type LaneDraft = Record<string, unknown>;

export interface Starter {
  slug: string;
  name: string;
  hint: string;
  direction: Direction;
}

/** Prepared lanes for common needs. Each asks for the two sides and takes the rest from the fields found. */
export const starters = [
  {
    slug: 'activities',
    name: 'Activities, both ways',
    hint: 'Visits, meetings and calls with a time: moved on either side, kept alike on both.',
    direction: '<->',
  },
  {
    slug: 'due-tasks',
    name: 'Tasks by due date',
    hint: 'Open tasks as all-day events on the day they are due; dragging one moves the due date.',
    direction: '<->',
  },
  {
    slug: 'several-dates',
    name: 'Several dates of one record',
    hint: 'Each dated field of a contract or order as an event of its own.',
    direction: '->',
  },
  {
    slug: 'time-log',
    name: 'Finished time entries as a log',
    hint: 'What was done when, to be seen on the calendar; busy time, never changed from there.',
    direction: '->',
  },
  { slug: 'absences', name: 'Absences as all-day events', hint: 'First and last day of leave, for each site a category.', direction: '->' },
  { slug: 'calendar-to-table', name: 'Calendar into a table', hint: 'New events become rows, and edits of events change them.', direction: '<-' },
  {
    slug: 'words-to-status',
    name: 'Words of a title into a status',
    hint: 'A word in the title of an event chooses a value: a board of who is where.',
    direction: '<-',
  },
  {
    slug: 'feed-to-table',
    name: 'Feed into a table',
    hint: 'Holidays and other subscribed events as rows; what leaves the feed leaves the table only when you say so.',
    direction: '<-',
  },
  {
    slug: 'table-to-calendar',
    name: 'Table to a read-only calendar',
    hint: 'Rows to be seen on a calendar; edits there are put back.',
    direction: '->',
  },
  {
    slug: 'records-to-address',
    name: 'Records to an address',
    hint: 'Records as a calendar that others subscribe to: Monsoon keeps the calendar, and no calendar server is needed.',
    direction: '->',
  },
] as const satisfies Starter[];
export type StarterName = (typeof starters)[number]['slug'];

export interface Arranged {
  definition: LaneDraft;
  /** why each part is as it is, by its place in the lane file (RFC 6901) */
  reasons: { pointer: string; reason: string }[];
}

interface Asked {
  records: { system: string; collection: string };
  calendar?: { system: string; calendar: string } | undefined;
  direction?: Direction | undefined;
  starter?: StarterName | undefined;
  zone: string;
}

/**
 * A lane for these two sides: the times and field maps that the fields and their values suggest, with what the starter
 * says. What is not known stays out, to be chosen by a person.
 */
export function arrange(collection: Collection, samples: readonly RecordItem[], asked: Asked): Arranged {
  const starter = starters.find((s) => s.slug === asked.starter);
  const direction = asked.direction ?? starter?.direction ?? '->';
  const reasons: Arranged['reasons'] = [];
  const because = (pointer: string, reason: string) => reasons.push({ pointer, reason });
  const when = chooseWhen(suggestWhens(collection, samples), asked.starter);
  const several = asked.starter === 'several-dates' ? suggestMoments(collection) : [];
  const moments =
    several.length > 0 ? several : when === undefined ? [] : [{ name: collection.label.toLowerCase().replace(/s$/, ''), when: when.value }];
  if (several.length > 0) because('/moments', 'each dated field is a moment of its own');
  else if (when !== undefined) because('/moments/0/when', when.reason);
  const suggested = suggestMaps(collection, samples, direction, usedBy(when?.value));
  for (const [property, s] of Object.entries(suggested)) because(`/fields/${property}`, s.reason);
  const hidden = direction === '<-' ? null : suggestPrivate(collection);
  if (hidden !== null) because('/private', `${hidden} marks what others must not see`);
  const fields: Record<string, FieldMap | FieldMap[]> = { ...mapsOf(suggested) } as never;
  const own = special(asked.starter, collection, samples, fields);
  for (const [pointer, reason] of own.reasons) because(pointer, reason);
  // What its system does not let be done is not asked for.
  const barred = direction === '->' ? [] : (['create', 'change', 'remove'] as const).filter((what) => !collection.may[what]);
  if (barred.length > 0) {
    const { records, ...rest } = (own.settings['may'] ?? {}) as { records?: object };
    own.settings['may'] = { ...rest, records: { ...records, ...Object.fromEntries(barred.map((what) => [what, false])) } };
    because(
      '/may/records',
      `${collection.label} lets its records not be ${barred.map((what) => (what === 'create' ? 'made' : `${what}d`)).join(' or ')}`,
    );
  }
  return {
    definition: {
      name: collection.label,
      records: asked.records,
      ...(asked.calendar === undefined ? {} : { calendar: asked.calendar }),
      direction,
      zone: asked.zone,
      ...(hidden === null ? {} : { private: { field: hidden, treat: 'leave out' } }),
      window: { behind: 30, ahead: 365 },
      moments,
      fields,
      ...own.settings,
    },
    reasons,
  };
}

/** A starter prefers some ways to read a time. */
function chooseWhen(found: Suggestion<object>[], starter: StarterName | undefined): Suggestion<never> | undefined {
  const prefers = {
    'due-tasks': (w: object) => 'day' in w || 'due' in w,
    absences: (w: object) => 'first' in w,
  }[starter as string];
  return (found.find((s) => prefers?.(s.value) === true) ?? found[0]) as Suggestion<never> | undefined;
}

type Special = { settings: LaneDraft; reasons: [string, string][] };

/** What a starter says beside the suggestions. @param fields is added to */
function special(
  starter: StarterName | undefined,
  collection: Collection,
  samples: readonly RecordItem[],
  fields: Record<string, FieldMap | FieldMap[]>,
): Special {
  const status = fieldOfType(collection, 'status', ['choice']);
  const values = status === undefined ? [] : valuesOf(status, samples).map((v) => v.value);
  const ended = values.filter((v) => /^(done|finished|complete|closed|cancel|returned|ended)/i.test(v));
  const quote = (v: string) => (/^[\p{L}\p{N}-]+$/u.test(v) ? v : JSON.stringify(v));
  switch (starter) {
    case 'due-tasks':
      fields['busy'] = { fixed: 'free' };
      return {
        settings: {
          may: { records: { create: false, remove: false } },
          ...(ended.length === 0 ? {} : { filter: `${status!.name} none of [${ended.map(quote).join(', ')}]` }),
        },
        reasons: [
          ['/fields/busy', 'a day on which something is due is not a busy day'],
          ...(ended.length === 0 ? [] : [['/filter', `${status!.label} says which tasks are finished`] as [string, string]]),
        ],
      };
    case 'activities':
      fields['busy'] = { fixed: 'busy' };
      return {
        settings: {
          may: { records: { create: false, remove: false } },
          ...(values.some((v) => /cancel/i.test(v))
            ? {
                filter: `${status!.name} none of [${values
                  .filter((v) => /cancel/i.test(v))
                  .map(quote)
                  .join(', ')}]`,
              }
            : {}),
        },
        reasons: [['/may', 'new activities are made in the records; edits go both ways']],
      };
    case 'several-dates':
      return { settings: {}, reasons: [] };
    case 'time-log':
      fields['busy'] = { fixed: 'busy' };
      return { settings: { foreignEdits: 'put back', window: { behind: 365, ahead: 30 } }, reasons: [['/window', 'a log looks back']] };
    case 'absences': {
      fields['busy'] = { fixed: 'busy' };
      const site = collection.fields.find((f) => /site|office|branch|location/i.test(f.name) && ['choice', 'text'].includes(f.type));
      if (site !== undefined) {
        fields['categories'] = { copy: site.name };
        if ('copy' in (fields['location'] ?? {}) && (fields['location'] as { copy: string }).copy === site.name) delete fields['location'];
        return { settings: {}, reasons: [['/fields/categories', `${site.label} tells the sites apart`]] };
      }
      return { settings: {}, reasons: [] };
    }
    case 'words-to-status':
      if (status !== undefined && values.length > 0) {
        // What words choose is written by nothing else.
        for (const [property, map] of Object.entries(fields))
          if ([map].flat().some((m) => 'copy' in m && m.copy === status.name)) delete fields[property];
        const copied = fields['title'] === undefined ? [] : [fields['title']].flat();
        fields['title'] = [
          ...copied,
          { words: status.name, choose: values.slice(1).map((value) => ({ word: value, value })), default: values[0]!, direction: '<-' },
        ];
        return {
          settings: collection.may.remove ? { departures: { eventDeleted: 'delete record', eventCancelled: 'as deleted' } } : {},
          reasons: [['/fields/title', `${status.label} is chosen by the word that its title has`]],
        };
      }
      return { settings: {}, reasons: [] };
    case 'feed-to-table':
      return {
        settings: { may: { calendar: { create: false, change: false, remove: false } }, departures: { eventDeleted: 'hold' } },
        reasons: [['/may', 'a feed is read only']],
      };
    case 'table-to-calendar':
    case 'records-to-address':
      return {
        settings: {
          foreignEdits: 'put back',
          departures: { recordDeleted: 'remove', filteredOut: 'remove', dateLost: 'remove', eventDeleted: 'create again' },
        },
        reasons: [['/departures', 'the table alone decides what is there']],
      };
    case 'calendar-to-table':
    case undefined:
      return { settings: {}, reasons: [] };
  }
}
