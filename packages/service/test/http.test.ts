import { monitorEventLoopDelay } from 'node:perf_hooks';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import { stringify } from 'yaml';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { admin, laneFile, type Office, openOffice } from '../../../test/support/office.ts';
import { eventually } from '../../../test/support/servers.ts';

interface Document {
  paths: Record<string, Record<string, { security?: unknown[]; responses: Record<string, { content?: Record<string, { schema: object }> }> }>>;
}

describe('the HTTP interface', () => {
  let office: Office;
  let document: Document;
  before(async function () {
    this.timeout(60_000);
    office = await openOffice({
      seed: plainVisits(4),
      lane: { filter: { all: [{ field: 'instrument', test: 'is not', value: 'Alder upright 3' }] } },
    });
    await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done', 30_000);
    document = (await (await fetch(`${office.address}/api/v1/openapi.json`)).json()) as Document;
  });
  after(() => office.stop());

  const ask = async (method: string, path: string, body?: unknown, headers: Record<string, string> = {}) => {
    const text = typeof body === 'string' ? body : body === undefined ? undefined : JSON.stringify(body);
    const answer = await fetch(`${office.address}${path.startsWith('/hooks') ? '' : '/api/v1'}${path}`, {
      method,
      headers: { authorization: `Bearer ${office.token}`, ...(text === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
      ...(text === undefined ? {} : { body: text }),
    });
    const json = (await answer.json().catch(() => null)) as Record<string, never> | null;
    return { status: answer.status, json, type: answer.headers.get('content-type') ?? '', headers: answer.headers };
  };

  it('is closed to strangers, route by route', async () => {
    let closed = 0;
    for (const [path, methods] of Object.entries(document.paths)) {
      for (const [method, spec] of Object.entries(methods)) {
        const url = `${office.address}${path.replace(/\{\w+\}/g, 'tuning-visits')}`;
        for (const headers of [{}, { authorization: 'Bearer mon_wrong' }, { cookie: 'monsoon_session=wrong' }] as Record<string, string>[]) {
          const answer = await fetch(url, {
            method: method.toUpperCase(),
            headers: { 'content-type': 'application/json', ...headers },
            ...(method === 'get' ? {} : { body: '{}' }),
          });
          if (spec.security === undefined) expect(answer.status, `${method} ${path}`).to.equal(401);
          else expect(`${method} ${path}`).to.be.oneOf(['post /api/v1/session', 'get /api/v1/session/ways', 'get /api/v1/health']);
          closed++;
        }
      }
    }
    expect(closed).to.be.greaterThan(80);
    for (const path of ['/api/v1/changes', '/api/v1/metrics']) expect((await fetch(`${office.address}${path}`)).status, path).to.equal(401);
  });

  it('lets a read-only token read, and nothing else', async () => {
    const { token } = await office.client.makeToken('reader', 'read');
    const reader = { authorization: `Bearer ${token}` };
    for (const [path, methods] of Object.entries(document.paths)) {
      for (const method of Object.keys(methods).filter((m) => m !== 'get')) {
        const at = path.replace('/api/v1', '').replace(/\{\w+\}/g, 'tuning-visits');
        // What only looks is open to readers, though it takes a body.
        if (['/session', '/descriptors/draft', '/lanes/preview', '/lanes/suggest', '/lane-files/check'].includes(at)) continue;
        if (at.endsWith('/forecast') || at.endsWith('/audit')) continue;
        expect((await ask(method.toUpperCase(), at, {}, reader)).status, `${method} ${path}`).to.equal(403);
      }
    }
    expect((await ask('GET', '/lanes', undefined, reader)).status).to.equal(200);
  });

  it('answers as its OpenAPI document says', async () => {
    const ajv = new Ajv2020({ strict: false, validateFormats: false });
    const run = await office.run();
    const entry = (await office.client.journal()).items[0]!.id;
    const draft = await office.client.makeDraft({ slug: 'a-draft', definition: { name: 'A draft' } });
    await office.client.makeHostedCalendar({ name: 'Hall', slug: 'hall' });
    await office.client.addDevice('telephone');
    const feed = await office.client.makeFeed({ name: 'Visits', lane: 'tuning-visits', shows: ['title'], window: { behind: 1, ahead: 400 } });
    const pages: Record<string, string> = {
      '/today': '/today',
      '/health': '/health',
      '/session': '/session',
      '/tokens': '/tokens',
      '/systems': '/systems',
      '/systems/{system}': '/systems/diary',
      '/systems/{system}/collections': '/systems/front-desk/collections',
      '/systems/{system}/calendars': '/systems/diary/calendars',
      '/systems/{system}/calls': '/systems/diary/calls',
      '/kinds': '/kinds',
      '/lanes': '/lanes',
      '/lanes/{lane}': '/lanes/tuning-visits',
      '/lanes/{lane}/items': '/lanes/tuning-visits/items?limit=2',
      '/lanes/{lane}/items/{record}': '/lanes/tuning-visits/items/V-1001',
      '/lanes/{lane}/why': '/lanes/tuning-visits/why?item=V-1004',
      '/runs': '/runs',
      '/runs/{run}': `/runs/${run.id}`,
      '/runs/{run}/undo': `/runs/${run.id}/undo`,
      '/journal': '/journal',
      '/journal/{entry}/undo': `/journal/${entry}/undo`,
      '/holds': '/holds',
      '/systems/{system}/collections/{collection}/sample': '/systems/front-desk/collections/visits/sample',
      '/starters': '/starters',
      '/drafts': '/drafts',
      '/drafts/{draft}': `/drafts/${draft.id}`,
      '/lanes/{lane}/file': '/lanes/tuning-visits/file',
      '/lanes/{lane}/versions': '/lanes/tuning-visits/versions',
      '/lanes/{lane}/stop': '/lanes/tuning-visits/stop?events=remove',
      '/sessions': '/sessions',
      '/session/ways': '/session/ways',
      '/people': '/people',
      '/activity': '/activity',
      '/pause': '/pause',
      '/settings': '/settings',
      '/session/notifications': '/session/notifications',
      '/webhooks': '/webhooks',
      '/lanes/{lane}/failures': '/lanes/tuning-visits/failures',
      '/lanes/{lane}/guests': '/lanes/tuning-visits/guests',
      '/lanes/{lane}/audits': '/lanes/tuning-visits/audits',
      '/counts': '/counts?from=2026-11-01&until=2027-02-28',
      '/agenda': '/agenda?from=2026-12-01&until=2026-12-31',
      '/hosted-calendars': '/hosted-calendars',
      '/hosted-calendars/{calendar}': '/hosted-calendars/hall',
      '/devices': '/devices',
      '/feeds': '/feeds',
      '/feeds/{feed}': `/feeds/${feed.slug}`,
      '/feeds/{feed}/preview': `/feeds/${feed.slug}/preview`,
    };
    const gets = Object.entries(document.paths)
      .filter(([, m]) => m['get'] !== undefined)
      .map(([p]) => p.replace('/api/v1', ''));
    // A database alone has triggers; a schema is no answer of ours to check, nor is a file.
    const elsewhere = ['/journal/export', '/counts/export', '/systems/{system}/tracking/{collection}', '/descriptors/schema', '/schemas/lane'];
    expect([...Object.keys(pages), ...elsewhere]).to.have.members(gets);
    const matches = (path: string, method: string, status: string, json: unknown) => {
      const validate = ajv.compile(document.paths[`/api/v1${path}`]![method]!.responses[status]!.content!['application/json']!.schema);
      expect(validate(json), `${path}: ${JSON.stringify(validate.errors?.[0])}`).to.equal(true);
    };
    for (const [path, example] of Object.entries(pages)) matches(path, 'get', '200', (await ask('GET', example)).json);
    matches('/lanes/{lane}/forecast', 'post', '200', (await ask('POST', '/lanes/tuning-visits/forecast')).json);
    matches('/lanes/{lane}/audit', 'post', '200', (await ask('POST', '/lanes/tuning-visits/audit')).json);
    const sides = { records: { system: 'front-desk', collection: 'visits' } };
    matches('/lanes/suggest', 'post', '200', (await ask('POST', '/lanes/suggest', sides)).json);
    matches(
      '/lanes/preview',
      'post',
      '200',
      (await ask('POST', '/lanes/preview', { definition: (await office.client.suggest(sides)).definition })).json,
    );
    matches('/lane-files/check', 'post', '200', (await ask('POST', '/lane-files/check', { slug: 'x', text: 'name: A lane' })).json);
    matches('/systems/{system}/check', 'post', '200', (await ask('POST', '/systems/diary/check')).json);
    matches('/systems/{system}/try', 'post', '200', (await ask('POST', '/systems/front-desk/try')).json);
  });

  const problem = async (expected: number, words: RegExp, ...call: Parameters<typeof ask>) => {
    const answer = await ask(...call);
    expect(answer.status, JSON.stringify(answer.json)).to.equal(expected);
    expect(answer.type).to.include('application/problem+json');
    expect(JSON.stringify(answer.json)).to.match(words);
    return answer.json as unknown as { problems?: { pointer: string; reason: string }[] };
  };

  it('answers wrong input with the item, the field, the reason and the way out, and changes nothing', async () => {
    const before = await office.client.lane('tuning-visits');
    await problem(404, /there is no lane \\"nosuch\\"; there are tuning-visits/, 'GET', '/lanes/nosuch');
    await problem(404, /there is no run/, 'GET', '/runs/not-a-uuid');
    await problem(404, /there is no PATCH \/api\/v1\/nothing/, 'PATCH', '/nothing');
    await problem(422, /sweep/, 'POST', '/lanes/tuning-visits/runs', { sweep: 'yes' });
    await problem(422, /unspecified|surprise/, 'POST', '/lanes/tuning-visits/runs', { surprise: 1 });
    await problem(422, /limit/, 'GET', '/lanes/tuning-visits/items?limit=many');
    await problem(422, /not a cursor/, 'GET', '/lanes/tuning-visits/items?cursor=xyz');
    await problem(400, /JSON/, 'POST', '/lanes', '{"slug": ');
    await problem(413, /larger than 256000 octets/, 'POST', '/lanes', `{"slug":"${'x'.repeat(5_000_000)}"}`);
    await problem(428, /If-Match/, 'PUT', '/lanes/tuning-visits', before.definition);
    await problem(409, /used|short name/, 'POST', '/lanes', { slug: 'tuning-visits', definition: before.definition });
    await problem(409, /the lanes tuning-visits use/, 'DELETE', '/systems/diary');
    await problem(422, /kinds are caldav, feed, postgresql/, 'POST', '/systems', { slug: 'x', name: 'X', kind: 'fax', settings: {}, secrets: {} });
    await problem(422, /settings.*address/, 'POST', '/systems', {
      slug: 'x',
      name: 'X',
      kind: 'caldav',
      settings: { address: 'ftp://x', user: 'u' },
      secrets: { password: 'p' },
    });
    await problem(403, /another site/, 'POST', '/lanes/tuning-visits/runs', {}, { origin: 'https://elsewhere.example' });
    const said = await problem(422, /column 22: there is no field/, 'POST', '/lanes', {
      slug: 'faulty',
      definition: { ...before.definition, filter: 'status is booked and nope is 1' },
    });
    expect(said.problems![0]!.pointer).to.equal('/filter/all/1/field');
    await problem(422, /column 10: a value is missing/, 'POST', '/lanes', {
      slug: 'faulty',
      definition: { ...before.definition, filter: 'status is' },
    });
    const faulty = {
      ...laneFile(),
      calendar: { system: 'diary', calendar: 'Nowhere' },
      zone: 'Mars/Olympus',
      fields: { title: { copy: 'nope' } },
      filter: { field: 'status', test: 'is', value: 'bookd' },
    };
    const refused = await problem(422, /Mars/, 'POST', '/lanes', { slug: 'faulty', definition: faulty });
    expect(refused.problems!.map((p) => p.pointer)).to.have.members(['/zone', '/fields/title/copy', '/filter/value', '/calendar/calendar']);
    expect(await office.client.lane('tuning-visits')).to.deep.include({ version: before.version, definition: before.definition });
    expect((await office.client.lanes()).items).to.have.length(1);
  });

  it('answers what is nested or repeated beyond measure at once, and goes on', async () => {
    const deep = (n: number, open: string, close: string) => open.repeat(n) + close.repeat(n);
    const raw = (path: string, body: string) =>
      fetch(`${office.address}/api/v1${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', authorization: `Bearer ${office.token}` },
        body,
      });
    const check = async (text: string) =>
      (await ask('POST', '/lane-files/check', { slug: '', text })).json as unknown as { problems: { reason: string }[] };
    const doubled: Record<string, unknown> = { S0: { properties: { id: {} } } };
    for (let i = 1; i <= 60; i++)
      doubled[`S${i}`] = { allOf: [{ $ref: `#/components/schemas/S${i - 1}` }, { $ref: `#/components/schemas/S${i - 1}` }] };
    const document = {
      openapi: '3.0.0',
      components: { schemas: doubled },
      paths: {
        '/a': {
          get: {
            responses: { 200: { content: { 'application/json': { schema: { type: 'array', items: { $ref: '#/components/schemas/S60' } } } } } },
          },
        },
        '/a/{id}': {},
      },
    };
    const delay = monitorEventLoopDelay({ resolution: 10 });
    delay.enable();
    expect((await raw('/lane-files/check', `{"slug":"","text":${deep(100_000, '[', ']')}}`)).status).to.equal(422);
    expect((await ask('POST', '/descriptors/draft', { document })).status).to.be.oneOf([200, 201]);
    expect((await check(deep(50_000, '[', ']'))).problems).to.have.length.within(1, 100);
    expect((await check(Array.from({ length: 9000 }, (_, i) => `k${i}: 1`).join('\n'))).problems[0]!.reason).to.match(/more than 5000 values/);
    expect((await check('name: a\nname: b')).problems[0]!.reason).to.equal('"name" is a duplicate key; remove one of the two');
    const filter = (text: string) => check(stringify({ ...laneFile(), filter: text }));
    expect((await filter(deep(1900, '(', ')'))).problems[0]!.reason).to.match(/nested more than 50 deep/);
    expect((await filter(`${'not '.repeat(1000)}kind is empty`)).problems[0]!.reason).to.match(/nested more than 50 deep/);
    expect((await check(stringify({ ...laneFile(), fields: { title: { join: deep(2000, '[', ']') } } }))).problems[0]!.reason).to.match(
      /nested more than 5 deep/,
    );
    delay.disable();
    expect((await ask('GET', '/health')).status).to.equal(200);
    expect(delay.max / 1e6, 'longest delay of the event loop, ms').to.be.lessThan(3000);
  });

  it('refuses what cannot be stored with the reason, wherever it stands', async () => {
    for (const [method, path, body] of [
      ['GET', '/lanes/a%00b', undefined],
      ['GET', '/lanes/tuning-visits/items?search=%00', undefined],
      ['GET', '/lanes/tuning-visits/why?item=%00', undefined],
      ['POST', '/tokens', { name: 'a\0b' }],
      ['POST', '/lane-files/check', { slug: 'x', text: 'name: a\0' }],
    ] as const) {
      const answer = await ask(method, path, body);
      expect(answer.status, path).to.equal(422);
      expect((answer.json as unknown as { detail: string }).detail).to.match(/U\+0000/);
    }
  });

  it('takes notices only with a fresh signature, and believes nothing they say', async () => {
    const secret = `whsec_${Buffer.from('a secret of 24 characters').toString('base64')}`;
    await office.client.changeSystem('front-desk', { secrets: { webhook: secret } });
    const body = JSON.stringify({ type: 'visits.updated', data: { id: 'V-1001', start: '1999-01-01T00:00:00' } });
    const notice = (at: Date, signed = body, id = 'msg_1') => ({
      'webhook-id': id,
      'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
      'webhook-signature': new Webhook(secret).sign(id, at, signed),
    });
    const runs = (await office.client.runs({ limit: 500 })).items.length;
    await problem(401, /signature/, 'POST', '/hooks/front-desk', body);
    await problem(401, /signature/, 'POST', '/hooks/front-desk', body, notice(new Date(), '{"other":1}'));
    await problem(401, /time/, 'POST', '/hooks/front-desk', body, notice(new Date(Date.now() - 3_600_000)));
    await problem(401, /signature/, 'POST', '/hooks/nosuch', body, notice(new Date()));
    await problem(413, /1 MB|large/, 'POST', '/hooks/front-desk', 'x'.repeat(5_000_000), notice(new Date()));
    expect((await office.client.runs({ limit: 500 })).items.length).to.equal(runs);
    const before = (await office.event('V-1001'))!.text;
    expect((await ask('POST', '/hooks/front-desk', body, notice(new Date()))).status).to.equal(204);
    await eventually(
      'a run for the notice',
      async () => (await office.client.runs({ limit: 500 })).items.filter((r) => r.state === 'done').length > runs,
    );
    expect((await office.event('V-1001'))!.text).to.equal(before);
  });

  it('does a POST once for one idempotency key', async () => {
    const key = { 'idempotency-key': 'make-once' };
    const first = await ask('POST', '/tokens', { name: 'once' }, key);
    const second = await ask('POST', '/tokens', { name: 'once' }, key);
    expect(second.json).to.deep.equal(first.json);
    expect((await office.client.tokens()).items.filter((t) => t.name === 'once')).to.have.length(1);
    await problem(422, /another request/, 'POST', '/tokens', { name: 'other' }, key);
    // The answer holds a secret that is shown once: it is not kept in the clear, and another token of the person does not get it.
    const { rows } = await office.app.pool.query<{ answer: string }>('select answer from idempotency');
    expect(rows.some((r) => r.answer !== '')).to.equal(true);
    for (const { answer } of rows) expect(answer).not.to.include((first.json as unknown as { token: string }).token.slice(4, 20));
    const operating = ((await ask('POST', '/tokens', { name: 'operates', may: 'operate' })).json as unknown as { token: string }).token;
    const other = await ask('POST', '/tokens', { name: 'once' }, { ...key, authorization: `Bearer ${operating}` });
    expect(other.json).not.to.deep.equal(first.json);
  });

  it('signs in by password with a cookie that scripts cannot read, slows down guessing, and forgets on sign-out', async () => {
    const signIn = (password: string) =>
      fetch(`${office.address}/api/v1/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ email: admin.email, password }),
      });
    const good = await signIn(admin.password);
    const set = good.headers.getSetCookie()[0]!;
    expect(set)
      .to.match(/HttpOnly/)
      .and.match(/SameSite=Strict/);
    const cookie = { authorization: '', cookie: set.split(';')[0]! };
    expect((await ask('GET', '/session', undefined, cookie)).json).to.include({ email: admin.email });
    await ask('DELETE', '/session', undefined, cookie);
    expect((await ask('GET', '/session', undefined, cookie)).status).to.equal(401);
    const tries = [];
    for (let i = 0; i < 25; i++) tries.push((await signIn('wrong')).status);
    expect(tries[0]).to.equal(401);
    expect(tries.at(-1)).to.equal(429);
  });

  it('keeps secrets out of every answer', async () => {
    const everything = JSON.stringify(
      await Promise.all(['/systems', '/systems/diary', '/lanes', '/today', '/runs'].map((p) => ask('GET', p).then((a) => a.json))),
    );
    expect(everything).to.not.include('well-tempered').and.not.include('let-me-in').and.not.include('whsec_');
  });

  it('pages through items without losing or repeating one, and finds them by words and state', async () => {
    const seen: string[] = [];
    for (let cursor: string | null = null; ; ) {
      const page = await office.client.items('tuning-visits', { limit: 1, ...(cursor === null ? {} : { cursor }) });
      seen.push(...page.items.map((i) => i.recordId ?? ''));
      cursor = page.next;
      if (cursor === null) break;
    }
    expect(seen).to.have.members(['V-1001', 'V-1002', 'V-1003', 'V-1004']).and.have.length(4);
    expect((await office.client.items('tuning-visits', { state: 'left out' })).items.map((i) => i.recordId)).to.deep.equal(['V-1004']);
    expect((await office.client.items('tuning-visits', { search: '100%' })).items).to.deep.equal([]);
    const several = await office.client.why('tuning-visits', 'Alder').catch((e: Error) => e);
    expect(several)
      .to.have.property('message')
      .match(/fits 4 items; give the id of one/);
  });

  it('pages through runs that began at the same time, and gives all holds however many they are', async () => {
    const { pool } = office.app;
    for (let i = 0; i < 4; i++) await office.run();
    await pool.query("update runs set created_at = '2026-01-01T00:00:00.123456Z' where state = 'done'");
    const all = (await office.client.runs({ limit: 500 })).items.map((r) => r.id);
    const seen: string[] = [];
    for (let cursor: string | null = null; ; ) {
      const page = (await ask('GET', `/runs?limit=1${cursor === null ? '' : `&cursor=${encodeURIComponent(cursor)}`}`)).json as unknown as {
        items: { id: string }[];
        next: string | null;
      };
      seen.push(...page.items.map((r) => r.id));
      cursor = page.next;
      if (cursor === null) break;
    }
    expect(seen).to.deep.equal(all);
    expect((await ask('GET', '/runs?cursor=yesterday')).status).to.equal(422);
    await pool.query(`insert into holds (lane, pair, record_id, href, moment, label, question, asked, choices, cause, record, event)
      select p.lane, p.id, p.record_id, p.href, p.moment, 'hold ' || n, 'conflict', 'x', '["records win"]', 'planted', '{}', '{}'
      from generate_series(1, 1201) n, (select * from pairs limit 1) p`);
    const { items } = await office.client.holds();
    expect(new Set(items.map((h) => h.label)).size).to.equal(1201);
    await pool.query("delete from holds where cause = 'planted'");
  });

  it('tells listeners what changed as it changes', async () => {
    const heard = new Set<string>();
    const stop = new AbortController();
    const listening = (async () => {
      for await (const nouns of office.client.changes(stop.signal)) for (const noun of nouns) heard.add(noun);
    })().catch(() => undefined);
    await office.run();
    await eventually('it is heard', async () => heard.has('runs') && heard.has('lanes'));
    stop.abort();
    await listening;
  });
});
