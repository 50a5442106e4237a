import { expandSeries, UTC } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { parseComponents } from '../packages/core/src/ical/content.ts';

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
const window = { from: Date.UTC(2026, 0, 1) / 1000, until: Date.UTC(2028, 0, 1) / 1000, home: UTC };
const cpu = (work: () => number): { ms: number; n: number } => {
  const before = process.cpuUsage();
  const n = work();
  const { user, system } = process.cpuUsage(before);
  return { ms: (user + system) / 1000, n };
};
const occurrences: { start: string }[] = [];
const bare = () =>
  cpu(() => {
    const read = JSON.parse(json) as string[];
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
const read = cpu(() => texts.reduce((n, text) => n + parseComponents(text).length, 0));
const first = expanded();
const kept = occurrences.length;
const base = bare();
occurrences.length = 0;
const again = expanded();
console.log(`${SERIES} series, ${first.n} occurrences in two years (${kept} in the pass)
  JSON.parse and one pass: ${base.ms.toFixed(0)} ms; reading the text: ${read.ms.toFixed(0)} ms; reading and expanding: ${again.ms.toFixed(0)} ms
  ${(again.ms / base.ms).toFixed(1)} times the bare work (wanted: 3), ${((1000 * again.ms) / again.n).toFixed(1)} microseconds for an occurrence`);
