import { ServiceProblem } from '@monsoon/contract/client';
import { expect } from 'chai';
import { type Book, type BookLane, eventText, openBook } from '../../../test/support/book.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { eventually } from '../../../test/support/servers.ts';

/** Appointments with their guests, and a table with a row for each guest. */
const tables = `
  create table appointments (id serial primary key, title text, start timestamptz, minutes int, guests text[]);
  create table attendance (id serial primary key, appointment int not null references appointments, email text not null, name text, reply text);`;
const appointments = { types: { guests: 'people', minutes: 'duration' }, write: ['title', 'start', 'minutes', 'guests'], create: true };
const attendanceTable = { write: ['appointment', 'email', 'name', 'reply'], create: true, remove: true };
const rows = { rows: 'attendance', record: 'appointment', guest: 'email', name: 'name', reply: 'reply', make: true, uninvited: 'off' };
const lane = (map: object = rows) => ({
  direction: '<->',
  foreignEdits: 'leave',
  moments: [{ name: 'appointment', when: { start: 'start', length: 'minutes' } }],
  fields: { title: { copy: 'title' }, attendees: { copy: 'guests' }, replies: map },
});

describe('guests as rows of another collection', function () {
  this.timeout(60_000);
  let office: Office;
  let book: Book;
  let appts: BookLane;
  const attendance = (id: number) => book.sql('select email, name, reply from attendance where appointment = $1 order by id', [id]);

  before(async () => {
    office = await openOffice({ withLane: false, notices: false });
    book = await openBook(office);
    await book.sql(tables);
    await book.use({ appointments, attendance: attendanceTable });
    appts = await book.lane('appointments', 'appointments', lane());
  });
  after(async () => {
    await book.close();
    await office.stop();
  });

  const made = async (title: string, guests: string): Promise<number> =>
    Number(
      (
        await book.sql(`insert into appointments (title, start, minutes, guests) values ($1, '2027-03-02 09:00Z', 60, $2) returning id`, [
          title,
          guests.split(', '),
        ])
      )[0]!['id'],
    );

  it('are made with the event of a record, as the forecast says', async () => {
    const id = await made('Harp', 'ada.lark@post.example');
    const { operations } = await office.client.forecast('appointments');
    expect(operations[0]!.changes.find((c) => c.side === 'record')).to.deep.include({
      property: 'guests in attendance',
      after: [{ email: 'ada.lark@post.example', response: 'needs action' }],
    });
    await appts.run();
    expect(await attendance(id)).to.deep.equal([{ email: 'ada.lark@post.example', name: null, reply: 'needs action' }]);
    expect((await appts.run({ sweep: true })).counts).to.include({ changed: 0 });
  });

  it('get the replies; who comes on the calendar gets a row, and who is not invited any more keeps it', async () => {
    const id = await made('Lute', 'ada.lark@post.example');
    await appts.run();
    const { href } = await appts.event('SUMMARY:Lute');
    await appts.edit(href, (text) =>
      text
        .replace(/(ATTENDEE[^:]*):mailto:ada/, '$1;PARTSTAT=ACCEPTED:mailto:ada')
        .replace(/;PARTSTAT=NEEDS-ACTION/, '')
        .replace('END:VEVENT', 'ATTENDEE;CN=Ben Moor:mailto:ben@post.example\r\nEND:VEVENT'),
    );
    await appts.run();
    expect(await attendance(id)).to.deep.equal([
      { email: 'ada.lark@post.example', name: null, reply: 'accepted' },
      { email: 'ben@post.example', name: 'Ben Moor', reply: 'needs action' },
    ]);
    expect((await book.sql('select guests from appointments where id = $1', [id]))[0]!['guests']).to.include('ben@post.example');
    await appts.edit(href, (text) => text.replace(/ATTENDEE[^\n]*mailto:ben[^\n]*\n/, ''));
    await appts.run();
    expect((await attendance(id)).map((r) => r['reply'])).to.deep.equal(['accepted', 'off']);
  });

  it('keep what a person writes into a row, and get only what is news', async () => {
    const id = await made('Viol', 'ada.lark@post.example, ben@post.example');
    await appts.run();
    await book.sql(`update attendance set reply = 'was there' where appointment = $1 and email like 'ada%'`, [id]);
    const { href } = await appts.event('SUMMARY:Viol');
    await appts.edit(href, (text) => text.replace(/(ATTENDEE[^\n]*?)(;PARTSTAT=NEEDS-ACTION)?([^\n]*mailto:ben)/, '$1;PARTSTAT=DECLINED$3'));
    await appts.run();
    expect((await attendance(id)).map((r) => r['reply'])).to.deep.equal(['was there', 'declined']);
    expect((await appts.run({ sweep: true })).counts).to.include({ changed: 0 });
  });

  it('are taken away again by an undo of the run that made them', async () => {
    const id = await made('Rebec', 'ada.lark@post.example');
    await appts.run();
    const { href } = await appts.event('SUMMARY:Rebec');
    await appts.edit(href, (text) => text.replace('END:VEVENT', 'ATTENDEE:mailto:ben@post.example\r\nEND:VEVENT'));
    const run = await appts.run();
    expect(await attendance(id)).to.have.length(2);
    await office.client.undo({ run: run.id });
    await eventually('the row is gone', async () => (await attendance(id)).length === 1);
  });

  it('are made again where somebody deleted one and the guest replies', async () => {
    const id = await made('Sackbut', 'ada.lark@post.example');
    await appts.run();
    await book.sql('delete from attendance where appointment = $1', [id]);
    const { href } = await appts.event('SUMMARY:Sackbut');
    await appts.edit(href, (text) => text.replace(/(ATTENDEE[^:]*?)(;PARTSTAT=NEEDS-ACTION)([^:]*:mailto:ada)/, '$1;PARTSTAT=ACCEPTED$3'));
    await appts.run();
    await appts.run({ sweep: true });
    expect(await attendance(id)).to.deep.equal([{ email: 'ada.lark@post.example', name: null, reply: 'accepted' }]);
    expect((await office.client.holds()).items).to.deep.equal([]);
  });

  it('come with a record that is made of an event; a row that its table refuses is tried again, and the record is not made twice', async () => {
    await book.sql(`alter table attendance add constraint short check (length(email) < 20) not valid`);
    await appts.put(
      'choir',
      eventText(
        'choir',
        'SUMMARY:Choir\r\nDTSTART:20270303T180000Z\r\nDTEND:20270303T190000Z\r\nATTENDEE:mailto:una@post.example\r\nATTENDEE:mailto:long.address@post.example',
      ),
    );
    await appts.run();
    const all = await book.sql(`select id from appointments where title = 'Choir'`);
    expect(all).to.have.length(1);
    const id = Number(all[0]!['id']);
    const entry = (await office.client.journal({ lane: 'appointments', limit: 20 })).items.find((e) => e.kind === 'create record');
    expect(entry?.notes.join(), 'the journal says so').to.match(/replies could not be written, and is tried again: .*short/);
    await book.sql('alter table attendance drop constraint short');
    await appts.run({ sweep: true });
    expect((await attendance(id)).map((r) => r['email'])).to.have.members(['una@post.example', 'long.address@post.example']);
    expect(await book.sql(`select id from appointments where title = 'Choir'`)).to.have.length(1);
  });

  it('refer to people of a third collection, where guests who are not among them are listed', async () => {
    await book.sql(`
      create table contact (id serial primary key, name text, email text);
      insert into contact (name, email) values ('Ada Lark', 'ada.lark@post.example'), ('Ben Moor', 'ben@post.example');
      create table meeting (id serial primary key, title text, start timestamptz, minutes int, people int[] not null default '{}');
      create table visitor (meeting int references meeting, contact int references contact, reply text, primary key (meeting, contact));`);
    await book.use({
      appointments,
      attendance: attendanceTable,
      meeting: { types: { people: 'references', minutes: 'duration' }, write: ['title', 'start', 'minutes', 'people'], create: true },
      visitor: { write: ['meeting', 'contact', 'reply'], create: true },
    });
    const meetings = await book.lane('meetings', 'meeting', {
      ...lane({ rows: 'visitor', record: 'meeting', guest: 'contact', in: 'contact', reply: 'reply', make: true }),
      fields: {
        title: { copy: 'title' },
        attendees: { people: 'people', in: 'contact' },
        replies: { rows: 'visitor', record: 'meeting', guest: 'contact', in: 'contact', reply: 'reply', make: true },
      },
    });
    const lines =
      'DTSTART:20270304T090000Z\r\nDTEND:20270304T100000Z\r\nATTENDEE;PARTSTAT=ACCEPTED:mailto:BEN@post.example\r\nATTENDEE:mailto:zelda@elsewhere.example';
    await meetings.put('quartet', eventText('quartet', `SUMMARY:Quartet\r\n${lines}`));
    await meetings.run();
    expect(await book.sql('select meeting, contact, reply from visitor')).to.deep.equal([{ meeting: 1, contact: 2, reply: 'accepted' }]);
    const item = await office.client.item('meetings', '1');
    expect(item.history[0]!.notes).to.include('without a row in visitor, so kept on the calendar alone: zelda@elsewhere.example');
    expect(item.record.values!['attendees'], 'the item says whom the record means').to.deep.equal([{ email: 'ben@post.example' }]);
  });

  it('are refused with the reason where they cannot be kept', async () => {
    const wrong = async (map: object) => {
      try {
        await office.client.makeLane('wrong', {
          ...lane(map),
          name: 'Wrong',
          zone: 'Europe/London',
          records: { system: 'book', collection: 'appointments' },
          calendar: { system: 'diary', calendar: appts.calendar },
        });
        return 'it was made';
      } catch (error) {
        return error instanceof ServiceProblem ? JSON.stringify(error.problems) : String(error);
      }
    };
    expect(await wrong({ ...rows, rows: 'attendence' })).to.match(/\/fields\/replies\/rows.*there is no collection .*attendence.*attendance/);
    expect(await wrong({ ...rows, reply: 'answer' })).to.match(/\/fields\/replies\/reply.*there is no field .*answer/);
    expect(await wrong({ ...rows, reply: undefined, uninvited: undefined, make: false })).to.include('nothing would be written');
    expect(await wrong({ ...rows, direction: '<->' })).to.include('guests reply to the event');
    expect(await wrong({ ...rows, email: 'mail' })).to.include('which is not given');
    expect(await wrong({ rows: 'attendance', guest: 'email' })).to.include('rows needs record');
    expect(await wrong({ ...rows, make: 'yes' })).to.include('make is true or false');
  });
});
