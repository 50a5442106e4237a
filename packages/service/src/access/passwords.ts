import { randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { eq, sql } from 'drizzle-orm';
import type { Database } from '../storage/database.ts';
import { people, signInFailures } from '../storage/schema.ts';

/** Wrong passwords in a row after which an address is locked, and for how many minutes. */
export const ATTEMPTS = 10;
export const LOCKED_MINUTES = 15;

export const hashPassword = (password: string): Promise<string> => hash(password);

// A hash of nothing anybody knows: checked when the address is unknown, so that the time taken tells nothing.
const decoy = hash(randomBytes(32).toString('base64url'));

export type SignIn = { outcome: 'in'; person: typeof people.$inferSelect } | { outcome: 'wrong' } | { outcome: 'locked'; until: string };

/**
 * Looks whether address and password go together. After many wrong ones in a row an address is locked for a while,
 * whether anybody has it or not, and even the right password is not looked at: guessing tells nothing.
 */
export async function checkPassword(db: Database, email: string, password: string): Promise<SignIn> {
  const address = email.trim().toLowerCase();
  const [failed] = await db.select().from(signInFailures).where(eq(signInFailures.email, address));
  if (failed?.until != null && Date.parse(failed.until) > Date.now()) return { outcome: 'locked', until: failed.until };
  const [person] = await db.select().from(people).where(eq(people.email, address));
  const right = await verify(person?.passwordHash ?? (await decoy), password);
  if (person?.passwordHash != null && person.disabledAt === null && right) {
    if (failed !== undefined) await unlock(db, address);
    return { outcome: 'in', person };
  }
  await countFailure(db, address);
  return { outcome: 'wrong' };
}

/** Counts a wrong password; a count that nothing was added to for a day begins again. */
async function countFailure(db: Database, email: string): Promise<void> {
  const counted = sql`(case when ${signInFailures.at} < now() - interval '1 day' or ${signInFailures.until} < now() then 1 else ${signInFailures.failures} + 1 end)`;
  const until = (n: unknown) => sql`case when ${n} >= ${ATTEMPTS} then now() + interval '1 minute' * ${LOCKED_MINUTES} end`;
  await db
    .insert(signInFailures)
    .values({ email, failures: 1 })
    .onConflictDoUpdate({ target: signInFailures.email, set: { failures: counted, until: until(counted), at: sql`now()` } });
}

export async function unlock(db: Database, email: string): Promise<void> {
  await db.delete(signInFailures).where(eq(signInFailures.email, email));
}

/**
 * Makes the first administrator when there is nobody yet.
 * @returns the password when one had to be made up
 */
export async function ensureAdministrator(
  db: Database,
  email: string,
  given: string | undefined,
): Promise<{ email: string; madeUp: string | null } | null> {
  const [anybody] = await db.select({ id: people.id }).from(people).limit(1);
  if (anybody !== undefined) return null;
  const password = given ?? randomBytes(12).toString('base64url');
  const address = email.trim().toLowerCase();
  // Of several processes that start at once, one makes it.
  const made = await db
    .insert(people)
    .values({ email: address, name: address.split('@')[0]!, role: 'administrator', passwordHash: await hash(password) })
    .onConflictDoNothing()
    .returning();
  return made.length === 0 ? null : { email: address, madeUp: given === undefined ? password : null };
}
