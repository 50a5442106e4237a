import { expect } from 'chai';
import { calendar, event, sync, xml } from '../../../test/support/dav-door.ts';
import { type Device, type HostedService, openHosted } from '../../../test/support/hosted.ts';

/** How many inputs are drawn; more by hand, before a release. */
const COUNT = Number(process.env['MONSOON_FUZZ'] ?? 3000);

/** The same numbers each time. */
function numbers(seed: number): (most: number) => number {
  let state = seed;
  return (most) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((state / 4_294_967_296) * most);
  };
}

const odd = [
  ...['-'.repeat(36), '99999999999', '-1', '2.5', '1e300', 'NaN', 'null', '', ' ', '.', '..', '../..', "'", '"', '{}', '[]', '*', '\\', '/', '%'],
  ...['x'.repeat(5000), '\u202e', '\ufeff', '\ufffe', 'constructor', '__proto__', 'toString', 'hosted', '2026-13-45', '0001-01-01', 'a\rb', '😀'],
];
const inAddress = [...odd.map(encodeURIComponent), '%00', 'a%00b', '%ED%A0%80', '%', '%zz', '%2e%2e', '%0d%0a'];
const inBody: unknown[] = [...odd, '\u0000', '\ud800', 'a\u0007b', 1e300, -1, 0.5, true, null, [], {}, [[]], { a: null }, Array(50).fill('x')];

interface Operation {
  parameters: { name: string; in: string }[];
  requestBody?: { content: { 'application/json': { schema: { properties?: Record<string, unknown> } } } };
}

/** What nobody means, at every parameter and every method: an answer says what is wrong, and nothing fails inside. */
describe('odd values', function () {
  this.timeout(Math.max(240_000, COUNT * 20));
  let hosted: HostedService;
  let ines: Device;
  let token: string;

  before(async () => {
    hosted = await openHosted();
    ines = await hosted.person('administrator');
    ({ token } = await hosted.client.makeToken('walk', 'write'));
    await ines.dav('MKCALENDAR', '/dav/calendars/odd/');
    await ines.dav('PUT', '/dav/calendars/odd/e.ics', calendar, event('e'));
  });
  after(() => hosted?.stop());

  it(`are refused in so many words at the interface`, async () => {
    const { address } = hosted;
    const headers = { authorization: `Bearer ${token}`, 'content-type': 'application/json' };
    const document = (await (await fetch(`${address}/api/v1/openapi.json`)).json()) as { paths: Record<string, Record<string, Operation>> };
    const operations = Object.entries(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).map(([method, of]) => ({ path, method, ...of })),
    );
    const draw = numbers(4711);
    const pick = <T>(all: readonly T[]): T => all[draw(all.length)]!;
    const failed: string[] = [];
    const ask = async (n: number) => {
      const { path, method, parameters, requestBody } = operations[n % operations.length]!;
      // What takes the token away, or ends everything, would end the test.
      if (/\/(tokens|session|pause|settings)/.test(path) && method !== 'get') return;
      const at = path.replace(/\{\w+\}/g, () => (draw(4) === 0 ? 'hosted' : pick(inAddress)));
      const query = parameters.filter((p) => p.in === 'query' && draw(2) === 0).map((p) => `${p.name}=${pick(inAddress)}`);
      const properties = Object.keys(requestBody?.content['application/json'].schema.properties ?? {});
      const body = draw(10) === 0 ? pick(inBody) : Object.fromEntries(properties.filter(() => draw(3) > 0).map((p) => [p, pick(inBody)]));
      const given = requestBody === undefined ? {} : { body: JSON.stringify(body) };
      const answer = await fetch(`${address}${at}?${query.join('&')}`, {
        method,
        headers: { ...headers, ...(draw(20) === 0 ? { 'idempotency-key': 'x'.repeat(draw(300) + 1) } : {}) },
        ...given,
        signal: AbortSignal.timeout(30_000),
      });
      if (/event-stream/.test(answer.headers.get('content-type') ?? '')) return void answer.body?.cancel();
      const text = await answer.text();
      // An address of another system that does not answer is no fault of ours.
      if (answer.status >= 500 && answer.status !== 502)
        failed.push(`${method} ${at}?${query.join('&')} ${JSON.stringify(body).slice(0, 300)}: ${answer.status} ${text.slice(0, 200)}`);
    };
    for (let n = 0; n < COUNT; n += 4) await Promise.all([n, n + 1, n + 2, n + 3].map(ask));
    expect(failed.join('\n')).to.equal('');
  });

  it('are refused in so many words at the door', async () => {
    const draw = numbers(1685);
    const pick = <T>(all: readonly T[]): T => all[draw(all.length)]!;
    const methods = ['GET', 'HEAD', 'PUT', 'DELETE', 'PROPFIND', 'PROPPATCH', 'REPORT', 'MKCALENDAR', 'MKCOL', 'COPY', 'MOVE', 'OPTIONS'];
    const named = (name: string) => `<x:${name} xmlns:x="a}b&lt;c/&gt;"/>`;
    const bodies = [
      () => sync('').replace('<prop>', `<limit><nresults>${pick(['2.5', '-1', '0', 'x', '9'.repeat(40)])}</nresults></limit><prop>`),
      () => `<propertyupdate xmlns="DAV:"><set><prop>${named(pick(['constructor', '__proto__', 'toString', 'a']))}</prop></set></propertyupdate>`,
      () =>
        `<propertyupdate xmlns="DAV:"><set><prop><displayname>${pick(['a&#13;b', 'a&#10;b', '', 'x'.repeat(5000)])}</displayname></prop></set></propertyupdate>`,
      () => `<propfind xmlns="DAV:"><prop>${named(pick(['constructor', '__proto__', 'getetag']))}</prop></propfind>`,
      () => event(pick(['e', 'f', '\u0000', 'x'.repeat(2000)]), [`RRULE:${pick(odd)}`, `DTEND:${pick(odd)}`]),
      () => pick(odd),
      () => '',
    ];
    const failed: string[] = [];
    for (let n = 0; n < COUNT / 3; n++) {
      const method = pick(methods);
      const path = pick([
        '/dav/calendars/odd/',
        '/dav/calendars/odd/e.ics',
        '/dav/',
        `/dav/calendars/${pick(inAddress)}/`,
        `/dav/calendars/odd/${pick(inAddress)}`,
      ]);
      if (method === 'DELETE' && path === '/dav/calendars/odd/') continue;
      const headers = {
        ...(draw(2) === 0 ? xml : calendar),
        ...(draw(3) === 0 ? { depth: pick(['0', '1', 'infinity', '-1', 'x']) } : {}),
        ...(draw(6) === 0 ? { 'if-match': pick(['*', '"x"', 'x', '"', '']) } : {}),
        ...(draw(6) === 0 ? { 'if-unmodified-since': pick(['x', '0', 'Mon, 01 Jan 1990 00:00:00 GMT']) } : {}),
      };
      const target = ['COPY', 'MOVE'].includes(method) ? { destination: pick(['x', `${hosted.address}/dav/calendars/odd/${pick(inAddress)}`]) } : {};
      const body = ['GET', 'HEAD'].includes(method) ? undefined : pick(bodies)();
      const answer = await ines.dav(method, path, { ...headers, ...target }, body).catch((error: Error) => ({ status: 0, text: error.message }));
      if (answer.status >= 500 && answer.status !== 507 && !(answer.status === 502 && target.destination !== undefined))
        failed.push(`${method} ${path} ${JSON.stringify(headers)} ${body?.slice(0, 200)}: ${answer.status} ${answer.text.slice(0, 200)}`);
    }
    expect(failed.join('\n')).to.equal('');
    // A namespace with a brace in it puts nothing into what readers get.
    await ines.dav(
      'PROPPATCH',
      '/dav/calendars/odd/',
      xml,
      `<propertyupdate xmlns="DAV:"><set><prop><x:a xmlns:x="a}b/&gt;&lt;D:owner&gt;">1</x:a></prop></set></propertyupdate>`,
    );
    const all = await ines.dav('PROPFIND', '/dav/calendars/odd/', { ...xml, depth: '0' }, '<propfind xmlns="DAV:"><allprop/></propfind>');
    expect(all.status).to.equal(207);
    expect(all.text).to.not.contain('<D:owner>');
    // The user of a program with U+0000 is no user, and no guess.
    const nul = await fetch(new URL('/dav/', hosted.address), {
      method: 'PROPFIND',
      headers: { authorization: `Basic ${Buffer.from('a\0b:c').toString('base64')}` },
    });
    expect(nul.status).to.equal(401);
    const hook = await fetch(new URL('/hooks/a%00b', hosted.address), { method: 'POST', body: '{}' });
    expect(hook.status).to.be.within(400, 499);
    // Its own names alone are answered to.
    const { request } = await import('node:http');
    const status = await new Promise<number>((done) =>
      request(new URL('/dav/', hosted.address), { method: 'PROPFIND', headers: { host: 'rebound.example' } }, (r) => done(r.statusCode ?? 0)).end(),
    );
    expect(status).to.equal(421);
  });
});
