import { randomUUID } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import ICAL from 'ical.js';
import nodemailer from 'nodemailer';
import { startFrontDesk, startStandin } from '../../../test/support/front-desk.ts';
import { furnish, getToken, type Office, openOffice, spawnService } from '../../../test/support/office.ts';
import { cyrus, dav, eventually, freshDatabase } from '../../../test/support/servers.ts';

interface Mail {
  from: string;
  to: string[];
  subject: string;
  text: string;
  html: string | null;
  headers: Record<string, string>;
  parts: { type: string; text: string }[];
}

/** What a program that takes iTIP (RFC 5546) must find in a message; an independent reader. */
function readItip(mail: Mail) {
  const part = mail.parts.find((p) => p.type === 'text/calendar');
  expect(part, 'a calendar part').to.not.equal(undefined);
  const calendar = new ICAL.Component(ICAL.parse(part!.text));
  const events = calendar.getAllSubcomponents('vevent');
  expect(events).to.have.length(1);
  const event = events[0]!;
  const value = (name: string) => event.getFirstPropertyValue(name);
  for (const name of ['uid', 'dtstamp', 'organizer', 'sequence']) expect(value(name), name).to.not.equal(null);
  expect(calendar.getFirstPropertyValue('version')).to.equal('2.0');
  expect(
    part!.text.split('\r\n').every((line) => Buffer.byteLength(line) <= 75),
    'lines of 75 octets',
  ).to.equal(true);
  expect(part!.text).to.not.match(/X-MONSOON|VALARM/);
  return {
    method: String(calendar.getFirstPropertyValue('method')),
    uid: String(value('uid')),
    sequence: Number(value('sequence')),
    start: String(value('dtstart')),
    status: value('status') === null ? null : String(value('status')),
    organizer: String(value('organizer')),
    guests: event.getAllProperties('attendee').map((a) => ({ address: String(a.getFirstValue()), partstat: a.getParameter('partstat') })),
    zones: calendar.getAllSubcomponents('vtimezone').map((z) => String(z.getFirstPropertyValue('tzid'))),
  };
}

const invitations = { by: 'mail', wait: 0 };
const fields = {
  title: { join: '{kind}[, {instrument}]', edit: 'instrument' },
  location: { copy: 'notes', direction: '->' },
  attendees: { copy: 'guests' },
  organizer: { fixed: 'visits@alder-wren.example' },
  replies: { replies: 'replies', as: 'list' },
};
const ada = { name: 'Ada Lark', email: 'ada.lark@post.example' };
const ben = { name: 'Ben Moor', email: 'ben.moor@post.example' };

/** Puts a mail into a mailbox of the post room, as it stands. */
async function smtpSend(said: string, to: string, raw: string): Promise<void> {
  const port = Number(/smtp:\/\/127\.0\.0\.1:(\d+)/.exec(said)![1]);
  const transport = nodemailer.createTransport({ host: '127.0.0.1', port, auth: { user: 'monsoon', pass: 'post' } });
  await transport.sendMail({ envelope: { from: 'guest@post.example', to }, raw });
  transport.close();
}

describe('guests, invitations and replies', function () {
  this.timeout(60_000);
  let office: Office;
  let room: Awaited<ReturnType<typeof startStandin>>;
  const mails = async (): Promise<Mail[]> => ((await (await fetch(`${room.address}/api/mails`)).json()) as { items: Mail[] }).items;
  /** Waits for so many mails in all, and sees that no more come. */
  const sent = async (count: number): Promise<Mail[]> => {
    await eventually(`${count} mails`, async () => (await mails()).length >= count, 15_000);
    await new Promise((fine) => setTimeout(fine, 400));
    const all = await mails();
    expect(all, all.map((m) => `${m.to.join()}: ${m.subject}\n${m.text}`).join('\n')).to.have.length(count);
    return all;
  };
  const visit = (more: object) =>
    office.frontDesk.call<{ id: string }>('POST', '/visits', {
      instrument: 'Wren grand 170',
      start: '2027-03-02T09:00:00',
      time_zone: 'Europe/London',
      length_minutes: 90,
      guests: [ada],
      ...more,
    });

  beforeEach(async () => {
    room = await startStandin('post-room', ['--smtp-port', '0', '--user', 'monsoon:post']);
    office = await openOffice({
      notices: false,
      lane: {
        direction: '<->',
        may: { records: { create: false, remove: false } },
        filter: null,
        private: null,
        conflicts: { rule: 'hold' },
        fields,
        invitations,
        tell: [],
        departures: { recordDeleted: 'remove', eventDeleted: 'hold' },
      },
    });
    const settings = {
      address: `smtp://127.0.0.1:${/smtp:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1]}`,
      from: 'visits@alder-wren.example',
      user: 'monsoon',
      mailbox: `imap://127.0.0.1:${/imap:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1]}`,
      mailboxUser: 'visits@alder-wren.example',
    };
    await office.client.connect({ slug: 'post', name: 'Post', kind: 'mail', settings, secrets: { password: 'post' } });
    await office.run();
  });
  afterEach(async () => {
    await office?.stop();
    room?.stop();
  });

  it('invites a guest once, tells of a change once, and of a cancellation once', async () => {
    const { id } = await visit({});
    const foreseen = await office.client.forecast('tuning-visits');
    expect(foreseen.operations[0]!.notices).to.deep.equal([{ ...ada, method: 'REQUEST', why: 'a new guest' }]);
    await office.run();
    const second = await office.run({ sweep: true });
    expect(second.counts).to.deep.include({ changed: 0, created: 0 });
    const [invitation] = await sent(1);
    expect(invitation).to.deep.include({ to: [ada.email], subject: 'Invitation: tuning, Wren grand 170' });
    const first = readItip(invitation!);
    expect(first).to.deep.include({
      method: 'REQUEST',
      start: '2027-03-02T09:00:00',
      organizer: 'mailto:visits@alder-wren.example',
      guests: [{ address: `mailto:${ada.email}`, partstat: 'NEEDS-ACTION' }],
      zones: ['Europe/London'],
    });
    expect((await office.event(id))!.text).to.include(`ATTENDEE;CN=Ada Lark;PARTSTAT=NEEDS-ACTION;SCHEDULE-AGENT=CLIENT:mailto:${ada.email}`);

    // Another name is no news; another time is, and so is another place.
    await office.frontDesk.call('PATCH', `/visits/${id}`, { instrument: 'Wren grand 212' });
    await office.run();
    await office.frontDesk.call('PATCH', `/visits/${id}`, { start: '2027-03-03T10:00:00' });
    await office.run();
    const moved = readItip((await sent(2))[1]!);
    expect(moved).to.deep.include({ method: 'REQUEST', uid: first.uid, start: '2027-03-03T10:00:00' });
    expect(moved.sequence).to.be.greaterThan(first.sequence);

    await office.frontDesk.call('PATCH', `/visits/${id}`, { guests: [ben] });
    await office.run();
    const [, , ...third] = await sent(4);
    const off = third.find((m) => m.to[0] === ada.email)!;
    expect(readItip(off)).to.deep.include({ method: 'CANCEL', uid: first.uid, status: null });
    expect(readItip(off).guests.map((g) => g.address)).to.deep.equal([`mailto:${ada.email}`]);
    expect(readItip(third.find((m) => m.to[0] === ben.email)!).method).to.equal('REQUEST');

    await office.frontDesk.call('DELETE', `/visits/${id}`);
    await office.run({ sweep: true });
    const last = (await sent(5))[4]!;
    expect(last).to.deep.include({ to: [ben.email], subject: 'Cancelled: tuning, Wren grand 212' });
    expect(readItip(last)).to.deep.include({ method: 'CANCEL', status: 'CANCELLED' });
  });

  it('takes a reply by the link in the mail, which moves the event and the record and nothing else', async () => {
    const { id } = await visit({ guests: [ada, ben] });
    await office.run();
    const [mail] = (await sent(2)).filter((m) => m.to[0] === ada.email);
    const before = (await office.event(id))!.text;
    const link = /(http\S+\/reply\/\S+?)\?answer=accepted/.exec(mail!.text)![1]!;
    const page = await fetch(`${link}?answer=accepted`);
    expect(page.status).to.equal(200);
    const html = await page.text();
    expect(html).to.include('tuning, Wren grand 170').and.include('Tuesday 2 March 2027, 09:00 to 10:30 (Europe/London)').and.not.include('<script');
    expect((await office.frontDesk.call<{ replies: string | null }>('GET', `/visits/${id}`)).replies, 'looking is no reply').to.equal(null);

    const post = (to: string, body: Record<string, string>) => fetch(to, { method: 'POST', body: new URLSearchParams(body) });
    expect((await post(link, { answer: 'perhaps' })).status).to.equal(422);
    expect((await post(`${link.slice(0, -3)}AAA`, { answer: 'accepted' })).status, 'an altered link').to.equal(404);
    const answered = await post(link, { answer: 'accepted', comment: 'Gate code 4711\r\nATTENDEE:mailto:x@post.example' });
    expect(await answered.text()).to.include('you will come');
    await eventually('the record', async () => {
      const { replies } = await office.frontDesk.call<{ replies: string | null }>('GET', `/visits/${id}`);
      return replies === 'Ada Lark: accepted; Ben Moor: needs action';
    });
    const after = await eventually('the event', async () => {
      const { text } = (await office.event(id))!;
      return text.includes('ACCEPTED') && text;
    });
    const same = (text: string) => text.replace(/^(DTSTAMP|LAST-MODIFIED|SEQUENCE):.*\r\n/gm, '');
    expect(same(after)).to.equal(same(before).replace('CN=Ada Lark;PARTSTAT=NEEDS-ACTION', 'CN=Ada Lark;PARTSTAT=ACCEPTED'));
    await sent(2);

    // Moved, the reply says nothing any more: the guest is asked again.
    await office.frontDesk.call('PATCH', `/visits/${id}`, { start: '2027-03-09T09:00:00' });
    await office.run();
    await sent(4);
    expect((await office.frontDesk.call<{ replies: string | null }>('GET', `/visits/${id}`)).replies).to.equal(
      'Ada Lark: needs action; Ben Moor: needs action',
    );
  });

  it('takes replies by mail in any order, and asks a person about another time', async () => {
    const { id } = await visit({});
    await office.run();
    const [mail] = await sent(1);
    const replies = async () => (await office.frontDesk.call<{ replies: string | null }>('GET', `/visits/${id}`)).replies;
    const answer = (form: Record<string, string>, index = 0) =>
      fetch(`${room.address}/mails/${index}`, { method: 'POST', body: new URLSearchParams(form) });
    await answer({ answer: 'TENTATIVE' });
    await eventually('the reply', async () => (await replies()) === 'Ada Lark: tentative');
    await answer({ answer: 'ACCEPTED' });
    await eventually('the later reply', async () => (await replies()) === 'Ada Lark: accepted');

    // In somebody else's name, to no event of ours, and what is no reply at all.
    const write = async (from: string, calendar: string | null) => {
      const raw = [
        `From: ${from}`,
        'To: visits@alder-wren.example',
        'Subject: x',
        'MIME-Version: 1.0',
        'Content-Type: multipart/mixed; boundary=b',
        '',
        '--b',
        'Content-Type: text/plain',
        '',
        'Hello',
        ...(calendar === null ? [] : ['--b', 'Content-Type: text/calendar; method=REPLY', '', calendar]),
        '--b--',
        '',
      ];
      await deliver(raw.join('\r\n'));
    };
    const deliver = (raw: string) => smtpSend(room.said, 'visits@alder-wren.example', raw);
    const itip = readItip(mail!);
    const reply = (uid: string, guest: string, partstat: string, stamp: string, sequence = itip.sequence) =>
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'METHOD:REPLY',
        'BEGIN:VEVENT',
        `UID:${uid}`,
        `SEQUENCE:${sequence}`,
        `DTSTAMP:${stamp}`,
        `ATTENDEE;PARTSTAT=${partstat}:mailto:${guest}`,
        'ORGANIZER:mailto:visits@alder-wren.example',
        'END:VEVENT',
        'END:VCALENDAR',
      ].join('\r\n');
    const soon = '20990101T000000Z';
    await write('mallory@post.example', reply(itip.uid, ada.email, 'DECLINED', soon));
    await write(ada.email, reply('unknown@post.example', ada.email, 'DECLINED', soon));
    await write(ada.email, null);
    await write(ada.email, 'BEGIN:VCALENDAR\r\nMETHOD:REPLY\r\nEND:VCALENDAR');
    // An older one comes late, and the newest last.
    await write(ada.email, reply(itip.uid, ada.email, 'DECLINED', '20200101T000000Z'));
    await write(ada.email, reply(itip.uid, ada.email, 'TENTATIVE', soon));
    await eventually('the last reply', async () => (await replies()) === 'Ada Lark: tentative');

    await answer({ answer: 'COUNTER', days: '2' });
    const hold = await eventually('the question', async () => (await office.client.holds()).items[0]);
    expect(hold).to.deep.include({ question: 'another time proposed', choices: ['accept', 'decline'] });
    expect(hold.cause).to.include('Ada Lark proposes 4 Mar 2027 09:00-10:30 Europe/London');
    await office.client.settle(hold.id, 'accept');
    await eventually('the visit moves', async () =>
      (await office.frontDesk.call<{ start: string }>('GET', `/visits/${id}`)).start.startsWith('2027-03-04T09:00'),
    );
    const all = await eventually('the update', async () => {
      const found = (await mails()).filter((m) => m.to[0] === ada.email);
      return found.length === 2 && found;
    });
    expect(readItip(all[1]!)).to.deep.include({ method: 'REQUEST', start: '2027-03-04T09:00:00' });

    await answer({ answer: 'COUNTER', days: '9' }, (await mails()).length - 1);
    const second = await eventually('the second question', async () => (await office.client.holds()).items[0]);
    await office.client.settle(second.id, 'decline');
    const last = await eventually('the answer', async () => (await mails()).filter((m) => m.to[0] === ada.email)[2]);
    expect(readItip(last).method).to.equal('DECLINECOUNTER');
    await office.run();
    expect((await office.client.holds()).items).to.deep.equal([]);
    expect((await office.frontDesk.call<{ start: string }>('GET', `/visits/${id}`)).start).to.include('2027-03-04T09:00');
  });

  it('sends nothing in its first run, and stops where it would write to many guests', async () => {
    // A lane of its own, which meets visits with guests when it begins.
    for (let i = 0; i < 30; i++) await visit({ guests: [{ name: `Guest ${i}`, email: `guest.${i}@post.example` }] });
    const calendar = (await office.client.makeCalendar('diary', `Other ${randomUUID().slice(0, 8)}`, null)).href;
    const { definition } = await office.client.lane('tuning-visits');
    await office.client.removeLane('tuning-visits');
    await office.client.makeLane('tuning-visits', { ...definition, calendar: { system: 'diary', calendar } });
    const first = await office.run();
    expect(first, String(first.reason)).to.include({ state: 'done' });
    expect((await office.client.items('tuning-visits', { limit: 100 })).items).to.have.length(30);
    await sent(0);

    for (let i = 0; i < 30; i++)
      await office.frontDesk.call('PATCH', `/visits/V-${1001 + i}`, { start: `2027-04-0${1 + (i % 9)}T09:00:00` }).catch(() => undefined);
    const held = await office.run({ sweep: true });
    expect(held.state).to.equal('held');
    expect(held.reason).to.include('it would write to guests 30 times; the lane lets 25 through in a run');
    await sent(0);
    expect((await office.client.release(held.id)).state).to.equal('waiting');
    await sent(30);
  });

  it('says what an event was cancelled on the calendar means for its guests, and undo says what it cannot take back', async () => {
    const { id } = await visit({});
    const made = await office.run();
    await sent(1);
    const undo = await office.client.foreseeUndo({ run: made.id });
    expect(undo.operations[0]!.notices.map((n) => `${n.method} ${n.email}`)).to.deep.equal([`CANCEL ${ada.email}`]);
    const event = (await office.event(id))!;
    await dav(office.diary, 'DELETE', event.href, { 'if-match': event.etag! });
    await office.run({ sweep: true });
    await sent(1);
    await office.client.settleAll('event deleted', 'unlink');
    await office.run();
    await sent(1);
  });
});

describe('an event that somebody else organises', function () {
  this.timeout(60_000);

  it('is not changed from the record: a person is asked, with the organizer named', async () => {
    const office = await openOffice({
      notices: false,
      lane: {
        direction: '<->',
        filter: null,
        private: null,
        conflicts: { rule: 'records win' },
        departures: {},
        sets: {},
        moments: [{ name: 'visit', when: { start: 'start', length: 'length' } }],
        fields: { title: { copy: 'instrument' }, reminders: { fixed: ['30'] } },
        may: { records: { create: true, change: true, remove: false } },
        events: { ownAddresses: ['ines@alder-wren.example'] },
        guard: { rewrittenPercent: 100 },
      },
    });
    try {
      const href = `${office.calendar}theirs.ics`;
      const text = [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'PRODID:-//x',
        'BEGIN:VEVENT',
        'UID:theirs',
        'DTSTAMP:20261101T000000Z',
        'DTSTART:20270302T090000Z',
        'DTEND:20270302T100000Z',
        'SUMMARY:Their meeting',
        'ORGANIZER;CN=Una Marsh:mailto:una@elsewhere.example',
        'ATTENDEE:mailto:ines@alder-wren.example',
        'END:VEVENT',
        'END:VCALENDAR',
        '',
      ].join('\r\n');
      await dav(office.diary, 'PUT', href, { 'content-type': 'text/calendar' }, text);
      await office.run();
      await office.run();
      const [item] = (await office.client.items('tuning-visits')).items;
      const id = item!.recordId!;
      const event = async () => (await dav(office.diary, 'GET', href)).text.replace(/\r?\n[ \t]/g, '');
      await office.frontDesk.call('PATCH', `/visits/${id}`, { instrument: 'My words', start: '2027-03-05T09:00:00' });
      await office.run();
      const [hold] = (await office.client.holds()).items;
      expect(hold).to.deep.include({ question: 'organised by another', choices: ['calendar wins', 'leave'] });
      expect(hold!.cause).to.equal('changed in the record, and Una Marsh organises the event: when, title');
      expect(await event())
        .to.include('SUMMARY:Their meeting')
        .and.include('20270302T090000Z');
      await office.client.settle(hold!.id, 'calendar wins');
      await eventually('the record goes back', async () => {
        const visit = await office.frontDesk.call<{ instrument: string; start: string }>('GET', `/visits/${id}`);
        return visit.instrument === 'Their meeting' && visit.start.startsWith('2027-03-02T09:00');
      });
      await office.frontDesk.call('PATCH', `/visits/${id}`, { instrument: 'Mine again' });
      await office.run();
      const second = await eventually('the second question', async () => (await office.client.holds()).items[0]);
      await office.client.settle(second.id, 'leave');
      await eventually('it is answered', async () => (await office.client.items('tuning-visits')).items[0]!.state === 'in sync');
      expect((await office.run({ sweep: true })).counts).to.deep.include({ changed: 0, held: 0 });
      expect(await event()).to.include('SUMMARY:Their meeting');
    } finally {
      await office.stop();
    }
  });
});

describe('guests whom the calendar server invites', function () {
  this.timeout(60_000);

  it('are left to it: the event asks it to, Monsoon sends no mail, and their replies come to the record', async () => {
    const outbox = () => (existsSync(process.env['MONSOON_TEST_OUTBOX']!) ? readFileSync(process.env['MONSOON_TEST_OUTBOX']!, 'utf8') : '');
    const before = outbox().length;
    const office = await openOffice({
      diary: cyrus(),
      notices: false,
      lane: {
        direction: '<->',
        may: { records: { create: false, remove: false } },
        filter: null,
        private: null,
        conflicts: { rule: 'hold' },
        fields: { ...fields, organizer: { fixed: 'alderwren@internal' } },
        invitations: { by: 'calendar server' },
      },
    });
    try {
      await office.run();
      const check = await office.client.checkSystem('diary');
      expect(check.steps.find((s) => s.name === 'invitations')?.detail).to.include('the server invites guests itself');
      const { id } = await office.frontDesk.call<{ id: string }>('POST', '/visits', {
        instrument: 'Wren grand 170',
        start: '2027-03-02T09:00:00',
        length_minutes: 90,
        guests: [ada],
      });
      await office.run();
      const event = (await office.event(id))!;
      expect(event.text)
        .to.match(/ATTENDEE;[^\n]*RSVP=TRUE[^\n]*ada\.lark/)
        .and.not.include('SCHEDULE-AGENT');
      const { guests } = await office.client.item('tuning-visits', id);
      expect(guests[0]).to.include({ email: ada.email, state: 'sent' });
      expect(guests[0]!.log[0]).to.include({ what: 'invited', detail: 'by the calendar server: a new guest' });
      // What the server does when a reply comes in: it changes the guest's line.
      await dav(
        office.diary,
        'PUT',
        event.href,
        { 'content-type': 'text/calendar', 'if-match': event.etag! },
        event.text.replace(/PARTSTAT=NEEDS-ACTION/, 'PARTSTAT=DECLINED'),
      );
      await office.run();
      const { replies } = await office.frontDesk.call<{ replies: string | null }>('GET', `/visits/${id}`);
      expect(replies).to.equal('Ada Lark: declined');
      expect(outbox().slice(before), 'what the server mailed').to.include(ada.email);
    } finally {
      await office.stop();
    }
  });
});

describe('kill -9 while 100 invitations go out', function () {
  this.timeout(240_000);

  it('sends each once, or lists it as doubtful', async () => {
    const database = await freshDatabase();
    const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
    const frontDesk = await startFrontDesk();
    const room = await startStandin('post-room', ['--smtp-port', '0', '--user', 'monsoon:post']);
    const places = { databaseUrl: database.url, dataFolder };
    let service = await spawnService(places);
    const port = Number(new URL(service.address).port);
    try {
      const token = await getToken(service.address);
      const office = await furnish(
        service.address,
        token,
        frontDesk,
        {
          notices: false,
          lane: {
            filter: null,
            private: null,
            conflicts: { rule: 'hold' },
            tell: [],
            fields: { title: fields.title, attendees: { copy: 'guests', direction: '->' } },
            invitations: { by: 'mail', wait: 0, perRun: 1000 },
          },
        },
        places,
      );
      const settings = {
        address: `smtp://127.0.0.1:${/smtp:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1]}`,
        from: 'visits@alder-wren.example',
        user: 'monsoon',
      };
      await office.client.connect({ slug: 'post', name: 'Post', kind: 'mail', settings, secrets: { password: 'post' } });
      await office.run();
      for (let i = 0; i < 100; i++)
        await frontDesk.call('POST', '/visits', {
          instrument: `Piano ${i}`,
          start: '2027-03-02T09:00:00',
          length_minutes: 60,
          guests: [{ email: `guest.${i}@post.example` }],
        });
      await office.client.run('tuning-visits', {});
      for (let kills = 0; kills < 3; kills++) {
        await new Promise((fine) => setTimeout(fine, 300 + Math.random() * 1200));
        service.child.kill('SIGKILL');
        await new Promise((fine) => service.child.once('exit', fine));
        service = await spawnService(places, { port });
      }
      const mails = async () => ((await (await fetch(`${room.address}/api/mails`)).json()) as { items: Mail[] }).items;
      const counts = await eventually(
        'all are sent or doubtful',
        async () => {
          const found = await office.client.guests('tuning-visits', { limit: 500 });
          return (
            found.items.length === 100 &&
            found.counts.waiting === 0 &&
            found.items.every((g) => g.state === 'sent' || g.state === 'doubtful') &&
            found
          );
        },
        120_000,
      );
      const by = new Map<string, number>();
      for (const { to } of await mails()) by.set(to[0]!, (by.get(to[0]!) ?? 0) + 1);
      for (const guest of counts.items) {
        const count = by.get(guest.email) ?? 0;
        expect(count, `${guest.email}, ${guest.state}`).to.be.at.most(1);
        if (guest.state === 'sent') expect(count, guest.email).to.equal(1);
      }
      // Only what was on its way when the process died is doubtful.
      expect(counts.counts.doubtful).to.be.at.most(3 * 4);
      const doubtful = counts.items.find((g) => g.state === 'doubtful');
      if (doubtful !== undefined) {
        const settled = await office.client.settleGuest('tuning-visits', doubtful, (by.get(doubtful.email) ?? 0) > 0 ? 'sent' : 'again');
        expect(settled.state).to.be.oneOf(['sent', 'waiting']);
      }
    } finally {
      service.child.kill('SIGKILL');
      frontDesk.stop();
      room.stop();
      await database.drop();
      rmSync(dataFolder, { recursive: true, force: true });
    }
  });
});
