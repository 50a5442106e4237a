import {
  type EventValues,
  editEvent,
  type MappedValues,
  makeEvent,
  readEvent,
  sameProperty,
  UnreadableEvent,
  UnwritableEvent,
  type When,
  withOwnReply,
} from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { expect } from 'chai';
import fc from 'fast-check';
import ICAL from 'ical.js';
import { eventPart, object, event as oneEvent } from './object-fixtures.ts';

const zones = loadZones();
const context = { zones, now: '2026-11-23T08:00:00Z' };
const mark = { lane: 'lane-1', pair: 'pair-1' };

const text = fc.string({ unit: 'grapheme', maxLength: 120 }).map((s) => s.replace(/\p{Cc}|\p{Surrogate}/gu, ' ').trim() || 'x');
const words = fc.uniqueArray(text, { minLength: 1, maxLength: 4 });
const timed = fc
  .record({
    day: fc.integer({ min: 1, max: 28 }),
    month: fc.integer({ min: 1, max: 12 }),
    hour: fc.integer({ min: 3, max: 20 }),
    zone: fc.constantFrom('Europe/London', 'America/Halifax', 'UTC', null),
  })
  .map(({ day, month, hour, zone }) => {
    const two = (n: number) => String(n).padStart(2, '0');
    const date = `2027-${two(month)}-${two(day)}`;
    return { kind: 'timed' as const, start: `${date}T${two(hour)}:30:00`, end: `${date}T${two(hour + 1)}:15:00`, zone };
  });
const allDay = fc
  .integer({ min: 1, max: 27 })
  .map((d) => ({ kind: 'all-day' as const, first: `2027-03-${String(d).padStart(2, '0')}`, end: `2027-03-${String(d + 1).padStart(2, '0')}` }));
const values = fc.record<MappedValues>({
  title: text,
  description: fc.option(text, { nil: null }),
  location: fc.option(text, { nil: null }),
  when: fc.oneof(timed, allDay),
  status: fc.option(fc.constantFrom('tentative', 'confirmed', 'cancelled')),
  busy: fc.option(fc.constantFrom('busy', 'free')),
  visibility: fc.option(fc.constantFrom('public', 'private')),
  categories: fc.option(words),
  link: fc.option(fc.webUrl()),
  colour: fc.constant(null),
});

const agree = (read: EventValues, wanted: MappedValues) => {
  for (const [name, value] of Object.entries(wanted))
    expect(
      sameProperty(name as keyof EventValues, read[name as keyof EventValues], value, zones),
      `${name}: ${JSON.stringify(read[name as keyof EventValues])}`,
    ).to.equal(true);
};

const FOREIGN = [
  'X-ODD;X-LIST="a,b","c;d":kept: as\\, it is',
  'ATTENDEE;CN="Marsh, Ottoline";PARTSTAT=ACCEPTED:mailto:ottoline@post.example',
  'ORGANIZER;SCHEDULE-AGENT=CLIENT:mailto:ines@alder-wren.example',
  'GEO:53.8;-1.55',
  'BEGIN:VALARM',
  'ACTION:DISPLAY',
  'TRIGGER:-PT10M',
  'DESCRIPTION:not the description of the event',
  'END:VALARM',
  'BEGIN:X-STRANGE',
  'X-INSIDE:1',
  'END:X-STRANGE',
];

describe('event text', () => {
  it('reads back what it wrote, and another reader finds the same', () => {
    fc.assert(
      fc.property(values, (wanted) => {
        const written = makeEvent('uid-1', wanted, mark, context);
        const read = readEvent(written, zones);
        expect(read).to.include({ uid: 'uid-1', repeating: false });
        expect(read.mark).to.deep.equal(mark);
        agree(read.values, wanted);
        const other = new ICAL.Event(new ICAL.Component(ICAL.parse(written)).getFirstSubcomponent('vevent')!);
        expect(other.summary).to.equal(wanted.title);
        expect(other.startDate.isDate).to.equal(wanted.when!.kind === 'all-day');
        for (const physical of written.split('\r\n')) expect(Buffer.byteLength(physical)).to.be.at.most(75);
      }),
    );
  });

  it('takes a series to another clock with its excluded dates and its overrides, those with a time of their own too', () => {
    const stored = object(
      ...eventPart('DTSTART:20270322T180000Z', 'DTEND:20270322T190000Z', 'RRULE:FREQ=WEEKLY', 'EXDATE:20270329T180000Z'),
      ...eventPart('RECURRENCE-ID:20270405T180000Z', 'DTSTART:20270405T180000Z', 'DTEND:20270405T190000Z', 'SUMMARY:The hall is closed'),
      ...eventPart('RECURRENCE-ID:20270412T180000Z', 'DTSTART:20270413T080000Z', 'DTEND:20270413T090000Z', 'SUMMARY:In the morning'),
    );
    const when: When = { kind: 'timed', start: '2027-03-22T18:00:00', end: '2027-03-22T19:00:00', zone: 'Europe/London' };
    const edited = editEvent(stored, { when }, context);
    expect(edited.replaceAll('\r\n', '\n').match(/^(RECURRENCE-ID|EXDATE|DT(START|END))(?=.*London|:.*Z).*$/gm)).to.deep.equal([
      'DTSTART;TZID=Europe/London:20270322T180000',
      'DTEND;TZID=Europe/London:20270322T190000',
      'EXDATE;TZID=Europe/London:20270329T180000',
      'RECURRENCE-ID;TZID=Europe/London:20270405T180000',
      'DTSTART;TZID=Europe/London:20270405T180000',
      'DTEND;TZID=Europe/London:20270405T190000',
      'RECURRENCE-ID;TZID=Europe/London:20270412T180000',
      'DTSTART:20270413T080000Z',
      'DTEND:20270413T090000Z',
    ]);
  });

  it('changes what it is told to and leaves everything else as it was, to the letter', () => {
    fc.assert(
      fc.property(values, values, (first, second) => {
        const stored = makeEvent('uid-1', first, mark, context).replace('END:VEVENT', `${FOREIGN.join('\r\n')}\r\nEND:VEVENT`);
        const edited = editEvent(stored, second, context);
        agree(readEvent(edited, zones).values, second);
        const unfolded = edited.replace(/\r\n /g, '').split('\r\n');
        for (const line of FOREIGN) expect(unfolded).to.include(line);
      }),
    );
  });

  it('keeps the parameters of a line it changes, and the occurrences of a repeating event', () => {
    const stored = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'BEGIN:VEVENT',
      'UID:a',
      'DTSTART:20261201T090000Z',
      'DURATION:PT1H',
      'RRULE:FREQ=WEEKLY',
      'SUMMARY;LANGUAGE=en:Old',
      'END:VEVENT',
      'BEGIN:VEVENT',
      'UID:a',
      'RECURRENCE-ID:20261208T090000Z',
      'DTSTART:20261208T110000Z',
      'SUMMARY:Moved once',
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n');
    expect(readEvent(stored, zones))
      .to.include({ repeating: true })
      .and.nested.property('values.when')
      .deep.equal({ kind: 'timed', start: '2026-12-01T09:00:00', end: '2026-12-01T10:00:00', zone: 'UTC' });
    const edited = editEvent(stored, { title: 'New' }, context);
    expect(edited).to.include('SUMMARY;LANGUAGE=en:New').and.include('SUMMARY:Moved once').and.include('DURATION:PT1H').and.include('SEQUENCE:1');
  });

  it('reads what other writers produce: Windows zones, private zones, floating times, missing or odd ends', () => {
    const when = (...lines: string[]) =>
      readEvent(
        [
          'BEGIN:VCALENDAR',
          ...lines.filter((l) => l.startsWith('TZ:')).map((l) => l.slice(3)),
          'BEGIN:VEVENT',
          'UID:a',
          ...lines.filter((l) => !l.startsWith('TZ:')),
          'END:VEVENT',
          'END:VCALENDAR',
        ].join('\n'),
        zones,
      ).values.when;
    expect(when('DTSTART;TZID=GMT Standard Time:20261201T090000', 'DTEND;TZID=GMT Standard Time:20261201T100000')).to.deep.equal({
      kind: 'timed',
      start: '2026-12-01T09:00:00',
      end: '2026-12-01T10:00:00',
      zone: 'Europe/London',
    });
    expect(when('DTSTART:20261201T090000', 'DTEND:20261201T100000')).to.include({ zone: null });
    expect(when('DTSTART;VALUE=DATE:20261201')).to.deep.equal({ kind: 'all-day', first: '2026-12-01', end: '2026-12-02' });
    expect(when('DTSTART;VALUE=DATE:20261201', 'DTEND;VALUE=DATE:20261201')).to.deep.equal({
      kind: 'all-day',
      first: '2026-12-01',
      end: '2026-12-02',
    });
    expect(
      when(
        'TZ:BEGIN:VTIMEZONE',
        'TZ:TZID:Our Time',
        'TZ:BEGIN:STANDARD',
        'TZ:DTSTART:19700101T000000',
        'TZ:TZOFFSETFROM:+0300',
        'TZ:TZOFFSETTO:+0300',
        'TZ:END:STANDARD',
        'TZ:END:VTIMEZONE',
        'DTSTART;TZID=Our Time:20261201T090000',
        'DTEND:20261201T070000Z',
      ),
    ).to.include({ start: '2026-12-01T09:00:00', end: '2026-12-01T10:00:00' });
  });

  it('takes a METHOD away where it writes: what is stored is no message (RFC 4791, 4.1)', () => {
    const stored = makeEvent(
      'm',
      { title: 'Visit', when: { kind: 'all-day', first: '2026-12-01', end: '2026-12-02' } },
      { lane: 'l', pair: 'p' },
      context,
    );
    const message = stored.replace('VERSION:2.0', 'VERSION:2.0\r\nMETHOD:REQUEST');
    expect(readEvent(message, zones).values.title).to.equal('Visit');
    expect(editEvent(message, { title: 'Later' }, context)).to.not.include('METHOD');
  });

  it('gives an event of no length no end, which servers refuse', () => {
    const when = { kind: 'timed' as const, start: '2026-12-01T09:00:00', end: '2026-12-01T09:00:00', zone: 'Europe/London' };
    const text = makeEvent('a', { title: 'x', when }, mark, context);
    expect(text).to.not.include('DTEND');
    expect(readEvent(text, zones).values.when).to.deep.equal(when);
  });

  it('refuses text that it cannot understand, saying where', () => {
    const event = (...lines: string[]) => ['BEGIN:VEVENT', ...lines, 'END:VEVENT'].join('\r\n');
    expect(() => readEvent(event('UID:a'), zones)).to.throw(UnreadableEvent, 'no DTSTART');
    expect(() => readEvent(event('UID:a', 'DTSTART:20260230T100000Z'), zones)).to.throw(UnreadableEvent, 'does not exist');
    expect(() => readEvent(event('UID:a', 'DTSTART;TZID=Nowhere:20260203T100000'), zones)).to.throw(
      UnreadableEvent,
      '"Nowhere" is neither known nor defined',
    );
    expect(() => readEvent(event('DTSTART:20260203T100000Z'), zones)).to.throw(UnreadableEvent, 'no UID');
    expect(() => readEvent('BEGIN:VEVENT\r\nUID:a', zones)).to.throw(UnreadableEvent, 'not ended');
    expect(() => readEvent('nonsense', zones)).to.throw(UnreadableEvent, 'line 1');
    expect(() => readEvent('', zones)).to.throw(UnreadableEvent, 'no VEVENT');
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (s) => {
        try {
          readEvent(s, zones);
        } catch (error) {
          expect(error).to.be.instanceOf(UnreadableEvent);
        }
      }),
    );
  });
});

describe('the text of an event', () => {
  const start = 'DTSTART:20261201T190000Z';
  const read = (...lines: string[]) => readEvent(oneEvent(start, ...lines), zones);

  it('is read as far as its values are well formed', () => {
    expect(read('CREATED:20261001T000000Z', 'LAST-MODIFIED:20261002T000000Z', 'DTSTAMP:20261003T000000Z', 'SEQUENCE:3')).to.include({
      created: '2026-10-01T00:00:00Z',
      modified: '2026-10-02T00:00:00Z',
      stamped: '2026-10-03T00:00:00Z',
      sequence: 3,
    });
    for (const odd of ['20261001T000000', 'x20261001T000000Z', '20261001T000000Zx', '2026'])
      expect(read(`CREATED:${odd}`).created, odd).to.equal(null);
    for (const odd of ['', 'many', '-']) expect(read(`SEQUENCE:${odd}`).sequence, odd).to.equal(0);
    expect(read().sequence).to.equal(0);
    expect(read('X-MONSOON-LANE:l').mark).to.equal(null);
    expect(read('X-MONSOON-PAIR:p').mark).to.equal(null);
    expect(read('RDATE:20261208T190000Z').repeating).to.equal(true);
    expect(read('SUMMARY:', 'STATUS: tentative ', 'TRANSP:odd', 'CATEGORIES:', 'CONFERENCE:https://meet.example/1', 'URL:').values).to.include({
      title: null,
      status: 'tentative',
      busy: null,
      categories: null,
      conference: 'https://meet.example/1',
      link: null,
    });
    expect(read('CATEGORIES:b,a', 'CATEGORIES:a,c').values.categories).to.deep.equal(['b', 'a', 'c']);
  });

  it('has a UID that can be stored: a thousand bytes, without control characters', () => {
    const withUid = (uid: string) => readEvent(oneEvent(start).replace('UID:rehearsal', `UID:${uid}`), zones).uid;
    expect(withUid(' a b ')).to.equal('a b');
    expect(withUid('é'.repeat(500))).to.have.length(500);
    for (const uid of ['é'.repeat(501), 'a\u0001b', 'a\ud800b']) expect(() => withUid(uid), uid).to.throw(UnreadableEvent, /its UID has \d+ bytes/);
    for (const uid of ['', '  ']) expect(() => withUid(uid)).to.throw(UnreadableEvent, 'the event has no UID');
  });

  it('counts its versions by what belongs to its organizer (RFC 5546, 2.1.4)', () => {
    const sequence = (text: string) => /SEQUENCE:(.*)\r\n/.exec(text)?.[1];
    for (const [before, after] of [
      [[], '1'],
      [['SEQUENCE:4'], '5'],
      [['SEQUENCE:many'], '1'],
      [['SEQUENCE:-1'], '1'],
    ] as const)
      expect(sequence(editEvent(oneEvent(start, ...before), { title: 'New' }, context)), before.join()).to.equal(after);
    const owner = new Set(['una@a.example']);
    const invited = oneEvent(start, 'SEQUENCE:4', 'ATTENDEE;PARTSTAT=NEEDS-ACTION:mailto:Una@a.example', 'ATTENDEE:mailto:bo@a.example');
    const replied = editEvent(invited, { ownReply: 'accepted' }, { ...context, owner });
    expect(replied).to.include('ATTENDEE;PARTSTAT=ACCEPTED:mailto:Una@a.example').and.include('ATTENDEE:mailto:bo@a.example');
    expect(sequence(replied)).to.equal('4');
    expect(editEvent(invited, { reminders: [15] }, { ...context, owner }))
      .to.include('PARTSTAT=NEEDS-ACTION:mailto:Una')
      .and.include('SEQUENCE:4');
    expect(withOwnReply(readEvent(replied, zones), owner).values.ownReply).to.equal('accepted');
    for (const other of [undefined, new Set<string>(), new Set(['other@a.example'])])
      expect(withOwnReply(readEvent(replied, zones), other).values.ownReply).to.equal(null);
  });

  it('defines the zone that it names, once; a series keeps its definition', () => {
    const old = (tzid: string) => ['BEGIN:VTIMEZONE', `TZID:${tzid}`, 'X-OLD:1', 'END:VTIMEZONE'];
    const at = (...lines: string[]) => object(...lines, ...eventPart('DTSTART;TZID=Europe/London:20261201T190000', 'DURATION:PT1H'));
    const when = { kind: 'timed', start: '2026-12-02T19:00:00', end: '2026-12-02T20:00:00', zone: 'Europe/London' } as const;
    const defined = (text: string) => [...editEvent(text, { when }, context).matchAll(/\r\nTZID:(.*)\r\n(.*)\r\n/g)].map((m) => `${m[1]} ${m[2]}`);
    expect(defined(at())).to.deep.equal(['Europe/London BEGIN:STANDARD']);
    expect(defined(at(...old('Europe/London')))).to.deep.equal(['Europe/London BEGIN:STANDARD']);
    expect(defined(at(...old('Europe/Athens'), ...old('Europe/London')))).to.deep.equal(['Europe/London BEGIN:STANDARD', 'Europe/Athens X-OLD:1']);
    expect(defined(at('BEGIN:VTIMEZONE', 'END:VTIMEZONE'))).to.deep.equal(['Europe/London BEGIN:STANDARD']);
    const series = (text: string) => text.replace('DURATION', 'RRULE:FREQ=WEEKLY\r\nDURATION');
    expect(defined(series(at(...old('Europe/London'))))).to.deep.equal(['Europe/London X-OLD:1']);
    expect(defined(series(at(...old('Europe/Athens'))))).to.deep.equal(['Europe/London BEGIN:STANDARD', 'Europe/Athens X-OLD:1']);
    // A rule in another component is none of the event.
    expect(defined(at('BEGIN:VTODO', 'RRULE:FREQ=DAILY', 'END:VTODO', ...old('Europe/London')))).to.deep.equal(['Europe/London BEGIN:STANDARD']);
    for (const zone of ['UTC', null, 'Nowhere'])
      expect(editEvent(at(), { when: { ...when, zone } }, context), String(zone)).to.not.include('VTIMEZONE');
    expect(editEvent(at(), { when: { kind: 'all-day', first: '2026-12-02', end: '2026-12-03' } }, context)).to.not.include('VTIMEZONE');
    expect(editEvent(eventPart(start).join('\r\n'), { when }, context), 'a text without calendar').to.not.include('VTIMEZONE');
  });

  it('keeps the parameters of its times but those that say their form', () => {
    const text = oneEvent('DTSTART;X-A=1;TZID=Europe/London:20261201T190000', 'DTEND;X-B=2;VALUE=DATE-TIME:20261201T200000Z');
    const moved = (when: When) => /UID:rehearsal\r\n(.*)\r\n(.*)/.exec(editEvent(text, { when }, context))?.slice(1);
    expect(moved({ kind: 'all-day', first: '2026-12-02', end: '2026-12-03' })).to.deep.equal([
      'DTSTART;X-A=1;VALUE=DATE:20261202',
      'DTEND;X-B=2;VALUE=DATE:20261203',
    ]);
    const timed = { kind: 'timed', start: '2026-12-02T19:00:00', end: '2026-12-02T20:00:00' } as const;
    expect(moved({ ...timed, zone: 'UTC' })).to.deep.equal(['DTSTART;X-A=1:20261202T190000Z', 'DTEND;X-B=2:20261202T200000Z']);
    expect(moved({ ...timed, zone: null })).to.deep.equal(['DTSTART;X-A=1:20261202T190000', 'DTEND;X-B=2:20261202T200000']);
    expect(moved({ ...timed, zone: 'Europe/Athens' })).to.deep.equal([
      'DTSTART;X-A=1;TZID=Europe/Athens:20261202T190000',
      'DTEND;X-B=2;TZID=Europe/Athens:20261202T200000',
    ]);
    expect(editEvent(oneEvent(start, 'URL;X=1:a'), { link: 'https://a.example/b c' }, context)).to.include('URL;X=1:https://a.example/b%20c');
    expect(editEvent(oneEvent(start), { conference: 'https://a.example/b c' }, context)).to.include('CONFERENCE;VALUE=URI:https://a.example/b%20c');
  });
});

/** Anything that a system may hold, line breaks and control characters first of all. */
const hostile = fc.string({
  unit: fc.oneof(
    fc.constantFrom('\r', '\n', '\0', '\u0085', '\u2028', '"', ';', ':', ',', '\\', '\ud800'),
    fc.string({ unit: 'binary', minLength: 1, maxLength: 1 }),
  ),
  maxLength: 30,
});
const injected = fc.constantFrom('\r\nATTACH:http://a.example/x', '\nBEGIN:VALARM', '\rORGANIZER:mailto:x@a.example', '\r\n ', '');

describe('a value from outside', () => {
  const own = [
    'UID',
    'DTSTAMP',
    'DTSTART',
    'DTEND',
    'SUMMARY',
    'DESCRIPTION',
    'LOCATION',
    'CATEGORIES',
    'URL',
    'CONFERENCE',
    'COLOR',
    'ATTENDEE',
    'SEQUENCE',
  ];
  it('begins no property and no component of its own, whatever it holds', () => {
    const some = fc.tuple(hostile, injected, hostile).map((parts) => parts.join(''));
    fc.assert(
      fc.property(fc.array(some, { minLength: 8, maxLength: 8 }), ([title, description, location, category, link, colour, name, email]) => {
        const given: MappedValues = {
          when: { kind: 'all-day', first: '2027-03-01', end: '2027-03-02' },
          title: title!,
          description: description!,
          location: location!,
          categories: [category!],
          link: link!,
          conference: link!,
          colour: colour!,
          attendees: [{ name: name!, email: `${email}@a.example` }],
        };
        const written = (() => {
          try {
            return makeEvent('uid', given, mark, context);
          } catch (error) {
            // What cannot be written is said so; it is not written in part.
            expect(error).to.be.instanceOf(UnwritableEvent);
            return null;
          }
        })();
        if (written === null) return;
        const lines = written
          .replace(/\r\n[ \t]/g, '')
          .split('\r\n')
          .slice(0, -1);
        const names = lines.map((l) => /^[A-Z-]+/.exec(l)?.[0]);
        expect(names.filter((n) => !own.includes(n!))).to.deep.equal([
          'BEGIN',
          'VERSION',
          'PRODID',
          'BEGIN',
          'X-MONSOON-LANE',
          'X-MONSOON-PAIR',
          'END',
          'END',
        ]);
        expect(written).not.to.match(/[\r\n](?![\n ]|[A-Z-]+[:;]|$)/);
        expect(readEvent(written, zones).values.attendees).to.have.length(1);
      }),
      { numRuns: 2000 },
    );
  });
});
