import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { type Book, eventText, openBook } from '../../../test/support/book.ts';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { copyFile, dav, eventually } from '../../../test/support/servers.ts';

const day = (offset: number) => new Date(Date.now() + offset * 86_400_000).toISOString().slice(0, 10);
const line = (text: string, name: string) => new RegExp(`^${name}[;:].*`, 'm').exec(text.slice(text.indexOf('BEGIN:VEVENT')))?.[0].trim() ?? null;
const cancel = (text: string) => text.replace(/^STATUS:.*\r?\n/m, '').replace('END:VEVENT', 'STATUS:CANCELLED\r\nEND:VEVENT');

/** What once went wrong, or was left undone, without anything being said. */
describe('nothing goes wrong without a word', () => {
  let office: Office;
  let book: Book;
  const holds = async (lane: string) => (await office.client.holds()).items.filter((h) => h.lane === lane);
  before(async function () {
    this.timeout(60_000);
    office = await openOffice({ seed: plainVisits(3), withLane: false });
    book = await openBook(office);
  });
  after(async () => {
    await book?.close();
    await office?.stop();
  });

  describe('a cancelled event, where its status is mapped', () => {
    it('is a question one way, and is not put back', async () => {
      await book.sql(`create table visits (id int primary key, title text, starts timestamp, status text);
        insert into visits values (1, 'Alder spinet', '${day(9)} 10:00', 'booked')`);
      const lane = await book.lane('cancel-one-way', 'visits', {
        direction: '->',
        moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
        fields: { title: { copy: 'title' }, status: { table: 'status', values: { booked: 'confirmed' } } },
      });
      await lane.run();
      await lane.edit((await lane.event()).href, cancel);
      expect((await lane.run()).counts).to.include({ held: 1, changed: 0 });
      expect((await lane.event()).text).to.match(/STATUS:CANCELLED/);
      expect((await holds('cancel-one-way'))[0]).to.include({ question: 'event cancelled' });
    });

    it('does both ways what the lane says of cancelled events, though the table has no word for it', async () => {
      await book.use({ visits_both: { write: ['title', 'starts', 'status'] } });
      await book.sql(`create table visits_both (id int primary key, title text, starts timestamp, status text);
        insert into visits_both values (1, 'Wren grand', '${day(9)} 10:00', 'booked')`);
      const lane = await book.lane('cancel-both-ways', 'visits_both', {
        direction: '<->',
        may: { records: { create: false, remove: false } },
        moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
        fields: { title: { copy: 'title' }, status: { table: 'status', values: { booked: 'confirmed', asked: 'tentative' } } },
        departures: { eventCancelled: 'set fields' },
        sets: { eventCancelled: { status: 'called off' } },
      });
      await lane.run();
      await lane.edit((await lane.event()).href, cancel);
      expect((await lane.run()).counts).to.include({ failed: 0 });
      expect(await book.sql('select status from visits_both')).to.deep.equal([{ status: 'called off' }]);
      expect((await lane.event()).text).to.match(/STATUS:CANCELLED/);
    });

    it('is said when the lane is checked', async () => {
      const text = `name: Visits\nrecords: { system: book, collection: visits }\ncalendar: { system: diary, calendar: "${(await office.client.makeCalendar('diary', 'Said', null)).href}" }\ndirection: '->'\nzone: Europe/London\nmoments: [{ name: visit, when: { start: starts, minutes: 60 } }]\nfields: { title: { copy: title }, status: { table: status, values: { booked: confirmed } } }\n`;
      const checked = await office.client.checkLaneFile('said', text);
      expect(checked.says.join('\n')).to.match(/When an event is cancelled, a person is asked; that comes before the map of its status/);
    });
  });

  describe('a deleted row', () => {
    for (const [how, settings] of [
      ['by comparing', {}],
      ['by a column', { modified: 'changed' }],
    ] as const)
      it(`is noticed at the next check, where changes are reported ${how}`, async () => {
        const table = `deleted_${how.replace(/\W+/g, '_')}`;
        await book.use({ [table]: settings });
        await book.sql(`create table ${table} (id int primary key, title text, starts timestamp, changed timestamptz default now());
          insert into ${table} select n, 'Visit ' || n, '${day(5)} 10:00'::timestamp + n * interval '1 day' from generate_series(1, 6) n`);
        const lane = await book.lane(table.replaceAll('_', '-'), table, {
          direction: '->',
          moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
          fields: { title: { copy: 'title' } },
          departures: { recordDeleted: 'remove' },
        });
        await lane.run();
        await book.sql(`delete from ${table} where id = 3`);
        const run = await lane.run();
        expect(run.counts).to.include({ removed: 1 });
        expect(run.scope).to.equal('changes');
        expect(await lane.texts()).to.have.length(5);
      });

    it('of a spreadsheet is noticed at the next check', async () => {
      const folder = join(office.dataFolder, 'files');
      const file = join(folder, 'rooms.csv');
      const rows = [1, 2, 3, 4, 5, 6].map((n) => `${n},Room ${n},${day(n)}`);
      writeFileSync(file, ['id,title,day', ...rows].join('\n'));
      await office.client.connect({
        slug: 'sheets',
        name: 'Sheets',
        kind: 'csv',
        settings: { address: folder, collections: { rooms: { key: ['id'] } } },
        secrets: {},
      });
      const lane = await book.lane('rooms', 'rooms', {
        records: { system: 'sheets', collection: 'rooms' },
        direction: '->',
        moments: [{ name: 'day', when: { day: 'day' } }],
        fields: { title: { copy: 'title' } },
        departures: { recordDeleted: 'remove' },
      });
      await lane.run();
      writeFileSync(file, readFileSync(file, 'utf8').replace(`${rows[1]}\n`, ''));
      expect((await lane.run()).counts).to.include({ removed: 1 });
    });
  });

  describe('where everything is gone at once', () => {
    it('the run is held, however wide the guard, and goes on when somebody says so', async () => {
      await book.sql(`create table vanish (id int primary key, title text, starts timestamp);
        insert into vanish select n, 'Visit ' || n, '${day(5)} 10:00'::timestamp + n * interval '1 day' from generate_series(1, 6) n`);
      await book.use({ vanish: { write: ['title'], remove: true } });
      const lane = await book.lane('vanish', 'vanish', {
        direction: '<->',
        may: { records: { create: false, remove: true } },
        moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 }, direction: '->' }],
        fields: { title: { copy: 'title' } },
        departures: { eventDeleted: 'delete record' },
        guard: { removals: 1000, removedPercent: 100, rewrittenPercent: 100 },
      });
      await lane.run();
      await dav(office.diary, 'DELETE', lane.calendar);
      const again = `<?xml version="1.0"?><C:mkcalendar xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><D:set><D:prop><D:displayname>Again</D:displayname></D:prop></D:set></C:mkcalendar>`;
      expect((await dav(office.diary, 'MKCALENDAR', lane.calendar, { 'content-type': 'application/xml' }, again)).status).to.equal(201);
      const held = await lane.run({ sweep: true });
      expect(held.state).to.equal('held');
      expect(held.reason).to.match(/all 6 events that the lane follows are gone at once/);
      expect(await book.sql('select count(*)::int as n from vanish')).to.deep.equal([{ n: 6 }]);
      expect((await office.client.forecast('vanish')).guard.join()).to.match(/gone at once/);
      await office.client.release(held.id);
      await eventually('it goes on', async () => (await book.sql('select 1 from vanish')).length === 0);
    });
  });

  describe('a start line', () => {
    const file = (more: object) => ({
      direction: '->',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
      startLine: day(1),
      ...more,
    });
    it('is refused where records do not say when they were made, and honoured where they do', async () => {
      await book.sql(`create table dated (id int primary key, title text, starts timestamp, made timestamptz);
        insert into dated values (1, 'Old', '${day(5)} 10:00', now()), (2, 'New', '${day(5)} 12:00', now() + interval '3 days')`);
      await book.use({ dated: {} });
      const refused = await book.lane('start-line', 'dated', file({})).catch((e) => e);
      expect(refused.message).to.match(/does not say when its records were made; name the field that does.*\(created\)/);
      await book.use({ dated: { created: 'made' } });
      const lane = await book.lane('start-line', 'dated', file({}));
      expect((await lane.run()).counts).to.include({ created: 1, leftOut: 1 });
      expect((await lane.event()).text).to.include('New');
      expect((await office.client.why('start-line', '1')).why).to.match(/older than the lane's start line/);
    });

    for (const [name, more, reason] of [
      [
        'a later edit that nobody could tell',
        { direction: '<->', conflicts: { rule: 'later edit wins' } },
        /does not say when its records were changed/,
      ],
      ['a rule for what is not mapped', { conflicts: { fields: { location: 'records win' } } }, /no field is mapped to location/],
      ['a filter on events that are not looked at', { events: { filter: 'title contains x' } }, /takes nothing from the calendar/],
      ['values for records that are never made', { defaults: { title: 'x' } }, /makes no records/],
    ] as const)
      it(`as well as ${name} is refused when saved`, async () => {
        await book.use({ dated: { created: 'made', write: ['title', 'starts'] } });
        const refused = await book
          .lane('unheard', 'dated', file({ startLine: null, may: { records: { create: false, remove: false } }, ...more }))
          .catch((e) => e);
        expect(refused).to.include({ status: 422 });
        expect(refused.message).to.match(reason);
      });
  });

  it('a lane that shows times differently changes what is there, and its forecast and audit say the same', async () => {
    await book.use({ tasks: { write: ['title', 'due'] } });
    await book.sql(`create table tasks (id int primary key, title text, due timestamp);
      insert into tasks select n, 'Task ' || n, '${day(5)} 15:30'::timestamp + n * interval '1 day' from generate_series(1, 4) n`);
    const file = (when: object) => ({
      direction: '<->',
      may: { records: { create: false, remove: false } },
      moments: [{ name: 'due', when }],
      fields: { title: { copy: 'title' } },
      guard: { removals: 10, removedPercent: 20, rewrittenPercent: 100 },
    });
    const lane = await book.lane('shown', 'tasks', file({ due: 'due', show: 'all-day' }));
    await lane.run();
    // One that a person moved by a day, and the lane has seen.
    await lane.edit((await lane.event('Task 2')).href, (t) => t.replace(/^SUMMARY:.*$/m, 'SUMMARY:Task two'));
    await lane.run();
    const { definition, version } = await office.client.lane('shown');
    const next = { ...definition, moments: file({ due: 'due', show: 'ending', minutes: 180 }).moments };
    expect((await office.client.forecast('shown', next)).counts).to.include({ changed: 4 });
    await office.client.changeLane('shown', version, next);
    expect((await lane.run()).counts).to.include({ changed: 4 });
    expect((await lane.texts()).filter((t) => /DTEND;TZID=Europe\/London:\d{8}T153000/.test(t))).to.have.length(4);
    expect(await office.client.audit('shown')).to.deep.include({ addsUp: true, differences: [] });
    expect((await book.sql('select count(distinct due::time)::int as n from tasks'))[0]).to.deep.equal({ n: 1 });
  });

  it('a record that followed its event out of the window is not taken for edited when the lane shows it differently', async () => {
    await book.use({ moved: { write: ['title', 'first', 'last', 'starts', 'ends'] } });
    await book.sql(`create table moved (id int primary key, title text, first date, last date, starts timestamp, ends timestamp);
      insert into moved values (1, 'Quill grand', '${day(5)}', '${day(6)}', '${day(5)} 10:00', '${day(5)} 11:00')`);
    const file = (when: object) => ({
      direction: '<->',
      window: { behind: 3, ahead: 20 },
      may: { records: { create: false, remove: false } },
      moments: [{ name: 'visit', when }],
      fields: { title: { copy: 'title' } },
    });
    const lane = await book.lane('moved', 'moved', file({ first: 'first', last: 'last', lastCounts: true }));
    await lane.run();
    const { href } = await lane.event('Quill grand');
    const plain = (n: number) => day(n).replaceAll('-', '');
    const at = (start: string, end: string) => (text: string) => text.replace(/^DTSTART.*$/m, `DTSTART${start}`).replace(/^DTEND.*$/m, `DTEND${end}`);
    await lane.edit(href, at(`;VALUE=DATE:${plain(60)}`, `;VALUE=DATE:${plain(61)}`));
    await lane.run();
    expect((await book.sql('select first::text from moved'))[0]).to.deep.equal({ first: day(60) });
    const { definition, version } = await office.client.lane('moved');
    const next = { ...definition, moments: file({ start: 'starts', end: 'ends' }).moments };
    await office.client.changeLane('moved', version, next);
    await lane.put('by-hand', `SUMMARY:Somebody else's\r\nDTSTART:${plain(9)}T090000Z\r\nDTEND:${plain(9)}T100000Z`);
    const { events } = await office.client.preview({ definition: next, lane: 'moved' });
    expect(events, 'of a lane that makes no records').to.include({ read: 2, crossing: 0, own: 1 });
    expect(events!.reasons.map((r) => [r.reason, r.count])).to.deep.equal([['not made here', 1]]);
    await lane.edit(href, at(`:${plain(8)}T090000Z`, `:${plain(8)}T100000Z`));
    await lane.run();
    expect(await holds('moved')).to.deep.equal([]);
    expect((await book.sql('select starts::text from moved'))[0]).to.deep.equal({ starts: `${day(8)} 09:00:00` });
  });

  it('an event that was not chosen becomes no record by itself', async () => {
    await book.use({ chosen: { write: ['title', 'starts'], create: true, remove: true } });
    await book.sql(`create table chosen (id uuid primary key default gen_random_uuid(), title text, starts timestamp);
      insert into chosen (title, starts) values ('Alder spinet', '${day(6)} 10:00')`);
    const lane = await book.lane('chosen', 'chosen', {
      direction: '<->',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
    });
    const at = day(6).replaceAll('-', '');
    for (const uid of ['one', 'two'])
      await lane.put(uid, `SUMMARY:Alder spinet\r\nDTSTART;TZID=Europe/London:${at}T100000\r\nDTEND;TZID=Europe/London:${at}T110000`);
    await lane.run();
    const [hold] = await holds('chosen');
    const { definition } = await office.client.lane('chosen');
    const { events } = await office.client.preview({ definition, lane: 'chosen' });
    expect(events, 'in the editor').to.include({ read: 2, crossing: 0, own: 0 });
    expect(events!.reasons.map((r) => [r.reason, r.count])).to.deep.equal([['several candidates', 2]]);
    await office.client.settle(hold!.id, 'take one');
    await eventually('it is taken', async () => (await holds('chosen')).length === 0);
    await lane.run({ sweep: true });
    expect((await office.client.forecast('chosen')).counts).to.include({ created: 0 });
    expect(await book.sql('select title from chosen')).to.have.length(1);
    expect((await office.client.why('chosen', 'two')).why).to.match(/no longer follows it/);
  });

  it('a row that names an event which has been there for long gets that event, and no second one', async () => {
    await book.use({ linked: { write: ['title', 'starts', 'uid'] } });
    await book.sql(`create table linked (id int primary key, title text, starts timestamp, uid text);
      insert into linked values (1, 'First', '${day(6)} 10:00', null)`);
    const lane = await book.lane('linked', 'linked', {
      direction: '->',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
      link: 'uid',
    });
    const at = day(8).replaceAll('-', '');
    await lane.put('older', `SUMMARY:Entered by hand\r\nDTSTART;TZID=Europe/London:${at}T100000\r\nDTEND;TZID=Europe/London:${at}T110000`);
    await lane.run();
    await book.sql(`insert into linked values (2, 'Second', '${day(8)} 10:00', 'older')`);
    expect((await lane.run()).counts).to.include({ adopted: 1, created: 0 });
    expect(await lane.texts()).to.have.length(2);
  });

  it('a row that is entered after its event, long after, gets that event, and no second one', async () => {
    await book.use({ late: { write: ['title', 'starts'] } });
    await book.sql(`create table late (id int primary key, title text, starts timestamp);
      insert into late values (1, 'First', '${day(6)} 10:00')`);
    const lane = await book.lane('late', 'late', {
      direction: '->',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
    });
    const at = day(8).replaceAll('-', '');
    await lane.put('by-hand', `SUMMARY:Second\r\nDTSTART;TZID=Europe/London:${at}T100000\r\nDTEND;TZID=Europe/London:${at}T110000`);
    await lane.run();
    await book.sql(`insert into late values (2, 'Second', '${day(8)} 10:00'), (3, 'Third', '${day(8)} 10:00')`);
    expect((await lane.run()).counts).to.include({ adopted: 1, created: 1 });
    expect(await lane.texts()).to.have.length(3);
  });

  it('a lane that was stopped, and what it made removed, makes it again when it is started', async () => {
    await book.use({ stopped: { write: ['title', 'starts'], create: true, remove: true } });
    await book.sql(`create table stopped (id uuid primary key default gen_random_uuid(), title text, starts timestamp)`);
    const lane = await book.lane('stopped', 'stopped', {
      direction: '<-',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
    });
    const at = day(6).replaceAll('-', '');
    for (const uid of ['a', 'b', 'c']) await lane.put(uid, `SUMMARY:Visit ${uid}\r\nDTSTART:${at}T100000Z\r\nDTEND:${at}T110000Z`);
    await office.client.resume('stopped');
    await eventually('three rows', async () => (await book.sql('select 1 from stopped')).length === 3);
    await office.client.stopLane('stopped', 'remove');
    await eventually('none', async () => (await book.sql('select 1 from stopped')).length === 0);
    await office.client.resume('stopped');
    await eventually('three rows again', async () => (await book.sql('select 1 from stopped')).length === 3);
    expect(await office.client.audit('stopped')).to.deep.include({ addsUp: true, differences: [] });
  });

  it('an edit by a program that does not move its time stamp is not taken for the earlier one', async () => {
    await book.use({ stamped: { write: ['title', 'starts'], modified: 'changed' } });
    await book.sql(`create table stamped (id int primary key, title text, starts timestamp, changed timestamptz default now());
      insert into stamped values (1, 'Alder spinet', '${day(6)} 10:00', now() - interval '1 day')`);
    const lane = await book.lane('stamped', 'stamped', {
      direction: '<->',
      may: { records: { create: false, remove: false } },
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
      conflicts: { rule: 'later edit wins', tolerance: 0 },
    });
    await lane.run();
    await book.sql(`update stamped set title = 'Here', changed = now() + interval '1 hour'`);
    await lane.run();
    await lane.edit((await lane.event()).href, (t) => t.replace(/^SUMMARY:.*$/m, 'SUMMARY:There, later'));
    await book.sql(`update stamped set title = 'Here again', changed = now() + interval '2 hours'`);
    expect((await lane.run()).counts).to.include({ held: 1 });
    expect((await lane.event()).text).to.match(/SUMMARY:There/);
  });

  it('an event without a class is public: the record that it becomes says so', async () => {
    await book.use({ classed: { write: ['title', 'starts', 'shown', 'state', 'free'], create: true } });
    await book.sql(
      `create table classed (id uuid primary key default gen_random_uuid(), title text, starts timestamp, shown text, state text, free text)`,
    );
    const lane = await book.lane('classed', 'classed', {
      direction: '<-',
      events: { filter: 'visibility is public and status is confirmed and busy is busy' },
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: {
        title: { copy: 'title' },
        visibility: { table: 'shown', values: { open: 'public', closed: 'private' } },
        status: { table: 'state', values: { sure: 'confirmed' } },
        busy: { table: 'free', values: { no: 'busy', yes: 'free' } },
      },
    });
    const at = day(6).replaceAll('-', '');
    await lane.put('plain', `SUMMARY:Plain\r\nDTSTART:${at}T100000Z\r\nDTEND:${at}T110000Z`);
    await lane.run();
    expect(await book.sql('select shown, state, free from classed')).to.deep.equal([{ shown: 'open', state: 'sure', free: 'no' }]);
    expect((await lane.run({ sweep: true })).counts).to.include({ changed: 0, inSync: 0 });
  });

  it('an event that has a copy under the same UID outlives it, and both are named', async () => {
    await book.use({ copied: { write: ['title', 'starts'], create: true, remove: true } });
    await book.sql(`create table copied (id uuid primary key default gen_random_uuid(), title text, starts timestamp)`);
    const lane = await book.lane('copied', 'copied', {
      direction: '<-',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
      departures: { eventDeleted: 'delete record' },
    });
    const at = day(6).replaceAll('-', '');
    const text = eventText('twin', `SUMMARY:Twin\r\nDTSTART:${at}T100000Z\r\nDTEND:${at}T110000Z`);
    await lane.put('twin-a', text);
    await lane.run();
    // The server refuses a second event of that UID; some do not, and an administrator can copy files.
    copyFile(lane.calendar, 'twin-a.ics', 'twin-b.ics');
    await lane.run();
    const [row] = await book.sql('select id from copied');
    expect((await office.client.why('copied', `${lane.calendar}twin-b.ics`)).why).to.match(/same UID: the lane follows .*twin-a/);
    expect((await office.client.why('copied', String(row!['id']))).why).to.match(/a copy is at .*twin-b/);
    expect(await office.client.audit('copied'))
      .to.deep.include({ addsUp: true })
      .and.nested.property('counts')
      .include({ inSync: 1, foreign: 1, events: 2 });
    await dav(office.diary, 'DELETE', `${lane.calendar}twin-a.ics`);
    await lane.run();
    expect(await book.sql('select title from copied')).to.have.length(1);
  });

  it('where a lane takes no series, none is moved by a record, and an event that is made to repeat is a question', async () => {
    await book.use({ weekly: { write: ['title', 'starts'] } });
    await book.sql(`create table weekly (id int primary key, title text, starts timestamp);
      insert into weekly values (1, 'Choir', '${day(6)} 18:00')`);
    const lane = await book.lane('weekly', 'weekly', {
      direction: '<->',
      may: { records: { create: false, remove: false } },
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
    });
    await lane.run();
    await lane.edit((await lane.event()).href, (t) => t.replace('END:VEVENT', 'RRULE:FREQ=WEEKLY;COUNT=5\r\nEND:VEVENT'));
    expect((await lane.run()).counts).to.include({ held: 1 });
    expect((await holds('weekly'))[0]).to.include({ question: 'repeating event' });
    const before = line((await lane.event()).text, 'DTSTART');
    await book.sql(`update weekly set starts = starts + interval '1 day'`);
    await lane.run();
    expect(line((await lane.event()).text, 'DTSTART')).to.equal(before);
    await lane.edit((await lane.event()).href, (t) => t.replace(/^RRULE.*\r?\n/m, ''));
    await lane.run();
    expect(await holds('weekly'), 'a single event again').to.deep.equal([]);
    expect(line((await lane.event()).text, 'DTSTART')).to.equal(`DTSTART;TZID=Europe/London:${day(7).replaceAll('-', '')}T180000`);
  });

  it('times in a zone that only the event defines are read by its definition, and written back in it', async () => {
    await book.use({ zoned: { write: ['title', 'starts'], create: true } });
    await book.sql(`create table zoned (id uuid primary key default gen_random_uuid(), title text, starts timestamptz)`);
    const lane = await book.lane('zoned', 'zoned', {
      direction: '<->',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
    });
    const zone = (tzid: string, standard: string, daylight: string | null, rules: [string, string] = ['', '']) =>
      `BEGIN:VTIMEZONE\r\nTZID:${tzid}\r\nBEGIN:STANDARD\r\nDTSTART:19701101T020000\r\n${rules[0]}TZOFFSETFROM:${daylight ?? standard}\r\nTZOFFSETTO:${standard}\r\nEND:STANDARD\r\n${daylight === null ? '' : `BEGIN:DAYLIGHT\r\nDTSTART:19700308T020000\r\n${rules[1]}TZOFFSETFROM:${standard}\r\nTZOFFSETTO:${daylight}\r\nEND:DAYLIGHT\r\n`}END:VTIMEZONE\r\n`;
    const inZone = (uid: string, tzid: string, definition: string) =>
      eventText(uid, `SUMMARY:${uid}\r\nDTSTART;TZID=${tzid}:20270715T120000\r\nDTEND;TZID=${tzid}:20270715T130000`).replace(
        'BEGIN:VEVENT',
        `${definition}BEGIN:VEVENT`,
      );
    const american: [string, string] = ['RRULE:FREQ=YEARLY;BYMONTH=11;BYDAY=1SU\r\n', 'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=2SU\r\n'];
    await lane.put('odd', inZone('odd', 'Odd', zone('Odd', '+0537', null)));
    await lane.put(
      'halifax',
      inZone(
        'halifax',
        '/freeassociation.sourceforge.net/America/Halifax',
        zone('/freeassociation.sourceforge.net/America/Halifax', '-0400', '-0300', american),
      ),
    );
    await lane.put('custom', inZone('custom', 'Custom Zone One', zone('Custom Zone One', '-0500', '-0400', american)));
    await lane.run();
    const starts = await book.sql(`select title, to_char(starts at time zone 'UTC', 'HH24:MI') as at from zoned order by title`);
    expect(starts).to.deep.equal([
      { title: 'custom', at: '16:00' },
      { title: 'halifax', at: '15:00' },
      { title: 'odd', at: '06:23' },
    ]);
    await book.sql(`update zoned set starts = starts + interval '7 months' where title in ('custom', 'odd')`);
    await lane.run();
    expect(line((await lane.event('SUMMARY:custom')).text, 'DTSTART'), 'in winter, at its own clock').to.equal(
      'DTSTART;TZID=Custom Zone One:20280215T110000',
    );
    expect(line((await lane.event('SUMMARY:odd')).text, 'DTSTART')).to.equal('DTSTART;TZID=Odd:20280215T120000');
    expect(await office.client.audit('zoned')).to.deep.include({ addsUp: true, differences: [] });
  });
});
