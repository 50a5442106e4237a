/**
 * The records of Alder & Wren, made up from a fixed seed around a given day: the same day gives the same data.
 * All people and places are invented.
 */
export interface SeedRow {
  kind: string;
  row: Record<string, unknown> & { id: string };
}

const given = [
  'Ottoline',
  'Bram',
  'Ines',
  'Cosmo',
  'Thandi',
  'Edda',
  'Piers',
  'Noor',
  'Callum',
  'Rosalind',
  'Teo',
  'Wilhelmina',
  'Jonah',
  'Saskia',
  'Merle',
  'Anouk',
  'Hamish',
  'Priya',
  'Leopold',
  'Greta',
];
const family = [
  'Marsh',
  'Fennimore',
  'Oakhanger',
  'Tarrant',
  'Quill',
  'Lindqvist',
  'Abara',
  'Pettigrew',
  'Hollis',
  'Venn',
  'Sorrel',
  'Brack',
  'Dunmore',
  'Ashby',
  'Kestrel',
  'Rooke',
];
const instruments = [
  'Alder upright 12',
  'Wren grand 170',
  'Wren grand 212',
  'Alder cottage upright',
  'square piano of 1841',
  'Alder & Wren concert grand',
  'Finch player piano',
  'Harrow studio upright',
];
const places = [
  'Meadow Hall',
  'The Old Corn Store',
  'St Aldric School',
  'Foundry Studio',
  'Larkfield House',
  'Quayside Chapel',
  'Harbour Rooms',
  'Elm Lodge',
  'Spinners Arts Centre',
  'The Lantern Theatre',
];
const streets = ['Mill Lane', 'Tannery Row', 'Chapel Street', 'Barrow Hill', 'Wharf Road', 'Orchard Terrace'];
const technicians = ['Ines Oakhanger', 'Bram Tarrant', 'Edda Quill', 'Callum Rooke'];
const address = (name: string) => `${name.toLowerCase().replace(/[^a-z]+/g, '.')}@alder-wren.example`;

/** Mulberry32: small, seeded, and the same everywhere. */
function random(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}

export const addDays = (day: string, n: number) => new Date(Date.parse(`${day}T00:00:00Z`) + n * 86_400_000).toISOString().slice(0, 10);

/** The first day from this one on that is the first Tuesday of its month: a series begins on a day of its rule. */
function firstTuesday(day: string): string {
  const date = new Date(`${day}T00:00:00Z`);
  return date.getUTCDay() === 2 && date.getUTCDate() <= 7 ? day : firstTuesday(addDays(day, 1));
}

/** The last Sunday of October nearest to the day: clocks go back in Leeds. */
function autumnSunday(day: string): string {
  const year = Number(day.slice(0, 4));
  const sundays = [year - 1, year, year + 1].map((y) => {
    const last = new Date(Date.UTC(y, 9, 31));
    return new Date(last.getTime() - last.getUTCDay() * 86_400_000).toISOString().slice(0, 10);
  });
  const distance = (s: string) => Math.abs(Date.parse(s) - Date.parse(day));
  return sundays.sort((a, b) => distance(a) - distance(b))[0]!;
}

/** @param day the day around which the records lie, `2026-11-23` @param visits how many ordinary visits */
export function makeData(day: string, visits = 104): SeedRow[] {
  const next = random(20_261_123);
  const pick = <T>(from: readonly T[]): T => from[Math.floor(next() * from.length)]!;
  const rows: SeedRow[] = [];
  const made = `${addDays(day, -90)}T08:00:00.000Z`;
  let tick = 0;
  const add = (kind: SeedRow['kind'], id: string, fields: Record<string, unknown>) => {
    const at = new Date(Date.parse(made) + tick++ * 1000).toISOString();
    rows.push({ kind, row: { id, ...fields, created_at: at, updated_at: at, deleted: false } });
  };
  const contacts: string[] = [];
  for (let i = 0; i < 48; i++) {
    const name = `${given[i % given.length]} ${family[(i * 7 + Math.floor(i / given.length)) % family.length]}`;
    add('contacts', `C-${1001 + i}`, { name, email: `${name.toLowerCase().replace(' ', '.')}@post.example`, phone: `0113 496 0${String(100 + i)}` });
    contacts.push(`C-${1001 + i}`);
  }
  for (const [i, name] of places.entries()) {
    add('venues', `P-${1001 + i}`, { name, address: `${3 + i * 4} ${streets[i % streets.length]}, ${i < 7 ? 'Leeds' : 'Halifax'}` });
  }

  let number = 1001;
  const visit = (fields: Record<string, unknown>) => {
    const halifax = next() < 0.3;
    const technician = pick(technicians);
    add('visits', `V-${number++}`, {
      customer_id: pick(contacts),
      instrument: pick(instruments),
      kind: pick(['tuning', 'tuning', 'tuning', 'first tuning', 'voicing', 'regulation', 'assessment']),
      start: null,
      time_zone: halifax ? 'America/Halifax' : 'Europe/London',
      length_minutes: pick([60, 90, 90, 120, 150]),
      status: 'booked',
      technician: { name: technician, email: address(technician) },
      private: false,
      venue_id: next() < 0.6 ? `P-${(halifax ? 1008 : 1001) + Math.floor(next() * (halifax ? 3 : 7))}` : null,
      site: halifax ? 'Halifax' : 'Leeds',
      guests: [],
      replies: null,
      notes:
        next() < 0.3
          ? pick(['Key under the third flowerpot.', 'Park in the yard; the gate sticks.', 'Ring before arriving.', 'Two cats, both curious.'])
          : null,
      ...fields,
    });
  };
  const times = ['09:00', '09:30', '10:15', '11:00', '13:00', '14:30', '15:45', '16:30'];
  for (let i = 0; i < visits; i++) {
    let date = addDays(day, Math.floor(next() * 110) - 35);
    if ([0, 6].includes(new Date(`${date}T00:00:00Z`).getUTCDay())) date = addDays(date, 2);
    visit({
      start: `${date}T${pick(times)}:00`,
      status: date < day ? 'done' : next() < 0.15 ? 'provisional' : next() < 0.08 ? 'cancelled' : 'booked',
    });
  }
  awkward(visit, day);
  for (let i = 0; i < 60; i++) {
    const caller = pick(technicians);
    add('calls', `L-${1001 + i}`, {
      customer_id: pick(contacts),
      subject: pick(['Quote for regulation', 'Confirm date', 'Humidity question', 'Hire enquiry', 'Invoice']),
      at: next() < 0.05 ? null : `${addDays(day, Math.floor(next() * 60) - 30)}T${pick(times)}:00`,
      time_zone: 'Europe/London',
      caller: { name: caller, email: address(caller) },
      done: next() < 0.5,
      notes: null,
    });
  }
  const contracts = [
    ['FREQ=MONTHLY;BYDAY=1TU', null, 'Alder & Wren concert grand', 'The action is looked over every month; the big service in August.'],
    ['FREQ=WEEKLY;INTERVAL=2', addDays(day, 31), 'Wren grand 212', null],
    ['FREQ=MONTHLY;INTERVAL=3', null, 'Harrow studio upright', 'School term only; ring the caretaker.'],
    ['FREQ=YEARLY', null, 'square piano of 1841', null],
    ['FREQ=WEEKLY;COUNT=10', `${addDays(day, 13)}, ${addDays(day, 20)}`, 'Finch player piano', 'Ten lessons in regulation for the new owner.'],
    [null, null, 'Alder upright 12', 'A single visit, to see whether a contract makes sense.'],
  ] as const;
  for (const [i, [rule, skipped, instrument, notes]] of contracts.entries())
    add('contracts', `M-${1001 + i}`, {
      customer_id: `C-${1001 + i}`,
      instrument,
      first: `${rule === 'FREQ=MONTHLY;BYDAY=1TU' ? firstTuesday(addDays(day, 2)) : addDays(day, 2 + i)}T${pick(times)}:00`,
      time_zone: 'Europe/London',
      length_minutes: 60,
      rule,
      skipped,
      state: 'running',
      notes,
    });
  return rows;
}

/** The cases that go wrong elsewhere. */
function awkward(visit: (fields: Record<string, unknown>) => void, day: string): void {
  const clocks = autumnSunday(day);
  const december = `${day.slice(0, 4)}-12-15`;
  visit({ start: null, notes: 'Customer will call about a date.' });
  visit({ start: `${addDays(day, 9)}T10:00:00`, private: true, notes: 'Surprise for an anniversary: tell nobody.' });
  visit({ start: `${addDays(day, 400)}T10:00:00`, notes: 'Yearly tuning, booked well ahead.' });
  visit({ start: `${addDays(day, -200)}T10:00:00`, status: 'done' });
  visit({
    start: `${addDays(day, 12)}T23:15:00`,
    length_minutes: 120,
    kind: 'voicing',
    instrument: 'Alder & Wren concert grand',
    venue_id: 'P-1010',
    site: 'Leeds',
    time_zone: 'Europe/London',
    notes: 'After the concert, until past midnight.',
  });
  visit({ start: `${december}T12:00:00`, time_zone: 'America/Vancouver', instrument: 'Wren grand 212', notes: 'On tour with the quartet.' });
  visit({
    start: `${clocks}T00:30:00Z`,
    length_minutes: 30,
    time_zone: 'Europe/London',
    status: 'done',
    notes: 'Night session, first passage through the repeated hour.',
  });
  visit({
    start: `${clocks}T01:30:00Z`,
    length_minutes: 30,
    time_zone: 'Europe/London',
    status: 'done',
    notes: 'Night session, second passage through the repeated hour.',
  });
  visit({
    start: `${clocks}T02:30:00`,
    length_minutes: 60,
    time_zone: 'Europe/London',
    status: 'done',
    notes: 'Night session, after the clocks went back.',
  });
  visit({
    start: `${addDays(day, 5)}T13:00:00`,
    kind: 'regulation',
    instrument: 'square piano of 1841',
    customer_id: 'C-1003',
    notes: `Long story 🎹: bring felts, centre pins, two sizes; glue (hide, not white); "the good lamp"; tea.\n${'The action was rebuilt once, badly, and once more, worse; every note has its own opinion. '.repeat(12)}Ask about the piano's past, it is worth it. 🫖`,
  });
  visit({
    start: `${addDays(day, 6)}T11:00:00`,
    guests: [{ name: 'Zelda Unbekannt', email: 'zelda@elsewhere.example' }],
    notes: 'Her teacher comes along.',
  });
  visit({ start: `${addDays(day, 3)}T09:00:00`, length_minutes: null, notes: 'Nobody knows how long this takes.' });
  visit({
    start: `${addDays(day, 8)}T14:30:00`,
    kind: 'assessment',
    instrument: 'Finch player piano',
    customer_id: 'C-1007',
    venue_id: 'P-1002',
    site: 'Leeds',
    time_zone: 'Europe/London',
    notes: 'Somebody entered this in the Diary by hand too.',
  });
}
