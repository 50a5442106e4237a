import { randomUUID } from 'node:crypto';
import type { Response } from '@monsoon/core';
import { expect } from 'chai';
import { sql } from 'drizzle-orm';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { ada, ben, guestLane, type Mail, openPostRoom, type PostRoom, readItip } from '../../../test/support/post-room.ts';
import { dav, eventually } from '../../../test/support/servers.ts';
import { takeProposal, takeReply } from '../src/invitations/replies.ts';
import { writeGuests } from '../src/storage/guests-of.ts';
import { guests, runs } from '../src/storage/schema.ts';

describe('guests, invitations and replies', function () {
  this.timeout(60_000);
  let office: Office;
  let room: PostRoom;
  const mails = () => room.mails();
  /** Waits for so many mails in all, until nothing more waits to be sent. */
  const sent = async (count: number): Promise<Mail[]> => {
    await eventually(`${count} mails`, async () => {
      const { counts } = await office.client.guests('tuning-visits');
      return counts.waiting === 0 && (await mails()).length >= count;
    });
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
    room = await openPostRoom();
    office = await openOffice({
      notices: false,
      lane: {
        ...guestLane,
        invitations: { by: 'mail', wait: 0 },
        notify: [],
        departures: { recordDeleted: 'remove', eventDeleted: 'hold' },
      },
    });
    await office.client.connect(room.system);
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
    const jobs = sql`select from graphile_worker.jobs where key like 'invite:%'`;
    await eventually('nothing more is done once everything is sent', async () => (await office.app.db.execute(jobs)).rowCount === 0, 5000);
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
    const { guests } = await office.client.item('tuning-visits', id);
    expect(guests.map((g) => g.reply)).to.deep.equal([null, null]);

    // The first mail named another time: its link shows how it is now, and asks again.
    const later = await (await fetch(`${link}?answer=declined`)).text();
    expect(later).to.include('The event was changed after this mail').and.include('Tuesday 9 March 2027');
    expect(later).to.not.include('value="declined" required checked');
    const late = await post(link, { answer: 'declined' });
    expect(late.status).to.equal(409);
    expect(await late.text())
      .to.include('answer once more')
      .and.not.include('Your answer was sent');
    const sequence = /name="sequence" value="(\d+)"/.exec(later)![1]!;
    expect(await (await post(link, { answer: 'declined', sequence })).text()).to.include('you cannot come');
    // The link is the guest's own: a mail in their name that comes after it does not replace it.
    await room.deliver(
      [
        `From: ${ada.email}`,
        'To: visits@alder-wren.example',
        'Subject: x',
        'MIME-Version: 1.0',
        'Content-Type: multipart/mixed; boundary=b',
        '',
        '--b',
      ]
        .concat(['Content-Type: text/plain', '', 'Hello', '--b', 'Content-Type: text/calendar; method=REPLY', ''])
        .concat(['BEGIN:VCALENDAR', 'VERSION:2.0', 'METHOD:REPLY', 'BEGIN:VEVENT', `UID:${readItip(mail!).uid}`, `SEQUENCE:${sequence}`])
        .concat(['DTSTAMP:20990101T000000Z', `ATTENDEE;PARTSTAT=ACCEPTED:mailto:${ada.email}`, 'END:VEVENT', 'END:VCALENDAR', '--b--', ''])
        .join('\r\n'),
    );
    await eventually('the mail is noted', async () => {
      const { guests: now } = await office.client.item('tuning-visits', id);
      const mine = now.find((g) => g.email === ada.email)!;
      return mine.reply === 'declined' && mine.log.some((l) => l.what === 'replied late' && l.detail.includes('after an answer through the link'));
    });
  });

  it('takes replies by mail in any order, and asks a person about another time', async () => {
    const { id } = await visit({});
    await office.run();
    const [mail] = await sent(1);
    const replies = async () => (await office.frontDesk.call<{ replies: string | null }>('GET', `/visits/${id}`)).replies;
    const answer = (form: Record<string, string>, index = 0) => room.answer(index, form);
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
      await room.deliver(raw.join('\r\n'));
    };
    const itip = readItip(mail!);
    const reply = (uid: string, guest: string, partstat: string, stamp: string, sequence = itip.sequence, more: string[] = []) =>
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'METHOD:REPLY',
        'BEGIN:VEVENT',
        `UID:${uid}`,
        `SEQUENCE:${sequence}`,
        ...more,
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
    // About one occurrence alone, and the same once more: the record knows no occurrences.
    const once = reply(itip.uid, ada.email, 'DECLINED', soon, itip.sequence, ['RECURRENCE-ID:20270309T090000Z']);
    for (let i = 0; i < 2; i++) await write(ada.email, once);
    // What names a message that was never sent, or a time ahead, shuts no one out.
    await write(ada.email, reply(itip.uid, ada.email, 'DECLINED', '20300101T000000Z', 999_999_999));
    await eventually('the odd reply', async () => (await replies()) === 'Ada Lark: declined');
    await answer({ answer: 'ACCEPTED' });
    await eventually('the reply after it', async () => (await replies()) === 'Ada Lark: accepted');
    // One sender, and no more.
    await write(`${ada.email}, mallory@post.example`, reply(itip.uid, ada.email, 'DECLINED', soon));
    // An older one comes late, and the newest last.
    await write(ada.email, reply(itip.uid, ada.email, 'DECLINED', '20200101T000000Z'));
    await write(ada.email, reply(itip.uid, ada.email, 'TENTATIVE', soon));
    await eventually('the last reply', async () => (await replies()) === 'Ada Lark: tentative');
    const march = { step: 'month' as const, from: '2027-03-01', until: '2027-03-31', zone: 'Europe/London' };
    const counted = async () => (await office.client.counts({ ...march, by: 'replies' })).groups.map((g) => `${g.name} ${g.counts.join()}`);
    await eventually('the replies in numbers', async () => (await counted()).join() === 'tentative 1');
    const single = (await office.client.item('tuning-visits', id)).guests[0]!.log.filter((l) => l.detail.includes('alone'));
    expect(single.map((l) => `${l.what} ${l.detail}`)).to.deep.equal([
      'declined for the occurrence of 2027-03-09 alone, by mail of 2099-01-01T00:00:00Z',
    ]);

    await answer({ answer: 'COUNTER', days: '-4000' });
    await eventually('the absurd time is refused', async () =>
      (await office.client.item('tuning-visits', id)).guests[0]!.log.some((l) => l.what === 'not believed' && l.detail.includes('is past')),
    );
    expect((await office.client.holds()).items).to.deep.equal([]);
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

  it('keeps what a guest says while a run still writes what it planned from an earlier answer', async () => {
    const { id } = await visit({});
    await office.run();
    await sent(1);
    await office.client.pause('tuning-visits');
    const { app } = office;
    const row = async () => (await app.db.select().from(guests))[0]!;
    const { lane, pair, sequence } = await row();
    const when = { kind: 'timed' as const, start: '2027-03-04T09:00:00', end: '2027-03-04T10:30:00', zone: 'Europe/London' };
    const about = { pair, email: ada.email, sequence };
    // Stamps are in seconds: of two in one second the one that comes last counts, and the same once more is nothing new.
    const later = { ...when, start: '2027-03-05T09:00:00', end: '2027-03-05T10:30:00' };
    const proposed = async (w: typeof when) => takeProposal(app, { ...about, proposal: { when: w, stamp: '2026-12-01T09:00:01Z', comment: null } });
    const replied = async (response: Response) => takeReply(app, { ...about, response, comment: null, via: 'mail', stamp: '2026-12-01T09:00:02Z' });
    expect([await proposed(later), await proposed(when), await proposed(when)]).to.deep.equal(['taken', 'taken', 'old']);
    expect([await replied('declined'), await replied('tentative'), await replied('tentative')]).to.deep.equal(['taken', 'taken', 'old']);
    // Planned when there were an earlier proposal and no reply.
    const { id: run } = (await app.db.select().from(runs))[0]!;
    await app.db.transaction((tx) =>
      writeGuests(
        tx,
        { lane, run },
        {
          entries: [],
          answers: [{ pair, email: ada.email, proposal: { when, stamp: '2026-12-01T09:00:00Z', comment: null }, declined: true }],
          seen: [{ pair, email: ada.email, response: 'accepted' }],
        },
      ),
    );
    expect(await row()).to.deep.include({ reply: 'tentative', replyPending: true, state: 'sent' });
    expect((await row()).proposal).to.deep.equal({ when, stamp: '2026-12-01T09:00:01Z', comment: null });
    await office.client.resume('tuning-visits');
    await eventually(
      'the reply',
      async () => (await office.frontDesk.call<{ replies: string | null }>('GET', `/visits/${id}`)).replies === 'Ada Lark: tentative',
    );
    await eventually('the question', async () => (await office.client.holds()).items[0]?.question === 'another time proposed');
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

  it('waits for a person with a guest list of 2,000, and shows it whole', async () => {
    const guests = Array.from({ length: 2000 }, (_, i) => ({ name: `Guest ${i}`, email: `choir.${i}@post.example` }));
    const { id } = await visit({ guests });
    const forecast = await office.client.forecast('tuning-visits');
    expect(forecast.operations.find((o) => o.recordId === id)!.notices).to.have.length(2000);
    const held = await office.run();
    expect(held).to.include({ state: 'held' });
    expect(held.reason).to.include('it would write to guests 2000 times');
    await sent(0);
    expect(await office.event(id), 'its event waits, too').to.equal(null);
    await office.frontDesk.call('PATCH', `/visits/${id}`, { guests: guests.slice(0, 3) });
    expect((await office.run()).state).to.equal('done');
    await sent(3);
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
