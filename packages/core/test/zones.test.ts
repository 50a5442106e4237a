import { execFileSync } from 'node:child_process';
import {
  formatInstant,
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
    expect(() => readDateTime('2026-02-30T10:00:00', zone('UTC'), zones)).to.throw(RangeError);
    expect(() => readDateTime('2026-02-03T10:00:00[Mars/Olympus]', zone('UTC'), zones)).to.throw('"Mars/Olympus" is not known');
  });
});
