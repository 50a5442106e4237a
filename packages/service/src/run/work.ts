import type { LaneContext } from '@monsoon/core';
import type { Calendars, Records } from '@monsoon/systems';
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
