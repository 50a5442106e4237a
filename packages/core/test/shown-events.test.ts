import { type Reduced, reducedText, reduceObject, type Showable, type Showing, zoneDefinition } from '@monsoon/core';
import { expect } from 'chai';
import { zones } from './engine-fixtures.ts';
import { at, event, eventPart, object } from './object-fixtures.ts';

const namespace = '0f1e2d3c-4b5a-4968-8776-655443322110';
const show = (text: string, what: Showing['what'], more: Partial<Showing> = {}): Reduced | null =>
  reduceObject(text, { what, alarms: false, namespace, ...more }, zones);
/** The lines of the events that are shown; null: nothing is. */
const shown = (text: string, what: Showing['what'], more: Partial<Showing> = {}): string[] | null => {
  const reduced = show(text, what, more);
  if (reduced === null) return null;
  const written = reducedText({ ...reduced, zones: new Set(), defined: new Map() }, zones, 0, 0).split('\r\n');
  return written.slice(3, -2);
};
const timed = ['DTSTART:20261201T190000Z', 'DTEND:20261201T210000Z'];
const everything = [
  ...timed,
  'DTSTAMP:20261101T080000Z',
  'SUMMARY:Choir',
  'DESCRIPTION:The key is under the mat',
  'LOCATION;X-WHERE=secret:Meadow Hall',
  'STATUS:TENTATIVE',
  'CATEGORIES:music',
  'URL:https://choir.example',
  'CONFERENCE;VALUE=URI;FEATURE=AUDIO:https://meet.example',
  'COLOR:teal',
  'ORGANIZER;CN=Una;SENT-BY="mailto:tom@choir.example":mailto:una@choir.example',
  'ATTENDEE;PARTSTAT=ACCEPTED;SCHEDULE-STATUS=2.0:mailto:tom@choir.example',
  'X-NOTE:not for others',
  'X-MONSOON-LANE:l',
  'BEGIN:VALARM',
  'ACTION:EMAIL',
  'SUMMARY:Ring the parents',
  'TRIGGER;RELATED=START;X-A=b:-PT15M',
  'END:VALARM',
];
/** What stands for an event whose content is hidden. */
const hidden = ['BEGIN:VEVENT', 'UID:5a3ff0c2', 'DTSTAMP:20000101T000000Z'];
const uidless = (lines: string[] | null) => lines?.map((l) => l.replace(/^UID:[0-9a-f-]{36}$/, 'UID:5a3ff0c2'));

describe('what others see of events', () => {
  it('is everything but what Monsoon wrote for itself', () => {
    const whole = eventPart(...everything).filter((l) => !l.startsWith('X-MONSOON'));
    expect(shown(event(...everything), 'full', { alarms: true })).to.deep.equal(whole);
    const alarm = whole.indexOf('BEGIN:VALARM');
    expect(shown(event(...everything), 'full')).to.deep.equal([...whole.slice(0, alarm), 'END:VEVENT']);
  });

  it('is that time is taken, and nothing else', () => {
    expect(uidless(shown(event(...everything), 'busy only', { alarms: true }))).to.deep.equal([
      ...hidden,
      ...timed,
      'SUMMARY:Busy',
      'STATUS:TENTATIVE',
      'END:VEVENT',
    ]);
    // The same event is known again under its hidden UID; under another namespace it is another.
    const uid = (more: Partial<Showing> = {}) => shown(event(...timed), 'busy only', more)![1];
    expect(uid())
      .to.match(/^UID:[0-9a-f-]{36}$/)
      .and.to.equal(uid());
    expect(uid({ namespace: '1f1e2d3c-4b5a-4968-8776-655443322110' })).not.to.equal(uid());
    // What takes no time is not shown.
    for (const line of ['TRANSP:TRANSPARENT', 'STATUS:CANCELLED']) expect(shown(event(...timed, line), 'busy only'), line).to.equal(null);
    expect(shown(object('BEGIN:VTODO', 'UID:a', 'END:VTODO'), 'full')).to.equal(null);
  });

  it('is what was chosen, without parameters that say more', () => {
    const chosen: [Showable[], string[]][] = [
      [['title'], ['SUMMARY:Choir', 'STATUS:TENTATIVE']],
      [
        ['location', 'description'],
        ['DESCRIPTION:The key is under the mat', 'LOCATION:Meadow Hall', 'SUMMARY:Busy', 'STATUS:TENTATIVE'],
      ],
      [['status'], ['STATUS:TENTATIVE', 'SUMMARY:Busy']],
      [
        ['categories', 'link', 'colour'],
        ['CATEGORIES:music', 'URL:https://choir.example', 'COLOR:teal', 'SUMMARY:Busy', 'STATUS:TENTATIVE'],
      ],
      [['conference'], ['CONFERENCE;VALUE=URI;FEATURE=AUDIO:https://meet.example', 'SUMMARY:Busy', 'STATUS:TENTATIVE']],
      [
        ['organizer', 'attendees'],
        ['ORGANIZER;CN=Una:mailto:una@choir.example', 'ATTENDEE;PARTSTAT=ACCEPTED:mailto:tom@choir.example', 'SUMMARY:Busy', 'STATUS:TENTATIVE'],
      ],
    ];
    for (const [what, lines] of chosen)
      expect(uidless(shown(event(...everything), what)), what.join()).to.deep.equal([...hidden, ...timed, ...lines, 'END:VEVENT']);
    // What takes no time is shown, and says so; a firm event needs no word.
    expect(uidless(shown(event(...timed, 'TRANSP:TRANSPARENT', 'SUMMARY:Fair'), ['title']))).to.deep.equal([
      ...[...hidden, ...timed, 'SUMMARY:Fair', 'TRANSP:TRANSPARENT', 'END:VEVENT'],
    ]);
  });

  it('is when reminders go off, and not what they say', () => {
    const alarm = (...lines: string[]) => shown(event(...timed, 'BEGIN:VALARM', ...lines, 'END:VALARM'), ['title'], { alarms: true })!.slice(-7);
    const plain = ['BEGIN:VALARM', 'ACTION:DISPLAY', 'DESCRIPTION:Reminder'];
    expect(alarm('ACTION:EMAIL', 'SUMMARY:Ring', 'TRIGGER;RELATED=END;X-A=b:-PT15M').slice(1)).to.deep.equal([
      ...plain,
      'TRIGGER;RELATED=END:-PT15M',
      'END:VALARM',
      'END:VEVENT',
    ]);
    expect(alarm('TRIGGER;VALUE=DATE-TIME:20261201T180000Z').slice(1)).to.deep.equal([
      ...plain,
      'TRIGGER;VALUE=DATE-TIME:20261201T180000Z',
      'END:VALARM',
      'END:VEVENT',
    ]);
    expect(alarm('TRIGGER:secret').slice(2)).to.deep.equal([...plain, 'END:VALARM', 'END:VEVENT']);
    expect(shown(event(...timed, 'BEGIN:X-NOTE', 'X-A:secret', 'END:X-NOTE'), ['title'], { alarms: true })!.join()).not.to.contain('secret');
  });

  it('is of private events never more than the time', () => {
    for (const word of ['PRIVATE', 'CONFIDENTIAL'])
      for (const what of ['full', ['title']] as const)
        expect(uidless(shown(event(...timed, 'SUMMARY:Dentist', `CLASS:${word}`), what)), word).to.deep.equal([
          ...hidden,
          ...timed,
          'SUMMARY:Busy',
          'END:VEVENT',
        ]);
    expect(shown(event(...timed, 'CLASS:PRIVATE', 'TRANSP:TRANSPARENT'), 'full')).to.equal(null);
  });

  it('has no occurrence that is left out come back as the series would have it', () => {
    const series = (...override: string[]) =>
      object(
        ...eventPart(...timed, 'RRULE:INTERVAL=1;FREQ=WEEKLY;COUNT=3', 'SUMMARY:Choir'),
        ...eventPart('RECURRENCE-ID:20261208T190000Z', 'DTSTART:20261209T190000Z', ...override),
      );
    const cancelled = uidless(shown(series('STATUS:CANCELLED', 'SUMMARY:Choir'), 'busy only'));
    expect(cancelled).to.deep.equal([...hidden, ...timed, 'RRULE:FREQ=WEEKLY;COUNT=3', 'SUMMARY:Busy', 'EXDATE:20261208T190000Z', 'END:VEVENT']);
    const both = uidless(shown(series('SUMMARY:Choir, moved'), 'busy only'))!;
    expect(both.filter((l) => l === 'BEGIN:VEVENT')).to.have.length(2);
    expect(both).to.include('RECURRENCE-ID:20261208T190000Z').and.not.to.include('EXDATE:20261208T190000Z');
    // A condition sees each part alone, and the zones that it names.
    const seen: string[] = [];
    const kept = shown(series('SUMMARY:Concert'), ['title'], { keep: (alone) => seen.push(alone) > 0 && alone.includes('SUMMARY:Choir') });
    expect(kept).to.include('EXDATE:20261208T190000Z').and.not.to.include('SUMMARY:Concert');
    expect(seen.map((text) => text.match(/SUMMARY:.*/)![0])).to.deep.equal(['SUMMARY:Choir', 'SUMMARY:Concert']);
    expect(shown(series('SUMMARY:Concert'), 'full', { keep: () => false })).to.equal(null);
    // Without its series, an occurrence stands alone.
    const alone = shown(series('SUMMARY:Concert'), ['title'], { keep: (text) => text.includes('Concert') })!;
    expect(alone).to.include('RECURRENCE-ID:20261208T190000Z').and.not.to.include('SUMMARY:Choir');
  });

  it('has times that can be read, or nothing is shown', () => {
    for (const what of ['full', 'busy only', ['title']] as const)
      for (const lines of [['DTSTART:secret'], [...timed, 'RRULE:FREQ=DAILY', 'EXDATE:secret'], ['DTSTART;TZID=Secret:20261201T190000']])
        expect(() => shown(event(...lines), what), `${what}: ${lines.join()}`).to.throw(/secret|Secret/);
    expect(() => shown(event(...timed, 'EXDATE;VALUE=PERIOD:secret'), ['title'])).to.throw();
  });

  it('covers its occurrences, in seconds', () => {
    expect(show(event(...timed), 'full')).to.include({ starts: at('2026-12-01T19:00:00'), ends: at('2026-12-01T21:00:00') });
    expect(show(event(...timed, 'RRULE:FREQ=DAILY'), 'full')).to.include({ ends: null });
  });
});

describe('the time zones of what others see', () => {
  const workshop = (id: string, comment: string) => [
    'BEGIN:VTIMEZONE',
    `TZID:${id}`,
    `COMMENT:${comment}`,
    'BEGIN:STANDARD',
    `TZNAME:${comment}`,
    'DTSTART:19961027T041000',
    'RRULE:BYDAY=-1SU;FREQ=YEARLY;BYMONTH=10',
    'TZOFFSETFROM:+0310',
    'TZOFFSETTO:+0210',
    'END:STANDARD',
    'BEGIN:DAYLIGHT',
    'DTSTART:19810329T030000',
    'RDATE:20270328T030000,20280326T030000',
    'TZOFFSETFROM:+0210',
    'TZOFFSETTO:+0310',
    'END:DAYLIGHT',
    'END:VTIMEZONE',
  ];
  const within = (id: string, comment: string, ...lines: string[]) => object(...workshop(id, comment), ...eventPart(...lines));

  it('have the names that everybody knows', () => {
    for (const name of ['Europe/London', '"GMT Standard Time"', '/choir.example/20070129_1/Europe/London']) {
      const found = show(event(`DTSTART;TZID=${name}:20261201T190000`, `DTEND;TZID=${name}:20261201T210000`), 'full')!;
      expect([...found.zones], name).to.deep.equal(['Europe/London']);
      expect(found.defined.size).to.equal(0);
      const text = reducedText(found, zones, at('2026-01-01T00:00:00'), at('2027-01-01T00:00:00'));
      expect(text).to.contain('TZID:Europe/London\r\n').and.to.contain('DTSTART;TZID=Europe/London:20261201T190000');
      expect(text.startsWith('BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Monsoon//EN\r\nBEGIN:VTIMEZONE\r\n')).to.equal(true);
    }
    expect(zoneDefinition('Nowhere/Land', zones, 0, 1)).to.equal(null);
    expect(zoneDefinition('Europe/London', zones, 0, 1)).to.include({ name: 'VTIMEZONE' });
  });

  it('have a number where the event alone knows them, the same for the same clocks, and say nothing else', () => {
    const times = ['DTSTART;TZID=Una at home:20261201T190000', 'DTEND;TZID=Una at home:20261201T210000'];
    for (const what of ['full', 'busy only'] as const) {
      const one = show(within('Una at home', 'Secret', ...times), what)!;
      const other = show(within('Tom', 'Hush', ...times.map((t) => t.replace('Una at home', 'Tom'))), what)!;
      const [name] = [...one.defined.keys()];
      expect(name).to.match(/^Zone-[0-9a-f]{8}$/);
      expect([...other.defined.keys()]).to.deep.equal([name]);
      expect(one.zones.size).to.equal(0);
      const text = reducedText(one, zones, 0, 1);
      expect(text).not.to.match(/Una|Secret/);
      expect(text).to.contain(`DTSTART;TZID=${name}:20261201T190000`).and.to.contain(`DTEND;TZID=${name}:20261201T210000`);
      expect(text.slice(text.indexOf('BEGIN:VTIMEZONE'), text.indexOf('BEGIN:VEVENT')).split('\r\n')).to.deep.equal([
        ...['BEGIN:VTIMEZONE', `TZID:${name}`, 'BEGIN:STANDARD', 'DTSTART:19961027T041000', 'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU'],
        ...['TZOFFSETFROM:+0310', 'TZOFFSETTO:+0210', 'END:STANDARD', 'BEGIN:DAYLIGHT', 'DTSTART:19810329T030000'],
        ...['RDATE:20270328T030000,20280326T030000', 'TZOFFSETFROM:+0210', 'TZOFFSETTO:+0310', 'END:DAYLIGHT', 'END:VTIMEZONE', ''],
      ]);
    }
    // Another clock has another number.
    const third = show(within('Tom', 'Hush', ...times.map((t) => t.replace('Una at home', 'Tom'))).replaceAll('0210', '0220'), 'full')!;
    expect([...third.defined.keys()]).not.to.deep.equal([...show(within('Una at home', 'Secret', ...times), 'full')!.defined.keys()]);
  });

  it('are known in lists of times, and for days', () => {
    const found = show(event(...timed, 'RRULE:FREQ=DAILY;COUNT=3', 'EXDATE;TZID=Europe/Athens:20261202T210000,20261203T210000'), ['title'])!;
    expect([...found.zones]).to.deep.equal(['Europe/Athens']);
    const days = show(event('DTSTART;VALUE=DATE;TZID=Europe/Athens:20261201'), ['title'])!;
    expect([...days.zones]).to.deep.equal(['Europe/Athens']);
  });
});
