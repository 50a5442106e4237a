import { readFileSync } from 'node:fs';
import { loadZones } from '@monsoon/service';
import { callStack, type Exchange, kinds, memoryTokens, OutsideError, probeAddress, type RecordedCall } from '@monsoon/systems';
import { expect } from 'chai';
import { parse } from 'yaml';
import { consent } from '../../../demo/consent.ts';
import { startFrontDesk, startStandin, startWorkbench } from '../../../test/support/front-desk.ts';
import { misbehaving } from '../../../test/support/misbehaving.ts';
import { reply, trouble } from '../../../test/support/outside.ts';
import { freePort } from '../../../test/support/servers.ts';
import { adaptiveConcurrency } from '../src/http/adaptive-concurrency.ts';
import { breaker } from '../src/http/breaker.ts';
import type { Answer, Call } from '../src/http/call.ts';
import { honourRetryAfter } from '../src/http/honour-retry-after.ts';
import { beginConsent, endConsent, type OAuthSettings, type Tokens, withTokens } from '../src/http/oauth.ts';

const signal = new AbortController().signal;
const options = { addresses: { allowed: ['127.0.0.1'] }, zones: loadZones() };
const answered = (status: number, headers: Record<string, string> = {}): Answer => ({
  status,
  headers,
  body: Buffer.alloc(0),
  url: 'http://x.example/',
});
const get = { method: 'GET', url: 'http://x.example/', headers: {} };

describe('each wrapper around a call', () => {
  it('keeps to Retry-After, for writes that were turned away too, and does not wait for ever', async () => {
    let calls = 0;
    const busy: Call = async () => (calls++ === 0 ? answered(429, { 'retry-after': '1' }) : answered(204));
    const started = Date.now();
    expect((await honourRetryAfter(busy)({ ...get, method: 'PUT' })).status).to.equal(204);
    expect(Date.now() - started).to.be.at.least(950);
    const closed = honourRetryAfter(async () => answered(429, { 'retry-after': '3600' }));
    expect(await trouble(closed(get))).to.include({ trouble: 'throttled', retryAfter: 3600 });
    expect((await trouble(closed(get))).message).to.match(/left alone for another \d+ seconds/);
    calls = 0;
    const half: Call = async () => (calls++ === 0 ? answered(503, { 'retry-after': '1' }) : answered(204));
    expect((await honourRetryAfter(half)({ ...get, method: 'PUT' })).status, 'a 503 may have done something').to.equal(503);
  });

  it('leaves a system alone after failures in a row, tries with one call, and comes back', async () => {
    let away = true;
    let asked = 0;
    const call = breaker(
      async () => {
        asked++;
        if (away) throw new OutsideError('unreachable', 'nothing answers');
        return answered(200);
      },
      { failures: 3, first: 80, longest: 200 },
    );
    for (let i = 0; i < 3; i++) expect((await trouble(call(get))).message).to.equal('nothing answers');
    expect((await trouble(call(get))).message).to.match(/left alone for \d+ seconds after 3 failures in a row; the last: nothing answers/);
    expect(asked).to.equal(3);
    await new Promise((fine) => setTimeout(fine, 100));
    const together = await Promise.allSettled([call(get), call(get), call(get)]);
    expect(together.every((t) => t.status === 'rejected')).to.equal(true);
    expect(asked, 'one call tries').to.equal(4);
    away = false;
    await new Promise((fine) => setTimeout(fine, 220));
    expect((await call(get)).status).to.equal(200);
    expect((await call(get)).status).to.equal(200);
  });

  it('does not take the failure of one item for the absence of a system', async () => {
    const call = breaker(async () => answered(500), { failures: 2, first: 1000, longest: 1000 });
    for (let i = 0; i < 10; i++) expect((await call(get)).status).to.equal(500);
  });

  it('lets only a few calls through at once, and fewer as other processes come', async () => {
    let [active, peak, processes] = [0, 0, 1];
    const call = adaptiveConcurrency(
      async () => {
        peak = Math.max(peak, ++active);
        await new Promise((fine) => setTimeout(fine, 5));
        active--;
        return answered(200);
      },
      () => Math.floor(4 / processes),
    );
    await Promise.all(Array.from({ length: 40 }, () => call(get)));
    expect(peak).to.equal(4);
    [peak, processes] = [0, 4];
    await Promise.all(Array.from({ length: 20 }, () => call(get)));
    expect(peak).to.equal(1);
  });

  it('records calls without bodies, and shows exchanges, with every secret masked', async () => {
    const server = await misbehaving(reply(200, '{"token":"s3cret value"}', { 'set-cookie': 'a=b' }));
    const recorded: RecordedCall[] = [];
    const seen: Exchange[] = [];
    const { call, close } = callStack({
      addresses: options.addresses,
      headers: { authorization: 'Bearer s3cret value' },
      secrets: ['s3cret value'],
      record: (c) => recorded.push(c),
      tap: (e) => seen.push(e),
    });
    await call({ method: 'POST', url: `${server.address}?key=s3cret%20value&again=s3cret+value`, headers: {}, body: 'with s3cret value' });
    await close();
    await server.close();
    expect(recorded[0]).to.include({ method: 'POST', status: 200, sent: 17, received: 24, trouble: null });
    expect(seen[0]).to.include({ status: 200, requestBody: 'with ***', answerBody: '{"token":"***"}' });
    expect(JSON.stringify([recorded, seen])).to.not.match(/s3cret/);
  });

  it('takes our own secrets out of what a system quotes, in whatever form it quotes them', async () => {
    const key = 'k<y & "5ecret"/+planted';
    const forms = [
      key,
      encodeURIComponent(key),
      Buffer.from(key).toString('base64'),
      JSON.stringify(key),
      key.replaceAll('&', '&amp;').replaceAll('<', '&lt;'),
    ];
    const server = await misbehaving((asked, response) => {
      const status = asked.url === '/fine' ? 200 : 400;
      response.writeHead(status).end(`{"error":"bad key ${forms.join(' ')} in ${asked.headers['authorization']}"}`);
      return true;
    });
    const tapped: Exchange[] = [];
    const { call, close } = callStack({
      addresses: options.addresses,
      secrets: [key],
      authorise: (inner) => (request) => inner({ ...request, headers: { ...request.headers, authorization: 'Bearer got-on-the-way' } }),
      tap: (e) => tapped.push(e),
    });
    for (const path of ['/refused', '/fine']) {
      const answer = await call({ ...get, url: `${server.address}${path.slice(1)}` });
      const said = answer.body.toString() + JSON.stringify(tapped);
      for (const secret of [...forms.map((f) => f.replace(/^"|"$/g, '')), 'got-on-the-way']) expect(said).not.to.include(secret);
    }
    await close();
    await server.close();
  });

  it('does not take our own impatience for a failure of the system', async () => {
    const server = await misbehaving((_asked, response) => {
      setTimeout(() => response.end(), 300);
      return true;
    });
    const health: string[] = [];
    const { call, close } = callStack({ addresses: options.addresses, health: (state) => health.push(state) });
    const hasty = () => trouble(call({ ...get, url: server.address, signal: AbortSignal.timeout(50) }));
    for (let i = 0; i < 7; i++) expect((await hasty()).message).to.match(/in the time that is waited here/);
    expect(health).to.deep.equal([]);
    expect((await call({ ...get, url: server.address })).status, 'its circuit is closed').to.equal(200);
    await close();
    await server.close();
  });

  it('trusts a certificate of an authority of its own only when told to', async () => {
    const server = await misbehaving(reply(200), undefined, true);
    const ask = async (authority?: string) => {
      const { call, close } = callStack({ addresses: options.addresses, authority });
      return call({ ...get, url: server.address }).finally(close);
    };
    expect((await trouble(ask())).message).to.match(/certificate of .* is not trusted.*give that authority's certificate/);
    expect((await ask(server.certificate!)).status).to.equal(200);
    const told = async (address: string, authority?: string, allowed = ['127.0.0.1']) => {
      const steps = [];
      for await (const step of probeAddress(address, { allowed }, authority)) steps.push(`${step.name} ${step.outcome}: ${step.detail}`);
      return steps.join('\n');
    };
    expect(await told(server.address)).to.match(/address ok: 127\.0\.0\.1 may be called\nTLS failed: the certificate is not trusted/);
    expect(await told(server.address, server.certificate!)).to.match(
      /TLS warning: TLSv1\.3, a certificate of test that ends in 1 days\nclock ok: agrees with ours/,
    );
    expect(await told(server.address, undefined, [])).to.match(/^address failed: 127\.0\.0\.1 is a private/);
    expect(await told('https://no-such-name.example/')).to.match(/^name lookup failed: the name no-such-name\.example is not known/);
    expect(await told(server.address.replace('https', 'http').replace('127.0.0.1', 'localhost'), undefined, ['localhost'])).to.match(
      /name lookup ok: localhost is .*\nTLS ok: none/,
    );
    await server.close();
  });
});

describe('credentials', () => {
  it('are put where the descriptor says: a header, the query, Basic', async () => {
    const server = await misbehaving(reply(200, '{"items":[]}'));
    const ask = async (authentication: object, secrets: object, more: object = {}) => {
      const descriptor = {
        authentication,
        collections: {
          things: {
            label: 'Things',
            list: { path: '/things', items: '/items' },
            read: { path: '/things/{id}' },
            id: '/id',
            fields: [{ name: 'n', type: 'text', at: '/n' }],
          },
        },
      };
      const kind = kinds['json-api']!;
      const settings = { address: server.address, descriptor, ...more };
      expect(kind.check!(settings, secrets)).to.deep.equal([]);
      const system = kind.open(kind.settings.cast(settings), secrets, options);
      for await (const _page of system.records!.pull('things', null, signal)) break;
      await system.close();
      return server.asked.at(-1)!;
    };
    expect((await ask({ kind: 'header', name: 'X-Key', prefix: 'Token ' }, { token: 'abc' })).headers['x-key']).to.equal('Token abc');
    expect((await ask({ kind: 'query', name: 'api_key' }, { token: 'a b' })).url).to.equal('/things?api_key=a+b');
    expect((await ask({ kind: 'basic' }, { password: 'p' }, { user: 'u' })).headers['authorization']).to.equal(
      `Basic ${Buffer.from('u:p').toString('base64')}`,
    );
    expect(kinds['json-api']!.check!({ descriptor: { authentication: { kind: 'basic' } } }, {}).map((m) => m.pointer)).to.deep.equal([
      '/settings/user',
      '/secrets/password',
    ]);
    await server.close();
  });

  describe('by OAuth 2.0, at the Front desk', () => {
    let desk: Awaited<ReturnType<typeof startStandin>>;
    let settings: OAuthSettings;
    const back = 'http://127.0.0.1:9/back';
    const plain = callStack({ addresses: options.addresses });
    before(async () => {
      const port = String(await freePort());
      desk = await startStandin('front-desk', [
        '--port',
        port,
        '--token',
        't',
        '--client',
        'monsoon:client-secret',
        '--redirect',
        back,
        '--access',
        '12',
        '--refresh',
        '14',
      ]);
      const { authentication } = (
        parse(readFileSync(new URL('../../../demo/systems/front-desk.yaml', import.meta.url), 'utf8')) as {
          settings: { descriptor: { authentication: never } };
        }
      ).settings.descriptor;
      settings = { authentication, address: `${desk.address}/api/v1`, credentials: { client: 'monsoon', clientSecret: 'client-secret' } };
    });
    after(async () => {
      desk.stop();
      await plain.close();
    });
    const authorise = async (answer?: string): Promise<Tokens> => {
      const begun = await beginConsent(plain.call, settings, back);
      return endConsent(plain.call, settings, new URL(await consent(begun.url, back, answer)), begun);
    };

    it('takes a person through the page of consent, and hears a refusal', async () => {
      const tokens = await authorise();
      expect(tokens.access).to.be.a('string');
      expect(tokens.refresh).to.be.a('string');
      expect((await trouble(authorise('refuse'))).message).to.match(/somebody at the desk refused/);
      const begun = await beginConsent(plain.call, settings, back);
      const landed = new URL(await consent(begun.url, back));
      const other = await beginConsent(plain.call, settings, back);
      await endConsent(plain.call, settings, landed, { state: begun.state, verifier: other.verifier }).then(
        () => expect.fail('another verifier was taken'),
        (error: unknown) => expect(error).to.be.instanceOf(OutsideError),
      );
    });

    it('renews access by itself, once for many calls, and says so when that is over', async function () {
      this.timeout(30_000);
      const store = memoryTokens();
      const nobody = withTokens(plain.call, settings, store);
      const visits = { method: 'GET', url: `${desk.address}/api/v1/visits`, headers: {} };
      expect((await trouble(nobody(visits))).message).to.match(/Monsoon is not authorised at .* yet/);
      const first = await authorise();
      let [renewals, waits] = [0, 0];
      const counted = {
        load: store.load,
        renew: (how: Parameters<typeof store.renew>[0]) => {
          waits++;
          return store.renew(async (current) => {
            const next = await how(current);
            if (next !== current) renewals++;
            return next;
          });
        },
      };
      await store.renew(async () => first);
      const call = withTokens(plain.call, settings, counted);
      // Within ten seconds of its end an access token is renewed before it is used.
      await new Promise((fine) => setTimeout(fine, 3000));
      const answers = await Promise.all(Array.from({ length: 8 }, () => call(visits)));
      expect(answers.map((a) => a.status)).to.deep.equal(Array(8).fill(200));
      expect([renewals, waits], 'one renews, and one waits for the lock').to.deep.equal([1, 1]);
      await store.renew(async (current) => ({ ...current!, access: 'not-this', expires: null }));
      const another = withTokens(plain.call, settings, counted);
      expect(
        (await another({ ...visits, method: 'POST', headers: { 'content-type': 'application/json' }, body: '{}' })).status,
        'a write that was turned away is made again',
      ).to.equal(201);
      expect(renewals).to.equal(2);
      await new Promise((fine) => setTimeout(fine, 15_000));
      expect(await trouble(another(visits)))
        .to.include({ trouble: 'not authorised' })
        .and.property('message')
        .match(/gives no token any more \(invalid_grant.*authorise Monsoon there again/);
    });

    it('works without a person by client credentials', async () => {
      const own: OAuthSettings = { ...settings, authentication: { ...settings.authentication, grant: 'client credentials', scopes: ['visits'] } };
      const call = withTokens(plain.call, own, memoryTokens());
      expect((await call({ method: 'GET', url: `${desk.address}/api/v1/visits`, headers: {} })).status).to.equal(200);
      const wrong = withTokens(plain.call, { ...own, credentials: { client: 'monsoon', clientSecret: 'wrong' } }, memoryTokens());
      expect(await trouble(wrong({ method: 'GET', url: `${desk.address}/api/v1/visits`, headers: {} }))).to.include({ trouble: 'not authorised' });
    });
  });
});

describe('stand-ins that misbehave', () => {
  it('are pulled whole in spite of half pages, failures and throttling', async function () {
    this.timeout(60_000);
    const bench = await startWorkbench([], ['--faults', 'broken=0.1,half-page=0.1', '--rate', '30']);
    const settings = (
      parse(readFileSync(new URL('../../../demo/systems/workbench.yaml', import.meta.url), 'utf8')) as { settings: { rate?: unknown } }
    ).settings;
    const { open, settings: shape } = kinds['json-api']!;
    const system = open(shape.cast({ ...settings, address: `${bench.address}/api` }), { token: bench.key }, options);
    const until = async <T>(work: () => Promise<T>): Promise<T> => {
      for (let tries = 0; ; tries++)
        try {
          return await work();
        } catch (error) {
          if (!(error instanceof OutsideError) || tries > 60) throw error;
          await new Promise((fine) => setTimeout(fine, 100));
        }
    };
    const ids = new Set<string>();
    for (let i = 0; i < 25; i++)
      // The key makes a repeated attempt the same.
      ids.add((await until(() => system.records!.create('tasks', { title: `Task ${i}` }, `key-${i}`, signal))).id);
    expect(ids.size).to.equal(25);
    const listed = await until(async () => {
      const found = new Set<string>();
      for await (const page of system.records!.pull('tasks', null, signal)) for (const item of page.items) found.add(item.id);
      return found;
    });
    expect([...listed].sort()).to.deep.equal([...ids].sort());
    await system.close();
    bench.stop();
  });

  it('say which fault they do not know', async () => {
    const wrong = await startFrontDesk([], ['--faults', 'sleepy=1']).catch((error: Error) => error.message);
    expect(wrong).to.match(/"sleepy" is none; there are slow, broken/);
  });

  it('take mail, show it, and refuse strangers and addresses that are not allowed', async () => {
    const room = await startStandin('post-room', ['--smtp-port', '0', '--user', 'monsoon:post']);
    const port = /smtp:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1]!;
    const kind = kinds['mail']!;
    const settings = { address: `smtp://127.0.0.1:${port}`, from: 'monsoon@alder-wren.example', user: 'monsoon', timeout: 5 };
    const right = kind.open(settings, { password: 'post' }, options);
    const outcomes = async (system: ReturnType<typeof kind.open>) => {
      const steps = [];
      for await (const step of system.mail!.probe(signal)) steps.push(`${step.name} ${step.outcome}`);
      return steps;
    };
    expect(await outcomes(right)).to.deep.equal(['reachable ok', 'credentials ok']);
    await right.mail!.send({
      to: ['ines@alder-wren.example'],
      subject: 'Visit moved 🎹',
      text: 'To Tuesday.',
      calendar: { method: 'REQUEST', text: 'BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n' },
    });
    const { items } = (await (await fetch(`${room.address}/api/mails`)).json()) as {
      items: { to: string[]; subject: string; text: string; parts: { type: string }[] }[];
    };
    expect(items[0]).to.deep.include({ to: ['ines@alder-wren.example'], subject: 'Visit moved 🎹' });
    expect(items[0]!.parts.some((p) => p.type.includes('calendar') || p.type.includes('ics'))).to.equal(true);
    expect(await outcomes(kind.open(settings, { password: 'wrong' }, options))).to.deep.equal(['credentials failed']);
    const closed = kind.open(settings, { password: 'post' }, { ...options, addresses: { allowed: [] } });
    expect(await trouble(closed.mail!.send({ to: ['a@b.example'], subject: 'x', text: 'x' }))).to.include({ trouble: 'forbidden address' });
    room.stop();
  });
});
