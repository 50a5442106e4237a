import { type AuditAnswer, type RunCounts, runStates } from '@monsoon/contract';
import { type Baseline, type Candidate, type Change, type Damage, type HoldQuestion, type LinkValues, pairStates } from '@monsoon/core';
import { sql } from 'drizzle-orm';
import { bigserial, boolean, index, integer, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';
import { lanes } from './lanes.ts';

/** A rule that is mapped stands among the values of both sides; one that no field holds is kept beside them. */
const ruleOfBaseline = sql.raw(`coalesce(baseline #>> '{event,recurrence}', baseline #>> '{record,recurrence}', baseline ->> 'recurrence')`);

export const pairs = pgTable(
  'pairs',
  {
    id: uuid('id').primaryKey(),
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    /** null while a record is being made for an event */
    recordId: text('record_id'),
    moment: text('moment').notNull(),
    uid: text('uid').notNull(),
    href: text('href'),
    etag: text('etag'),
    /** what the records' system called this content at the last agreement */
    version: text('version'),
    tried: time('tried'),
    state: text('state', { enum: pairStates }).notNull(),
    baseline: jsonb('baseline').$type<Baseline>(),
    attempted: jsonb('attempted').$type<Change[]>(),
    label: text('label').notNull(),
    laneVersion: integer('lane_version').notNull(),
    updatedAt: time('updated_at').notNull().default(sql`now()`),
    /** the days that both sides touch at the last agreement, each on the clock of its own zone; of a series, without an end */
    firstDay: text('first_day').generatedAlwaysAs(
      sql`least(coalesce(baseline #>> '{record,when,first}', left(baseline #>> '{record,when,start}', 10)), coalesce(baseline #>> '{event,when,first}', left(baseline #>> '{event,when,start}', 10)))`,
    ),
    lastDay: text('last_day').generatedAlwaysAs(
      sql`case when ${ruleOfBaseline} is not null then '9999-12-31' else greatest(left(baseline #>> '{record,when,end}', 10), left(baseline #>> '{event,when,end}', 10)) end`,
    ),
    /** of a series that is one record, how it repeats */
    recurrence: text('recurrence').generatedAlwaysAs(ruleOfBaseline),
  },
  (t) => [
    uniqueIndex('pairs_item').on(t.lane, t.recordId, t.moment),
    index('pairs_href').on(t.lane, t.href),
    index('pairs_state').on(t.lane, t.state),
    index('pairs_days').on(t.lane, t.firstDay),
    index('pairs_uid').on(t.lane, t.uid),
    index('pairs_unfinished').on(t.lane).where(sql`record_id is null`),
    index('pairs_object').on(t.lane, sql`split_part(href, '#', 1)`).where(sql`strpos(href, '#') > 0`),
  ],
);

export const runs = pgTable(
  'runs',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    laneVersion: integer('lane_version').notNull(),
    cause: text('cause').notNull(),
    scope: text('scope').notNull(),
    state: text('state', { enum: runStates }).notNull(),
    reason: text('reason'),
    counts: jsonb('counts').$type<RunCounts>().notNull(),
    /** writing operations in the plan, and how many of them are done */
    planned: integer('planned').notNull().default(0),
    done: integer('done').notNull().default(0),
    /** what a held run would remove and rewrite */
    damage: jsonb('damage').$type<Damage>(),
    createdAt: time('created_at').notNull().default(sql`now()`),
    startedAt: time('started_at'),
    endedAt: time('ended_at'),
  },
  (t) => [index('runs_lane').on(t.lane, t.createdAt), index('runs_newest').on(t.createdAt, t.id), index('runs_state').on(t.state, t.createdAt)],
);

/** Append-only. */
export const journal = pgTable(
  'journal',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    run: uuid('run').notNull(),
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    laneVersion: integer('lane_version').notNull(),
    pair: uuid('pair').notNull(),
    recordId: text('record_id'),
    href: text('href'),
    moment: text('moment').notNull(),
    label: text('label').notNull(),
    kind: text('kind').notNull(),
    cause: text('cause').notNull(),
    changes: jsonb('changes').$type<Change[]>().notNull(),
    notes: jsonb('notes').$type<string[]>().notNull(),
    /** a removed event's text, or a removed record as JSON, whole */
    removed: text('removed'),
    /** when the change that it carried over was made, where its system says so */
    changedAt: time('changed_at'),
    at: time('at').notNull().default(sql`now()`),
  },
  (t) => [
    index('journal_run').on(t.run, t.id),
    index('journal_item').on(t.lane, t.recordId, t.id),
    index('journal_lane').on(t.lane, t.id),
    index('journal_at').on(t.at),
    index('journal_pair').on(t.pair, t.id),
  ],
);

/** Audits that were made, asked for or by timetable: how far both sides were apart, over time. */
export const audits = pgTable(
  'audits',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    at: time('at').notNull().default(sql`now()`),
    cause: text('cause', { enum: ['asked', 'timetable'] }).notNull(),
    counts: jsonb('counts').$type<AuditAnswer['counts']>().notNull(),
    /** how many differences, and whether everything is counted once */
    differences: integer('differences').notNull(),
    addsUp: boolean('adds_up').notNull(),
  },
  (t) => [index('audits_lane').on(t.lane, t.id), index('audits_at').on(t.at)],
);

/** What a run is about to write outside; emptied together with the journal entries of what was done. */
export const intents = pgTable(
  'intents',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    entry: jsonb('entry').$type<object>().notNull(),
  },
  (t) => [index('intents_lane').on(t.lane)],
);

export const holds = pgTable(
  'holds',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    pair: uuid('pair').notNull(),
    recordId: text('record_id'),
    href: text('href'),
    moment: text('moment').notNull(),
    label: text('label').notNull(),
    question: text('question').$type<HoldQuestion>().notNull(),
    /** about which values it was asked */
    asked: text('asked').notNull().default(''),
    choices: jsonb('choices').$type<string[]>().notNull().default([]),
    cause: text('cause').notNull(),
    record: jsonb('record').$type<LinkValues>().notNull(),
    event: jsonb('event').$type<LinkValues>().notNull(),
    baseline: jsonb('baseline').$type<Baseline>(),
    /** of several candidates: what each says */
    candidates: jsonb('candidates').$type<Candidate[]>().notNull().default([]),
    /** open: waits for a person; settled: waits for the next run; done: carried out; void: no longer asked */
    state: text('state', { enum: ['open', 'settled', 'done', 'void'] })
      .notNull()
      .default('open'),
    choice: text('choice'),
    settledBy: text('settled_by'),
    createdAt: time('created_at').notNull().default(sql`now()`),
  },
  (t) => [
    index('holds_open').on(t.state, t.lane),
    index('holds_oldest').on(t.state, t.createdAt, t.id),
    index('holds_created').on(t.createdAt),
    index('holds_pair').on(t.pair, t.state),
  ],
);
