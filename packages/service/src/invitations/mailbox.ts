import { formatWhen, type ItipReply, readItip, spanOf, UnreadableEvent, UTC, type When, type ZoneTable } from '@monsoon/core';
import { type IncomingMail, OutsideError } from '@monsoon/systems';
import { and, eq, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { sayError } from '../errors.ts';
import { addMailboxJob } from '../jobs/queue.ts';
import { mailboxIsRead, notifyOfMailbox } from '../notifications/of-systems.ts';
import { guestLog, mailboxes, systems } from '../storage/schema.ts';
import type { SystemRow } from '../systems/registry.ts';
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
  if (row === undefined || mailbox === undefined) return;
  const [known] = await app.db.select().from(mailboxes).where(eq(mailboxes.system, system));
  const before = known === undefined ? null : { validity: known.validity, uid: known.uid };
  const cursor = await readOrReport(app, row, () => mailbox.read(before, (mail) => takeMail(app, mail), AbortSignal.timeout(PATIENCE)));
  const read = { ...cursor, readAt: new Date().toISOString() };
  await app.db
    .insert(mailboxes)
    .values({ system, ...read })
    .onConflictDoUpdate({ target: mailboxes.system, set: read });
}

/** A mailbox that cannot be read is trouble of its system, until it can be again. */
async function readOrReport<T>(app: App, row: SystemRow, read: () => Promise<T>): Promise<T> {
  try {
    const cursor = await read();
    if (row.healthState === 'failing') await app.systems.report(row.id, 'well', 'its mailbox was read', null);
    await mailboxIsRead(app.db, row.id);
    return cursor;
  } catch (error) {
    const reason = error instanceof OutsideError ? error.message : `its mailbox cannot be read: ${sayError(error)}`;
    await app.systems.report(row.id, 'failing', reason, error instanceof OutsideError ? error.trouble : null);
    await notifyOfMailbox(app, row, reason);
    throw error;
  }
}

/** @returns whether it was an answer to an invitation of ours */
async function takeMail(app: App, mail: IncomingMail): Promise<boolean> {
  if (mail.unread !== null) app.log.warn({ uid: mail.uid, reason: mail.unread }, 'a mail was left unread');
  if (mail.calendar === null) return false;
  let answer: ItipReply | null;
  try {
    answer = readItip(mail.calendar, app.zones);
  } catch (error) {
    if (!(error instanceof UnreadableEvent)) throw error;
    app.log.info({ uid: mail.uid, reason: error.message }, 'a reply cannot be understood');
    return false;
  }
  return answer !== null && takeAnswer(app, answer, mail);
}

/** Days from now within which a guest may propose a time, and days that it may take. */
const MOST_DAYS = { ahead: 3 * 366, long: 31 };
const DAY = 86_400;

/** Why a proposed time is none that anybody means; null: it may be meant. @param now seconds since 1970 */
function oddTime(when: When, now: number, zones: ZoneTable): string | null {
  const { from, until } = spanOf(when, UTC, zones);
  if (until <= from && when.kind === 'timed') return 'takes no time';
  if (from < now - DAY) return 'is past';
  if (from > now + MOST_DAYS.ahead * DAY) return 'is years ahead';
  return until - from > MOST_DAYS.long * DAY ? `takes more than ${MOST_DAYS.long} days` : null;
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
async function takeAnswer(app: App, answer: ItipReply, { from, senderFailed }: IncomingMail): Promise<boolean> {
  const exact = await pairOf(app, answer.uid, answer.occurrence);
  const about = exact ?? (await pairOf(app, answer.uid, null));
  if (about === null) {
    app.log.info('a reply to no event of ours was left');
    return false;
  }
  const email = answer.method === 'COUNTER' ? (from[0] ?? '') : answer.attendee.email.toLowerCase();
  const notBelieved = async (detail: string): Promise<boolean> => {
    await app.db.insert(guestLog).values({ ...about, email: email || 'unknown', what: 'not believed', detail });
    await app.announcer.announce(['guests', 'items']);
    return false;
  };
  const said = answer.attendee.response ?? 'needs action';
  if (!from.includes(email)) return notBelieved(`${said}, in a mail from ${from.join(', ').slice(0, 300) || 'an unknown sender'}`);
  if (senderFailed) return notBelieved(`${said}, in a mail whose sender the mail server found to be another: ask the guest`);
  if (exact === null) {
    await noteSingle(app, about, { ...answer, attendee: { ...answer.attendee, email } });
    return true;
  }
  const { sequence, stamp, comment } = answer;
  if (answer.method === 'COUNTER') {
    if (answer.when === null) return false;
    const odd = oddTime(answer.when, Date.now() / 1000, app.zones);
    if (odd !== null) return notBelieved(`the proposed time ${formatWhen(answer.when)} ${odd}`);
    return (await takeProposal(app, { pair: about.pair, email, sequence, proposal: { when: answer.when, stamp, comment } })) !== 'unknown';
  }
  const response = answer.attendee.response ?? 'needs action';
  return (await takeReply(app, { pair: about.pair, email, response, comment, via: 'mail', sequence, stamp })) !== 'unknown';
}
