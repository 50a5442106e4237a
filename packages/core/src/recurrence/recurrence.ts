import { type Component, knownLine, type Line, lineOf, setLine, UnreadableEvent } from '../ical/content.ts';
import { compact, expand as expandDate } from '../ical/dates.ts';
import { readClock } from '../ical/event-times.ts';
import { formatInstant, toInstant, toLocal, type ZoneTable } from '../time/zones.ts';
import { compactDate, compactLocal } from './clock-texts.ts';
import { datesOf } from './dates-of-series.ts';
import { formatRecurrence, parseRecurrence, recurrenceKinds, recurrenceLines } from './recurrence-text.ts';
import { formatRule, parseRule, type Rule } from './rule.ts';

interface Reading {
  roots: Component[];
  zones: ZoneTable;
}

/** How a stored event repeats; null: it does not. A rule that is not legal stays as it is written. */
export function readRecurrence(event: Component, at: Reading): string | null {
  const start = lineOf(event, 'DTSTART');
  const rules = event.lines.filter((l) => l.name === 'RRULE');
  if (start === undefined || (rules.length === 0 && lineOf(event, 'RDATE') === undefined)) return null;
  try {
    const days = (name: 'RDATE' | 'EXDATE') => [...new Set(datesOf(event, name, at).map((d) => dateText(d)))];
    return formatRecurrence({
      rules: rules.map((l) => ruleText(l.value, (until) => lastDay(until, start, at))),
      added: days('RDATE'),
      excluded: days('EXDATE'),
    });
  } catch (error) {
    if (error instanceof UnreadableEvent) return rules.map((l) => `RRULE:${l.value.trim()}`).join('\n');
    throw error;
  }
}

const dateText = ({ wall, atStart, until }: { wall: number; atStart: boolean; until: number | null }): string =>
  `${atStart ? compactDate(wall) : compactLocal(wall)}${until === null ? '' : `/${compactLocal(until)}`}`;

const byTheDay = ({ frequency }: Rule): boolean => ['DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'].includes(frequency);

/** @param last the day until which the rule goes, of what it says itself */
function ruleText(text: string, last: (until: string) => string): string {
  const rule = parseRule(text);
  return formatRule(rule.until !== null && byTheDay(rule) ? { ...rule, until: last(rule.until) } : rule);
}

/** The last day on which an occurrence may begin. */
function lastDay(until: string, start: Line, at: Reading): string {
  const text = expandDate(until);
  if (text.length === 10) return until;
  const days = /^\d{8}$/.test(start.value.trim());
  const clock = days ? { local: `${expandDate(start.value)}T00:00:00`, zone: null } : readClock(start, at.roots, at.zones);
  const local = text.endsWith('Z') && clock.zone !== null ? toLocal(Date.parse(text) / 1000, clock.zone) : text.replace('Z', '');
  const early = local.slice(11) < clock.local.slice(11);
  return compactDate(Date.parse(`${local.slice(0, 10)}T00:00:00Z`) / 1000 - (early ? 86_400 : 0));
}

/** A rule that a person wrote, in its normal form. @throws InvalidRule */
export const normalRule = (text: string): string => ruleText(text, (until) => until.slice(0, 8));

/** Makes an event repeat in this way; what it says of it already in other words stays as it is written. */
export function writeRecurrence(event: Component, value: string | null, at: Reading): void {
  const wanted = parseRecurrence(value);
  const now = parseRecurrence(readRecurrence(event, at));
  const start = knownLine(event, 'DTSTART');
  for (const kind of recurrenceKinds) {
    if (String([...wanted[kind]].sort()) === String([...now[kind]].sort())) continue;
    setLine(event, recurrenceLines[kind], null);
    const [first] = wanted[kind];
    if (first === undefined) continue;
    const like = start.params.filter((p) => p.name === 'TZID' || p.name === 'VALUE');
    const line = (text: string): Line =>
      kind === 'rules'
        ? { name: recurrenceLines[kind], params: [], value: ruleText(text, (until) => endOfDay(until, start, at)), source: null }
        : {
            name: recurrenceLines[kind],
            params: text.includes('/') ? [...like, { name: 'VALUE', values: ['PERIOD'] }] : like,
            value: dateValue(text, start),
            source: null,
          };
    event.lines.push(...wanted[kind].map(line));
  }
}

/** UNTIL in the form that its series needs (RFC 5545, 3.3.10): a day for days, an instant for times of a zone. */
function endOfDay(until: string, start: Line, at: Reading): string {
  if (/^\d{8}$/.test(start.value.trim()) || until.length > 8) return until;
  const local = `${expandDate(until)}T23:59:59`;
  const { zone } = readClock(start, at.roots, at.zones);
  if (zone === null) return compactLocal(Date.parse(`${local}Z`) / 1000);
  return compact(formatInstant(toInstant(local, zone).instant));
}

/** A date in the form of the start. */
function dateValue(text: string, start: Line): string {
  const time = /T\d{6}Z?$/i.exec(start.value.trim())?.[0] ?? '';
  const z = time.endsWith('Z') ? 'Z' : '';
  return text
    .split('/')
    .map((part) => (part.length === 8 ? `${part}${time}` : `${part}${z}`))
    .join('/');
}
