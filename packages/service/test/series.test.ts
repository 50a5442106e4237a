import type { JournalAnswer } from '@monsoon/contract';
import { expect } from 'chai';
import { type Book, type BookLane, openBook } from '../../../test/support/book.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { cyrus, dav, eventually, radicale } from '../../../test/support/servers.ts';

/** A day some weeks from now; the same weekday for all whole weeks. */
const DAY = 86_400_000;
const first = new Date(Math.floor(Date.now() / DAY) * DAY + 14 * DAY);
const day = (weeks: number, days = 0): string => new Date(first.getTime() + (7 * weeks + days) * DAY).toISOString().slice(0, 10);
const compact = (date: string): string => date.replaceAll('-', '');
const weekday = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'];
const nameOf = (date: string): string => weekday[new Date(date).getUTCDay()]!;

const london = [
  'BEGIN:VTIMEZONE',
  'TZID:Europe/London',
  'BEGIN:DAYLIGHT',
  'DTSTART:19810329T010000',
  'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
  'TZNAME:BST',
  'TZOFFSETFROM:+0000',
  'TZOFFSETTO:+0100',
  'END:DAYLIGHT',
  'BEGIN:STANDARD',
  'DTSTART:19961027T020000',
  'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
  'TZNAME:GMT',
  'TZOFFSETFROM:+0100',
  'TZOFFSETTO:+0000',
  'END:STANDARD',
  'END:VTIMEZONE',
];

/** A weekly rehearsal of two hours from seven, as a calendar program writes it. */
const rehearsal = (more = '', title = 'Choir rehearsal', from = day(0)): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Test//EN',
    ...london,
    'BEGIN:VEVENT',
    'UID:choir',
    'DTSTAMP:20261101T000000Z',
    `SUMMARY:${title}`,
    'LOCATION:Meadow Hall',
    `DTSTART;TZID=Europe/London:${compact(from)}T190000`,
    `DTEND;TZID=Europe/London:${compact(from)}T210000`,
    'RRULE:FREQ=WEEKLY;COUNT=6',
    'X-CHOIR-SCORE:Byrd',
    ...(more === '' ? [] : [more]),
    'BEGIN:VALARM',
    'ACTION:DISPLAY',
    'DESCRIPTION:Choir',
    'TRIGGER:-PT15M',
    'END:VALARM',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n');
/** Puts another component behind the series. */
const withOverride = (text: string, at: string, lines: string[]): string =>
  text.replace(
    'END:VCALENDAR',
    [
      'BEGIN:VEVENT',
      /^UID:.*$/m.exec(text)![0].trim(),
      'DTSTAMP:20261102T000000Z',
      'SEQUENCE:1',
      `RECURRENCE-ID;TZID=Europe/London:${compact(at)}T190000`,
      ...lines,
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\r\n'),
  );
const timesAt = (date: string, hour: number, hours = 2): string[] => [
  `DTSTART;TZID=Europe/London:${compact(date)}T${hour}0000`,
  `DTEND;TZID=Europe/London:${compact(date)}T${hour + hours}0000`,
];

type Server = 'radicale' | 'cyrus';

/** An office whose Diary is that server, and its Hire book. */
async function openHall(server: Server): Promise<{ office: Office; book: Book; close(): Promise<void> }> {
  const office = await openOffice({ withLane: false, diary: server === 'cyrus' ? cyrus() : radicale() });
  const book = await openBook(office);
  const close = async () => {
    await office.stop();
    await book.close();
  };
  return { office, book, close };
}

for (const server of ['radicale', 'cyrus'] as const)
  describe(`a series whose occurrences become records, on ${server}`, () => {
    let office: Office;
    let book: Book;
    let close: (() => Promise<void>) | undefined;
    let lanes = 0;

    before(async () => {
      ({ office, book, close } = await openHall(server));
    });
    after(() => close?.());

    interface Hall extends BookLane {
      slug: string;
      /** the records as they stand: id, start without the year's dashes, title */
      rows(): Promise<{ id: number; at: string; title: string }[]>;
      sql(text: string): Promise<unknown>;
      journal(): Promise<JournalAnswer[]>;
    }
    /** A table of its own, both ways, with the choir's rehearsal on its calendar. */
    async function hall(more: Record<string, unknown> = {}, text = rehearsal()): Promise<Hall> {
      const slug = `hall${++lanes}`;
      await book.use({ [slug]: { create: true, remove: true, write: ['title', 'starts', 'ends', 'place'] } });
      await book.sql(
        `create table ${slug} (id int generated always as identity primary key, title text, starts timestamp, ends timestamp, place text)`,
      );
      const lane = await book.lane(slug, slug, {
        direction: '<->',
        window: { behind: 30, ahead: 100 },
        events: { repeating: 'each occurrence' },
        moments: [{ name: 'attendance', when: { start: 'starts', end: 'ends' } }],
        fields: { title: { copy: 'title' }, location: { copy: 'place' } },
        departures: { eventDeleted: 'delete record', eventCancelled: 'as deleted', recordDeleted: 'remove', eventFilteredOut: 'delete record' },
        guard: { removals: 100, removedPercent: 100, rewrittenPercent: 100 },
        ...more,
      });
      // A server may want a UID to be the only one in all calendars of its owner.
      const put: BookLane['put'] = (uid, lines) =>
        lane.put(
          uid,
          lines.replace(/^UID:(.*)$/gm, (_all, name: string) => `UID:${name.trim()}-${slug}`),
        );
      if (text !== '') await put('choir', text);
      await lane.run();
      return {
        ...lane,
        put,
        slug,
        sql: (query) => book.sql(query.replaceAll('hall', slug)),
        rows: async () => (await book.sql(`select id, to_char(starts, 'YYYY-MM-DD HH24') as at, title from ${slug} order by starts, id`)) as never,
        journal: async () => (await office.client.journal({ lane: slug, limit: 100 })).items,
      };
    }
    const at = (rows: { at: string }[]) => rows.map((r) => r.at);
    const weeks = (...which: number[]) => which.map((w) => `${day(w)} 19`);
    const ids = (rows: { id: number }[]) => rows.map((r) => r.id);
    const object = async (lane: BookLane) => (await lane.event('RRULE:FREQ=WEEKLY')).text;
    /** Nothing was taken away or made again. */
    const onlyMoved = async (lane: Hall, kept: number) => {
      const kinds = (await lane.journal()).map((e) => e.kind);
      expect(
        kinds.filter((k) => k === 'create record'),
        'made',
      ).to.have.length(kept);
      expect(kinds).not.to.include('remove record');
    };

    it('makes a record of each occurrence once; a check without changes does nothing', async () => {
      const lane = await hall();
      expect(at(await lane.rows())).to.deep.equal(weeks(0, 1, 2, 3, 4, 5));
      expect((await lane.run()).counts).to.include({ created: 0, changed: 0 });
      expect((await lane.run({ sweep: true })).counts).to.include({ created: 0, changed: 0 });
      expect(await office.client.audit(lane.slug))
        .to.deep.include({ addsUp: true })
        .and.nested.property('counts')
        .include({ inSync: 6, missing: 0 });
    });

    it('an override, an excluded date and a cancelled occurrence are an edit, a deletion and a cancellation of one record alone', async () => {
      const lane = await hall();
      const before = await lane.rows();
      const moved = withOverride(rehearsal(), day(1), ['SUMMARY:Choir rehearsal\\, in the vestry', ...timesAt(day(1, 1), 18)]);
      await lane.put('choir', moved);
      await lane.run();
      const [, one] = await lane.rows();
      expect(one).to.deep.equal({ id: before[1]!.id, at: `${day(1, 1)} 18`, title: 'Choir rehearsal, in the vestry' });
      await lane.put('choir', moved.replace('X-CHOIR-SCORE:Byrd', `X-CHOIR-SCORE:Byrd\r\nEXDATE;TZID=Europe/London:${compact(day(3))}T190000`));
      await lane.run();
      expect(ids(await lane.rows())).to.deep.equal([0, 1, 2, 4, 5].map((i) => before[i]!.id));
      await lane.put('choir', withOverride(rehearsal(), day(2), ['SUMMARY:Choir rehearsal', 'STATUS:CANCELLED', ...timesAt(day(2), 19)]));
      await lane.run();
      const left = await lane.rows();
      expect(at(left), 'revived, and moved back').to.deep.equal(weeks(0, 1, 3, 4, 5));
      expect(left[1]!.id).to.equal(before[1]!.id);
    });

    it('an edited record becomes an override with everything that the series has; ten are one write', async () => {
      const lane = await hall({}, rehearsal().replace('COUNT=6', 'COUNT=12'));
      const puts = async () => (await office.client.calls('diary')).items.filter((c) => c.method === 'PUT' && c.url.includes(lane.calendar));
      expect(await puts()).to.deep.equal([]);
      await lane.sql(`update hall set title = 'Evensong ' || id where id <= 10`);
      const run = await lane.run();
      expect(run.counts).to.include({ changed: 10, failed: 0 });
      const text = await object(lane);
      expect(text.match(/RECURRENCE-ID;TZID=Europe\/London:/g), 'overrides').to.have.length(10);
      expect(text.match(/X-CHOIR-SCORE:Byrd/g), 'unknown properties').to.have.length(11);
      expect(text.match(/BEGIN:VALARM/g), 'alarms').to.have.length(11);
      expect(text.match(/RRULE:FREQ=WEEKLY/g)).to.have.length(1);
      await eventually('the write is in the log', async () => (await puts()).length > 0);
      expect(await puts()).to.have.length(1);
      expect(
        (await lane.journal()).filter((e) => e.run === run.id && e.kind === 'change'),
        'each is an operation of its own',
      ).to.have.length(10);
      expect((await lane.run()).counts, 'its own writing is no news').to.include({ changed: 0 });
    });

    it('all occurrences dragged to another day and hour take their records along', async () => {
      const lane = await hall();
      const before = await lane.rows();
      await lane.put('choir', rehearsal('', 'Choir rehearsal', day(0, 1)).replaceAll('T190000', 'T180000').replaceAll('T210000', 'T200000'));
      const run = await lane.run();
      expect(run.counts).to.include({ changed: 6, created: 0, removed: 0 });
      const after = await lane.rows();
      expect(at(after)).to.deep.equal([0, 1, 2, 3, 4, 5].map((w) => `${day(w, 1)} 18`));
      expect(ids(after)).to.deep.equal(ids(before));
      await onlyMoved(lane, 6);
      const [entry] = (await lane.journal()).filter((e) => e.run === run.id && e.kind === 'change');
      expect(entry!.notes.join()).to.match(/^its occurrence of .* is gone; it follows another occurrence of the series$/);
      expect((await lane.run({ sweep: true })).counts).to.include({ changed: 0, created: 0 });
      await office.client.undo({ run: run.id });
      await eventually('the records are back', async () => String(at(await lane.rows())) === String(weeks(0, 1, 2, 3, 4, 5)));
    });

    it('"this and following" moved takes the following records to the series that goes on', async () => {
      const lane = await hall();
      const before = await lane.rows();
      const until = rehearsal().replace('COUNT=6', `UNTIL=${compact(day(2))}T235959Z`);
      await lane.put('choir', until);
      await lane.put('choir-2', rehearsal('', 'Choir rehearsal', day(3, 2)).replace('UID:choir', 'UID:choir-2').replace('COUNT=6', 'COUNT=3'));
      expect((await lane.run()).counts).to.include({ changed: 3, created: 0, removed: 0 });
      const after = await lane.rows();
      expect(at(after)).to.deep.equal([...weeks(0, 1, 2), ...[3, 4, 5].map((w) => `${day(w, 2)} 19`)]);
      expect(ids(after)).to.deep.equal(ids(before));
      await onlyMoved(lane, 6);
      expect((await lane.run({ sweep: true })).counts).to.include({ changed: 0, created: 0, removed: 0 });
    });

    it('another rule: what stays keeps its record, what moves takes it along, and only what is left over goes', async () => {
      const lane = await hall();
      const before = await lane.rows();
      await lane.put('choir', rehearsal().replace('FREQ=WEEKLY;COUNT=6', 'FREQ=WEEKLY;INTERVAL=2;COUNT=3'));
      expect((await lane.run()).counts).to.include({ changed: 0, created: 0, removed: 3 });
      expect(ids(await lane.rows())).to.deep.equal([0, 2, 4].map((i) => before[i]!.id));
      await lane.put('choir', rehearsal('', 'Choir rehearsal', day(0, 1)).replace('COUNT=6', `INTERVAL=2;COUNT=4;BYDAY=${nameOf(day(0, 1))}`));
      expect((await lane.run()).counts).to.include({ changed: 3, created: 1, removed: 0 });
      expect(at(await lane.rows())).to.deep.equal([0, 2, 4, 6].map((w) => `${day(w, 1)} 19`));
      expect(ids(await lane.rows()).slice(0, 3)).to.deep.equal([0, 2, 4].map((i) => before[i]!.id));
      await lane.put('choir', rehearsal('', 'Choir rehearsal', day(0, 1)).replace('COUNT=6', `INTERVAL=2;COUNT=2;BYDAY=${nameOf(day(0, 1))}`));
      expect((await lane.run()).counts, 'ended early').to.include({ changed: 0, created: 0, removed: 2 });
    });

    it('one that is moved beyond its neighbour stays what it is', async () => {
      const lane = await hall();
      const before = await lane.rows();
      await lane.put('choir', withOverride(rehearsal(), day(1), ['SUMMARY:Choir rehearsal', ...timesAt(day(2, 1), 19)]));
      await lane.run();
      const after = await lane.rows();
      expect(ids(after)).to.deep.equal([0, 2, 1, 3, 4, 5].map((i) => before[i]!.id));
      await onlyMoved(lane, 6);
    });

    it('a single event that is made to repeat, and a series that ends in one, keep their record', async () => {
      const lane = await hall({}, rehearsal().replace('RRULE:FREQ=WEEKLY;COUNT=6\r\n', ''));
      const [one] = await lane.rows();
      await lane.put('choir', rehearsal());
      await lane.run();
      expect(at(await lane.rows())).to.deep.equal(weeks(0, 1, 2, 3, 4, 5));
      expect((await lane.rows())[0]!.id).to.equal(one!.id);
      await lane.put('choir', rehearsal().replace('RRULE:FREQ=WEEKLY;COUNT=6\r\n', ''));
      await lane.run();
      expect(await lane.rows()).to.deep.equal([one]);
    });

    it('a record that is removed excludes its date, an edit by others in between stays, and both can be undone', async () => {
      const lane = await hall();
      const removed = (await lane.rows())[4]!;
      await lane.sql(`delete from hall where id = ${removed.id}`);
      await lane.sql(
        `update hall set starts = starts + interval '30 minutes', ends = ends + interval '30 minutes' where id = ${(await lane.rows())[1]!.id}`,
      );
      const run = await lane.run({ sweep: true });
      const text = await object(lane);
      expect(text).to.match(new RegExp(`^EXDATE;TZID=Europe/London:${compact(day(4))}T190000\\r?$`, 'm'));
      expect(text).to.contain(`DTSTART;TZID=Europe/London:${compact(day(1))}T193000`);
      await lane.edit((await lane.event('RRULE:FREQ=WEEKLY')).href, (t) => t.replace('X-CHOIR-SCORE:Byrd', 'X-CHOIR-SCORE:Tallis'));
      await lane.sql(`update hall set title = 'Evensong' where id = ${(await lane.rows())[2]!.id}`);
      await lane.run();
      expect(await object(lane)).to.match(/X-CHOIR-SCORE:Tallis/);
      expect((await lane.rows()).map((r) => r.title)).to.deep.equal([
        'Choir rehearsal',
        'Choir rehearsal',
        'Evensong',
        'Choir rehearsal',
        'Choir rehearsal',
      ]);
      const entries = (await lane.journal()).filter((e) => e.run === run.id && e.kind === 'remove');
      expect(entries).to.have.length(1);
      await office.client.undo({ entry: entries[0]!.id });
      await eventually('the date is not excluded any more', async () => !/EXDATE/.test(await object(lane)));
    });

    it('floating times and UTC are edited in the form of their series', async () => {
      const forms = {
        utc: [`DTSTART:${compact(day(0))}T190000Z`, `DTEND:${compact(day(0))}T210000Z`, `EXDATE:${compact(day(1))}T190000Z`],
        floating: [`DTSTART:${compact(day(0))}T190000`, `DTEND:${compact(day(0))}T210000`, `EXDATE:${compact(day(1))}T190000`],
      };
      for (const [name, [start, end, excluded]] of Object.entries(forms)) {
        const lane = await hall(
          {},
          rehearsal('', name)
            .replace(/^DTSTART;TZID.*$/m, start!)
            .replace(/^DTEND;TZID.*$/m, end!),
        );
        await lane.sql(`delete from hall where id = (select id from hall order by starts offset 1 limit 1)`);
        await lane.sql(`update hall set title = 'Evensong' where id = (select id from hall order by starts desc limit 1)`);
        const { counts } = await lane.run({ sweep: true });
        expect(counts, name).to.include({ changed: 1, removed: 1, failed: 0 });
        const text = await object(lane);
        expect(text.replaceAll('\r', ''), name).to.contain(`\n${excluded!}\n`);
        expect(text, name).to.contain(start!.replace('DTSTART', 'RECURRENCE-ID').replace(compact(day(0)), compact(day(5))));
      }
    });

    it('days are edited as days, and a zone that only the series defines counts by its definition', async () => {
      const table = `days${++lanes}`;
      await book.use({ [table]: { create: true, remove: true, write: ['title', 'first', 'last'] } });
      await book.sql(`create table ${table} (id int generated always as identity primary key, title text, first date, last date)`);
      const lane = await book.lane(table, table, {
        direction: '<->',
        window: { behind: 30, ahead: 100 },
        events: { repeating: 'each occurrence' },
        moments: [{ name: 'day', when: { first: 'first', last: 'last', lastCounts: true } }],
        fields: { title: { copy: 'title' } },
        departures: { eventDeleted: 'delete record', recordDeleted: 'remove' },
      });
      const allDay = [`DTSTART;VALUE=DATE:${compact(day(0))}`, `DTEND;VALUE=DATE:${compact(day(0, 2))}`, 'RRULE:FREQ=WEEKLY;COUNT=4'];
      await lane.put(`days-${table}`, `SUMMARY:Stocktaking\r\n${allDay.join('\r\n')}`);
      await lane.run();
      const rows = () => book.sql(`select title, first::text, last::text from ${table} order by first`);
      expect(await rows()).to.deep.equal([0, 1, 2, 3].map((w) => ({ title: 'Stocktaking', first: day(w), last: day(w, 1) })));
      await book.sql(`delete from ${table} where first = '${day(1)}'`);
      await book.sql(`update ${table} set last = last + 1 where first = '${day(2)}'`);
      await lane.run({ sweep: true });
      const text = (await lane.event('RRULE')).text.replaceAll('\r', '');
      expect(text).to.contain(`\nEXDATE;VALUE=DATE:${compact(day(1))}\n`);
      expect(text).to.contain(`\nRECURRENCE-ID;VALUE=DATE:${compact(day(2))}\n`);
      expect(text).to.contain(`\nDTEND;VALUE=DATE:${compact(day(2, 3))}\n`);
      // The same name as London's, with the clock of Athens.
      const athens = rehearsal()
        .replaceAll('Europe/London', 'Workshop')
        .replace('TZOFFSETFROM:+0000', 'TZOFFSETFROM:+0200')
        .replace('TZOFFSETTO:+0100', 'TZOFFSETTO:+0300')
        .replace('TZOFFSETFROM:+0100', 'TZOFFSETFROM:+0300')
        .replace('TZOFFSETTO:+0000', 'TZOFFSETTO:+0200');
      const own = await hall({}, athens);
      expect(at(await own.rows())[0]).to.equal(`${day(0)} 17`);
    });

    it('says of a series why it is not taken, with its rule in words, and of one that cannot be read what is wrong', async () => {
      const lane = await hall({ events: { repeating: 'leave out' } });
      const why = async (name: string) => (await office.client.why(lane.slug, `${lane.calendar}${name}.ics`)).why;
      expect(await why('choir')).to.match(/The event repeats \(every week, 6 times\), and the lane leaves repeating events out/);
      const each = await hall({}, rehearsal().replace('COUNT=6', 'COUNT=6;BYMONTHDAY=3'));
      expect((await office.client.why(each.slug, `${each.calendar}choir.ics`)).why).to.match(/BYMONTHDAY does not go with WEEKLY/);
      expect(await each.rows()).to.deep.equal([]);
    });

    it('five hundred occurrences come, go and come again with a switch of the choice, each once', async function () {
      this.timeout(180_000);
      const lane = await hall(
        { window: { behind: 30, ahead: 600 }, guard: { removals: 1000, removedPercent: 100, rewrittenPercent: 100 } },
        rehearsal().replace('FREQ=WEEKLY;COUNT=6', 'FREQ=DAILY;COUNT=500'),
      );
      const all = (await lane.rows()).map((r) => r.at);
      expect(all).to.have.length(500);
      const settings = (await office.client.lane(lane.slug)).definition;
      for (const [repeating, left] of [
        ['leave out', 0],
        ['each occurrence', 500],
      ] as const) {
        const definition = { ...settings, events: { ...settings.events, repeating } };
        const { counts } = await office.client.forecast(lane.slug, definition as never);
        expect(repeating === 'leave out' ? counts.removed : counts.created).to.equal(500);
        await office.client.changeLane(lane.slug, (await office.client.lane(lane.slug)).version, definition);
        await lane.run({ sweep: true });
        expect(await lane.rows()).to.have.length(left);
      }
      expect((await lane.rows()).map((r) => r.at)).to.deep.equal(all);
    });

    it('switching between the choices doubles nothing, and removes only what the forecast said', async () => {
      const lane = await hall();
      const settings = (await office.client.lane(lane.slug)).definition;
      const take = async (repeating: string) => {
        const definition = { ...settings, events: { ...settings.events, repeating } };
        const forecast = await office.client.forecast(lane.slug, definition as never);
        const before = new Set((await lane.journal()).map((e) => e.id));
        await office.client.changeLane(lane.slug, (await office.client.lane(lane.slug)).version, definition);
        await lane.run({ sweep: true });
        // The change of the lane had it run by itself, perhaps.
        const kinds = (await lane.journal()).filter((e) => !before.has(e.id)).map((e) => e.kind);
        const counts = { removed: kinds.filter((k) => k === 'remove record').length, created: kinds.filter((k) => k === 'create record').length };
        expect(counts, repeating).to.deep.equal({ removed: forecast.counts.removed, created: forecast.counts.created });
        return counts;
      };
      const before = await lane.rows();
      expect(await take('one record')).to.include({ removed: 5, created: 0 });
      expect(ids(await lane.rows())).to.deep.equal([before[0]!.id]);
      expect(await take('each occurrence')).to.include({ removed: 0, created: 5 });
      expect(at(await lane.rows())).to.deep.equal(weeks(0, 1, 2, 3, 4, 5));
      expect((await lane.rows())[0]!.id).to.equal(before[0]!.id);
      expect(await take('leave out')).to.include({ removed: 6, created: 0 });
      expect(await take('each occurrence')).to.include({ removed: 0, created: 6 });
      expect(at(await lane.rows())).to.deep.equal(weeks(0, 1, 2, 3, 4, 5));
      expect((await lane.run()).counts).to.include({ created: 0, removed: 0, changed: 0 });
    });
  });

for (const server of ['radicale', 'cyrus'] as const)
  describe(`a series that is one record, on ${server}`, () => {
    let office: Office;
    let book: Book;
    let close: (() => Promise<void>) | undefined;
    before(async () => {
      ({ office, book, close } = await openHall(server));
    });
    after(() => close?.());

    async function contracts(name: string, map: Record<string, unknown>, columns: string, more: Record<string, unknown> = {}): Promise<BookLane> {
      const write = ['title', 'starts', 'ends', ...columns.matchAll(/(\w+) (?:text|int|date)/g)].map((c) => (typeof c === 'string' ? c : c[1]!));
      await book.use({ [name]: { create: true, remove: true, write } });
      await book.sql(
        `create table ${name} (id int generated always as identity primary key, title text, starts timestamp, ends timestamp, ${columns})`,
      );
      return book.lane(name, name, {
        direction: '<->',
        window: { behind: 30, ahead: 100 },
        events: { repeating: 'one record' },
        moments: [{ name: 'maintenance', when: { start: 'starts', end: 'ends' } }],
        fields: { title: { copy: 'title' }, recurrence: map },
        departures: { eventDeleted: 'delete record', eventCancelled: 'as deleted' },
        guard: { removals: 100, removedPercent: 100, rewrittenPercent: 100 },
        ...more,
      });
    }
    const one = async (table: string) => (await book.sql(`select *, to_char(starts, 'YYYY-MM-DD HH24') as at from ${table} order by id`))[0]!;
    const own = (lane: BookLane, text: string) =>
      lane.put(`choir-${lane.calendar.split('/').at(-2)!}`, text.replace(/^UID:.*$/gm, `UID:choir-${lane.calendar.split('/').at(-2)!}`));

    it('a record with a rule becomes a series, and each side takes the other along', async () => {
      const lane = await contracts('ruled', { rule: 'rule', excluded: 'without' }, 'rule text, without text');
      await book.sql(`insert into ruled (title, starts, ends, rule, without)
        values ('Organ maintenance', '${day(0)} 09:00', '${day(0)} 11:00', 'freq=weekly;until=${compact(day(5))}', '${day(2)}')`);
      await lane.run();
      const made = await lane.event('Organ maintenance');
      expect(made.text).to.match(new RegExp(`^RRULE:FREQ=WEEKLY;UNTIL=${compact(day(5))}T235959Z\\r?$`, 'm'));
      expect(made.text).to.match(new RegExp(`^EXDATE;TZID=Europe/London:${compact(day(2))}T090000\\r?$`, 'm'));
      expect((await lane.run({ sweep: true })).counts).to.include({ changed: 0, created: 0 });
      expect((await office.client.items('ruled')).items[0]!.repeats).to.match(/^every week, until .*; without /);
      // A person excludes another day and makes it fortnightly, and moves one occurrence.
      await lane.edit(made.href, (text) =>
        withOverride(
          text
            .replace(/^RRULE:.*$/m, 'RRULE:FREQ=WEEKLY;INTERVAL=2')
            .replace(/^EXDATE.*$/m, (line) => `${line.trim()}\r\nEXDATE;TZID=Europe/London:${compact(day(4))}T090000`),
          day(6),
          ['SUMMARY:Organ maintenance', ...timesAt(day(6, 1), 10)],
        ).replace(`RECURRENCE-ID;TZID=Europe/London:${compact(day(6))}T190000`, `RECURRENCE-ID;TZID=Europe/London:${compact(day(6))}T090000`),
      );
      await lane.run();
      expect(await one('ruled')).to.include({ rule: 'FREQ=WEEKLY;INTERVAL=2', without: `${day(2)}, ${day(4)}`, at: `${day(0)} 09` });
      // The record moves the whole series by a day and an hour: excluded days and untouched parts of it go along.
      await book.sql(`update ruled set starts = starts + interval '25 hours', ends = ends + interval '25 hours'`);
      await lane.run();
      const moved = (await lane.event('RRULE:FREQ=WEEKLY')).text;
      expect(moved).to.contain(`DTSTART;TZID=Europe/London:${compact(day(0, 1))}T100000`);
      // Some servers write each excluded day into a line of its own.
      const excluded = [...moved.matchAll(/^EXDATE;TZID=Europe\/London:(.*?)\r?$/gm)].flatMap((line) => line[1]!.split(',')).sort();
      expect(excluded).to.deep.equal([`${compact(day(2, 1))}T100000`, `${compact(day(4, 1))}T100000`]);
      expect(moved, 'the override keeps its own time').to.contain(`RECURRENCE-ID;TZID=Europe/London:${compact(day(6, 1))}T100000`);
      expect(moved).to.contain(`DTSTART;TZID=Europe/London:${compact(day(6, 1))}T100000`);
      await lane.run();
      expect(await one('ruled')).to.include({ without: `${day(2, 1)}, ${day(4, 1)}` });
      expect((await lane.run({ sweep: true })).counts).to.include({ changed: 0, failed: 0 });
      await book.sql('update ruled set rule = null, without = null');
      await lane.run();
      expect((await lane.event('Organ maintenance')).text).not.to.match(/RRULE:FREQ=WEEKLY|EXDATE|RECURRENCE-ID/);
    });

    it('is shown at each of its times, also where no field holds its rule', async () => {
      const lane = await contracts('unruled', {}, 'note text', { fields: { title: { copy: 'title' } } });
      await own(lane, rehearsal());
      expect((await lane.run({ sweep: true })).counts).to.include({ created: 1, held: 0, failed: 0 });
      expect((await office.client.items('unruled')).items[0]!.repeats).to.equal('every week, 6 times');
      const { items } = await office.client.agenda({ from: day(1), until: day(2, 6), zone: 'Europe/London', lane: 'unruled' });
      const shown = items.map(({ repeating, record, event }) => [repeating, record?.from, event?.from]);
      const at = (weeks: number) => Date.parse(`${day(weeks)}T19:00:00Z`) / 1000;
      expect(shown).to.deep.equal([1, 2].map((n) => [true, at(n), at(n)]));
    });

    it('where only records lead, a series that stands there is taken up, and moves with its record', async () => {
      const lane = await contracts('led', { rule: 'rule' }, 'rule text', { direction: '->', departures: {}, events: {} });
      await own(lane, rehearsal());
      const row = (title: string, hour: number) => `('${title}', '${day(0)} ${hour}:00', '${day(0)} ${hour + 2}:00', 'FREQ=WEEKLY;COUNT=6')`;
      await book.sql(`insert into led (title, starts, ends, rule) values ${row('Choir rehearsal', 19)}, ${row('Organ maintenance', 9)}`);
      expect((await lane.run()).counts).to.include({ adopted: 1, created: 1, held: 0 });
      await book.sql(`update led set starts = starts + interval '1 day', ends = ends + interval '1 day'`);
      expect((await lane.run()).counts).to.include({ changed: 2, held: 0, failed: 0 });
      for (const [title, hour] of [
        ['Choir rehearsal', '19'],
        ['Organ maintenance', '09'],
      ] as const) {
        const { text } = await lane.event(title);
        expect(text).to.contain(`DTSTART;TZID=Europe/London:${compact(day(0, 1))}T${hour}0000`);
        expect(text).to.match(/^RRULE:FREQ=WEEKLY;COUNT=6\r?$/m);
      }
      expect((await lane.run({ sweep: true })).counts).to.include({ changed: 0, created: 0, held: 0 });
    });

    it('fields for the parts of a rule take what they can hold, and say what they cannot', async () => {
      const parts = { frequency: 'every', values: { weekly: 'week', monthly: 'month' }, interval: 'times', weekdays: 'days', until: 'last' };
      const lane = await contracts('parted', { repeats: parts }, 'every text, times int, days text, last date');
      await own(lane, rehearsal().replace('FREQ=WEEKLY;COUNT=6', `FREQ=WEEKLY;BYDAY=${nameOf(day(0))};UNTIL=${compact(day(5))}T190000Z`));
      await lane.run();
      const row = await one('parted');
      expect(row).to.include({ title: 'Choir rehearsal', every: 'week', times: null });
      expect(String(row['days']).slice(0, 2).toUpperCase()).to.equal(nameOf(day(0)));
      await book.sql(`update parted set times = 2`);
      await lane.run();
      const rule = /^RRULE:(FREQ=WEEKLY.*?)\r?$/m.exec((await lane.event('RRULE:FREQ=WEEKLY')).text)![1]!;
      expect(rule.split(';').sort()).to.deep.equal([`BYDAY=${nameOf(day(0))}`, 'FREQ=WEEKLY', 'INTERVAL=2', `UNTIL=${compact(day(5))}T235959Z`]);
      await lane.edit((await lane.event('RRULE:FREQ=WEEKLY')).href, (text) => text.replace(/^RRULE:FREQ=WEEKLY.*$/m, 'RRULE:FREQ=MONTHLY;BYDAY=2TU'));
      await lane.run();
      const { id, every } = await one('parted');
      expect(every).to.equal('week');
      expect((await office.client.why('parted', String(id))).why).to.match(/says more than the fields can hold: BYDAY/);
      expect((await lane.event('RRULE')).text).to.match(/RRULE:FREQ=MONTHLY;BYDAY=2TU/);
    });

    it('belongs as long as one occurrence lies in the window, and a bad rule costs its own record alone', async () => {
      const lane = await contracts('windowed', { rule: 'rule' }, 'rule text');
      await book.sql(`insert into windowed (title, starts, ends, rule) values
        ('Old and going on', '2020-01-06 09:00', '2020-01-06 10:00', 'FREQ=WEEKLY;BYDAY=MO'),
        ('Old and over', '2020-01-06 09:00', '2020-01-06 10:00', 'FREQ=WEEKLY;COUNT=3'),
        ('No rule at all', '${day(0)} 09:00', '${day(0)} 10:00', 'every now and then')`);
      expect((await lane.run()).counts).to.include({ created: 1, failed: 1 });
      expect((await office.client.why('windowed', '2')).why).to.match(/it has an occurrence between|window/);
      expect((await office.client.why('windowed', '3')).why).to.match(/rule/);
    });
  });

describe('a task that repeats', () => {
  it('is left out, with its rule in words', async () => {
    const office = await openOffice({ withLane: false });
    try {
      const list = await office.client.makeCalendar('diary', 'Chores', null, 'tasks');
      const { href } = await office.client.makeCalendar('diary', 'Chores to see', null);
      const due = `DUE;TZID=Europe/London:${compact(day(1))}T100000`;
      for (const [uid, more] of [
        ['boiler', 'RRULE:FREQ=MONTHLY;INTERVAL=3'],
        ['felts', 'PRIORITY:3'],
      ]) {
        const lines = ['BEGIN:VTODO', `UID:${uid}`, 'DTSTAMP:20261101T000000Z', `SUMMARY:${uid}`, due, more, 'END:VTODO'];
        const text = ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Test//EN', ...london, ...lines, 'END:VCALENDAR', ''].join('\r\n');
        await dav(office.diary, 'PUT', `${list.href}${uid}.ics`, { 'content-type': 'text/calendar' }, text);
      }
      await office.client.makeLane(
        'chores',
        {
          name: 'Chores',
          records: { system: 'diary', collection: list.href.split('/').at(-2) },
          calendar: { system: 'diary', calendar: href },
          direction: '->',
          zone: 'Europe/London',
          moments: [{ name: 'due', when: { due: 'due', show: 'ending', minutes: 30 } }],
          fields: { title: { copy: 'title' } },
        },
        false,
      );
      const { id } = await office.client.run('chores', {});
      await eventually('the run ends', async () => (await office.client.oneRun(id)).state === 'done', 20_000);
      expect((await office.client.why('chores', 'felts.ics')).state).to.equal('in sync');
      expect((await office.client.why('chores', 'boiler.ics')).why).to.match(/The task repeats \(every third month\), and which of its times/);
    } finally {
      await office.stop();
    }
  });
});
