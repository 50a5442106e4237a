import { createHash, randomBytes } from 'node:crypto';
import type { Role, TokenScope } from '@monsoon/core';
import { and, eq, gt, isNull, or, sql } from 'drizzle-orm';
import type { Request } from 'express';
import type { Database } from '../storage/database.ts';
import { people, sessions, tokens } from '../storage/schema.ts';

/** Whoever a request comes from. */
export interface Caller {
  person: string;
  email: string;
  name: string;
  role: Role;
  /** of what the role allows, how much a token does; a browser: everything */
  scope: TokenScope;
  /** what calls: a browser, or the name of a token */
  via: string;
  /** hash of the session, when a browser calls */
  session: string | null;
}

export const COOKIE = 'monsoon_session';
const SESSION_DAYS = 14;
/** How often "last used" is moved on, in milliseconds. */
const SEEN_EVERY = 60_000;

export const digest = (secret: string) => createHash('sha256').update(secret).digest('hex');
export const newSecret = () => randomBytes(32).toString('base64url');
const inPast = (time: string | null, by = 0) => time === null || Date.now() - Date.parse(time) >= by;

/** Finds out who calls: by bearer token, else by session cookie. */
export async function identify(db: Database, request: Request): Promise<Caller | null> {
  const bearer = /^Bearer (\S+)$/i.exec(request.get('authorization') ?? '')?.[1];
  if (bearer !== undefined) return byToken(db, bearer);
  const cookie = new RegExp(`(?:^|;\\s*)${COOKIE}=([\\w-]+)`).exec(request.get('cookie') ?? '')?.[1];
  return cookie === undefined ? null : bySession(db, digest(cookie));
}

const callerOf = (person: typeof people.$inferSelect, rest: Pick<Caller, 'scope' | 'via' | 'session'>): Caller => ({
  person: person.id,
  email: person.email,
  name: person.name,
  role: person.role,
  ...rest,
});

async function byToken(db: Database, token: string): Promise<Caller | null> {
  const [row] = await db
    .select()
    .from(tokens)
    .innerJoin(people, eq(people.id, tokens.person))
    .where(
      and(eq(tokens.hash, digest(token)), or(isNull(tokens.expiresAt), gt(tokens.expiresAt, new Date().toISOString())), isNull(people.disabledAt)),
    );
  if (row === undefined) return null;
  if (inPast(row.tokens.lastUsedAt, SEEN_EVERY)) {
    await db.update(tokens).set({ lastUsedAt: new Date().toISOString() }).where(eq(tokens.id, row.tokens.id));
    await seen(db, row.people.id);
  }
  return callerOf(row.people, { scope: row.tokens.may, via: `token ${row.tokens.name}`, session: null });
}

async function bySession(db: Database, id: string): Promise<Caller | null> {
  const [row] = await db
    .select()
    .from(sessions)
    .innerJoin(people, eq(people.id, sessions.person))
    .where(and(eq(sessions.hash, id), gt(sessions.expiresAt, new Date().toISOString()), isNull(people.disabledAt)));
  if (row === undefined) return null;
  if (inPast(row.sessions.lastUsedAt, SEEN_EVERY)) {
    await db.update(sessions).set({ lastUsedAt: new Date().toISOString() }).where(eq(sessions.hash, id));
    await seen(db, row.people.id);
  }
  return callerOf(row.people, { scope: 'write', via: 'browser', session: id });
}

const seen = (db: Database, person: string) => db.update(people).set({ lastSeenAt: new Date().toISOString() }).where(eq(people.id, person));

/** Begins a browser's session. @returns the secret that its cookie holds, and how long it is good for, in milliseconds */
export async function beginSession(
  db: Database,
  person: typeof people.$inferSelect,
  agent: string,
): Promise<{ cookie: string; maxAge: number; caller: Caller }> {
  const cookie = newSecret();
  const maxAge = SESSION_DAYS * 86_400_000;
  await db.delete(sessions).where(sql`${sessions.expiresAt} < now()`);
  await db
    .insert(sessions)
    .values({ hash: digest(cookie), person: person.id, agent: agent.slice(0, 200), expiresAt: new Date(Date.now() + maxAge).toISOString() });
  await seen(db, person.id);
  return { cookie, maxAge, caller: callerOf(person, { scope: 'write', via: 'browser', session: digest(cookie) }) };
}

export async function signOut(db: Database, session: string): Promise<void> {
  await db.delete(sessions).where(eq(sessions.hash, session));
}

/** @returns the token itself, which is shown this once, and its row */
export async function makeToken(
  db: Database,
  person: string,
  ask: { name: string; may: TokenScope; days: number | null },
): Promise<{ token: string; row: typeof tokens.$inferSelect }> {
  const token = `mon_${newSecret()}`;
  const expiresAt = ask.days === null ? null : new Date(Date.now() + ask.days * 86_400_000).toISOString();
  const [row] = await db
    .insert(tokens)
    .values({ person, name: ask.name, may: ask.may, expiresAt, hash: digest(token) })
    .returning();
  return { token, row: row! };
}
