import { sql } from 'drizzle-orm';
import { integer, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';

export const people = pgTable('people', {
  id: uuid('id').primaryKey().defaultRandom(),
  email: text('email').notNull().unique(),
  name: text('name').notNull(),
  passwordHash: text('password_hash').notNull(),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

/** Signed-in browsers; the cookie holds the secret, the table only its hash. */
export const sessions = pgTable('sessions', {
  hash: text('hash').primaryKey(),
  person: uuid('person')
    .notNull()
    .references(() => people.id, { onDelete: 'cascade' }),
  expiresAt: time('expires_at').notNull(),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

export const tokens = pgTable('tokens', {
  id: uuid('id').primaryKey().defaultRandom(),
  person: uuid('person')
    .notNull()
    .references(() => people.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  hash: text('hash').notNull().unique(),
  may: text('may', { enum: ['read', 'write'] }).notNull(),
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

/** Job workers and the advisory lock that their process holds while it lives. */
export const workers = pgTable('workers', {
  worker: text('worker').primaryKey(),
  life: integer('life').notNull(),
});
