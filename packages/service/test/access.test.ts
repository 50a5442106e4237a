import { MonsoonClient, type ServiceProblem } from '@monsoon/client';
import type { Role } from '@monsoon/core';
import { expect } from 'chai';
import pg from 'pg';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { admin, type Office, openOffice } from '../../../test/support/office.ts';

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
    ...['systems/{system}/tracking/{collection}', 'systems/{system}/calls', 'systems/{system}/collections/{collection}/sample', 'descriptors/schema'],
    ...['lanes', 'lanes/{lane}', 'lanes/{lane}/items', 'lanes/{lane}/items/{record}', 'lanes/{lane}/why', 'lanes/{lane}/stop', 'lanes/{lane}/file'],
    ...['lanes/{lane}/versions', 'drafts', 'drafts/{draft}', 'schemas/lane', 'starters', 'runs', 'runs/{run}', 'runs/{run}/undo', 'journal'],
    ...[
      'journal/{entry}/undo',
      'holds',
      'pause',
      'settings',
      'session/told',
      'lanes/{lane}/failures',
      'lanes/{lane}/audits',
      'counts',
      'counts/export',
    ],
  ].map((path) => `get ${path}`),
);
for (const own of ['delete session', 'put session/password', 'put session/told', 'delete sessions/{session}', 'post tokens', 'delete tokens/{token}'])
  forViewers.add(own);
for (const look of ['lanes/{lane}/forecast', 'lanes/{lane}/audit', 'lane-files/check', 'descriptors/draft', 'lanes/suggest', 'lanes/preview'])
  forViewers.add(`post ${look}`);

const forOperators = new Set([
  'post lanes/{lane}/items/{record}/follow',
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
  const signIn = async (email: string, secret = password) => {
    const answer = await fetch(`${office.address}/api/v1/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ email, password: secret }),
    });
    const json = (await answer.json()) as { detail?: string };
    return {
      status: answer.status,
      json,
      cookie: answer.headers.getSetCookie()[0]?.split(';')[0] ?? '',
      retryAfter: answer.headers.get('retry-after'),
    };
  };
  /** Somebody of that role, with a client of their own. */
  const join = async (name: string, role: Role) => {
    const email = `${name}@alder-wren.example`;
    await office.client.addPerson({ email, name, role, password });
    const { cookie } = await signIn(email);
    const client = new MonsoonClient({
      address: office.address,
      fetch: (input, init) => fetch(input, { ...init, headers: { ...(init?.headers as Record<string, string>), cookie } }),
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
    const unmet = new Set([...forViewers, ...forOperators, ...forAnybody]);
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

  it('tokens end, sessions can be ended, and whoever is disabled is out at once', async () => {
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

  it('an address is locked after many wrong passwords, known or not, and an administrator unlocks it', async function () {
    this.timeout(60_000);
    const { email } = await join('luca', 'viewer');
    for (let i = 0; i < 10; i++) expect((await signIn(email, `wrong ${i}`)).status).to.equal(401);
    const locked = await signIn(email);
    expect(locked.status).to.equal(429);
    expect(locked.json.detail).to.match(/too many wrong passwords for this address: it is locked for 15 minutes/);
    expect(Number(locked.retryAfter)).to.be.within(800, 900);
    expect((await office.client.people()).items.find((p) => p.email === email)!.lockedUntil).to.be.a('string');
    // An address that nobody has is counted in the same way: nothing tells the two apart.
    await signIn('nobody@alder-wren.example');
    const counted = await database.query("select failures from sign_in_failures where email = 'nobody@alder-wren.example'");
    expect(counted.rows).to.deep.equal([{ failures: 1 }]);
    await office.client.changePerson(email, { unlock: true });
    expect((await office.client.people()).items.find((p) => p.email === email)!.lockedUntil).to.equal(null);
  });

  it('the last administrator stays, and passwords are long enough', async () => {
    for (const change of [{ role: 'viewer' as const }, { disabled: true }])
      expect((await refused(office.client.changePerson(admin.email, change))).message).to.match(
        /is the only administrator; make somebody else one first/,
      );
    expect((await refused(office.client.removePerson(admin.email))).status).to.equal(409);
    const short = await refused(office.client.addPerson({ email: 'kurt@alder-wren.example', name: 'Kurt', role: 'viewer', password: 'short' }));
    expect(short.problems).to.deep.equal([{ pointer: '/password', reason: 'password has at least 10 characters' }]);
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
