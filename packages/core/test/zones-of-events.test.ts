import { definedZone, editEvent, expandSeries, formatWhen, readEvent, sameWhen, spanOf, UnreadableEvent } from '@monsoon/core';
import { expect } from 'chai';
import fc from 'fast-check';
import ICAL from 'ical.js';
import { parseComponents } from '../src/ical/content.ts';
import { zones } from './engine-fixtures.ts';
import { eventPart, london, object } from './object-fixtures.ts';

/** One observance: STANDARD or DAYLIGHT, its first onset, the offset before it and its own, and further lines. */
type Observance = [name: 'STANDARD' | 'DAYLIGHT', start: string, from: string, to: string, ...more: string[]];
const timezone = (tzid: string, ...observances: Observance[]): string[] => [
  'BEGIN:VTIMEZONE',
  `TZID:${tzid}`,
  ...observances.flatMap(([name, start, from, to, ...more]) => [
    `BEGIN:${name}`,
    `DTSTART:${start}`,
    `TZOFFSETFROM:${from}`,
    `TZOFFSETTO:${to}`,
    ...more,
    `END:${name}`,
  ]),
  'END:VTIMEZONE',
];
const yearly = (month: number, by: string, more = '') => `RRULE:FREQ=YEARLY;BYMONTH=${month};${by}${more}`;
const european = (tzid: string, standard: string, summer: string): string[] =>
  timezone(
    tzid,
    ['STANDARD', '19701025T020000', summer, standard, yearly(10, 'BYDAY=-1SU')],
    ['DAYLIGHT', '19700329T010000', standard, summer, yearly(3, 'BYDAY=-1SU')],
  );
/** An hour that an event stands at, by a zone that its text defines. */
const hourAt = (local: string, zone: readonly string[] = [], tzid = 'Site'): string => {
  const end = local.replace(/T(\d\d)/, (_t, hour: string) => `T${String(Number(hour) + 1).padStart(2, '0')}`);
  return object(...zone, ...eventPart(`DTSTART;TZID=${tzid}:${local}`, `DTEND;TZID=${tzid}:${end}`));
};
const whenOf = (text: string) => readEvent(text, zones).values.when!;
const startOf = (text: string) => spanOf(whenOf(text), london, zones).from;
const utc = (text: string) => new Date(startOf(text) * 1000).toISOString().slice(0, 16);
const zoneName = (local: string, zone: readonly string[], tzid = 'Site') => (whenOf(hourAt(local, zone, tzid)) as { zone: string }).zone;
const moment = { zones, now: '2026-11-01T00:00:00Z' };

/** Another reader of such a definition: where it puts an hour, in seconds since 1970. */
function otherReader(zone: readonly string[]): (local: string) => number {
  const component = new ICAL.Component(ICAL.parse(object(...zone)));
  const read = new ICAL.Timezone(component.getFirstSubcomponent('vtimezone')!);
  return (local) => {
    const [year, month, day, hour] = /^(\d{4})(\d\d)(\d\d)T(\d\d)/.exec(local)!.slice(1).map(Number);
    return new ICAL.Time({ year: year!, month: month!, day: day!, hour: hour!, minute: 0, second: 0, isDate: false }, read).toUnixTime();
  };
}

describe('zones that only an event defines', () => {
  /** Rules that no name can say: from 21 March to 21 September, at midnight. */
  const byDays = timezone(
    'Site',
    ['DAYLIGHT', '20100321T000000', '+0330', '+0430', yearly(3, 'BYMONTHDAY=21')],
    ['STANDARD', '20100921T000000', '+0430', '+0330', yearly(9, 'BYMONTHDAY=21')],
  );
  const utcOf = (seconds: number) => new Date(seconds * 1000).toISOString().slice(5, 16);

  it('keep the clock that another reader finds in their definition (RFC 5545, 3.6.5)', () => {
    const definitions: Record<string, string[]> = {
      'last Sundays': european('Site', '+0000', '+0100'),
      'of the south': timezone(
        'Site',
        ['DAYLIGHT', '20081005T020000', '+1000', '+1100', yearly(10, 'BYDAY=1SU')],
        ['STANDARD', '20080406T030000', '+1100', '+1000', yearly(4, 'BYDAY=1SU')],
      ),
      'second Sunday in seven days': timezone(
        'Site',
        ['DAYLIGHT', '19700308T020000', '-0500', '-0400', yearly(3, 'BYDAY=SU;BYMONTHDAY=8,9,10,11,12,13,14')],
        ['STANDARD', '19701101T020000', '-0400', '-0500', yearly(11, 'BYDAY=1SU')],
      ),
      'seven days that are no week of the month': timezone(
        'Site',
        ['DAYLIGHT', '20000312T020000', '-0500', '-0400', yearly(3, 'BYDAY=SU;BYMONTHDAY=9,10,11,12,13,14,15')],
        ['STANDARD', '20001125T020000', '-0400', '-0500', yearly(11, 'BYDAY=SA;BYMONTHDAY=24,25,26,27,28,29,30')],
      ),
      'days of a month': byDays,
      'a rule that has ended, and one that follows': timezone(
        'Site',
        ['DAYLIGHT', '20000402T020000', '-0300', '-0200', yearly(4, 'BYDAY=1SU', ';UNTIL=20260405T050000Z')],
        ['DAYLIGHT', '20270314T020000', '-0300', '-0200', yearly(3, 'BYDAY=2SU')],
        ['STANDARD', '20001029T020000', '-0200', '-0300', yearly(10, 'BYDAY=-1SU')],
      ),
      'last Thursday but one, and Saturdays': timezone(
        'Site',
        ['DAYLIGHT', '20100422T000000', '+0200', '+0300', yearly(4, 'BYDAY=-2TH')],
        ['STANDARD', '20100925T000000', '+0300', '+0200', yearly(9, 'BYDAY=4SA')],
      ),
      'listed changes': timezone(
        'Site',
        // The other reader takes one date of a line, and the start only where it is listed.
        ['STANDARD', '20251102T020000', '-0400', '-0500', 'RDATE:20251102T020000', 'RDATE:20261101T020000', 'RDATE:20271107T020000'],
        ['DAYLIGHT', '20260308T020000', '-0500', '-0400', 'RDATE:20260308T020000', 'RDATE:20270314T020000', 'RDATE:20280312T020000'],
      ),
      'one change, and none since': timezone(
        'Site',
        ['STANDARD', '19700101T000000', '+0100', '+0100'],
        ['STANDARD', '20270601T000000', '+0100', '+0245'],
      ),
    };
    for (const [what, zone] of Object.entries(definitions)) {
      const other = otherReader(zone);
      // By day: at the hours that a change skips or repeats, readers differ.
      for (let day = Date.UTC(2026, 0, 3); day < Date.UTC(2028, 6, 1); day += 7 * 86_400_000) {
        const local = `${new Date(day).toISOString().slice(0, 10).replaceAll('-', '')}T${(day / 86_400_000) % 2 === 0 ? '05' : '22'}0000`;
        expect(startOf(hourAt(local, zone)), `${what}, ${local}`).to.equal(other(local));
      }
    }
  }).timeout(20_000);

  it('are right at both ends of an event with a change of the clock inside, also where no name can say their rules', () => {
    for (const end of ['DTEND;TZID=Site:20270322T120000', 'DURATION:P2D', 'DURATION:PT47H', 'DTEND:20270322T073000Z']) {
      const { from, until } = spanOf(whenOf(object(...byDays, ...eventPart('DTSTART;TZID=Site:20270320T120000', end))), london, zones);
      expect([from, until].map(utcOf), end).to.deep.equal(['03-20T08:30', '03-22T07:30']);
    }
    for (const end of ['DTEND;TZID=Site:20270320T110000', 'DTEND:20270320T080000Z'])
      expect(() => whenOf(object(...byDays, ...eventPart('DTSTART;TZID=Site:20270320T120000', end))), end).to.throw(
        UnreadableEvent,
        'before it starts',
      );
    // Its hour is skipped, and read as before the change: its end within that hour is not before it.
    const { from, until } = spanOf(
      whenOf(object(...byDays, ...eventPart('DTSTART;TZID=Site:20270321T003000', 'DTEND;TZID=Site:20270321T010000'))),
      london,
      zones,
    );
    expect([from, until].map(utcOf)).to.deep.equal(['03-20T21:00', '03-20T21:00']);
  });

  it('are right for each occurrence of a series, whatever holds at the first', () => {
    const changing = timezone(
      'Site',
      ['DAYLIGHT', '20000402T020000', '-0300', '-0200', yearly(4, 'BYDAY=1SU', ';UNTIL=20270404T050000Z')],
      ['DAYLIGHT', '20280206T020000', '-0300', '-0200', yearly(2, 'BYDAY=1SU')],
      ['STANDARD', '20001029T020000', '-0200', '-0300', yearly(10, 'BYDAY=-1SU')],
    );
    const times = (zone: readonly string[], ...lines: string[]) => {
      const first = ['DTSTART;TZID=Site:20270215T120000', 'DTEND;TZID=Site:20270215T130000', 'RRULE:FREQ=MONTHLY;INTERVAL=3;COUNT=5'];
      const roots = parseComponents(object(...zone, ...eventPart(...first), ...lines));
      const events = roots[0]!.components.filter((c) => c.name === 'VEVENT');
      const window = { from: Date.UTC(2027, 0) / 1000, until: Date.UTC(2029, 0) / 1000, home: london };
      return expandSeries(events, roots, window, zones).map((o) => {
        expect(spanOf(o.when, london, zones), JSON.stringify(o.when)).to.deep.equal({ from: o.from, until: o.until });
        expect(o.until - o.from).to.equal(3600);
        return utcOf(o.from);
      });
    };
    expect(times(byDays)).to.deep.equal(['02-15T08:30', '05-15T07:30', '08-15T07:30', '11-15T08:30', '02-15T08:30']);
    expect(times(changing)).to.deep.equal(['02-15T15:00', '05-15T14:00', '08-15T14:00', '11-15T15:00', '02-15T14:00']);
    const later = ['RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=Site:20270815T120000', 'DTSTART;TZID=Site:20270815T140000', 'DURATION:PT1H'];
    expect(times(byDays, ...eventPart(...later))).to.deep.equal(['02-15T08:30', '05-15T07:30', '08-15T09:30', '11-15T10:30', '02-15T10:30']);
  });

  it('are read in no time, however much they list', () => {
    const january = (i: number) => `${1971 + (i % 100)}0101T000000`;
    for (const [what, zone] of [
      [
        'changes',
        timezone('Site', ['STANDARD', '19700101T000000', '+0100', '+0100', `RDATE:${Array.from({ length: 1999 }, (_, i) => january(i)).join(',')}`]),
      ],
      [
        'rules',
        timezone(
          'Site',
          ...Array.from({ length: 100 }, (_, i): Observance => ['STANDARD', january(i % 50), '+0100', '+0100', yearly(3, 'BYDAY=-1SU')]),
        ),
      ],
    ] as const) {
      const overrides = Array.from({ length: 300 }, (_, i) => {
        const day = new Date(Date.UTC(2026, 0, 1 + i)).toISOString().slice(0, 10).replaceAll('-', '');
        return eventPart(`RECURRENCE-ID;TZID=Site:${day}T090000`, `DTSTART;TZID=Site:${day}T110000`, 'DURATION:PT1H');
      });
      const first = ['DTSTART;TZID=Site:20260101T090000', 'DURATION:PT1H', 'RRULE:FREQ=DAILY'];
      const roots = parseComponents(object(...zone, ...eventPart(...first), ...overrides.flat()));
      const events = roots[0]!.components.filter((c) => c.name === 'VEVENT');
      const began = process.cpuUsage();
      const all = expandSeries(events, roots, { from: Date.UTC(2026, 0) / 1000, until: Date.UTC(2028, 6) / 1000, home: london }, zones);
      expect(all.map((o) => spanOf(o.when, london, zones).from)).to.deep.equal(all.map((o) => o.from));
      // Half a minute before onsets were kept in order.
      expect(process.cpuUsage(began).user / 1000, what).to.be.lessThan(2000);
    }
  });

  it('change at their hour: what a change skips is read as before it, and of two the first is meant (RFC 5545, 3.3.5)', () => {
    for (const [local, instant] of [
      ['20270320T220000', '2027-03-20T18:30'],
      ['20270321T000000', '2027-03-20T20:30'],
      ['20270321T010000', '2027-03-20T20:30'],
      ['20270920T220000', '2027-09-20T17:30'],
      ['20270920T223000', '2027-09-20T18:00'],
      ['20270921T000000', '2027-09-20T20:30'],
      ['20100321T010000', '2010-03-20T20:30'],
      ['20100320T220000', '2010-03-20T18:30'],
    ] as const)
      expect(utc(hourAt(local, byDays)), local).to.equal(instant);
  });

  it('go by the name of the definition with the rules that are in force', () => {
    const on = '20270715T120000';
    const both = (start: string, end: string, [from, to] = ['+0000', '+0100']): string[] =>
      timezone('Site', ['DAYLIGHT', '20000101T020000', from!, to!, `RRULE:${start}`], ['STANDARD', '20000601T030000', to!, from!, `RRULE:${end}`]);
    const march = (by: string) => `FREQ=YEARLY;BYMONTH=3;${by}`;
    const october = (by: string) => `FREQ=YEARLY;BYMONTH=10;${by}`;
    const seven = (first: number) => `BYDAY=SU;BYMONTHDAY=${Array.from({ length: 7 }, (_, i) => first + i).join(',')}`;
    for (const [zone, name] of [
      [european('Site', '+0000', '+0100'), '<Site>0<Site summer>-1,M3.5.0/01:00:00,M10.5.0/02:00:00'],
      [european('Site', '+0545', '+0645'), '<Site>-5:45<Site summer>-6:45,M3.5.0/01:00:00,M10.5.0/02:00:00'],
      [both(march('BYDAY=1SU'), october('BYDAY=4SA'), ['-0330', '-0230']), '<Site>3:30<Site summer>2:30,M3.1.0/02:00:00,M10.4.6/03:00:00'],
      [both(march(seven(1)), october(seven(8))), '<Site>0<Site summer>-1,M3.1.0/02:00:00,M10.2.0/03:00:00'],
      [both(march(seven(15)), october(seven(22))), '<Site>0<Site summer>-1,M3.3.0/02:00:00,M10.4.0/03:00:00'],
      // What POSIX cannot say is the offset alone: seven days that are no week of the month, the fifth, the last but one, a day.
      [both(march(seven(9)), october('BYDAY=-1SU')), '<Site>-1'],
      [both(march(seven(25)), october('BYDAY=-1SU')), '<Site>-1'],
      [both(march('BYDAY=2SU'), october('BYDAY=-2SU')), '<Site>-1'],
      [both(march('BYDAY=5MO'), october('BYDAY=-1SU')), '<Site>-1'],
      [both(march('BYMONTHDAY=21'), october('BYDAY=-1SU')), '<Site>-1'],
      // No rules for a clock: only their first onset counts.
      [both('FREQ=DAILY', october('BYDAY=-1SU')), '<Site>0'],
      [both(march('BYDAY=-1SU;INTERVAL=2'), october('BYDAY=-1SU')), '<Site>0'],
      [both('FREQ=YEARLY;BYDAY=-1SU', october('BYDAY=-1SU')), '<Site>0'],
      [both('FREQ=YEARLY;BYMONTH=13;BYDAY=-1SU', october('BYDAY=-1SU')), '<Site>0'],
      [both('FREQ=YEARLY;BYMONTH=0;BYDAY=-1SU', october('BYDAY=-1SU')), '<Site>0'],
      [both(march('BYDAY=SU'), october('BYDAY=-1SU')), '<Site>0'],
      [both(march('BYDAY=SU,MO'), october('BYDAY=-1SU')), '<Site>0'],
      [both(march('BYMONTHDAY=1,2'), october('BYDAY=-1SU')), '<Site>0'],
      [both(march('BYDAY=-1SU').toLowerCase(), `${october('BYDAY=-1SU')};INTERVAL=1`), '<Site>0<Site summer>-1,M3.5.0/02:00:00,M10.5.0/03:00:00'],
    ] as const)
      expect(zoneName(on, zone), zone.join(' ')).to.equal(name);
  });

  it('name no rules that do not hold yet, or no longer, or are not two', () => {
    const summerUntil = (end: string): Observance => ['DAYLIGHT', '20000326T010000', '+0000', '+0100', yearly(3, 'BYDAY=-1SU', end)];
    const summer = summerUntil('');
    const winter: Observance = ['STANDARD', '20001029T020000', '+0100', '+0000', yearly(10, 'BYDAY=-1SU')];
    const ruled = '<Site>0<Site summer>-1,M3.5.0/01:00:00,M10.5.0/02:00:00';
    const ended = (until: string) => summerUntil(`;UNTIL=${until}`);
    expect(zoneName('20270715T120000', timezone('Site', summer, winter))).to.equal(ruled);
    expect(zoneName('20270715T120000', timezone('Site', ended('20280101T000000Z'), winter))).to.equal(ruled);
    expect(zoneName('20270715T120000', timezone('Site', ended('20280101'), winter))).to.equal(ruled);
    expect(zoneName('20270715T120000', timezone('Site', ended('20270401T000000Z'), winter))).to.equal('<Site>-1');
    expect(zoneName('20271215T120000', timezone('Site', ended('20270401'), winter))).to.equal('<Site>0');
    expect(zoneName('20000715T120000', timezone('Site', summer, winter)), 'before its first winter').to.equal('<Site>-1');
    expect(zoneName('20270715T120000', timezone('Site', summer))).to.equal('<Site>-1');
    expect(zoneName('20270715T120000', timezone('Site', winter))).to.equal('<Site>0');
    expect(zoneName('20270715T120000', timezone('Site', summer, winter, ['STANDARD', '20100101T000000', '+0000', '+0000']))).to.equal(ruled);
    expect(zoneName('20270715T120000', timezone('Site', summer, winter, winter))).to.equal('<Site>-1');
    expect(zoneName('19990715T120000', timezone('Site', winter, summer)), 'before everything').to.equal('<Site>0');
  });

  it('say offsets to the second, and names without what their form needs', () => {
    const fixed = (offset: string, tzid = 'Site') => timezone(tzid, ['STANDARD', '19700101T000000', offset, offset]);
    for (const [offset, name] of [
      ['+0000', '<Site>0'],
      ['-0000', '<Site>0'],
      ['+0537', '<Site>-5:37'],
      ['-0100', '<Site>1'],
      ['+053702', '<Site>-5:37:02'],
      ['-000105', '<Site>0:01:05'],
      ['-001000', '<Site>0:10'],
    ] as const)
      expect(zoneName('20270715T120000', fixed(offset)), offset).to.equal(name);
    expect(zoneName('20270715T120000', fixed('+0100', 'Our <old> [site]'), 'Our <old> [site]')).to.equal('<Our old site>-1');
    expect(zoneName('20270715T120000', fixed('+0100', '<>'), '<>')).to.equal('<unnamed>-1');
  });

  it('are refused where nothing in their definition can be used, or too much is listed', () => {
    const unusable = /the time zone "Site" is not known, and its definition in the event cannot be used/;
    const fixed = (...more: string[]) => timezone('Site', ['STANDARD', '19700101T000000', '+0100', '+0100', ...more]);
    const without = (name: string) => fixed().filter((l) => !l.startsWith(name));
    for (const zone of [
      without('DTSTART'),
      without('TZOFFSETTO'),
      timezone('Site'),
      ...['+1', '0100', '+01000', 'x+0100', '+0100x', '+010'].map((o) => timezone('Site', ['STANDARD', '19700101T000000', '+0100', o])),
    ])
      expect(() => whenOf(hourAt('20270715T120000', zone)), zone.join(' ')).to.throw(UnreadableEvent, unusable);
    expect(zoneName('20270715T120000', without('TZOFFSETFROM'))).to.equal('<Site>-1');
    expect(zoneName('20270715T120000', [...without('END:VTIMEZONE'), 'BEGIN:STANDARD', 'END:STANDARD', 'END:VTIMEZONE'])).to.equal('<Site>-1');
    const listed = (count: number) => fixed(`RDATE:${Array.from({ length: count }, () => '20200101T000000').join(',')}`);
    expect(zoneName('20270715T120000', listed(1999))).to.equal('<Site>-1');
    expect(() => whenOf(hourAt('20270715T120000', listed(2000)))).to.throw(UnreadableEvent, 'names 2001 changes of the clock; at most 2000 are read');
    const ruled = (count: number) =>
      timezone(
        'Site',
        ...Array.from({ length: count }, (): Observance => ['STANDARD', '20000101T000000', '+0100', '+0100', yearly(1, 'BYMONTHDAY=1')]),
      );
    expect(zoneName('20270715T120000', ruled(100))).to.equal('<Site>-1');
    expect(() => whenOf(hourAt('20270715T120000', ruled(101)))).to.throw(UnreadableEvent, 'has 101 rules; at most 100 are read');
    expect(() => whenOf(hourAt('20270715T120000', [], 'Nowhere'))).to.throw(UnreadableEvent, '"Nowhere" is neither known nor defined in the event');
  });

  it('count onsets in the forms that writers use: days, periods, UTC, blanks', () => {
    const change = (start: string, ...more: string[]) =>
      timezone('Site', ['STANDARD', '20200101T000000', '+0000', '+0000'], ['DAYLIGHT', start, ' +0000', '+0200 ', ...more]);
    for (const zone of [
      change('20270701'),
      change('20270701T000000'),
      change('20270701T000000Z'),
      change('20250101T000000', 'RDATE:20260101T000000Z,20270701T000000/PT1H'),
      change('20270701', yearly(7, 'BYMONTHDAY=1')),
    ]) {
      expect(utc(hourAt('20270701T120000', zone)), zone.join(' ')).to.equal('2027-07-01T10:00');
    }
    expect(utc(hourAt('20270630T120000', change('20270701')))).to.equal('2027-06-30T12:00');
    expect(utc(hourAt('20310801T120000', change('20270701', yearly(7, 'BYMONTHDAY=31'))))).to.equal('2031-08-01T10:00');
    expect(utc(hourAt('20270301T120000', change('20200301', yearly(2, 'BYMONTHDAY=30')))), 'a day that its month has not').to.equal(
      '2027-03-01T10:00',
    );
    expect(utc(hourAt('20000101T120000', change('20270701'))), 'before the first onset').to.equal('2000-01-01T12:00');
  });

  it('are the zone at the end of a path when they agree with it for a year and a half, and not when they differ', () => {
    const path = '/vendor.example/20260101/Europe/London';
    const on = '20270715T120000';
    expect(zoneName(on, european(path, '+0000', '+0100'), path)).to.equal('Europe/London');
    expect(zoneName(on, [], path)).to.equal('Europe/London');
    expect(utc(hourAt(on, european(path, '+0200', '+0300'), path))).to.equal('2027-07-15T09:00');
    for (const [tzid, name] of [
      ['/x/America/Argentina/Buenos_Aires', 'America/Argentina/Buenos_Aires'],
      ['x//Europe/Athens/', 'Europe/Athens'],
      ['/vendor.example/UTC', 'UTC'],
    ])
      expect(zoneName(on, [], tzid), tzid).to.equal(name);
    // It stops agreeing some months before or after the event.
    const until = (start: string) =>
      timezone(
        path,
        ['STANDARD', '20001029T020000', '+0100', '+0000', yearly(10, 'BYDAY=-1SU')],
        ['DAYLIGHT', '20000326T010000', '+0000', '+0100', yearly(3, 'BYDAY=-1SU')],
        ['STANDARD', start, '+0000', '+0500'],
      );
    expect(zoneName(on, until('20290301T120000'), path), 'in 20 months').to.equal('Europe/London');
    expect(zoneName(on, until('20281201T120000'), path), 'in 17 months').to.match(/^<\/vendor/);
    expect(zoneName(on, until('20270201T120000'), path), 'five months ago').to.match(/^<\/vendor/);
    expect(zoneName(on, until('20261201T120000'), path), 'seven months ago, until the next change').to.match(/^<\/vendor/);
    expect(zoneName(on, until('20260501T120000'), path), 'more than half a year ago').to.equal('Europe/London');
    expect(formatWhen(whenOf(hourAt(on, european('Our site', '+0200', '+0300'), 'Our site')))).to.equal('15 Jul 2027 12:00-13:00 Our site');
  });

  it('stay as they are through reading, writing and reading again, on any day', () => {
    const site = european('Our site', '+0545', '+0645');
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2026-01-01'), max: new Date('2029-12-31'), noInvalidDate: true }),
        fc.integer({ min: -500, max: 500 }),
        (day, move) => {
          const local = `${day.toISOString().slice(0, 10).replaceAll('-', '')}T120000`;
          const before = hourAt(local, site, 'Our site');
          const when = whenOf(before);
          expect(definedZone((when as { zone: string }).zone)?.name).to.equal((when as { zone: string }).zone);
          const { from, until } = spanOf(when, london, zones);
          const at = (instant: number) => new Date((instant + move * 86_400) * 1000).toISOString().slice(0, 19);
          const moved = { kind: 'timed' as const, start: at(from), end: at(until), zone: 'UTC' };
          expect(sameWhen(whenOf(editEvent(before, { when: moved }, moment)), moved, zones)).to.equal(true);
          const kept = editEvent(before, { when }, moment);
          expect(kept).to.include(`DTSTART;TZID=Our site:${local}`);
          expect(whenOf(kept)).to.deep.equal(when);
        },
      ),
      { numRuns: 200 },
    );
  });

  it('are written by their own name where the text defines them, and as instants where it does not', () => {
    const zone = european('Our site', '+0545', '+0645');
    const when = { ...whenOf(hourAt('20270715T120000', zone, 'Our site')), start: '2027-07-16T09:00:00', end: '2027-07-16T10:30:00' } as never;
    const inside = editEvent(hourAt('20270715T120000', zone, 'Our site'), { when }, moment);
    expect(inside).to.include('DTSTART;TZID=Our site:20270716T090000').and.include('DTEND;TZID=Our site:20270716T103000');
    expect(inside.match(/BEGIN:VTIMEZONE/g)).to.have.length(1);
    const outside = editEvent(hourAt('20270715T120000', [], 'Europe/London'), { when }, moment);
    expect(outside).to.include('DTSTART:20270716T021500Z\r\n').and.include('DTEND:20270716T034500Z\r\n');
  });
});
