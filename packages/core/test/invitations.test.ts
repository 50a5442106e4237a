import {
  guestChanges,
  type Invitation,
  type ItipMessage,
  invitationOf,
  type KnownGuest,
  noValues,
  readEvent,
  readItip,
  wholeInvitation,
  writeItip,
} from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { expect } from 'chai';
import fc from 'fast-check';
import ICAL from 'ical.js';

const zones = loadZones();
const when = { kind: 'timed' as const, start: '2027-03-02T09:00:00', end: '2027-03-02T10:30:00', zone: 'Europe/London' };
const ada = { email: 'ada.lark@post.example', name: 'Ada Lark' };
const ben = { email: 'ben.moor@post.example' };
const invitation = (more: Partial<Invitation> = {}): Invitation =>
  wholeInvitation(
    { ...invitationOf({ ...noValues, title: 'Tuning', when, attendees: [ada, ben] }, { uid: 'u', occurrence: null, sequence: 3 }), ...more },
    null,
  );
const known = (email: string, knows: Invitation | null): KnownGuest => ({
  pair: 'p',
  email,
  name: null,
  knows,
  reply: null,
  seen: { response: null, delivery: null },
});
const notices = (guests: KnownGuest[], now: Partial<Invitation> | null, quiet = false) =>
  guestChanges(guests, now, zones, quiet).flatMap((c) => (c.notice === null ? [] : [`${c.notice.method} ${c.email}: ${c.notice.why}`]));

describe('messages to guests', () => {
  const both = [known(ada.email, invitation()), known(ben.email, invitation())];

  it('is an invitation to who is new, and nothing where nothing is news', () => {
    expect(notices([], invitation())).to.deep.equal([`REQUEST ${ada.email}: a new guest`, `REQUEST ${ben.email}: a new guest`]);
    expect(notices([], invitation(), true), 'in a quiet run').to.deep.equal([]);
    expect(notices(both, invitation({ title: 'Voicing', description: 'x', sequence: 9 }))).to.deep.equal([]);
    expect(notices(both, { ...invitation(), when: { ...when, zone: 'UTC' } }), 'the same instant in winter').to.deep.equal([]);
  });

  it('is an update of time, place, rule or status, and a cancellation to who leaves', () => {
    expect(notices(both, invitation({ location: 'Meadow Hall', status: 'tentative' }))).to.deep.equal([
      `REQUEST ${ada.email}: another place, another status`,
      `REQUEST ${ben.email}: another place, another status`,
    ]);
    expect(notices(both, invitation({ guests: [ben] }))).to.deep.equal([`CANCEL ${ada.email}: no longer a guest`]);
    expect(notices(both, null)).to.deep.equal([`CANCEL ${ada.email}: it does not take place`, `CANCEL ${ben.email}: it does not take place`]);
    expect(notices(both, invitation({ status: 'cancelled' }))).to.have.length(2);
    expect(notices([known(ada.email, null)], null), 'a guest who never got a message').to.deep.equal([]);
  });

  it('is for single addresses alone: nothing that somebody wrote into the calendar adds a recipient', () => {
    const odd = [
      'a@post.example, boss@post.example',
      'a@post.example\r\nBcc: b@post.example',
      `${'x'.repeat(2000)}@post.example`,
      'nobody',
      '<b@post.example>',
    ];
    expect(notices([], invitation({ guests: [...odd.map((email) => ({ email })), ben] }))).to.deep.equal([`REQUEST ${ben.email}: a new guest`]);
    expect(guestChanges([], invitation({ guests: odd.map((email) => ({ email })) }), zones), 'nor is anything noted of them').to.deep.equal([]);
  });

  it('takes what is not known of an event as the guests know it', () => {
    const { guests: _guests, location: _location, ...partly } = invitation();
    expect(notices([known(ada.email, invitation({ location: 'Meadow Hall' }))], partly)).to.deep.equal([]);
  });
});

describe('iTIP messages', () => {
  const message = (more: Partial<ItipMessage> = {}): ItipMessage => ({
    method: 'REQUEST',
    uninvited: false,
    invitation: invitation(),
    guests: [ada, ben],
    organizer: { email: 'visits@alder-wren.example', name: 'Alder & Wren' },
    sentBy: 'monsoon@alder-wren.example',
    sequence: 4,
    now: '2026-12-01T08:00:00Z',
    ...more,
  });
  const parse = (text: string) => new ICAL.Component(ICAL.parse(text)).getFirstSubcomponent('vevent')!;

  it('say of one occurrence which it is, in the form of its start, and not the rule', () => {
    const text = writeItip(message({ invitation: invitation({ occurrence: '20270302T090000Z', recurrence: 'RRULE:FREQ=WEEKLY' }) }), zones);
    expect(text)
      .to.include('RECURRENCE-ID;TZID=Europe/London:20270302T090000')
      .and.not.match(/^RRULE/m);
    expect(parse(text).getFirstProperty('organizer')!.getParameter('sent-by')).to.equal('mailto:monsoon@alder-wren.example');
  });

  it('cancel an event as a whole, or for one guest alone', () => {
    expect(writeItip(message({ method: 'CANCEL' }), zones)).to.match(/^STATUS:CANCELLED\r$/m);
    const alone = writeItip(message({ method: 'CANCEL', uninvited: true, guests: [ada] }), zones);
    expect(alone).to.not.match(/^STATUS/m);
    expect(parse(alone).getAllProperties('attendee')).to.have.length(1);
  });

  it('hold whatever people wrote as one line each', () => {
    const nasty = fc.string({ unit: 'binary', maxLength: 200 });
    fc.assert(
      fc.property(nasty, nasty, nasty, (title, location, name) => {
        const clean = (text: string) => text.replace(/(?![\n\t])\p{Cc}|\p{Surrogate}/gu, '');
        const said = invitation({ title: clean(title) || 'x', location: clean(location) || 'y', guests: [] });
        const event = parse(writeItip(message({ invitation: said, guests: [{ ...ada, name }] }), zones));
        expect(event.getAllProperties().map((p) => p.name)).to.have.members([
          ...['uid', 'dtstamp', 'dtstart', 'dtend', 'summary', 'location', 'sequence', 'organizer', 'attendee'],
        ]);
      }),
      { numRuns: 300 },
    );
  });

  it('are read as replies and proposals, and refused where they make no sense', () => {
    const reply = (more: string[], method = 'REPLY') =>
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        `METHOD:${method}`,
        'BEGIN:VEVENT',
        'UID:u',
        'DTSTAMP:20261201T080000Z',
        ...more,
        'END:VEVENT',
        'END:VCALENDAR',
        '',
      ].join('\r\n');
    const guest = 'ATTENDEE;PARTSTAT=ACCEPTED:mailto:ADA.Lark@post.example';
    expect(
      readItip(reply([guest, 'SEQUENCE:4', 'COMMENT:Gate\\, please\\nsecond line', 'RECURRENCE-ID;TZID=Europe/London:20270302T090000']), zones),
    ).to.deep.include({
      method: 'REPLY',
      uid: 'u',
      occurrence: '20270302T090000Z',
      sequence: 4,
      stamp: '2026-12-01T08:00:00Z',
      comment: 'Gate, please\nsecond line',
      attendee: { email: 'ADA.Lark@post.example', response: 'accepted' },
    });
    expect(readItip(reply(['DTSTART:20270303T090000Z', 'DTEND:20270303T100000Z'], 'COUNTER'), zones)!.when).to.deep.include({
      start: '2027-03-03T09:00:00',
    });
    expect(readItip(reply([guest], 'REQUEST'), zones), 'no answer').to.equal(null);
    expect(() => readItip(reply([]), zones)).to.throw('a REPLY of 0 attendees');
    expect(() => readItip(reply([guest, guest.replace('ADA', 'x')]), zones)).to.throw('a REPLY of 2 attendees');
    expect(() => readItip(reply([guest]).replace('DTSTAMP:20261201T080000Z', 'DTSTAMP:yesterday'), zones)).to.throw('no time in UTC');
    expect(readEvent(reply([guest, 'DTSTART:20270303T090000Z']).replace('METHOD:REPLY\r\n', ''), zones).values.replies![0]!.response).to.equal(
      'accepted',
    );
  });
});
