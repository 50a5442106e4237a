import { type NotificationSettings, roles, scopes } from '@monsoon/contract';
import { sql } from 'drizzle-orm';
import { bigserial, boolean, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';

export const people = pgTable('people', {
  id: uuid('id').primaryKey().defaultRandom(),
  email: text('email').notNull().unique(),
  name: text('name').notNull(),
  role: text('role', { enum: roles }).notNull().default('administrator'),
  /** null: signs in through another service only */
  passwordHash: text('password_hash'),
  /** somebody else chose it: nothing can be done with it but choosing another */
  passwordTemporary: boolean('password_temporary').notNull().default(false),
  /** who they are to the sign-in service: its issuer and their subject there, from their first sign-in on */
  providerSubject: text('provider_subject').unique(),
  disabledAt: time('disabled_at'),
  lastSeenAt: time('last_seen_at'),
  /** what they want to hear of, and when their digest comes */
  notifications: jsonb('notifications').$type<NotificationSettings>(),
  digestAt: time('digest_at'),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

/** Signed-in browsers; the cookie holds the secret, the table only its hash. */
export const sessions = pgTable('sessions', {
  hash: text('hash').primaryKey(),
  person: uuid('person')
    .notNull()
    .references(() => people.id, { onDelete: 'cascade' }),
  /** what others may know it by */
  id: uuid('id').notNull().unique().defaultRandom(),
  /** the browser, as it calls itself */
  agent: text('agent').notNull().default(''),
  lastUsedAt: time('last_used_at').notNull().default(sql`now()`),
  expiresAt: time('expires_at').notNull(),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

/** Attempts to sign in since the last that succeeded, by address, whether anybody has it or not, and by where they came from. */
export const signInFailures = pgTable(
  'sign_in_failures',
  {
    email: text('email').notNull(),
    /** `ip 192.0.2.7`, `browser` and its name, or `all`: from wherever strangers come */
    source: text('source').notNull(),
    failures: integer('failures').notNull(),
    until: time('until'),
    at: time('at').notNull().default(sql`now()`),
  },
  (t) => [primaryKey({ columns: [t.email, t.source] })],
);

/** Who did what. Append-only: a trigger refuses changes, and deletions but those of the retention rule. */
export const activity = pgTable(
  'activity',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    at: time('at').notNull().default(sql`now()`),
    by: text('by').notNull(),
    via: text('via').notNull(),
    what: text('what').notNull(),
    of: text('of').notNull(),
    detail: text('detail').notNull(),
    outcome: text('outcome', { enum: ['done', 'refused'] }).notNull(),
    lane: text('lane'),
  },
  (t) => [index('activity_lane').on(t.lane, t.id), index('activity_at').on(t.at), index('activity_by').on(t.by, t.id)],
);

export const tokens = pgTable('tokens', {
  id: uuid('id').primaryKey().defaultRandom(),
  person: uuid('person')
    .notNull()
    .references(() => people.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  hash: text('hash').notNull().unique(),
  may: text('may', { enum: scopes }).notNull(),
  expiresAt: time('expires_at'),
  createdAt: time('created_at').notNull().default(sql`now()`),
  lastUsedAt: time('last_used_at'),
});

/** Answers to POSTs that came with an idempotency key, kept for a day. */
export const idempotency = pgTable('idempotency', {
  key: text('key').primaryKey(),
  request: text('request').notNull(),
  status: text('status').notNull(),
  answer: text('answer').notNull(),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

/** Processes that work, each with its last heartbeat. */
export const processes = pgTable('processes', {
  process: integer('process').primaryKey(),
  beatAt: time('beat_at').notNull().default(sql`now()`),
  /** when others took over its work because its heartbeat was missing */
  silentAt: time('silent_at'),
});

/** Job workers and the advisory lock that their process holds while it lives. */
export const workers = pgTable('workers', {
  worker: text('worker').primaryKey(),
  life: integer('life').notNull(),
});
