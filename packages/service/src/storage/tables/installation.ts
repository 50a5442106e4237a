import { sql } from 'drizzle-orm';
import { integer, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';

/** What holds for the whole installation: one row. */
export const installation = pgTable('installation', {
  id: integer('id').primaryKey().default(1),
  /** everything was paused: when, by whom, and why */
  pausedAt: time('paused_at'),
  pausedBy: text('paused_by'),
  pausedWhy: text('paused_why'),
  settings: jsonb('settings').$type<object>().notNull().default(sql`'{}'::jsonb`),
});
