import {
  AuditTally,
  attemptLikeness,
  definedZone,
  editEvent,
  formatWhen,
  judgeEvent,
  matchKey,
  plan,
  readEvent,
  sameWhen,
  spanOf,
  textLimits,
  UnreadableEvent,
} from '@monsoon/core';
import { expect } from 'chai';
import fc from 'fast-check';
import { among, context, event, gathered, lane, pair, paired, record, values, zones } from './engine-fixtures.ts';

const london = zones.find('Europe/London')!;
const text = (lines: string, zone = '') =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Test//EN\r\n${zone}BEGIN:VEVENT\r\nUID:u-1\r\nDTSTAMP:20261101T000000Z\r\n${lines}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
const timezone = (tzid: string, ...observances: string[][]) =>
  `BEGIN:VTIMEZONE\r\nTZID:${tzid}\r\n${observances
    .map(
      ([name, start, from, to, ...more]) =>
        `BEGIN:${name}\r\nDTSTART:${start}\r\nTZOFFSETFROM:${from}\r\nTZOFFSETTO:${to}\r\n${more.map((m) => `${m}\r\n`).join('')}END:${name}\r\n`,
    )
    .join('')}END:VTIMEZONE\r\n`;
const european = (tzid: string, standard: string, summer: string) =>
  timezone(
    tzid,
    ['STANDARD', '19701025T020000', summer, standard, 'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU'],
    ['DAYLIGHT', '19700329T010000', standard, summer, 'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU'],
  );
const whenOf = (lines: string, zone = '') => readEvent(text(lines, zone), zones).values.when!;
const startOf = (lines: string, zone = '') => new Date(spanOf(whenOf(lines, zone), london, zones).from * 1000).toISOString();

describe('zones that only an event defines', () => {
  it('keep the rules of their definition, whatever they are called', () => {
    const summer = 'DTSTART;TZID=Site:20270715T120000\r\nDTEND;TZID=Site:20270715T130000';
    expect(startOf(summer, european('Site', '+0000', '+0100'))).to.equal('2027-07-15T11:00:00.000Z');
    expect(startOf(summer.replaceAll('0715', '0115'), european('Site', '+0000', '+0100'))).to.equal('2027-01-15T12:00:00.000Z');
    expect(startOf(summer, timezone('Site', ['STANDARD', '19700101T000000', '+0537', '+0537']))).to.equal('2027-07-15T06:23:00.000Z');
    // Seven days of a month are another way to say its second Sunday; a list of onsets has no rule.
    const second = ['DAYLIGHT', '19700308T020000', '-0500', '-0400', 'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=SU;BYMONTHDAY=8,9,10,11,12,13,14'];
    const first = ['STANDARD', '19701101T020000', '-0400', '-0500', 'RRULE:FREQ=YEARLY;BYMONTH=11;BYDAY=1SU'];
    expect(startOf(summer, timezone('Site', second, first))).to.equal('2027-07-15T16:00:00.000Z');
    const listed = [
      ['STANDARD', '20261101T020000', '-0400', '-0500', 'RDATE:20271107T020000'],
      ['DAYLIGHT', '20270314T020000', '-0500', '-0400'],
    ];
    expect(startOf(summer, timezone('Site', ...listed))).to.equal('2027-07-15T16:00:00.000Z');
    expect(startOf(summer.replaceAll('0715', '1215'), timezone('Site', ...listed))).to.equal('2027-12-15T17:00:00.000Z');
  });

  it('are the zone at the end of a path when they agree with it, and not when they differ', () => {
    const path = '/vendor.example/20260101/Europe/London';
    const at = `DTSTART;TZID=${path}:20270715T120000\r\nDTEND;TZID=${path}:20270715T130000`;
    expect(whenOf(at, european(path, '+0000', '+0100'))).to.include({ zone: 'Europe/London' });
    expect(whenOf(at)).to.include({ zone: 'Europe/London' });
    expect(startOf(at, european(path, '+0200', '+0300'))).to.equal('2027-07-15T09:00:00.000Z');
    expect(() => whenOf(at.replaceAll(path, 'Nowhere'))).to.throw(UnreadableEvent, /neither known nor defined/);
    expect(formatWhen(whenOf(at.replaceAll(path, 'Our site'), european('Our site', '+0200', '+0300')))).to.equal('15 Jul 2027 12:00-13:00 Our site');
  });

  it('stay as they are through reading, writing and reading again, on any day', () => {
    const site = european('Our site', '+0545', '+0645');
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2026-01-01'), max: new Date('2029-12-31'), noInvalidDate: true }),
        fc.integer({ min: -500, max: 500 }),
        (day, move) => {
          const local = `${day.toISOString().slice(0, 10).replaceAll('-', '')}T120000`;
          const before = text(`SUMMARY:x\r\nDTSTART;TZID=Our site:${local}\r\nDTEND;TZID=Our site:${local.replace('T12', 'T13')}`, site);
          const when = readEvent(before, zones).values.when!;
          expect(definedZone((when as { zone: string }).zone)?.name).to.equal((when as { zone: string }).zone);
          const { from, until } = spanOf(when, london, zones);
          const at = (instant: number) => new Date((instant + move * 86_400) * 1000).toISOString().slice(0, 19);
          const moved = { kind: 'timed' as const, start: at(from), end: at(until), zone: 'UTC' };
          const inZone = readEvent(editEvent(before, { when: moved }, { zones, now: '2026-11-01T00:00:00Z' }), zones).values.when!;
          expect(sameWhen(inZone, moved, zones)).to.equal(true);
          const kept = editEvent(before, { when }, { zones, now: '2026-11-01T00:00:00Z' });
          expect(kept).to.include(`DTSTART;TZID=Our site:${local}`);
          expect(readEvent(kept, zones).values.when).to.deep.equal(when);
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe('reading what stands on a calendar', () => {
  it('compares instants as instants, and floating times with nothing but themselves', () => {
    const noon = { kind: 'timed' as const, start: '2026-12-15T12:00:00', end: '2026-12-15T13:00:00', zone: 'Europe/London' };
    expect(sameWhen(noon, { ...noon, zone: 'UTC' }, zones)).to.equal(true);
    expect(sameWhen(noon, { kind: 'timed', start: '2026-12-15T13:00:00', end: '2026-12-15T14:00:00', zone: 'Europe/Paris' }, zones)).to.equal(true);
    expect(sameWhen(noon, { ...noon, zone: 'Europe/Paris' }, zones)).to.equal(false);
    expect(sameWhen(noon, { ...noon, zone: null }, zones)).to.equal(false);
    const day = { kind: 'all-day', first: '2026-12-15', end: '2026-12-16' } as const;
    for (const other of [noon, { ...day, end: '2026-12-17' }, { ...day, first: '2026-12-14' }])
      for (const [a, b] of [
        [day, other],
        [other, day],
      ] as const)
        expect(sameWhen(a, b, zones)).to.equal(false);
    expect(sameWhen(day, { ...day }, zones)).to.equal(true);
  });

  it('refuses lengths and ends that cannot be, naming them', () => {
    for (const [lines, reason] of [
      ['DTSTART:20270101T100000Z\r\nDURATION:garbage', /"garbage" is not a length/],
      ['DTSTART:20270101T100000Z\r\nDURATION:-PT1H', /"-PT1H" is not a length/],
      ['DTSTART:20270101T100000Z\r\nDURATION:P9999999W', /not a length/],
      ['DTSTART:20270101T100000Z\r\nDTEND:20270101T090000Z', /ends \(20270101T090000Z\) before it starts/],
      ['DTSTART;TZID=Europe/London:20270101T100000\r\nDTEND;TZID=Europe/Paris:20270101T103000', /before it starts/],
    ] as const)
      expect(() => whenOf(lines), lines).to.throw(UnreadableEvent, reason);
    expect(whenOf('DTSTART;TZID=Europe/London:20261024T100000\r\nDURATION:P1D')).to.include({ end: '2026-10-25T10:00:00' });
    expect(whenOf('DTSTART;TZID=Europe/London:20261024T100000\r\nDURATION:PT24H')).to.include({ end: '2026-10-25T09:00:00' });
  });

  it('keeps an attachment that is longer than any line that is read', () => {
    const attachment = `ATTACH;ENCODING=BASE64;VALUE=BINARY:${'QUJD'.repeat(textLimits.line / 4 + 1)}`;
    const big = text(`SUMMARY:With a plan\r\nDTSTART:20270101T100000Z\r\n${attachment}`);
    expect(readEvent(big, zones).values.title).to.equal('With a plan');
    expect(editEvent(big, { title: 'Renamed' }, { zones, now: '2026-11-01T00:00:00Z' })).to.include(attachment);
    expect(() => readEvent(text(`SUMMARY:${'x'.repeat(textLimits.line + 1)}\r\nDTSTART:20270101T100000Z`), zones)).to.throw(
      UnreadableEvent,
      /characters/,
    );
  });

  it('takes an event without CREATED for as old as its last change', () => {
    const after = lane({ direction: '<->', startLine: '2026-11-15' });
    const judged = (lines: string) =>
      judgeEvent(
        context(after),
        { href: '/c/1.ics', etag: null, text: null, read: readEvent(text(`DTSTART:20261201T100000Z\r\n${lines}`), zones) },
        false,
      );
    expect(judged('SUMMARY:x')?.reason, 'its DTSTAMP').to.equal('before the start line');
    expect(judged('LAST-MODIFIED:20261116T000000Z')).to.equal(null);
    expect(judged('CREATED:20261114T235959Z')?.reason).to.equal('before the start line');
  });
});

describe('matching and attempts', () => {
  it('knows people by their addresses, and properties by what their absence means', () => {
    const by = context(lane({ matching: ['attendees', 'busy'] }));
    const key = (attendees: object[] | null, busy: 'busy' | null) => matchKey(by, { attendees: attendees as never, busy });
    const [a, b] = [{ email: 'a@post.example', name: 'A', response: 'accepted' }, { email: 'B@post.example' }];
    expect(key([a, b], null)).to.equal(key([{ email: 'b@post.example' }, { email: 'a@post.example' }], 'busy'));
    expect(key([a], null)).to.not.equal(key([a, b], null));
    expect(key(null, 'busy')).to.equal(null);
  });

  it('knows a record again that a lost answer was about, though its system says the time in another zone', () => {
    const utc = { ...values.when, zone: 'UTC' };
    const tried = pair({
      recordId: null,
      state: 'unconfirmed',
      tried: '2026-11-23T08:00:00Z',
      baseline: { record: { ...values, when: utc }, event: { ...values, when: utc } },
    });
    expect(
      attemptLikeness(
        context(lane({ direction: '<->', fields: { title: { copy: 'notes' } } })),
        tried,
        record({ notes: 'Marsh: tuning', start: '2026-12-01T09:00:00Z[UTC]' }),
      ),
    ).to.not.equal('none');
    const asked = attemptLikeness(
      context(lane({ direction: '<->', fields: { title: { copy: 'notes' } } })),
      { ...tried, baseline: { record: { title: 'Marsh: tuning', when: utc }, event: {} } },
      record({ notes: 'Marsh: tuning', start: '2026-12-01T10:00:00+01:00[Europe/Paris]' }),
    );
    expect(asked).to.equal('sure');
  });

  it('takes no cancelled event, and no series, for one that stands for a new record', () => {
    const cancelled = event({ status: 'cancelled' }, 'by-hand', false);
    expect(plan(context(), gathered(among(cancelled))).operations.map((o) => o.kind)).to.deep.equal(['create']);
    const weekly = event({}, 'by-hand', false);
    expect(plan(context(), gathered(among({ ...weekly, read: { ...weekly.read!, repeating: true } }))).operations.map((o) => o.kind)).to.deep.equal([
      'create',
    ]);
    expect(plan(context(), gathered(among(weekly))).operations.map((o) => o.kind)).to.deep.equal(['adopt']);
  });
});

describe('an audit', () => {
  it('puts every moment and every event in one place alone', () => {
    const audit = (given: ReturnType<typeof gathered>, events: number, unknown: number) => {
      const tally = new AuditTally();
      tally.add(plan(context(), given), given, ['visit']);
      return tally.total(events, unknown);
    };
    const unfit = record({ notes: 'x'.repeat(70_000) });
    expect(audit(paired(unfit, event()), 1, 0))
      .to.deep.include({ addsUp: true })
      .and.nested.property('counts')
      .include({ moments: 1, differing: 1, leftOut: 0, events: 1 });
    expect(audit(paired(record({ start: null }), event()), 1, 0))
      .to.deep.include({ addsUp: true })
      .and.nested.property('counts')
      .include({ moments: 1, leftOut: 1, extra: 1 });
    expect(audit(paired(record(), event()), 3, 2))
      .to.deep.include({ addsUp: true, differences: [] })
      .and.nested.property('counts')
      .include({ inSync: 1, foreign: 2 });
    expect(audit(paired(null, event()), 1, 0))
      .to.deep.include({ addsUp: true })
      .and.nested.property('counts')
      .include({ moments: 0, extra: 1, events: 1 });
    expect(audit(paired(record(), event()), 2, 0).addsUp, 'an event that nobody placed').to.equal(false);
  });
});
