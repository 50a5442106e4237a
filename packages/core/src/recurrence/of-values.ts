import { type Component, type Line, UnreadableEvent } from '../ical/content.ts';
import { compact } from '../ical/dates.ts';
import type { When } from '../time/when.ts';
import type { ZoneTable } from '../time/zones.ts';
import { expandSeries, nextStart, type Window } from './expand.ts';
import { writeRecurrence } from './recurrence.ts';

/** A series by its values, without a text. */
export interface SeriesValues {
  /** of the first occurrence */
  when: When;
  /** see `Recurrence` */
  recurrence: string;
}

/** The value's own zone, which may be one that a text defined: no text may name it so. */
const OWN = 'the zone of the series';

function withOwnZone({ when }: SeriesValues, zones: ZoneTable): ZoneTable {
  const own = when.kind === 'all-day' || when.zone === null ? undefined : zones.find(when.zone);
  return { version: zones.version, find: (name) => (name === OWN ? own : zones.find(name)) };
}

function componentOf({ when, recurrence }: SeriesValues, zones: ZoneTable): Component {
  const line = (name: string, value: string, param?: [string, string]): Line => ({
    name,
    params: param === undefined ? [] : [{ name: param[0], values: [param[1]] }],
    value,
    source: null,
  });
  const at = (name: string, local: string): Line =>
    when.kind === 'all-day'
      ? line(name, compact(local), ['VALUE', 'DATE'])
      : line(name, `${compact(local)}${when.zone === 'UTC' ? 'Z' : ''}`, when.zone === null || when.zone === 'UTC' ? undefined : ['TZID', OWN]);
  const event: Component = {
    name: 'VEVENT',
    lines: [at('DTSTART', when.kind === 'all-day' ? when.first : when.start), at('DTEND', when.end)],
    components: [],
  };
  writeRecurrence(event, recurrence, { roots: [], zones });
  return event;
}

/** The times of a series in a window, in their order. @throws UnreadableEvent */
export function occurrencesOfValues(series: SeriesValues, window: Window, zones: ZoneTable): When[] {
  const own = withOwnZone(series, zones);
  // Only the text of the series knows this name for its zone.
  const named = (when: When): When => (when.kind === 'timed' && series.when.kind === 'timed' ? { ...when, zone: series.when.zone } : when);
  return expandSeries([componentOf(series, own)], [], window, own).map((o) => named(o.when));
}

/** Does a series occur in a window, and when does it next begin after it? What cannot be expanded is taken to occur: its own reader says what is wrong. */
export function occursWithin(series: SeriesValues, window: Window, zones: ZoneTable): { occurs: boolean; next: number | null } {
  try {
    const own = withOwnZone(series, zones);
    const event = componentOf(series, own);
    if (expandSeries([event], [], window, own).length > 0) return { occurs: true, next: null };
    return { occurs: false, next: nextStart([event], [], window, own) };
  } catch (error) {
    if (error instanceof UnreadableEvent) return { occurs: true, next: null };
    throw error;
  }
}
