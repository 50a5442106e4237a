import type { Invitation, Proposal, Response } from '@monsoon/core';
import { sql } from 'drizzle-orm';
import { bigint, bigserial, boolean, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { time } from '../time-column.ts';
import { lanes } from './lanes.ts';
import { systems } from './systems.ts';

/**
 * The last message to a guest. `known`: none yet; `waiting`: a message is to be sent; `sending`: it is being handed over; `sent`: it was taken;
 * `doubtful`: whether it was taken is not known; `refused`: the mail server did not take it for them.
 */
export const guestStates = ['known', 'waiting', 'sending', 'sent', 'doubtful', 'refused'] as const;
export type GuestState = (typeof guestStates)[number];

/** The guests of events, the last message to each, and what they replied: one row for a pair and an address. The waiting ones are the outbox. */
export const guests = pgTable(
  'guests',
  {
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    pair: uuid('pair').notNull(),
    /** in small letters */
    email: text('email').notNull(),
    name: text('name'),
    state: text('state', { enum: guestStates }).notNull(),
    /** what they know of the event; null: nothing */
    knows: jsonb('knows').$type<Invitation>(),
    /** what they should know; null: that it does not concern them any more */
    invitation: jsonb('invitation').$type<Invitation>(),
    /** the message that waits or was the last (RFC 5546, 1.4) */
    method: text('method', { enum: ['REQUEST', 'CANCEL', 'DECLINECOUNTER'] }),
    why: text('why').notNull().default(''),
    uninvited: boolean('uninvited').notNull().default(false),
    dueAt: time('due_at'),
    attempts: integer('attempts').notNull().default(0),
    /** why it was refused, or is doubtful */
    trouble: text('trouble'),
    /** the run that asked for it */
    run: uuid('run'),
    /** of the last message */
    sequence: integer('sequence').notNull().default(0),
    sentAt: time('sent_at'),
    reply: text('reply').$type<Response>(),
    replySequence: integer('reply_sequence').notNull().default(-1),
    /** when the guest's program wrote it */
    replyStamp: time('reply_stamp'),
    replyVia: text('reply_via', { enum: ['mail', 'link', 'calendar'] }),
    comment: text('comment'),
    /** what the calendar server says of delivering the invitation: a status code (RFC 5545, 3.8.8.3) */
    delivery: text('delivery'),
    /** another time that the guest proposes, until a person has answered */
    proposal: jsonb('proposal').$type<Proposal>(),
    /** the event does not show the reply yet */
    replyPending: boolean('reply_pending').notNull().default(false),
    updatedAt: time('updated_at').notNull().default(sql`now()`),
  },
  (t) => [
    primaryKey({ columns: [t.pair, t.email] }),
    index('guests_waiting').on(t.lane, t.dueAt).where(sql`state in ('waiting', 'sending')`),
    index('guests_trouble').on(t.lane).where(sql`state in ('doubtful', 'refused')`),
  ],
);

/** What happened between a lane and its guests. Append-only. */
export const guestLog = pgTable(
  'guest_log',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    lane: uuid('lane')
      .notNull()
      .references(() => lanes.id, { onDelete: 'cascade' }),
    pair: uuid('pair').notNull(),
    email: text('email').notNull(),
    /** invited, updated, cancelled, replied, refused, ... */
    what: text('what').notNull(),
    detail: text('detail').notNull().default(''),
    /** the run that it came from */
    run: uuid('run'),
    at: time('at').notNull().default(sql`now()`),
  },
  (t) => [
    index('guest_log_pair').on(t.pair, t.id),
    index('guest_log_email').on(t.email, t.at),
    index('guest_log_run').on(t.run),
    index('guest_log_at').on(t.at),
  ],
);

/** How far the mailboxes are read in which replies come in. */
export const mailboxes = pgTable('mailboxes', {
  system: uuid('system')
    .primaryKey()
    .references(() => systems.id, { onDelete: 'cascade' }),
  /** the generation of its numbers (RFC 3501, 2.3.1.1) */
  validity: text('validity').notNull(),
  /** the highest number that was read */
  uid: bigint('uid', { mode: 'number' }).notNull(),
  readAt: time('read_at').notNull().default(sql`now()`),
});
