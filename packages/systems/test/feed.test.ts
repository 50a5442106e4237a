import { gzipSync } from 'node:zlib';
import { loadZones } from '@monsoon/service';
import { kinds, type OpenSystem, OutsideError, wholeChanges } from '@monsoon/systems';
import { expect } from 'chai';
import { type Answerer, type Misbehaving, misbehaving } from '../../../test/support/misbehaving.ts';
import { durationSeconds, FeedSplitter, feedLimits } from '../src/feed/split.ts';

const signal = new AbortController().signal;
const options = { addresses: { allowed: ['127.0.0.1'] }, zones: loadZones() };
const event = (uid: string, title: string, more = '') =>
  `BEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:${Date.now()}\r\nDTSTART;VALUE=DATE:20261225\r\nSUMMARY:${title}\r\n${more}END:VEVENT\r\n`;
const feedOf = (events: string, head = '') => `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nX-WR-CALNAME:Holidays\r\n${head}${events}END:VCALENDAR\r\n`;

/** A feed served by `answer`, opened. */
async function open(
  answer: Answerer,
  settings: object = {},
  scheme = 'http',
): Promise<{ system: OpenSystem; server: Misbehaving; close: () => Promise<void> }> {
  const server = await misbehaving(answer);
  const kind = kinds['feed']!;
  const system = kind.open(kind.settings.cast({ address: server.address.replace('http', scheme), ...settings }), {}, options);
  return {
    system,
    server,
    close: async () => {
      await system.close();
      await server.close();
    },
  };
}
const all = (system: OpenSystem, cursor: string | null = null) => wholeChanges(system.calendars!.changes('/', cursor, signal));
const sent =
  (text: () => string, headers: Record<string, string> = {}): Answerer =>
  (asked, response) => {
    if (headers['etag'] !== undefined && asked.headers['if-none-match'] === headers['etag']) response.writeHead(304).end();
    else response.writeHead(200, { 'content-type': 'text/calendar', ...headers }).end(text());
    return true;
  };

describe('calendar feeds', () => {
  it('are read with their overridden occurrences and zones, and are no calendars to write in', async () => {
    const zone =
      'BEGIN:VTIMEZONE\r\nTZID:Harbour\r\nBEGIN:STANDARD\r\nDTSTART:19700101T000000\r\nTZOFFSETFROM:+0000\r\nTZOFFSETTO:-0400\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\n';
    const body = feedOf(
      zone +
        event('a', 'One, long 🎹 ti\r\n tle', 'X-AT;TZID=Harbour:1\r\n') +
        event('b', 'Two') +
        event('a', 'One moved', 'RECURRENCE-ID:20261226\r\n'),
    );
    const { system, close } = await open(sent(() => body));
    const [calendar] = await system.calendars!.calendars(signal);
    expect(calendar).to.deep.include({ name: 'Holidays', writable: false });
    const listed = await all(system);
    expect(listed).to.include({ complete: true });
    expect(listed.changed.map((c) => c.href)).to.have.members(['/a.ics', '/b.ics']);
    const read = await system.calendars!.read('/', ['/a.ics', '/gone.ics'], signal);
    expect(read.get('/gone.ics')).to.equal(null);
    const { text } = read.get('/a.ics')!;
    expect(text.match(/BEGIN:VEVENT/g)).to.have.length(2);
    expect(text)
      .to.match(/SUMMARY:One, long 🎹 title\r\n/)
      .and.to.match(/TZID:Harbour/);
    await system.calendars!.create('/', 'x', text, signal).then(
      () => expect.fail(),
      (e: unknown) => expect(e).to.be.instanceOf(OutsideError).and.include({ trouble: 'refused' }),
    );
    await close();
  });

  it('are asked for only when due, and only for what is new', async () => {
    let title = 'Before';
    const { system, server, close } = await open(sent(() => feedOf(event('a', title)), { etag: '"1"' }));
    const first = await all(system);
    const asked = server.asked.length;
    expect(await all(system, first.cursor)).to.deep.include({ changed: [], complete: false });
    expect(server.asked.at(-1)!.headers['if-none-match']).to.equal('"1"');
    expect(server.asked).to.have.length(asked + 1);
    title = 'After';
    const other = (await all(system)).changed[0]!.etag;
    expect(other).to.not.equal(first.changed[0]!.etag);
    await close();
    const slow = await open(sent(() => feedOf(event('a', 'x'), 'REFRESH-INTERVAL;VALUE=DURATION:PT12H\r\n')));
    const { cursor } = await all(slow.system);
    const before = slow.server.asked.length;
    await all(slow.system, cursor);
    expect(slow.server.asked, 'nothing is asked within twelve hours').to.have.length(before);
    await slow.close();
  });

  it('know an event again though its UID is another each time, and the same in a new time stamp', async () => {
    const { system, close } = await open(
      sent(() =>
        feedOf(event(`u${Math.random()}`, 'Christmas') + event(`u${Math.random()}`, 'Boxing Day') + event(`u${Math.random()}`, 'Boxing Day')),
      ),
    );
    const [first, second] = [await all(system), await all(system)];
    expect(first.changed).to.have.length(3);
    expect(second.changed).to.have.deep.members(first.changed);
    const read = await system.calendars!.read('/', [first.changed[0]!.href], signal);
    expect([...read.values()][0]!.text.match(/UID:(.*)\r/)![1]).to.match(/@feed\.monsoon\.example$/);
    await close();
    const steady = await open(sent(() => feedOf(event('a', 'Christmas'))));
    const one = await all(steady.system);
    await new Promise((fine) => setTimeout(fine, 5));
    expect((await all(steady.system)).changed).to.deep.equal(one.changed);
    await steady.close();
  });

  it('come packed, over webcal, from another place; and are refused when they are none', async () => {
    const packed: Answerer = (_asked, response) => {
      response.writeHead(200, { 'content-encoding': 'gzip' }).end(gzipSync(feedOf(event('a', 'Packed'))));
      return true;
    };
    const { system, close } = await open(packed, {}, 'webcal');
    expect((await all(system)).changed).to.have.length(1);
    await close();
    const elsewhere = await misbehaving(sent(() => feedOf(event('b', 'Elsewhere'))));
    const moved = await open((_a, response) => {
      response.writeHead(302, { location: elsewhere.address }).end();
      return true;
    });
    expect((await all(moved.system)).changed.map((c) => c.href)).to.deep.equal(['/b.ics']);
    await moved.close();
    await elsewhere.close();
    for (const [text, words] of [
      ['<html>Please sign in</html>', /did not send a calendar/],
      [feedOf(event('a', 'x')).slice(0, -20), /broke off in the middle/],
      ['', /did not send a calendar/],
    ] as const) {
      const wrong = await open(sent(() => text));
      await all(wrong.system).then(
        () => expect.fail(),
        (e: Error) => expect(e.message).to.match(words),
      );
      await wrong.close();
    }
    const cut = await open((_a, response) => {
      const packed = gzipSync(feedOf(event('a', 'x'.repeat(50_000))));
      response.writeHead(200, { 'content-encoding': 'gzip', 'content-length': String(packed.length + 1000) });
      response.write(packed.subarray(0, packed.length - 20));
      setTimeout(() => response.destroy(), 20);
      return true;
    });
    await all(cut.system).then(
      () => expect.fail(),
      (e: unknown) => expect(e).to.be.instanceOf(OutsideError).and.include({ trouble: 'unreachable' }),
    );
    await cut.close();
    const bomb = await open(
      (_a, response) => {
        response.writeHead(200, { 'content-encoding': 'gzip' }).end(gzipSync(Buffer.alloc(3_000_000, 'A')));
        return true;
      },
      { limit: 1 },
    );
    await all(bomb.system).then(
      () => expect.fail(),
      (e: Error) => expect(e.message).to.match(/more than 1048576 bytes/),
    );
    await bomb.close();
  });

  it('are taken apart byte by byte, leaving out what is beyond all bounds', () => {
    const found: string[] = [];
    const splitter = new FeedSplitter((piece) => found.push(piece.uid));
    const nested = `${'BEGIN:VALARM\r\n'.repeat(30)}${'END:VALARM\r\n'.repeat(30)}`;
    const body = feedOf(
      event('a', 'fine 🎹') +
        event('b', 'x', `X-LONG:${'y'.repeat(feedLimits.line + 10)}\r\n`) +
        event('c', 'x', nested) +
        event('d', 'fine') +
        'END:VEVENT\r\nEND:NOTHING\r\n' +
        event('e', 'fine'),
    );
    for (const byte of Buffer.from(body)) splitter.push(Buffer.from([byte]));
    splitter.end();
    expect(found).to.deep.equal(['a', 'd', 'e']);
    expect(splitter.skipped).to.have.length(2);
    expect(splitter.ended).to.equal(true);
    expect([durationSeconds('PT12H'), durationSeconds('P1W'), durationSeconds('P1DT30M'), durationSeconds('tomorrow')]).to.deep.equal([
      43_200,
      604_800,
      88_200,
      null,
    ]);
  });

  it('of fifty megabytes are read in little memory', async function () {
    this.timeout(60_000);
    const block = Array.from({ length: 500 }, (_, i) => event(`e${i}-#`, `Concert ${i}`, `DESCRIPTION:${'long story '.repeat(18)}\r\n`)).join('');
    const blocks = Math.ceil(50_000_000 / block.length);
    const { system, close } = await open(
      (_asked, response) => {
        response.writeHead(200);
        response.write('BEGIN:VCALENDAR\r\n');
        let n = 0;
        const more = () => {
          while (n < blocks) if (!response.write(block.replaceAll('-#', `-${n++}`))) return void response.once('drain', more);
          response.end('END:VCALENDAR\r\n');
        };
        more();
        return true;
      },
      { identity: 'uid' },
    );
    const before = process.memoryUsage().rss;
    let peak = before;
    const timer = setInterval(() => {
      peak = Math.max(peak, process.memoryUsage().rss);
    }, 20);
    const listed = await all(system);
    clearInterval(timer);
    expect(listed.changed).to.have.length(blocks * 500);
    expect((peak - before) / 1e6, 'megabytes more than before').to.be.lessThan(250);
    const last = listed.changed.at(-1)!.href;
    expect((await system.calendars!.read('/', [last], signal)).get(last)!.text).to.match(/Concert 499/);
    await close();
  });
});
