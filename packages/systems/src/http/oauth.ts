import * as oidc from 'openid-client';
import { OutsideError } from '../outside-error.ts';
import type { Authentication, Credentials } from './authentication.ts';
import type { Call } from './call.ts';

/** What an authorization server gave (RFC 6749, 5.1). */
export interface Tokens {
  access: string;
  refresh: string | null;
  /** RFC 3339 */
  expires: string | null;
}

/** Where the tokens of one system are kept, for all processes: refresh tokens may be good for one use only. */
export interface TokenStore {
  load(): Promise<Tokens | null>;
  /** Renews under a lock that all processes share. `renew` hears what is kept by then; what it returns is kept. */
  renew(renew: (current: Tokens | null) => Promise<Tokens>): Promise<Tokens>;
}

export interface OAuthSettings {
  authentication: Authentication;
  /** the system's address, which relative places are below */
  address: string;
  credentials: Credentials;
}

/** Seconds before its end at which an access token is renewed. */
const EARLY = 10;

function configuration(call: Call, { authentication, address, credentials }: OAuthSettings): oidc.Configuration {
  const place = (path: string) => new URL(path, address).href;
  const config = new oidc.Configuration(
    {
      issuer: authentication.issuer === undefined ? new URL(address).origin : place(authentication.issuer),
      token_endpoint: place(authentication.token!),
      ...(authentication.authorize === undefined ? {} : { authorization_endpoint: place(authentication.authorize) }),
    },
    credentials.client!,
    undefined,
    credentials.clientSecret === undefined ? oidc.None() : oidc.ClientSecretBasic(credentials.clientSecret),
  );
  // What may be called, and whether without TLS, is decided by the address checks around `call`.
  oidc.allowInsecureRequests(config);
  config[oidc.customFetch] = async (url, options) => {
    const answer = await call({
      method: options.method,
      url,
      headers: options.headers,
      body: options.body === undefined || options.body === null ? undefined : String(options.body),
      limit: 1_000_000,
    });
    return new Response(answer.status === 204 ? null : new Uint8Array(answer.body), { status: answer.status, headers: answer.headers });
  };
  return config;
}

const kept = (answer: oidc.TokenEndpointResponse, before: Tokens | null): Tokens => ({
  access: answer.access_token,
  refresh: answer.refresh_token ?? before?.refresh ?? null,
  expires: answer.expires_in === undefined ? null : new Date(Date.now() + answer.expires_in * 1000).toISOString(),
});

/** The answer of an authorization server that says no, for people (RFC 6749, 5.2). */
async function asked(host: string, work: () => Promise<oidc.TokenEndpointResponse>): Promise<oidc.TokenEndpointResponse> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof OutsideError) throw error;
    if (error instanceof oidc.ClientError && error.cause instanceof OutsideError) throw error.cause;
    if (error instanceof oidc.WWWAuthenticateChallengeError)
      throw new OutsideError('not authorised', `${host} does not accept the client id and secret of Monsoon (${error.status})`, {
        status: error.status,
      });
    const said = error instanceof oidc.ResponseBodyError ? ` (${error.error}${error.error_description ? `: ${error.error_description}` : ''})` : '';
    const status = error instanceof oidc.ResponseBodyError ? error.status : 0;
    if (status >= 500) throw new OutsideError('broken', `${host} failed to give a token${said}`, { status });
    if (said !== '') throw new OutsideError('not authorised', `${host} gives no token any more${said}: authorise Monsoon there again`, { status });
    throw new OutsideError('nonsense', `${host} did not answer as an authorization server does: ${(error as Error).message}`);
  }
}

export interface Consent {
  /** where a person goes to consent */
  url: string;
  state: string;
  verifier: string;
}

/** Begins the authorization code grant with PKCE (RFC 6749, 4.1; RFC 7636). @param redirect where the person comes back to */
export async function beginConsent(call: Call, settings: OAuthSettings, redirect: string): Promise<Consent> {
  const verifier = oidc.randomPKCECodeVerifier();
  const state = oidc.randomState();
  const url = oidc.buildAuthorizationUrl(configuration(call, settings), {
    redirect_uri: redirect,
    state,
    code_challenge: await oidc.calculatePKCECodeChallenge(verifier),
    code_challenge_method: 'S256',
    ...(settings.authentication.scopes === undefined ? {} : { scope: settings.authentication.scopes.join(' ') }),
    // Servers that follow OpenID Connect give a refresh token only after asking for consent.
    ...(settings.authentication.scopes?.includes('offline_access') ? { prompt: 'consent' } : {}),
  });
  return { url: url.href, state, verifier };
}

/** Ends it with the address that the person came back to. @throws OutsideError */
export async function endConsent(call: Call, settings: OAuthSettings, back: URL, consent: { state: string; verifier: string }): Promise<Tokens> {
  const host = new URL(settings.address).host;
  const refused = back.searchParams.get('error');
  if (refused !== null)
    throw new OutsideError('not authorised', `${host} says "${back.searchParams.get('error_description') ?? refused}": nothing was authorised`);
  return kept(
    await asked(host, () =>
      oidc.authorizationCodeGrant(configuration(call, settings), back, { pkceCodeVerifier: consent.verifier, expectedState: consent.state }),
    ),
    null,
  );
}

/** Gives an access token, renewed before it ends. @param refused one that the system does not accept any more */
export type AccessToken = (refused: string | null) => Promise<string>;

/** Where access tokens come from: the store, or the authorization server. */
export function accessTokens(call: Call, settings: OAuthSettings, store: TokenStore): AccessToken {
  const host = new URL(settings.address).host;
  let known: Tokens | null = null;
  let renewing: Promise<Tokens> | null = null;
  const fresh = (tokens: Tokens) => tokens.expires === null || Date.parse(tokens.expires) - EARLY * 1000 > Date.now();
  const obtain = async (current: Tokens | null): Promise<Tokens> => {
    const { grant, scopes } = settings.authentication;
    if (grant === 'client credentials') {
      const scope: Record<string, string> = scopes === undefined ? {} : { scope: scopes.join(' ') };
      return kept(await asked(host, () => oidc.clientCredentialsGrant(configuration(call, settings), scope)), null);
    }
    if (current?.refresh == null)
      throw new OutsideError('not authorised', `Monsoon is not authorised at ${host}${current === null ? ' yet' : ' any more'}: authorise it there`);
    const { refresh } = current;
    return kept(await asked(host, () => oidc.refreshTokenGrant(configuration(call, settings), refresh)), current);
  };
  /** One call renews for all of this process: each that waited for the store's lock would hold a connection to it. */
  const renew = (refused: string | null): Promise<Tokens> => {
    // Another process may have renewed it while this one waited for the lock.
    renewing ??= store
      .renew(async (current) => (current !== null && fresh(current) && current.access !== refused ? current : obtain(current)))
      .finally(() => {
        renewing = null;
      });
    return renewing;
  };
  return async (refused) => {
    if (known === null || !fresh(known) || known.access === refused) known = await store.load();
    if (known === null || !fresh(known) || known.access === refused) known = await renew(refused);
    return known.access;
  };
}

/**
 * Puts an access token on every call, renews it before it ends and once when it is not accepted. A 401 says that
 * nothing was done, so writes are repeated too.
 */
export function withTokens(call: Call, settings: OAuthSettings, store: TokenStore): Call {
  const token = accessTokens(call, settings, store);
  return async (request) => {
    const access = await token(null);
    const send = (bearer: string) => call({ ...request, headers: { ...request.headers, authorization: `Bearer ${bearer}` } });
    const answer = await send(access);
    return answer.status === 401 ? send(await token(access)) : answer;
  };
}
