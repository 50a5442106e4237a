import { type Component, knownLine, type Line, lineOf } from '../ical/content.ts';
import { expand as expandDate } from '../ical/dates.ts';
import type { When } from '../time/when.ts';
import { UTC, type ZoneTable } from '../time/zones.ts';
import { clockOfSeries, onClock, type SeriesClock } from './clock-of-series.ts';
import { compactDate, compactLocal } from './clock-texts.ts';
import { datesOf } from './dates-of-series.ts';
import { formatRule, InvalidRule, parseRule, type Rule } from './rule.ts';

const DAY = 86_400;
const seconds = (local: string): number => Date.parse(`${local.length === 10 ? `${local}T00:00:00` : local}Z`) / 1000;
const startOf = (when: When): number => seconds(when.kind === 'all-day' ? when.first : when.start);

/** A stored object and the series in it. */
interface Stored {
  calendar: Component;
  event: Component;
}

const overridesOf = ({ calendar, event }: Stored): Component[] =>
  calendar.components.filter((c) => c.name === 'VEVENT' && c !== event && lineOf(c, 'RECURRENCE-ID') !== undefined);

/** What was edited of single occurrences goes with the series that it belonged to. */
export function dropOverrides(calendar: Component, event: Component): void {
  const overrides = new Set(overridesOf({ calendar, event }));
  calendar.components = calendar.components.filter((c) => !overrides.has(c));
}

/**
 * Moves everything of a series along with its start, as calendar programs do when all occurrences are dragged: the days
 * that its rules name, its added and excluded dates, and the overrides. An override that has a time of its own keeps it.
 * What gets days for times, or times for days, loses its overrides. Of a single event there is nothing to move.
 */
export function moveSeries(stored: Stored, before: When, after: When, zones: ZoneTable): void {
  const { calendar, event } = stored;
  if (lineOf(event, 'RRULE') === undefined && lineOf(event, 'RDATE') === undefined) return;
  const sameClock = before.kind === after.kind && (before.kind === 'all-day' || after.kind === 'all-day' || before.zone === after.zone);
  const moved = startOf(after) - startOf(before);
  for (const line of event.lines.filter((l) => l.name === 'RRULE')) {
    const value = movedRule(line.value, startOf(before), startOf(after));
    if (value !== line.value) Object.assign(line, { value, source: null });
  }
  const start = knownLine(event, 'DTSTART');
  // Dates are read by the clock that they were written for.
  const was = { ...event, lines: event.lines.map((l) => (l === start ? asLine(before, start) : l)) };
  for (const name of ['RDATE', 'EXDATE'] as const) {
    const lines = event.lines.filter((l) => l.name === name);
    if (lines.length === 0 || (moved === 0 && sameClock)) continue;
    const dates = datesOf(was, name, { roots: [calendar], zones }).map((d) => dateLike(d.wall + moved, start));
    const params = start.params.filter((p) => p.name === 'TZID' || p.name === 'VALUE');
    const at = event.lines.findIndex((l) => l.name === name);
    event.lines = event.lines.filter((l) => !lines.includes(l));
    event.lines.splice(at, 0, { name, params, value: dates.join(','), source: null });
  }
  if (before.kind !== after.kind) dropOverrides(calendar, event);
  else if (!sameClock) {
    const clock = clockOfSeries(was, { roots: [calendar], zones, home: UTC });
    for (const override of overridesOf(stored)) toOtherClock(override, clock, moved, start);
  } else if (moved !== 0) for (const override of overridesOf(stored)) moveOverride(override, moved);
}

/** The start as it was, for dates that were written beside it. */
function asLine(when: When, line: Line): Line {
  if (when.kind === 'all-day') return { ...line, params: [{ name: 'VALUE', values: ['DATE'] }], value: compactDate(seconds(when.first)) };
  const utc = when.zone === 'UTC';
  const params = when.zone === null || utc ? [] : [{ name: 'TZID', values: [when.zone] }];
  return { ...line, params, value: `${compactLocal(seconds(when.start))}${utc ? 'Z' : ''}` };
}

const dateLike = (wall: number, { value }: Line): string =>
  /^\d{8}$/.test(value.trim()) ? compactDate(wall) : `${compactLocal(wall)}${/Z$/i.test(value.trim()) ? 'Z' : ''}`;

/** An override of a series that goes by another clock now. @param clock of before @param moved from the one clock to the other, in seconds */
function toOtherClock(override: Component, clock: SeriesClock, moved: number, start: Line): void {
  const id = knownLine(override, 'RECURRENCE-ID');
  const wallOf = (line: Line) => onClock(line, line.value, clock);
  const own = lineOf(override, 'DTSTART');
  const end = lineOf(override, 'DTEND');
  const asTheSeries = own !== undefined && wallOf(own) === wallOf(id);
  for (const line of [id, ...(asTheSeries ? [own, ...(end === undefined ? [] : [end])] : [])]) {
    const params = [...start.params.filter((p) => p.name === 'TZID'), ...line.params.filter((p) => p.name !== 'TZID')];
    Object.assign(line, { params, value: dateLike(wallOf(line) + moved, start), source: null });
  }
}

function moveOverride(override: Component, moved: number): void {
  const id = knownLine(override, 'RECURRENCE-ID');
  const start = lineOf(override, 'DTSTART');
  const asTheSeries = start !== undefined && start.value.trim() === id.value.trim();
  for (const line of override.lines) {
    const isTime = line.name === 'RECURRENCE-ID' || (asTheSeries && (line.name === 'DTSTART' || line.name === 'DTEND'));
    if (!isTime) continue;
    const text = expandDate(line.value).replace('Z', '');
    Object.assign(line, { value: dateLike(seconds(text) + moved, line), source: null });
  }
}

/** A rule whose days go by another start. @param before, after on the wall clock, in seconds */
export function movedRule(text: string, before: number, after: number): string {
  let rule: Rule;
  try {
    rule = parseRule(text);
  } catch (error) {
    if (error instanceof InvalidRule) return text;
    throw error;
  }
  const days = Math.floor(after / DAY) - Math.floor(before / DAY);
  const [from, to] = [new Date(before * 1000), new Date(after * 1000)];
  const moved: Rule = { ...rule };
  const [only] = rule.days;
  const follows = (values: number[], was: number, is: number) => (values.length === 1 && values[0] === was ? [is] : values);
  if (rule.frequency === 'WEEKLY') moved.days = rule.days.map((d) => ({ ...d, day: (((d.day + days) % 7) + 7) % 7 }));
  else if (only !== undefined && rule.days.length === 1 && days !== 0) moved.days = [nthOf(only.nth, to)];
  moved.monthDays = follows(rule.monthDays, from.getUTCDate(), to.getUTCDate());
  moved.months = follows(rule.months, from.getUTCMonth() + 1, to.getUTCMonth() + 1);
  moved.hours = follows(rule.hours, from.getUTCHours(), to.getUTCHours());
  moved.minutes = follows(rule.minutes, from.getUTCMinutes(), to.getUTCMinutes());
  if (rule.until !== null) {
    const utc = rule.until.endsWith('Z') ? 'Z' : '';
    const at = seconds(expandDate(rule.until).replace('Z', ''));
    moved.until = rule.until.length === 8 ? compactDate(at + days * DAY) : `${compactLocal(at + after - before)}${utc}`;
  }
  const formatted = formatRule(moved);
  return formatted === formatRule(rule) ? text : formatted;
}

/** The weekday of a date, and which of its month it is: counted from the end where the rule did so, as far as that is true. */
function nthOf(nth: number, date: Date): { day: number; nth: number } {
  const day = (date.getUTCDay() + 6) % 7;
  if (nth === 0) return { day, nth };
  const left = new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + 1, 0)).getUTCDate() - date.getUTCDate();
  return { day, nth: nth < 0 && left < 7 ? -1 : Math.ceil(date.getUTCDate() / 7) };
}
