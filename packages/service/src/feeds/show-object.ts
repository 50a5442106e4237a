import type { FeedSettings } from '@monsoon/contract';
import {
  type Condition,
  eventItem,
  judgeCondition,
  parseCondition,
  readEvent,
  reduceObject,
  type Showing,
  UTC,
  writtenComponents,
  type ZoneTable,
} from '@monsoon/core';
import { besides, inThread, TooMuchWork, type Turns } from '@monsoon/systems';
import { HEAVY } from '../hosted/check-object.ts';

export interface Shown {
  text: string | null;
  zones: string[];
  defined: Record<string, string>;
  starts: number | null;
  ends: number | null;
}

const nothing: Shown = { text: null, zones: [], defined: {}, starts: null, ends: null };

/** What a feed shows: a value, so that a thread can work it out. */
export interface Sifting {
  settings: Pick<FeedSettings, 'shows' | 'alarms' | 'condition'>;
  /** a secret UUID under which UIDs are hidden */
  namespace: string;
  /** RFC 3339 */
  now: string;
}

/** What a feed shows of one calendar object; nothing of what cannot be read. */
export function showObject(text: string, { settings, namespace, now }: Sifting, zones: ZoneTable): Shown {
  const condition = settings.condition === null ? null : parseCondition(settings.condition).condition;
  const showing: Showing = {
    what: settings.shows,
    alarms: settings.alarms,
    namespace,
    ...(condition === null ? {} : { keep: (alone: string) => fits(condition, alone, zones, now) }),
  };
  try {
    const reduced = reduceObject(text, showing, zones);
    if (reduced === null) return nothing;
    return {
      text: writtenComponents(reduced.events, true),
      zones: [...reduced.zones],
      defined: Object.fromEntries([...reduced.defined].map(([name, definition]) => [name, writtenComponents([definition], true)])),
      starts: Math.floor(reduced.starts),
      ends: reduced.ends === null ? null : Math.ceil(reduced.ends),
    };
  } catch {
    // Other people's events: one that cannot be read costs itself alone.
    return nothing;
  }
}

const fits = (condition: Condition, text: string, zones: ZoneTable, now: string): boolean =>
  judgeCondition(condition, eventItem(readEvent(text, zones)), { now, zone: UTC, zones }).holds;

/** Seconds for one object, with the start of a thread. */
const LONGEST = 10;

/** The same, of a long text in a thread beside. What takes too long is not shown. */
export async function showApart(text: string, sifting: Sifting, zones: ZoneTable, turns: Turns): Promise<Shown> {
  if (text.length <= HEAVY) return turns.step(() => showObject(text, sifting, zones));
  return inThread<Shown>(besides(import.meta.url, 'show-in-thread'), 'showInThread', { text, sifting }, LONGEST).catch((error: unknown) => {
    if (error instanceof TooMuchWork) return nothing;
    throw error;
  });
}
