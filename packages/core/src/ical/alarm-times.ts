import { expandSeries } from '../recurrence/expand.ts';
import { clockToInstant, instantToClock, type Zone, type ZoneTable } from '../time/zones.ts';
import { instantOf, utcSeconds } from './calendar-object.ts';
import { type Component, lineOf, paramOf, UnreadableEvent } from './content.ts';
import { lengthOf } from './event-times.ts';

const DAY = 86_400;
/** No alarm goes off again more often: what follows is a slip of its writer. */
const MOST_REPEATS = 10_000;

/** What alarms belong to: one of the components of an object, and all of them, with the texts around them. */
export interface AlarmOwner {
  component: Component;
  /** the components of its name in the object, itself too */
  all: Component[];
  roots: Component[];
  zones: ZoneTable;
  /** of days and floating times */
  home: Zone;
  /** occurrences that are looked at; an object with more fails with InvalidRule */
  most: number;
}

/** When an alarm goes off first (RFC 5545, 3.8.6.3): at a time, or so long after the start or the end of what it belongs to. */
type Trigger = { at: number } | { after: 'start' | 'end'; days: number; seconds: number };

/**
 * Does an alarm go off in a span (RFC 4791, 9.9, for VALARM)? An alarm that cannot be read never does.
 * @param from, until seconds since 1970: at `from` counts, at `until` does not
 */
export function goesOff(alarm: Component, owner: AlarmOwner, { from, until }: { from: number; until: number }): boolean {
  const trigger = triggerOf(alarm);
  if (trigger === null) return false;
  const { every, times } = repeatOf(alarm);
  const isInside = (first: number): boolean => {
    // The first of its times at or after the beginning of the span.
    const n = every === 0 ? 0 : Math.min(times, Math.max(0, Math.ceil((from - first) / every)));
    const time = first + n * every;
    return time >= from && time < until;
  };
  if ('at' in trigger) return isInside(trigger.at);
  // A day more on each side: of days that are longer or shorter than others.
  const offset = trigger.days * DAY + trigger.seconds;
  const window = { from: from - offset - every * times - DAY, until: until - offset + DAY };
  return spansOf(owner, window).some((span) => {
    const zone = span.zone ?? owner.home;
    const base = trigger.after === 'start' ? span.from : span.until;
    const day = trigger.days === 0 ? base : clockToInstant(instantToClock(base, zone) + trigger.days * DAY, zone).instant;
    return isInside(day + trigger.seconds);
  });
}

function triggerOf(alarm: Component): Trigger | null {
  const line = lineOf(alarm, 'TRIGGER');
  if (line === undefined) return null;
  const text = line.value.trim();
  const at = utcSeconds(text);
  if (at !== null) return { at };
  try {
    const sign = text.startsWith('-') ? -1 : 1;
    const { days, seconds } = lengthOf(text.replace(/^[+-]/, ''));
    return { after: paramOf(line, 'RELATED')?.toUpperCase() === 'END' ? 'end' : 'start', days: sign * days, seconds: sign * seconds };
  } catch (error) {
    if (error instanceof UnreadableEvent) return null;
    throw error;
  }
}

/** How often an alarm goes off again after the first time, and after how many seconds each (RFC 5545, 3.8.6.2). */
function repeatOf(alarm: Component): { every: number; times: number } {
  const times = Number(lineOf(alarm, 'REPEAT')?.value.trim() ?? 0);
  const length = lineOf(alarm, 'DURATION')?.value;
  if (length === undefined || !Number.isInteger(times) || times < 1) return { every: 0, times: 0 };
  try {
    const { days, seconds } = lengthOf(length);
    return { every: days * DAY + seconds, times: Math.min(times, MOST_REPEATS) };
  } catch (error) {
    if (error instanceof UnreadableEvent) return { every: 0, times: 0 };
    throw error;
  }
}

/** When an owner is: each occurrence for which an event speaks, or the one time of a task. */
function spansOf({ component, all, roots, zones, home, most }: AlarmOwner, window: { from: number; until: number }) {
  if (component.name === 'VTODO') {
    const [start, due] = [instantOf(lineOf(component, 'DTSTART'), roots, zones, home), instantOf(lineOf(component, 'DUE'), roots, zones, home)];
    const length = lineOf(component, 'DURATION')?.value;
    const { days, seconds } = lengthOf(length ?? 'PT0S');
    const from = start ?? due;
    return from === null ? [] : [{ from, until: due ?? from + days * DAY + seconds, zone: null }];
  }
  return expandSeries(all, roots, { ...window, home, most }, zones)
    .filter((o) => o.component === component)
    .map(({ from, until, when }) => ({ from, until, zone: when.kind === 'timed' && when.zone !== null ? (zones.find(when.zone) ?? null) : null }));
}
