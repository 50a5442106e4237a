import type { FeedSettings } from '@monsoon/contract';
import { sql } from 'drizzle-orm';
import { bigint, date, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';
import { lanes } from './lanes.ts';
import { systems } from './systems.ts';

/** Secret addresses at which anybody who has one may read a calendar. */
export const feeds = pgTable('feeds', {
  id: uuid('id').primaryKey().defaultRandom(),
  slug: text('slug').notNull().unique(),
  /** what it is found by */
  secretHash: text('secret_hash').notNull().unique(),
  /** the secret part of its address, sealed: to show it again */
  secret: text('secret').notNull(),
  system: uuid('system')
    .notNull()
    .references(() => systems.id),
  calendar: text('calendar').notNull(),
  calendarName: text('calendar_name').notNull(),
  /** of that calendar, only what this lane follows there */
  lane: uuid('lane').references(() => lanes.id, { onDelete: 'cascade' }),
  settings: jsonb('settings').$type<FeedSettings>().notNull(),
  /** from then on the address is as unknown */
  endsAt: time('ends_at'),
  revokedAt: time('revoked_at'),
  /** counts the looks that found something else to show */
  revision: integer('revision').notNull().default(0),
  /** how far its calendar was read, and how often */
  cursor: text('cursor'),
  looks: integer('looks').notNull().default(0),
  lookedAt: time('looked_at'),
  /** why the last look failed */
  trouble: text('trouble'),
  fetches: bigint('fetches', { mode: 'number' }).notNull().default(0),
  lastFetchedAt: time('last_fetched_at'),
  madeBy: text('made_by').notNull(),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

/** What a feed shows of each object of its calendar. Worked out again from the calendar, when it is lost. */
export const feedObjects = pgTable(
  'feed_objects',
  {
    feed: uuid('feed')
      .notNull()
      .references(() => feeds.id, { onDelete: 'cascade' }),
    href: text('href').notNull(),
    etag: text('etag'),
    /** VEVENTs; null: nothing of it is shown */
    text: text('text'),
    /** IANA names, and definitions of zones that are the calendar's own, as text by their names */
    zones: jsonb('zones').$type<string[]>().notNull().default([]),
    defined: jsonb('defined').$type<Record<string, string>>().notNull().default({}),
    /** seconds since 1970 that cover every occurrence; null: without an end */
    starts: bigint('starts', { mode: 'number' }),
    ends: bigint('ends', { mode: 'number' }),
    /** the look that saw it last, of those that listed everything */
    look: integer('look').notNull(),
  },
  (t) => [primaryKey({ columns: [t.feed, t.href] })],
);

/** Who fetched, by a hash that says nothing of them, day by day. */
export const feedAskers = pgTable(
  'feed_askers',
  {
    feed: uuid('feed')
      .notNull()
      .references(() => feeds.id, { onDelete: 'cascade' }),
    day: date('day').notNull(),
    asker: text('asker').notNull(),
    fetches: integer('fetches').notNull(),
  },
  (t) => [primaryKey({ columns: [t.feed, t.day, t.asker] }), index('feed_askers_day').on(t.day)],
);
