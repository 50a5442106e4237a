import { createHash, randomBytes } from 'node:crypto';
import type { Role, TokenScope } from '@monsoon/contract';
import { certain } from '@monsoon/core';
import { and, eq, gt, isNull, or, sql } from 'drizzle-orm';
import type { Request, Response } from 'express';
import type { App } from '../app.ts';
import type { Database } from '../storage/database.ts';
import { people, sessions, tokens } from '../storage/schema.ts';
import { cookieName, cookieOptions, readCookie } from './cookies.ts';
import type { Source } from './lock-out.ts';

/** Who a request comes from. */
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
  /** somebody else chose their password: until they choose one, they do nothing else */
  mustChangePassword: boolean;
}

const SESSION_DAYS = 14;
/** How often "last used" is moved on, in milliseconds. */
const SEEN_EVERY = 60_000;

export const digest = (secret: string) => createHash('sha256').update(secret).digest('hex');
export const newSecret = () => randomBytes(32).toString('base64url');
const inPast = (time: string | null, by = 0) => time === null || Date.now() - Date.parse(time) >= by;

/**
 * Finds out who calls: by bearer token, else by session cookie.
 * @param use does the call count as use? An open page that only listens must not keep its session from ending
 */
export async function identify({ config, db }: Pick<App, 'config' | 'db'>, request: Request, use = true): Promise<Caller | null> {
  const bearer = /^Bearer (\S+)$/i.exec(request.get('authorization') ?? '')?.[1];
  if (bearer !== undefined) return byToken(db, bearer, use);
  const cookie = readCookie(config, request, 'session');
  return cookie === undefined ? null : bySession(db, digest(cookie), config.sessionIdleHours, use);
}

const callerOf = (person: typeof people.$inferSelect, rest: Pick<Caller, 'scope' | 'via' | 'session'>): Caller => ({
  person: person.id,
  email: person.email,
  name: person.name,
  role: person.role,
  mustChangePassword: person.passwordTemporary,
  ...rest,
});

async function byToken(db: Database, token: string, use: boolean): Promise<Caller | null> {
  const [row] = await db
    .select()
    .from(tokens)
    .innerJoin(people, eq(people.id, tokens.person))
    .where(
      and(eq(tokens.hash, digest(token)), or(isNull(tokens.expiresAt), gt(tokens.expiresAt, new Date().toISOString())), isNull(people.disabledAt)),
    );
  if (row === undefined) return null;
  if (use && inPast(row.tokens.lastUsedAt, SEEN_EVERY)) {
    await db.update(tokens).set({ lastUsedAt: new Date().toISOString() }).where(eq(tokens.id, row.tokens.id));
    await seen(db, row.people.id);
  }
  return callerOf(row.people, { scope: row.tokens.may, via: `token ${row.tokens.name}`, session: null });
}

async function bySession(db: Database, id: string, idleHours: number, use: boolean): Promise<Caller | null> {
  const [row] = await db
    .select()
    .from(sessions)
    .innerJoin(people, eq(people.id, sessions.person))
    .where(
      and(
        eq(sessions.hash, id),
        gt(sessions.expiresAt, new Date().toISOString()),
        gt(sessions.lastUsedAt, new Date(Date.now() - idleHours * 3_600_000).toISOString()),
        isNull(people.disabledAt),
      ),
    );
  if (row === undefined) return null;
  if (use && inPast(row.sessions.lastUsedAt, SEEN_EVERY)) {
    await db.update(sessions).set({ lastUsedAt: new Date().toISOString() }).where(eq(sessions.hash, id));
    await seen(db, row.people.id);
  }
  return callerOf(row.people, { scope: 'write', via: 'browser', session: id });
}

const seen = (db: Database, person: string) => db.update(people).set({ lastSeenAt: new Date().toISOString() }).where(eq(people.id, person));

/** Begins a browser's session, and sets its cookies: the session, and one by which the browser is known at the next sign-in. */
export async function beginSession(app: App, person: typeof people.$inferSelect, request: Request, response: Response): Promise<Caller> {
  const { config, db } = app;
  const secret = newSecret();
  const maxAge = SESSION_DAYS * 86_400_000;
  await db.delete(sessions).where(sql`${sessions.expiresAt} < now()`);
  await db.insert(sessions).values({
    hash: digest(secret),
    person: person.id,
    agent: (request.get('user-agent') ?? '').slice(0, 200),
    expiresAt: new Date(Date.now() + maxAge).toISOString(),
  });
  await seen(db, person.id);
  response.cookie(cookieName(config, 'session'), secret, cookieOptions(config, { sameSite: 'strict', path: '/', maxAge }));
  const known = app.vault.seal({ email: person.email, browser: newSecret() } satisfies KnownBrowser);
  response.cookie(cookieName(config, 'known'), known, cookieOptions(config, { sameSite: 'strict', path: '/', maxAge: KNOWN_DAYS * 86_400_000 }));
  return callerOf(person, { scope: 'write', via: 'browser', session: digest(secret) });
}

/** For how long a browser is known after a sign-in. */
const KNOWN_DAYS = 90;

interface KnownBrowser {
  email: string;
  browser: string;
}

/** Where an attempt to sign in as somebody comes from. */
export function sourceOf(app: App, request: Request, email: string): Source {
  const ip = request.ip ?? '';
  const sealed = readCookie(app.config, request, 'known');
  if (sealed === undefined) return { ip, browser: null };
  try {
    const known = app.vault.open(sealed) as KnownBrowser;
    return { ip, browser: known.email === email.trim().toLowerCase() ? digest(known.browser) : null };
  } catch {
    // Sealed with another key, or forged.
    return { ip, browser: null };
  }
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
  return { token, row: certain(row, 'it was made just now') };
}
