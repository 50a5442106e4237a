import { readFileSync, renameSync, writeFileSync } from 'node:fs';
import express, { type Router } from 'express';
import Provider, { type Adapter, type AdapterPayload } from 'oidc-provider';
import { html, render } from '../common/html.ts';

/** Who may ask for tokens, and how long those last. */
export interface OAuthOptions {
  issuer: string;
  client: { id: string; secret: string; redirects: string[] };
  /** seconds */
  access: number;
  refresh: number;
  /** where tokens are kept between starts */
  file: string;
}

/** The people at the desk who can consent; there is no more to signing in at a stand-in. */
export const clerks = ['Ines Oakhanger', 'Bram Tarrant'];

/** An OAuth 2.0 authorization server: authorization code with PKCE through a page of consent, refresh tokens, client credentials. */
export function oauth(options: OAuthOptions): { router: Router; known: (access: string) => Promise<boolean> } {
  const kept = openKept(options.file);
  const { id, secret, redirects } = options.client;
  const provider = new Provider(options.issuer, {
    adapter: (name: string) => adapter(name, kept),
    clients: [
      {
        client_id: id,
        client_secret: secret,
        redirect_uris: redirects,
        grant_types: ['authorization_code', 'refresh_token', 'client_credentials'],
        response_types: ['code'],
        scope: 'openid offline_access visits contacts',
      },
    ],
    scopes: ['openid', 'offline_access', 'visits', 'contacts'],
    pkce: { required: () => true },
    features: { devInteractions: { enabled: false }, clientCredentials: { enabled: true } },
    ttl: {
      AccessToken: options.access,
      ClientCredentials: options.access,
      RefreshToken: options.refresh,
      Grant: options.refresh,
      Session: 3600,
      Interaction: 900,
      IdToken: options.access,
      AuthorizationCode: 60,
    },
    issueRefreshToken: async () => true,
    rotateRefreshToken: true,
    cookies: { keys: [secret], short: { path: '/' }, long: { path: '/' } },
    interactions: { url: (_ctx, interaction) => `/consent/${interaction.uid}` },
    findAccount: async (_ctx, sub) => ({ accountId: sub, claims: async () => ({ sub }) }),
    renderError: async (ctx, out) => {
      ctx.type = 'html';
      ctx.body = render('Front desk', 'This did not work', `<p>${html(out.error_description ?? out.error)}</p>`);
    },
  });
  const router = express.Router();
  router.get('/consent/:uid', async (request, response) => {
    const { params } = await provider.interactionDetails(request, response);
    const people = clerks.map((c) => `<option>${html(c)}</option>`).join('');
    response.send(
      render(
        'Front desk',
        'May Monsoon come in?',
        `<p><strong>${html(params['client_id'])}</strong> asks to read and change: ${html(
          String(params['scope'] ?? '')
            .replace(/openid|offline_access/g, '')
            .trim() || 'everything',
        )}, also while you are away.</p>
<form method="post"><p><label for="who">You are</label><select id="who" name="who">${people}</select></p><p><button name="do" value="allow">Allow</button> <button name="do" value="refuse">Refuse</button></p></form>`,
      ),
    );
  });
  router.post('/consent/:uid', express.urlencoded({ extended: false }), async (request, response) => {
    const { params, grantId } = await provider.interactionDetails(request, response);
    const form = request.body as { who?: string; do?: string };
    const who = clerks.find((c) => c === form.who);
    if (form.do !== 'allow' || who === undefined)
      return provider.interactionFinished(request, response, { error: 'access_denied', error_description: 'somebody at the desk refused' });
    const grant =
      (grantId === undefined ? undefined : await provider.Grant.find(grantId)) ??
      new provider.Grant({ accountId: who, clientId: String(params['client_id']) });
    grant.addOIDCScope(String(params['scope'] ?? ''));
    await provider.interactionFinished(request, response, { login: { accountId: who }, consent: { grantId: await grant.save() } });
  });
  router.use('/oauth', provider.callback());
  return {
    router,
    known: async (access) => ((await provider.AccessToken.find(access)) ?? (await provider.ClientCredentials.find(access))) !== undefined,
  };
}

type Kept = Map<string, { payload: AdapterPayload; until: number }>;

/** Only what must outlast a restart is written down: grants and refresh tokens. */
const LASTING = /^(Grant|RefreshToken) /;

function openKept(file: string): Kept & { save(): void } {
  let entries: [string, { payload: AdapterPayload; until: number }][] = [];
  try {
    entries = JSON.parse(readFileSync(file, 'utf8')) as typeof entries;
  } catch {
    // The first start.
  }
  const kept = new Map(entries) as Kept & { save(): void };
  kept.save = () => {
    for (const [key, { until }] of kept) if (until < Date.now()) kept.delete(key);
    writeFileSync(`${file}.new`, JSON.stringify([...kept].filter(([key]) => LASTING.test(key))), { mode: 0o600 });
    renameSync(`${file}.new`, file);
  };
  return kept;
}

function adapter(name: string, kept: Kept & { save(): void }): Adapter {
  const key = (id: string) => `${name} ${id}`;
  const live = (entry: { payload: AdapterPayload; until: number } | undefined) =>
    entry !== undefined && entry.until > Date.now() ? entry.payload : undefined;
  const where = (fits: (p: AdapterPayload) => boolean) => [...kept].filter(([k, e]) => k.startsWith(`${name} `) && fits(e.payload))[0]?.[1];
  return {
    async upsert(id, payload, expiresIn) {
      kept.set(key(id), { payload, until: Date.now() + (expiresIn ?? 3600) * 1000 });
      kept.save();
    },
    find: async (id) => live(kept.get(key(id))),
    findByUid: async (uid) => live(where((p) => p.uid === uid)),
    findByUserCode: async (code) => live(where((p) => p.userCode === code)),
    async consume(id) {
      const entry = kept.get(key(id));
      if (entry !== undefined) entry.payload['consumed'] = Math.floor(Date.now() / 1000);
      kept.save();
    },
    async destroy(id) {
      kept.delete(key(id));
      kept.save();
    },
    async revokeByGrantId(grant) {
      for (const [k, e] of kept) if (e.payload.grantId === grant) kept.delete(k);
      kept.save();
    },
  };
}
