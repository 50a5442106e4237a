import type { Occasion } from '@monsoon/contract';
import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { Database, Transaction } from '../storage/database.ts';
import { hooks, people, tellings } from '../storage/schema.ts';

/** Something that people are told of, from when it begins until it is over. */
export interface Cause {
  /** the same for as long as the same thing is the matter */
  cause: string;
  occasion: Occasion;
  subject: string;
  text: string;
  /** the page where something can be done */
  path: string;
}

/** Seconds that are waited for more to be the matter: what happens at once is told at once. */
const GATHER = 3;

/** Whoever asked to hear of it: people, other programs, and the addresses that a lane names. */
async function recipients(tx: Transaction, occasion: Occasion, named: readonly string[]): Promise<string[]> {
  const asked = await tx.select({ email: people.email, told: people.told }).from(people).where(isNull(people.disabledAt));
  const programs = await tx.select({ id: hooks.id, occasions: hooks.occasions }).from(hooks);
  return [
    ...new Set([
      ...named.map((n) => n.toLowerCase()),
      ...asked.filter((p) => p.told?.occasions.includes(occasion) === true).map((p) => p.email),
      ...programs.filter((h) => h.occasions.includes(occasion)).map((h) => `hook:${h.id}`),
    ]),
  ];
}

/** Begins to notify of a cause. Each recipient is notified once until it is over; a notice that is not sent yet gives the latest state. */
export async function beginCause(tx: Transaction, cause: Cause, named: readonly string[]): Promise<void> {
  const to = await recipients(tx, cause.occasion, named);
  if (to.length === 0) return;
  const fresh = await tx
    .insert(tellings)
    .values(to.map((address) => ({ ...cause, to: address })))
    .onConflictDoNothing({ target: [tellings.cause, tellings.to], where: sql`over_at is null` })
    .returning({ to: tellings.to });
  const { subject, text, path } = cause;
  // A row that is locked is being sent right now, by a mail server that may take its time: a run does not wait for that.
  const unsent = tx
    .select({ id: tellings.id })
    .from(tellings)
    .where(and(eq(tellings.cause, cause.cause), isNull(tellings.sentAt), isNull(tellings.overAt)))
    .for('update', { skipLocked: true });
  await tx.update(tellings).set({ subject, text, path }).where(inArray(tellings.id, unsent));
  for (const { to: address } of fresh) await addTellJob(tx, address);
}

/** A mail to somebody comes no sooner than the settings say after the last; whatever gathers meanwhile goes into one. */
export async function addTellJob(tx: Transaction | Database, to: string): Promise<void> {
  await tx.execute(
    sql`select graphile_worker.add_job('tell', payload := ${JSON.stringify({ to })}::json, job_key := ${`tell:${to}`}, job_key_mode := 'preserve_run_at', max_attempts := 8,
      run_at := greatest(now() + make_interval(secs => ${to.startsWith('hook:') ? 0 : GATHER}),
        (select max(sent_at) from tellings t where t."to" = ${to} and ${to} not like 'hook:%') + make_interval(mins => coalesce((select (settings ->> 'mailEvery')::int from installation), 10))))`,
  );
}

/** A mail server is there now: what is not sent yet, and not over, goes out. */
export async function sendUnsent(db: Database): Promise<void> {
  const unsent = await db
    .selectDistinct({ to: tellings.to })
    .from(tellings)
    .where(and(isNull(tellings.sentAt), isNull(tellings.overAt)));
  for (const { to } of unsent) await addTellJob(db, to);
}

/** They are over: whoever has not been told of one yet never is, and it is told again when it comes back. */
export async function endCauses(tx: Transaction | Database, causes: string[]): Promise<void> {
  await tx
    .update(tellings)
    .set({ overAt: sql`now()` })
    .where(and(inArray(tellings.cause, causes), isNull(tellings.overAt)));
}
