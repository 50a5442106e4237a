import { credentialsShape, newTokenShape, page, personShape, tokenRequestShape, tokenShape } from '@monsoon/core';
import { and, eq } from 'drizzle-orm';
import { COOKIE, makeToken, signIn, signOut } from '../../access/callers.ts';
import type { App } from '../../app.ts';
import { tokens } from '../../storage/schema.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

const tokenAnswer = (row: typeof tokens.$inferSelect) => ({
  id: row.id,
  name: row.name,
  may: row.may,
  createdAt: row.createdAt,
  lastUsedAt: row.lastUsedAt,
});

/** Sign-in, sign-out, and the tokens that programs use. */
export const accessRoutes = (app: App): AnyRoute[] => [
  route(
    { method: 'post', path: '/session', summary: 'Sign in with address and password', may: 'anybody', body: credentialsShape, answer: personShape },
    async ({ body, response }) => {
      const found = await signIn(app.db, body.email, body.password);
      if (found === null) throw new HttpProblem(401, 'Not signed in', 'address and password do not go together');
      response.cookie(COOKIE, found.cookie, { httpOnly: true, sameSite: 'strict', maxAge: found.maxAge, path: '/', secure: response.req.secure });
      return { id: found.caller.person, email: found.caller.email, name: found.caller.name };
    },
  ),
  route({ method: 'get', path: '/session', summary: 'Who is signed in', may: 'read', answer: personShape }, async ({ caller }) => ({
    id: caller.person,
    email: caller.email,
    name: caller.name,
  })),
  route({ method: 'delete', path: '/session', summary: 'Sign out', may: 'read' }, async ({ caller, response }) => {
    if (caller.session !== null) await signOut(app.db, caller.session);
    response.clearCookie(COOKIE, { path: '/' });
  }),
  route({ method: 'get', path: '/tokens', summary: 'Your tokens', may: 'read', answer: page(tokenShape) }, async ({ caller }) => ({
    items: (await app.db.select().from(tokens).where(eq(tokens.person, caller.person))).map(tokenAnswer),
    next: null,
  })),
  route(
    { method: 'post', path: '/tokens', summary: 'Make a token; it is shown this once', may: 'write', body: tokenRequestShape, answer: newTokenShape },
    async ({ caller, body }) => {
      const { token, row } = await makeToken(app.db, caller.person, body.name, body.may);
      return { ...tokenAnswer(row), token };
    },
  ),
  route({ method: 'delete', path: '/tokens/:token', summary: 'Withdraw a token', may: 'write' }, async ({ caller, params }) => {
    const mine = and(eq(tokens.person, caller.person), eq(tokens.id, params['token']!));
    const gone = /^[0-9a-f-]{36}$/.test(params['token']!) ? await app.db.delete(tokens).where(mine).returning() : [];
    if (gone.length === 0) throw notFound('token', params['token']!);
  }),
];
