import { randomUUID } from 'node:crypto';
import type { Role } from '@monsoon/core';
import { and, eq, isNull } from 'drizzle-orm';
import express, { type Request, type Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import * as oidc from 'openid-client';
import { enter } from '../access/activity.ts';
import { beginSession, COOKIE } from '../access/callers.ts';
import type { App } from '../app.ts';
import { people } from '../storage/schema.ts';

/** Another service that people sign in with (OpenID Connect Core 1.0), as the operator configured it. */
export interface Provider {
  issuer: string;
  client: string;
  secret: string | undefined;
  /** what the button says */
  name: string;
  /** what somebody is who is not known yet; undefined: only those who were let in may come */
  role: Role | undefined;
}

const BEGUN = 'monsoon_sign_in';
/** Milliseconds in which somebody comes back from the provider. */
const PATIENCE = 600_000;

interface Begun {
  state: string;
  nonce: string;
  verifier: string;
  at: number;
}

/** Signing in with a provider: authorization code with PKCE (RFC 7636), state and nonce; what was begun travels sealed in a cookie. */
export function providerRouter(app: App): Router {
  const router = express.Router();
  const { provider } = app.config;
  if (provider === undefined) return router;
  let known: Promise<oidc.Configuration> | null = null;
  const configuration = (): Promise<oidc.Configuration> => {
    const issuer = new URL(provider.issuer);
    // In the clear on this machine alone: for trying it.
    const plain = issuer.protocol === 'http:' && ['127.0.0.1', 'localhost'].includes(issuer.hostname);
    known ??= oidc.discovery(issuer, provider.client, provider.secret, undefined, plain ? { execute: [oidc.allowInsecureRequests] } : undefined);
    known.catch(() => {
      known = null;
    });
    return known;
  };
  const back = () => `${app.publicAddress()}/sign-in/back`;
  router.use(rateLimit({ windowMs: 60_000, limit: 30 }));
  router.get('/begin', async (_request, response) => {
    const begun: Begun = { state: randomUUID(), nonce: randomUUID(), verifier: oidc.randomPKCECodeVerifier(), at: Date.now() };
    const url = oidc.buildAuthorizationUrl(await configuration(), {
      redirect_uri: back(),
      scope: 'openid email profile',
      state: begun.state,
      nonce: begun.nonce,
      code_challenge: await oidc.calculatePKCECodeChallenge(begun.verifier),
      code_challenge_method: 'S256',
    });
    // Lax: the way back is a navigation from another site.
    response.cookie(BEGUN, encodeURIComponent(app.vault.seal(begun)), {
      httpOnly: true,
      sameSite: 'lax',
      maxAge: PATIENCE,
      path: '/sign-in',
      secure: response.req.secure,
    });
    response.redirect(303, url.href);
  });
  router.get('/back', async (request, response) => {
    response.clearCookie(BEGUN, { path: '/sign-in' });
    const found = await identity(app, request, await configuration(), back()).catch((error: Error) => {
      app.log.warn({ trouble: error.name }, 'signing in with the provider failed');
      return `${provider.name} did not confirm who you are; try again`;
    });
    const person = typeof found === 'string' ? found : await admitted(app, provider, found);
    if (typeof person === 'string') {
      await enter(app, {
        by: typeof found === 'string' ? '' : found.email,
        via: provider.name,
        what: 'Sign in',
        of: '',
        detail: person,
        outcome: 'refused',
      });
      return response.redirect(303, `/?${new URLSearchParams({ refused: person })}`);
    }
    const { cookie, maxAge } = await beginSession(app.db, person, request.get('user-agent') ?? '');
    await enter(app, { by: person.email, via: provider.name, what: 'Sign in', of: '', outcome: 'done' });
    response.cookie(COOKIE, cookie, { httpOnly: true, sameSite: 'strict', maxAge, path: '/', secure: request.secure });
    response.redirect(303, '/');
  });
  return router;
}

/** A person as the provider identifies them; the subject stays the same when their address changes (OpenID Connect Core 1.0, 5.7). */
interface Identity {
  subject: string;
  email: string;
  name: string;
}

async function identity(app: App, request: Request, config: oidc.Configuration, back: string): Promise<Identity | string> {
  const sealed = /(?:^|;\s*)monsoon_sign_in=([^;]+)/.exec(request.get('cookie') ?? '')?.[1];
  if (sealed === undefined) return 'this sign-in was not begun here, or too long ago; begin again';
  const begun = app.vault.open(decodeURIComponent(decodeURIComponent(sealed))) as Begun;
  if (Date.now() - begun.at > PATIENCE) return 'this sign-in was begun too long ago; begin again';
  const url = new URL(back);
  url.search = new URL(request.originalUrl, back).search;
  const tokens = await oidc.authorizationCodeGrant(config, url, {
    pkceCodeVerifier: begun.verifier,
    expectedState: begun.state,
    expectedNonce: begun.nonce,
    idTokenExpected: true,
  });
  const claims = tokens.claims()!;
  const email = claims['email'];
  // Only an address that the provider has verified identifies a person (OpenID Connect Core 1.0, 5.1).
  if (typeof email !== 'string' || claims['email_verified'] !== true) return 'the provider does not vouch for your e-mail address';
  return {
    subject: `${claims.iss}\n${claims.sub}`,
    email: email.toLowerCase(),
    name: typeof claims['name'] === 'string' ? claims['name'] : email.split('@')[0]!,
  };
}

/**
 * Returns the person who may sign in, or the reason for the refusal. A person is linked to one subject of the provider at
 * their first sign-in through it; a person with a password is linked only after an administrator allows it.
 */
async function admitted(app: App, provider: Provider, who: Identity): Promise<typeof people.$inferSelect | string> {
  const [linked] = await app.db.select().from(people).where(eq(people.providerSubject, who.subject));
  const [known] = linked === undefined ? await app.db.select().from(people).where(eq(people.email, who.email)) : [linked];
  if (known?.disabledAt != null) return `${who.email} may no longer sign in; ask an administrator`;
  if (linked !== undefined) return linked;
  if (known !== undefined) {
    if (known.providerSubject !== null || known.passwordHash !== null)
      return `${who.email} is not linked to this account of ${provider.name}: an administrator can let them sign in through it (People, or: monsoon people change ${who.email} --provider)`;
    const [now] = await app.db
      .update(people)
      .set({ providerSubject: who.subject })
      .where(and(eq(people.id, known.id), isNull(people.providerSubject)))
      .returning();
    return now ?? admitted(app, provider, who);
  }
  if (provider.role === undefined) return `${who.email} was not let in yet; ask an administrator`;
  const [made] = await app.db
    .insert(people)
    .values({ email: who.email, name: who.name.slice(0, 100), role: provider.role, passwordHash: null, providerSubject: who.subject })
    .onConflictDoNothing()
    .returning();
  return made ?? admitted(app, provider, who);
}
