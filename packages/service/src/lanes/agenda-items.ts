import type { AgendaBank, AgendaItem } from '@monsoon/contract';
import { definedZoneLabel, formatWhen, spanOf, toLocal, type When, type Zone } from '@monsoon/core';
import type { App } from '../app.ts';
import { HttpProblem } from '../http/problem.ts';

/** Occurrences of one series in one answer. */
export const MOST_OF_SERIES = 400;

export const unfit = (name: string, reason: string) => new HttpProblem(422, 'The query does not fit', reason, [{ pointer: `/${name}`, reason }]);

export interface AgendaAsk {
  /** first and last day */
  from: string;
  until: string;
  zone: string;
  /** of these lanes, or of all */
  lanes?: string[] | undefined;
  /** instead: the events of a calendar */
  system?: string | undefined;
  calendar?: string | undefined;
  /** of one lane: where everything would go */
  forecast?: boolean | undefined;
  /** only how many there are on each day */
  counts?: boolean | undefined;
}

export interface Asking {
  app: App;
  zone: Zone;
  /** seconds since 1970 */
  window: { from: number; until: number };
  /** the days, one wider on each side: times are kept on the clocks of their own zones */
  days: { first: string; last: string };
}

export const within = (bank: AgendaBank | null, { from, until }: { from: number; until: number }): boolean =>
  bank !== null && bank.from < until && Math.max(bank.until, bank.from + 1) > from;
export const touches = (item: AgendaItem, span: { from: number; until: number }): boolean => within(item.record, span) || within(item.event, span);

/** When one side of an item takes place, in the zone that is asked for. */
export function bankOf(when: When | null | undefined, { app, zone }: Asking): AgendaBank | null {
  if (when == null) return null;
  const { from, until } = spanOf(when, zone, app.zones);
  if (when.kind === 'all-day') return { from, until, allDay: true, says: formatWhen(when) };
  const shown: When = { kind: 'timed', start: toLocal(from, zone), end: toLocal(until, zone), zone: null };
  // On the clock of who looks, and on its own where that is another one.
  const own =
    when.zone === null || (toLocal(from, zone) === when.start && toLocal(until, zone) === when.end)
      ? ''
      : ` (${when.start.slice(11, 16)} ${definedZoneLabel(when.zone)})`;
  return { from, until, allDay: false, says: `${formatWhen(shown)}${own}` };
}
