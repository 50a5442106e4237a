import { AuditTally, CreateAttempts, editEvent, judgeEvent, matchKey, plan, readEvent, sameWhen, textLimits, UnreadableEvent } from '@monsoon/core';
import { expect } from 'chai';
import { among, context, event, gathered, lane, pair, paired, record, values, zones } from './engine-fixtures.ts';

const _london = zones.find('Europe/London')!;
const text = (lines: string) =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Test//EN\r\nBEGIN:VEVENT\r\nUID:u-1\r\nDTSTAMP:20261101T000000Z\r\n${lines}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
const whenOf = (lines: string) => readEvent(text(lines), zones).values.when!;

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
    const found = (attempt: typeof tried, made: ReturnType<typeof record>) => {
      const attempts = new CreateAttempts(context(lane({ direction: '<->', fields: { title: { copy: 'notes' } } })), [attempt]);
      if (attempts.mayBe(made)) attempts.note(made, () => false);
      return attempts.candidates().get(attempt.id)!;
    };
    const said = found(tried, record({ notes: 'Marsh: tuning', start: '2026-12-01T09:00:00Z[UTC]' }));
    expect(said.sure.length + said.maybe.length).to.equal(1);
    const elsewhere = record({ notes: 'Marsh: tuning', start: '2026-12-01T10:00:00+01:00[Europe/Paris]' });
    expect(found({ ...tried, baseline: { record: { title: 'Marsh: tuning', when: utc }, event: {} } }, elsewhere).sure).to.have.length(1);
  });

  it('finds what attempts may have made by what they said, in one pass', function () {
    this.timeout(20_000);
    const by = context(lane({ direction: '<->', fields: { title: { copy: 'notes' } } }));
    const day = (n: number) => new Date(Date.UTC(2026, 0, 1 + (n % 1000))).toISOString().slice(0, 10);
    const attempts = Array.from({ length: 1000 }, (_, n) =>
      pair({
        id: `p${n}`,
        recordId: null,
        state: 'unconfirmed',
        tried: '2026-11-23T08:00:00Z',
        baseline: { record: { title: 'Choir', when: { ...values.when, start: `${day(n)}T09:00:00`, end: `${day(n)}T10:00:00` } }, event: {} },
      }),
    );
    const made = new CreateAttempts(by, attempts);
    for (let n = 0; n < 20_000; n++) {
      const one = { ...record({ notes: n % 2 ? 'Choir' : 'Another', start: `${day(n)}T09:00:00Z[UTC]` }), id: `r${n}` };
      if (made.mayBe(one)) made.note(one, () => false);
    }
    // Never more than others can take, and some: a person is asked about no more.
    const sizes = [...made.candidates().values()].map((c) => c.maybe.length);
    expect(Math.max(...sizes)).to.be.at.most(1020);
    expect(Math.min(...sizes)).to.be.greaterThan(0);
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
