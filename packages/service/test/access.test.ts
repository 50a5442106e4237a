import { createHash } from 'node:crypto';
import { get } from 'node:http';
import type { Role } from '@monsoon/contract';
import { MonsoonClient, type ServiceProblem } from '@monsoon/contract/client';
import { expect } from 'chai';
import pg from 'pg';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { admin, type Office, openOffice } from '../../../test/support/office.ts';
import { eventually } from '../../../test/support/servers.ts';

/** What a viewer may call; everything else that is not for anybody is more. Written out: a route that is not expected here fails the test. */
const forViewers = new Set(
  [
    ...[
      'session',
      'sessions',
      'tokens',
      'today',
      'kinds',
      'systems',
      'systems/{system}',
      'systems/{system}/collections',
      'systems/{system}/calendars',
    ],
    ...['systems/{system}/tracking/{collection}', 'systems/{system}/calls', 'descriptors/schema'],
    ...['lanes', 'lanes/{lane}', 'lanes/{lane}/items', 'lanes/{lane}/items/{record}', 'lanes/{lane}/why', 'lanes/{lane}/stop', 'lanes/{lane}/file'],
    ...['lanes/{lane}/versions', 'drafts', 'drafts/{draft}', 'schemas/lane', 'starters', 'runs', 'runs/{run}', 'runs/{run}/undo', 'journal'],
    ...[
      'journal/{entry}/undo',
      'holds',
      'pause',
      'settings',
      'session/notifications',
      'lanes/{lane}/guests',
      'lanes/{lane}/failures',
      'lanes/{lane}/audits',
      'counts',
      'counts/export',
    ],
    ...['agenda', 'hosted-calendars', 'hosted-calendars/{calendar}', 'devices', 'feeds', 'feeds/{feed}', 'feeds/{feed}/preview'],
  ].map((path) => `get ${path}`),
);
for (const own of [
  'delete session',
  'put session/password',
  'put session/notifications',
  'delete sessions/{session}',
  'post tokens',
  'delete tokens/{token}',
])
  forViewers.add(own);
// Whose a calendar is settles it; a viewer may be given one.
for (const own of ['patch hosted-calendars/{calendar}', 'put hosted-calendars/{calendar}/rights', 'delete hosted-calendars/{calendar}'])
  forViewers.add(own);
for (const own of ['post devices', 'delete devices/{device}']) forViewers.add(own);
for (const look of ['lanes/{lane}/forecast', 'lanes/{lane}/audit', 'descriptors/draft']) forViewers.add(`post ${look}`);
// For operators only once they own a lane.
const forArrangers = new Set([
  'get systems/{system}/collections/{collection}/sample',
  'post lane-files/check',
  'post lanes/suggest',
  'post lanes/preview',
]);

const forOperators = new Set([
  'post lanes/{lane}/items/{record}/follow',
  'post lanes/{lane}/guests/{pair}/{email}/settle',
  ...[
    'get people',
    'get activity',
    'get webhooks',
    'get journal/export',
    'put pause',
    'delete pause',
    'post lanes/{lane}/retry',
    'post systems/{system}/check',
    'post lanes/{lane}/pause',
    'post lanes/{lane}/resume',
    'post lanes/{lane}/runs',
  ],
  ...['post runs/{run}/release', 'post runs/{run}/undo', 'post journal/{entry}/undo', 'post holds/settle', 'post holds/{hold}/settle'],
  ...['post hosted-calendars', 'post feeds', 'patch feeds/{feed}', 'delete feeds/{feed}'],
  ...['renew', 'revoke', 'mail'].map((what) => `post feeds/{feed}/${what}`),
  ...['post drafts', 'put drafts/{draft}', 'delete drafts/{draft}'],
]);
const forAnybody = new Set(['post session', 'get session/ways', 'get health']);

describe('who may do what', () => {
  let office: Office;
  let database: pg.Client;
  before(async function () {
    this.timeout(60_000);
    office = await openOffice({ seed: plainVisits(3) });
    database = new pg.Client({ connectionString: office.databaseUrl });
    await database.connect();
  });
  after(async () => {
    await database.end();
    await office.stop();
  });

  const password = 'a-quiet-metronome';
  /** What an administrator gave them: they choose another before anything else. */
  const given = 'let-in-by-somebody-else';
  const signIn = async (email: string, secret = password, headers: Record<string, string> = {}) => {
    const answer = await fetch(`${office.address}/api/v1/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: JSON.stringify({ email, password: secret }),
    });
    const json = (await answer.json()) as { detail?: string; mustChangePassword?: boolean };
    return {
      status: answer.status,
      json,
      cookie: answer.headers.getSetCookie()[0]?.split(';')[0] ?? '',
      known: answer.headers.getSetCookie()[1]?.split(';')[0] ?? '',
      retryAfter: answer.headers.get('retry-after'),
    };
  };
  const call = (method: string, path: string, cookie: string, body?: object, headers: Record<string, string> = {}) =>
    fetch(`${office.address}/api/v1${path}`, {
      method,
      headers: { cookie, ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  /** Somebody of that role, with a client of their own. */
  const join = async (name: string, role: Role) => {
    const email = `${name}@alder-wren.example`;
    await office.client.addPerson({ email, name, role, password: given });
    const { cookie } = await signIn(email, given);
    expect((await call('PUT', '/session/password', cookie, { current: given, password })).status).to.equal(204);
    const client = new MonsoonClient({
      address: office.address,
      fetch: (input, init) => {
        const headers = new Headers(init?.headers);
        headers.set('cookie', cookie);
        return fetch(input, { ...init, headers });
      },
    });
    return { email, cookie, client };
  };
  const refused = async (work: Promise<unknown>): Promise<ServiceProblem> =>
    work.then(
      () => {
        throw new Error('it was let through');
      },
      (e: ServiceProblem) => e,
    );

  it('every route, for every role and for nobody', async function () {
    this.timeout(60_000);
    const people = { viewer: await join('vera', 'viewer'), operator: await join('otto', 'operator') };
    const document = (await (await fetch(`${office.address}/api/v1/openapi.json`)).json()) as { paths: Record<string, Record<string, object>> };
    const routes = Object.entries(document.paths).flatMap(([path, methods]) => Object.keys(methods).map((method) => ({ path, method })));
    const ask = async (method: string, path: string, headers: Record<string, string>) =>
      (
        await fetch(`${office.address}${path.replace(/\{\w+\}/g, 'nothing-of-that-name')}`, {
          method: method.toUpperCase(),
          headers: { 'content-type': 'application/json', ...headers },
          ...(method === 'get' ? {} : { body: '{}' }),
        })
      ).status;
    const unmet = new Set([...forViewers, ...forOperators, ...forArrangers, ...forAnybody]);
    for (const { path, method } of routes) {
      const name = `${method} ${path.replace('/api/v1/', '')}`;
      unmet.delete(name);
      // Signing out would end the walk.
      if (name === 'delete session' || forAnybody.has(name)) continue;
      expect(await ask(method, path, {}), `${name}, nobody`).to.equal(401);
      const viewer = await ask(method, path, { cookie: people.viewer.cookie });
      const operator = await ask(method, path, { cookie: people.operator.cookie });
      const administrator = await ask(method, path, { authorization: `Bearer ${office.token}` });
      if (forViewers.has(name)) expect(viewer, `${name}, viewer`).to.not.be.oneOf([401, 403]);
      else expect(viewer, `${name}, viewer`).to.equal(403);
      if (forViewers.has(name) || forOperators.has(name)) expect(operator, `${name}, operator`).to.not.be.oneOf([401, 403]);
      else expect(operator, `${name}, operator`).to.equal(403);
      if (name !== 'put session/password') expect(administrator, `${name}, administrator`).to.not.be.oneOf([401, 403]);
    }
    expect([...unmet], 'expected, but not there').to.deep.equal([]);
    for (const path of ['/api/v1/changes', '/api/v1/metrics']) expect(await ask('get', path, {}), path).to.equal(401);
  });

  it('an operator changes the lanes that they own, and no others', async () => {
    const { client, email } = await join('olga', 'operator');
    const lane = await client.lane('tuning-visits');
    const change = () => client.changeLane('tuning-visits', lane.version, { ...lane.definition, checkEvery: 7 });
    expect((await refused(change())).message).to.equal('as operator you may not change this lane: ask its owner or an administrator');
    expect((await refused(client.setOwner('tuning-visits', email))).status).to.equal(403);
    expect((await office.client.setOwner('tuning-visits', email)).owner).to.equal(email);
    expect((await change()).definition.checkEvery).to.equal(7);
    expect((await office.client.people()).items.find((p) => p.email === email)!.lanes).to.deep.equal(['tuning-visits']);
    const token = await client.makeToken('watcher', 'operate');
    const byToken = new MonsoonClient({ address: office.address, token: token.token });
    expect((await byToken.pause('tuning-visits')).state).to.equal('paused');
    expect((await byToken.resume('tuning-visits')).state).to.equal('running');
    expect((await refused(byToken.changeLane('tuning-visits', lane.version + 1, lane.definition))).message).to.match(
      /only look, run, pause and settle/,
    );
    expect((await refused(byToken.makeToken('more', 'write'))).status).to.equal(403);
    const viewer = await join('vito', 'viewer');
    expect((await refused(office.client.setOwner('tuning-visits', viewer.email))).problems[0]!.pointer).to.equal('/email');
  });

  it('tokens end, sessions can be ended, and a disabled person is out at once', async () => {
    const { client, cookie, email } = await join('tilda', 'viewer');
    const { token, id } = await client.makeToken('a day', 'read', 1);
    const byToken = new MonsoonClient({ address: office.address, token });
    await byToken.today();
    expect(
      (await client.tokens()).items.map((t) => t.name),
      'her own alone',
    ).to.deep.equal(['a day']);
    expect((await office.client.tokens()).items.map((t) => t.email)).to.include(email);
    await database.query("update tokens set expires_at = now() - interval '1 second' where id = $1", [id]);
    expect((await refused(byToken.today())).status).to.equal(401);
    const second = await signIn(email);
    const sessions = (await client.sessions()).items;
    expect(sessions).to.have.length(2);
    await client.endSession(sessions.find((s) => !s.current)!.id);
    const withCookie = (c: string) => fetch(`${office.address}/api/v1/today`, { headers: { cookie: c } }).then((r) => r.status);
    expect(await withCookie(second.cookie)).to.equal(401);
    expect(await withCookie(cookie)).to.equal(200);
    await office.client.changePerson(email, { disabled: true });
    expect(await withCookie(cookie)).to.equal(401);
    expect((await signIn(email)).status).to.equal(401);
    await office.client.changePerson(email, { disabled: false });
    const back = await signIn(email);
    expect(back.status).to.equal(201);
    const changed = await fetch(`${office.address}/api/v1/session/password`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json', cookie: back.cookie },
      body: JSON.stringify({ current: password, password: 'a-new-quiet-metronome' }),
    });
    expect(changed.status).to.equal(204);
    expect((await signIn(email)).status).to.equal(401);
    expect((await signIn(email, 'a-new-quiet-metronome')).status).to.equal(201);
  });

  it('who arranges no lane sees what lanes show, and not everything that the systems hold', async () => {
    const viewer = await join('valentin', 'viewer');
    const owner = await join('olivia', 'operator');
    const before = await office.client.lane('tuning-visits');
    await office.client.changeLane('tuning-visits', before.version, { ...before.definition, private: { field: 'private', treat: 'leave out' } });
    await office.frontDesk.call('PATCH', '/visits/V-1001', { private: true, instrument: 'Secret Sonata' });
    await office.run({ sweep: true });
    const lane = await office.client.lane('tuning-visits');
    for (const client of [viewer.client, owner.client]) {
      expect((await refused(client.sample('front-desk', 'visits'))).status).to.equal(403);
      expect((await refused(client.preview({ definition: lane.definition }))).status).to.equal(403);
      expect((await refused(client.forecast('tuning-visits', lane.definition))).status).to.equal(403);
      const counted = {
        step: 'week',
        from: '2026-01-01',
        until: '2026-12-31',
        system: 'front-desk',
        collection: 'visits',
        by: 'instrument',
      } as const;
      expect((await refused(client.counts(counted))).status).to.equal(403);
      const shown = await client.item('tuning-visits', 'V-1002');
      expect(shown.record).to.have.property('fields', null);
      expect(shown.record.values).to.have.property('title');
      const hidden = await client.item('tuning-visits', 'V-1001');
      expect(hidden).to.include({ label: 'V-1001' }).and.nested.include({ 'record.values': null, 'event.values': null });
      expect(hidden.why).to.match(/It is private, and the lane leaves private items out/);
      expect(JSON.stringify([hidden, await client.items('tuning-visits', {}), await client.forecast('tuning-visits')])).to.not.include(
        'Secret Sonata',
      );
    }
    await office.client.setOwner('tuning-visits', owner.email);
    expect((await owner.client.item('tuning-visits', 'V-1001')).record.fields).to.deep.include({ instrument: 'Secret Sonata' });
    expect((await owner.client.sample('front-desk', 'visits')).read).to.be.greaterThan(0);
    const draft = await owner.client.makeDraft({ slug: 'tuning-visits', lane: 'tuning-visits', definition: { name: 'Mine' } });
    const other = await join('orlando', 'operator');
    expect((await other.client.drafts()).items).to.deep.equal([]);
    expect((await refused(other.client.draft(draft.id))).status).to.equal(404);
    expect((await refused(other.client.dropDraft(draft.id))).status).to.equal(404);
    expect((await owner.client.drafts()).items.map((d) => d.id)).to.deep.equal([draft.id]);
    await owner.client.dropDraft(draft.id);
    await office.client.setOwner('tuning-visits', null);
  });

  it('who signs in with a password that somebody else chose chooses another before anything else', async () => {
    const email = 'nora@alder-wren.example';
    await office.client.addPerson({ email, name: 'Nora', role: 'operator', password: given });
    const first = await signIn(email, given);
    expect(first.json).to.deep.include({ mustChangePassword: true });
    const closed = await call('GET', '/today', first.cookie);
    expect(closed.status).to.equal(403);
    expect(((await closed.json()) as { detail: string }).detail).to.match(/choose one of your own \(PUT \/session\/password\)/);
    expect((await call('GET', '/changes', first.cookie)).status).to.equal(401);
    for (const [next, reason] of [
      [given, /choose another/],
      ['nora@alder-wren.example', /easy to guess/],
      ['123456789012', /easy to guess/],
      ['monsoonmonsoon', /easy to guess/],
    ] as const) {
      const answer = await call('PUT', '/session/password', first.cookie, { current: given, password: next });
      expect(answer.status, next).to.equal(422);
      expect(((await answer.json()) as { detail: string }).detail).to.match(reason);
    }
    expect((await call('PUT', '/session/password', first.cookie, { current: given, password })).status).to.equal(204);
    expect((await call('GET', '/today', first.cookie)).status).to.equal(200);
    // Somebody who knew the old password may have made tokens with it.
    const token = ((await (await call('POST', '/tokens', first.cookie, { name: 'mine' })).json()) as { token: string }).token;
    const withToken = () => fetch(`${office.address}/api/v1/today`, { headers: { authorization: `Bearer ${token}` } }).then((r) => r.status);
    expect(await withToken()).to.equal(200);
    await office.client.changePerson(email, { password: given });
    expect([await withToken(), (await call('GET', '/today', first.cookie)).status]).to.deep.equal([401, 401]);
  });

  it('guesses slow down strangers for longer each time, and lock nobody out of a browser that is known', async function () {
    this.timeout(60_000);
    const { email } = await join('luca', 'viewer');
    const { known } = await signIn(email);
    expect(known).to.match(/^monsoon_known=/);
    const statuses = [];
    for (let i = 0; i < 6; i++) statuses.push((await signIn(email, `wrong ${i}`)).status);
    expect(statuses).to.deep.equal([401, 401, 401, 401, 401, 429]);
    // Together they are counted one by one: none is looked at for nothing.
    const other = 'nobody@alder-wren.example';
    const together = await Promise.all(Array.from({ length: 12 }, (_, i) => signIn(other, `wrong ${i}`)));
    expect(together.filter((t) => t.status === 401)).to.have.length(5);
    const wait = () => database.query('update sign_in_failures set until = now() where email = $1', [email]);
    const retries = [];
    for (let i = 0; i < 3; i++) {
      await wait();
      await signIn(email, 'wrong');
      retries.push(Number((await signIn(email, password)).retryAfter));
    }
    expect(retries).to.deep.equal([2, 4, 8]);
    expect((await office.client.people()).items.find((p) => p.email === email)!.lockedUntil).to.be.a('string');
    expect((await signIn(email, password, { cookie: known })).status, 'their own browser').to.equal(201);
    expect((await signIn('vera@alder-wren.example', 'wrong', { cookie: known })).status, 'another person there').to.equal(401);
    await office.client.changePerson(email, { unlock: true });
    expect((await office.client.people()).items.find((p) => p.email === email)!.lockedUntil).to.equal(null);
  });

  it('a session ends when it is not used, and its event stream with it; one person has only so many streams', async () => {
    const { cookie } = await signIn('otto@alder-wren.example');
    const stream = await call('GET', '/changes', cookie);
    const reader = stream.body!.getReader();
    const ended = (async () => {
      for (;;) if ((await reader.read()).done) return true;
    })();
    const hash = createHash('sha256').update(cookie.split('=')[1]!).digest('hex');
    await database.query("update sessions set last_used_at = now() - interval '13 hours' where hash = $1", [hash]);
    expect((await call('GET', '/today', cookie)).status).to.equal(401);
    await office.app.announcer.announce(['people']);
    expect(await ended).to.equal(true);
    const again = await signIn('otto@alder-wren.example');
    const many = new AbortController();
    const open = (signal: AbortSignal) => fetch(`${office.address}/api/v1/changes`, { headers: { cookie: again.cookie }, signal });
    const streams = await Promise.all(Array.from({ length: 21 }, () => open(many.signal)));
    expect(streams.map((s) => s.status).sort()).to.deep.equal([...Array<number>(20).fill(200), 429]);
    many.abort();
    await eventually('there is room again', async () => {
      const one = new AbortController();
      const { status } = await open(one.signal);
      one.abort();
      return status === 200;
    });
  });

  it('one person reads only so many whole systems at once, and leaves a share of an allowance to the lanes', async () => {
    const viewer = await join('wilma', 'viewer');
    const many = await Promise.all(
      Array.from({ length: 8 }, () =>
        viewer.client.audit('tuning-visits').then(
          () => 200,
          (e: ServiceProblem) => e.status,
        ),
      ),
    );
    expect(many.filter((s) => s === 200)).to.have.length(4);
    expect(many.filter((s) => s === 429)).to.have.length(4);
    const { settings } = await office.client.system('front-desk');
    await office.client.changeSystem('front-desk', { settings: { ...(settings as object), allowance: 100_000 } });
    await office.run({ sweep: true });
    await office.app.systems.settle();
    await database.query("update call_meters m set calls = 90000 from systems s where s.id = m.system and s.slug = 'front-desk'");
    expect((await refused(viewer.client.forecast('tuning-visits'))).message).to.match(/90000 of the 100000 calls .* the rest is kept for lanes/);
    expect(await office.run({ sweep: true })).to.include({ state: 'done' });
    await office.client.changeSystem('front-desk', { settings: settings as object });
  });

  it('another site changes nothing, by its name, its form or its page', async () => {
    const { cookie } = await signIn('otto@alder-wren.example');
    const runs = (headers: Record<string, string>) => call('POST', '/lanes/tuning-visits/runs', cookie, {}, headers).then((r) => r.status);
    expect(await runs({ origin: 'https://elsewhere.example' })).to.equal(403);
    expect(await runs({ origin: 'null' })).to.equal(403);
    expect(await runs({ 'sec-fetch-site': 'cross-site' })).to.equal(403);
    expect(await runs({ 'sec-fetch-site': 'same-site' })).to.equal(403);
    expect(await runs({ 'content-type': 'text/plain' })).to.equal(415);
    expect(await runs({ origin: office.address })).to.equal(202);
    const byName = (host: string) =>
      new Promise<number>((fine, wrong) => {
        get(`${office.address}/api/v1/session/ways`, { headers: { host } }, (answer) => fine(answer.resume().statusCode!)).on('error', wrong);
      });
    expect(await byName('rebound.elsewhere.example')).to.equal(421);
    expect(await byName('localhost:4700')).to.equal(200);
  });

  it('the last administrator stays, and passwords are long enough', async () => {
    for (const change of [{ role: 'viewer' as const }, { disabled: true }])
      expect((await refused(office.client.changePerson(admin.email, change))).message).to.match(
        /is the only administrator; make somebody else one first/,
      );
    expect((await refused(office.client.removePerson(admin.email))).status).to.equal(409);
    const short = await refused(office.client.addPerson({ email: 'kurt@alder-wren.example', name: 'Kurt', role: 'viewer', password: 'short' }));
    expect(short.problems).to.deep.equal([{ pointer: '/password', reason: 'password has at least 12 characters' }]);
    const twice = await refused(office.client.addPerson({ email: admin.email.toUpperCase(), name: 'Ines', role: 'viewer' }));
    expect(twice.message).to.match(/may sign in already/);
  });

  it('who did what is kept, cannot be changed, and tells no secrets', async () => {
    const items = (await office.client.activity({ limit: 500 })).items;
    const said = items.map((a) => `${a.by} | ${a.via} | ${a.what} | ${a.of} | ${a.detail} | ${a.outcome}`);
    expect(said).to.include('ines@alder-wren.example | token tests | Let somebody in |  | olga@alder-wren.example as operator | done');
    expect(said).to.include('olga@alder-wren.example | token watcher | Pause a lane | lane tuning-visits |  | done');
    expect(said.filter((s) => s.startsWith('olga') && s.endsWith('refused')).length).to.be.greaterThan(1);
    expect(said).to.include('luca@alder-wren.example | browser | Sign in |  | wrong password | refused');
    expect(JSON.stringify(items)).to.not.match(/metronome|mon_|well-tempered/);
    expect((await office.client.activity({ by: 'olga@alder-wren.example', lane: 'tuning-visits', limit: 1 })).items[0]!.by).to.equal(
      'olga@alder-wren.example',
    );
    for (const statement of ["update activity set by = 'nobody'", 'delete from activity'])
      expect((await refused(database.query(statement))).message).to.equal('the activity log is append-only');
  });
});

describe('behind a proxy with TLS', () => {
  let office: Office;
  before(async () => {
    office = await openOffice({
      seed: [],
      withLane: false,
      config: { publicAddress: 'https://monsoon.alder-wren.example', trustProxy: ['loopback'] },
    });
  });
  after(() => office.stop());

  it('cookies are for that host and TLS alone, browsers must stay on TLS, and guesses count by their true address', async () => {
    const signIn = (password: string, from: string) =>
      fetch(`${office.address}/api/v1/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-forwarded-for': from, origin: 'https://monsoon.alder-wren.example' },
        body: JSON.stringify({ email: admin.email, password }),
      });
    const good = await signIn(admin.password, '192.0.2.1');
    expect(good.headers.get('strict-transport-security')).to.match(/max-age=31536000/);
    for (const cookie of good.headers.getSetCookie())
      expect(cookie)
        .to.match(/^__Host-monsoon_(session|known)=/)
        .and.match(/; Secure/)
        .and.match(/; HttpOnly/)
        .and.match(/; Path=\//);
    for (let i = 0; i < 6; i++) await signIn('wrong', '192.0.2.2');
    expect((await signIn(admin.password, '192.0.2.2')).status).to.equal(429);
    expect((await signIn(admin.password, '192.0.2.3')).status, 'from elsewhere').to.equal(201);
  });
});
