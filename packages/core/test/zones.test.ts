import { execFileSync } from 'node:child_process';
import {
  definedZone,
  definedZoneLabel,
  formatInstant,
  parseInstant,
  parseTzif,
  readDateTime,
  sayable,
  spanOf,
  toInstant,
  toLocal,
  whenFromDays,
  whenFromStartEnd,
  whenFromStartLength,
} from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { expect } from 'chai';
import fc from 'fast-check';

const zones = loadZones();
const zone = (name: string) => zones.find(name)!;
const at = (iso: string) => Date.parse(iso) / 1000;

describe('zones', () => {
  it('agree with the operating system for every hour and zone tried', () => {
    // date(1) reads the same tzdata through the C library: an independent reader.
    for (const name of [
      'Europe/London',
      'America/Vancouver',
      'America/Halifax',
      'Africa/Casablanca',
      'Australia/Lord_Howe',
      'Asia/Kathmandu',
      'America/Sao_Paulo',
      'Pacific/Apia',
      'Europe/Dublin',
    ]) {
      const instants = Array.from({ length: 400 }, (_, i) => at('1970-01-01T00:00:00Z') + i * 6_307_013);
      const said = execFileSync('date', ['-f', '-', '+%Y-%m-%dT%H:%M:%S'], { input: instants.map((i) => `@${i}`).join('\n'), env: { TZ: name } })
        .toString()
        .trim()
        .split('\n');
      expect(instants.map((i) => toLocal(i, zone(name)))).to.deep.equal(said, name);
    }
  });

  it('that an event defines by rules agree with the operating system, in each form of a rule (POSIX, 8.3; RFC 9636, 3.3.1)', () => {
    const rules = [
      '<Odd>-5:37',
      '<Half>+3:30:15',
      '<Site>0<Summer>-1,M3.5.0/1,M10.5.0/2',
      '<South>-10<Late>-11,M10.1.0,M4.1.0/3',
      '<Julian>-1<Longer>-2:30,J60/2,J300/3:30',
      '<Counted>4<Less>,59/0,299/24',
      '<Early>3<Earlier>,M3.5.6/-2,M10.1.0/-1:30:15',
      '<Fixed>+12',
    ];
    for (const rule of rules) {
      const instants = Array.from({ length: 1500 }, (_, i) => at('2023-01-01T00:00:00Z') + i * 106_013);
      // Just before, at, and after each change.
      for (let i = 0, from = instants[0]!; i < 12; i++) {
        const { until } = definedZone(rule)!.period(from);
        if (until === null) break;
        instants.push(until - 1, until, until + 1);
        from = until;
      }
      const said = execFileSync('date', ['-f', '-', '+%Y-%m-%dT%H:%M:%S %Z'], { input: instants.map((i) => `@${i}`).join('\n'), env: { TZ: rule } })
        .toString()
        .trim()
        .split('\n');
      const shown = instants.map((i) => `${toLocal(i, definedZone(rule)!)} ${definedZone(rule)!.period(i).abbreviation}`);
      expect(shown).to.deep.equal(said, rule);
      for (const instant of instants) {
        const { from, until } = definedZone(rule)!.period(instant);
        expect(from === null || from <= instant, rule).to.equal(true);
        expect(until === null || until > instant, rule).to.equal(true);
      }
    }
  });

  it('that no rules define are none', () => {
    for (const rule of [
      'Europe/London',
      '<X>',
      '<X>5<Y>',
      '<X>5<Y>,M3.5.0',
      '<X>5<Y>,M3.5,M10.1.0',
      '<X>5<Y>,xJ60,J300',
      '<X>5<Y>,J60,J300x',
      '<X>5 ',
      'x<X>5',
    ])
      expect(definedZone(rule), rule).to.equal(undefined);
    expect(definedZoneLabel('<Custom Zone One>-5:37')).to.equal('Custom Zone One');
    expect(definedZoneLabel('Europe/London')).to.equal('Europe/London');
    // What is asked for a thousand times is worked out again, and says the same.
    for (let i = 0; i < 1100; i++) expect(definedZone(`<Zone ${i}>-${i % 12}`)!.period(0).offset).to.equal((i % 12) * 3600);
    expect(definedZone('<Zone 3>-3')!.period(0)).to.deep.equal({ offset: 10_800, daylight: false, abbreviation: 'Zone 3', from: null, until: null });
  });

  it('are read from tables of the first version, to the second', () => {
    const table = (version: number, times: number[], kinds: number[], types: [offset: number, daylight: boolean][], names = 'AAA\0BBB\0') => {
      const bytes = Buffer.alloc(44 + times.length * 5 + types.length * 6 + names.length);
      bytes.write('TZif');
      bytes.writeUInt8(version === 1 ? 0 : 0x30 + version, 4);
      bytes.writeUInt32BE(times.length, 32);
      bytes.writeUInt32BE(types.length, 36);
      bytes.writeUInt32BE(names.length, 40);
      times.forEach((t, i) => {
        bytes.writeInt32BE(t, 44 + i * 4);
        bytes.writeUInt8(kinds[i]!, 44 + times.length * 4 + i);
      });
      types.forEach(([offset, daylight], i) => {
        const from = 44 + times.length * 5 + i * 6;
        bytes.writeInt32BE(offset, from);
        bytes.writeUInt8(daylight ? 1 : 0, from + 4);
        bytes.writeUInt8(daylight ? 4 : 0, from + 5);
      });
      bytes.write(names, 44 + times.length * 5 + types.length * 6);
      return bytes;
    };
    const summer = table(
      1,
      [1000, 2000, 3000],
      [1, 0, 1],
      [
        [0, false],
        [3600, true],
      ],
    );
    const one = parseTzif('One', summer);
    const standard = { offset: 0, daylight: false, abbreviation: 'AAA' };
    const daylight = { offset: 3600, daylight: true, abbreviation: 'BBB' };
    expect(one.period(999)).to.deep.equal({ ...standard, from: null, until: 1000 });
    expect(one.period(1000)).to.deep.equal({ ...daylight, from: 1000, until: 2000 });
    expect(one.period(1999)).to.deep.equal({ ...daylight, from: 1000, until: 2000 });
    expect(one.period(2000)).to.deep.equal({ ...standard, from: 2000, until: 3000 });
    expect(one.period(9_000_000)).to.deep.equal({ ...daylight, from: 3000, until: null });
    // Asked in any order, and more periods than are kept at hand, it says the same.
    const many = Array.from({ length: 30 }, (_, i) => (i + 1) * 100);
    const long = parseTzif(
      'Long',
      table(
        1,
        many,
        many.map((_, i) => (i + 1) % 2),
        [
          [0, false],
          [3600, true],
        ],
      ),
    );
    for (const n of [29, 0, 15, 3, 28, 15, 7, 1, 22, 11, 19, 29, 0]) {
      expect(long.period(n * 100 + 99).from, String(n)).to.equal(n === 0 ? null : n * 100);
      expect(long.period(n * 100).from, String(n)).to.equal(n === 0 ? null : n * 100);
    }
    for (const [bytes, reason] of [
      [Buffer.from('no zone, and long enough to have a header of 44 octets'), /not a TZif file/],
      [summer.subarray(0, 43), /not a TZif file/],
      [table(1, [], [], []), /without local time types/],
      [table(2, [], [], [[0, false]]), /not a TZif file/],
    ] as const)
      expect(() => parseTzif('Bad', bytes)).to.throw(RangeError, reason);
  });

  it('read instants with an offset in each form of it, and nothing else', () => {
    for (const [text, instant] of [
      ['2026-12-15T12:00Z', '2026-12-15T12:00:00Z'],
      ['2026-12-15T12:00:00z', '2026-12-15T12:00:00Z'],
      ['2026-12-15T12:00:30.5+05:30', '2026-12-15T06:30:30.500Z'],
      ['2026-12-15T12:00:00+0530', '2026-12-15T06:30:00Z'],
      ['2026-12-15T12:00:00-0330', '2026-12-15T15:30:00Z'],
    ] as const)
      expect(parseInstant(text), text).to.equal(at(instant));
    for (const text of [
      'x2026-12-15T12:00:00Z',
      '2026-12-15T12:00:00Zx',
      '2026-12-15T12:00:00',
      '2026-13-01T00:00:00Z',
      '2026-12-15T12:00:00+05',
      '2026-12-15',
    ])
      expect(() => parseInstant(text), text).to.throw(RangeError, text);
    for (const text of ['2026-12-15', 'noon', '2026-12-15T25:00:00'])
      expect(() => toInstant(text.padEnd(19, 'x'), zone('Europe/London')), text).to.throw(RangeError);
  });

  it('know that Vancouver stays seven hours behind in the winter of 2026', () => {
    expect(formatInstant(toInstant('2026-12-15T12:00:00', zone('America/Vancouver')).instant)).to.equal('2026-12-15T19:00:00Z');
  });

  it('read a gap with the offset before it and an overlap as the first (RFC 5545, 3.3.5)', () => {
    expect(toInstant('2026-03-29T01:30:00', zone('Europe/London'))).to.deep.equal({ instant: at('2026-03-29T01:30:00Z'), resolution: 'gap' });
    expect(toInstant('2026-10-25T01:30:00', zone('Europe/London'))).to.deep.equal({ instant: at('2026-10-25T00:30:00Z'), resolution: 'overlap' });
    expect(toInstant('2026-10-25T02:30:00', zone('Europe/London'))).to.deep.equal({ instant: at('2026-10-25T02:30:00Z'), resolution: 'exact' });
    expect(toInstant('2026-10-25T02:30:00', zone('Europe/Berlin')).resolution).to.equal('overlap');
  });

  it('find zones by their Windows names, in any case', () => {
    expect(zone('gmt standard time').name).to.equal('Europe/London');
    expect(zones.find('Nowhere/At_All')).to.equal(undefined);
  });

  it('refuse what is not a zone file', () => {
    expect(() => parseTzif('x', new Uint8Array(60))).to.throw(RangeError, 'not a TZif file');
  });
});

const names = fc.constantFrom(
  'Europe/London',
  'America/Vancouver',
  'America/Halifax',
  'Africa/Casablanca',
  'Australia/Lord_Howe',
  'America/St_Johns',
);
const instants = fc.integer({ min: at('1990-01-01T00:00:00Z'), max: at('2060-01-01T00:00:00Z') });

describe('when', () => {
  it('keeps every instant, in every zone, on every day', () => {
    fc.assert(
      fc.property(names, instants, fc.integer({ min: 0, max: 100_000 }), (name, from, length) => {
        const start = `${formatInstant(from)}[${name}]`;
        const { when } = whenFromStartLength(start, length, zone('UTC'), zones);
        expect(spanOf(when, zone('UTC'), zones)).to.deep.equal({ from, until: from + length });
      }),
    );
  });

  it('says the second passage through a repeated hour in UTC, because no wall clock can', () => {
    const london = zone('Europe/London');
    expect(sayable(at('2026-10-25T00:30:00Z'), at('2026-10-25T00:30:00Z'), london)).to.deep.equal({
      zone: london,
      start: '2026-10-25T01:30:00',
      end: '2026-10-25T01:30:00',
    });
    expect(sayable(at('2026-10-25T01:30:00Z'), at('2026-10-25T01:30:00Z'), london).start).to.equal('2026-10-25T01:30:00');
    expect(sayable(at('2026-10-25T01:30:00Z'), at('2026-10-25T01:30:00Z'), london).zone.name).to.equal('UTC');
  });

  it('reads start and end, and refuses an end before the start', () => {
    const { when } = whenFromStartEnd('2026-12-05T23:15:00', '2026-12-06T01:15:00', zone('Europe/London'), zones);
    expect(when).to.deep.equal({ kind: 'timed', start: '2026-12-05T23:15:00', end: '2026-12-06T01:15:00', zone: 'Europe/London' });
    expect(() => whenFromStartEnd('2026-12-05T10:00:00', '2026-12-05T09:00:00', zone('Europe/London'), zones)).to.throw('lies before the start');
  });

  it('refuses a day that does not exist, with an offset and without', () => {
    for (const text of ['2026-02-30T10:00:00', '2026-02-30T10:00:00Z', '2026-02-30T10:00:00+01:00[Europe/London]', '2026-13-01T10:00:00Z'])
      expect(() => readDateTime(text, zone('Europe/London'), zones), text).to.throw(RangeError);
    expect(readDateTime('2028-02-29T10:00:00Z', zone('Europe/London'), zones).local).to.equal('2028-02-29T10:00:00');
  });

  it('notes a wall clock that does not exist, and one that comes twice', () => {
    expect(readDateTime('2026-03-29T01:30:00', zone('Europe/London'), zones))
      .to.include({ local: '2026-03-29T02:30:00' })
      .and.property('note')
      .match(/does not exist/);
    expect(readDateTime('2026-10-25T01:30:00[Europe/London]', zone('UTC'), zones).note).to.match(/comes twice/);
  });

  it('counts the last day of a range, and refuses days that do not exist', () => {
    expect(whenFromDays('2026-12-30', '2027-01-02').when).to.deep.equal({ kind: 'all-day', first: '2026-12-30', end: '2027-01-03' });
    expect(() => whenFromDays('2026-02-30', '2026-03-01')).to.throw(RangeError);
    expect(() => whenFromDays('2026-02-27', '2026-02-30')).to.throw(RangeError);
    for (const day of ['1900-02-29', '2100-02-29', '2026-00-10', '2026-13-10', '2026-01-00'])
      expect(() => parseInstant(`${day}T00:00:00Z`), day).to.throw(RangeError);
    for (const day of ['2000-02-29', '2024-02-29', '2026-12-31']) expect(parseInstant(`${day}T00:00:00Z`), day).to.equal(at(`${day}T00:00:00Z`));
    expect(() => readDateTime('2026-02-30T10:00:00', zone('UTC'), zones)).to.throw(RangeError);
    expect(() => readDateTime('2026-02-03T10:00:00[Mars/Olympus]', zone('UTC'), zones)).to.throw('"Mars/Olympus" is not known');
  });
});
