import { expect } from 'chai';
import fc from 'fast-check';
import { parseComponents } from '../src/ical/content.ts';
import { expandSeries } from '../src/recurrence/expand.ts';
import { formatRule, InvalidRule, parseRule } from '../src/recurrence/rule.ts';
import { sayRule } from '../src/recurrence/say-rule.ts';
import { occurrencesOf, occurrenceText, readSeries, restoreOccurrence } from '../src/recurrence/series.ts';
import { eachTime } from '../src/recurrence/wall-clock.ts';
import { civilOf } from '../src/time/days.ts';
import { UTC } from '../src/time/zones.ts';
import { zones } from './engine-fixtures.ts';

const seconds = (text: string) => Date.parse(text.replace(/(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z?/, '$1-$2-$3T$4:$5:$6Z')) / 1000;
const newYork = zones.find('America/New_York')!;

/** The occurrences of a series between two days, as its zone's clock shows them. */
function expand(lines: string, from = '19970101T000000', until = '20000101T000000'): string[] {
  const text = `BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:u\r\n${lines.trim().replace(/\n */g, '\r\n')}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
  const roots = parseComponents(text);
  const events = roots[0]!.components.filter((c) => c.name === 'VEVENT');
  return expandSeries(events, roots, { from: seconds(from), until: seconds(until), home: UTC }, zones).map(
    (o) => `${o.when.kind === 'all-day' ? o.when.first : o.when.start}${o.cancelled ? ' cancelled' : ''}`,
  );
}
const inNewYork = (rule: string, more = '') =>
  expand(`DTSTART;TZID=America/New_York:19970902T090000\nDTEND;TZID=America/New_York:19970902T100000\n${rule}\n${more}`);
const days = (all: string[]) => all.map((t) => t.slice(5, 10)).join(' ');

/** RFC 5545, 3.8.5.3: the rule, and the days that are printed there for it (months and days; the first ones where it goes on). */
const printed: [string, string][] = [
  ['RRULE:FREQ=DAILY;COUNT=10', '09-02 09-03 09-04 09-05 09-06 09-07 09-08 09-09 09-10 09-11'],
  ['RRULE:FREQ=DAILY;INTERVAL=10;COUNT=5', '09-02 09-12 09-22 10-02 10-12'],
  ['RRULE:FREQ=WEEKLY;COUNT=10', '09-02 09-09 09-16 09-23 09-30 10-07 10-14 10-21 10-28 11-04'],
  ['RRULE:FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH', '09-02 09-04 09-09 09-11 09-16 09-18 09-23 09-25 09-30 10-02'],
  ['RRULE:FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH', '09-02 09-04 09-16 09-18 09-30 10-02 10-14 10-16'],
  ['RRULE:FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15', '09-02 09-15 10-02 10-15 11-02 11-15 12-02 12-15 01-02 01-15'],
  ['RRULE:FREQ=MONTHLY;BYDAY=TU;COUNT=6', '09-02 09-09 09-16 09-23 09-30 10-07'],
  ['RRULE:FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13\nEXDATE;TZID=America/New_York:19970902T090000', '02-13 03-13 11-13 08-13'],
  ['RRULE:FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3', '09-02 09-04 10-07'],
];

describe('recurrence rules', () => {
  for (const [rule, wanted] of printed)
    it(`of RFC 5545: ${rule.split('\n')[0]}`, () => {
      expect(days(inNewYork(rule))).to.equal(wanted);
    });

  it('count the start, and go by the year, its weeks, its days and its months', () => {
    expect(inNewYork('RRULE:FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8;COUNT=2')).to.deep.equal(
      ['1997-09-02T09:00:00', '1997-11-04T09:00:00'].slice(0, 2),
    );
    const yearly = (rule: string, start = '19970101T090000') => expand(`DTSTART:${start}\nRRULE:${rule}`, '19970101T000000', '20100101T000000');
    expect(
      yearly('FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200')
        .slice(0, 5)
        .map((t) => t.slice(0, 10)),
    ).to.deep.equal(['1997-01-01', '1997-04-10', '1997-07-19', '2000-01-01', '2000-04-09']);
    expect(yearly('FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO;COUNT=3', '19970512T090000').map((t) => t.slice(0, 10))).to.deep.equal([
      '1997-05-12',
      '1998-05-11',
      '1999-05-17',
    ]);
    expect(yearly('FREQ=YEARLY;BYDAY=20MO;COUNT=3', '19970519T090000').map((t) => t.slice(0, 10))).to.deep.equal([
      '1997-05-19',
      '1998-05-18',
      '1999-05-17',
    ]);
    expect(yearly('FREQ=YEARLY;BYWEEKNO=1;COUNT=3', '19971229T090000').map((t) => t.slice(0, 10))).to.deep.equal([
      '1997-12-29',
      '1999-01-04',
      '2000-01-03',
    ]);
    expect(yearly('FREQ=MONTHLY;BYMONTHDAY=31;COUNT=3', '19970131T090000').map((t) => t.slice(0, 10))).to.deep.equal([
      '1997-01-31',
      '1997-03-31',
      '1997-05-31',
    ]);
    expect(yearly('FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2;COUNT=3', '19970929T090000').map((t) => t.slice(0, 10))).to.deep.equal([
      '1997-09-29',
      '1997-10-30',
      '1997-11-27',
    ]);
    expect(yearly('FREQ=HOURLY;INTERVAL=3;COUNT=3', '19970902T090000')).to.deep.equal([
      '1997-09-02T09:00:00',
      '1997-09-02T12:00:00',
      '1997-09-02T15:00:00',
    ]);
    expect(yearly('FREQ=MINUTELY;INTERVAL=90;COUNT=3', '19970902T090000').map((t) => t.slice(11, 16))).to.deep.equal(['09:00', '10:30', '12:00']);
  });

  it('agree with looking at every hour, one by one', () => {
    const weekday = fc.constantFrom('MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU');
    const some = <T>(a: fc.Arbitrary<T>) => fc.uniqueArray(a, { minLength: 1, maxLength: 3 }).map((l) => l.join(','));
    const maybe = (name: string, a: fc.Arbitrary<string>) =>
      fc.option(
        a.map((v) => `;${name}=${v}`),
        { nil: '', freq: 2 },
      );
    const signed = (most: number) => fc.integer({ min: -most, max: most }).filter((n) => n !== 0);
    const rule = fc
      .record({
        frequency: fc.constantFrom('YEARLY', 'MONTHLY', 'WEEKLY', 'DAILY', 'HOURLY'),
        interval: fc.integer({ min: 1, max: 5 }),
        months: maybe('BYMONTH', some(fc.integer({ min: 1, max: 12 }))),
        monthDays: maybe('BYMONTHDAY', some(signed(31))),
        yearDays: maybe('BYYEARDAY', some(signed(366))),
        days: maybe('BYDAY', some(weekday)),
        numbered: maybe('BYDAY', some(fc.tuple(signed(5), weekday).map(([nth, day]) => `${nth}${day}`))),
        hours: maybe('BYHOUR', some(fc.integer({ min: 0, max: 23 }))),
      })
      .map(
        ({ frequency, interval, months, monthDays, yearDays, days, numbered, hours }) =>
          `FREQ=${frequency};INTERVAL=${interval}${months}${frequency === 'WEEKLY' ? '' : monthDays}${
            ['YEARLY', 'HOURLY'].includes(frequency) ? yearDays : ''
          }${['YEARLY', 'MONTHLY'].includes(frequency) && numbered !== '' ? numbered : days}${hours}`,
      );
    fc.assert(
      fc.property(rule, fc.integer({ min: 0, max: 700 }), fc.integer({ min: 0, max: 23 }), (text, day, hour) => {
        const start = Date.UTC(2024, 0, 1 + day, hour, 15) / 1000;
        const window = { from: start, until: start + 400 * 86_400 };
        expect(until(text, start, window).map(say), text).to.deep.equal(bruteForce(text, start, window.until).map(say));
      }),
      { numRuns: 120 },
    );
  }).timeout(240_000);

  it('enter a window far from the start where the same times come of it', () => {
    const start = seconds('20100105T093000');
    for (const text of [
      'FREQ=WEEKLY;INTERVAL=3;BYDAY=TU,SA',
      'FREQ=MONTHLY;INTERVAL=5;BYDAY=-1FR',
      'FREQ=YEARLY;BYWEEKNO=53,1;BYDAY=MO',
      'FREQ=HOURLY;INTERVAL=7;BYDAY=WE',
    ]) {
      const window = { from: seconds('20260101T000000'), until: seconds('20270101T000000') };
      const all = until(text, start, { from: start, until: window.until }).filter((t) => t >= window.from && t <= window.until);
      expect(
        until(text, start, window).filter((t) => t >= window.from && t <= window.until),
        text,
      ).to.deep.equal(all);
    }
  });

  it('are refused with the part, the value and the reason', () => {
    for (const [text, why] of [
      ['', /is no NAME=VALUE/],
      ['INTERVAL=2', /FREQ is missing/],
      ['FREQ=FORTNIGHTLY', /FREQ "FORTNIGHTLY" is none of/],
      ['FREQ=DAILY;COUNT=3;UNTIL=20260101', /COUNT and UNTIL exclude each other/],
      ['FREQ=DAILY;INTERVAL=0', /INTERVAL "0" is no whole number from 1/],
      ['FREQ=YEARLY;BYMONTH=13', /BYMONTH "13" is not from 1 to 12/],
      ['FREQ=MONTHLY;BYMONTHDAY=0', /BYMONTHDAY "0" is not from 1 to 31/],
      ['FREQ=WEEKLY;BYDAY=2MO', /BYDAY has a number, which WEEKLY rules do not/],
      ['FREQ=WEEKLY;BYMONTHDAY=3', /BYMONTHDAY does not go with WEEKLY/],
      ['FREQ=MONTHLY;BYWEEKNO=3', /BYWEEKNO goes with YEARLY only/],
      ['FREQ=DAILY;BYSETPOS=1', /BYSETPOS needs another BY part/],
      ['FREQ=DAILY;FREQ=DAILY', /FREQ is given twice/],
      ['FREQ=DAILY;COLOUR=RED', /part COLOUR is none of RFC 5545/],
      ['FREQ=DAILY;UNTIL=tomorrow', /UNTIL "tomorrow" is no date/],
      [`FREQ=DAILY;BYDAY=${'MO,'.repeat(900)}`, /the rule has \d+ characters/],
    ] as const)
      expect(() => parseRule(text), text).to.throw(InvalidRule, why);
  });

  it('are the same text however their parts are ordered', () => {
    expect(formatRule(parseRule('rrule:byday=fr,mo;interval=2;freq=weekly;wkst=su'))).to.equal('FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,FR;WKST=SU');
  });

  it('cost their own item and no more, however hostile', () => {
    const bombs = [
      'FREQ=SECONDLY',
      'FREQ=SECONDLY;COUNT=10000000',
      'FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30',
      'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30;COUNT=5',
      'FREQ=SECONDLY;INTERVAL=100000;BYSECOND=1;BYMINUTE=1;BYHOUR=1;BYMONTHDAY=31;BYMONTH=2',
      `FREQ=YEARLY;BYHOUR=${[...Array(24).keys()]};BYMINUTE=${[...Array(60).keys()]};BYSECOND=${[...Array(60).keys()]};BYSETPOS=-1`,
      'FREQ=MINUTELY;BYMONTH=1;BYDAY=MO;BYSETPOS=366',
    ];
    for (const bomb of bombs) {
      const began = process.cpuUsage();
      try {
        expand(`DTSTART:19970101T000000\nRRULE:${bomb}`, '20260101T000000', '20280101T000000');
      } catch (error) {
        expect(error, bomb).to.be.instanceOf(InvalidRule);
      }
      // A guard against a rule without end, on the slowest machine; `bench recurrence` says what they take.
      const { user, system } = process.cpuUsage(began);
      expect((user + system) / 1000, `milliseconds for ${bomb.slice(0, 60)}`).to.be.lessThan(5000);
    }
  });
});

describe('a series', () => {
  it('keeps its wall clock over clock changes; a skipped time is read with the offset before, of two the first is meant', () => {
    const found = expand(
      'DTSTART;TZID=America/New_York:20260306T023000\nDTEND;TZID=America/New_York:20260306T033000\nRRULE:FREQ=DAILY;COUNT=4',
      '20260301T000000',
      '20260401T000000',
    );
    expect(found).to.deep.equal(['2026-03-06T02:30:00', '2026-03-07T02:30:00', '2026-03-08T02:30:00', '2026-03-09T02:30:00']);
    expect(newYork.period(seconds('20260308T073000')).offset).to.equal(-4 * 3600);
  });

  it('has added and excluded dates in every form', () => {
    const start = 'DTSTART;TZID=Europe/London:20260601T090000\nDTEND;TZID=Europe/London:20260601T100000\nRRULE:FREQ=DAILY;COUNT=5';
    const window = ['20260101T000000', '20270101T000000'] as const;
    expect(days(expand(`${start}\nEXDATE:20260602T080000Z`, ...window))).to.equal('06-01 06-03 06-04 06-05');
    expect(days(expand(`${start}\nEXDATE;VALUE=DATE:20260603,20260604`, ...window))).to.equal('06-01 06-02 06-05');
    expect(days(expand(`${start}\nEXDATE;TZID=Europe/Paris:20260605T100000`, ...window))).to.equal('06-01 06-02 06-03 06-04');
    expect(expand(`${start}\nRDATE;VALUE=PERIOD:20260610T080000Z/PT30M,20260611T080000Z/20260611T090000Z`, ...window).slice(5)).to.deep.equal([
      '2026-06-10T09:00:00',
      '2026-06-11T09:00:00',
    ]);
    expect(
      days(expand(`${start}\nRDATE;TZID=Europe/London:20260603T090000,20260701T090000`, ...window)),
      'an added date that is there already',
    ).to.equal('06-01 06-02 06-03 06-04 06-05 07-01');
    expect(days(expand('DTSTART;VALUE=DATE:20260601\nRRULE:FREQ=WEEKLY;UNTIL=20260622\nEXDATE;VALUE=DATE:20260608', ...window))).to.equal(
      '06-01 06-15 06-22',
    );
    expect(
      days(expand('DTSTART;TZID=Europe/London:20260601T090000\nRRULE:FREQ=DAILY;UNTIL=20260603T080000Z', ...window)),
      'UNTIL is an instant',
    ).to.equal('06-01 06-02 06-03');
    expect(days(expand('DTSTART;TZID=Europe/London:20260601T090000\nRRULE:FREQ=DAILY;UNTIL=20260603T075959Z', ...window))).to.equal('06-01 06-02');
    expect(
      days(expand('DTSTART;TZID=Europe/London:20260601T090000\nRRULE:FREQ=DAILY;UNTIL=20260603', ...window)),
      'a day includes its times',
    ).to.equal('06-01 06-02 06-03');
  });

  const withOverride = (override: string, rule = 'RRULE:FREQ=WEEKLY;COUNT=4') =>
    `DTSTART;TZID=Europe/London:20260601T090000\nDTEND;TZID=Europe/London:20260601T100000\n${rule}\nEND:VEVENT\nBEGIN:VEVENT\nUID:u\n${override}`;
  const june = ['20260601T000000', '20260701T000000'] as const;

  it('has overrides that move, cancel, leave the window or come into it, and change all that follow', () => {
    const moved =
      'RECURRENCE-ID;TZID=Europe/London:20260608T090000\nDTSTART;TZID=Europe/London:20260609T140000\nDTEND;TZID=Europe/London:20260609T150000';
    expect(expand(withOverride(moved), ...june)).to.deep.equal([
      '2026-06-01T09:00:00',
      '2026-06-09T14:00:00',
      '2026-06-15T09:00:00',
      '2026-06-22T09:00:00',
    ]);
    expect(
      days(expand(withOverride(moved, 'RRULE:FREQ=WEEKLY;COUNT=4\nEXDATE;VALUE=DATE:20260608'), ...june)),
      'an excluded day has no override',
    ).to.equal('06-01 06-15 06-22');
    expect(days(expand(withOverride(moved.replaceAll('20260609', '20260815')), ...june)), 'moved out').to.equal('06-01 06-15 06-22');
    expect(days(expand(withOverride(moved.replaceAll('20260609', '20260815')), '20260801T000000', '20260901T000000')), 'moved in').to.equal('08-15');
    expect(expand(withOverride(`${moved}\nSTATUS:CANCELLED`), ...june)[1]).to.equal('2026-06-09T14:00:00 cancelled');
    const utc = 'RECURRENCE-ID:20260608T080000Z\nDTSTART;TZID=Europe/London:20260609T140000\nDTEND;TZID=Europe/London:20260609T150000';
    expect(expand(withOverride(utc), ...june)[1], 'named by the instant').to.equal('2026-06-09T14:00:00');
    const future =
      'RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=Europe/London:20260615T090000\nDTSTART;TZID=Europe/London:20260615T113000\nDTEND;TZID=Europe/London:20260615T120000';
    expect(expand(withOverride(future), ...june).map((t) => t.slice(8, 16))).to.deep.equal(['01T09:00', '08T09:00', '15T11:30', '22T11:30']);
  });

  it('gets an occurrence back, in whatever form it was excluded', () => {
    const lines = (excluded: string) =>
      [
        'BEGIN:VCALENDAR',
        'BEGIN:VEVENT',
        'UID:choir',
        'SUMMARY:Choir',
        'DTSTART;TZID=Europe/London:20260601T090000',
        'DTEND;TZID=Europe/London:20260601T100000',
        'RRULE:FREQ=DAILY;COUNT=3',
        ...(excluded === '' ? [] : [excluded]),
        'END:VEVENT',
        'END:VCALENDAR',
        '',
      ].join('\r\n');
    const window = { from: 0, until: 0, home: UTC, also: new Set(['20260602T080000Z']) };
    const series = readSeries(lines(''))!;
    const [second] = occurrencesOf(series, window, zones);
    const context = { zones, lane: 'L', window };
    for (const form of ['EXDATE:20260602T080000Z', 'EXDATE;TZID=Europe/Paris:20260602T100000', 'EXDATE;TZID=Europe/London:20260602T090000'])
      expect(restoreOccurrence(lines(form), '20260602T080000Z', occurrenceText(series, second!, zones), context), form).to.equal(lines(''));
  });

  it('may hold single occurrences alone', () => {
    const alone = 'RECURRENCE-ID:20260608T080000Z\nDTSTART:20260608T080000Z\nDTEND:20260608T090000Z';
    expect(expand(alone, ...june)).to.deep.equal(['2026-06-08T08:00:00']);
  });

  it('with more than a thousand occurrences in a window fails, and says so', () => {
    expect(() => expand('DTSTART:20260101T000000Z\nRRULE:FREQ=MINUTELY', ...june)).to.throw(
      InvalidRule,
      'the series has more than 1000 occurrences in the window',
    );
  });
});

function until(text: string, start: number, window: { from: number; until: number }): number[] {
  const found: number[] = [];
  eachTime(parseRule(text), start, window, (time) => time <= window.until && found.push(time) > 0);
  return found;
}

const say = (time: number) => new Date(time * 1000).toISOString().slice(0, 16);

/** Looks at each hour: shares nothing with the code but the reading of NAME=VALUE. */
function bruteForce(text: string, start: number, last: number): number[] {
  const parts = new Map(text.split(';').map((p) => p.split('=') as [string, string]));
  const lists = new Map([...parts].map(([name, value]) => [name, value.split(',')]));
  const list = (name: string) => lists.get(name);
  const interval = Number(parts.get('INTERVAL'));
  const first = new Date(start * 1000);
  const names = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'];
  const monday = (d: Date) => Math.floor((d.getTime() / 86_400_000 + 3) / 7);
  const undated = !parts.has('BYDAY') && !parts.has('BYMONTHDAY') && !parts.has('BYYEARDAY');
  const found: number[] = [];
  for (let time = start; time <= last; time += 3600) {
    const at = new Date(time * 1000);
    const [y, m, d, h] = [at.getUTCFullYear(), at.getUTCMonth(), at.getUTCDate(), at.getUTCHours()];
    const periods = {
      YEARLY: y - first.getUTCFullYear(),
      MONTHLY: (y - first.getUTCFullYear()) * 12 + m - first.getUTCMonth(),
      WEEKLY: monday(at) - monday(first),
      DAILY: Math.floor(time / 86_400) - Math.floor(start / 86_400),
      HOURLY: Math.floor(time / 3600) - Math.floor(start / 3600),
    };
    const frequency = parts.get('FREQ') as keyof typeof periods;
    const length = new Date(Date.UTC(y, m + 1, 0)).getUTCDate();
    const months = list('BYMONTH') ?? (frequency === 'YEARLY' && undated ? [String(first.getUTCMonth() + 1)] : undefined);
    const monthDays = list('BYMONTHDAY') ?? (undated && ['YEARLY', 'MONTHLY'].includes(frequency) ? [String(first.getUTCDate())] : undefined);
    const weekdays = list('BYDAY') ?? (frequency === 'WEEKLY' ? [names[first.getUTCDay()]!] : undefined);
    const yearLength = (Date.UTC(y + 1, 0, 1) - Date.UTC(y, 0, 1)) / 86_400_000;
    const dayOfYear = Math.floor((at.getTime() - Date.UTC(y, 0, 1)) / 86_400_000) + 1;
    // Numbers of weekdays go by the year where the rule does and names no months.
    const [place, size] = frequency === 'YEARLY' && !parts.has('BYMONTH') ? [dayOfYear, yearLength] : [d, length];
    const weekdayFits = (said: string): boolean => {
      const nth = Number(said.slice(0, -2) || 0);
      return said.endsWith(names[at.getUTCDay()]!) && (nth === 0 || nth === Math.ceil(place / 7) || nth === -Math.ceil((size - place + 1) / 7));
    };
    const yearDays = list('BYYEARDAY');
    const hours = list('BYHOUR') ?? (frequency === 'HOURLY' ? undefined : [String(first.getUTCHours())]);
    const fits =
      periods[frequency] % interval === 0 &&
      at.getUTCMinutes() === first.getUTCMinutes() &&
      (months === undefined || months.includes(String(m + 1))) &&
      (monthDays === undefined || monthDays.includes(String(d)) || monthDays.includes(String(d - length - 1))) &&
      (yearDays === undefined || yearDays.includes(String(dayOfYear)) || yearDays.includes(String(dayOfYear - yearLength - 1))) &&
      (weekdays === undefined || weekdays.some(weekdayFits)) &&
      (hours === undefined || hours.includes(String(h)));
    if (fits) found.push(time);
  }
  return found;
}

describe('rules in words', () => {
  for (const [rule, words] of [
    ['FREQ=WEEKLY;INTERVAL=2;BYDAY=TU;UNTIL=20260630T220000Z', 'every second Tuesday, until 30 June 2026'],
    ['FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', 'every weekday'],
    ['FREQ=WEEKLY;INTERVAL=3;BYDAY=SA,MO', 'every third week on Monday and Saturday'],
    ['FREQ=DAILY;COUNT=1', 'every day, 1 time'],
    ['FREQ=MONTHLY;BYDAY=-1FR;COUNT=14', 'every month on the last Friday, 14 times'],
    ['FREQ=MONTHLY;BYMONTHDAY=1,22,-1', 'every month on the last day, 1st and 22nd'],
    ['FREQ=YEARLY;BYMONTH=12;BYDAY=2SU', 'every year on the second Sunday in December'],
    ['FREQ=YEARLY;INTERVAL=12', 'every 12th year'],
    ['FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO', 'every year on Monday, by a rule of several parts'],
    ['FREQ=DAILY;BYHOUR=9,17', 'every day at 09:00 and 17:00'],
  ] as const)
    it(words, () => expect(sayRule(parseRule(rule))).to.equal(words));
});

describe('days of the calendar', () => {
  it('are counted as Date counts them', () => {
    for (let day = -800_000; day < 2_900_000; day += 1237) {
      const date = new Date(day * 86_400_000);
      expect(civilOf(day), String(day)).to.deep.equal({ year: date.getUTCFullYear(), month: date.getUTCMonth() + 1, day: date.getUTCDate() });
    }
  });
});
