import { once } from 'node:events';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { MonsoonClient } from '@monsoon/contract/client';
import { kinds } from '@monsoon/systems';
import { expect } from 'chai';
import { calendar, event, xml } from '../../../test/support/dav-door.ts';
import { type Device, deviceOf } from '../../../test/support/hosted.ts';
import { getToken, type ServiceProcess, spawnService } from '../../../test/support/office.ts';
import { freshDatabase } from '../../../test/support/servers.ts';

/** Milliseconds of CPU of one turn, and megabytes that a request may add. */
const MOST = { turn: 100, memory: 200 };

interface Line {
  entrance: string;
  input: string;
  status: string;
  turn: number;
  memory: number;
}

/**
 * Every entrance, with the worst that fits through it: nobody waits for it. The lists are made of the routes, the methods of the door
 * and the kinds of systems: a new one is asked for here.
 */
describe('one request stops nobody', function () {
  this.timeout(300_000);
  /** of the test that runs, and of all */
  const lines: Line[] = [];
  const all: Line[] = [];
  let database: Awaited<ReturnType<typeof freshDatabase>>;
  let folder: string;
  let service: ServiceProcess;
  let client: MonsoonClient;
  let token: string;
  let owner: Device;
  let reader: Device;
  let outside: Server;
  let outsideAddress: string;
  const answers = new Map<string, (body: string) => { status?: number; headers?: Record<string, string>; body: string | Buffer }>();

  const measure = async (): Promise<{ longest: number; memory: number }> => {
    service.child.send('measure');
    const [found] = (await once(service.child, 'message')) as [{ longest: number; memory: number }];
    return found;
  };
  /** Does something, and says how long the longest turn was meanwhile. */
  const through = async (entrance: string, input: string, work: () => Promise<string | number>): Promise<string> => {
    const tried: Line[] = [];
    // What stands still does so each time; what another process on the machine does to a turn, it does not.
    while (tried.length < 3 && tried.every((l) => l.turn > MOST.turn)) {
      const before = await measure();
      const status = String(await work());
      const { longest, memory } = await measure();
      tried.push({ entrance, input, status, turn: Math.round(longest), memory: Math.max(0, Math.round((memory - before.memory) / 1e6)) });
    }
    const { status } = tried[0]!;
    const line = { ...tried.toSorted((a, b) => a.turn - b.turn)[0]!, status };
    lines.push(line);
    all.push(line);
    return status;
  };
  const api = async (method: string, path: string, body: unknown, text?: string): Promise<string> => {
    const answer = await fetch(`${service.address}/api/v1${path}`, {
      method,
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
      ...(method === 'GET' ? {} : { body: text ?? JSON.stringify(body) }),
      signal: AbortSignal.timeout(120_000),
    });
    await answer.text();
    return String(answer.status);
  };
  const dav = async (device: Device, method: string, path: string, body: string, headers: Record<string, string> = {}): Promise<string> =>
    String((await device.dav(method, path, { ...xml, ...headers }, body)).status);

  before(async () => {
    database = await freshDatabase();
    folder = mkdtempSync(join(tmpdir(), 'monsoon-'));
    process.env['MONSOON_TEST_NODE'] = `--import ${resolve(import.meta.dirname, '../../../test/support/loop-probe.mjs')}`;
    service = await spawnService({ databaseUrl: database.url, dataFolder: folder });
    delete process.env['MONSOON_TEST_NODE'];
    token = await getToken(service.address);
    client = new MonsoonClient({ address: service.address, token });
    const made = await client.addDevice('phone');
    owner = deviceOf(service.address, '', made.user, made.password);
    outside = createServer((request, response) => {
      const parts: Buffer[] = [];
      request.on('data', (part: Buffer) => parts.push(part));
      request.on('end', () => {
        const found = answers.get(request.method!) ?? answers.get('*');
        const { status = 200, headers = {}, body } = found?.(Buffer.concat(parts).toString()) ?? { status: 404, body: '' };
        response.writeHead(status, headers).end(body);
      });
    }).listen(0, '127.0.0.1');
    await once(outside, 'listening');
    outsideAddress = `http://127.0.0.1:${(outside.address() as AddressInfo).port}`;
    // The threads are there, and what is compiled at first use is.
    await api('POST', '/lane-files/check', { slug: '', text: 'name: x\n' });
  });
  after(async () => {
    service?.child.kill('SIGKILL');
    outside?.close();
    await database?.drop();
    rmSync(folder, { recursive: true, force: true });
    const table = [
      '| entrance | worst input | answer | longest turn, ms of CPU | memory, MB |',
      '|---|---|---|---|---|',
      ...all.map((l) => `| ${l.entrance} | ${l.input} | ${l.status} | ${l.turn} | ${l.memory} |`),
    ].join('\n');
    if (process.env['MONSOON_ENTRANCES'] !== undefined) writeFileSync(process.env['MONSOON_ENTRANCES'], `${table}\n`);
  });
  const holds = () => {
    const wrong = lines.splice(0).filter((l) => l.turn > MOST.turn || l.memory > MOST.memory || /^5(?!07)/.test(l.status));
    expect(wrong.map((l) => `${l.entrance} (${l.input}): ${l.status}, ${l.turn} ms, ${l.memory} MB`)).to.deep.equal([]);
  };

  const observances = (count: number) =>
    Array.from({ length: count }, (_, i) => {
      const [name, month] = [i % 2 ? 'STANDARD' : 'DAYLIGHT', String(1 + (Math.floor(i / 2) % 12)).padStart(2, '0')];
      return `BEGIN:${name}\r\nDTSTART:${1900 + Math.floor(i / 24)}${month}01T020000\r\nTZOFFSETFROM:+0${i % 2}00\r\nTZOFFSETTO:+0${1 - (i % 2)}00\r\nEND:${name}\r\n`;
    }).join('');
  const heavy = (uid: string) =>
    event(uid, ['DTSTART;TZID=Own:20261201T090000', 'DTEND;TZID=Own:20261201T100000', 'RRULE:FREQ=DAILY']).replace(
      'BEGIN:VEVENT',
      `BEGIN:VTIMEZONE\r\nTZID:Own\r\n${observances(1950)}END:VTIMEZONE\r\nBEGIN:VEVENT`,
    );

  it('at the door', async () => {
    const { rows } = await import('pg').then(async ({ default: pg }) => {
      const db = new pg.Client(database.url);
      await db.connect();
      const found = await db.query<{ id: string }>(
        `insert into people (email, name, role) values ('reader@alder-wren.example', 'Reader', 'viewer') returning id`,
      );
      const { deviceHash } = await import('@monsoon/service');
      await db.query(`insert into device_passwords (person, name, hash) values ($1, 'phone', $2)`, [found.rows[0]!.id, deviceHash('reads-a-little')]);
      await db.end();
      return found;
    });
    reader = deviceOf(service.address, rows[0]!.id, 'reader@alder-wren.example', 'reads-a-little');
    const fill = async (slug: string, count: number, text: (n: number) => string) => {
      await owner.dav('MKCALENDAR', `/dav/calendars/${slug}/`);
      await client.shareHostedCalendar(slug, [{ person: 'reader@alder-wren.example', may: 'busy only' }]);
      const one = async (from: number) => {
        for (let n = from; n < count; n += 8) {
          const { status } = await owner.dav('PUT', `/dav/calendars/${slug}/e${n}.ics`, calendar, text(n));
          if (status !== 201) throw new Error(`PUT of e${n}: ${status}`);
        }
      };
      await Promise.all(Array.from({ length: 8 }, (_, i) => one(i)));
    };
    await fill('many', 600, (n) => event(`many-${n}`));
    await fill('heavy', 40, (n) => heavy(`heavy-${n}`));
    await fill('series', 1500, (n) =>
      event(`series-${n}`, ['DTSTART;TZID=GMT Standard Time:20261201T090000', 'DTEND;TZID=GMT Standard Time:20261201T100000', 'RRULE:FREQ=DAILY']),
    );
    const names = Array.from({ length: 19_990 }, (_, i) => `<a${i}/>`).join('');
    const few = Array.from({ length: 200 }, (_, i) => `<a${i}/>`).join('');
    const hrefs = async (device: Device, slug: string) =>
      [...(await device.dav('PROPFIND', `/dav/calendars/${slug}/`, { ...xml, depth: '1' })).text.matchAll(/<D:href>([^<]*\.ics)</g)].map(
        (m) => m[1]!,
      );
    const seen = await hrefs(reader, 'heavy');
    const data = '<prop xmlns="DAV:"><C:calendar-data xmlns:C="urn:ietf:params:xml:ns:caldav"/></prop>';
    const multiget = (those: string[]) =>
      `<C:calendar-multiget xmlns:C="urn:ietf:params:xml:ns:caldav">${data}${those.map((h) => `<href xmlns="DAV:">${h}</href>`).join('')}</C:calendar-multiget>`;
    const query = (inner: string, prop = '<D:getetag/><C:calendar-data/>') =>
      `<C:calendar-query xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><D:prop>${prop}</D:prop><C:filter><C:comp-filter name="VCALENDAR"><C:comp-filter name="VEVENT">${inner}</C:comp-filter></C:comp-filter></C:filter></C:calendar-query>`;
    const range = '<C:time-range start="20270101T000000Z" end="20310101T000000Z"/>';
    const expand = '<C:calendar-data><C:expand start="20270101T000000Z" end="20290101T000000Z"/></C:calendar-data>';
    const busy =
      '<C:free-busy-query xmlns:C="urn:ietf:params:xml:ns:caldav"><C:time-range start="20270101T000000Z" end="20310101T000000Z"/></C:free-busy-query>';
    const deep = { depth: '1' };
    const big = event('big', [...Array<string>(4900).fill('X-A:b'), `ATTACH;ENCODING=BASE64;VALUE=BINARY:${'A'.repeat(900_000)}`]);
    const rules = (rule: string) => event('rule', ['DTSTART:20261201T090000Z', 'DTEND:20261201T091000Z', `RRULE:${rule}`]);
    const minutes = Array.from({ length: 60 }, (_, i) => i).join(',');
    const inputs: Record<string, [string, () => Promise<string>][]> = {
      PROPFIND: [
        [
          '19,990 names, 600 events, busy only',
          () => dav(reader, 'PROPFIND', '/dav/calendars/many/', `<propfind xmlns="DAV:"><prop>${names}</prop></propfind>`, deep),
        ],
        [
          '200 names, 600 events, busy only',
          () => dav(reader, 'PROPFIND', '/dav/calendars/many/', `<propfind xmlns="DAV:"><prop>${few}</prop></propfind>`, deep),
        ],
        [
          'a megabyte of attributes',
          () =>
            dav(
              reader,
              'PROPFIND',
              '/dav/calendars/many/',
              `<propfind xmlns="DAV:" ${Array.from({ length: 60_000 }, (_, i) => `a${i}="bbbb"`).join(' ')}/>`,
              deep,
            ),
        ],
      ],
      REPORT: [
        [
          'multiget, one heavy object 100 times, busy only',
          () => dav(reader, 'REPORT', '/dav/calendars/heavy/', multiget(Array<string>(100).fill(seen[0]!))),
        ],
        ['multiget, 40 heavy objects, busy only', () => dav(reader, 'REPORT', '/dav/calendars/heavy/', multiget(seen))],
        ['query by time, 40 heavy objects', () => dav(owner, 'REPORT', '/dav/calendars/heavy/', query(range), deep)],
        ['query by time, 1,500 daily series, busy only', () => dav(reader, 'REPORT', '/dav/calendars/series/', query(range), deep)],
        ['query with expand, 1,500 daily series', () => dav(owner, 'REPORT', '/dav/calendars/series/', query(range, expand), deep)],
        [
          'query for alarms, 1,500 daily series',
          () => dav(owner, 'REPORT', '/dav/calendars/series/', query(`<C:comp-filter name="VALARM">${range}</C:comp-filter>`), deep),
        ],
        ['free-busy, 1,500 daily series, busy only', () => dav(reader, 'REPORT', '/dav/calendars/series/', busy)],
        [
          'sync with data, 1,500 series, busy only',
          () =>
            dav(
              reader,
              'REPORT',
              '/dav/calendars/series/',
              `<sync-collection xmlns="DAV:"><sync-token/><sync-level>1</sync-level>${data}</sync-collection>`,
            ),
        ],
      ],
      PUT: [
        ['a megabyte, 4,900 properties', () => dav(owner, 'PUT', '/dav/calendars/many/big.ics', big, calendar)],
        ['1,950 changes of a clock', () => dav(owner, 'PUT', '/dav/calendars/many/own.ics', heavy('own'), calendar)],
        [
          'a rule of each second',
          () =>
            dav(
              owner,
              'PUT',
              '/dav/calendars/many/s.ics',
              rules(`FREQ=YEARLY;BYDAY=MO;BYHOUR=${minutes.split(',').slice(0, 24)};BYMINUTE=${minutes};BYSECOND=${minutes};BYSETPOS=-1`),
              calendar,
            ),
        ],
        [
          '15,000 alarms',
          () =>
            dav(
              owner,
              'PUT',
              '/dav/calendars/many/a.ics',
              event('a', Array<string>(15_000).fill('BEGIN:VALARM\r\nTRIGGER:-PT1H\r\nACTION:DISPLAY\r\nEND:VALARM')),
              calendar,
            ),
        ],
        ['a million control characters', () => dav(owner, 'PUT', '/dav/calendars/many/c.ics', '\u0001'.repeat(999_000), calendar)],
      ],
      PROPPATCH: [
        [
          '19,990 properties',
          () => dav(owner, 'PROPPATCH', '/dav/calendars/many/', `<propertyupdate xmlns="DAV:"><set><prop>${names}</prop></set></propertyupdate>`),
        ],
      ],
      MKCALENDAR: [
        [
          '19,990 properties',
          () =>
            dav(
              owner,
              'MKCALENDAR',
              '/dav/calendars/new/',
              `<C:mkcalendar xmlns:C="urn:ietf:params:xml:ns:caldav" xmlns="DAV:"><set><prop>${names}</prop></set></C:mkcalendar>`,
            ),
        ],
      ],
      GET: [['a heavy object, busy only', () => dav2(reader, 'GET', seen[0]!)]],
      HEAD: [['a heavy object, busy only', () => dav2(reader, 'HEAD', seen[1]!)]],
      COPY: [
        [
          'a heavy object',
          () => dav2(owner, 'COPY', '/dav/calendars/heavy/e1.ics', { destination: `${service.address}/dav/calendars/many/copied.ics` }),
        ],
      ],
      MOVE: [
        [
          'a heavy object',
          () => dav2(owner, 'MOVE', '/dav/calendars/many/copied.ics', { destination: `${service.address}/dav/calendars/many/moved.ics` }),
        ],
      ],
      DELETE: [['a heavy object', () => dav2(owner, 'DELETE', '/dav/calendars/many/moved.ics')]],
      OPTIONS: [['an address of 8 kB', () => dav2(reader, 'OPTIONS', `/dav/calendars/${'x'.repeat(8000)}/`)]],
    };
    const dav2 = async (device: Device, method: string, path: string, headers: Record<string, string> = {}) =>
      String((await device.dav(method, path, headers)).status);
    const allowed = (await owner.dav('OPTIONS', '/dav/calendars/many/e1.ics')).headers.get('allow')!.split(/,\s*/);
    for (const method of new Set([...allowed, 'MKCALENDAR'])) {
      if (method === 'MKCOL') continue;
      expect(inputs, 'what is the worst for this method?').to.have.property(method);
      for (const [input, work] of inputs[method]!) await through(method, input, work);
    }
    // What the console draws of a calendar, and counts of it.
    const of = (slug: string) => `system=hosted&calendar=${encodeURIComponent(`/dav/calendars/${slug}/`)}`;
    for (const slug of ['series']) {
      const agenda = `/agenda?${of(slug)}&from=2027-01-01&until=2027-02-28&zone=Europe%2FLondon`;
      await through('GET /agenda', `two months of "${slug}"`, () => api('GET', agenda, null));
      const counts = `/counts?${of(slug)}&by=title&step=month&from=2026-12-01&until=2027-12-31&zone=UTC`;
      await through('GET /counts', `a year of "${slug}"`, () => api('GET', counts, null));
    }
    const feed = await client.makeFeed({ name: 'Many', system: 'hosted', calendar: '/dav/calendars/series/' } as never);
    await through('feed, GET', 'first look at 1,500 series', async () => (await fetch(feed.address!)).status);
    for (let n = 0; n < 600; n++) await owner.dav('PUT', `/dav/calendars/series/e${n}.ics`, calendar, event(`series-${n}`, ['RRULE:FREQ=WEEKLY']));
    await new Promise((done) => setTimeout(done, 1100));
    await through('feed, GET', 'after 600 changes', async () => (await fetch(feed.address!)).status);
    holds();
  });

  it('at the interface', async () => {
    const document = (await (await fetch(`${service.address}/api/v1/openapi.json`)).json()) as {
      paths: Record<
        string,
        Record<string, { requestBody?: { content: { 'application/json': { schema: { properties?: Record<string, { type?: string }> } } } } }>
      >;
    };
    const keys = Object.fromEntries(Array.from({ length: 60_000 }, (_, i) => [`k${i}`, 1]));
    const nested = `${'{"a":'.repeat(30_000)}1${'}'.repeat(30_000)}`;
    let walked = 0;
    for (const [path, methods] of Object.entries(document.paths))
      for (const [method, { requestBody }] of Object.entries(methods)) {
        if (requestBody === undefined || path.includes('/session')) continue;
        walked++;
        const at = path.replace('/api/v1', '').replace(/\{\w+\}/g, 'hosted');
        const properties = Object.entries(requestBody.content['application/json'].schema.properties ?? {});
        const much = Object.fromEntries(
          properties.map(([name, { type }]) => [
            name,
            type === 'array' ? Array.from({ length: 10_000 }, () => ({})) : type === 'string' ? 'a'.repeat(20_000) : { ...keys },
          ]),
        );
        const name = `${method.toUpperCase()} ${at}`;
        await through(name, '60,000 keys', () => api(method.toUpperCase(), at, keys));
        await through(name, 'the most of everything', () => api(method.toUpperCase(), at, null, JSON.stringify(much).slice(0, 999_000)));
        await through(name, 'nested 30,000 deep', () => api(method.toUpperCase(), at, null, nested));
      }
    expect(walked).to.be.greaterThan(30);
    const odd = ['- : : :\n', '!a ', '[', '#\n', '&a *a ', '? '].map((piece): [string, string] => [
      piece.trim(),
      piece.repeat(99_000 / piece.length),
    ]);
    for (const [piece, text] of odd)
      await through('POST /lane-files/check', `100 kB of \`${piece}\``, () => api('POST', '/lane-files/check', { slug: '', text }));
    await through('POST /lane-files/check', '480 kB', () => api('POST', '/lane-files/check', { slug: '', text: '- : : :\n'.repeat(60_000) }));
    const paths = Object.fromEntries(
      Array.from({ length: 5000 }, (_, i) => [
        `/things${i}`,
        {
          get: {
            responses: { 200: { content: { 'application/json': { schema: { type: 'array', items: { properties: { id: { type: 'string' } } } } } } } },
          },
        },
      ]),
    );
    await through('POST /descriptors/draft', '5,000 paths', () => api('POST', '/descriptors/draft', { document: { openapi: '3.1.0', paths } }));
    const moments = Array.from({ length: 10_000 }, (_, i) => ({ name: `m${i}`, when: { due: 'x' } }));
    await through('POST /lanes/preview', '10,000 moments', () => api('POST', '/lanes/preview', { definition: { name: 'x', moments } }));
    await through('POST /lanes/preview', '900 moments', () =>
      api('POST', '/lanes/preview', { definition: { name: 'x', moments: moments.slice(0, 900) } }),
    );
    holds();
  });

  it('from outside systems', async () => {
    const zones = Array.from({ length: 400_000 }, (_, i) => `BEGIN:VTIMEZONE\r\nTZID:Z${i}\r\nX-A:${'b'.repeat(30)}\r\nEND:VTIMEZONE\r\n`).join('');
    const events = Array.from({ length: 600 }, (_, i) => `BEGIN:VEVENT\r\nUID:f${i}\r\nDTSTART;TZID=Z${i}:20261201T090000\r\nEND:VEVENT\r\n`).join(
      '',
    );
    const feed = Buffer.from(`BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${zones}${events}END:VCALENDAR\r\n`);
    const connect = (slug: string, kind: string, settings: object, secrets: object = {}) =>
      client.connect({ slug, name: slug, kind, settings, secrets } as never);
    const inputs: Record<string, (() => Promise<void>) | string> = {
      async feed() {
        answers.set('GET', () => ({ headers: { 'content-type': 'text/calendar' }, body: feed }));
        await connect('hostile-feed', 'feed', { address: `${outsideAddress}/f.ics` });
        await through('feed that is read', `400,000 zones, ${Math.round(feed.length / 1e6)} MB`, () =>
          api('POST', '/systems/hostile-feed/check', {}),
        );
        const counted = '/counts?system=hostile-feed&calendar=%2F&step=month&from=2026-12-01&until=2026-12-31&zone=UTC';
        await through('feed that is read', 'its events are counted', () => api('GET', counted, null));
      },
      async caldav() {
        answers.set('*', () => ({
          status: 403,
          headers: { 'content-type': 'application/xml' },
          body: `<error xmlns="DAV:"><no-uid-conflict/>${'<href '.repeat(12_000)}`,
        }));
        answers.delete('GET');
        await connect('hostile-dav', 'caldav', { address: `${outsideAddress}/`, user: 'x' }, { password: 'x' });
        await through('calendar server', 'refusals of 60 kB', () => api('POST', '/systems/hostile-dav/check', {}));
        answers.set('PROPFIND', () => ({
          status: 207,
          headers: { 'content-type': 'application/xml' },
          body: `<multistatus xmlns="DAV:">${'<response><href>/x/</href><propstat><prop><a/></prop><status>HTTP/1.1 200 OK</status></propstat></response>'.repeat(60_000)}`,
        }));
        await through('calendar server', 'a list of 7 MB that breaks off', () => api('POST', '/systems/hostile-dav/check', {}));
      },
      async 'json-api'() {
        answers.clear();
        answers.set('*', () => ({ headers: { 'content-type': 'application/json' }, body: `${'['.repeat(200_000)}${']'.repeat(200_000)}` }));
        const collection = {
          label: 'Things',
          list: { path: '/things', items: '' },
          read: { path: '/things/{id}' },
          id: '/id',
          fields: [{ name: 'id', type: 'text', at: '/id' }],
        };
        await connect('hostile-api', 'json-api', { address: outsideAddress, descriptor: { collections: { things: collection } } }, { token: 'x' });
        await through('business application', 'nested 200,000 deep', () => api('POST', '/systems/hostile-api/check', {}));
      },
      csv: 'read in turns: files-and-tables.test.ts',
      postgresql: 'rows come in pages by a cursor: files-and-tables.test.ts',
      mail: 'each mail is read in a thread: mailbox.test.ts',
    };
    for (const kind of Object.keys(kinds)) {
      expect(inputs, 'what is the worst for this kind of system?').to.have.property(kind);
      const work = inputs[kind]!;
      if (typeof work !== 'string') await work();
    }
    holds();
  });
});
