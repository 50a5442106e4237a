import { parseLane } from '@monsoon/core';
import type { History } from './history.ts';
import { play } from './play.ts';
import { type Exact, playExact } from './reference/exact.ts';
import { playSeries, type SeriesHistory } from './series/play.ts';
import type { Played } from './transcript.ts';

/** A history of any kind, as a file keeps it. */
export type AnyHistory = Exact | History | SeriesHistory;

export async function playAny(history: AnyHistory): Promise<{ played: Played }> {
  if ('series' in history) return playSeries(history.series, undefined, history.takes, history.forms);
  // Kept before a setting came, a lane gets its default.
  if (!('acts' in history)) return play({ ...history, setting: { ...history.setting, lane: parseLane(history.setting.lane) } });
  return playExact({ ...history, lane: parseLane(history.lane), ...(history.other === undefined ? {} : { other: parseLane(history.other) }) });
}
