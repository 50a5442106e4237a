import { expandSeries, UTC } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import ICAL from 'ical.js';
import { MemoryStore } from '../test/simulation/memory-store.ts';
import { MemoryCalendar, MemoryRecords } from '../test/simulation/memory-systems.ts';
import { plainLane } from '../test/simulation/plain-lane.ts';
import { installed } from './installed.ts';

const { parseComponents } = await installed<typeof import('../packages/core/src/ical/content.ts')>('core/dist/ical/content.js');
const { execute } = await installed<typeof import('../packages/service/src/run/execute.ts')>('service/dist/run/execute.js');

/**
 * 10,000 series over two years, read from their text and expanded, beside reading the same text as JSON and one pass over
 * the occurrences that come of it.
 */
const SERIES = Number(process.env['SERIES'] ?? 10_000);
const zones = loadZones();
const rules = [
  'FREQ=WEEKLY;BYDAY=TU',
  'FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,TH',
  'FREQ=MONTHLY;BYDAY=-1FR',
  'FREQ=YEARLY',
  'FREQ=DAILY;COUNT=200',
  'FREQ=MONTHLY;BYMONTHDAY=1,15',
];
const texts = Array.from({ length: SERIES }, (_, i) =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VEVENT',
    `UID:rehearsal-${i}`,
    `DTSTART;TZID=Europe/London:2025${String(1 + (i % 12)).padStart(2, '0')}${String(1 + (i % 28)).padStart(2, '0')}T190000`,
    `DTEND;TZID=Europe/London:2025${String(1 + (i % 12)).padStart(2, '0')}${String(1 + (i % 28)).padStart(2, '0')}T210000`,
    `SUMMARY:Choir ${i}`,
    `RRULE:${rules[i % rules.length]}`,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n'),
);
const json = JSON.stringify(texts);
/** The same as a JSON reader gets it that wants parts and not lines (RFC 7265). */
const jcal = JSON.stringify(texts.map((text) => ICAL.parse(text) as unknown));
const window = { from: Date.UTC(2026, 0, 1) / 1000, until: Date.UTC(2028, 0, 1) / 1000, home: UTC };
const cpu = (work: () => number): { ms: number; n: number } => {
  const before = process.cpuUsage();
  const n = work();
  const { user, system } = process.cpuUsage(before);
  return { ms: (user + system) / 1000, n };
};
const occurrences: { start: string }[] = [];
const bare = (given: string) =>
  cpu(() => {
    const read = JSON.parse(given) as unknown[];
    let length = read.length;
    for (const o of occurrences) length += o.start.length;
    return length;
  });
const expanded = () =>
  cpu(() => {
    let n = 0;
    for (const text of texts) {
      const roots = parseComponents(text);
      for (const o of expandSeries(roots[0]!.components, roots, window, zones)) {
        n++;
        if (occurrences.length < 2_000_000 && o.when.kind === 'timed') occurrences.push({ start: o.when.start });
      }
    }
    return n;
  });
const counted = () =>
  cpu(() => {
    let n = 0;
    for (const text of texts) {
      const roots = parseComponents(text);
      n += expandSeries(roots[0]!.components, roots, window, zones).length;
    }
    return n;
  });
const read = cpu(() => texts.reduce((n, text) => n + parseComponents(text).length, 0));
const first = expanded();
const kept = occurrences.length;
const base = bare(json);
const inParts = bare(jcal);
occurrences.length = 0;
const again = expanded();
const without = counted();
console.log(`${SERIES} series, ${first.n} occurrences in two years (${kept} in the pass)
  JSON.parse and one pass: ${base.ms.toFixed(0)} ms; reading the text: ${read.ms.toFixed(0)} ms; reading and expanding: ${without.ms.toFixed(0)} ms, with the times as texts: ${again.ms.toFixed(0)} ms
  ${(without.ms / base.ms).toFixed(1)} times the bare work (wanted: 3), ${(without.ms / inParts.ms).toFixed(1)} times where the JSON is jCal (${inParts.ms.toFixed(0)} ms), ${((1000 * (without.ms - read.ms)) / again.n).toFixed(1)} microseconds for an occurrence`);

/**
 * A check without changes of a lane that takes each occurrence, beside that of a calendar with as many single events:
 * what was taken apart once is not taken apart again.
 */
const COUNT = Number(process.env['CHECKED'] ?? 200);
const WEEKS = 26;
const fields = [
  { name: 'title', label: 'Title', type: 'text' as const },
  { name: 'start', label: 'Start', type: 'date-time' as const },
  { name: 'end', label: 'End', type: 'date-time' as const },
];
const now = '2026-01-05T08:00:00Z';
const event = (uid: string, day: Date, rule: string | null): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VEVENT',
    `UID:${uid}`,
    ...['DTSTART', 'DTEND'].map((name, i) => `${name};TZID=Europe/London:${day.toISOString().slice(0, 10).replaceAll('-', '')}T${19 + i}0000`),
    `SUMMARY:Choir ${uid}`,
    ...(rule === null ? [] : [`RRULE:${rule}`]),
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n');
const dayOf = (n: number) => new Date(Date.UTC(2026, 0, 6 + n));

/** @returns CPU milliseconds of a sweep and of a look at changes, when there are none */
async function unchanged(fill: (calendar: MemoryCalendar) => void): Promise<{ pairs: number; sweep: number; changes: number }> {
  const calendar = new MemoryCalendar();
  fill(calendar);
  const records = new MemoryRecords(fields);
  const store = new MemoryStore();
  const definition = plainLane({
    direction: '<-',
    window: { behind: 30, ahead: 365 },
    events: { repeating: 'each occurrence' },
    moments: [{ name: 'visit', when: { start: 'start', end: 'end' } }],
  });
  const [collection] = await records.describe();
  const context = {
    lane: '5b8f0c1e-9a55-4f43-8a51-0d3c9f1d2e11',
    definition,
    version: 1,
    collection: collection!,
    zone: zones.find('Europe/London')!,
    zones,
    now,
  };
  const run = (scope: 'sweep' | 'changes') =>
    execute({ context, sides: { records, calendars: calendar }, store, signal: new AbortController().signal, scope });
  await run('sweep');
  await run('sweep');
  const timedRun = async (scope: 'sweep' | 'changes') => {
    const all: number[] = [];
    for (let i = 0; i < 5; i++) {
      const began = process.cpuUsage();
      await run(scope);
      const { user, system } = process.cpuUsage(began);
      all.push((user + system) / 1000);
    }
    return all.sort((a, b) => a - b)[2]!;
  };
  return { pairs: store.all.length, sweep: await timedRun('sweep'), changes: await timedRun('changes') };
}

const apart = await unchanged((calendar) => {
  for (let i = 0; i < COUNT; i++) calendar.put(`/c/s${i}.ics`, event(`s${i}`, dayOf(i % 7), `FREQ=WEEKLY;COUNT=${WEEKS}`));
});
const singles = await unchanged((calendar) => {
  for (let i = 0; i < COUNT; i++)
    for (let w = 0; w < WEEKS; w++) calendar.put(`/c/s${i}-${w}.ics`, event(`s${i}-${w}`, dayOf((i % 7) + 7 * w), null));
});
console.log(`a check without changes, of ${COUNT} series with ${apart.pairs} occurrences beside ${singles.pairs} single events
  a sweep: ${apart.sweep.toFixed(0)} and ${singles.sweep.toFixed(0)} ms, ratio ${(apart.sweep / singles.sweep).toFixed(2)} (wanted: 1.1)
  a look at changes: ${apart.changes.toFixed(1)} and ${singles.changes.toFixed(1)} ms`);
