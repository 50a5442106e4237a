import { busyTimes, type ComponentFilter, joinBusy, matchesFilter, type PropertyFilter, utcSeconds } from '@monsoon/core';
import { expect } from 'chai';
import { zones } from './engine-fixtures.ts';
import { at, event, london, series, task } from './object-fixtures.ts';

const HOUR = 3600;

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
