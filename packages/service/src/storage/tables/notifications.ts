import { sql } from 'drizzle-orm';
import { bigserial, index, jsonb, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';

/** One row for a cause and an address, from when the cause begins until it is over. */
export const notifications = pgTable(
  'notifications',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    /** the same for as long as the same thing is the matter: `system front-desk failing` */
    cause: text('cause').notNull(),
    to: text('to').notNull(),
    occasion: text('occasion').notNull(),
    subject: text('subject').notNull(),
    text: text('text').notNull(),
    /** the page where something can be done */
    path: text('path').notNull(),
    at: time('at').notNull().default(sql`now()`),
    sentAt: time('sent_at'),
    /** when it was over; a cause that comes back is a new row */
    overAt: time('over_at'),
  },
  (t) => [
    uniqueIndex('notifications_open').on(t.cause, t.to).where(sql`over_at is null`),
    index('notifications_unsent').on(t.to).where(sql`sent_at is null`),
  ],
);

/** Other programs that are notified, with signed webhooks. */
export const hooks = pgTable('hooks', {
  id: uuid('id').primaryKey().defaultRandom(),
  name: text('name').notNull(),
  url: text('url').notNull(),
  occasions: jsonb('occasions').$type<string[]>().notNull(),
  /** sealed */
  secret: text('secret').notNull(),
  /** how the last delivery went */
  lastAt: time('last_at'),
  lastOutcome: text('last_outcome'),
  createdAt: time('created_at').notNull().default(sql`now()`),
});
