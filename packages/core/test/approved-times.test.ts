import { carryWhen, checkWhenShape, checkWhenSource, formatWhen, readWhen, takeWhen, type WhenSource } from '@monsoon/core';
import { fields, full, item, keeps, london, odd, said, whens } from './approved-fixtures.ts';
import { zones } from './engine-fixtures.ts';

const sources: WhenSource[] = [
  { start: 'start', end: 'end' },
  { start: 'start', end: 'end', length: 'length' },
  { start: 'start', length: 'hours' },
  { start: 'start', minutes: 45 },
  { start: 'start', minutes: 45, allDayFrom: '08:00', allDayUntil: '17:30' },
  { date: 'date', time: 'time', length: 'length' },
  { date: 'date', time: 'time', minutes: 0 },
  { first: 'first', last: 'last', lastCounts: true },
  { first: 'first', last: 'last', lastCounts: false },
  { day: 'first' },
  { due: 'due', show: 'ending', minutes: 30 },
  { due: 'due', show: 'starting', minutes: 30 },
  { due: 'due', show: 'all-day' },
];
const whenRecords = [
  full,
  odd,
  item('empty', {}),
  item('zoned', {
    ...full.fields,
    start: '2026-12-01T12:00:00[Europe/Athens]',
    end: '2026-12-01T10:30:00Z',
    due: '2026-12-04T17:00:00+02:00',
    time: '10:00',
    last: '2026-12-01',
  }),
  item('over days', { ...full.fields, start: '2026-12-01T22:00:00', end: '2026-12-03T02:00:00', length: 1680, hours: 28 }),
];
const whenContext = { fields, zone: london, zones };

describe('what is said and done is as it was approved: times', () => {
  keeps('the time that a record shows', () =>
    sources.flatMap((source) =>
      whenRecords.map((r) => `${JSON.stringify(source)} ${r.id}: ${said(() => readWhen(source, r, fields, london, zones))}`),
    ),
  );

  keeps('the time that a record takes', () =>
    sources.flatMap((source) =>
      whenRecords.flatMap((r) =>
        whens.map((w) => `${JSON.stringify(source)} ${r.id} <- ${formatWhen(w)}: ${said(() => takeWhen(source, r, w, whenContext))}`),
      ),
    ),
  );

  keeps('the time that stays on the calendar', () =>
    whens.flatMap((shown) =>
      whens.flatMap((before) =>
        whens
          .filter((_w, i) => i % 2 === 0)
          .map(
            (event) =>
              `${formatWhen(shown)} | ${formatWhen(before)} | ${formatWhen(event)}: ${said(() => carryWhen(shown, before, event, whenContext))}`,
          ),
      ),
    ),
  );

  keeps('which sources of a time are refused', () => [
    ...[
      null,
      [],
      'start',
      {},
      { start: 'start' },
      { start: 'start', end: 5 },
      { start: '', end: 'end' },
      { start: 'start', minutes: -1 },
      { start: 'start', minutes: 1.5 },
      { start: 'start', minutes: 527_041 },
      { start: 'start', minutes: 0, allDayFrom: '08:00' },
      { start: 'start', minutes: 0, allDayFrom: '18:00', allDayUntil: '08:00' },
      { start: 'start', minutes: 0, allDayFrom: '8:00', allDayUntil: '24:00' },
      { day: 'first', allDayFrom: '08:00', allDayUntil: '09:00' },
      { first: 'a', last: 'b', lastCounts: 'yes' },
      { due: 'due', show: 'ending' },
      { due: 'due', show: 'all-day', minutes: 5 },
      { due: 'due', show: 'sometime', minutes: 5 },
      { day: 'first', time: 'x' },
    ].map((s) => `${JSON.stringify(s)}: ${checkWhenShape(s)}`),
    ...[{ start: 'nope', end: 'text' }, { start: 'start', length: 'number' }, { date: 'start', time: 'time', minutes: 1 }, { day: 'text' }].flatMap(
      (s) => checkWhenSource(s as WhenSource, fields, '/when').map((p) => `${p.pointer}: ${p.reason}`),
    ),
  ]);
});
