import { existsSync, readFileSync } from 'node:fs';
import { editEvent } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { type Calendars, callStack, checkAddress, ForbiddenAddress, kinds, type Records, wholeChanges } from '@monsoon/systems';
import { expect } from 'chai';
import { type Answerer, type Misbehaving, misbehaving } from '../../../test/support/misbehaving.ts';
import { reply, trouble } from '../../../test/support/outside.ts';
import { account, cyrus, dav, eventually } from '../../../test/support/servers.ts';

const signal = new AbortController().signal;
const options = { addresses: { allowed: ['127.0.0.1'] }, zones: loadZones() };
const xml = (body: string) => `<?xml version="1.0"?><D:multistatus xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav">${body}</D:multistatus>`;
const found = (href: string, props: string) =>
  `<D:response><D:href>${href}</D:href><D:propstat><D:prop>${props}</D:prop><D:status>HTTP/1.1 200 OK</D:status></D:propstat></D:response>`;
const listed = (href: string, etag = '"1"') => found(href, `<D:getetag>${etag}</D:getetag>`);
const event = 'BEGIN:VCALENDAR\nBEGIN:VEVENT\nUID:a\nDTSTART:20261201T090000Z\nEND:VEVENT\nEND:VCALENDAR\n';

/** Runs something against a server that answers so. */
async function against<T>(fault: Answerer, work: (calendars: Calendars, server: Misbehaving) => Promise<T>): Promise<T> {
  const server = await misbehaving(fault);
  const system = kinds['caldav']!.open({ address: server.address, user: 'u', timeout: 1 }, { password: 'p' }, options);
  try {
    return await work(system.calendars!, server);
  } finally {
    await system.close();
    await server.close();
  }
}

describe('surviving calendar servers', () => {
  it('takes a 207 with a failure inside a PUT for what it is', async () => {
    const inside = xml('<D:response><D:href>/c/a.ics</D:href><D:status>HTTP/1.1 412 Precondition Failed</D:status></D:response>');
    const error = await against(reply(207, inside), (c) => trouble(c.change('/c/a.ics', '"1"', event, signal)));
    expect(error.trouble).to.equal('changed meanwhile');
  });

  it('finds the other event in a UID conflict', async () => {
    const body =
      '<D:error xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><C:unique-scheduling-object-resource><D:href>/other/b.ics</D:href></C:unique-scheduling-object-resource></D:error>';
    const refuse = (href: string) => reply(403, body.replace('/other/b.ics', href));
    const error = await against(refuse('/c/b.ics'), (c) => trouble(c.create('/c/', 'a', event, signal)));
    expect(error).to.include({ trouble: 'exists', href: '/c/b.ics' });
    // In another calendar of the account, it is moved here; where it cannot be, that is said.
    const moved: Answerer = (asked, response) => (asked.method === 'MOVE' ? reply(201, '') : refuse('/other/b.ics'))(asked, response);
    await against(moved, async (c, server) => {
      expect(await trouble(c.create('/c/', 'a', event, signal))).to.include({ trouble: 'exists', href: '/c/a.ics' });
      const [move] = server.asked.filter((a) => a.method === 'MOVE');
      expect(move!.headers).to.include({ destination: `${server.address}c/a.ics`, overwrite: 'F' });
    });
    const fixed = await against(refuse('/other/b.ics'), (c) => trouble(c.create('/c/', 'a', event, signal)));
    expect(fixed).to.include({ trouble: 'refused' });
    expect(fixed.message).to.match(/stands in another calendar, at \/other\/b.ics: move it back/);
  });

  for (const [what, status] of [
    ['the standard 403', 403],
    ['409', 409],
    ['a 500', 500],
  ] as const) {
    it(`lists everything when a token is refused with ${what}`, async () => {
      const answer: Answerer = (asked, response) =>
        reply(asked.body.includes('<D:sync-token>old') ? status : 207, xml(`${listed('/c/a.ics')}<D:sync-token>new</D:sync-token>`))(asked, response);
      const changes = await against(answer, (c) =>
        wholeChanges(c.changes('/c/', JSON.stringify({ token: 'old', since: new Date().toISOString() }), signal)),
      );
      expect(changes)
        .to.include({ complete: true })
        .and.property('changed')
        .deep.equal([{ href: '/c/a.ics', etag: '"1"' }]);
    });
  }

  it('does not trust a token that is a week old', async () => {
    const since = new Date(Date.now() - 7 * 86_400_000).toISOString();
    const [changes, tokens] = await against(
      reply(207, xml(`${listed('/c/a.ics')}<D:sync-token>new</D:sync-token>`)),
      async (c, server) =>
        [
          await wholeChanges(c.changes('/c/', JSON.stringify({ token: 'old', since }), signal)),
          server.asked.filter((a) => a.method === 'REPORT').map((a) => a.body.includes('old')),
        ] as const,
    );
    expect(changes.complete).to.equal(true);
    expect(tokens).to.deep.equal([false]);
  });

  it('follows a truncated change list to its end', async () => {
    const pages: Record<string, string> = {
      '': `${listed('/c/a.ics')}<D:response><D:href>/c/</D:href><D:status>HTTP/1.1 507 Insufficient Storage</D:status></D:response><D:sync-token>two</D:sync-token>`,
      two: `${listed('/c/b.ics')}<D:sync-token>three</D:sync-token>`,
    };
    const answer: Answerer = (asked, response) =>
      reply(207, xml(asked.method === 'REPORT' ? pages[/<D:sync-token>(.*?)</.exec(asked.body)![1]!]! : ''))(asked, response);
    const changes = await against(answer, (c) => wholeChanges(c.changes('/c/', null, signal)));
    expect(changes.changed.map((x) => x.href)).to.deep.equal(['/c/a.ics', '/c/b.ics']);
  });

  it('lists by PROPFIND where there is no sync-collection', async () => {
    const answer: Answerer = (asked, response) =>
      (asked.method === 'REPORT'
        ? reply(501)
        : reply(207, xml(`${found('/c/', '<D:resourcetype><D:collection/></D:resourcetype>')}${listed('http://other.example/c/a%40b.ics')}`)))(
        asked,
        response,
      );
    const changes = await against(answer, (c) => wholeChanges(c.changes('/c/', null, signal)));
    expect(changes).to.deep.equal({ changed: [{ href: '/c/a%40b.ics', etag: '"1"' }], removed: [], cursor: null, complete: true });
  });

  it('does not trust the old token of a recreated calendar, and only a resource-id proves that it was recreated', async () => {
    const answers = (identity: string) => (asked: { method: string; body: string }, response: Parameters<Answerer>[1]) =>
      reply(
        207,
        xml(
          asked.method === 'PROPFIND'
            ? found('/c/', identity)
            : asked.body.includes('<D:sync-token>old')
              ? '<D:sync-token>old</D:sync-token>'
              : `${listed('/c/a.ics')}<D:sync-token>new</D:sync-token>`,
        ),
      )(asked as never, response);
    const cursor = (identity: string) => JSON.stringify({ token: 'old', since: new Date().toISOString(), identity });
    const look = (answer: Answerer, identity: string) =>
      against(answer, async (c) => {
        for await (const page of c.changes('/c/', cursor(identity), signal)) return page;
        return null;
      });
    const known = answers('<D:resource-id><D:href>urn:uuid:new</D:href></D:resource-id>') as Answerer;
    expect(await look(known, 'urn:uuid:new')).to.include({ complete: false });
    expect(await look(known, 'urn:uuid:before')).to.include({ complete: true, replaced: true });
    // Cyrus changes the creation date when it rewrites its index.
    const dated = answers('<D:creationdate>2026-11-28T12:44:37Z</D:creationdate>') as Answerer;
    const moved = await look(dated, '2026-11-28T12:44:34Z');
    expect(moved).to.include({ complete: true }).and.not.have.property('replaced');
  });

  it('never takes a part of a listing for the whole where a server has no way to the rest', async () => {
    const cut = `${listed('/c/a.ics')}<D:response><D:href>/c/</D:href><D:status>HTTP/1.1 507 Insufficient Storage</D:status></D:response>`;
    const answer: Answerer = (asked, response) => reply(asked.method === 'REPORT' ? 501 : 207, xml(cut))(asked, response);
    expect((await against(answer, (c) => trouble(wholeChanges(c.changes('/c/', null, signal))))).message).to.match(/only a part/);
  });

  it('never takes a listing that broke off for a whole one', async () => {
    const broken = xml(`${listed('/c/a.ics')}<D:response><D:href>/c/b`).slice(0, -20);
    const error = await against(reply(207, broken), (c) => trouble(wholeChanges(c.changes('/c/', null, signal))));
    expect(error.message).to.match(/broke off/);
  });

  it('reads around an event whose characters break the XML, and around events that were left out', async () => {
    const answer: Answerer = (asked, response) => {
      if (asked.method === 'REPORT')
        return reply(
          207,
          xml(
            `${found('/c/a.ics', `<D:getetag>"1"</D:getetag><C:calendar-data>${event}</C:calendar-data>`)}${found('/c/b.ics', `<C:calendar-data>bad \u0001 & worse</C:calendar-data>`)}`,
          ),
        )(asked, response);
      return reply(asked.url.endsWith('gone.ics') ? 404 : 200, event, { etag: '"2"' })(asked, response);
    };
    const read = await against(answer, (c) => c.read('/c/', ['/c/a.ics', '/c/c.ics', '/c/gone.ics'], signal));
    expect([...read].map(([href, e]) => [href, e?.etag])).to.have.deep.members([
      ['/c/a.ics', '"1"'],
      ['/c/c.ics', '"2"'],
      ['/c/gone.ics', undefined],
    ]);
  });

  it('does not take a login page for an event or for a calendar server', async () => {
    const page = reply(200, '<html><body>Please sign in</body></html>', { 'content-type': 'text/html' });
    expect((await against(page, (c) => trouble(c.read('/c/', ['/c/a.ics'], signal)))).trouble).to.equal('nonsense');
    expect((await against(page, (c) => trouble(c.calendars(signal)))).trouble).to.equal('nonsense');
  });

  it('makes a calendar whose colour is refused without it', async () => {
    let href = '';
    const answer: Answerer = (asked, response) => {
      if (asked.method === 'MKCALENDAR') {
        href = asked.url;
        return reply(asked.body.includes('calendar-color') ? 403 : 201)(asked, response);
      }
      if (asked.method === 'PROPPATCH') return reply(207, xml(''))(asked, response);
      const calendar = found(href || '/home/', '<D:resourcetype><D:collection/><C:calendar/></D:resourcetype><D:displayname>Visits</D:displayname>');
      return reply(
        207,
        xml(asked.headers['depth'] === '1' ? calendar : found('/', '<C:calendar-home-set><D:href>/home/</D:href></C:calendar-home-set>')),
      )(asked, response);
    };
    expect((await against(answer, (c) => c.make('Visits', '#123456', signal))).name).to.equal('Visits');
  });

  it('refuses XML with a document type or endless depth', async () => {
    const bomb = '<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "c">]><D:multistatus xmlns:D="DAV:">&b;</D:multistatus>';
    expect((await against(reply(207, bomb), (c) => trouble(wholeChanges(c.changes('/c/', null, signal))))).message).to.match(/document type/);
    const deep = xml(`<D:response>${'<D:a>'.repeat(200)}`);
    expect((await against(reply(207, deep), (c) => trouble(wholeChanges(c.changes('/c/', null, signal))))).message).to.match(/nested deeper/);
  });

  it('keeps its connections from one question to the next', async () => {
    await against(reply(207, xml('<D:sync-token>t</D:sync-token>')), async (c, server) => {
      await wholeChanges(c.changes('/c/', null, signal));
      const { connections } = server;
      for (let i = 0; i < 5; i++) await wholeChanges(c.changes('/c/', null, signal));
      expect(server.asked.filter((a) => a.method === 'REPORT')).to.have.length(6);
      expect(server.connections).to.equal(connections);
    });
  });

  it('never sends a body in chunks, nor two ETags, and always a depth', async () => {
    const asked = await against(reply(207, xml('<D:sync-token>t</D:sync-token>')), async (c, server) => {
      await wholeChanges(c.changes('/c/', null, signal));
      await c.change('/c/a.ics', '"1"', event, signal);
      return server.asked;
    });
    for (const a of asked) {
      expect(a.headers).to.not.have.property('transfer-encoding');
      if (a.method !== 'PUT') expect(a.headers).to.have.property('depth');
    }
    expect(asked.at(-1)!.headers['if-match']).to.equal('"1"');
  });
});

describe('a server that mails to guests', () => {
  it('mails nobody whom Monsoon adds', async () => {
    const system = kinds['caldav']!.open({ address: cyrus(), user: account.user }, { password: account.password }, options);
    const calendars = system.calendars!;
    const { href } = await calendars.make(`Guests ${Date.now()}`, null, signal);
    const body = '<propfind xmlns="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><prop><C:calendar-user-address-set/></prop></propfind>';
    const principal = await dav(
      cyrus(),
      'PROPFIND',
      `/dav/principals/user/${account.user}/`,
      { depth: '0', 'content-type': 'application/xml' },
      body,
    );
    const own = /mailto:[^<]+/.exec(principal.text)![0];
    const person = (name: string) => `ATTENDEE;PARTSTAT=NEEDS-ACTION;CN=${name}:mailto:${name}@elsewhere.example`;
    const written = (uid: string, more: string) =>
      `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//a person\r\nBEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:20261101T000000Z\r\nDTSTART:20370601T090000Z\r\nDTEND:20370601T100000Z\r\nSUMMARY:Tea\r\nORGANIZER:${own}\r\n${more}END:VEVENT\r\nEND:VCALENDAR\r\n`;
    const told = () => (existsSync(process.env['MONSOON_TEST_OUTBOX']!) ? readFileSync(process.env['MONSOON_TEST_OUTBOX']!, 'utf8') : '');
    // What a person's own program stores is mailed: so this would be seen.
    const uid = `tea-${Date.now()}`;
    await calendars.create(href, uid, written(uid, `${person('zelda')}\r\n`), signal);
    await eventually('the guest of a person is told', async () => told().includes('zelda@elsewhere.example'));
    const at = calendars.hrefFor(href, uid);
    const stored = (await calendars.read(href, [at], signal)).get(at)!;
    const attendees = ['zelda', 'otto'].map((name) => ({ email: `${name}@elsewhere.example`, name }));
    await calendars.change(at, stored.etag!, editEvent(stored.text, { attendees }, { zones: options.zones, now: '2026-11-02T00:00:00Z' }), signal);
    const now = (await calendars.read(href, [at], signal)).get(at)!.text.replace(/\r?\n[ \t]/g, '');
    expect(now).to.match(/^ATTENDEE[^:]*SCHEDULE-AGENT=CLIENT[^:]*:mailto:otto@elsewhere.example/m);
    expect(told()).to.not.include('otto@elsewhere.example');
    await system.close();
  });
});

describe('around every call', () => {
  const get = (address: string, path = '', more: { timeout?: number; allowed?: string[] } = {}) => {
    const { call, close } = callStack({
      addresses: { allowed: more.allowed ?? ['127.0.0.1'] },
      timeout: more.timeout ?? 1000,
      headers: { authorization: 'Bearer secret' },
    });
    return call({ method: 'GET', url: address + path, headers: {}, limit: 1000, signal }).finally(close);
  };

  it('gives up after its time-out, says how long it was, and does not read endless answers', async () => {
    const server = await misbehaving((asked, response) => {
      if (asked.url === '/slow') return true;
      response.writeHead(200).end('x'.repeat(5000));
      return true;
    });
    expect(await trouble(get(server.address, 'slow')))
      .to.include({ trouble: 'timed out' })
      .and.property('message')
      .match(/within 1 seconds/);
    expect((await trouble(get(server.address, 'large'))).message).to.match(/more than 1000 bytes/);
    await server.close();
    expect(await trouble(get(server.address)))
      .to.include({ trouble: 'unreachable' })
      .and.property('message')
      .match(/connection refused/);
  });

  it('follows redirects on the same origin, and never takes credentials elsewhere', async () => {
    const other = await misbehaving(reply(200));
    const server = await misbehaving((asked, response) =>
      reply(asked.url === '/end' ? 200 : 301, '', { location: asked.url === '/away' ? other.address : asked.url === '/round' ? '/round' : '/end' })(
        asked,
        response,
      ),
    );
    expect((await get(server.address, 'start')).status).to.equal(200);
    expect((await trouble(get(server.address, 'away'))).message).to.match(/another origin/);
    expect((await trouble(get(server.address, 'round'))).message).to.match(/in a circle/);
    expect(other.asked).to.deep.equal([]);
    await Promise.all([server.close(), other.close()]);
  });

  it('calls no private address unless the installation allows it, by number or by name', async () => {
    const server = await misbehaving(reply(200));
    const port = new URL(server.address).port;
    for (const address of [
      server.address,
      `http://localhost:${port}/`,
      `http://[::1]:${port}/`,
      `http://[::ffff:127.0.0.1]:${port}/`,
      // IPv4-compatible, which some systems take for the address inside.
      `http://[::127.0.0.1]:${port}/`,
      `http://[::7f00:1]:${port}/`,
      'http://[::a9fe:a9fe]/',
      'http://169.254.169.254/',
      'http://10.1.2.3/',
      'http://2130706433/',
    ]) {
      expect((await trouble(get(address, '', { allowed: [] }))).trouble, address).to.equal('forbidden address');
    }
    expect(server.asked).to.deep.equal([]);
    expect((await get(`http://localhost:${port}/`, '', { allowed: ['localhost'] })).status).to.equal(200);
    expect((await get(server.address, '', { allowed: ['127.0.0.0/8'] })).status).to.equal(200);
    expect(() => checkAddress(new URL('file:///etc/passwd'), { allowed: [] })).to.throw(ForbiddenAddress);
    await server.close();
  });

  it('tries a read again after a stumble, and never a write', async () => {
    let stumbles = 0;
    const server = await misbehaving((asked, response) => reply(stumbles++ === 0 ? 503 : 200)(asked, response));
    expect((await get(server.address)).status).to.equal(200);
    stumbles = 0;
    const { call, close } = callStack({ addresses: { allowed: ['127.0.0.1'] } });
    expect((await call({ method: 'PUT', url: server.address, headers: {}, body: 'x' })).status).to.equal(503);
    await Promise.all([close(), server.close()]);
  });
});

describe('surviving JSON APIs', () => {
  const descriptor = {
    collections: {
      things: {
        label: 'Things',
        list: { path: '/things', items: '/items', next: { at: '/next', parameter: 'page' } },
        read: { path: '/things/{id}' },
        id: '/id',
        fields: [
          { name: 'name', type: 'text', at: '/a~1b/0' },
          { name: 'at', type: 'date-time', at: '/at', zoneAt: '/zone' },
          { name: 'who', type: 'people', at: '/who' },
        ],
      },
    },
  };
  const pulled = async (body: string, status = 200): Promise<unknown> => {
    const server = await misbehaving(reply(status, body));
    const system = kinds['json-api']!.open({ address: server.address, descriptor }, { token: 't' }, options);
    try {
      const pages = [];
      for await (const page of (system.records as Records).pull('things', null, signal)) pages.push(page);
      return pages;
    } finally {
      await system.close();
      await server.close();
    }
  };

  it('reads fields by JSON Pointer, with zones and people', async () => {
    const pages = await pulled(
      JSON.stringify({
        items: [{ id: 7, 'a/b': ['deep'], at: '2026-12-01T09:00', zone: 'America/Halifax', who: ['z@elsewhere.example', { name: 'Ines' }, 5] }],
      }),
    );
    expect(pages)
      .to.have.nested.property('[0].items[0].fields')
      .deep.equal({ name: 'deep', at: '2026-12-01T09:00[America/Halifax]', who: [{ email: 'z@elsewhere.example' }, { name: 'Ines' }] });
  });

  it('never takes an answer without a list for an empty list', async () => {
    for (const body of ['{}', '{"items":null}', '[]', '"no"']) expect((await trouble(pulled(body))).message).to.match(/sent no list/);
    expect((await trouble(pulled('<html>'))).message).to.match(/did not answer in JSON/);
    expect((await trouble(pulled('{"items":[{}]}'))).message).to.match(/without an id at \/id/);
    expect((await trouble(pulled('', 429))).trouble).to.equal('throttled');
  });
});
