import type { LaneContext } from '@monsoon/core';
import type { Calendars, Records } from '@monsoon/systems';
import { OccurrenceCalendars } from './occurrences.ts';
import type { RunStore } from './store.ts';

export interface Sides {
  records: Records;
  calendars: Calendars;
}

/** What every look at the two sides of a lane needs: a run, a forecast, an audit, an undo, a stop. */
export interface Work {
  context: LaneContext;
  sides: Sides;
  store: RunStore;
  signal: AbortSignal;
}

/** The same, with the calendar's series taken apart. */
export interface OpenWork extends Work {
  sides: { records: Records; calendars: OccurrenceCalendars };
}

/** Everything that looks at a lane or writes for it sees the occurrences of series as events of their own. */
export function openWork<W extends Work>(work: W): W & OpenWork {
  const { context, sides, store } = work;
  const { calendars } = sides;
  const apart = calendars instanceof OccurrenceCalendars ? calendars : new OccurrenceCalendars(calendars, context, store);
  return { ...work, sides: { ...sides, calendars: apart } };
}
