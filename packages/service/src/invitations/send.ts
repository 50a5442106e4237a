import { createHash } from 'node:crypto';
import { type Invitation, isRescheduled } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { and, eq, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { mailSender } from '../notifications/mails.ts';
import { addInviteJob, whatOf } from '../storage/guests-of.ts';
import { guestLog, guests } from '../storage/schema.ts';
import { compose } from './compose.ts';
import { REPLIES, replyToken } from './reply-token.ts';

type GuestRow = typeof guests.$inferSelect;
type Sender = NonNullable<Awaited<ReturnType<typeof mailSender>>>;

/** Mails on their way at once. */
const AT_ONCE = 4;
/** Longest pause between two attempts while the mail server is away, in seconds. */
const LONGEST_PAUSE = 900;

/**
 * Sends what waits for a lane's guests and is due. A mail is marked `sending` before it is handed over: where it is
 * unknown afterwards whether the mail server took it, it is listed as doubtful and not sent again by itself.
 */
export async function sendInvitations(app: App, lane: string): Promise<void> {
  await listInterrupted(app, lane);
  const sender = await mailSender(app);
  if (sender === null) {
    await app.db
      .update(guests)
      .set({ trouble: 'no mail server is connected' })
      .where(and(eq(guests.lane, lane), eq(guests.state, 'waiting')));
    await putOff(app, lane, LONGEST_PAUSE);
    return;
  }
  let pause: number | null = null;
  const work = async (): Promise<void> => {
    while (pause === null) {
      const row = await claim(app, lane);
      if (row === null) return;
      const wait = await sendOne(app, sender, row);
      if (wait !== null) pause = Math.max(pause ?? 0, wait);
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, work));
  await app.announcer.announce(['guests', 'items']);
  if (pause !== null) await putOff(app, lane, pause);
  await addInviteJob(app.db, lane);
}

/** A lane's jobs run one after the other: a mail that is being sent now was started by a process that has died. */
async function listInterrupted(app: App, lane: string): Promise<void> {
  const trouble = 'Monsoon was interrupted while it handed the mail over; it may have been taken';
  const rows = await app.db
    .update(guests)
    .set({ state: 'doubtful', trouble })
    .where(and(eq(guests.lane, lane), eq(guests.state, 'sending')))
    .returning();
  if (rows.length > 0)
    await app.db.insert(guestLog).values(rows.map(({ pair, email, run }) => ({ lane, pair, email, run, what: 'doubtful', detail: trouble })));
}

/** The mail server does not take anything now. */
async function putOff(app: App, lane: string, seconds: number): Promise<void> {
  await app.db.execute(
    sql`update guests set due_at = now() + make_interval(secs => ${seconds}::int) where lane = ${lane} and state = 'waiting' and due_at <= now()`,
  );
  await addInviteJob(app.db, lane);
}

async function claim(app: App, lane: string): Promise<GuestRow | null> {
  const { rows } = await app.db.execute<{ pair: string; email: string }>(sql`
    update guests set state = 'sending', attempts = attempts + 1 where (pair, email) in (
      select pair, email from guests where lane = ${lane} and state = 'waiting' and due_at <= now() order by due_at limit 1 for update skip locked
    ) returning pair, email`);
  const [claimed] = rows;
  if (claimed === undefined) return null;
  const [row] = await app.db
    .select()
    .from(guests)
    .where(and(eq(guests.pair, claimed.pair), eq(guests.email, claimed.email)));
  return row ?? null;
}

const messageId = ({ pair, email, method }: GuestRow, sequence: number, sender: string): string =>
  `<${createHash('sha256')
    .update(JSON.stringify([pair, email, method, sequence]))
    .digest('hex')
    .slice(0, 40)}@${sender.split('@')[1]}>`;

/** @returns seconds to wait before anything else is tried; null: go on */
async function sendOne(app: App, sender: Sender, row: GuestRow): Promise<number | null> {
  const invitation = row.method === 'DECLINECOUNTER' ? row.knows : (row.invitation ?? row.knows);
  if (row.method === null || invitation === null) return finish(app, row, { state: 'sent' });
  // Every message about an event is a later one than the last (RFC 5546, 2.1.4).
  const next = row.sentAt === null ? invitation.sequence : Math.max(invitation.sequence, row.sequence + 1);
  const sequence = row.method === 'DECLINECOUNTER' ? row.sequence : next;
  const knewBefore = row.knows !== null;
  const now = new Date();
  const message = compose(
    {
      to: { email: row.email, name: row.name },
      method: row.method,
      uninvited: row.uninvited,
      knewBefore,
      why: row.why,
      invitation,
      sequence,
      // The same message keeps its name when it is tried again.
      messageId: messageId(row, sequence, sender.address),
      sender: sender.address,
      replyAt: row.method === 'REQUEST' ? `${app.publicAddress()}${REPLIES}/${replyToken(app.vault, { ...row, sequence }, now.getTime())}` : null,
      zone: await zoneOf(app, row.email),
      now: now.toISOString(),
    },
    app.zones,
  );
  try {
    await sender.mail.send(message);
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return refused(app, row, error);
  }
  const what = whatOf(row.method, knewBefore);
  // That a proposal is declined changes nothing that they know.
  if (row.method === 'DECLINECOUNTER') return finish(app, row, { state: 'sent', what, detail: row.why });
  // A reply to another time says nothing of this one: the guest is asked again.
  const asksAgain = row.knows !== null && isRescheduled(row.knows, invitation, app.zones);
  return finish(app, row, { state: 'sent', sent: row.method === 'CANCEL' ? null : invitation, sequence, asksAgain, what, detail: row.why });
}

async function refused(app: App, row: GuestRow, error: OutsideError): Promise<number | null> {
  const { message: trouble } = error;
  if (error.uncertain) return finish(app, row, { state: 'doubtful', trouble, what: 'doubtful', detail: trouble });
  if (error.trouble === 'refused') return finish(app, row, { state: 'refused', trouble, what: 'refused', detail: trouble });
  await app.db
    .update(guests)
    .set({ state: 'waiting', trouble })
    .where(and(eq(guests.pair, row.pair), eq(guests.email, row.email), eq(guests.state, 'sending')));
  return Math.min(15 * 2 ** Math.min(row.attempts, 10), LONGEST_PAUSE);
}

interface Finished {
  state: 'sent' | 'doubtful' | 'refused';
  trouble?: string;
  /** what was sent; null: a cancellation */
  sent?: Invitation | null;
  sequence?: number;
  asksAgain?: boolean;
  /** for the log */
  what?: string;
  detail?: string;
}

/** What was asked for meanwhile goes on waiting. */
async function finish(
  app: App,
  { lane, pair, email, run }: GuestRow,
  { state, trouble, sent, sequence, asksAgain, what, detail }: Finished,
): Promise<null> {
  await app.db.transaction(async (tx) => {
    await tx
      .update(guests)
      .set({
        state: sql`case when state = 'sending' then ${state} else state end`,
        trouble: trouble ?? null,
        ...(sent === undefined ? {} : { knows: sent, sequence: sequence ?? 0, sentAt: new Date().toISOString() }),
        ...(asksAgain === true ? { reply: null, comment: null, replyPending: false } : {}),
        updatedAt: new Date().toISOString(),
      })
      .where(and(eq(guests.pair, pair), eq(guests.email, email)));
    if (what !== undefined) await tx.insert(guestLog).values({ lane, pair, email, run, what, detail: detail ?? '' });
  });
  return null;
}

/** A guest who is also a person of this installation has a clock that is known. */
async function zoneOf(app: App, email: string) {
  const { rows } = await app.db.execute<{ zone: string | null }>(
    sql`select notifications->'digest'->>'zone' as zone from people where lower(email) = ${email} limit 1`,
  );
  const zone = rows[0]?.zone;
  return zone == null ? null : (app.zones.find(zone) ?? null);
}
