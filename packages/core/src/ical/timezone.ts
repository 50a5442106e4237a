import { Temporal } from 'temporal-polyfill';
import { toLocal, type Zone } from '../time/zones.ts';
import type { Component, Line } from './content.ts';

/** Short and plain: written as it is. */
const line = (name: string, value: string): Line => ({ name, params: [], value, source: `${name}:${value}` });
const compact = (local: string) => local.replace(/[-:]/g, '');

function utcOffset(seconds: number): string {
  const two = (n: number) => String(Math.floor(n)).padStart(2, '0');
  const size = Math.abs(seconds);
  return `${seconds < 0 ? '-' : '+'}${two(size / 3600)}${two((size % 3600) / 60)}${size % 60 === 0 ? '' : two(size % 60)}`;
}

const YEAR = 366 * 86_400;

const known = new WeakMap<Zone, Map<string, Component>>();

/**
 * The VTIMEZONE (RFC 5545, 3.6.5) of a zone around an event: one observance for each change of the clock from the
 * one in force at the start until two years after the end. Changes are listed one by one, not as rules, because
 * the coming years of some zones follow no rule.
 *
 * Shared by all callers that ask for the same changes: not to be altered.
 *
 * @param from first instant that must be covered, seconds since 1970
 * @param until last instant
 */
export function timezoneComponent(zone: Zone, from: number, until: number): Component {
  // A lane's events lie between the same few changes of the clock: to list these again for each took longer than all else.
  const made = known.get(zone) ?? new Map<string, Component>();
  known.set(zone, made);
  const key = `${zone.period(from).from} ${zone.period(until + 2 * YEAR).from}`;
  const component = made.get(key) ?? listChanges(zone, from, until);
  made.set(key, component);
  return component;
}

function listChanges(zone: Zone, from: number, until: number): Component {
  const observances: Component[] = [];
  let period = zone.period(from);
  let before = period.from === null ? period.offset : zone.period(period.from - 1).offset;
  for (;;) {
    const onset = period.from === null ? '1970-01-01T00:00:00' : toLocal(period.from - 1, zone);
    observances.push({
      name: period.daylight ? 'DAYLIGHT' : 'STANDARD',
      lines: [
        // The onset is said on the clock that held before it; toLocal of the second before, plus that second.
        line('DTSTART', compact(period.from === null ? onset : nextSecond(onset))),
        line('TZOFFSETFROM', utcOffset(before)),
        line('TZOFFSETTO', utcOffset(period.offset)),
        line('TZNAME', period.abbreviation),
      ],
      components: [],
    });
    if (period.until === null || period.until > until + 2 * YEAR) break;
    before = period.offset;
    period = zone.period(period.until);
  }
  return { name: 'VTIMEZONE', lines: [line('TZID', zone.name)], components: observances };
}

const nextSecond = (local: string) => Temporal.PlainDateTime.from(local).add({ seconds: 1 }).toString({ smallestUnit: 'second' });
