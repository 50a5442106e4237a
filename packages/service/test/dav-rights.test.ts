import { expect } from 'chai';
import fc from 'fast-check';
import { calendar, event, propfind, query, sync, tokenIn, useDoor, xml } from '../../../test/support/dav-door.ts';
import type { Device } from '../../../test/support/hosted.ts';

describe('Who may what at the CalDAV door', () => {
  const door = useDoor('of-rights');

  it('lets no one do more than their right, with any method', async () => {
    const slug = door.home.split('/').at(-2)!;
    await door.put('open.ics', event('open', ['SUMMARY:Board meeting', 'LOCATION:Leeds', 'ATTENDEE:mailto:a@x.example']));
    await door.put('secret.ics', event('secret', ['CLASS:PRIVATE', 'SUMMARY:Doctor', 'DTSTART:20261202T090000Z', 'DTEND:20261202T100000Z']));
    await door.put('free.ics', event('free', ['TRANSP:TRANSPARENT', 'SUMMARY:Birthday']));
    const people = {
      nothing: await door.hosted.person('operator'),
      'busy only': await door.hosted.person('viewer'),
      read: await door.hosted.person('viewer'),
      'read and write': await door.hosted.person('operator'),
    };
    const rights = Object.entries(people).map(([may, p]) => ({ person: p.email, may: may as never }));
    await door.hosted.client.shareHostedCalendar(slug, rights);
    const allowedTo = async (device: Device) => {
      const names = [...(await device.dav('PROPFIND', door.home, { ...xml, depth: '1' })).text.matchAll(/<D:href>([^<]*\.ics)</g)].map((m) => m[1]!);
      // Who does not see everything finds objects by other names.
      const there: Record<string, string> = {};
      for (const href of names) there[/SUMMARY:(\S+)/.exec((await device.dav('GET', href)).text)?.[1] ?? ''] = href;
      const [open, secret] = [there['Board'] ?? names[0] ?? `${door.home}open.ics`, there['Doctor'] ?? there['Busy'] ?? `${door.home}secret.ics`];
      const done: Record<string, number> = {};
      const ask = async (name: string, method: string, path: string, headers: Record<string, string> = {}, body?: string) => {
        const answer = await device.dav(method, path, headers, body);
        done[name] = answer.status;
        return answer.text;
      };
      const texts = [
        await ask('get', 'GET', open),
        await ask('get private', 'GET', secret),
        await ask('list', 'PROPFIND', door.home, { ...xml, depth: '1' }),
        await ask('query', 'REPORT', door.home, { ...xml, depth: '1' }, query('<C:comp-filter name="VEVENT"/>')),
        await ask(
          'sync',
          'REPORT',
          door.home,
          { ...xml, depth: '0' },
          sync('').replace('<getetag/>', '<getetag/><calendar-data xmlns="urn:ietf:params:xml:ns:caldav"/>'),
        ),
        await ask('put', 'PUT', `${door.home}new.ics`, calendar, event('new')),
        await ask('put broken', 'PUT', `${door.home}broken.ics`, { 'content-type': 'text/html' }, 'BEGIN:VCALENDAR'),
        await ask('change', 'PUT', `${door.home}open.ics`, calendar, event('open')),
        await ask('delete', 'DELETE', `${door.home}new.ics`),
        await ask(
          'proppatch',
          'PROPPATCH',
          door.home,
          xml,
          '<propertyupdate xmlns="DAV:"><set><prop><displayname>Mine</displayname></prop></set></propertyupdate>',
        ),
        await ask('delete all', 'DELETE', door.home),
        await ask('copy out', 'COPY', secret, { destination: new URL('/dav/calendars/elsewhere/x.ics', door.hosted.address).href }),
      ];
      return { done, text: texts.join('\n'), names };
    };
    const none = await allowedTo(people.nothing);
    expect(Object.values(none.done).every((s) => s === 404 || s === 409)).to.equal(true, JSON.stringify(none.done));
    const busy = await allowedTo(people['busy only']);
    expect(busy.done).to.include({ get: 200, 'get private': 200, put: 403, change: 403, delete: 403, proppatch: 403, 'delete all': 403 });
    for (const word of ['Board', 'Leeds', 'x.example', 'Doctor', 'Birthday', 'free.ics']) expect(busy.text).to.not.contain(word);
    for (const { names } of [busy, await allowedTo(people.read)]) expect(names.join()).to.not.match(/open|secret|free/);
    const read = await allowedTo(people.read);
    expect(read.done).to.include({ get: 200, put: 403, change: 403, delete: 403, proppatch: 403, 'delete all': 403 });
    expect(read.text).to.contain('Board meeting').and.contain('Birthday').and.not.contain('Doctor');
    // Who may not write hears that, whatever they sent.
    for (const { text } of [none, busy, read]) expect(text).to.not.contain('supported-calendar-data');
    expect(read.text).to.contain('need-privileges');
    const write = await allowedTo(people['read and write']);
    expect(write.done).to.include({ get: 200, put: 201, change: 204, delete: 204, proppatch: 403, 'delete all': 403 });
    expect(write.text).to.contain('Doctor').and.contain('supported-calendar-data');
    // A program that may only look can see so.
    const privileges = async (d: Device) => (await d.dav('PROPFIND', door.home, { ...xml, depth: '0' }, propfind('current-user-privilege-set'))).text;
    expect(await privileges(people.read)).to.not.match(/<D:(write|write-content|bind)\/>/);
    expect(await privileges(people['read and write'])).to.contain('<D:write-content/>');
    // Wrong credentials, and those of a person who is gone.
    expect((await fetch(new URL(door.home, door.hosted.address), { method: 'PROPFIND' })).status).to.equal(401);
    await door.hosted.client.changePerson(people.read.email, { disabled: true });
    expect((await people.read.dav('GET', `${door.home}open.ics`)).status).to.equal(401);
    expect((await door.ines.dav('GET', door.home)).status).to.equal(405);
  });

  it('names nothing to a reader that they never saw, and what went out of their sight once', async () => {
    const slug = door.home.split('/').at(-2)!;
    const reader = await door.hosted.person('viewer');
    await door.hosted.client.shareHostedCalendar(slug, [{ person: reader.email, may: 'read' }]);
    const hidden = ['CLASS:X-SECRET', 'TRANSP:TRANSPARENT', 'SUMMARY:Clinic'];
    await door.put('clinic-visit.ics', event('clinic-visit', hidden));
    await door.put('open.ics', event('open', ['SUMMARY:Rehearsal']));
    const look = async (token: string) => (await reader.dav('REPORT', door.home, { ...xml, depth: '0' }, sync(token))).text;
    const first = await look('');
    expect(first.match(/<D:response>/g)).to.have.length(1);
    await door.put('clinic-visit.ics', event('clinic-visit', [...hidden, 'LOCATION:Leeds']));
    await door.ines.dav('DELETE', `${door.home}clinic-visit.ics`);
    await door.put('open.ics', event('open', ['SUMMARY:Rehearsal', 'LOCATION:Hall']));
    const second = await look(tokenIn(first));
    expect(second.match(/<D:response>/g), second).to.have.length(1);
    await door.put('open.ics', event('open', hidden));
    const third = await look(tokenIn(second));
    expect(third).to.contain('404').and.not.contain('200 OK');
    for (const text of [first, second, third]) expect(text).to.not.match(/clinic-visit|open\.ics|Clinic/);
    // ETags say nothing of the text, and nothing says when it was changed.
    const [href] = [...first.matchAll(/<D:href>([^<]*\.ics)</g)].map((m) => m[1]!);
    const got = await reader.dav('PROPFIND', href!, { ...xml, depth: '0' }, propfind('getlastmodified', 'getetag'));
    expect(got.status).to.equal(404);
    expect(/<D:getetag>([^<]*)</.exec(first)![1]).to.match(/^&#34;[A-Za-z0-9_-]{22}&#34;$/);
  });

  it('stands 2,000 random requests: no failure inside, nothing of a calendar that is not theirs', async () => {
    const stranger = await door.hosted.person('operator');
    await door.put('hidden.ics', event('hidden', ['SUMMARY:For the workshop alone']));
    const name = fc.constantFrom('hidden.ics', 'a.ics', '%00.ics', '%', '..%2f..', 'é.ics', 'a/b.ics', '', '%E0%A4%A.ics', 'x'.repeat(300));
    const path = fc.oneof(
      name.map((n) => door.home + n),
      fc.constantFrom('/dav/', '/dav/people/', '/dav/people/x/', '/dav/calendars/', '/dav/calendars/%2e%2e/', '/dav//', '/dav/calendars/a/b/c/'),
    );
    const piece = fc.constantFrom(
      '<C:filter>',
      '</C:filter>',
      '<D:prop>',
      '</D:prop>',
      '<C:comp-filter name="VCALENDAR">',
      '</C:comp-filter>',
      '<D:sync-token>urn:monsoon:sync::all:1</D:sync-token>',
      '<D:href>../../x</D:href>',
      '<!DOCTYPE a [<!ENTITY b "c">]>',
      '&b;',
      '<C:time-range start="1"/>',
      '<C:time-range start="20260101T000000Z" end="20270101T000000Z"/>',
      '<C:comp-filter name="VALARM"><C:time-range start="20260101T000000Z"/></C:comp-filter>',
      '<C:limit-recurrence-set start="20260101T000000Z" end="20270101T000000Z"/>',
      '\u0001',
      'BEGIN:VCALENDAR\r\n',
      'RRULE:FREQ=SECONDLY;BYSETPOS=-1\r\n',
      'DTSTART:99999999T999999Z\r\n',
      'END:VEVENT\r\n',
      'BEGIN:VEVENT\r\n',
      'UID:x\r\n',
    );
    const root = fc.constantFrom(
      'D:propfind',
      'C:calendar-query',
      'C:calendar-multiget',
      'D:sync-collection',
      'C:free-busy-query',
      'D:propertyupdate',
      'C:mkcalendar',
    );
    const body = fc.oneof(
      fc.string({ unit: 'binary', maxLength: 60 }),
      fc
        .tuple(root, fc.array(piece, { maxLength: 8 }))
        .map(([r, p]) => `<${r} xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav">${p.join('')}</${r}>`),
      fc.array(piece, { maxLength: 12 }).map((p) => p.join('')),
    );
    const headers = fc.record(
      {
        depth: fc.constantFrom('0', '1', 'infinity', '-1', 'x'),
        'if-match': fc.constantFrom('*', '"', '"x", "y"', 'W/"z"'),
        'if-none-match': fc.constantFrom('*', '"x"'),
        destination: fc.constantFrom('/dav/calendars/x/y.ics', 'http://[', door.home),
        overwrite: fc.constantFrom('F', 'T', 'maybe'),
      },
      { requiredKeys: [] },
    );
    const methods = ['GET', 'PUT', 'DELETE', 'PROPFIND', 'PROPPATCH', 'REPORT', 'COPY', 'MOVE', 'MKCALENDAR', 'MKCOL', 'LOCK', 'ACL', 'POST'];
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...methods), path, headers, body, async (method, at, extra, text) => {
        if (method === 'DELETE' && at === door.home) return;
        const answer = await stranger.dav(
          method,
          at,
          { ...xml, ...extra } as Record<string, string>,
          ['GET', 'HEAD'].includes(method) ? undefined : text,
        );
        if (answer.status >= 500 && answer.status !== 502 && answer.status !== 507)
          throw new Error(`${method} ${at}: ${answer.status} ${answer.text}`);
        if (answer.text.includes('For the workshop alone')) throw new Error(`${method} ${at} reveals too much`);
      }),
      { numRuns: Number(process.env['MONSOON_FUZZ'] ?? 2000) },
    );
    expect((await door.ines.dav('GET', `${door.home}hidden.ics`)).text).to.contain('For the workshop alone');
  });
});
