import { formatInstant, formatWhen, type Proposal, type Response } from '@monsoon/core';
import { and, eq, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { addLaneJob, runTask } from '../jobs/queue.ts';
import type { Transaction } from '../storage/database.ts';
import { guestLog, guests, pairs } from '../storage/schema.ts';

/** What a guest answered, by which way. */
export interface GivenReply {
  pair: string;
  /** in small letters */
  email: string;
  response: Response;
  comment: string | null;
  via: 'mail' | 'link';
  /** of the message that is answered; null: the last one */
  sequence: number | null;
  /** RFC 3339: when it was given */
  stamp: string;
}

/** `taken`; `old`: it answers an earlier time, or a later reply is known already; `unknown`: they are no guest of it. */
export type ReplyOutcome = 'taken' | 'old' | 'unknown';

/**
 * Takes a reply, whatever order replies come in: the one to the later message counts, and of those to one message the
 * later one (RFC 5546, 2.1.5). The event and the record get it by a run of the lane.
 */
export async function takeReply(app: App, reply: GivenReply): Promise<ReplyOutcome> {
  const { pair, email, response, comment, via } = reply;
  // As the column says it, so that texts compare as moments do.
  const stamp = new Date(arrived(reply.stamp, Date.now())).toISOString();
  const outcome = await app.db.transaction(async (tx): Promise<ReplyOutcome> => {
    const row = await lockGuest(tx, pair, email);
    if (row === null) return 'unknown';
    // A number that was never sent answers what was sent last.
    const sequence = Math.min(reply.sequence ?? row.sequence, row.sequence);
    // Stamps are in seconds: of two replies in one second the one that comes last counts.
    const isLater = row.replyStamp === null || stamp > row.replyStamp || (stamp === row.replyStamp && response !== row.reply);
    // The link is the guest's own; the sender of a mail is only named.
    const isOutranked = via === 'mail' && row.replyVia === 'link' && sequence === row.replySequence;
    const isOwn = via === 'link' && sequence === row.sequence;
    const counts = !isOutranked && (isOwn || sequence > row.replySequence || (sequence === row.replySequence && isLater));
    const note = { lane: row.lane, pair, email };
    if (sequence < row.sequence || !counts) {
      // The same reply once more is nothing to note.
      if (row.replyStamp !== stamp)
        await tx.insert(guestLog).values({
          ...note,
          what: 'replied late',
          detail: `${response}, ${isOutranked ? 'by mail, after an answer through the link in the mail' : 'to what is out of date'}`,
        });
      return 'old';
    }
    await tx
      .update(guests)
      .set({
        reply: response,
        replySequence: sequence,
        replyStamp: stamp,
        replyVia: via,
        comment,
        replyPending: true,
        updatedAt: new Date().toISOString(),
      })
      .where(and(eq(guests.pair, pair), eq(guests.email, email)));
    await tx.insert(guestLog).values({ ...note, what: response, detail: `by ${via}${comment === null ? '' : `: ${comment}`}` });
    await lookAt(tx, row.lane, pair);
    return 'taken';
  });
  if (outcome === 'taken') await app.announcer.announce(['guests', 'items']);
  return outcome;
}

/** Another time that a guest proposes: a question to a person, which a run asks. */
export async function takeProposal(
  app: App,
  { pair, email, sequence, proposal }: { pair: string; email: string; sequence: number; proposal: Proposal },
): Promise<ReplyOutcome> {
  const outcome = await app.db.transaction(async (tx): Promise<ReplyOutcome> => {
    const row = await lockGuest(tx, pair, email);
    if (row === null) return 'unknown';
    const given = { ...proposal, stamp: formatInstant(arrived(proposal.stamp, Date.now()) / 1000) };
    if (sequence < row.sequence || isPast(row.proposal, given)) return 'old';
    await tx
      .update(guests)
      .set({ proposal: given, updatedAt: new Date().toISOString() })
      .where(and(eq(guests.pair, pair), eq(guests.email, email)));
    const detail = `${formatWhen(proposal.when)}${proposal.comment === null ? '' : `: ${proposal.comment}`}`;
    await tx.insert(guestLog).values({ lane: row.lane, pair, email, what: 'proposed another time', detail });
    await lookAt(tx, row.lane, pair);
    return 'taken';
  });
  if (outcome === 'taken') await app.announcer.announce(['guests', 'items']);
  return outcome;
}

/** When an answer was given: a stamp ahead of its arrival is its arrival, in seconds as stamps are. @param now milliseconds since 1970 */
const arrived = (stamp: string, now: number): number => Math.min(Date.parse(stamp), Math.floor(now / 1000) * 1000);

/** Whether a proposal is known, or a later one is. Stamps are in seconds: of two in one second the one that comes last counts. */
const isPast = (known: Proposal | null, { when, stamp }: Proposal): boolean =>
  known !== null && (known.stamp > stamp || (known.stamp === stamp && formatWhen(known.when) === formatWhen(when)));

/** The row of a guest who knows of the event, locked until the transaction ends. */
async function lockGuest(tx: Transaction, pair: string, email: string): Promise<typeof guests.$inferSelect | null> {
  const [row] = await tx
    .select()
    .from(guests)
    .where(and(eq(guests.pair, pair), eq(guests.email, email)))
    .for('update');
  return row === undefined || row.knows === null ? null : row;
}

/** Has the lane look at a pair soon. */
async function lookAt(tx: Transaction, lane: string, pair: string): Promise<void> {
  const [row] = await tx.select({ recordId: pairs.recordId }).from(pairs).where(sql`${pairs.id} = ${pair}`);
  if (row?.recordId != null) await addLaneJob(tx, { lane, cause: 'notice', task: runTask({ records: [row.recordId] }) });
}
