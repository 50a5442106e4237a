import type { Collection } from '@monsoon/core';
import { sql } from 'drizzle-orm';
import { bigserial, index, integer, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';

/** What changed in a system's fields between two checks. */
export interface Drift {
  at: string;
  collection: string;
  field: string;
  what: string;
}

export const systems = pgTable('systems', {
  id: uuid('id').primaryKey().defaultRandom(),
  slug: text('slug').notNull().unique(),
  name: text('name').notNull(),
  kind: text('kind').notNull(),
  settings: jsonb('settings').notNull(),
  /** sealed, see storage/secrets.ts */
  secrets: text('secrets').notNull(),
  /** OAuth tokens, sealed */
  tokens: text('tokens'),
  /** when a person last consented */
  authorisedAt: time('authorised_at'),
  healthState: text('health_state', { enum: ['unknown', 'well', 'failing'] })
    .notNull()
    .default('unknown'),
  healthDetail: text('health_detail').notNull().default(''),
  healthAt: time('health_at'),
  checkedAt: time('checked_at'),
  /** since when, and why, its credentials are not accepted */
  lapsedAt: time('lapsed_at'),
  lapsedReason: text('lapsed_reason'),
  /** its collections as the last check found them */
  described: jsonb('described').$type<Collection[]>(),
  drift: jsonb('drift').$type<Drift[]>().notNull().default([]),
  createdAt: time('created_at').notNull().default(sql`now()`),
});

/** Calls in a month, and when the next may be made: one row for each system, moved on by every process. */
export const callMeters = pgTable('call_meters', {
  system: uuid('system')
    .primaryKey()
    .references(() => systems.id, { onDelete: 'cascade' }),
  /** `2026-11` */
  month: text('month').notNull(),
  calls: integer('calls').notNull().default(0),
  freeAt: time('free_at').notNull().default(sql`now()`),
});

/** The last calls of each system, without bodies. Unlogged: they are not missed after a crash. */
export const recordedCalls = pgTable(
  'recorded_calls',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    system: uuid('system').notNull(),
    at: time('at').notNull(),
    method: text('method').notNull(),
    url: text('url').notNull(),
    status: integer('status'),
    took: integer('took').notNull(),
    sent: integer('sent').notNull(),
    received: integer('received').notNull(),
    trouble: text('trouble'),
  },
  (t) => [index('recorded_calls_system').on(t.system, t.id)],
);

/** Consents that were started: where a person comes back with the state, the verifier is needed (RFC 7636). */
export const consents = pgTable('consents', {
  state: text('state').primaryKey(),
  system: uuid('system')
    .notNull()
    .references(() => systems.id, { onDelete: 'cascade' }),
  /** sealed */
  verifier: text('verifier').notNull(),
  redirect: text('redirect').notNull(),
  back: text('back').notNull(),
  by: text('by').notNull(),
  via: text('via').notNull().default('browser'),
  /** hash of the cookie of the browser that began it; null: a program began it, and any browser may end it */
  browser: text('browser'),
  expiresAt: time('expires_at').notNull(),
});
