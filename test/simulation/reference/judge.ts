import type { LaneDefinition } from '@monsoon/core';
import { addDays, londonDay, londonInstant } from './clock.ts';
import { holds } from './conditions.ts';
import { type Link, type Moment, showAll } from './links.ts';
import type { Fields } from './maps.ts';
import { type EventSeen, isDays, isEmpty, type Value, type When } from './values.ts';

/** The lane in question. */
export const OWN = '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11';
const startOf = (line: string): number => (line.length === 10 ? londonInstant(line, '00:00') : Date.parse(line) / 1000);

/** The lane, and when it looks, in seconds since 1970. */
export interface Look {
  lane: LaneDefinition;
  now: number;
}

/** Why a record does not belong, or null. @param created since when it is there; null: not known */
export function judgeRecord({ lane, now }: Look, fields: Fields, created: number | null, moment: Moment, links: Link[]): string | null {
  if (lane.direction === '<-') return null;
  const when = moment.when as Record<string, string>;
  const dated = when['start'] ?? when['date'] ?? when['first'] ?? when['day'] ?? when['due'];
  if (moment.direction !== '<-' && moment.direction !== 'once' && isEmpty(fields[dated!] as Value)) return 'no date';
  for (const filter of [lane.filter, moment.filter ?? null]) if (filter !== null && !holds(filter, fields, now)) return 'filtered out';
  if (lane.private?.treat === 'leave out' && fields[lane.private.field] === true) return 'private';
  if (lane.startLine !== null && (created === null || created < startOf(lane.startLine))) return 'before the start line';
  const shown = showAll(links, fields);
  if (shown.unfit.some((l) => l.key === 'when')) return 'unfit value';
  return judgeWindow({ lane, now }, (shown.values['when'] ?? null) as When | null);
}

/** Why an event does not belong where events become records, or null. @param paired it has its record already */
export function judgeEvent({ lane, now }: Look, event: EventSeen, paired: boolean): string | null {
  if (!paired && lane.events.otherLanes === 'leave out' && event.marked !== null && event.marked !== OWN) return 'made by another lane';
  const when = event.values['when'] as When;
  const item: Fields = {
    ...event.values,
    start: isDays(when) ? londonInstant(when.first, '00:00') : when.from,
    'all-day': isDays(when),
    repeating: event.repeats,
    private: event.values['visibility'] !== 'public',
  };
  if (lane.events.filter !== null && !holds(lane.events.filter, item, now)) return 'filtered out';
  const carried = [lane.fields.visibility, ...lane.moments.map((m) => m.fields?.visibility)].some((m) => m !== undefined);
  if (lane.events.private === 'leave out' && !carried && event.values['visibility'] !== 'public') return 'private';
  if (paired) return null;
  if (lane.events.repeating === 'leave out' && event.repeats) return 'repeating';
  if (lane.startLine !== null && (event.created ?? 0) < startOf(lane.startLine)) return 'before the start line';
  if (event.values['status'] === 'cancelled') return 'filtered out';
  return judgeWindow({ lane, now }, when, event.repeats);
}

/** A window is of days in London. @param repeats every week, four times, as people make it here */
export function judgeWindow({ lane, now }: Look, when: When | null, repeats = false): string | null {
  if (lane.window === null || when === null) return null;
  if (repeats) {
    const week = (w: number): When =>
      isDays(when)
        ? { first: addDays(when.first, 7 * w), end: addDays(when.end, 7 * w) }
        : { ...when, from: when.from + 604_800 * w, until: when.until + 604_800 * w };
    return [0, 1, 2, 3].every((w) => judgeWindow({ lane, now }, week(w)) !== null) ? 'out of the window' : null;
  }
  const today = londonDay(now);
  const from = londonInstant(addDays(today, -lane.window.behind), '00:00');
  const until = londonInstant(addDays(today, lane.window.ahead + 1), '00:00');
  const span = isDays(when) ? { from: londonInstant(when.first, '00:00'), until: londonInstant(when.end, '00:00') } : when;
  return Math.max(span.until, span.from + 1) <= from || span.from >= until ? 'out of the window' : null;
}
