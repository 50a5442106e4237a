import type { Occasion } from '@monsoon/contract';
import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { Database, Transaction } from '../storage/database.ts';
import { hooks, notifications, people } from '../storage/schema.ts';

/** Something that people are notified of, from when it begins until it is over. */
export interface Cause {
  /** the same for as long as the same thing is the matter */
  cause: string;
  occasion: Occasion;
  subject: string;
  text: string;
  /** the page where something can be done */
  path: string;
}

/** Seconds to wait for more causes: those that begin together are sent together. */
const GATHER = 3;

/** Who asked to be notified: people, other programs, and the addresses that a lane names. */
async function recipients(tx: Transaction, occasion: Occasion, named: readonly string[]): Promise<string[]> {
  const asked = await tx.select({ email: people.email, notifications: people.notifications }).from(people).where(isNull(people.disabledAt));
  const programs = await tx.select({ id: hooks.id, occasions: hooks.occasions }).from(hooks);
  return [
    ...new Set([
      ...named.map((n) => n.toLowerCase()),
      ...asked.filter((p) => p.notifications?.occasions.includes(occasion) === true).map((p) => p.email),
      ...programs.filter((h) => h.occasions.includes(occasion)).map((h) => `hook:${h.id}`),
    ]),
  ];
}

/** Begins to notify of a cause. Each recipient is notified once until it is over; a notice that is not sent yet gives the latest state. */
export async function beginCause(tx: Transaction, cause: Cause, named: readonly string[]): Promise<void> {
  const to = await recipients(tx, cause.occasion, named);
  if (to.length === 0) return;
  const fresh = await tx
    .insert(notifications)
    .values(to.map((address) => ({ ...cause, to: address })))
    .onConflictDoNothing({ target: [notifications.cause, notifications.to], where: sql`over_at is null` })
    .returning({ to: notifications.to });
  const { subject, text, path } = cause;
  // A row that is locked is being sent right now, by a mail server that may take its time: a run does not wait for that.
  const unsent = tx
    .select({ id: notifications.id })
    .from(notifications)
    .where(and(eq(notifications.cause, cause.cause), isNull(notifications.sentAt), isNull(notifications.overAt)))
    .for('update', { skipLocked: true });
  await tx.update(notifications).set({ subject, text, path }).where(inArray(notifications.id, unsent));
  for (const { to: address } of fresh) await addNotifyJob(tx, address);
}

/** A mail to somebody comes no sooner than the settings say after the last; whatever gathers meanwhile goes into one. */
export async function addNotifyJob(tx: Transaction | Database, to: string): Promise<void> {
  await tx.execute(
    sql`select graphile_worker.add_job('tell', payload := ${JSON.stringify({ to })}::json, job_key := ${`tell:${to}`}, job_key_mode := 'preserve_run_at', max_attempts := 8,
      run_at := greatest(now() + make_interval(secs => ${to.startsWith('hook:') ? 0 : GATHER}),
        (select max(sent_at) from notifications t where t."to" = ${to} and ${to} not like 'hook:%') + make_interval(mins => coalesce((select (settings ->> 'mailEvery')::int from installation), 10))))`,
  );
}

/** A mail server is there now: what is not sent yet, and not over, goes out. */
export async function sendUnsent(db: Database): Promise<void> {
  const unsent = await db
    .selectDistinct({ to: notifications.to })
    .from(notifications)
    .where(and(isNull(notifications.sentAt), isNull(notifications.overAt)));
  for (const { to } of unsent) await addNotifyJob(db, to);
}

/** They are over: a notification that is not sent yet never is, and a cause that comes back is a new one. */
export async function endCauses(tx: Transaction | Database, causes: string[]): Promise<void> {
  await tx
    .update(notifications)
    .set({ overAt: sql`now()` })
    .where(and(inArray(notifications.cause, causes), isNull(notifications.overAt)));
}
