import { type Component, type Line, UnreadableEvent } from '../ical/content.ts';
import type { When } from '../time/when.ts';
import type { ZoneTable } from '../time/zones.ts';
import { expandSeries, nextStart, type Occurrence, type Window } from './expand.ts';
import { writeRecurrence } from './recurrence.ts';
import { InvalidRule } from './rule.ts';

/** A series by its values, without a text. */
export interface SeriesValues {
  /** of the first occurrence */
  when: When;
  /** see `Recurrence` */
  recurrence: string;
}

const compact = (text: string): string => text.replace(/[-:]/g, '');

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
      : line(name, `${compact(local)}${when.zone === 'UTC' ? 'Z' : ''}`, when.zone === null || when.zone === 'UTC' ? undefined : ['TZID', when.zone]);
  const event: Component = {
    name: 'VEVENT',
    lines: [at('DTSTART', when.kind === 'all-day' ? when.first : when.start), at('DTEND', when.end)],
    components: [],
  };
  writeRecurrence(event, recurrence, { roots: [], zones });
  return event;
}

/** The occurrences of a series in a window. @throws InvalidRule, UnreadableEvent */
export const occurrencesOfValues = (series: SeriesValues, window: Window, zones: ZoneTable): Occurrence[] =>
  expandSeries([componentOf(series, zones)], [], window, zones);

/** Does a series occur in a window, and when does it next begin after it? What cannot be expanded is taken to occur: its own reader says what is wrong. */
export function occursWithin(series: SeriesValues, window: Window, zones: ZoneTable): { occurs: boolean; next: number | null } {
  try {
    const event = componentOf(series, zones);
    if (expandSeries([event], [], window, zones).length > 0) return { occurs: true, next: null };
    return { occurs: false, next: nextStart([event], [], window, zones) };
  } catch (error) {
    if (error instanceof InvalidRule || error instanceof UnreadableEvent) return { occurs: true, next: null };
    throw error;
  }
}
