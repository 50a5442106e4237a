import { hostedRights as rightNames } from '@monsoon/contract';
import { sql } from 'drizzle-orm';
import { bigint, boolean, index, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';
import { people } from './access.ts';

/** Calendars that Monsoon keeps itself. */
export const hostedCalendars = pgTable('hosted_calendars', {
  id: uuid('id').primaryKey().defaultRandom(),
  /** its last path segment at the door */
  slug: text('slug').notNull().unique(),
  name: text('name').notNull(),
  /** `#rrggbb` */
  colour: text('colour'),
  description: text('description').notNull().default(''),
  /** iCalendar text of a VTIMEZONE, as a program gave it (RFC 4791, 5.2.2) */
  timezone: text('timezone'),
  /** what programs keep there for themselves (RFC 4918, 4.1): XML by local name, space, namespace */
  properties: jsonb('properties').$type<Record<string, string>>().notNull().default({}),
  holds: text('holds', { enum: ['events', 'tasks'] })
    .notNull()
    .default('events'),
  /** counts every change of its objects; writers of one calendar take turns, so that changes become visible in this order */
  revision: bigint('revision', { mode: 'number' }).notNull().default(0),
  /** deletions up to this revision are no longer known */
  forgotten: bigint('forgotten', { mode: 'number' }).notNull().default(0),
  /** another after a restore from a backup: revisions are then counted again from an earlier one */
  epoch: uuid('epoch').notNull().defaultRandom(),
  owner: uuid('owner').references(() => people.id, { onDelete: 'set null' }),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

/** What stands on a hosted calendar, and for a while what was deleted from it. Written by the function `put_hosted` alone. */
export const hostedObjects = pgTable(
  'hosted_objects',
  {
    calendar: uuid('calendar')
      .notNull()
      .references(() => hostedCalendars.id, { onDelete: 'cascade' }),
    /** the last path segment of its address, decoded */
    name: text('name').notNull(),
    uid: text('uid').notNull(),
    etag: text('etag').notNull(),
    /** octet for octet as it was written; null: deleted */
    text: text('text'),
    /** VEVENT or VTODO */
    component: text('component').notNull(),
    /** seconds since 1970 that cover every occurrence; null: without an end. Days and floating times are widened by all zones */
    starts: bigint('starts', { mode: 'number' }),
    ends: bigint('ends', { mode: 'number' }),
    /** a part of it is private; a part of it takes time: decides what a reduced sight shows without reading the text */
    isPrivate: boolean('is_private').notNull().default(false),
    isBusy: boolean('is_busy').notNull().default(true),
    revision: bigint('revision', { mode: 'number' }).notNull(),
    /** the revision at which those who see taken time alone, or what is not private, lost sight of it last: kept by triggers */
    leftBusy: bigint('left_busy', { mode: 'number' }),
    leftPublic: bigint('left_public', { mode: 'number' }),
    changedAt: time('changed_at').notNull().default(sql`now()`),
  },
  (t) => [
    primaryKey({ columns: [t.calendar, t.name] }),
    uniqueIndex('hosted_objects_revision').on(t.calendar, t.revision),
    uniqueIndex('hosted_objects_uid').on(t.calendar, t.uid).where(sql`text is not null`),
    index('hosted_objects_time').on(t.calendar, t.starts).where(sql`text is not null`),
  ],
);

/** Who may do what with a hosted calendar. What is said of a person goes before what is said of their role. */
export const hostedRights = pgTable(
  'hosted_rights',
  {
    calendar: uuid('calendar')
      .notNull()
      .references(() => hostedCalendars.id, { onDelete: 'cascade' }),
    person: uuid('person').references(() => people.id, { onDelete: 'cascade' }),
    role: text('role'),
    may: text('may', { enum: rightNames }).notNull(),
  },
  (t) => [
    uniqueIndex('hosted_rights_person').on(t.calendar, t.person).where(sql`person is not null`),
    uniqueIndex('hosted_rights_role').on(t.calendar, t.role).where(sql`role is not null`),
  ],
);

/** Passwords by which calendar programs come in; each is for one device of one person. */
export const devicePasswords = pgTable('device_passwords', {
  id: uuid('id').primaryKey().defaultRandom(),
  person: uuid('person')
    .notNull()
    .references(() => people.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  hash: text('hash').notNull().unique(),
  createdAt: time('created_at').notNull().default(sql`now()`),
  lastUsedAt: time('last_used_at'),
  /** what the program calls itself */
  agent: text('agent').notNull().default(''),
});
