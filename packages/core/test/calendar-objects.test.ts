import {
  busyTimes,
  type ComponentFilter,
  expandObject,
  joinBusy,
  matchesFilter,
  objectLimits,
  type PropertyFilter,
  parseInstant,
  readCalendarObject,
  selectParts,
  UnstorableObject,
  utcSeconds,
} from '@monsoon/core';
import { expect } from 'chai';
import { zones } from './engine-fixtures.ts';

const london = zones.find('Europe/London')!;
const HOUR = 3600;
const at = (text: string) => parseInstant(`${text}Z`);
const object = (...lines: string[]) => `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${lines.join('\r\n')}\r\nEND:VCALENDAR\r\n`;
const part = (name: string, uid: string, lines: readonly string[]) => [`BEGIN:${name}`, `UID:${uid}`, ...lines, `END:${name}`];
const event = (...lines: string[]) => object(...part('VEVENT', 'rehearsal', lines));
const task = (...lines: string[]) => object(...part('VTODO', 'tuning', lines));
/** A series, and parts that speak of single occurrences of it. */
const series = (rule: string[], ...overrides: string[][]) =>
  object(...[['DTSTART:20261201T190000Z', 'DTEND:20261201T210000Z', ...rule], ...overrides].flatMap((lines) => part('VEVENT', 'rehearsal', lines)));

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
      ['CLASS:PRIVATELY', false, true],
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

describe('calendar queries (RFC 4791, 9.7 and 9.9)', () => {
  const component = (name: string, more: Partial<ComponentFilter> = {}): ComponentFilter => ({
    name,
    absent: false,
    range: null,
    properties: [],
    components: [],
    ...more,
  });
  const inside = (inner: ComponentFilter) => component('VCALENDAR', { components: [inner] });
  const property = (name: string, more: Partial<PropertyFilter> = {}): PropertyFilter => ({ name, absent: false, match: null, params: [], ...more });
  const text = (said: string, more: object = {}) => ({ text: said, negate: false, exact: false, ...more });
  const matches = (filter: ComponentFilter, of: string) => matchesFilter(filter, of, london, zones);
  const touches = (of: string, from: string, until: string) =>
    matches(inside(component(of.includes('VTODO') ? 'VTODO' : 'VEVENT', { range: { from: at(from), until: at(until) } })), of);

  it('find components, and that there are none', () => {
    const alarmed = event('DTSTART:20261201T190000Z', 'BEGIN:VALARM', 'ACTION:DISPLAY', 'END:VALARM');
    expect(matches(component('VCALENDAR'), alarmed)).to.equal(true);
    expect(matches(component('VEVENT'), alarmed)).to.equal(false);
    expect(matches(inside(component('VEVENT', { components: [component('VALARM')] })), alarmed)).to.equal(true);
    expect(matches(inside(component('VEVENT', { components: [component('VALARM', { absent: true })] })), alarmed)).to.equal(false);
    expect(matches(inside(component('VTODO')), alarmed)).to.equal(false);
    expect(matches(inside(component('VTODO', { absent: true })), alarmed)).to.equal(true);
  });

  it('compare properties and parameters: one line has to fit in everything', () => {
    const of = event(
      'DTSTART:20261201T190000Z',
      'SUMMARY:Choir\\, Ärger and SONG',
      'ATTENDEE;CN=Una Marsh;PARTSTAT=ACCEPTED:mailto:una@choir.example',
      'ATTENDEE;PARTSTAT=DECLINED:mailto:tom@choir.example',
    );
    const holds = (p: PropertyFilter) => matches(inside(component('VEVENT', { properties: [p] })), of);
    const cases: [PropertyFilter, boolean][] = [
      [property('SUMMARY'), true],
      [property('LOCATION'), false],
      [property('SUMMARY', { absent: true }), false],
      [property('LOCATION', { absent: true }), true],
      // Unescaped, and letters of ASCII alone lose their case (RFC 4790, 9.2).
      [property('SUMMARY', { match: text('choir, ') }), true],
      [property('SUMMARY', { match: text('song') }), true],
      [property('SUMMARY', { match: text('ärger') }), false],
      [property('SUMMARY', { match: text('song', { exact: true }) }), false],
      [property('SUMMARY', { match: text('SONG', { exact: true }) }), true],
      [property('SUMMARY', { match: text('song', { negate: true }) }), false],
      [property('SUMMARY', { match: text('waltz', { negate: true }) }), true],
      [property('LOCATION', { match: text('waltz', { negate: true }) }), false],
      [property('ATTENDEE', { params: [{ name: 'CN', absent: false, match: null }] }), true],
      [property('ATTENDEE', { params: [{ name: 'ROLE', absent: false, match: null }] }), false],
      [property('ATTENDEE', { params: [{ name: 'CN', absent: true, match: null }] }), true],
      [property('ATTENDEE', { params: [{ name: 'PARTSTAT', absent: true, match: null }] }), false],
      [property('ATTENDEE', { params: [{ name: 'PARTSTAT', absent: false, match: text('declined') }] }), true],
      [property('ATTENDEE', { params: [{ name: 'PARTSTAT', absent: false, match: text('tentative') }] }), false],
      [property('ATTENDEE', { match: text('tom'), params: [{ name: 'PARTSTAT', absent: false, match: text('accepted') }] }), false],
      [property('ATTENDEE', { match: text('una'), params: [{ name: 'PARTSTAT', absent: false, match: text('accepted') }] }), true],
      [property('ATTENDEE', { match: text('una'), params: [{ name: 'PARTSTAT', absent: false, match: text('accepted', { negate: true }) }] }), false],
    ];
    for (const [p, wanted] of cases) expect(holds(p), JSON.stringify(p)).to.equal(wanted);
    // Several filters hold together, and for one component.
    const both = (...properties: PropertyFilter[]) => matches(inside(component('VEVENT', { properties })), of);
    expect(both(property('SUMMARY'), property('ATTENDEE'))).to.equal(true);
    expect(both(property('SUMMARY'), property('LOCATION'))).to.equal(false);
  });

  it('find events by their occurrences, also where an override alone is in the span', () => {
    const single = event('DTSTART:20261201T190000Z', 'DTEND:20261201T210000Z');
    expect(touches(single, '2026-12-01T20:00:00', '2026-12-01T20:30:00')).to.equal(true);
    expect(touches(single, '2026-12-01T21:00:00', '2026-12-01T22:00:00')).to.equal(false);
    expect(touches(single, '2026-12-01T18:00:00', '2026-12-01T19:00:00')).to.equal(false);
    const weekly = series(['RRULE:FREQ=WEEKLY;COUNT=3'], ['RECURRENCE-ID:20261208T190000Z', 'DTSTART:20261210T080000Z', 'DURATION:PT1H']);
    expect(touches(weekly, '2026-12-10T08:00:00', '2026-12-10T08:30:00')).to.equal(true);
    expect(touches(weekly, '2026-12-08T19:00:00', '2026-12-08T21:00:00')).to.equal(false);
    expect(touches(weekly, '2026-12-15T19:00:00', '2026-12-15T21:00:00')).to.equal(true);
    // A day is a day of the asker's.
    const day = event('DTSTART;VALUE=DATE:20260701');
    expect(touches(day, '2026-06-30T23:00:00', '2026-06-30T23:30:00')).to.equal(true);
    expect(touches(day, '2026-07-01T23:00:00', '2026-07-01T23:30:00')).to.equal(false);
  });

  const tasks = [
    ['DTSTART:20261201T090000Z', 'DURATION:PT2H'],
    ['DTSTART:20261201T090000Z', 'DUE:20261201T110000Z'],
    ['DTSTART:20261201T090000Z'],
    ['DUE:20261201T090000Z'],
    ['COMPLETED:20261201T110000Z', 'CREATED:20261201T090000Z'],
    ['COMPLETED:20261201T090000Z'],
  ];
  for (const lines of tasks)
    it(`find tasks with ${lines.map((l) => l.replace(/:.*/, '')).join(' and ')} by the table of RFC 4791, 9.9`, () => {
      const of = task(...lines);
      const value = (name: string) => {
        const line = lines.find((l) => l.startsWith(`${name}:`));
        return line === undefined ? null : utcSeconds(line.slice(name.length + 1));
      };
      const [s, d, c, r] = ['DTSTART', 'DUE', 'COMPLETED', 'CREATED'].map(value);
      const length = lines.some((l) => l.startsWith('DURATION')) ? 2 * HOUR : null;
      // The rows of the table, as they stand there.
      const expected = (from: number, until: number): boolean => {
        if (s != null && length !== null) return from <= s + length && (until > s || until >= s + length);
        if (s != null && d != null) return (from < d || from <= s) && (until > s || until >= d);
        if (s != null) return from <= s && until > s;
        if (d != null) return from < d && until >= d;
        if (c != null && r != null) return (from <= r || from <= c) && (until >= r || until >= c);
        return from <= c! && until >= c!;
      };
      for (let a = 7 * 60; a <= 13 * 60; a += 30)
        for (let b = a; b <= 13 * 60; b += 30) {
          const [from, until] = [a, b].map((m) => at('2026-12-01T00:00:00') + m * 60) as [number, number];
          const found = matches(inside(component('VTODO', { range: { from, until } })), of);
          expect(found, `${lines.join(' ')}: ${a / 60} to ${b / 60}`).to.equal(expected(from, until));
        }
    });

  it('find tasks that say when they were made from then on, and others always', () => {
    expect(touches(task('CREATED:20261201T090000Z'), '2026-12-01T08:00:00', '2026-12-01T09:00:00')).to.equal(false);
    expect(touches(task('CREATED:20261201T090000Z'), '2026-12-01T08:00:00', '2026-12-01T09:00:01')).to.equal(true);
    expect(touches(task('SUMMARY:Some day'), '2026-12-01T08:00:00', '2026-12-01T09:00:00')).to.equal(true);
    // Days and times without a zone are the asker's.
    expect(touches(task('DUE;VALUE=DATE:20260702'), '2026-07-01T22:30:00', '2026-07-01T23:00:00')).to.equal(true);
    expect(touches(task('DUE;VALUE=DATE:20260702'), '2026-07-01T23:00:00', '2026-07-02T00:00:00')).to.equal(false);
    expect(touches(task('DTSTART:20260701T090000', 'DURATION:P1D'), '2026-07-02T08:00:00', '2026-07-02T08:30:00')).to.equal(true);
    expect(touches(task('DTSTART:20260701T090000', 'DURATION:P1D'), '2026-07-02T08:00:01', '2026-07-02T08:30:00')).to.equal(false);
  });

  it('read UTC times, and nothing else', () => {
    expect(utcSeconds('20261201T090000Z')).to.equal(at('2026-12-01T09:00:00'));
    for (const text of ['20261201T090000', '20261201', 'x20261201T090000Z', '20261201T090000Zx', '20260230T090000Z', ''])
      expect(utcSeconds(text), text).to.equal(null);
  });
});

describe('busy times (RFC 4791, 7.10)', () => {
  const range = { from: at('2026-12-01T00:00:00'), until: at('2026-12-09T00:00:00') };
  const busy = (text: string) => busyTimes(text, range, london, zones);
  const hour = (from: string, until: string, tentative = false) => ({
    from: at(`2026-12-${from}:00:00`),
    until: at(`2026-12-${until}:00:00`),
    tentative,
  });

  it('are of opaque events that are not cancelled, within the span', () => {
    const timed = ['DTSTART:20261201T190000Z', 'DTEND:20261201T210000Z'];
    expect(busy(event(...timed))).to.deep.equal([hour('01T19', '01T21')]);
    expect(busy(event(...timed, 'STATUS:TENTATIVE'))).to.deep.equal([hour('01T19', '01T21', true)]);
    for (const line of ['STATUS:CANCELLED', 'TRANSP:TRANSPARENT']) expect(busy(event(...timed, line)), line).to.deep.equal([]);
    expect(busy(event('DTSTART:20261201T190000Z', 'DTEND:20261201T190000Z'))).to.deep.equal([]);
    expect(busy(task('DUE:20261201T190000Z'))).to.deep.equal([]);
    expect(busy(event('DTSTART:20261130T230000Z', 'DTEND:20261201T020000Z'))).to.deep.equal([hour('01T00', '01T02')]);
    expect(busy(event('DTSTART:20261208T230000Z', 'DTEND:20261209T020000Z'))).to.deep.equal([hour('08T23', '09T00')]);
    const override = (...lines: string[]) => ['RECURRENCE-ID:20261208T190000Z', 'DTSTART:20261208T190000Z', 'DURATION:PT1H', ...lines];
    expect(busy(series(['RRULE:FREQ=WEEKLY'], override('STATUS:CANCELLED')))).to.deep.equal([hour('01T19', '01T21')]);
    expect(busy(series(['RRULE:FREQ=WEEKLY'], override()))).to.deep.equal([hour('01T19', '01T21'), hour('08T19', '08T20')]);
  });

  it('are joined where they overlap or touch, firm and tentative ones apart', () => {
    const busy = [
      hour('02T09', '02T11'),
      hour('01T09', '01T10'),
      hour('01T10', '01T11'),
      hour('01T09', '01T12', true),
      hour('02T10', '02T10'),
      hour('02T12', '02T13'),
    ];
    const given = JSON.stringify(busy);
    expect(joinBusy(busy)).to.deep.equal([hour('01T09', '01T11'), hour('01T09', '01T12', true), hour('02T09', '02T11'), hour('02T12', '02T13')]);
    expect(JSON.stringify(busy), 'what was given stays as it is').to.equal(given);
    expect(joinBusy([])).to.deep.equal([]);
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
