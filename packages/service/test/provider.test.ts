import { createHash } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { exportJWK, generateKeyPair, SignJWT } from 'jose';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { admin, type Office, openOffice } from '../../../test/support/office.ts';

/** A small OpenID Connect provider whose users are always already signed in. */
async function openProvider() {
  const { publicKey, privateKey } = await generateKeyPair('RS256');
  const jwk = { ...(await exportJWK(publicKey)), kid: 'a', alg: 'RS256', use: 'sig' };
  const codes = new Map<string, { nonce: string; challenge: string }>();
  const who = { email: 'Tom@alder-wren.example', name: 'Tom', subject: 'tom', verified: true as boolean | undefined, wrongNonce: false };
  let address = '';
  const server: Server = createServer((request, response) => {
    const url = new URL(request.url!, address);
    const json = (value: unknown, status = 200) => response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value));
    if (url.pathname === '/.well-known/openid-configuration')
      return json({
        issuer: address,
        authorization_endpoint: `${address}/authorize`,
        token_endpoint: `${address}/token`,
        jwks_uri: `${address}/keys`,
        response_types_supported: ['code'],
        subject_types_supported: ['public'],
        id_token_signing_alg_values_supported: ['RS256'],
      });
    if (url.pathname === '/keys') return json({ keys: [jwk] });
    if (url.pathname === '/authorize') {
      const code = createHash('sha256').update(url.search).digest('hex');
      codes.set(code, { nonce: url.searchParams.get('nonce')!, challenge: url.searchParams.get('code_challenge')! });
      const back = new URL(url.searchParams.get('redirect_uri')!);
      back.search = new URLSearchParams({ code, state: url.searchParams.get('state')! }).toString();
      return response.writeHead(302, { location: back.href }).end();
    }
    let body = '';
    request.on('data', (piece) => {
      body += piece;
    });
    request.on('end', async () => {
      const given = new URLSearchParams(body);
      const begun = codes.get(given.get('code') ?? '');
      const challenge = createHash('sha256')
        .update(given.get('code_verifier') ?? '')
        .digest('base64url');
      if (begun === undefined || begun.challenge !== challenge) return json({ error: 'invalid_grant' }, 400);
      const claims = { email: who.email, email_verified: who.verified, name: who.name, nonce: who.wrongNonce ? 'another' : begun.nonce };
      const token = await new SignJWT(claims)
        .setProtectedHeader({ alg: 'RS256', kid: 'a' })
        .setIssuer(address)
        .setAudience('monsoon')
        .setSubject(who.subject)
        .setIssuedAt()
        .setExpirationTime('5m')
        .sign(privateKey);
      json({ access_token: 'of-no-use', token_type: 'Bearer', id_token: token });
    });
  });
  await new Promise<void>((fine) => server.listen(0, '127.0.0.1', fine));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return { address, who, stop: () => server.close() };
}

describe('signing in with an OpenID Connect provider', () => {
  let provider: Awaited<ReturnType<typeof openProvider>>;
  let office: Office;
  before(async function () {
    this.timeout(60_000);
    provider = await openProvider();
    office = await openOffice({
      seed: plainVisits(1),
      provider: () => ({ issuer: provider.address, client: 'monsoon', secret: undefined, name: 'Alder & Wren accounts', role: undefined }),
    });
  });
  after(async () => {
    await office.stop();
    provider.stop();
  });

  /** What a browser does, with its cookies, until it is back at a page. */
  const go = async (meddle: (url: URL) => URL = (url) => url): Promise<{ at: URL; cookies: Map<string, string> }> => {
    const cookies = new Map<string, string>();
    for (let url = new URL('/sign-in/begin', office.address), hop = 0; ; hop++) {
      const ours = url.origin === office.address;
      const answer = await fetch(url, { redirect: 'manual', headers: ours ? { cookie: [...cookies].map(([n, v]) => `${n}=${v}`).join('; ') } : {} });
      for (const line of answer.headers.getSetCookie()) {
        const [, name, value] = /^([^=]+)=([^;]*)/.exec(line)!;
        if (value === '') cookies.delete(name!);
        else cookies.set(name!, value!);
      }
      const location = answer.headers.get('location');
      if (location === null || hop > 6) throw new Error(`no way on from ${url.href}: ${answer.status}`);
      url = meddle(new URL(location, url));
      if (url.origin === office.address && url.pathname === '/') return { at: url, cookies };
    }
  };
  const whoIs = async (cookies: Map<string, string>) => {
    const answer = await fetch(`${office.address}/api/v1/session`, {
      headers: { cookie: `monsoon_session=${cookies.get('monsoon_session') ?? ''}` },
    });
    return answer.status === 200 ? ((await answer.json()) as { email: string; role: string }) : null;
  };

  it('lets in who was let in, with their role and no password', async () => {
    expect(await office.client.signInWays()).to.deep.equal({ provider: 'Alder & Wren accounts' });
    const stranger = await go();
    expect(stranger.at.searchParams.get('refused')).to.equal('not-known');
    expect(await whoIs(stranger.cookies)).to.equal(null);
    await office.client.addPerson({ email: 'tom@alder-wren.example', name: 'Tom', role: 'operator' });
    const tom = await go();
    expect(await whoIs(tom.cookies)).to.include({ email: 'tom@alder-wren.example', role: 'operator' });
    expect((await office.client.people()).items.find((p) => p.email.startsWith('tom'))).to.include({ password: false });
    const said = (await office.client.activity({ by: 'tom@alder-wren.example' })).items.map((a) => `${a.via}: ${a.outcome}`);
    expect(said).to.deep.equal(['Alder & Wren accounts: done', 'Alder & Wren accounts: refused']);
    await office.client.changePerson('tom@alder-wren.example', { disabled: true });
    expect((await go()).at.searchParams.get('refused')).to.equal('disabled');
    await office.client.changePerson('tom@alder-wren.example', { disabled: false });
  });

  it('links a person to one account there, and one who has a password only when an administrator says so', async () => {
    // The provider gave Tom's address to another person.
    provider.who.subject = 'another-tom';
    expect((await go()).at.searchParams.get('refused')).to.equal('not-linked');
    provider.who.subject = 'tom';
    // Tom's address changed there: he is the same.
    provider.who.email = 'tom.rooke@alder-wren.example';
    expect(await whoIs((await go()).cookies)).to.include({ email: 'tom@alder-wren.example' });
    await office.client.addPerson({ email: 'una@alder-wren.example', name: 'Una', role: 'administrator', password: 'a-password-of-una' });
    Object.assign(provider.who, { email: 'una@alder-wren.example', subject: 'una' });
    expect((await go()).at.searchParams.get('refused')).to.equal('not-linked');
    await office.client.changePerson('una@alder-wren.example', { provider: true });
    // The last administrator who can sign in keeps the password.
    const refused = await office.client.changePerson(admin.email, { provider: true }).catch((e: Error) => e);
    expect(refused)
      .to.be.instanceOf(Error)
      .with.property('message')
      .that.matches(/only administrator who can sign in.*add another/);
    expect(await whoIs((await go()).cookies)).to.include({ email: 'una@alder-wren.example' });
    Object.assign(provider.who, { email: 'Tom@alder-wren.example', subject: 'tom' });
  });

  it('believes no forged state, no other nonce, and no address that is not vouched for', async () => {
    const forged = await go((url) => {
      if (url.searchParams.has('state') && url.pathname === '/sign-in/back') url.searchParams.set('state', 'forged');
      return url;
    });
    expect(forged.at.searchParams.get('refused')).to.equal('not-confirmed');
    provider.who.wrongNonce = true;
    expect((await go()).at.searchParams.get('refused')).to.equal('not-confirmed');
    provider.who.wrongNonce = false;
    provider.who.verified = false;
    expect((await go()).at.searchParams.get('refused')).to.equal('not-verified');
    // Said nothing, it vouches for nothing.
    provider.who.verified = undefined;
    expect((await go()).at.searchParams.get('refused')).to.equal('not-verified');
    provider.who.verified = true;
    const alone = await fetch(`${office.address}/sign-in/back?code=a&state=b`, { redirect: 'manual' });
    expect(alone.headers.get('location')).to.match(/refused=not-started/);
  });
});
