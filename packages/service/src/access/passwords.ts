import { randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { eq } from 'drizzle-orm';
import type { Database } from '../storage/database.ts';
import { people } from '../storage/schema.ts';
import { countAttempt, forgetAttempts, type Source } from './lock-out.ts';

export const hashPassword = (password: string): Promise<string> => hash(password);

// A hash of an unknown password: checked when the address is unknown, so that the time taken reveals nothing.
const decoy = hash(randomBytes(32).toString('base64url'));

export type SignIn = { outcome: 'in'; person: typeof people.$inferSelect } | { outcome: 'wrong' } | { outcome: 'locked'; until: string };

/**
 * Looks whether address and password go together. After several wrong ones even the right password is not looked at for
 * a while, whether anybody has the address or not: guessing reveals nothing.
 */
export async function checkPassword(db: Database, email: string, password: string, source: Source): Promise<SignIn> {
  const address = email.trim().toLowerCase();
  const until = await countAttempt(db, address, source);
  if (until !== null) return { outcome: 'locked', until };
  const [person] = await db.select().from(people).where(eq(people.email, address));
  const right = await verify(person?.passwordHash ?? (await decoy), password);
  if (person?.passwordHash == null || person.disabledAt !== null || !right) return { outcome: 'wrong' };
  await forgetAttempts(db, address, source);
  return { outcome: 'in', person };
}

/**
 * Makes the first administrator when there are no people yet.
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
    .values({
      email: address,
      name: address.replace(/@.*/, ''),
      role: 'administrator',
      passwordHash: await hash(password),
      passwordTemporary: given === undefined,
    })
    .onConflictDoNothing()
    .returning();
  return made.length === 0 ? null : { email: address, madeUp: given === undefined ? password : null };
}
