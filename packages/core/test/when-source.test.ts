import { checkWhenShape, checkWhenSource, type Field, type FieldValue, readWhen, UnfitValue, type WhenSource } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { expect } from 'chai';

const zones = loadZones();
const london = zones.find('Europe/London')!;
const fields: Field[] = [
  { name: 'from', label: 'From', type: 'date' },
  { name: 'until', label: 'Until', type: 'date' },
  { name: 'at', label: 'At', type: 'date-time' },
  { name: 'clock', label: 'Clock', type: 'time' },
  { name: 'hours', label: 'Hours', type: 'duration', unit: 'hours' },
  { name: 'words', label: 'Words', type: 'text' },
];
const read = (source: WhenSource, values: Record<string, FieldValue>) => readWhen(source, { id: 'x', fields: values }, fields, london, zones).when;

describe('where a time is read from', () => {
  for (const [what, source, values, expected] of [
    [
      'a start alone, with the length of the lane',
      { start: 'at', minutes: 15 },
      { at: '2026-12-01T09:00:00' },
      { kind: 'timed', start: '2026-12-01T09:00:00', end: '2026-12-01T09:15:00', zone: 'Europe/London' },
    ],
    [
      'a start and a length in hours',
      { start: 'at', length: 'hours' },
      { at: '2026-12-01T23:00:00', hours: 2.5 },
      { kind: 'timed', start: '2026-12-01T23:00:00', end: '2026-12-02T01:30:00', zone: 'Europe/London' },
    ],
    [
      'a date and a time',
      { date: 'from', time: 'clock', minutes: 60 },
      { from: '2026-12-01', clock: '14:30' },
      { kind: 'timed', start: '2026-12-01T14:30:00', end: '2026-12-01T15:30:00', zone: 'Europe/London' },
    ],
    [
      'a range whose last day counts',
      { first: 'from', last: 'until', lastCounts: true },
      { from: '2026-12-30', until: '2027-01-01' },
      { kind: 'all-day', first: '2026-12-30', end: '2027-01-02' },
    ],
    [
      'a range whose last day does not count',
      { first: 'from', last: 'until', lastCounts: false },
      { from: '2026-12-30', until: '2027-01-01' },
      { kind: 'all-day', first: '2026-12-30', end: '2027-01-01' },
    ],
    [
      'a range of no days, which means one',
      { first: 'from', last: 'until', lastCounts: false },
      { from: '2026-12-30', until: '2026-12-30' },
      { kind: 'all-day', first: '2026-12-30', end: '2026-12-31' },
    ],
    ['one day, also when the clocks change', { day: 'from' }, { from: '2026-10-25' }, { kind: 'all-day', first: '2026-10-25', end: '2026-10-26' }],
    [
      'a due time as an event that ends there',
      { due: 'at', show: 'ending', minutes: 30 },
      { at: '2026-12-01T17:00:00[America/Halifax]' },
      { kind: 'timed', start: '2026-12-01T16:30:00', end: '2026-12-01T17:00:00', zone: 'America/Halifax' },
    ],
    [
      'a due time as an event that starts there',
      { due: 'at', show: 'starting', minutes: 30 },
      { at: '2026-12-01T17:00:00' },
      { kind: 'timed', start: '2026-12-01T17:00:00', end: '2026-12-01T17:30:00', zone: 'Europe/London' },
    ],
    [
      'a due time as its own day',
      { due: 'at', show: 'all-day' },
      { at: '2026-12-01T23:30:00[America/Halifax]' },
      { kind: 'all-day', first: '2026-12-01', end: '2026-12-02' },
    ],
  ] as [string, WhenSource, Record<string, FieldValue>, unknown][]) {
    it(`may be ${what}`, () => {
      expect(checkWhenShape(source)).to.equal(null);
      expect(checkWhenSource(source, fields, '')).to.deep.equal([]);
      expect(read(source, values)).to.deep.equal(expected);
    });
  }

  it('names the fields and the values of what cannot be read', () => {
    expect(() => read({ first: 'from', last: 'until', lastCounts: true }, { from: '2026-12-30', until: '2026-12-01' })).to.throw(
      UnfitValue,
      'from, until: the last day 2026-12-01 lies before the first 2026-12-30',
    );
    expect(() => read({ date: 'from', time: 'clock', minutes: 5 }, { from: '2026-12-30', clock: null })).to.throw(
      UnfitValue,
      'clock: nothing there, so it is not known when the event starts',
    );
    expect(() => read({ day: 'from' }, { from: '2026-02-30' })).to.throw(UnfitValue);
  });

  it('is refused when the shape or a field does not fit', () => {
    expect(checkWhenShape({ start: 'at' })).to.match(/^start is not how a time is read; ways are start \+ end/);
    expect(checkWhenShape({ start: 'at', minutes: 1.5 })).to.match(/whole number/);
    expect(checkWhenShape({ due: 'at', show: 'sideways', minutes: 5 })).to.match(/ending or starting/);
    expect(checkWhenShape({ first: 'from', last: 'until', lastCounts: 'yes' })).to.match(/lastCounts is true/);
    expect(checkWhenShape(['at'])).to.match(/names the fields/);
    expect(checkWhenSource({ first: 'from', last: 'words', lastCounts: true }, fields, '/moments/0/when')).to.deep.equal([
      { pointer: '/moments/0/when/last', reason: 'the field "words" is of type text; fitting fields are from, until' },
    ]);
    expect(checkWhenSource({ day: 'nope' }, fields, '')[0]!.reason).to.equal('there is no field "nope"; fitting fields are from, until');
  });
});
