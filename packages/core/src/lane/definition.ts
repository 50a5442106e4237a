import type { FieldMap, MapDirection } from '../maps/field-map.ts';

import type { MappableName, PropertyName } from '../maps/properties.ts';
import type { Condition } from '../record/condition.ts';
import type { WhenSource } from './when-source.ts';

/** One dated aspect of a record. */
export interface Moment {
  name: string;
  when: WhenSource;
  /** which way the time goes; the lane's direction unless said */
  direction?: MapDirection | undefined;
  /** which records have this moment, beside the lane's filter */
  filter?: Condition | null | undefined;
  /** field maps of this moment alone; they go before the lane's */
  fields?: FieldMaps | undefined;
}

/** For each property its map; further maps of the same property only come back from it. */
export type FieldMaps = Partial<Record<MappableName, FieldMap | FieldMap[]>>;

/** What may become of an item that stops belonging; the first is the default. */
export const departureChoices = {
  recordDeleted: ['hold', 'remove', 'mark cancelled', 'keep'],
  filteredOut: ['hold', 'remove', 'keep'],
  dateLost: ['hold', 'remove', 'keep'],
  eventDeleted: ['hold', 'delete record', 'set fields', 'create again', 'unlink'],
  eventCancelled: ['hold', 'as deleted', 'set fields'],
  eventFilteredOut: ['hold', 'delete record', 'keep'],
  editedAndDeleted: ['hold', 'edit wins', 'deletion wins'],
} as const;
export type Departure = keyof typeof departureChoices;
export type Departures = { [D in Departure]: (typeof departureChoices)[D][number] };
export type DepartureChoice = Departures[Departure];

export const conflictRules = ['hold', 'records win', 'calendar wins', 'later edit wins'] as const;
export type ConflictRule = (typeof conflictRules)[number];

/** Who invites the guests of a lane's events; `none`: they get no message. */
export const invitationChoices = ['none', 'calendar server', 'mail'] as const;

/** What invitations may show besides title, time, rule and status. */
export const shownProperties = ['location', 'description', 'link', 'conference'] as const;

export const repeatingChoices = ['leave out', 'each occurrence', 'one record'] as const;

/** What may be done on one side. */
export interface Permissions {
  create: boolean;
  change: boolean;
  remove: boolean;
}

/** The standing arrangement between one collection and one calendar. */
export interface LaneDefinition {
  name: string;
  records: { system: string; collection: string };
  /** the calendar's address on its server, or its name when a lane file is applied */
  calendar: { system: string; calendar: string };
  direction: '->' | '<-' | '<->';
  /** what the lane may do on each side; what the direction implies unless said */
  may: { records: Permissions; calendar: Permissions };
  /** IANA name; for dates, days of the window, and wall clocks without a zone */
  zone: string;
  filter: Condition | null;
  /** which events belong, where the calendar's items become records */
  events: {
    filter: Condition | null;
    private: 'leave out' | 'take';
    /**
     * what becomes of a series: nothing, a record of each occurrence in the window, or one record, whose time is that of
     * the first occurrence
     */
    repeating: (typeof repeatingChoices)[number];
    otherLanes: 'leave out' | 'take';
    /** the moment that a new event becomes; the first unless said */
    moment: string | null;
    /** what becomes of an edit of the record where somebody else organises the event: a question, or it is left alone */
    organisedByOthers: 'hold' | 'leave';
    /** addresses under which the calendar's owner organises events, where its server does not say */
    ownAddresses: string[];
  };
  invitations: {
    by: (typeof invitationChoices)[number];
    /** guests of what is there when the lane begins to invite */
    firstRun: 'quiet' | 'invite';
    /** what invitations show besides title, time, rule and status */
    shows: (typeof shownProperties)[number][];
    /** seconds that a mail waits for further edits */
    wait: number;
    /** mails of one run, and to one guest in a day, beyond which the run waits for a person */
    perRun: number;
    perGuest: number;
  };
  private: { field: string; treat: 'leave out' | 'take' } | null;
  /** days behind and ahead of today */
  window: { behind: number; ahead: number } | null;
  /** RFC 3339: only records made since */
  startLine: string | null;
  moments: Moment[];
  fields: FieldMaps;
  /** values of fields in records that the calendar creates */
  defaults: Record<string, string | number | boolean>;
  /** a field that holds the event's UID */
  link: string | null;
  /** what items are matched by when they are first paired: the start for "when"; nothing: never */
  matching: PropertyName[];
  conflicts: {
    rule: ConflictRule;
    /** seconds by which two clocks may differ */
    tolerance: number;
    /** rules of single properties */
    fields: Partial<Record<PropertyName, ConflictRule>>;
  };
  departures: Departures;
  /** with "set fields": the values that a record gets when its event is deleted or cancelled; null empties */
  sets: { eventDeleted: Record<string, string | number | boolean | null>; eventCancelled: Record<string, string | number | boolean | null> };
  foreignEdits: 'put back' | 'leave';
  guard: { removals: number; removedPercent: number; rewrittenPercent: number };
  /** minutes between two regular checks */
  checkEvery: number;
  /** days between two audits; 0: only when asked */
  auditEvery: number;
  /** clock times of the lane's zone between which nothing crosses by itself; past midnight when the first is the later */
  quiet: { from: string; until: string } | null;
  /** e-mail addresses of those who are notified when the lane needs a person */
  notify: string[];
}

/** Every field map of a lane, those of its moments too. @param property only those of it */
export const fieldMapsOf = ({ fields, moments }: Pick<LaneDefinition, 'fields' | 'moments'>, property?: MappableName): FieldMap[] =>
  [fields, ...moments.map((m) => m.fields ?? {})].flatMap((maps) =>
    Object.entries(maps).flatMap(([name, given]) => (property === undefined || name === property ? [given ?? []].flat() : [])),
  );
