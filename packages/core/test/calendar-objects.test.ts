import { expandObject, objectLimits, readCalendarObject, selectParts, UnstorableObject } from '@monsoon/core';
import { expect } from 'chai';
import { zones } from './engine-fixtures.ts';
import { at, event, london, object, part, series, task } from './object-fixtures.ts';

describe('calendar objects are checked before they are stored (RFC 4791, 4.1 and 5.3.2.1)', () => {
  const read = (text: string) => readCalendarObject(text, zones);
  const span = (text: string) => {
    const { starts, ends } = read(text);
    const say = (n: number | null) => (n === null ? null : new Date(n * 1000).toISOString().slice(0, 19));
    return [say(starts), say(ends)];
  };

  it('are known by their UID, their kind, and what others may see of them', () => {
    const timed = ['DTSTART:20261201T190000Z', 'DTEND:20261201T210000Z'];
    expect(read(event(...timed).replace('UID:rehearsal', 'UID: rehearsal '))).to.deep.equal({
      uid: 'rehearsal',
      component: 'VEVENT',
      starts: at('2026-12-01T19:00:00'),
      ends: at('2026-12-01T21:00:00'),
      isPrivate: false,
      isBusy: true,
    });
    expect(read(task('DUE:20261201T190000Z', 'CLASS:PRIVATE'))).to.deep.equal({
      uid: 'tuning',
      component: 'VTODO',
      starts: null,
      ends: null,
      isPrivate: true,
      isBusy: false,
    });
    for (const [line, isPrivate, isBusy] of [
      ['CLASS:CONFIDENTIAL', true, true],
      ['CLASS: private ', true, true],
      ['CLASS:PUBLIC', false, true],
      ['class: public ', false, true],
      // What is not known to be public is private (RFC 5545, 3.8.1.3).
      ['CLASS:X-SECRET', true, true],
      ['CLASS:"PUBLIC"', true, true],
      ['CLASS:', true, true],
      ['CLASS:PUBLIC\r\nCLASS:PRIVATE', true, true],
      ['TRANSP:TRANSPARENT', false, false],
      ['TRANSP:OPAQUE', false, true],
      ['STATUS:CANCELLED', false, false],
      ['STATUS:TENTATIVE', false, true],
    ] as const)
      expect(read(event(...timed, line)), line).to.include({ isPrivate, isBusy });
    // One part is enough.
    const override = ['RECURRENCE-ID:20261208T190000Z', 'DTSTART:20261208T190000Z'];
    expect(read(series(['RRULE:FREQ=WEEKLY;COUNT=3', 'TRANSP:TRANSPARENT'], [...override, 'CLASS:PRIVATE']))).to.include({
      isPrivate: true,
      isBusy: true,
    });
  });

  it('are known by a span that covers every occurrence', () => {
    expect(span(event('DTSTART;TZID=Europe/London:20260701T190000', 'DURATION:PT90M'))).to.deep.equal(['2026-07-01T18:00:00', '2026-07-01T19:30:00']);
    // Days and times without a zone are widened by every zone there is.
    expect(span(event('DTSTART;VALUE=DATE:20261201', 'DTEND;VALUE=DATE:20261203'))).to.deep.equal(['2026-11-30T09:00:00', '2026-12-03T15:00:00']);
    expect(span(event('DTSTART:20261201T190000', 'DTEND:20261201T210000'))).to.deep.equal(['2026-12-01T04:00:00', '2026-12-02T12:00:00']);
    expect(span(series(['RRULE:FREQ=WEEKLY;COUNT=3']))).to.deep.equal(['2026-12-01T19:00:00', '2026-12-15T21:00:00']);
    expect(span(series(['RRULE:FREQ=WEEKLY;UNTIL=20261224T000000Z']))).to.deep.equal(['2026-12-01T19:00:00', '2026-12-22T21:00:00']);
    expect(span(series(['RRULE:FREQ=WEEKLY']))).to.deep.equal(['2026-12-01T19:00:00', null]);
    expect(span(series(['RDATE:20261124T190000Z,20270105T190000Z']))).to.deep.equal(['2026-11-24T19:00:00', '2027-01-05T21:00:00']);
    // Of more occurrences than are looked at, the end is left open.
    expect(span(series(['RRULE:FREQ=HOURLY;COUNT=6000']))).to.deep.equal(['2026-12-01T19:00:00', null]);
    const moved = (to: string) => ['RECURRENCE-ID:20261208T190000Z', `DTSTART:${to}`, 'DURATION:PT1H'];
    expect(span(series(['RRULE:FREQ=WEEKLY;COUNT=3'], moved('20261120T080000Z')))).to.deep.equal(['2026-11-20T08:00:00', '2026-12-15T21:00:00']);
    expect(span(series(['RRULE:FREQ=WEEKLY;COUNT=3'], moved('20270120T080000Z')))).to.deep.equal(['2026-12-01T19:00:00', '2027-01-20T09:00:00']);
  });

  it('are refused with the precondition that they violate', () => {
    const timed = ['DTSTART:20261201T190000Z'];
    const refused: [string, string, RegExp][] = [
      ['', 'valid-calendar-data', /not one VCALENDAR/],
      ['no calendar', 'valid-calendar-data', /line 1/],
      [event(...timed) + event(...timed), 'valid-calendar-data', /not one VCALENDAR/],
      ['BEGIN:VEVENT\r\nUID:a\r\nEND:VEVENT\r\n', 'valid-calendar-data', /not one VCALENDAR/],
      [event(...timed, 'SUMMARY:a\u0007'), 'valid-calendar-data', /control character U\+0007/],
      [event(...timed, 'SUMMARY:\uFFFF'), 'valid-calendar-data', /U\+ffff/],
      [event(...timed, 'SUMMARY:\uD800'), 'valid-calendar-data', /U\+d800/],
      [event('DTSTART:soon'), 'valid-calendar-data', /soon/],
      [event(...timed, 'RRULE:FREQ=FORTNIGHTLY'), 'valid-calendar-data', /FORTNIGHTLY/],
      [event(...timed, 'RRULE:FREQ=DAILY', 'EXDATE:never'), 'valid-calendar-data', /never/],
      [task('DUE:tomorrow'), 'valid-calendar-data', /tomorrow/],
      [task('DTSTART:tomorrow'), 'valid-calendar-data', /tomorrow/],
      [task('COMPLETED:tomorrow'), 'valid-calendar-data', /tomorrow/],
      [task('CREATED:tomorrow'), 'valid-calendar-data', /tomorrow/],
      [task('RRULE:FREQ=FORTNIGHTLY'), 'valid-calendar-data', /FORTNIGHTLY/],
      [object('METHOD:REQUEST', ...part('VEVENT', 'a', timed)), 'valid-calendar-object-resource', /METHOD/],
      [object('X-A:b'), 'valid-calendar-object-resource', /no event or task/],
      [object(...part('VTIMEZONE', 'a', [])), 'valid-calendar-object-resource', /no event or task/],
      [object(...part('VEVENT', 'a', timed), ...part('VTODO', 'a', [])), 'valid-calendar-object-resource', /together/],
      [object(...part('VEVENT', ' ', timed)), 'valid-calendar-object-resource', /no UID/],
      [object('BEGIN:VEVENT', ...timed, 'END:VEVENT'), 'valid-calendar-object-resource', /no UID/],
      [object(...part('VEVENT', 'é'.repeat(501), timed)), 'valid-calendar-object-resource', /more than 1000 octets/],
      [object(...part('VEVENT', 'a', timed), ...part('VEVENT', 'b', timed)), 'valid-calendar-object-resource', /different UIDs/],
      [series([], timed), 'valid-calendar-object-resource', /same occurrence/],
      [object(...part('VJOURNAL', 'a', [])), 'supported-calendar-component', /VJOURNAL is not kept here/],
      [
        event(...timed, ...Array.from({ length: objectLimits.attendees + 1 }, (_, i) => `ATTENDEE:mailto:g${i}@choir.example`)),
        'max-attendees-per-instance',
        /2001 attendees/,
      ],
      [event(...timed, ...Array.from({ length: 1001 }, () => `X-A:${'x'.repeat(996)}`)), 'max-resource-size', /octets; at most 1000000/],
    ];
    for (const [text, precondition, why] of refused) {
      try {
        read(text);
        expect.fail(`it took ${text.slice(0, 200)}`);
      } catch (error) {
        expect(error, text.slice(0, 200)).to.be.instanceOf(UnstorableObject);
        expect((error as UnstorableObject).precondition, text.slice(0, 200)).to.equal(precondition);
        expect((error as Error).message).to.match(why);
      }
    }
    // Just within each limit.
    expect(read(object(...part('VEVENT', 'é'.repeat(500), timed))).uid).to.have.length(500);
    expect(read(event(...timed, ...Array.from({ length: objectLimits.attendees }, () => 'ATTENDEE:mailto:g@choir.example'))).isBusy).to.equal(true);
    expect(read(event(...timed, 'SUMMARY:tab\there, and \u0085')).uid).to.equal('rehearsal');
  });
});

describe('parts of calendar objects', () => {
  const range = { from: at('2026-12-01T00:00:00'), until: at('2026-12-16T00:00:00') };
  const lines = (text: string | null) =>
    text
      ?.replace(/^BEGIN:VCALENDAR\r\nVERSION:2.0\r\n|END:VCALENDAR\r\n$/g, '')
      .split('\r\n')
      .filter(Boolean) ?? null;

  it('are given with each occurrence as an event of its own, in UTC (RFC 4791, 9.6.5)', () => {
    const weekly = series(
      ['RRULE:FREQ=WEEKLY', 'EXDATE:20261215T190000Z', 'SUMMARY:Choir', 'BEGIN:VALARM', 'ACTION:DISPLAY', 'END:VALARM'],
      ['RECURRENCE-ID:20261208T190000Z', 'DTSTART;TZID=Europe/London:20261209T080000', 'DURATION:PT1H', 'SUMMARY:Choir, moved'],
    );
    expect(lines(expandObject(weekly, range, london, zones))).to.deep.equal([
      ...['BEGIN:VEVENT', 'DTSTART:20261201T190000Z', 'DTEND:20261201T210000Z', 'RECURRENCE-ID:20261201T190000Z', 'UID:rehearsal', 'SUMMARY:Choir'],
      ...['BEGIN:VALARM', 'ACTION:DISPLAY', 'END:VALARM', 'END:VEVENT'],
      ...[
        'BEGIN:VEVENT',
        'DTSTART:20261209T080000Z',
        'DTEND:20261209T090000Z',
        'RECURRENCE-ID:20261208T190000Z',
        'UID:rehearsal',
        'SUMMARY:Choir, moved',
      ],
      'END:VEVENT',
    ]);
    const days = event('DTSTART;VALUE=DATE:20261201', 'RRULE:FREQ=MONTHLY');
    expect(lines(expandObject(days, range, london, zones))).to.deep.equal([
      ...[
        'BEGIN:VEVENT',
        'DTSTART;VALUE=DATE:20261201',
        'DTEND;VALUE=DATE:20261202',
        'RECURRENCE-ID;VALUE=DATE:20261201',
        'UID:rehearsal',
        'END:VEVENT',
      ],
    ]);
    // A single event has no occurrences to tell apart; what does not take place in the span is not given.
    const single = event('DTSTART:20261201T190000', 'DURATION:PT1H');
    expect(lines(expandObject(single, range, london, zones))).to.deep.equal([
      'BEGIN:VEVENT',
      'DTSTART:20261201T190000Z',
      'DTEND:20261201T200000Z',
      'UID:rehearsal',
      'END:VEVENT',
    ]);
    expect(expandObject(event('DTSTART:20270101T190000Z'), range, london, zones)).to.equal(null);
    for (const other of ['', task('DUE:20261201T190000Z')]) expect(expandObject(other, range, london, zones)).to.equal(other);
    for (const more of [['RDATE:20261203T190000Z'], ['RECURRENCE-ID:20261201T190000Z']])
      expect(expandObject(event('DTSTART:20261201T190000Z', ...more), range, london, zones), more[0]).to.contain('RECURRENCE-ID:20261201T190000Z');
  });

  it('are given as far as they are wanted (RFC 4791, 9.6.1)', () => {
    const text = object(
      'PRODID:-//a//b',
      ...part('VEVENT', 'a', ['DTSTART;TZID=Europe/London:20261201T190000', 'SUMMARY:Choir', 'BEGIN:VALARM', 'END:VALARM']),
    );
    const all = { name: 'VCALENDAR', properties: 'all' as const, components: 'all' as const };
    expect(selectParts(text, all)).to.equal(text);
    expect(selectParts(text, { ...all, name: 'VEVENT' }).trim()).to.equal('');
    expect(selectParts(text, { ...all, properties: [{ name: 'VERSION', withValue: true }], components: [] })).to.equal(
      'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR\r\n',
    );
    const some = {
      ...all,
      properties: [],
      components: [
        {
          name: 'VEVENT',
          properties: [
            { name: 'SUMMARY', withValue: false },
            { name: 'DTSTART', withValue: true },
          ],
          components: [],
        },
      ],
    };
    expect(selectParts(text, some).split('\r\n')).to.deep.equal([
      ...['BEGIN:VCALENDAR', 'BEGIN:VEVENT', 'DTSTART;TZID=Europe/London:20261201T190000', 'SUMMARY:', 'END:VEVENT', 'END:VCALENDAR', ''],
    ]);
    expect(selectParts(text, { ...some, components: [{ name: 'VTODO', properties: 'all', components: 'all' }] })).to.equal(
      'BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n',
    );
  });
});
