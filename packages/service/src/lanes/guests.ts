import type { GuestAnswer, LaneGuestsAnswer } from '@monsoon/contract';
import { certain } from '@monsoon/core';
import { and, asc, eq, gt, inArray, or, type SQL, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { HttpProblem } from '../http/problem.ts';
import { addInviteJob, whatOf } from '../storage/guests-of.ts';
import { oneRow } from '../storage/one-row.ts';
import { guestLog, guests, pairs } from '../storage/schema.ts';
import { definitionOf, type LaneRow } from './context.ts';

type GuestRow = typeof guests.$inferSelect;
type LogRow = typeof guestLog.$inferSelect;
type PairRow = Pick<typeof pairs.$inferSelect, 'id' | 'recordId' | 'href' | 'moment' | 'label'>;

function answer(row: GuestRow, pair: PairRow | undefined, log: readonly LogRow[]): GuestAnswer {
  return {
    item: pair?.recordId ?? pair?.href ?? row.pair,
    moment: pair?.moment ?? '',
    label: pair?.label ?? row.knows?.title ?? row.invitation?.title ?? '',
    pair: row.pair,
    email: row.email,
    name: row.name,
    state: row.state,
    message: messageOf(row, log),
    why: row.why,
    trouble: row.trouble,
    dueAt: row.dueAt,
    sentAt: row.sentAt,
    reply: row.reply,
    replyVia: row.replyVia,
    repliedAt: row.replyStamp,
    comment: row.comment,
    log: log.filter((l) => l.pair === row.pair && l.email === row.email).map(({ at, what, detail }) => ({ at, what, detail })),
  };
}

/** What waits, or was sent last, in a word. */
function messageOf(row: GuestRow, log: readonly LogRow[]): string | null {
  if (row.method === null) return null;
  if (row.state === 'waiting' || row.state === 'sending') return whatOf(row.method, row.knows !== null);
  return log.findLast((l) => l.pair === row.pair && l.email === row.email && messages.has(l.what))?.what ?? null;
}
const messages = new Set(['invited', 'updated', 'cancelled', 'proposal declined']);

async function answers(app: App, rows: GuestRow[]): Promise<GuestAnswer[]> {
  const ids = [...new Set(rows.map((r) => r.pair))];
  if (ids.length === 0) return [];
  const of = await app.db.select().from(pairs).where(inArray(pairs.id, ids));
  const log = await app.db.select().from(guestLog).where(inArray(guestLog.pair, ids)).orderBy(asc(guestLog.id)).limit(5000);
  return rows.map((row) =>
    answer(
      row,
      of.find((p) => p.id === row.pair),
      log,
    ),
  );
}

/** The guests of one pair, in the order of their addresses. */
export const guestsOfPair = async (app: App, pair: string): Promise<GuestAnswer[]> =>
  answers(app, await app.db.select().from(guests).where(eq(guests.pair, pair)).orderBy(asc(guests.email)));

export interface GuestQuery {
  state?: GuestRow['state'] | undefined;
  cursor?: string | undefined;
  limit: number;
}

/** The guests of a lane: all of them in numbers, and one page of those that are asked for. */
export async function guestsOfLane(app: App, lane: LaneRow, { state, cursor, limit }: GuestQuery): Promise<LaneGuestsAnswer> {
  const [pair = '', email = ''] = cursor?.split(' ') ?? [];
  const after: SQL | undefined = cursor === undefined ? undefined : or(gt(guests.pair, pair), and(eq(guests.pair, pair), gt(guests.email, email)));
  const rows = await app.db
    .select()
    .from(guests)
    .where(and(eq(guests.lane, lane.id), state === undefined ? undefined : eq(guests.state, state), after))
    .orderBy(asc(guests.pair), asc(guests.email))
    .limit(limit + 1);
  const [counts] = await app.db
    .select({
      guests: sql<number>`count(*)::int`,
      waiting: sql<number>`count(*) filter (where state in ('waiting', 'sending'))::int`,
      doubtful: sql<number>`count(*) filter (where state = 'doubtful')::int`,
      refused: sql<number>`count(*) filter (where state = 'refused')::int`,
      accepted: sql<number>`count(*) filter (where reply = 'accepted' and knows is not null)::int`,
      declined: sql<number>`count(*) filter (where reply = 'declined' and knows is not null)::int`,
      tentative: sql<number>`count(*) filter (where reply = 'tentative' and knows is not null)::int`,
      open: sql<number>`count(*) filter (where coalesce(reply, 'needs action') in ('needs action', 'delegated') and knows is not null and state <> 'known')::int`,
      known: sql<number>`count(*) filter (where state = 'known')::int`,
    })
    .from(guests)
    .where(eq(guests.lane, lane.id));
  const page = rows.slice(0, limit);
  const last = page.at(-1);
  return {
    counts: certain(counts, 'a count gives a row'),
    items: await answers(app, page),
    next: rows.length > limit && last !== undefined ? `${last.pair} ${last.email}` : null,
  };
}

/** What a person says of a message that may not have been taken: it counts as sent, or it is sent once more. */
export async function settleGuest(
  app: App,
  lane: LaneRow,
  { pair, email }: { pair: string; email: string },
  as: 'sent' | 'again',
): Promise<GuestAnswer> {
  if (as === 'again' && definitionOf(lane).invitations.by === 'calendar server')
    throw new HttpProblem(
      409,
      'The calendar server invites',
      `${email} is invited by the calendar server, which cannot be asked to send again; change the guest's address, or say that the message counts as sent`,
    );
  const which = and(eq(guests.lane, lane.id), sql`${guests.pair}::text = ${pair}`, eq(guests.email, email.toLowerCase()));
  const open = inArray(guests.state, ['doubtful', 'refused']);
  const knows = sql`case when method = 'CANCEL' then null else invitation end`;
  const [row] = await app.db
    .update(guests)
    .set(
      as === 'sent'
        ? { state: 'sent', knows, sentAt: new Date().toISOString(), trouble: null }
        : { state: 'waiting', dueAt: new Date().toISOString(), attempts: 0, trouble: null },
    )
    .where(and(which, open))
    .returning();
  if (row === undefined) {
    const [there] = await app.db.select().from(guests).where(which);
    if (there === undefined)
      throw new HttpProblem(404, 'No such guest', `${email} is no guest of ${pair}; GET /lanes/${lane.slug}/guests lists pairs and addresses`);
    throw new HttpProblem(
      409,
      'Nothing to settle',
      `the last message to ${there.email} is ${there.state}; only a doubtful or refused one is settled`,
    );
  }
  await app.db.insert(guestLog).values({ lane: lane.id, pair: row.pair, email: row.email, what: as === 'sent' ? 'taken as sent' : 'sent again' });
  if (as === 'again') await addInviteJob(app.db, lane.id);
  await app.announcer.announce(['guests', 'items']);
  return oneRow(await answers(app, [row]));
}
