import { addDays, type SeedRow } from './data.ts';

const technicians = ['Ines Oakhanger', 'Bram Tarrant', 'Edda Quill', 'Callum Rooke'];
export const addressOf = (name: string): string => `${name.toLowerCase().replace(/[^a-z]+/g, '.')}@alder-wren.example`;

/** What Alder & Wren have at the Workbench. @param day the day around which everything lies */
export function workbenchData(day: string): SeedRow[] {
  const rows: SeedRow[] = [];
  let tick = 0;
  const add = (kind: string, id: string, fields: Record<string, unknown>) => {
    const made = new Date(Date.parse(`${addDays(day, -60)}T08:00:00Z`) + tick++ * 1000).toISOString();
    rows.push({ kind, row: { id, ...fields, created_at: made, updated_at: made, deleted: false } });
  };
  const projects = ['Square piano of 1841', 'Wren grand 170 for Larkfield House', 'Finch player piano', 'Alder cottage upright'];
  for (const [i, title] of projects.entries()) add('projects', `W-${1001 + i}`, { title, customer: null });
  const steps = [
    'Strip the case',
    'New centre pins',
    'Rebuild the action',
    'Restring the bass',
    'Regulate',
    'French polish',
    'First voicing',
    'Deliver',
    'Photograph for the file',
    'Order felts',
  ];
  for (let i = 0; i < 44; i++) {
    const due = addDays(day, ((i * 7) % 75) - 20);
    const long = i % 3 === 0;
    const person = technicians[i % technicians.length]!;
    add('tasks', `T-${1001 + i}`, {
      title: steps[i % steps.length],
      project_id: `W-${1001 + (i % projects.length)}`,
      starts_on: long ? addDays(due, -2 - (i % 4)) : null,
      due_on: i % 17 === 5 ? null : due,
      assignee: { name: person, mail: addressOf(person) },
      labels: [{ text: i % 2 === 0 ? 'restoration' : 'workshop' }, ...(i % 5 === 0 ? [{ text: 'urgent, really' }] : [])],
      state: due < day ? 2 : i % 4 === 0 ? 1 : 0,
      details: i === 3 ? 'Hide glue only 🎹; the customer asks twice a week.' : null,
    });
  }
  for (let i = 0; i < 40; i++)
    add('entries', `B-${1001 + i}`, {
      task_id: `T-${1001 + (i % 44)}`,
      person: addressOf(technicians[i % technicians.length]!),
      begun: Date.parse(`${addDays(day, -1 - (i % 14))}T${String(8 + (i % 7)).padStart(2, '0')}:${i % 2 === 0 ? '00' : '30'}:00Z`),
      minutes: 30 + ((i * 25) % 150),
      note: i % 6 === 0 ? 'longer than thought' : null,
    });
  return rows;
}

const escaped = (text: string) => text.replace(/[\\;,]/g, (c) => `\\${c}`);

function event(uid: string, lines: string[]): string {
  return [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Alder and Wren//By hand//EN',
    'BEGIN:VEVENT',
    `UID:${uid}`,
    'DTSTAMP:20260101T000000Z',
    ...lines,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n');
}

const compact = (day: string) => day.replaceAll('-', '');

/** Concerts as somebody enters them in the Diary: with guests, of whom one is in nobody's contacts. */
export function concerts(day: string, guests: { name: string; email: string }[]): [string, string][] {
  const halls = ['Meadow Hall', 'Quayside Chapel', 'The Lantern Theatre'];
  const replied = ['ACCEPTED', 'NEEDS-ACTION', 'TENTATIVE', 'DECLINED'];
  const titles = ['Winter recital', 'Quartet evening', 'Schools concert', 'Two pianos, eight hands', "The tuner's night", 'Advent music'];
  return titles.map((title, i) => {
    const date = compact(addDays(day, 4 + i * 9));
    const invited = [guests[i * 3]!, guests[i * 3 + 1]!, ...(i === 2 ? [{ name: 'Zelda Unbekannt', email: 'zelda@elsewhere.example' }] : [])];
    const uid = `concert-${i + 1}@alder-wren.example`;
    return [
      `concert-${i + 1}.ics`,
      event(uid, [
        `DTSTART;TZID=Europe/London:${date}T193000`,
        `DTEND;TZID=Europe/London:${date}T213000`,
        `SUMMARY:${escaped(title)}`,
        `LOCATION:${escaped(halls[i % halls.length]!)}`,
        ...invited.map((g, n) => `ATTENDEE;CN=${g.name};PARTSTAT=${replied[(i + 2 * n) % replied.length]};SCHEDULE-AGENT=NONE:mailto:${g.email}`),
      ]),
    ];
  });
}

/** Rehearsals of a choir: twelve, of which one is moved and one cancelled, and a single evening beside them. */
export function hallBookings(day: string): [string, string][] {
  // On a weekday that stays one, whenever the demo is started.
  const first = addDays(day, 9 - ((new Date(`${day}T12:00:00Z`).getUTCDay() + 5) % 7));
  const at = (name: string, date: string, time: string) => `${name};TZID=Europe/London:${compact(date)}T${time}`;
  const week = (n: number) => addDays(first, 7 * n);
  const uid = 'choir@alder-wren.example';
  const lines = ['SUMMARY:Choir rehearsal', 'LOCATION:Meadow Hall'];
  const choir = event(uid, [at('DTSTART', first, '190000'), at('DTEND', first, '210000'), 'RRULE:FREQ=WEEKLY;COUNT=12', ...lines]);
  const override = (n: number, more: string[]) => [
    'BEGIN:VEVENT',
    `UID:${uid}`,
    'DTSTAMP:20260102T000000Z',
    'SEQUENCE:1',
    at('RECURRENCE-ID', week(n), '190000'),
    ...lines,
    ...more,
    'END:VEVENT',
  ];
  const edited = [
    ...override(2, [at('DTSTART', addDays(week(2), 1), '183000'), at('DTEND', addDays(week(2), 1), '203000')]),
    ...override(5, [at('DTSTART', week(5), '190000'), at('DTEND', week(5), '210000'), 'STATUS:CANCELLED']),
  ];
  const evening = event('evening@alder-wren.example', [
    at('DTSTART', addDays(day, 20), '190000'),
    at('DTEND', addDays(day, 20), '223000'),
    'SUMMARY:Evening for patrons',
    'LOCATION:Meadow Hall',
  ]);
  return [
    ['choir.ics', choir.replace('END:VCALENDAR', [...edited, 'END:VCALENDAR'].join('\r\n'))],
    ['evening.ics', evening],
  ];
}
/** What they come to: eleven rehearsals and the evening. */
export const HALL_BOOKINGS = 12;

/** Who is where, as people write it into a shared calendar. */
export function attendance(day: string): [string, string][] {
  const said = [
    'Ines away',
    'Bram visiting Halifax',
    'Edda sick',
    'Callum in the workshop',
    'Ines away at a felt maker, back at noon',
    'Bram training',
    'Everybody: stocktaking',
    'Callum visiting Larkfield House',
  ];
  return said.map((title, i) => {
    const date = compact(addDays(day, i - 2));
    const next = compact(addDays(day, i - 1));
    const times =
      i % 2 === 0
        ? [`DTSTART;VALUE=DATE:${date}`, `DTEND;VALUE=DATE:${next}`]
        : [`DTSTART;TZID=Europe/London:${date}T090000`, `DTEND;TZID=Europe/London:${date}T123000`];
    return [`attendance-${i + 1}.ics`, event(`attendance-${i + 1}@alder-wren.example`, [...times, `SUMMARY:${escaped(title)}`])];
  });
}

/** Public holidays of both countries, which come again every year, as a feed. @param year the first */
export function holidays(year: number): string {
  const days: [string, string][] = [
    ['01-01', "New Year's Day (Leeds and Halifax)"],
    ['07-01', 'Canada Day (Halifax)'],
    ['09-30', 'Truth and Reconciliation (Halifax)'],
    ['11-11', 'Remembrance Day (Halifax)'],
    ['12-25', 'Christmas Day (Leeds and Halifax)'],
    ['12-26', 'Boxing Day (Leeds and Halifax)'],
  ];
  const events = days.map(([date, name]) => {
    const day = `${year}-${date}`;
    return [
      'BEGIN:VEVENT',
      `UID:${date}@holidays.example`,
      'DTSTAMP:20260101T000000Z',
      `DTSTART;VALUE=DATE:${compact(day)}`,
      `DTEND;VALUE=DATE:${compact(addDays(day, 1))}`,
      'RRULE:FREQ=YEARLY',
      `SUMMARY:${escaped(name)}`,
      'TRANSP:TRANSPARENT',
      'END:VEVENT',
    ];
  });
  const head = ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Holidays//EN', 'X-WR-CALNAME:Public holidays', 'REFRESH-INTERVAL;VALUE=DURATION:PT12H'];
  return [...head, ...events.flat(), 'END:VCALENDAR', ''].join('\r\n');
}
