import { expect } from 'chai';
import ICAL from 'ical.js';
import { type Device, type HostedService, openHosted } from '../../../test/support/hosted.ts';
import { eventually } from '../../../test/support/servers.ts';
import { refreshFeed } from '../src/feeds/refresh.ts';

const object = (uid: string, ...parts: string[][]) =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Somebody//Else//EN',
    ...customZone,
    ...parts.flatMap((lines) => ['BEGIN:VEVENT', `UID:${uid}`, 'DTSTAMP:20261101T000000Z', ...lines, 'END:VEVENT']),
    'END:VCALENDAR',
    '',
  ].join('\r\n');
const customZone = [
  'BEGIN:VTIMEZONE',
  'TZID:SECRET Annas house',
  'X-SECRET-NOTE:zone',
  'BEGIN:STANDARD',
  'DTSTART:19700101T000000',
  'TZOFFSETFROM:+0130',
  'TZOFFSETTO:+0130',
  'TZNAME:SECRET',
  'END:STANDARD',
  'END:VTIMEZONE',
];
const soon = (days: number, hour = 9) =>
  `${new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10).replaceAll('-', '')}T${String(hour).padStart(2, '0')}0000`;

describe('A feed', () => {
  let hosted: HostedService;
  let ines: Device;
  let href: string;
  const put = (name: string, text: string) => ines.dav('PUT', `${href}${name}.ics`, { 'content-type': 'text/calendar' }, text);
  const fetched = async (address: string, headers: Record<string, string> = {}) => {
    const answer = await fetch(address, { headers: { 'accept-encoding': 'identity', ...headers } });
    return { status: answer.status, text: await answer.text(), headers: answer.headers };
  };
  before(async () => {
    hosted = await openHosted();
    ines = await hosted.person('administrator');
    ({ href } = await hosted.client.makeHostedCalendar({ name: 'Visits', slug: 'visits' }));
    await put(
      'visit',
      object('secret-uid@x.example', [
        `DTSTART:${soon(2)}Z`,
        `DTEND:${soon(2, 10)}Z`,
        'SUMMARY:SECRET Tuning at Wrens',
        'DESCRIPTION:SECRET',
        'LOCATION;ALTREP="http://SECRET.example":Leeds',
        'X-NOTE:SECRET',
        'ATTENDEE;CN=SECRET:mailto:secret@x.example',
        'CATEGORIES:SECRET',
        'X-MONSOON-PAIR:SECRET',
      ]),
    );
    await put(
      'series',
      object(
        'series',
        [
          `DTSTART;TZID=SECRET Annas house:${soon(3)}`,
          'DURATION:PT1H',
          'RRULE:FREQ=DAILY;COUNT=3',
          'SUMMARY:SECRET',
          'BEGIN:VALARM',
          'ACTION:DISPLAY',
          'DESCRIPTION:SECRET',
          'TRIGGER;X-A=SECRET:-PT15M',
          'END:VALARM',
        ],
        [
          `RECURRENCE-ID;TZID=SECRET Annas house:${soon(4)}`,
          `DTSTART;TZID=SECRET Annas house:${soon(4, 12)}`,
          'DURATION:PT1H',
          'SUMMARY:SECRET override',
          'COMMENT:SECRET',
        ],
        [
          `RECURRENCE-ID;TZID=SECRET Annas house:${soon(5)}`,
          `DTSTART;TZID=SECRET Annas house:${soon(5)}`,
          'STATUS:CANCELLED',
          'SUMMARY:SECRET cancelled',
        ],
      ),
    );
    await put('private', object('private', [`DTSTART:${soon(6)}Z`, `DTEND:${soon(6, 10)}Z`, 'CLASS:PRIVATE', 'SUMMARY:SECRET Doctor']));
    await put('free', object('free', [`DTSTART:${soon(7)}Z`, 'TRANSP:TRANSPARENT', 'SUMMARY:SECRET Birthday']));
    await put('old', object('old', ['DTSTART:20200101T090000Z', 'SUMMARY:SECRET Long ago']));
  });
  after(() => hosted.stop());

  it('shows no more than its settings, in no corner of the document', async () => {
    const feed = await hosted.client.makeFeed({ name: 'Busy', system: 'hosted', calendar: 'Visits', colour: '#12706d' });
    const { status, text, headers } = await fetched(feed.address!);
    expect([status, headers.get('content-type')]).to.deep.equal([200, 'text/calendar; charset=utf-8']);
    expect(text.replace(/\r\n /g, '')).to.not.match(/SECRET|secret|Wrens|Leeds|x\.example|Annas/);
    const read = new ICAL.Component(ICAL.parse(text));
    expect(read.getFirstPropertyValue('name')).to.equal('Busy');
    expect(text).to.contain('REFRESH-INTERVAL;VALUE=DURATION:PT60M').and.contain('COLOR:#12706d');
    const events = read.getAllSubcomponents('vevent');
    expect(events.map((e) => e.getFirstPropertyValue('summary'))).to.deep.equal(['Busy', 'Busy', 'Busy', 'Busy']);
    // The cancelled occurrence is excluded, the moved one is where it was moved to, and the zone keeps its clock.
    const master = events.find((e) => e.hasProperty('rrule'))!;
    expect(master.hasProperty('exdate')).to.equal(true);
    const zone = read.getFirstSubcomponent('vtimezone')!;
    expect(String(zone.getFirstPropertyValue('tzid'))).to.match(/^Zone-/);
    expect(zone.toString()).to.contain('+0130');
    expect(text).to.not.contain('VALARM');
  });

  it('shows chosen properties, or everything; private events as taken time even then', async () => {
    const chosen = await hosted.client.makeFeed({
      name: 'Chosen',
      system: 'hosted',
      calendar: 'Visits',
      shows: ['title', 'location'],
      alarms: true,
      window: null,
    });
    const some = (await fetched(chosen.address!)).text.replace(/\r\n /g, '');
    expect(some)
      .to.contain('SECRET Tuning at Wrens')
      .and.contain('LOCATION:Leeds')
      .and.contain('Long ago')
      .and.contain('TRIGGER:-PT15M')
      .and.contain('Birthday');
    expect(some).to.not.match(/Doctor|DESCRIPTION:SECRET|x\.example|X-NOTE|CATEGORIES|COMMENT|SECRET\.example|secret-uid|Annas/);
    const full = await hosted.client.changeFeed(chosen.slug, { shows: 'full' });
    const all = (await fetched(full.address!)).text.replace(/\r\n /g, '');
    expect(all)
      .to.contain('X-NOTE:SECRET')
      .and.contain('mailto:secret@x.example')
      .and.not.match(/Doctor|X-MONSOON|Annas/);
    const fitting = await hosted.client.changeFeed(chosen.slug, { condition: 'title contains "Wrens"' });
    expect(fitting.events).to.equal(1);
    const wrong = await hosted.client.changeFeed(chosen.slug, { condition: 'colour above 3' }).catch((e: Error) => e.message);
    expect(wrong).to.contain('/condition');
  });

  it('is well built whatever its calendar is, and the same as long as it says the same', async () => {
    const long = `DESCRIPTION:${'Voicing the treble. '.repeat(30)}`;
    const at = (n: number, more: string[]) => ['UID:rehearsals', ...more, `DTSTART:${soon(n)}Z`, `DTEND:${soon(n, 10)}Z`].join('\r\n');
    const text = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:x',
      `BEGIN:VEVENT\r\n${at(3, ['SUMMARY:Choir', long, 'RRULE:FREQ=DAILY;COUNT=3'])}\r\nEND:VEVENT`,
    ];
    const override = `BEGIN:VEVENT\r\n${at(4, [`RECURRENCE-ID:${soon(4)}Z`, 'CLASS:X-OWN', 'SUMMARY:SECRET-clinic'])}\r\nEND:VEVENT`;
    await put('rehearsals', [...text, override, 'END:VCALENDAR', ''].join('\r\n'));
    const feed = await hosted.client.makeFeed({ name: 'Built', system: 'hosted', calendar: 'Visits', shows: 'full' });
    const first = await fetched(feed.address!);
    for (const line of first.text.split('\r\n')) expect(Buffer.byteLength(line), line).to.be.at.most(75);
    const plain = first.text.replace(/\r\n /g, '');
    // A UID there makes widely used programs take the whole calendar for one event.
    expect(plain.slice(0, plain.indexOf('BEGIN:VEVENT'))).to.not.contain('UID:');
    expect(plain).to.not.contain('SECRET-clinic');
    // An override, private or not, goes with its series.
    expect(plain.match(/^UID:rehearsals$/gm)).to.have.length(2);
    // In a feed of taken time, UIDs say nothing, and what is not shown changes nothing.
    const busy = await hosted.client.makeFeed({ name: 'Busy times', system: 'hosted', calendar: 'Visits' });
    const before = await fetched(busy.address!);
    expect(before.text).to.not.contain('rehearsals').and.not.contain(busy.id);
    await put('rehearsals', [...text, override.replace('clinic', 'hospital'), 'END:VCALENDAR', ''].join('\r\n'));
    await new Promise((resolve) => setTimeout(resolve, 1100));
    const after = await fetched(busy.address!);
    expect(after.headers.get('etag')).to.equal(before.headers.get('etag'));
    expect(after.headers.get('last-modified')).to.equal(before.headers.get('last-modified'));
    expect((await fetched(busy.address!, { 'if-modified-since': before.headers.get('last-modified')! })).status).to.equal(304);
    await ines.dav('DELETE', `${href}rehearsals.ics`);
  });

  it('is built once, sent again only when it changed, and compressed', async () => {
    const { address } = await hosted.client.makeFeed({ name: 'Cached', system: 'hosted', calendar: 'Visits' });
    const first = await fetched(address!);
    const etag = first.headers.get('etag')!;
    expect((await fetched(address!, { 'if-none-match': etag })).status).to.equal(304);
    const packed = await fetch(address!, { headers: { 'accept-encoding': 'gzip' } });
    expect(packed.headers.get('content-encoding')).to.equal('gzip');
    expect(await packed.text()).to.equal(first.text);
    await put('fresh', object('fresh', [`DTSTART:${soon(9)}Z`, `DTEND:${soon(9, 10)}Z`]));
    const count = first.text.match(/BEGIN:VEVENT/g)!.length;
    // A look at a hosted calendar counts for a second.
    const shows = (expected: number) =>
      eventually(`the feed shows ${expected} events`, async () => {
        const now = await fetched(address!, { 'if-none-match': etag });
        return now.text.match(/BEGIN:VEVENT/g)?.length === expected && now;
      });
    await shows(count + 1);
    await ines.dav('DELETE', `${href}fresh.ics`);
    await eventually('the deleted event is gone', async () => (await fetched(address!)).text.match(/BEGIN:VEVENT/g)?.length === count);
    const [cached] = (await hosted.client.feeds()).items.filter((f) => f.name === 'Cached');
    expect(cached!.fetches).to.be.above(3);
    expect(cached!.askers).to.be.within(1, 2);
    expect(cached!.lastFetchedAt).to.be.a('string');
  });

  it('of a large calendar has the database analyze what has just been filled: it plans by that', async () => {
    const MANY = 1500;
    const { id } = await hosted.client.makeHostedCalendar({ name: 'Large', slug: 'large' });
    const { pool } = hosted.app;
    const event = object('UID', [`DTSTART:${soon(2)}Z`, `DTEND:${soon(2, 10)}Z`, 'SUMMARY:Tuning']);
    await pool.query(
      `insert into hosted_objects (calendar, name, uid, etag, text, component, revision)
        select $1, n || '.ics', 'large-' || n, '"' || n || '"', replace($2, 'UID:UID', 'UID:large-' || n), 'VEVENT', n from generate_series(1, $3::int) n`,
      [id, event, MANY],
    );
    await pool.query('update hosted_calendars set revision = $2 where id = $1', [id, MANY]);
    const { address } = await hosted.client.makeFeed({ name: 'Large', system: 'hosted', calendar: 'Large', shows: ['title'] });
    expect((await fetched(address!)).text.match(/^BEGIN:VEVENT/gm)).to.have.length(MANY);
    const known = await pool.query(`select reltuples::int as n from pg_class where relname = 'feed_objects'`);
    expect(known.rows[0].n).to.be.at.least(MANY);
    await pool.query('delete from hosted_objects where calendar = $1', [id]);
  });

  it('no longer shows what went away between a look that broke off and the next', async () => {
    const { href: broken } = await hosted.client.makeHostedCalendar({ name: 'Breaks off', slug: 'breaks-off' });
    const event = object('UID', [`DTSTART:${soon(2)}Z`, `DTEND:${soon(2, 10)}Z`, 'SUMMARY:Tuning']);
    const write = (name: string) =>
      ines.dav('PUT', `${broken}${name}.ics`, { 'content-type': 'text/calendar' }, event.replace('UID:UID', `UID:${name}`));
    for (const name of ['stays', 'goes']) await write(name);
    const { app } = hosted;
    const { slug, address } = await hosted.client.makeFeed({ name: 'Breaks off', system: 'hosted', calendar: 'Breaks off', shows: ['title'] });
    const feed = (await app.db.query.feeds.findFirst({ where: (f, { eq }) => eq(f.slug, slug) }))!;
    await app.pool.query('delete from feed_objects where feed = $1', [feed.id]);
    await app.pool.query('update feeds set cursor = null, looked_at = null, looks = 0 where id = $1', [feed.id]);
    // The line is cut before the calendar has listed everything.
    const there = app.systems.open((await app.db.query.systems.findFirst({ where: (s, { eq }) => eq(s.kind, 'hosted') }))!).calendars!;
    const calendars: Partial<typeof there> = {
      read: (...asked) => there.read(...asked),
      async *changes(...asked) {
        yield* there.changes(...asked);
        throw new Error('the line is cut');
      },
    };
    const breaking = { ...app, systems: { open: () => ({ calendars }) } } as unknown as typeof app;
    expect(await refreshFeed(breaking, feed.id).catch((error: Error) => error.message)).to.equal('the line is cut');
    const kept = await app.pool.query('select href from feed_objects where feed = $1', [feed.id]);
    expect(kept.rows, 'it took in what it saw').to.have.length(2);
    await ines.dav('DELETE', `${broken}goes.ics`);
    const { text } = await fetched(address!);
    expect(text.match(/^SUMMARY/gm)).to.have.length(1);
    // What such a look took in is shown, too: the next one finds nothing new.
    const renamed = event.replace('UID:UID', 'UID:stays').replace('SUMMARY:Tuning', 'SUMMARY:Voicing');
    await ines.dav('PUT', `${broken}stays.ics`, { 'content-type': 'text/calendar' }, renamed);
    expect(await refreshFeed(breaking, feed.id).catch((error: Error) => error.message)).to.equal('the line is cut');
    await eventually('the feed shows it', async () => (await fetched(address!)).text.includes('SUMMARY:Voicing'));
  });

  it('is unknown in a moment once it is revoked, renewed or over, like one that never was', async () => {
    const feed = await hosted.client.makeFeed({ name: 'Gone', system: 'hosted', calendar: 'Visits' });
    const unknown = await fetched(`${hosted.address}/feed/${'x'.repeat(43)}.ics`);
    const revoked = await hosted.client.revokeFeed(feed.slug);
    expect([revoked.address, revoked.revokedAt === null]).to.deep.equal([null, false]);
    const after = await fetched(feed.address!);
    expect([after.status, after.text]).to.deep.equal([404, unknown.text]);
    const headersOf = (h: Headers) =>
      [...h].filter(([n]) => !['date', 'etag'].includes(n) && !n.startsWith('ratelimit')).map(([n, v]) => `${n}: ${v}`);
    expect(headersOf(after.headers)).to.deep.equal(headersOf(unknown.headers));
    const renewed = await hosted.client.renewFeed(feed.slug);
    expect(renewed.address).to.not.equal(feed.address);
    expect([(await fetched(feed.address!)).status, (await fetched(renewed.address!)).status]).to.deep.equal([404, 200]);
    await hosted.app.pool.query(`update feeds set ends_at = now() - interval '1 second' where slug = $1`, [feed.slug]);
    expect((await fetched(renewed.address!)).status).to.equal(404);
    for (const wrong of ['/feed/', '/feed/a', '/feed/../api/v1/feeds', '/feed/%00.ics'])
      expect((await fetched(hosted.address + wrong)).status).to.be.oneOf([404, 401]);
    const past = await hosted.client
      .makeFeed({ name: 'Past', system: 'hosted', calendar: 'Visits', endsAt: '2020-01-01' })
      .catch((e: Error) => e.message);
    expect(past).to.contain('/endsAt').and.contain('2020-01-01');
    const nowhere = await hosted.client.makeFeed({ name: 'x', system: 'hosted', calendar: 'Nowhere' }).catch((e: Error) => e.message);
    expect(nowhere).to.contain('/calendar').and.contain('"Visits"');
  });

  it('is made by those alone who may give the calendar away', async () => {
    const refused = await hosted.client.makeFeed({ name: 'y' }).catch((e: Error) => e.message);
    expect(refused).to.contain('say a lane, or a system and a calendar');
    await hosted.client.addPerson({ email: 'bram@alder-wren.example', name: 'Bram', role: 'operator', password: 'another tuned password' });
    const signedIn = await fetch(`${hosted.address}/api/v1/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: hosted.address },
      body: JSON.stringify({ email: 'bram@alder-wren.example', password: 'another tuned password' }),
    });
    const headers = { 'content-type': 'application/json', origin: hosted.address, cookie: signedIn.headers.get('set-cookie')!.split(';')[0]! };
    const ask = async (method: string, path: string, body?: object) => {
      const given = await fetch(`${hosted.address}/api/v1${path}`, {
        method,
        headers,
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      return { status: given.status, text: await given.text() };
    };
    expect((await ask('PUT', '/session/password', { current: 'another tuned password', password: 'a password of his own' })).status).to.be.below(300);
    const theirs = await hosted.client.makeFeed({ name: 'Theirs', system: 'hosted', calendar: 'Visits' });
    const made = await ask('POST', '/feeds', { name: 'Mine', system: 'hosted', calendar: 'Visits' });
    // A calendar of which they may see nothing, and its feeds, are as good as not there.
    expect(made.status).to.equal(422);
    expect(made.text).to.contain('there is no calendar').and.not.contain('Theirs');
    for (const [method, path, body] of [
      ['PATCH', '', { name: 'Taken over' }],
      ['POST', '/renew', undefined],
      ['POST', '/revoke', undefined],
      ['POST', '/mail', { to: ['bram@alder-wren.example'] }],
      ['DELETE', '', undefined],
    ] as const)
      expect((await ask(method, `/feeds/${theirs.slug}${path}`, body)).status, `${method} ${path}`).to.equal(404);
    const seen = JSON.parse((await ask('GET', '/feeds')).text) as { items: { name: string }[] };
    expect(seen.items.map((f) => f.name)).to.not.include('Theirs');
    expect((await fetched(theirs.address!)).status).to.equal(200);
    // On a calendar of his own he makes feeds.
    const own = await ask('POST', '/hosted-calendars', { name: 'Workshop days' });
    expect(own.status).to.equal(201);
    expect((await ask('POST', '/feeds', { name: 'Workshop', system: 'hosted', calendar: 'Workshop days' })).status).to.equal(201);
  });
});
