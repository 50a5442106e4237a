import { randomUUID } from 'node:crypto';
import { certain } from '@monsoon/core';
import { and, eq, isNull } from 'drizzle-orm';
import express, { type Request, type Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import * as oidc from 'openid-client';
import { enter } from '../access/activity.ts';
import { beginSession } from '../access/callers.ts';
import { cookieName, cookieOptions, readCookie } from '../access/cookies.ts';
import type { App } from '../app.ts';
import type { Provider } from '../config.ts';
import { people } from '../storage/schema.ts';

/** Milliseconds in which somebody comes back from the provider. */
const PATIENCE = 600_000;

interface Started {
  state: string;
  nonce: string;
  verifier: string;
  at: number;
}

/** Signing in with a provider: authorization code with PKCE (RFC 7636), state and nonce; what was started travels sealed in a cookie. */
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
    const started: Started = { state: randomUUID(), nonce: randomUUID(), verifier: oidc.randomPKCECodeVerifier(), at: Date.now() };
    const url = oidc.buildAuthorizationUrl(await configuration(), {
      redirect_uri: back(),
      scope: 'openid email profile',
      state: started.state,
      nonce: started.nonce,
      code_challenge: await oidc.calculatePKCECodeChallenge(started.verifier),
      code_challenge_method: 'S256',
    });
    // Lax: the way back is a navigation from another site.
    const options = cookieOptions(app.config, { sameSite: 'lax', path: '/sign-in', maxAge: PATIENCE });
    response.cookie(cookieName(app.config, 'sign_in'), app.vault.seal(started), options);
    response.redirect(303, url.href);
  });
  router.get('/back', async (request, response) => {
    response.clearCookie(cookieName(app.config, 'sign_in'), cookieOptions(app.config, { path: '/sign-in' }));
    const found = await identity(app, request, await configuration(), back()).catch((error: Error): Refusal => {
      app.log.warn({ trouble: error.name }, 'signing in with the provider failed');
      return 'not-confirmed';
    });
    const person = typeof found === 'string' ? found : await admitted(app, provider, found);
    if (typeof person === 'string') {
      const by = typeof found === 'string' ? '' : found.email;
      await enter(app, { by, via: provider.name, what: 'Sign in', of: '', detail: reasons[person], outcome: 'refused' });
      return response.redirect(303, `/?${new URLSearchParams({ refused: person })}`);
    }
    await beginSession(app, person, request, response);
    await enter(app, { by: person.email, via: provider.name, what: 'Sign in', of: '', outcome: 'done' });
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

/** Why somebody is not signed in. The sign-in page has the words: an address cannot put others into it. */
type Refusal = keyof typeof reasons;

/** What the activity says of it. */
const reasons = {
  'not-started': 'not started in this browser, or too long ago',
  'not-confirmed': 'the sign-in service did not confirm who it is',
  'not-verified': 'the sign-in service has not verified the e-mail address',
  disabled: 'they may no longer sign in',
  'not-linked': 'not linked: an administrator can let them sign in through it (People, or: monsoon people change ADDRESS --provider)',
  'not-known': 'not let in yet: an administrator can let them in',
};

async function identity(app: App, request: Request, config: oidc.Configuration, back: string): Promise<Identity | Refusal> {
  const sealed = readCookie(app.config, request, 'sign_in');
  if (sealed === undefined) return 'not-started';
  const started = app.vault.open(sealed) as Started;
  if (Date.now() - started.at > PATIENCE) return 'not-started';
  const url = new URL(back);
  url.search = new URL(request.originalUrl, back).search;
  const tokens = await oidc.authorizationCodeGrant(config, url, {
    pkceCodeVerifier: started.verifier,
    expectedState: started.state,
    expectedNonce: started.nonce,
    idTokenExpected: true,
  });
  const claims = certain(tokens.claims(), 'the flow asked for an ID token');
  const email = claims['email'];
  // Only an address that the provider has verified identifies a person (OpenID Connect Core 1.0, 5.1).
  if (typeof email !== 'string' || claims['email_verified'] !== true) return 'not-verified';
  return {
    subject: `${claims.iss}\n${claims.sub}`,
    email: email.toLowerCase(),
    name: typeof claims['name'] === 'string' ? claims['name'] : email.replace(/@.*/, ''),
  };
}

/**
 * Returns the person who may sign in, or the reason for the refusal. A person is linked to one subject of the provider at
 * their first sign-in through it; a person with a password is linked only after an administrator allows it.
 */
async function admitted(app: App, provider: Provider, who: Identity): Promise<typeof people.$inferSelect | Refusal> {
  const [linked] = await app.db.select().from(people).where(eq(people.providerSubject, who.subject));
  const [known] = linked === undefined ? await app.db.select().from(people).where(eq(people.email, who.email)) : [linked];
  if (known?.disabledAt != null) return 'disabled';
  if (linked !== undefined) return linked;
  if (known !== undefined) {
    if (known.providerSubject !== null || known.passwordHash !== null) return 'not-linked';
    const [now] = await app.db
      .update(people)
      .set({ providerSubject: who.subject })
      .where(and(eq(people.id, known.id), isNull(people.providerSubject)))
      .returning();
    return now ?? admitted(app, provider, who);
  }
  if (provider.role === undefined) return 'not-known';
  const [made] = await app.db
    .insert(people)
    .values({ email: who.email, name: who.name.slice(0, 100), role: provider.role, passwordHash: null, providerSubject: who.subject })
    .onConflictDoNothing()
    .returning();
  return made ?? admitted(app, provider, who);
}
