import { existsSync, readFileSync } from 'node:fs';
import { expect } from 'chai';
import { openOffice } from '../../../test/support/office.ts';
import { ada, guestFields, guestLane } from '../../../test/support/post-room.ts';
import { cyrus, dav, eventually } from '../../../test/support/servers.ts';

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
        departures: { recordDeleted: 'remove' },
        sets: {},
        moments: [{ name: 'visit', when: { start: 'start', length: 'length' } }],
        fields: {
          title: { copy: 'instrument' },
          reminders: { fixed: ['30'] },
          ownReply: { table: 'status', values: { provisional: 'needs action', booked: 'accepted', cancelled: 'declined' } },
        },
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
        'SEQUENCE:2',
        'ATTENDEE:mailto:ines@alder-wren.example',
        'ATTENDEE;PARTSTAT=ACCEPTED:mailto:ben@elsewhere.example',
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
      const status = async () => (await office.frontDesk.call<{ status: string }>('GET', `/visits/${id}`)).status;
      expect(await status(), 'no reply of ours yet').to.equal('provisional');
      await office.frontDesk.call('PATCH', `/visits/${id}`, { status: 'booked' });
      await office.run();
      expect(await event(), 'our own reply goes out, and nothing of theirs')
        .to.match(/ATTENDEE;PARTSTAT=ACCEPTED:mailto:ines@/)
        .and.include('SEQUENCE:2')
        .and.include('SUMMARY:Their meeting');
      expect((await office.client.holds()).items).to.deep.equal([]);
      const now = await dav(office.diary, 'GET', href);
      const declined = now.text.replace(/PARTSTAT=ACCEPTED:mailto:ines/, 'PARTSTAT=DECLINED:mailto:ines');
      await dav(office.diary, 'PUT', href, { 'content-type': 'text/calendar', 'if-match': now.etag! }, declined);
      await office.run();
      expect(await status(), 'and comes back').to.equal('cancelled');
      await office.frontDesk.call('PATCH', `/visits/${id}`, { status: 'booked' });
      await office.run();
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
      // The lane would take the event of a deleted visit away.
      await office.frontDesk.call('DELETE', `/visits/${id}`);
      await office.run({ sweep: true });
      const [leaving] = (await office.client.holds()).items;
      expect(leaving).to.deep.include({
        question: 'record deleted',
        cause: 'the record was deleted, and una@elsewhere.example organises the event',
        choices: ['remove', 'create again', 'keep'],
      });
      expect(await event(), 'until a person says so, it stays').to.include('SUMMARY:Their meeting');
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
        ...guestLane,
        fields: { ...guestFields, organizer: { fixed: 'alderwren@internal' } },
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
      expect(guests[0]!.log).to.have.length(2);
      expect(guests[0]!.log[0]).to.include({ what: 'invited', detail: 'by the calendar server: a new guest' });
      expect(guests[0]!.log[1]).to.include({ what: 'delivery', detail: 'the calendar server has sent it (1.1)' });
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
      const after = (await office.client.item('tuning-visits', id)).guests[0]!;
      expect(after).to.include({ reply: 'declined', replyVia: 'calendar' });
      expect(after.log.at(-1)).to.include({ what: 'declined', detail: 'on the calendar' });
      // The server gives up on the mail after a while, and says so on the guest's line.
      const now = (await office.event(id))!;
      const undelivered = now.text.replace(/SCHEDULE-STATUS="?[\d.,]+"?/, 'SCHEDULE-STATUS=5.1');
      await dav(office.diary, 'PUT', now.href, { 'content-type': 'text/calendar', 'if-match': now.etag! }, undelivered);
      await office.run();
      const { counts, items } = await office.client.guests('tuning-visits', { state: 'refused' });
      expect(counts.refused).to.equal(1);
      expect(items[0]!.trouble).to.equal('the calendar server could not deliver it (5.1)');
      const again = await office.client.settleGuest('tuning-visits', items[0]!, 'again').catch((error: Error) => error.message);
      expect(again).to.include('cannot be asked to send again');
      expect((await office.client.settleGuest('tuning-visits', items[0]!, 'sent')).state).to.equal('sent');
    } finally {
      await office.stop();
    }
  });
});
