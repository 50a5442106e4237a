import { busyTimes, type ComponentFilter, joinBusy, limitOverrides, matchesFilter, type PropertyFilter, utcSeconds } from '@monsoon/core';
import { expect } from 'chai';
import { zones } from './engine-fixtures.ts';
import { at, event, eventPart, london, object, series, task } from './object-fixtures.ts';

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
  const property = (name: string, more: Partial<PropertyFilter> = {}): PropertyFilter => ({
    name,
    absent: false,
    range: null,
    match: null,
    params: [],
    ...more,
  });
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

  const alarm = (...lines: string[]) => ['BEGIN:VALARM', 'ACTION:DISPLAY', ...lines, 'END:VALARM'];
  const rings = (of: string, from: string, until: string, more: Partial<ComponentFilter> = {}) => {
    const ringing = component('VALARM', { range: { from: at(from), until: at(until) }, ...more });
    return matches(inside(component(of.includes('VTODO') ? 'VTODO' : 'VEVENT', { components: [ringing] })), of);
  };
  /** Rings at just this UTC time, and not a second before or after. */
  const ringsAt = (of: string, time: string) => {
    const moment = (seconds: number) => new Date((at(time) + seconds) * 1000).toISOString().slice(0, 19);
    return rings(of, moment(0), moment(1)) && !rings(of, moment(-1), moment(0)) && !rings(of, moment(1), moment(2));
  };

  it('find alarms by when they go off: before and after, at the start and the end, again and again', () => {
    const times = ['DTSTART;TZID=Europe/London:20261201T190000', 'DTEND;TZID=Europe/London:20261201T210000'];
    const cases: [string[], string][] = [
      [['TRIGGER:-PT15M'], '2026-12-01T18:45:00'],
      [['TRIGGER:PT0S'], '2026-12-01T19:00:00'],
      [['TRIGGER;RELATED=END:PT5M'], '2026-12-01T21:05:00'],
      [['TRIGGER;VALUE=DATE-TIME:20261130T080000Z'], '2026-11-30T08:00:00'],
      [['TRIGGER:-PT30M', 'REPEAT:2', 'DURATION:PT10M'], '2026-12-01T18:30:00'],
      [['TRIGGER:-PT30M', 'REPEAT:2', 'DURATION:PT10M'], '2026-12-01T18:50:00'],
    ];
    for (const [lines, time] of cases) expect(ringsAt(event(...times, ...alarm(...lines)), time), lines.join(' ')).to.equal(true);
    const repeated = event(...times, ...alarm('TRIGGER:-PT30M', 'REPEAT:2', 'DURATION:PT10M'));
    expect(rings(repeated, '2026-12-01T18:50:01', '2026-12-01T23:00:00'), 'no third time').to.equal(false);
    // A day before is the same time of the clock, also over the change of 25 October.
    expect(ringsAt(event('DTSTART;TZID=Europe/London:20261025T190000', ...alarm('TRIGGER:-P1D')), '2026-10-24T18:00:00')).to.equal(true);
    // What cannot be read never goes off; the alarm that does has to fit in everything else.
    for (const lines of [['TRIGGER:soon'], ['REPEAT:1']])
      expect(rings(event(...times, ...alarm(...lines)), '2026-01-01T00:00:00', '2027-01-01T00:00:00')).to.equal(false);
    const two = event(...times, ...alarm('TRIGGER:-PT15M'), 'BEGIN:VALARM', 'ACTION:AUDIO', 'TRIGGER:-PT1H', 'END:VALARM');
    const audible = { properties: [property('ACTION', { match: text('AUDIO') })] };
    expect(rings(two, '2026-12-01T18:40:00', '2026-12-01T18:50:00', audible)).to.equal(false);
    expect(rings(two, '2026-12-01T18:00:00', '2026-12-01T18:10:00', audible)).to.equal(true);
  });

  it('find alarms of each occurrence, of an override its own, and of tasks', () => {
    const weekly = series(
      ['RRULE:FREQ=WEEKLY', ...alarm('TRIGGER:-PT10M')],
      ['RECURRENCE-ID:20261208T190000Z', 'DTSTART:20261209T080000Z', 'DURATION:PT1H', ...alarm('TRIGGER:-PT1H')],
    );
    expect(ringsAt(weekly, '2026-12-01T18:50:00')).to.equal(true);
    expect(rings(weekly, '2026-12-08T18:00:00', '2026-12-08T19:30:00')).to.equal(false);
    expect(ringsAt(weekly, '2026-12-09T07:00:00')).to.equal(true);
    expect(ringsAt(weekly, '2028-12-05T18:50:00')).to.equal(true);
    expect(ringsAt(task('DUE:20261201T100000Z', ...alarm('TRIGGER;RELATED=END:-PT1H')), '2026-12-01T09:00:00')).to.equal(true);
    expect(ringsAt(task('DTSTART:20261201T100000Z', 'DURATION:PT2H', ...alarm('TRIGGER;RELATED=END:PT0S')), '2026-12-01T12:00:00')).to.equal(true);
    expect(rings(task('SUMMARY:Some day', ...alarm('TRIGGER:-PT1H')), '2026-01-01T00:00:00', '2027-01-01T00:00:00')).to.equal(false);
  });

  it('find properties by their dates', () => {
    const of = event('DTSTART;TZID=Europe/London:20260701T190000', 'LAST-MODIFIED:20260630T120000Z', 'EXDATE;VALUE=DATE:20260801,20260901');
    const dated = (name: string, from: string, until: string) =>
      matches(inside(component('VEVENT', { properties: [property(name, { range: { from: at(from), until: at(until) } })] })), of);
    expect(dated('LAST-MODIFIED', '2026-06-30T12:00:00', '2026-06-30T12:00:01')).to.equal(true);
    expect(dated('LAST-MODIFIED', '2026-06-30T11:00:00', '2026-06-30T12:00:00')).to.equal(false);
    expect(dated('DTSTART', '2026-07-01T18:00:00', '2026-07-01T18:00:01')).to.equal(true);
    expect(dated('DTSTART', '2026-07-01T19:00:00', '2026-07-01T19:00:01')).to.equal(false);
    // Days are the asker's, and any part of one counts.
    expect(dated('EXDATE', '2026-09-01T22:30:00', '2026-09-01T23:00:00')).to.equal(true);
    expect(dated('EXDATE', '2026-09-01T23:00:00', '2026-09-02T00:00:00')).to.equal(false);
    expect(dated('COMPLETED', '2026-01-01T00:00:00', '2027-01-01T00:00:00')).to.equal(false);
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

describe('a series with the overrides of a span (RFC 4791, 9.6.6)', () => {
  const override = (day: string, start: string, ...lines: string[]) => [
    `RECURRENCE-ID:202612${day}T190000Z`,
    `DTSTART:${start}`,
    'DURATION:PT1H',
    `SUMMARY:of ${day}`,
    ...lines,
  ];
  const moved = series(
    ['RRULE:FREQ=WEEKLY', 'SUMMARY:every week'],
    override('08', '20261210T080000Z'),
    override('15', '20261215T200000Z'),
    override('22', '20261228T080000Z'),
  );
  const left = (of: string, from: string, until: string) =>
    [...limitOverrides(of, { from: at(from), until: at(until) }, london, zones).matchAll(/SUMMARY:(.*)\r/g)].map((m) => m[1]);

  it('keeps those that are in it, and those that would be', () => {
    expect(left(moved, '2026-12-10T08:30:00', '2026-12-10T09:30:00'), 'moved into it').to.deep.equal(['every week', 'of 08']);
    expect(left(moved, '2026-12-08T20:00:00', '2026-12-08T20:30:00'), 'moved out of it').to.deep.equal(['every week', 'of 08']);
    expect(left(moved, '2026-12-14T00:00:00', '2026-12-29T00:00:00')).to.deep.equal(['every week', 'of 15', 'of 22']);
    expect(left(moved, '2027-01-05T00:00:00', '2027-01-06T00:00:00'), 'an occurrence as any other').to.deep.equal(['every week']);
  });

  it('keeps one for all that follow, from there on', () => {
    const following = moved.replace('RECURRENCE-ID:20261215', 'RECURRENCE-ID;RANGE=THISANDFUTURE:20261215');
    expect(left(following, '2027-01-05T00:00:00', '2027-01-06T00:00:00')).to.deep.equal(['every week', 'of 15']);
    expect(left(following, '2026-12-01T00:00:00', '2026-12-02T00:00:00')).to.deep.equal(['every week']);
  });

  it('leaves what has no overrides, no series or no time as it stands, octet for octet', () => {
    const span = { from: at('2027-01-05T00:00:00'), until: at('2027-01-06T00:00:00') };
    const folded = event('DTSTART:20261201T190000Z', 'SUMMARY:folded in an odd', '  place');
    const alone = object(...eventPart('RECURRENCE-ID:20261208T190000Z', 'DTSTART:20261208T190000Z'));
    for (const of of [folded, alone, task('DUE:20261201T190000Z')]) expect(limitOverrides(of, span, london, zones)).to.equal(of);
  });
});
