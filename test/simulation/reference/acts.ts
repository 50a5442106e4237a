import fc from 'fast-check';
import type { MemoryRecords } from '../memory-systems.ts';
import { dayText, localIn } from './clock.ts';
import { laneParts } from './lanes.ts';

/** What people do, and when the lane runs. `at` names an item by its place, `v` a value by its number. */
export type Act =
  | { do: 'new record'; v: number }
  | { do: 'twins'; v: number }
  | { do: 'new event'; v: number; form: number }
  | { do: 'set record'; at: number; what: number; v: number; stamps: boolean }
  | { do: 'set event'; at: number; what: number; v: number; stamps: boolean }
  | { do: 'drop record'; at: number; v: number }
  | { do: 'drop event'; at: number; v: number }
  | { do: 'copy event'; at: number; v: number }
  /** both sides of one pair, before a run has seen either */
  | { do: 'clash'; at: number; what: number; v: number; stamps: boolean }
  /** one side of a pair goes, and the other is edited */
  | { do: 'part ways'; at: number; record: boolean; v: number }
  | { do: 'settle'; at: number; choice: number }
  | { do: 'edit lane'; part: (typeof laneParts)[number] }
  | { do: 'wait'; hours: number }
  | { do: 'run'; sweep: boolean }
  | Rare;

/** What seldom happens: to an event's name, to a whole calendar, to the lane, or to an answer on its way. */
export type Rare =
  /** a second event with the same UID; or the same event under another name */
  | { do: 'copy with UID'; at: number }
  | { do: 'rename event'; at: number }
  /** the calendar is deleted and made again at its address: empty, or with what it held */
  | { do: 'replace calendar'; full: boolean }
  /** the lane is stopped for good, and started again */
  | { do: 'stop and start'; how: 'remove' | 'unlink' }
  /** of the first record that the next run makes */
  | { do: 'lose answer' };

const nat = (max: number) => fc.nat({ max });
export const actArbitrary = fc.oneof(
  { weight: 5, arbitrary: fc.record({ do: fc.constant('new record' as const), v: nat(999) }) },
  { weight: 4, arbitrary: fc.record({ do: fc.constant('new event' as const), v: nat(999), form: nat(6) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('twins' as const), v: nat(999) }) },
  {
    weight: 12,
    arbitrary: fc.record({
      do: fc.constantFrom('set record' as const, 'set event' as const),
      at: nat(4),
      what: nat(40),
      v: nat(999),
      stamps: fc.boolean(),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({ do: fc.constantFrom('drop record' as const, 'drop event' as const, 'copy event' as const), at: nat(4), v: nat(999) }),
  },
  {
    weight: 4,
    arbitrary: fc.record({ do: fc.constant('clash' as const), at: nat(4), what: nat(20), v: nat(999), stamps: fc.boolean() }),
  },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('part ways' as const), at: nat(4), record: fc.boolean(), v: nat(999) }) },
  { weight: 3, arbitrary: fc.record({ do: fc.constant('settle' as const), at: nat(5), choice: nat(5) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('edit lane' as const), part: fc.constantFrom(...laneParts) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('wait' as const), hours: nat(100) }) },
  { weight: 9, arbitrary: fc.record({ do: fc.constant('run' as const), sweep: fc.boolean() }) },
) as fc.Arbitrary<Act>;

const rareArbitrary: fc.Arbitrary<Rare> = fc.oneof(
  { weight: 2, arbitrary: fc.record({ do: fc.constant('copy with UID' as const), at: nat(4) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('rename event' as const), at: nat(4) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('replace calendar' as const), full: fc.boolean() }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('stop and start' as const), how: fc.constantFrom('remove' as const, 'unlink' as const) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('lose answer' as const) }) },
);
/** Each with the place among the other acts before which it happens. */
export const rareActs = fc.array(fc.record({ before: nat(60), act: rareArbitrary }), { maxLength: 3 });

const pad = (text: string) => text.replace(/[-:]/g, '');
const stampAt = (seconds: number) => `${pad(new Date(seconds * 1000).toISOString().slice(0, 19))}Z`;
export const names = ['Marsh', 'Quill', 'Rooke', 'Venn'];
const addresses = ['ottoline@post.example', 'bram@post.example', 'thandi@post.example'];
/** Days around the start, at hours that come once everywhere. */
const timeOf = (v: number): number => Date.UTC(2026, 10, 23 + ((v * 7) % 130) - 40) / 1000 + (8 + (v % 12)) * 3600 + (v % 4) * 900;

export function newRecord(v: number, title: string): Parameters<MemoryRecords['put']>[1] {
  const at = timeOf(v);
  const local = (seconds: number) => localIn('Europe/London', seconds);
  return {
    title,
    place: v % 3 === 0 ? 'Meadow Hall' : null,
    notes: v % 5 === 0 ? 'Ring before arriving.' : null,
    start: local(at),
    end: local(at + 5400),
    length: 90,
    date: local(at).slice(0, 10),
    time: local(at).slice(11),
    first: local(at).slice(0, 10),
    last: dayText(at + 2 * 86_400),
    due: local(at + 3600),
    follow: v % 2 === 0 ? local(at + 7 * 86_400) : null,
    status: ['open', 'later', 'open', 'done'][v % 4]!,
    kind: [null, 'tuning', 'voicing'][v % 3]!,
    tags: v % 4 === 1 ? ['red'] : [],
    guests: v % 6 === 0 ? [{ email: addresses[0]! }] : [],
    remind: v % 5 === 1 ? 30 : null,
    url: v % 7 === 0 ? `https://alder-wren.example/${v}` : null,
    secret: v % 9 === 0,
    memo: `memo ${v}`,
  };
}

/** What a person does to a record: any field, to any value that it can have. */
export function recordEdit(what: number, v: number): Parameters<MemoryRecords['put']>[1] {
  const at = timeOf(v);
  const local = localIn('Europe/London', at);
  const edits: Parameters<MemoryRecords['put']>[1][] = [
    { title: `T${v} ${names[v % 4]}` },
    { title: v % 2 === 0 ? null : 'Quill' },
    { place: ['Meadow Hall', 'Quayside Chapel', null][v % 3]! },
    { notes: ['Ring before arriving.', 'Two cats; both, curious', null][v % 3]! },
    { start: local },
    { start: v % 3 === 0 ? null : local, end: `${localIn('Europe/London', at + 3600)}[Europe/London]` },
    // A plain end is read on the clock of its start, whatever that is.
    { end: `${local}[Europe/London]` },
    { length: [30, 60, 120, null][v % 4]! },
    { date: v % 5 === 0 ? null : local.slice(0, 10) },
    { time: local.slice(11) },
    { first: v % 5 === 0 ? null : local.slice(0, 10), last: dayText(at + (v % 3) * 86_400) },
    { last: local.slice(0, 10) },
    { due: v % 5 === 0 ? null : local },
    { follow: v % 3 === 0 ? null : local },
    { status: ['open', 'later', 'done'][v % 3]! },
    { kind: ['tuning', 'voicing', null][v % 3]! },
    { tags: [['red'], ['red', 'green'], ['blue'], []][v % 4]! },
    { guests: [[{ email: addresses[v % 3]! }], [{ email: addresses[0]! }, { email: addresses[1]!, name: 'Bram' }], []][v % 3]! },
    { remind: [10, 30, null][v % 3]! },
    { url: v % 2 === 0 ? `https://alder-wren.example/${v}` : null },
    { secret: v % 2 === 0 },
    { memo: `memo ${v}` },
  ];
  return edits[what % edits.length]!;
}

/** A record's field and an event's property that mean the same, by their numbers below. */
export const clashes = [
  [0, 0],
  [0, 0],
  [4, 4],
  [12, 4],
  [10, 5],
  [8, 4],
  [3, 2],
  [2, 3],
  [14, 6],
  [16, 9],
  [17, 10],
  [18, 13],
  [0, 4],
  [4, 0],
] as const;

/** A zone of a program's own, which has the clocks of Athens. */
const ownZone = [
  'BEGIN:VTIMEZONE',
  'TZID:Workshop',
  ...['STANDARD:1996:1027T04:10:+0300:+0200', 'DAYLIGHT:1981:0329T03:3:+0200:+0300'].flatMap((rule) => {
    const [part, year, day, month, from, to] = rule.split(':');
    const lines = [`DTSTART:${year}${day}0000`, `RRULE:FREQ=YEARLY;BYMONTH=${month};BYDAY=-1SU`, `TZOFFSETFROM:${from}`, `TZOFFSETTO:${to}`];
    return [`BEGIN:${part}`, ...lines, `END:${part}`];
  }),
  'END:VTIMEZONE',
  '',
].join('\r\n');

/** Times as programs write them: UTC, zones, days, lengths. */
function timeLines(at: number, form: number, minutes: number): string[] {
  const until = at + minutes * 60;
  const day = pad(dayText(at));
  const zoned = (place: 'Europe/London' | 'Europe/Athens', s: number) => `;TZID=${place}:${pad(localIn(place, s))}`;
  return [
    [`DTSTART:${stampAt(at)}`, `DTEND:${stampAt(until)}`],
    [`DTSTART${zoned('Europe/London', at)}`, `DTEND${zoned('Europe/London', until)}`],
    [`DTSTART${zoned('Europe/Athens', at)}`, `DTEND${zoned('Europe/Athens', until)}`],
    [`DTSTART;VALUE=DATE:${day}`, `DTEND;VALUE=DATE:${pad(dayText(at + 86_400 * (1 + (minutes % 2))))}`],
    [`DTSTART${zoned('Europe/London', at)}`, `DURATION:PT${minutes}M`],
    [`DTSTART;VALUE=DATE:${day}`],
    ['DTSTART', 'DTEND'].map((name, i) => `${name};TZID=Workshop:${pad(localIn('Europe/Athens', i === 0 ? at : until))}`),
  ][form % 7]!;
}

export function newEvent(n: number, v: number, title: string, form: number, now: number): string {
  const lines = [
    `UID:E${n}`,
    `DTSTAMP:${stampAt(now)}`,
    `CREATED:${stampAt(now)}`,
    `LAST-MODIFIED:${stampAt(now)}`,
    ...timeLines(timeOf(v), form, form === 1 ? 90 : 60),
    `SUMMARY:${title}`,
    ...(v % 4 === 3 ? ['CATEGORIES:red,other'] : []),
    // The guest of a record with the same number, and now and then another.
    ...(v % 6 === 0 || v % 5 === 2 ? [`ATTENDEE;CN=Guest;PARTSTAT=ACCEPTED:mailto:${addresses[v % 6 === 0 ? 0 : v % 3]}`] : []),
    ...(v % 6 === 4 ? ['LOCATION:Meadow Hall'] : []),
    ...(v % 11 === 5 ? ['CLASS:PRIVATE'] : []),
    ...(v % 12 === 8 ? ['RRULE:FREQ=WEEKLY;COUNT=4'] : []),
    ...(v % 13 === 7 ? ['X-MONSOON-LANE:11111111-2222-5333-8444-555555555555', 'X-MONSOON-PAIR:99999999-2222-5333-8444-555555555555'] : []),
    `X-KEEP:as it was ${v}`,
  ];
  return `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Test//EN\r\n${form % 7 === 6 ? ownZone : ''}BEGIN:VEVENT\r\n${lines.join('\r\n')}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
}

/** What a person does to an event: any property, as a calendar program writes it. @param stamp null: a program that does not move LAST-MODIFIED */
export function eventEdit(text: string, what: number, v: number, stamp: number | null): string {
  const plain = text.replace(/\r\n[ \t]/g, '');
  const begin = plain.indexOf('BEGIN:VEVENT\r\n') + 'BEGIN:VEVENT\r\n'.length;
  const end = plain.indexOf('END:VEVENT');
  let lines = plain.slice(begin, end).split('\r\n').filter(Boolean);
  const put = (name: string, ...fresh: string[]) => {
    const alarms = lines.indexOf('BEGIN:VALARM');
    const [own, rest] = alarms < 0 ? [lines, []] : [lines.slice(0, alarms), lines.slice(alarms)];
    lines = [...own.filter((l) => !new RegExp(`^${name}[;:]`).test(l)), ...fresh, ...rest];
  };
  const at = timeOf(v);
  const edits: (() => void)[] = [
    () => put('SUMMARY', `SUMMARY:T${v} ${names[v % 4]}`),
    () => put('SUMMARY', ...(v % 3 === 0 ? [] : [`SUMMARY:T${v} ${names[v % 4]} (tuning)`])),
    () => put('DESCRIPTION', ...(v % 3 === 0 ? [] : [`DESCRIPTION:Ask for the key ${v}`])),
    () => put('LOCATION', ...(v % 3 === 0 ? [] : ['LOCATION:Quayside Chapel'])),
    () => {
      put('DTEND');
      put('DURATION');
      put('DTSTART', ...timeLines(at, v, 60));
    },
    () => {
      put('DTEND');
      put('DURATION');
      put('DTSTART', ...timeLines(at, v + 1, 135));
    },
    () => put('STATUS', `STATUS:${['CONFIRMED', 'TENTATIVE', 'CANCELLED'][v % 3]}`),
    () => put('TRANSP', `TRANSP:${v % 2 === 0 ? 'TRANSPARENT' : 'OPAQUE'}`),
    () => put('CLASS', ...(v % 3 === 0 ? [] : [`CLASS:${v % 3 === 1 ? 'PRIVATE' : 'PUBLIC'}`])),
    () => put('CATEGORIES', ...[[], ['CATEGORIES:red'], ['CATEGORIES:green,blue'], ['CATEGORIES:other']][v % 4]!),
    () => put('ATTENDEE', ...[[], [`ATTENDEE;PARTSTAT=DECLINED:mailto:${addresses[v % 3]}`], addresses.map((a) => `ATTENDEE:mailto:${a}`)][v % 3]!),
    () => put('URL', ...(v % 2 === 0 ? [] : [`URL:https://alder-wren.example/e${v}`])),
    () => put('X-KEEP', `X-KEEP:kept ${v}`),
    () => {
      lines = lines
        .join('\r\n')
        .replace(/BEGIN:VALARM[\s\S]*?END:VALARM(\r\n)?/g, '')
        .split('\r\n')
        .filter(Boolean);
      if (v % 3 > 0) lines.push('BEGIN:VALARM', 'ACTION:DISPLAY', 'DESCRIPTION:Soon', `TRIGGER:-PT${v % 3 === 1 ? 30 : 10}M`, 'END:VALARM');
    },
    // Another lane writes its mark on it.
    () => {
      if (v % 3 > 0) return;
      put('X-MONSOON-LANE', 'X-MONSOON-LANE:11111111-2222-5333-8444-555555555555');
      put('X-MONSOON-PAIR', 'X-MONSOON-PAIR:99999999-2222-5333-8444-555555555555');
    },
    () => put('RRULE', ...(v % 3 === 0 ? [] : ['RRULE:FREQ=WEEKLY;COUNT=4'])),
  ];
  edits[what % edits.length]!();
  if (stamp !== null) put('LAST-MODIFIED', `LAST-MODIFIED:${stampAt(stamp)}`);
  const head = plain.slice(0, begin);
  const zoned = lines.some((l) => l.includes('TZID=Workshop')) && !head.includes('BEGIN:VTIMEZONE\r\nTZID:Workshop');
  return `${zoned ? head.replace('BEGIN:VEVENT', `${ownZone}BEGIN:VEVENT`) : head}${lines.join('\r\n')}\r\n${plain.slice(end)}`;
}
