import { expandSeries, type Occurrence } from '../recurrence/expand.ts';
import { spanOf } from '../time/when.ts';
import { formatInstant, type Zone, type ZoneTable } from '../time/zones.ts';
import { instantOf } from './calendar-object.ts';
import type { TimeRange } from './calendar-query.ts';
import { type Component, type Line, lineOf, paramOf, parseComponents, UnreadableEvent, writeComponents } from './content.ts';
import { compact } from './dates.ts';
import { readWhen } from './event-times.ts';

/** Characters of an expanded object: each occurrence says again what the series says. */
const LARGEST = 5_000_000;

/** What an occurrence says for itself; the rest is the series'. */
const ofTheSeries = /^(RRULE|RDATE|EXDATE|EXRULE|DTSTART|DTEND|DURATION|RECURRENCE-ID)$/;

/**
 * A calendar object with each occurrence in a span as an event of its own, in UTC and without rules or zones
 * (RFC 4791, 9.6.5); null: none is in it.
 * @throws UnreadableEvent also where that would be too long a text
 */
export function expandObject(text: string, range: TimeRange, home: Zone, zones: ZoneTable): string | null {
  const roots = parseComponents(text);
  const [root] = roots;
  const events = root?.components.filter((c) => c.name === 'VEVENT') ?? [];
  if (root === undefined || events.length === 0) return text;
  const repeats = events.length > 1 || ['RRULE', 'RDATE', 'RECURRENCE-ID'].some((name) => events.some((e) => lineOf(e, name) !== undefined));
  const found = expandSeries(events, roots, { ...range, home }, zones);
  if (found.length === 0) return null;
  const size = found.reduce((n, { component }) => n + component.lines.reduce((m, l) => m + l.name.length + l.value.length, 0), 0);
  if (size > LARGEST) throw new UnreadableEvent(`its ${found.length} occurrences would be ${size} characters; at most ${LARGEST} are given`);
  return writeComponents([{ ...root, components: found.map((o) => alone(o, repeats)) }]);
}

function alone({ component, recurrenceId, when, from, until }: Occurrence, repeats: boolean): Component {
  const line = (name: string, value: string): Line => ({ name, params: [], value, source: null });
  const day = (name: string, value: string): Line => ({ name, params: [{ name: 'VALUE', values: ['DATE'] }], value: compact(value), source: null });
  const utc = (seconds: number) => compact(formatInstant(seconds));
  const allDay = when.kind === 'all-day';
  const id = recurrenceId.length === 8 ? day('RECURRENCE-ID', recurrenceId) : line('RECURRENCE-ID', recurrenceId);
  return {
    ...component,
    lines: [
      allDay ? day('DTSTART', when.first) : line('DTSTART', utc(from)),
      allDay ? day('DTEND', when.end) : line('DTEND', utc(until)),
      ...(repeats ? [id] : []),
      ...component.lines.filter((l) => !ofTheSeries.test(l.name)),
    ],
  };
}

/**
 * A calendar object without the overrides that change nothing in a span: that are neither in it themselves, nor would be without
 * their override (RFC 4791, 9.6.6).
 * @throws UnreadableEvent
 */
export function limitOverrides(text: string, range: TimeRange, home: Zone, zones: ZoneTable): string {
  const roots = parseComponents(text);
  const [root] = roots;
  const master = root?.components.find((c) => c.name === 'VEVENT' && lineOf(c, 'RECURRENCE-ID') === undefined);
  if (root === undefined || master === undefined) return text;
  const spanOfEvent = (event: Component) => spanOf(readWhen(event, roots, zones), home, zones);
  const { from, until } = spanOfEvent(master);
  const matters = (component: Component): boolean => {
    const id = component.name === 'VEVENT' ? lineOf(component, 'RECURRENCE-ID') : undefined;
    const original = instantOf(id, roots, zones, home);
    if (id === undefined || original === null) return true;
    const own = spanOfEvent(component);
    // One for all that follow matters for all of them.
    if (paramOf(id, 'RANGE') !== undefined) return Math.min(own.from, original) < range.until;
    return overlaps(own, range) || overlaps({ from: original, until: original + until - from }, range);
  };
  const kept = root.components.filter(matters);
  return kept.length === root.components.length ? text : writeComponents([{ ...root, components: kept }]);
}

/** RFC 4791, 9.9: a moment counts at the beginning of a span. */
const overlaps = (a: TimeRange, range: TimeRange): boolean => a.from < range.until && (a.until > range.from || a.from >= range.from);
