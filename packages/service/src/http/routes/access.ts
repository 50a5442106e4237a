import {
  credentialsShape,
  meShape,
  newTokenShape,
  page,
  passwordChangeShape,
  sessionShape,
  signInWaysShape,
  tokenRequestShape,
  tokenShape,
} from '@monsoon/contract';
import { and, asc, desc, eq, ne } from 'drizzle-orm';
import type { Response } from 'express';
import { enter } from '../../access/activity.ts';
import { beginSession, type Caller, makeToken, signOut, sourceOf } from '../../access/callers.ts';
import { cookieName, cookieOptions } from '../../access/cookies.ts';
import { checkPassword, hashPassword } from '../../access/passwords.ts';
import { refuseWeak } from '../../access/weak.ts';
import type { App } from '../../app.ts';
import { devicePasswords, people, sessions, tokens } from '../../storage/schema.ts';
import { isUuid } from '../is-uuid.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

const tokenAnswer = (row: typeof tokens.$inferSelect, email: string) => ({
  id: row.id,
  name: row.name,
  may: row.may,
  email,
  createdAt: row.createdAt,
  expiresAt: row.expiresAt,
  lastUsedAt: row.lastUsedAt,
});

const me = (caller: Caller) => ({
  id: caller.person,
  email: caller.email,
  name: caller.name,
  role: caller.role,
  mustChangePassword: caller.mustChangePassword,
});

/** @throws HttpProblem 429 with the time until when no password is looked at */
function refuseLocked(response: Response, until: string): never {
  const seconds = Math.max(1, Math.ceil((Date.parse(until) - Date.now()) / 1000));
  response.set('retry-after', String(seconds));
  throw new HttpProblem(
    429,
    'Too many attempts',
    `too many wrong passwords for this address: the next one is looked at in ${seconds} s; a browser that you signed in from before need not wait, and an administrator can unlock the address`,
  );
}

/** Everybody sees and ends their own; an administrator everybody's. */
const mine = (caller: Caller, column: typeof tokens.person | typeof sessions.person) =>
  caller.role === 'administrator' && caller.scope === 'write' ? undefined : eq(column, caller.person);

/** Sign-in, sign-out, sessions, and the tokens that programs use. */
/** A program that only operates is not to see where its person is signed in, or sign them out. @throws HttpProblem */
function forSessions({ scope }: Caller): void {
  if (scope !== 'write')
    throw new HttpProblem(403, 'Not permitted', 'this token may not see or end sessions; sign in, or use a token that may write');
}

export const accessRoutes = (app: App): AnyRoute[] => [
  route(
    { method: 'post', path: '/session', summary: 'Sign in with address and password', may: 'anybody', body: credentialsShape, answer: meShape },
    async ({ body, request, response }) => {
      const found = await checkPassword(app.db, body.email, body.password, sourceOf(app, request, body.email));
      const deed = { by: body.email.trim().toLowerCase(), via: 'browser', of: '' };
      if (found.outcome === 'locked') {
        await enter(app, { ...deed, what: 'Sign in', detail: 'locked', outcome: 'refused' });
        refuseLocked(response, found.until);
      }
      if (found.outcome === 'wrong') {
        await enter(app, { ...deed, what: 'Sign in', detail: 'wrong password', outcome: 'refused' });
        throw new HttpProblem(401, 'Not signed in', 'address and password do not go together');
      }
      const caller = await beginSession(app, found.person, request, response);
      await enter(app, { ...deed, what: 'Sign in', outcome: 'done' });
      return me(caller);
    },
  ),
  route(
    { method: 'get', path: '/session/ways', summary: 'How one can sign in, besides with a password', may: 'anybody', answer: signInWaysShape },
    async () => ({ provider: app.config.provider?.name ?? null }),
  ),
  route({ method: 'get', path: '/session', summary: 'Who is signed in', may: 'read', answer: meShape, beforePassword: true }, async ({ caller }) =>
    me(caller),
  ),
  route({ method: 'delete', path: '/session', summary: 'Sign out', may: 'read', beforePassword: true }, async ({ caller, response }) => {
    if (caller.session !== null) await signOut(app.db, caller.session);
    response.clearCookie(cookieName(app.config, 'session'), cookieOptions(app.config, { path: '/' }));
    await app.announcer.announce(['people']);
  }),
  route(
    {
      method: 'put',
      path: '/session/password',
      summary: 'Change your password; your other sessions end',
      may: 'read',
      beforePassword: true,
      body: passwordChangeShape,
      entry: () => '',
    },
    async ({ caller, body, request, response }) => {
      // A token is not enough: a person who found one must not be able to lock its person out.
      if (caller.session === null) throw new HttpProblem(403, 'Not permitted', 'sign in with a browser to change your password');
      const found = await checkPassword(app.db, caller.email, body.current, { ip: request.ip ?? '', browser: caller.session });
      if (found.outcome === 'locked') refuseLocked(response, found.until);
      if (found.outcome !== 'in')
        throw new HttpProblem(422, 'The password does not fit', 'the current password is not right', [
          { pointer: '/current', reason: 'this is not your current password' },
        ]);
      refuseWeak(body.password, caller);
      if (body.password === body.current)
        throw new HttpProblem(422, 'The password does not fit', 'password: this is your current password; choose another', [
          { pointer: '/password', reason: 'this is your current password; choose another' },
        ]);
      await app.db
        .update(people)
        .set({ passwordHash: await hashPassword(body.password), passwordTemporary: false })
        .where(eq(people.id, caller.person));
      await app.db.delete(sessions).where(and(eq(sessions.person, caller.person), ne(sessions.hash, caller.session)));
      if (body.devices) await app.db.delete(devicePasswords).where(eq(devicePasswords.person, caller.person));
      await app.announcer.announce(['people']);
    },
  ),
  route(
    {
      method: 'get',
      path: '/sessions',
      summary: 'Signed-in browsers: yours, or for an administrator everybody’s',
      may: 'read',
      answer: page(sessionShape),
    },
    async ({ caller }) => {
      forSessions(caller);
      const rows = await app.db
        .select()
        .from(sessions)
        .innerJoin(people, eq(people.id, sessions.person))
        .where(mine(caller, sessions.person))
        .orderBy(desc(sessions.lastUsedAt))
        .limit(500);
      return {
        items: rows.map(({ sessions: s, people: p }) => ({
          id: s.id,
          email: p.email,
          agent: s.agent,
          current: s.hash === caller.session,
          createdAt: s.createdAt,
          lastUsedAt: s.lastUsedAt,
          expiresAt: s.expiresAt,
        })),
        next: null,
      };
    },
  ),
  route({ method: 'delete', path: '/sessions/:session', summary: 'End a session', may: 'read', entry: () => '' }, async ({ caller, params }) => {
    forSessions(caller);
    const id = params.session;
    const gone = isUuid(id)
      ? await app.db
          .delete(sessions)
          .where(and(eq(sessions.id, id), mine(caller, sessions.person)))
          .returning()
      : [];
    if (gone.length === 0) throw notFound('session', id);
    await app.announcer.announce(['people']);
  }),
  route(
    { method: 'get', path: '/tokens', summary: 'Tokens: yours, or for an administrator everybody’s', may: 'read', answer: page(tokenShape) },
    async ({ caller }) => {
      const rows = await app.db
        .select()
        .from(tokens)
        .innerJoin(people, eq(people.id, tokens.person))
        .where(mine(caller, tokens.person))
        .orderBy(asc(people.email), asc(tokens.createdAt))
        .limit(500);
      return { items: rows.map((r) => tokenAnswer(r.tokens, r.people.email)), next: null };
    },
  ),
  route(
    {
      method: 'post',
      path: '/tokens',
      summary: 'Make a token; it is shown this once',
      may: 'read',
      body: tokenRequestShape,
      answer: newTokenShape,
      entry: (body) => `${body.name}, may ${body.may}${body.days === null ? '' : `, ${body.days} days`}`,
    },
    async ({ caller, body }) => {
      if (caller.scope !== 'write')
        throw new HttpProblem(403, 'Not permitted', 'a token that may not do everything makes no others; sign in, or use a token that may write');
      const { token, row } = await makeToken(app.db, caller.person, body);
      return { ...tokenAnswer(row, caller.email), token };
    },
  ),
  route({ method: 'delete', path: '/tokens/:token', summary: 'Withdraw a token', may: 'read', entry: () => '' }, async ({ caller, params }) => {
    if (caller.scope !== 'write') throw new HttpProblem(403, 'Not permitted', 'this token may not withdraw tokens; use one that may write');
    const id = params.token;
    const gone = isUuid(id)
      ? await app.db
          .delete(tokens)
          .where(and(eq(tokens.id, id), mine(caller, tokens.person)))
          .returning()
      : [];
    if (gone.length === 0) throw notFound('token', id);
    await app.announcer.announce(['people']);
  }),
];
