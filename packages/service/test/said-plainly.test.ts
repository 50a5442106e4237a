import { expect } from 'chai';
import { type Book, openBook } from '../../../test/support/book.ts';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { dav, eventually } from '../../../test/support/servers.ts';

const day = (offset: number) => new Date(Date.now() + offset * 86_400_000).toISOString().slice(0, 10);
const compact = (text: string) => text.replaceAll('-', '');
const refusal = (work: Promise<unknown>) =>
  work.then(
    () => expect.fail('it was accepted'),
    (e) => e,
  );

/** What can be found, and what is said of it: for people who look for a reason. */
describe('everything can be found, and says why it is so', () => {
  let office: Office;
  let book: Book;
  before(async function () {
    this.timeout(60_000);
    office = await openOffice({ seed: plainVisits(3), withLane: false });
    book = await openBook(office);
  });
  after(async () => {
    await book?.close();
    await office?.stop();
  });

  it('counts what failed as failed, in forecasts and runs, and what is left out as left out', async () => {
    await book.sql(`create table counted (id int primary key, title text, starts timestamp, length int, state text);
      insert into counted values (1, 'Fine', '${day(3)} 10:00', 60, 'booked'), (2, 'No length', '${day(3)} 12:00', null, 'booked'), (3, 'Elsewhere', '${day(3)} 14:00', 60, 'called off')`);
    await book.use({ counted: { types: { length: 'duration' } } });
    const lane = await book.lane('counted', 'counted', {
      direction: '->',
      filter: 'state is booked',
      moments: [{ name: 'visit', when: { start: 'starts', length: 'length' } }],
      fields: { title: { copy: 'title' } },
    });
    expect((await office.client.forecast('counted')).counts).to.include({ created: 1, failed: 1, leftOut: 1 });
    expect((await lane.run()).counts).to.include({ created: 1, failed: 1, leftOut: 1 });
    const [failed] = (await office.client.failures('counted')).items;
    expect(failed).to.deep.include({ reason: 'unfit value', count: 1 });
    expect(await office.client.audit('counted'))
      .to.deep.include({ addsUp: true })
      .and.nested.property('counts')
      .include({ moments: 3, inSync: 1, missing: 1, leftOut: 1 });
  });

  for (const [what, more, pointer, reason] of [
    [
      'a fixed value that can never fit',
      { fields: { title: { copy: 'title' }, attendees: { fixed: ['nobody at all'] } } },
      '/fields/attendees/fixed',
      /"nobody at all" can never fit: .*no e-mail address/,
    ],
    ['a fixed text that is too long', { fields: { title: { fixed: 'x'.repeat(1001) } } }, '/fields/title/fixed', /takes 1000/],
    [
      'a number as a length, with the way out',
      { moments: [{ name: 'visit', when: { start: 'starts', length: 'minutes' } }] },
      '/moments/0/when/length',
      /types: \{ minutes: duration \}/,
    ],
    [
      'an unknown property, with what there is',
      { fields: { titl: { copy: 'title' } } },
      '/fields/titl',
      /"titl" is not known in fields; there are .*did you mean "title"\?/,
    ],
    ['an unknown setting, with what was meant', { windw: null, fields: { title: { copy: 'title' } } }, '/windw', /did you mean "window"\?/],
    [
      'a table without a key, which says so',
      { records: { system: 'book', collection: 'keyless' }, fields: { title: { copy: 'title' } } },
      '/records/collection',
      /cannot be used: it has no primary key/,
    ],
  ] as const)
    it(`refuses ${what}`, async () => {
      await book.sql(
        `create table if not exists refused (id int primary key, title text, starts timestamp, minutes int); create table if not exists keyless (title text)`,
      );
      await book.use({});
      const file = {
        direction: '->',
        moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
        fields: { title: { copy: 'title' } },
        ...more,
      };
      const refused = await refusal(book.lane('refused', 'refused', file));
      expect(refused).to.include({ status: 422 });
      const [problem] = refused.problems;
      expect(problem.pointer).to.equal(pointer);
      expect(problem.reason).to.match(reason);
    });

  it('takes plain text columns for links, conferences, categories, and the UID of an event', async () => {
    await book.use({ linked: {} });
    await book.sql(`create table linked (id int primary key, title text, starts timestamp, url text, room text, words text, uid text);
      insert into linked values (1, 'A', '${day(3)} 10:00', 'https://alder-wren.example/1', 'https://rooms.example/1', 'grand', null)`);
    const lane = await book.lane('text-columns', 'linked', {
      direction: '->',
      link: 'uid',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' }, link: { copy: 'url' }, conference: { copy: 'room' }, categories: { copy: 'words' } },
    });
    expect((await lane.run()).counts).to.include({ created: 1, failed: 0 });
    expect((await lane.event()).text).to.match(/URL:https:\/\/alder-wren.example\/1/);
  });

  it('finds every moment of a record, a removed record, an event by its UID, and an unreadable one by its title', async () => {
    await book.use({ found: { write: ['title', 'starts'] } });
    await book.sql(`create table found (id int primary key, title text, starts timestamp, ends timestamp);
      insert into found values (1, 'Alder spinet', '${day(3)} 10:00', null), (12, 'Wren grand', '${day(3)} 12:00', '${day(9)} 12:00')`);
    const lane = await book.lane('found', 'found', {
      direction: '<->',
      may: { records: { create: false, remove: false } },
      moments: [
        { name: 'delivery', when: { start: 'starts', minutes: 60 } },
        { name: 'collection', when: { start: 'ends', minutes: 60 }, direction: '->' },
      ],
      fields: { title: { copy: 'title' } },
      departures: { recordDeleted: 'remove' },
    });
    const at = compact(day(5));
    await lane.put('loose', `SUMMARY:Entered by hand\r\nDTSTART:${at}T100000Z`);
    await lane.run();
    const one = await office.client.why('found', '1');
    expect(one.recordId, 'by its id, not as a part of another').to.equal('1');
    expect(one.moments.map((m) => [m.moment, m.state, m.why])).to.deep.equal([
      ['delivery', 'in sync', ''],
      ['collection', 'left out', 'no date: ends is not empty; found (empty)'],
    ]);
    expect((await office.client.items('found', { search: '1' })).items[0]!.recordId).to.equal('1');
    const loose = await office.client.why('found', 'loose');
    expect(loose).to.include({ label: 'Entered by hand', recordId: null });
    expect(loose.why).to.match(/makes no records of events/);
    await lane.edit((await lane.event('Alder spinet')).href, (t) => t.replace('SUMMARY:Alder spinet', 'SUMMARY:Alder spinet restrung'));
    await lane.run();
    expect((await office.client.items('found', { search: 'restrung' })).items[0]).to.include({ label: 'Alder spinet restrung' });
    await book.sql('delete from found where id = 12');
    await lane.run();
    expect((await office.client.why('found', '12')).why).to.match(/^The record was deleted/);
  });

  it('names an event that cannot be read by the title that still stands in it', async () => {
    await book.use({ unread: { write: ['title', 'starts'], create: true } });
    await book.sql('create table unread (id uuid primary key default gen_random_uuid(), title text, starts timestamp)');
    const lane = await book.lane('unread', 'unread', {
      direction: '<-',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
    });
    const href = await lane.put('odd', `SUMMARY:A day too many\r\nDTSTART;TZID=Nowhere/At/All:${compact(day(5))}T100000`);
    await lane.run();
    expect((await office.client.items('unread', { search: 'too many' })).items[0]).to.include({ href, state: 'failed' });
    expect((await office.client.failures('unread')).items[0]!.items[0]).to.include({ label: 'A day too many' });
  });

  it('follows again what it had unlinked from', async () => {
    await book.use({ unlinked: { write: ['title'] } });
    await book.sql(
      `create table unlinked (id int primary key, title text, starts timestamp); insert into unlinked values (1, 'Alder spinet', '${day(3)} 10:00')`,
    );
    const lane = await book.lane('unlinked', 'unlinked', {
      direction: '->',
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 } }],
      fields: { title: { copy: 'title' } },
      departures: { eventDeleted: 'unlink' },
    });
    await lane.run();
    await office.client.resume('unlinked');
    const run = await lane.run({ sweep: true });
    await dav(office.diary, 'DELETE', (await lane.event()).href);
    await lane.run();
    expect((await office.client.why('unlinked', '1')).state).to.equal('unlinked');
    const again = await office.client.follow('unlinked', '1');
    await eventually('it is made again', async () => (await lane.texts()).length === 1);
    expect((await eventually('the journal', async () => (await office.client.journal({ run: again.id })).items)).map((e) => e.kind)).to.include(
      'follow',
    );
    expect((await refusal(office.client.follow('unlinked', '1'))).status).to.equal(409);
    expect(run.state).to.equal('done');
  });

  it('says that a named record is not there, and warns of a second lane on the same two sides', async () => {
    const refused = await refusal(office.client.run('unlinked', { records: ['NOPE'] }));
    expect(refused.message).to.match(/there is no record "NOPE" in unlinked/);
    const lane = await office.client.lane('unlinked');
    await office.client.makeLane('twin', { ...lane.definition, name: 'Twin' }, false);
    expect((await office.client.forecast('twin')).warnings.join()).to.match(/"unlinked" ties the same two sides/);
    const { text } = await office.client.laneFile('twin');
    expect((await office.client.checkLaneFile('triplet', text)).warnings).to.have.length(2);
    expect((await office.client.checkLaneFile('twin', text)).warnings).to.have.length(1);
  });

  it('checks what the settings of a system name, and shows no failure of before once they are changed', async () => {
    const zone = await refusal(office.client.changeSystem('book', { settings: { zone: 'Europe/Lodnon' } }));
    expect(zone.problems[0]).to.deep.include({ pointer: '/settings/zone' });
    await book.use({ missing: {} });
    const steps = (await office.client.checkSystem('book')).steps;
    expect(steps.find((s) => s.name === 'collection missing'))
      .to.include({ outcome: 'failed' })
      .and.property('detail')
      .match(/no table or view "missing"/);
    expect((await office.client.system('book')).health.state).to.equal('failing');
    await book.use({});
    await eventually('it is checked again by itself', async () => (await office.client.system('book')).health.state === 'well');
    expect((await office.client.checkSystem('diary')).steps.find((s) => s.name === 'push')?.detail).to.not.match(/trigger/);
  });

  it('shows no delay for an edit whose time is not known', async () => {
    await book.use({ delayed: { write: ['title'], modified: 'changed' } });
    await book.sql(
      `create table delayed (id int primary key, title text, starts timestamp, changed timestamptz default now() - interval '1 day'); insert into delayed values (1, 'Alder spinet', '${day(3)} 10:00')`,
    );
    const lane = await book.lane('delayed', 'delayed', {
      direction: '<->',
      may: { records: { create: false, remove: false } },
      moments: [{ name: 'visit', when: { start: 'starts', minutes: 60 }, direction: '->' }],
      fields: { title: { copy: 'title' } },
    });
    await lane.run();
    await lane.put('x', 'SUMMARY:Other\r\nDTSTART:20300101T100000Z');
    await lane.edit((await lane.event('spinet')).href, (t) => t.replace('END:VEVENT', 'LAST-MODIFIED:20200101T000000Z\r\nEND:VEVENT'));
    await lane.run();
    await office.client.resume('delayed');
    await lane.edit((await lane.event('spinet')).href, (t) => t.replace('SUMMARY:Alder spinet', 'SUMMARY:Alder spinet restrung'));
    await eventually('it crosses', async () => {
      await lane.run();
      return (await book.sql('select title from delayed'))[0]!['title'] === 'Alder spinet restrung';
    });
    expect((await office.client.lane('delayed')).delay).to.equal(null);
  });
});
