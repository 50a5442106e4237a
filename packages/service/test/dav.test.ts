import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { expect } from 'chai';
import { calendar, event, propfind, query, sync, tokenIn, useDoor, xml } from '../../../test/support/dav-door.ts';

const run = promisify(execFile);

describe('The CalDAV door', () => {
  const door = useDoor('of-test');

  it('is found from the bare address, from the well-known one and from its own', async () => {
    const known = await door.ines.dav('PROPFIND', '/.well-known/caldav', { depth: '0' });
    expect([known.status, known.headers.get('location')]).to.deep.equal([301, '/dav/']);
    for (const start of ['/', '/dav/', '/dav']) {
      const { text } = await door.ines.dav('PROPFIND', start, { ...xml, depth: '0' }, propfind('current-user-principal'));
      const principal = /principal><D:href>([^<]+)</.exec(text)?.[1] ?? '';
      const { text: person } = await door.ines.dav('PROPFIND', principal, { ...xml, depth: '0' }, propfind('C:calendar-home-set', 'displayname'));
      expect(person).to.contain('<D:href>/dav/calendars/</D:href>');
      expect(person).to.contain('Somebody administrator');
    }
    const { text } = await door.ines.dav(
      'PROPFIND',
      '/dav/calendars/',
      { ...xml, depth: '1' },
      propfind('resourcetype', 'C:supported-calendar-component-set'),
    );
    expect(text).to.contain(`<D:href>${door.home}</D:href>`);
    const options = await fetch(new URL(door.home, door.hosted.address), { method: 'OPTIONS' });
    expect([options.status, options.headers.get('dav')]).to.deep.equal([200, '1, 3, access-control, calendar-access']);
  });

  it('gives a stored text back octet for octet, by GET and in XML', async () => {
    // A byte order mark, a long line that is not folded, bare line feeds, spaces at ends, letters of four octets.
    const texts = [
      event('octets', ['DESCRIPTION:a 🎹 <b> & "c" \\, d  ', `X-LONG:${'é'.repeat(300)}`, 'X-TAB:a\tb']),
      event('bare').replaceAll('\r\n', '\n'),
      `\ufeff${event('marked')}`.replace('\ufeff', ''),
    ];
    for (const [i, text] of texts.entries()) {
      const { status, headers } = await door.put(`octets-${i}.ics`, text);
      expect(status).to.equal(201);
      const got = await fetch(new URL(`${door.home}octets-${i}.ics`, door.hosted.address), {
        headers: { authorization: `Basic ${Buffer.from(`${door.ines.email}:${door.ines.password}`).toString('base64')}` },
      });
      expect(Buffer.from(await got.arrayBuffer()).equals(Buffer.from(text))).to.equal(true);
      expect(got.headers.get('etag')).to.equal(headers.get('etag'));
      const body = `<C:calendar-multiget xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><D:prop><C:calendar-data/></D:prop><D:href>${door.home}octets-${i}.ics</D:href></C:calendar-multiget>`;
      const { text: answer } = await door.ines.dav('REPORT', door.home, { ...xml, depth: '1' }, body);
      const data = /calendar-data>([\s\S]*)<\/C:calendar-data/.exec(answer)![1]!;
      expect(data.replace(/&#(\d+);/g, (_m, c: string) => String.fromCharCode(Number(c)))).to.equal(text);
    }
  });

  it('names the precondition that a text violates, and why', async () => {
    const bad: [string, string | Buffer, RegExp, number][] = [
      ['no-calendar', 'BEGIN:VEVENT\r\nEND:VEVENT\r\n', /valid-calendar-data/, 403],
      ['control', event('c', ['X-A:\u0007']), /valid-calendar-data.*U\+0007/s, 403],
      ['latin', Buffer.from('BEGIN:VCALENDAR\r\nSUMMARY:\xe9', 'latin1'), /valid-calendar-data.*UTF-8/s, 403],
      ['method', event('m').replace('VERSION:2.0', 'VERSION:2.0\r\nMETHOD:REQUEST'), /valid-calendar-object-resource.*METHOD/s, 403],
      [
        'two',
        event('a').replace('END:VCALENDAR', `${event('b').split('\r\n').slice(3, -2).join('\r\n')}\r\nEND:VCALENDAR`),
        /valid-calendar-object-resource.*different UIDs/s,
        403,
      ],
      ['journal', event('j').replaceAll('VEVENT', 'VJOURNAL'), /supported-calendar-component/, 403],
      [
        'task',
        event('t')
          .replaceAll('VEVENT', 'VTODO')
          .replace(/DTEND.*\r\n/, ''),
        /supported-calendar-component.*holds events/s,
        403,
      ],
      ['rule', event('r', ['RRULE:FREQ=FORTNIGHTLY']), /valid-calendar-data.*FORTNIGHTLY/s, 403],
      ['backwards', event('e', ['DTSTART:20261201T100000Z', 'DTEND:20261201T090000Z']), /valid-calendar-data.*before it starts/s, 403],
      ['large', event('l', [`X-BIG:${'x'.repeat(1_000_001)}`]), /max-resource-size/, 403],
      ['huge', 'x'.repeat(3_000_000), /max-resource-size/, 403],
      [
        'guests',
        event(
          'g',
          Array.from({ length: 2001 }, (_, i) => `ATTENDEE:mailto:g${i}@x.example`),
        ),
        /max-attendees-per-instance/,
        403,
      ],
    ];
    for (const [name, text, expected, status] of bad) {
      const answer = await door.ines.dav('PUT', `${door.home}${name}.ics`, calendar, text);
      expect([name, answer.status]).to.deep.equal([name, status]);
      expect(answer.text).to.match(expected);
      expect((await door.ines.dav('GET', `${door.home}${name}.ics`)).status).to.equal(404);
    }
    expect((await door.ines.dav('PUT', `${door.home}html.ics`, { 'content-type': 'text/html' }, event('h'))).text).to.contain(
      'supported-calendar-data',
    );
    await door.put('one.ics', event('same'));
    const twice = await door.put('two.ics', event('same'));
    expect([twice.status, twice.text]).to.deep.equal([409, twice.text]);
    expect(twice.text).to.contain(`<C:no-uid-conflict><D:href>${door.home}one.ics</D:href>`);
    expect((await door.put('one.ics', event('other'))).text).to.contain('no-uid-conflict');
  });

  it('writes only what is as it was seen, and lets one of many win', async () => {
    const first = await door.put('a.ics', event('a'), { 'if-none-match': '*' });
    expect(first.status).to.equal(201);
    expect((await door.put('a.ics', event('a'), { 'if-none-match': '*' })).status).to.equal(412);
    const etag = first.headers.get('etag')!;
    const all = await Promise.all(
      Array.from({ length: 16 }, (_, i) => door.put('a.ics', event('a', [`SUMMARY:Version ${i}`]), { 'if-match': etag })),
    );
    expect(all.filter((a) => a.status === 204)).to.have.length(1);
    expect(all.filter((a) => a.status === 412)).to.have.length(15);
    expect(
      (await door.put('a.ics', event('a'), { 'if-match': `"nothing", ${all.find((a) => a.status === 204)!.headers.get('etag')}` })).status,
    ).to.equal(204);
    expect((await door.put('b.ics', event('b'), { 'if-match': '*' })).status).to.equal(412);
    expect((await door.ines.dav('DELETE', `${door.home}a.ics`, { 'if-match': etag })).status).to.equal(412);
    expect((await door.ines.dav('DELETE', `${door.home}a.ics`)).status).to.equal(204);
    expect((await door.ines.dav('DELETE', `${door.home}a.ics`)).status).to.equal(404);
    const made = await Promise.all(Array.from({ length: 16 }, (_, i) => door.put(`c${i}.ics`, event('c'))));
    expect(made.filter((a) => a.status === 201)).to.have.length(1);
  });

  it('reports what changed since a token, deletions too, in pages where asked, and refuses tokens that are of no use', async () => {
    for (let i = 0; i < 5; i++) await door.put(`${i}.ics`, event(`s${i}`));
    const whole = await door.ines.dav('REPORT', door.home, { ...xml, depth: '0' }, sync(''));
    expect(whole.text.match(/<D:response>/g)).to.have.length(5);
    const token = tokenIn(whole.text);
    const quiet = await door.ines.dav('REPORT', door.home, { ...xml, depth: '0' }, sync(token));
    expect([quiet.text.includes('<D:response>'), tokenIn(quiet.text)]).to.deep.equal([false, token]);
    await door.put('1.ics', event('s1', ['SUMMARY:Changed']));
    await door.ines.dav('DELETE', `${door.home}2.ics`);
    const news = (await door.ines.dav('REPORT', door.home, { ...xml, depth: '0' }, sync(token))).text;
    expect(news).to.match(/1\.ics<\/D:href><D:propstat>/);
    expect(news).to.match(/2\.ics<\/D:href><D:status>HTTP\/1\.1 404/);
    const seen = new Set<string>();
    let at = '';
    for (let pages = 0; pages < 10; pages++) {
      const { text } = await door.ines.dav('REPORT', door.home, { ...xml, depth: '0' }, sync(at, '<limit><nresults>2</nresults></limit>'));
      for (const [, name] of text.matchAll(/(\d)\.ics<\/D:href><D:propstat>/g)) seen.add(name!);
      at = tokenIn(text);
      if (!text.includes('507')) break;
    }
    expect([...seen].sort()).to.deep.equal(['0', '1', '3', '4']);
    for (const useless of ['urn:monsoon:sync:x:all:1', 'http://elsewhere.example/1', token.replace(/\d+$/, '99999')]) {
      const refused = await door.ines.dav('REPORT', door.home, { ...xml, depth: '0' }, sync(useless));
      expect([refused.status, refused.text.includes('<D:valid-sync-token/>')]).to.deep.equal([403, true]);
    }
    // Deletions are not remembered for ever: a program that knows less has to read everything.
    await door.hosted.app.pool.query(`update hosted_objects set changed_at = now() - interval '1 year' where text is null`);
    const { forgetDeletions } = await import('../src/hosted/objects.ts');
    await forgetDeletions(door.hosted.app.pool, 60);
    expect((await door.ines.dav('REPORT', door.home, { ...xml, depth: '0' }, sync(token))).status).to.equal(403);
  });

  it('finds events by time with all their occurrences, by text, and expands them', async () => {
    await door.put(
      'weekly.ics',
      event('weekly', ['DTSTART;TZID=Europe/London:20260107T180000', 'DURATION:PT1H', 'RRULE:FREQ=WEEKLY', 'SUMMARY:Choir']),
    );
    await door.put('day.ics', event('day', ['DTSTART;VALUE=DATE:20261224', 'SUMMARY:Closed']));
    await door.put('once.ics', event('once', ['SUMMARY:Señor Wren']));
    const found = async (filter: string) =>
      [...(await door.ines.dav('REPORT', door.home, { ...xml, depth: '1' }, query(filter))).text.matchAll(/([a-z]+)\.ics</g)]
        .map((m) => m[1]!)
        .sort();
    const at = (start: string, end: string) => `<C:comp-filter name="VEVENT"><C:time-range start="${start}" end="${end}"/></C:comp-filter>`;
    expect(await found(at('20280105T000000Z', '20280106T000000Z'))).to.deep.equal(['weekly']);
    expect(await found(at('20280106T000000Z', '20280107T000000Z'))).to.deep.equal([]);
    expect(await found(at('20261224T120000Z', '20261224T130000Z'))).to.deep.equal(['day']);
    expect(await found(at('20261201T093000Z', '20261201T094000Z'))).to.deep.equal(['once']);
    const text = (match: string) => `<C:comp-filter name="VEVENT"><C:prop-filter name="SUMMARY">${match}</C:prop-filter></C:comp-filter>`;
    expect(await found(text('<C:text-match>SEÑOR</C:text-match>'))).to.deep.equal([]);
    expect(await found(text('<C:text-match>WREN</C:text-match>'))).to.deep.equal(['once']);
    expect(await found(text('<C:text-match collation="i;octet">WREN</C:text-match>'))).to.deep.equal([]);
    expect(await found('<C:comp-filter name="VEVENT"><C:prop-filter name="RRULE"><C:is-not-defined/></C:prop-filter></C:comp-filter>')).to.deep.equal(
      ['day', 'once'],
    );
    expect(await found('<C:comp-filter name="VTODO"/>')).to.deep.equal([]);
    const expanded = await door.ines.dav(
      'REPORT',
      door.home,
      { ...xml, depth: '1' },
      query(
        at('20260701T000000Z', '20260715T000000Z'),
        '<C:calendar-data><C:expand start="20260701T000000Z" end="20260715T000000Z"/></C:calendar-data>',
      ),
    );
    expect(expanded.text.match(/DTSTART:202607(01|08)T170000Z/g)).to.have.length(2);
    expect(expanded.text).to.contain('RECURRENCE-ID:20260701T170000Z').and.not.contain('RRULE');
    await door.put('alarmed.ics', event('alarmed', ['SUMMARY:Doors', 'BEGIN:VALARM', 'ACTION:DISPLAY', 'TRIGGER:-PT30M', 'END:VALARM']));
    const alarmAt = (start: string, end: string) =>
      `<C:comp-filter name="VEVENT"><C:comp-filter name="VALARM"><C:time-range start="${start}" end="${end}"/></C:comp-filter></C:comp-filter>`;
    expect(await found(alarmAt('20261201T083000Z', '20261201T084500Z'))).to.deep.equal(['alarmed']);
    expect(await found(alarmAt('20261201T090000Z', '20261201T094500Z'))).to.deep.equal([]);
    const startsAt = (start: string, end: string) =>
      `<C:comp-filter name="VEVENT"><C:prop-filter name="DTSTART"><C:time-range start="${start}" end="${end}"/></C:prop-filter></C:comp-filter>`;
    expect(await found(startsAt('20261224T000000Z', '20261225T000000Z'))).to.deep.equal(['day']);
    await door.ines.dav('DELETE', `${door.home}alarmed.ics`);
    const own = (id: string, start: string) => [
      'BEGIN:VEVENT',
      'UID:moved',
      'DTSTAMP:20260101T000000Z',
      `RECURRENCE-ID:${id}`,
      `DTSTART:${start}`,
      'END:VEVENT',
    ];
    const moved = event('moved', ['DTSTART:20290103T180000Z', 'DURATION:PT1H', 'RRULE:FREQ=WEEKLY;COUNT=9']).replace(
      'END:VCALENDAR',
      [...own('20290110T180000Z', '20290111T080000Z'), ...own('20290207T180000Z', '20290208T080000Z'), 'END:VCALENDAR'].join('\r\n'),
    );
    await door.put('moved.ics', moved);
    const limited = await door.ines.dav(
      'REPORT',
      door.home,
      { ...xml, depth: '1' },
      query(
        at('20290110T000000Z', '20290112T000000Z'),
        '<C:calendar-data><C:limit-recurrence-set start="20290110T000000Z" end="20290112T000000Z"/></C:calendar-data>',
      ),
    );
    expect(limited.text).to.contain('RRULE').and.contain('RECURRENCE-ID:20290110T180000Z').and.not.contain('20290207');
    await door.ines.dav('DELETE', `${door.home}moved.ics`);
    const parts =
      '<C:calendar-data><C:comp name="VCALENDAR"><C:prop name="VERSION"/><C:comp name="VEVENT"><C:prop name="UID"/><C:prop name="SUMMARY" novalue="yes"/></C:comp></C:comp></C:calendar-data>';
    const some = await door.ines.dav('REPORT', door.home, { ...xml, depth: '1' }, query(at('20261201T093000Z', '20261201T094000Z'), parts));
    expect(some.text.replace(/&#13;\n/g, '|')).to.contain('BEGIN:VCALENDAR|VERSION:2.0|BEGIN:VEVENT|UID:once|SUMMARY:|END:VEVENT|END:VCALENDAR|');
    for (const [wrong, condition] of [
      ['<C:comp-filter name="VEVENT"><C:time-range start="yesterday"/></C:comp-filter>', 'valid-filter'],
      ['<C:comp-filter name="VALARM"><C:time-range start="20260101T000000Z"/></C:comp-filter>', 'supported-filter'],
      [text('<C:time-range start="20260101T000000Z"/>'), 'supported-filter'],
      [text('<C:text-match collation="i;klingon">x</C:text-match>'), 'supported-collation'],
    ] as const)
      expect((await door.ines.dav('REPORT', door.home, { ...xml, depth: '1' }, query(wrong))).text).to.contain(condition);
    const busy = `<C:free-busy-query xmlns:C="urn:ietf:params:xml:ns:caldav"><C:time-range start="20261201T000000Z" end="20261203T000000Z"/></C:free-busy-query>`;
    const free = await door.ines.dav('REPORT', door.home, { ...xml, depth: '1' }, busy);
    expect(free.text)
      .to.contain('FREEBUSY;FBTYPE=BUSY:20261201T090000Z/20261201T100000Z')
      .and.contain('FREEBUSY;FBTYPE=BUSY:20261202T180000Z/20261202T190000Z');
    expect(free.text).to.not.contain('Wren');
  });

  it('makes calendars and task lists with name, colour and what programs keep for themselves', async () => {
    const made = `/dav/calendars/kept-${door.number}/`;
    const body = `<C:mkcalendar xmlns="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav" xmlns:A="http://apple.com/ns/ical/"><set><prop><displayname>Hall &amp; stage</displayname><A:calendar-color>#FF0000FF</A:calendar-color><A:calendar-order>7</A:calendar-order><C:supported-calendar-component-set><C:comp name="VTODO"/></C:supported-calendar-component-set></prop></set></C:mkcalendar>`;
    expect((await door.ines.dav('MKCALENDAR', made, xml, body)).status).to.equal(201);
    const ask = () =>
      door.ines.dav(
        'PROPFIND',
        made,
        { ...xml, depth: '0' },
        propfind('displayname', 'A:calendar-color', 'A:calendar-order', 'C:supported-calendar-component-set'),
      );
    const { text } = await ask();
    expect(text)
      .to.contain('Hall &#38; stage')
      .and.contain('#ff0000')
      .and.contain('<A:calendar-order>7</A:calendar-order>')
      .and.contain('name="VTODO"');
    const again = await door.ines.dav('MKCALENDAR', made, xml, body);
    expect([again.status, again.text.includes('resource-must-be-null')]).to.deep.equal([405, true]);
    const patch = (inner: string) =>
      door.ines.dav('PROPPATCH', made, xml, `<propertyupdate xmlns="DAV:" xmlns:A="http://apple.com/ns/ical/">${inner}</propertyupdate>`);
    // All or nothing.
    const mixed = await patch('<set><prop><displayname>Other</displayname><getetag>x</getetag></prop></set>');
    expect(mixed.text).to.contain('cannot-modify-protected-property').and.contain('424');
    expect((await ask()).text).to.contain('Hall');
    await patch('<set><prop><displayname>Other</displayname></prop></set><remove><prop><A:calendar-order/></prop></remove>');
    expect((await ask()).text)
      .to.contain('Other')
      .and.not.contain('>7<');
    expect((await door.ines.dav('DELETE', made)).status).to.equal(204);
    expect((await door.ines.dav('PROPFIND', made, { depth: '0' })).status).to.equal(404);
  });

  it('moves an event to another calendar, and never loses it', async () => {
    const other = `/dav/calendars/other-${door.number}/`;
    await door.ines.dav('MKCALENDAR', other);
    await door.put('m.ics', event('moved'));
    const to = (path: string) => ({ destination: new URL(path, door.hosted.address).href });
    expect((await door.ines.dav('MOVE', `${door.home}m.ics`, to(`${other}m.ics`))).status).to.equal(201);
    expect([(await door.ines.dav('GET', `${door.home}m.ics`)).status, (await door.ines.dav('GET', `${other}m.ics`)).status]).to.deep.equal([
      404, 200,
    ]);
    expect((await door.ines.dav('MOVE', `${other}m.ics`, to(`${other}n.ics`))).status).to.equal(201);
    await door.put('x.ics', event('in-the-way'));
    expect((await door.ines.dav('COPY', `${other}n.ics`, { ...to(`${door.home}x.ics`), overwrite: 'F' })).status).to.equal(412);
    expect((await door.ines.dav('MOVE', `${other}n.ics`, { destination: 'http://elsewhere.example/dav/calendars/a/b.ics' })).status).to.equal(502);
    expect((await door.ines.dav('GET', `${other}n.ics`)).status).to.equal(200);
  });

  it('takes what programs write though it is odd, and honours every condition of theirs', async () => {
    // A byte order mark, and an attachment that stands in the text on one line.
    expect((await door.put('bom.ics', `\uFEFF${event('bom')}`)).status).to.equal(201);
    const attached = event('attached', [`ATTACH;ENCODING=BASE64;VALUE=BINARY:${'QUJD'.repeat(100_000)}`]);
    expect((await door.put('attached.ics', attached)).status).to.equal(201);
    expect((await door.ines.dav('GET', `${door.home}attached.ics`)).text).to.equal(attached);
    const listed = await door.ines.dav('PROPFIND', `${door.home}attached.ics`, { ...xml, depth: '0' }, propfind('getcontentlength'));
    expect(listed.text).to.contain(`<D:getcontentlength>${attached.length}</D:getcontentlength>`);
    // RFC 9110, 13.1.3 and 13.1.4.
    const at = `${door.home}bom.ics`;
    const modified = (await door.ines.dav('GET', at)).headers.get('last-modified')!;
    expect((await door.ines.dav('GET', at, { 'if-modified-since': modified })).status).to.equal(304);
    const early = new Date(Date.parse(modified) - 5000).toUTCString();
    expect((await door.put('bom.ics', event('bom'), { 'if-unmodified-since': early })).status).to.equal(412);
    expect((await door.put('bom.ics', event('bom'), { 'if-unmodified-since': modified })).status).to.equal(204);
    // Half a number is none.
    const half = sync('').replace('<prop>', '<limit><nresults>2.5</nresults></limit><prop>');
    expect((await door.ines.dav('REPORT', door.home, { ...xml, depth: '0' }, half)).status).to.equal(400);
  });

  it('serves a client that others wrote', async () => {
    const script = `
import caldav, sys, datetime
client = caldav.DAVClient(url=sys.argv[1], username=sys.argv[2], password=sys.argv[3])
me = client.principal()
made = me.make_calendar(name='Workshop')
event = made.save_event("""${event('py-1', ['SUMMARY:Voicing', 'DTSTART:20261203T090000Z', 'DTEND:20261203T110000Z']).replaceAll('\r\n', '\n')}""")
event.data = event.data.replace('Voicing', 'Voicing and tuning')
event.save()
found = made.date_search(start=datetime.datetime(2026,12,3), end=datetime.datetime(2026,12,4), expand=False)
assert len(found) == 1, found
assert 'Voicing and tuning' in found[0].data
assert made.event_by_uid('py-1').url == found[0].url
assert 'Workshop' in [c.name for c in me.calendars()]
objects = made.objects_by_sync_token(load_objects=True)
assert len(list(objects)) == 1
event.delete()
again = made.objects_by_sync_token(sync_token=objects.sync_token)
assert 'py-1' not in [getattr(o, 'id', None) for o in again if o.data]
assert len(made.events()) == 0
made.delete()
print('all well')
`;
    const { stdout } = await run('/usr/bin/python3', ['-c', script, door.hosted.address, door.ines.email, door.ines.password], { timeout: 60_000 });
    expect(stdout).to.contain('all well');
  });
});
