import {
  type EditContext,
  editEvent,
  editTask,
  eventItem,
  type MappedValues,
  makeEvent,
  makeTask,
  readEvent,
  readTask,
  withOwnReply,
} from '@monsoon/core';
import { keeps, said, whens } from './approved-fixtures.ts';
import { zones } from './engine-fixtures.ts';

describe('what is said and done is as it was approved: events and tasks', () => {
  keeps('how events and tasks are read and written', () => {
    const text = (...lines: string[]) => `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${lines.join('\r\n')}\r\nEND:VCALENDAR\r\n`;
    const event = (...lines: string[]) => text('BEGIN:VEVENT', 'UID:e', 'DTSTAMP:20261101T000000Z', ...lines, 'END:VEVENT');
    const task = (...lines: string[]) => text('BEGIN:VTODO', 'UID:t', ...lines, 'END:VTODO');
    const zone = [
      'BEGIN:VTIMEZONE',
      'TZID:Workshop',
      'BEGIN:STANDARD',
      'DTSTART:19961027T040000',
      'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
      'TZOFFSETFROM:+0300',
      'TZOFFSETTO:+0200',
      'END:STANDARD',
      'BEGIN:DAYLIGHT',
      'DTSTART:19810329T030000',
      'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
      'TZOFFSETFROM:+0200',
      'TZOFFSETTO:+0300',
      'END:DAYLIGHT',
      'END:VTIMEZONE',
    ];
    const fixedZone = (offset: string, ...more: string[]) => [
      'BEGIN:VTIMEZONE',
      'TZID:Odd',
      'BEGIN:STANDARD',
      'DTSTART:19700101T000000',
      `TZOFFSETFROM:${offset}`,
      `TZOFFSETTO:${offset}`,
      ...more,
      'END:STANDARD',
      'END:VTIMEZONE',
    ];
    const texts = [
      event(
        'DTSTART:20261201T090000Z',
        'DTEND:20261201T100000Z',
        'SUMMARY:A\\, b\\nc\\;',
        'CATEGORIES:red,gr\\,een',
        'CATEGORIES:blue',
        'CLASS:CONFIDENTIAL',
        'TRANSP:TRANSPARENT',
        'STATUS:tentative',
        'URL:https://a.example',
        'COLOR:teal',
      ),
      event(
        'DTSTART;TZID=Europe/London:20261201T090000',
        'DURATION:PT1H30M',
        'CREATED:20261001T000000Z',
        'LAST-MODIFIED:20261102T000000Z',
        'X-MONSOON-LANE:l',
        'X-MONSOON-PAIR:p',
      ),
      event('DTSTART;TZID="GMT Standard Time":20261201T090000', 'DTEND;TZID=Europe/Athens:20261201T120000'),
      event('DTSTART;VALUE=DATE:20261201'),
      event('DTSTART;VALUE=DATE:20261201', 'DTEND;VALUE=DATE:20261203'),
      event('DTSTART;VALUE=DATE:20261201', 'DURATION:P2D'),
      event('DTSTART;VALUE=DATE:20261201', 'DTEND;VALUE=DATE:20261201'),
      event('DTSTART:20261201T090000', 'DURATION:P1DT2H'),
      event('DTSTART:20261024T120000', 'DURATION:P1W'),
      event('DTSTART:20261201T090000Z', 'DTEND:20261201T080000Z'),
      event('DTSTART:20261201T090000Z', 'DURATION:-PT1H'),
      event('DTSTART:20261201T090000Z', 'DURATION:P40000D'),
      event('DTSTART:20260230T090000Z'),
      event('SUMMARY:no start'),
      event('DTSTART:soon'),
      event(
        'DTSTART:20261201T090000Z',
        'RRULE:FREQ=DAILY',
        'ORGANIZER;CN=Una:mailto:una@a.example',
        'ATTENDEE;PARTSTAT=ACCEPTED;CN="Tom, T":mailto:tom@a.example',
        'ATTENDEE:mailto:una@a.example',
        'ATTENDEE:urn:x',
        'ATTENDEE;PARTSTAT=DELEGATED:MAILTO:TOM@a.example',
      ),
      event(
        'DTSTART:20261201T090000Z',
        'BEGIN:VALARM',
        'ACTION:DISPLAY',
        'TRIGGER:-PT15M',
        'END:VALARM',
        'BEGIN:VALARM',
        'TRIGGER;RELATED=END:-PT5M',
        'END:VALARM',
        'BEGIN:VALARM',
        'TRIGGER;VALUE=DATE-TIME:20261201T080000Z',
        'END:VALARM',
        'BEGIN:VALARM',
        'TRIGGER:PT5M',
        'END:VALARM',
        'BEGIN:VALARM',
        'TRIGGER:-P1D',
        'END:VALARM',
        'BEGIN:VALARM',
        'END:VALARM',
      ),
      text(...zone, 'BEGIN:VEVENT', 'UID:z', 'DTSTART;TZID=Workshop:20261201T090000', 'DTEND;TZID=Workshop:20261201T100000', 'END:VEVENT'),
      ...['+0537', '-0100', '+05', '+053702', 'garbage', '+2500'].map((o) =>
        text(...fixedZone(o), 'BEGIN:VEVENT', 'UID:z', 'DTSTART;TZID=Odd:20261201T090000', 'DTEND;TZID=Odd:20261201T100000', 'END:VEVENT'),
      ),
      ...[
        'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=2SU',
        'RRULE:FREQ=YEARLY;UNTIL=20200101T000000Z',
        'RRULE:FREQ=DAILY',
        'RDATE:20100101T000000',
        'RRULE:FREQ=YEARLY;BYMONTH=3;BYMONTHDAY=7,8,9;BYDAY=SU',
      ].map((r) => text(...fixedZone('+0400', r), 'BEGIN:VEVENT', 'UID:z', 'DTSTART;TZID=Odd:20261201T090000', 'END:VEVENT')),
      event('DTSTART;TZID=Nowhere/Land:20261201T090000'),
      event('DTSTART;TZID=/mozilla.example/20070129_1/Europe/London:20261201T090000'),
      text('BEGIN:VEVENT', 'DTSTART:20261201T090000Z', 'END:VEVENT'),
      text('BEGIN:VTODO', 'UID:t', 'END:VTODO'),
      '',
      'BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n',
      'X',
      'BEGIN:VEVENT\r\nUID:a\r\n',
      'BEGIN:VEVENT\r\nEND:VTODO\r\n',
      'BEGIN:VEVENT\r\nUID\r\nEND:VEVENT\r\n',
      'BEGIN:VEVENT\r\nUID;X:a\r\nEND:VEVENT\r\n',
      'BEGIN:VEVENT\r\nUID;X="a:a\r\nEND:VEVENT\r\n',
      `${'BEGIN:VEVENT\r\n'.repeat(9)}`,
      event(`UID:${'x'.repeat(1100)}`, 'DTSTART:20261201T090000Z').replace('UID:e\r\n', ''),
      text(
        'BEGIN:VEVENT',
        'UID:r',
        'RECURRENCE-ID:20261208T090000Z',
        'DTSTART:20261208T100000Z',
        'END:VEVENT',
        'BEGIN:VEVENT',
        'UID:r',
        'RRULE:FREQ=WEEKLY',
        'DTSTART:20261201T090000Z',
        'SUMMARY:Master',
        'END:VEVENT',
      ),
    ];
    const edits = [
      { title: 'New' },
      { title: null, description: 'a\nb; c, d' },
      { when: whens[0]! },
      { when: whens[2]! },
      { when: whens[3]! },
      { when: whens[8]! },
      { status: 'cancelled' as const, busy: 'free' as const, visibility: 'private' as const },
      { categories: ['a,b', 'c'], link: 'https://a.example/a b', conference: 'https://m.example', colour: 'red' },
      { attendees: [{ email: 'new@a.example', name: 'N "N"' }, { email: 'TOM@a.example' }] },
      { attendees: null, reminders: [0, 15] },
      { reminders: null, categories: null, link: null },
    ];
    const write = { zones, now: '2026-11-23T08:00:00Z' };
    const tasks = [
      task('SUMMARY:Felts', 'DUE;VALUE=DATE:20261210', 'STATUS:IN-PROCESS', 'PERCENT-COMPLETE:40', 'PRIORITY:2', 'CATEGORIES:a,b'),
      task(
        'DUE;TZID=Europe/London:20261210T170000',
        'DTSTART:20261209T090000Z',
        'COMPLETED:20261201T090000Z',
        'PERCENT-COMPLETE:100',
        'URL:https://a.example',
      ),
      task('DUE:20261210T170000', 'STATUS:odd', 'PRIORITY:x', 'CREATED:20261101T000000Z', 'LAST-MODIFIED:soon'),
      text(...zone, 'BEGIN:VTODO', 'UID:t', 'DUE;TZID=Workshop:20261210T170000', 'END:VTODO'),
    ];
    const taskEdits = [
      { title: 'New; title', description: null },
      { 'due day': '2026-12-24' },
      { due: '2026-12-24T10:00:00[Europe/London]' },
      { due: '2026-12-24T10:00:00Z' },
      { due: '2026-12-24T10:00' },
      { due: null, start: '2026-12-20T10:00:00+02:00' },
      { done: true },
      { done: false },
      { status: 'completed' },
      { status: 'in process', percent: 60, priority: null },
      { categories: ['x', 'y,z'], link: 'https://b.example/a b', location: 'Here' },
      { 'start day': null, 'due day': null },
    ];
    const line = (label: string, work: () => unknown) => `${label}: ${said(work).slice(0, 2500)}`;
    return [
      ...texts.map((t, i) => line(`event ${i}`, () => readEvent(t, zones))),
      ...texts.slice(0, 3).map((t, i) => line(`as an item ${i}`, () => eventItem(readEvent(t, zones)))),
      ...texts
        .filter((_t, i) => i < 21)
        .flatMap((t, i) =>
          edits.map((e, j) =>
            line(`event ${i} edited ${j}`, () => editEvent(t, e, j % 2 === 0 ? write : { ...write, mark: { lane: 'L', pair: 'P' } })),
          ),
        ),
      ...edits.map((e, j) => line(`made ${j}`, () => makeEvent('uid', { when: whens[j % whens.length]!, ...e }, { lane: 'L', pair: 'P' }, write))),
      ...whens.map((w, j) => line(`made at ${j}`, () => makeEvent('uid', { when: w }, { lane: 'L', pair: 'P' }, write))),
      ...[...tasks, texts[0]!, 'X'].map((t, i) => line(`task ${i}`, () => readTask(t, zones))),
      ...[...tasks, texts[0]!].flatMap((t, i) => taskEdits.map((e, j) => line(`task ${i} edited ${j}`, () => editTask(t, e as never, write)))),
      ...taskEdits.map((e, j) => line(`task made ${j}`, () => makeTask('uid', e as never, write))),
    ];
  });

  keeps('how guests and reminders are read and written', () => {
    const event = (...lines: string[]) =>
      `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:e\r\nDTSTART:20261201T090000Z\r\n${lines.join('\r\n')}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
    const alarm = (...lines: string[]) => ['BEGIN:VALARM', ...lines, 'END:VALARM'];
    const texts = [
      event(
        'ORGANIZER;CN=Una;ROLE=CHAIR:mailto:una@a.example',
        'ATTENDEE;CN=Una;PARTSTAT=ACCEPTED:MAILTO:Una@a.example',
        'ATTENDEE;ROLE=OPT-PARTICIPANT;CUTYPE=ROOM;RSVP=TRUE;PARTSTAT=TENTATIVE;SCHEDULE-STATUS="1.1,5.3":mailto:hall@a.example',
        'ATTENDEE;ROLE=non-participant;CUTYPE=group;RSVP=false;SCHEDULE-STATUS="2.0;Success":mailto:choir@a.example',
        'ATTENDEE;CUTYPE=INDIVIDUAL;ROLE=REQ-PARTICIPANT;PARTSTAT=X-ODD;X-A=b:mailto:tom@a.example',
        'ATTENDEE;CN=;RSVP=true;CUTYPE=RESOURCE;PARTSTAT=DELEGATED;SCHEDULE-STATUS=9.9:mailto:van@a.example',
        'ATTENDEE;CUTYPE=UNKNOWN;PARTSTAT=declined:mailto:bo@a.example',
        'ATTENDEE:urn:uuid:1',
      ),
      event('SUMMARY:Choir', 'ATTENDEE;PARTSTAT=NEEDS-ACTION:mailto:tom@a.example', ...alarm('ACTION:DISPLAY', 'TRIGGER:-PT15M', 'X-A:kept')),
      event('ORGANIZER:urn:uuid:1', ...alarm('ACTION:email', 'TRIGGER;RELATED=END:-PT1H'), ...alarm('ACTION:AUDIO', 'TRIGGER:PT0S')),
      event(
        ...['P1D', '-P4W', '-P29D', '-PT90S', '-PT1M', 'PT0S', 'soon', '-PT15M'].flatMap((t) => alarm('ACTION:DISPLAY', `TRIGGER:${t}`)),
        ...alarm('ACTION:DISPLAY'),
      ),
    ];
    const guest = (email: string, more: object = {}) => ({ email, ...more });
    const edits: { changes: MappedValues; context?: Partial<EditContext> }[] = [
      { changes: { organizer: null } },
      { changes: { organizer: guest('UNA@a.example', { name: 'Una Marsh' }) } },
      { changes: { organizer: guest('ines@a.example', { name: 'In\u0007es "I"', role: 'chair' }) } },
      { changes: { attendees: null } },
      {
        changes: {
          attendees: [
            guest('TOM@a.example', { name: 'Renamed' }),
            guest('una@a.example'),
            guest('new@a.example', { name: 'New', kind: 'room', role: 'for information', response: 'accepted', asked: true }),
          ],
        },
      },
      {
        changes: { attendees: [guest('new@a.example', { kind: 'resource', role: 'optional' }), guest('asked@a.example', { asked: true })] },
        context: { scheduled: true },
      },
      {
        changes: {
          replies: [guest('TOM@a.example', { response: 'accepted' }), guest('hall@a.example'), guest('bo@a.example', { response: 'declined' })],
        },
      },
      { changes: { replies: null } },
      { changes: { ownReply: 'tentative' }, context: { owner: new Set(['tom@a.example', 'hall@a.example']) } },
      { changes: { ownReply: null }, context: { owner: new Set(['tom@a.example']) } },
      { changes: { ownReply: 'accepted' } },
      { changes: { reminders: [0, 15, 'mail 60 before end', 'mail 30', '10 before end'] } },
      { changes: { title: 'Named', reminders: ['mail 5'] } },
      { changes: { reminders: null } },
    ];
    const now = '2026-11-23T08:00:00Z';
    const line = (label: string, work: () => unknown) => `${label}: ${said(work).slice(0, 2500)}`;
    return [
      ...texts.map((t, i) => line(`event ${i}`, () => readEvent(t, zones)?.values)),
      ...texts.flatMap((t, i) =>
        [undefined, new Set<string>(), new Set(['tom@a.example']), new Set(['hall@a.example', 'choir@a.example'])].map((owner, j) =>
          line(`event ${i} of owner ${j}`, () => withOwnReply(readEvent(t, zones), owner).values.ownReply),
        ),
      ),
      ...texts.flatMap((t, i) => edits.map((e, j) => line(`event ${i} edited ${j}`, () => editEvent(t, e.changes, { zones, now, ...e.context })))),
      ...edits.map((e, j) =>
        line(`made ${j}`, () => makeEvent('uid', { when: whens[0]!, ...e.changes }, { lane: 'L', pair: 'P' }, { zones, now, ...e.context })),
      ),
    ];
  });
});
