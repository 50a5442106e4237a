import type { LaneDraft } from '@monsoon/arranging';
import type { LaneDefinition, When } from '@monsoon/core';
import { sql } from 'drizzle-orm';
import { bigint, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';
import { people } from './access.ts';
import { systems } from './systems.ts';

export const lanes = pgTable('lanes', {
  id: uuid('id').primaryKey().defaultRandom(),
  slug: text('slug').notNull().unique(),
  version: integer('version').notNull(),
  definition: jsonb('definition').$type<LaneDefinition>().notNull(),
  state: text('state', { enum: ['running', 'paused'] }).notNull(),
  /** who arranges it, besides administrators */
  owner: uuid('owner').references(() => people.id, { onDelete: 'set null' }),
  recordsSystem: uuid('records_system')
    .notNull()
    .references(() => systems.id),
  calendarSystem: uuid('calendar_system')
    .notNull()
    .references(() => systems.id),
  calendarName: text('calendar_name').notNull(),
  /** failed runs in a row, and what was wrong with the last */
  failures: integer('failures').notNull().default(0),
  trouble: text('trouble'),
  /** the version that the last complete sweep was made with */
  sweptVersion: integer('swept_version'),
  sweptAt: time('swept_at'),
  auditedAt: time('audited_at'),
  /** put back from a backup, and not read whole since: what is known of it may be older than both sides */
  restoredAt: time('restored_at'),
  /** since when its guests are invited: the first run with that setting is over */
  invitesSince: time('invites_since'),
  lastRunAt: time('last_run_at'),
  nextRunAt: time('next_run_at'),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

/** Lanes that were removed, or stopped for good: what carries their mark on a calendar is anybody's again. */
export const formerLanes = pgTable('former_lanes', {
  id: uuid('id').primaryKey(),
  slug: text('slug').notNull(),
  since: time('since').notNull().default(sql`now()`),
});

export const laneVersions = pgTable(
  'lane_versions',
  {
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    version: integer('version').notNull(),
    definition: jsonb('definition').$type<LaneDefinition>().notNull(),
    /** the lane file that it came from, with its comments; null: arranged without one */
    file: text('file'),
    madeBy: text('made_by').notNull(),
    madeAt: time('made_at').notNull().default(sql`now()`),
  },
  (t) => [primaryKey({ columns: [t.lane, t.version] })],
);

/** Lanes that are being arranged: new ones, and at most one beside each that runs. Any part may still be missing. */
export const drafts = pgTable('drafts', {
  id: uuid('id').primaryKey().defaultRandom(),
  /** the lane that it changes, and the version that it began from */
  lane: uuid('lane')
    .unique()
    .references(() => lanes.id, { onDelete: 'cascade' }),
  laneVersion: integer('lane_version'),
  slug: text('slug').notNull(),
  definition: jsonb('definition').$type<LaneDraft>().notNull(),
  /** counts the savings, so that two people cannot overwrite each other */
  version: integer('version').notNull().default(1),
  madeBy: text('made_by').notNull().default(''),
  editedBy: text('edited_by').notNull(),
  editedAt: time('edited_at').notNull().default(sql`now()`),
});

export const cursors = pgTable(
  'cursors',
  {
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    side: text('side', { enum: ['records', 'calendar'] }).notNull(),
    cursor: text('cursor').notNull(),
    movedAt: time('moved_at').notNull().default(sql`now()`),
  },
  (t) => [primaryKey({ columns: [t.lane, t.side] })],
);

export const verdicts = pgTable(
  'verdicts',
  {
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    /** empty for an event that has no record */
    recordId: text('record_id').notNull(),
    /** where that event is; empty for records */
    href: text('href').notNull().default(''),
    moment: text('moment').notNull(),
    label: text('label').notNull(),
    reason: text('reason').notNull(),
    condition: text('condition').notNull(),
    value: text('value').notNull(),
    recheckAt: time('recheck_at'),
    attempts: integer('attempts').notNull().default(0),
    at: time('at').notNull().default(sql`now()`),
    /** when the item takes place, where that is known and no secret */
    when: jsonb('when').$type<When>(),
    firstDay: text('first_day').generatedAlwaysAs(sql`coalesce("when" ->> 'first', left("when" ->> 'start', 10))`),
  },
  (t) => [
    primaryKey({ columns: [t.lane, t.recordId, t.href, t.moment] }),
    index('verdicts_recheck').on(t.lane, t.recheckAt),
    index('verdicts_days').on(t.lane, t.firstDay),
  ],
);

/**
 * Series that a lane takes apart, as they were when they were last read: while the ETag is the same, nothing has to be
 * worked out again. What is lost here is read again.
 */
export const series = pgTable(
  'series',
  {
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    /** of the calendar object */
    href: text('href').notNull(),
    etag: text('etag'),
    /** recurrence-id and what names the content, of each that was in the window once */
    occurrences: jsonb('occurrences').$type<[id: string, tag: string][]>().notNull(),
    /** when the next one begins that was not in the window; null: none does */
    nextAt: time('next_at'),
  },
  (t) => [primaryKey({ columns: [t.lane, t.href] }), index('series_next').on(t.lane, t.nextAt)],
);

/**
 * What a sweep found listed, under the sweep's own id: runs and forecasts of one lane may overlap. Unlogged: a sweep
 * that a crash interrupts begins again, and what it left behind goes with a later one.
 */
export const sweptEvents = pgTable(
  'swept_events',
  { sweep: uuid('sweep').notNull(), href: text('href').notNull(), etag: text('etag'), begunAt: time('begun_at').notNull().default(sql`now()`) },
  (t) => [primaryKey({ columns: [t.sweep, t.href] })],
);
export const sweptRecords = pgTable(
  'swept_records',
  { sweep: uuid('sweep').notNull(), id: text('id').notNull(), begunAt: time('begun_at').notNull().default(sql`now()`) },
  (t) => [primaryKey({ columns: [t.sweep, t.id] })],
);

/** Who may write for a lane: each turn raises the number, and writes of an earlier turn are refused (a fencing token). */
export const laneFences = pgTable('lane_fences', {
  lane: uuid('lane')
    .primaryKey()
    .references(() => lanes.id, { onDelete: 'cascade' }),
  fence: bigint('fence', { mode: 'number' }).notNull(),
});

/** How many pairs a lane follows. Triggers keep it: counting 200,000 rows for each look at the lanes takes too long. */
export const laneCounts = pgTable('lane_counts', {
  lane: uuid('lane')
    .primaryKey()
    .references(() => lanes.id, { onDelete: 'cascade' }),
  pairs: integer('pairs').notNull(),
});
