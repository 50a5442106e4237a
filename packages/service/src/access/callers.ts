import { createHash, randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { and, eq, gt, lt, sql } from 'drizzle-orm';
import type { Request } from 'express';
import type { Database } from '../storage/database.ts';
import { people, sessions, tokens } from '../storage/schema.ts';

/** Whoever a request comes from. */
export interface Caller {
  person: string;
  email: string;
  name: string;
  may: 'read' | 'write';
  /** hash of the session, when a browser calls */
  session: string | null;
}

export const COOKIE = 'monsoon_session';
const SESSION_DAYS = 14;

const digest = (secret: string) => createHash('sha256').update(secret).digest('hex');
const secret = () => randomBytes(32).toString('base64url');

/** Finds out who calls: by bearer token, else by session cookie. */
export async function identify(db: Database, request: Request): Promise<Caller | null> {
  const bearer = /^Bearer (\S+)$/i.exec(request.get('authorization') ?? '')?.[1];
  if (bearer !== undefined) return byToken(db, bearer);
  const cookie = new RegExp(`(?:^|;\\s*)${COOKIE}=([\\w-]+)`).exec(request.get('cookie') ?? '')?.[1];
  return cookie === undefined ? null : bySession(db, digest(cookie));
}

async function byToken(db: Database, token: string): Promise<Caller | null> {
  const [row] = await db
    .select()
    .from(tokens)
    .innerJoin(people, eq(people.id, tokens.person))
    .where(eq(tokens.hash, digest(token)));
  if (row === undefined) return null;
  const quiet = row.tokens.lastUsedAt !== null && Date.now() - Date.parse(row.tokens.lastUsedAt) < 60_000;
  if (!quiet) await db.update(tokens).set({ lastUsedAt: new Date().toISOString() }).where(eq(tokens.id, row.tokens.id));
  return { person: row.people.id, email: row.people.email, name: row.people.name, may: row.tokens.may, session: null };
}

async function bySession(db: Database, id: string): Promise<Caller | null> {
  const [row] = await db
    .select()
    .from(sessions)
    .innerJoin(people, eq(people.id, sessions.person))
    .where(and(eq(sessions.hash, id), gt(sessions.expiresAt, new Date().toISOString())));
  return row === undefined ? null : { person: row.people.id, email: row.people.email, name: row.people.name, may: 'write', session: id };
}

// A hash of nothing anybody knows: checked when the address is unknown, so that the time taken tells nothing.
const decoy = hash(secret());

/** @returns the secret of a new session, or null when address and password do not go together */
export async function signIn(db: Database, email: string, password: string): Promise<{ cookie: string; maxAge: number; caller: Caller } | null> {
  const [person] = await db.select().from(people).where(eq(people.email, email.trim().toLowerCase()));
  const right = await verify(person?.passwordHash ?? (await decoy), password);
  if (person === undefined || !right) return null;
  const cookie = secret();
  const maxAge = SESSION_DAYS * 86_400_000;
  await db.delete(sessions).where(lt(sessions.expiresAt, sql`now()`));
  await db.insert(sessions).values({ hash: digest(cookie), person: person.id, expiresAt: new Date(Date.now() + maxAge).toISOString() });
  return { cookie, maxAge, caller: { person: person.id, email: person.email, name: person.name, may: 'write', session: digest(cookie) } };
}

export async function signOut(db: Database, session: string): Promise<void> {
  await db.delete(sessions).where(eq(sessions.hash, session));
}

/** @returns the token itself, which is shown this once, and its row */
export async function makeToken(
  db: Database,
  person: string,
  name: string,
  may: 'read' | 'write',
): Promise<{ token: string; row: typeof tokens.$inferSelect }> {
  const token = `mon_${secret()}`;
  const [row] = await db
    .insert(tokens)
    .values({ person, name, may, hash: digest(token) })
    .returning();
  return { token, row: row! };
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
  await db.insert(people).values({ email: address, name: address.split('@')[0]!, passwordHash: await hash(password) });
  return { email: address, madeUp: given === undefined ? password : null };
}
