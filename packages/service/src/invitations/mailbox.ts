import { type ItipReply, readItip, UnreadableEvent } from '@monsoon/core';
import type { IncomingMail } from '@monsoon/systems';
import { and, eq, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { addMailboxJob } from '../jobs/queue.ts';
import { guestLog, mailboxes, systems } from '../storage/schema.ts';
import { takeProposal, takeReply } from './replies.ts';

/** Milliseconds for one look into a mailbox. */
const PATIENCE = 120_000;

/** Has every mailbox read. */
export async function readMailboxes(app: App): Promise<void> {
  const rows = await app.db
    .select({ id: systems.id })
    .from(systems)
    .where(and(eq(systems.kind, 'mail'), sql`${systems.settings} ? 'mailbox'`));
  for (const { id } of rows) await addMailboxJob(app.db, id);
}

/** Takes the replies that came into a mailbox since it was read last. What is no reply stays as it is. */
export async function readMailbox(app: App, system: string): Promise<void> {
  const [row] = await app.db.select().from(systems).where(eq(systems.id, system));
  const mailbox = row === undefined || row.lapsedAt !== null ? undefined : app.systems.open(row).mailbox;
  if (mailbox === undefined) return;
  const [known] = await app.db.select().from(mailboxes).where(eq(mailboxes.system, system));
  const before = known === undefined ? null : { validity: known.validity, uid: known.uid };
  const cursor = await mailbox.read(before, (mail) => takeMail(app, mail), AbortSignal.timeout(PATIENCE));
  const read = { ...cursor, readAt: new Date().toISOString() };
  await app.db
    .insert(mailboxes)
    .values({ system, ...read })
    .onConflictDoUpdate({ target: mailboxes.system, set: read });
}

/** @returns whether it was an answer to an invitation of ours */
async function takeMail(app: App, mail: IncomingMail): Promise<boolean> {
  if (mail.unread !== null) app.log.info({ uid: mail.uid, reason: mail.unread }, 'a mail was left unread');
  if (mail.calendar === null) return false;
  let answer: ItipReply | null;
  try {
    answer = readItip(mail.calendar, app.zones);
  } catch (error) {
    if (!(error instanceof UnreadableEvent)) throw error;
    app.log.info({ uid: mail.uid, reason: error.message }, 'a reply cannot be understood');
    return false;
  }
  return answer !== null && takeAnswer(app, answer, mail.from);
}

interface About {
  pair: string;
  lane: string;
}

/** The pair whose guests an answer is about: the event by its UID, or one occurrence of it. */
async function pairOf(app: App, uid: string, occurrence: string | null): Promise<About | null> {
  const { rows } = await app.db.execute<{ pair: string; lane: string }>(sql`
    select pair, lane from guests where knows->>'uid' = ${uid} and knows->>'occurrence' is not distinct from ${occurrence}::text limit 1`);
  return rows[0] ?? null;
}

/**
 * An answer about one occurrence of a series that is one record: the record knows no occurrences, so it is kept in the
 * guest's log, once, where people see it.
 */
async function noteSingle(app: App, about: About, { occurrence, attendee, method, stamp, comment }: ItipReply): Promise<void> {
  const day = (occurrence ?? '').replace(/^(\d{4})(\d\d)(\d\d).*$/, '$1-$2-$3');
  const what = method === 'COUNTER' ? 'proposed another time' : (attendee.response ?? 'needs action');
  const detail = `for the occurrence of ${day} alone, by mail of ${stamp}${comment === null ? '' : `: ${comment}`}`;
  const note = { ...about, email: attendee.email.toLowerCase(), what, detail };
  const same = and(eq(guestLog.pair, note.pair), eq(guestLog.email, note.email), eq(guestLog.what, what), eq(guestLog.detail, detail));
  if ((await app.db.$count(guestLog, same)) === 0) await app.db.insert(guestLog).values(note);
  await app.announcer.announce(['guests', 'items']);
}

/** Who answers is who sends: an answer in somebody else's name is shown, and not believed (RFC 6047, 3). */
async function takeAnswer(app: App, answer: ItipReply, from: readonly string[]): Promise<boolean> {
  const exact = await pairOf(app, answer.uid, answer.occurrence);
  const about = exact ?? (await pairOf(app, answer.uid, null));
  if (about === null) {
    app.log.info('a reply to no event of ours was left');
    return false;
  }
  const email = answer.method === 'COUNTER' ? (from[0] ?? '') : answer.attendee.email.toLowerCase();
  if (!from.includes(email)) {
    const said = answer.attendee.response ?? 'needs action';
    await app.db
      .insert(guestLog)
      .values({ ...about, email, what: 'not believed', detail: `${said}, in a mail from ${from.join(', ').slice(0, 300) || 'an unknown sender'}` });
    await app.announcer.announce(['guests', 'items']);
    return false;
  }
  if (exact === null) {
    await noteSingle(app, about, { ...answer, attendee: { ...answer.attendee, email } });
    return true;
  }
  const { sequence, stamp, comment } = answer;
  if (answer.method === 'COUNTER') {
    if (answer.when === null) return false;
    return (await takeProposal(app, { pair: about.pair, email, sequence, proposal: { when: answer.when, stamp, comment } })) !== 'unknown';
  }
  const response = answer.attendee.response ?? 'needs action';
  return (await takeReply(app, { pair: about.pair, email, response, comment, via: 'mail', sequence, stamp })) !== 'unknown';
}
