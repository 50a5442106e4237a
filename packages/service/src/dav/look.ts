import {
  type Busy,
  busyTimes,
  type ComponentFilter,
  expandObject,
  limitOverrides,
  matchesFilter,
  type Selection,
  selectParts,
  type TimeRange,
  UTC,
  type ZoneTable,
} from '@monsoon/core';
import { besides, inThread, TooMuchWork, type Turns } from '@monsoon/systems';
import { HEAVY } from '../hosted/check-object.ts';
import type { HostedObject } from '../hosted/objects.ts';
import type { Sight } from '../hosted/rights.ts';
import { shownText } from '../hosted/shown.ts';

/** What a report wants of the text of each object: a value, so that a thread can do it. */
export interface Look {
  sight: Sight;
  /** a secret UUID under which UIDs are hidden */
  namespace: string;
  /** IANA name of the zone of days and floating times */
  home: string;
  filter: ComponentFilter | null;
  /** which text is given; null: none */
  data: { expand: TimeRange | null; limit: TimeRange | null; parts: Selection | null } | null;
  /** when it is busy in a span; null: not asked */
  busy: TimeRange | null;
}

/** What is seen of one object. */
export interface Seen {
  /** may the reader see anything of it, and does it match? */
  isFound: boolean;
  text: string | null;
  /** why there is no text, though it was asked for */
  trouble: string | null;
  busy: Busy[];
}

const nothing: Seen = { isFound: false, text: null, trouble: null, busy: [] };

/** Looks into one object. What cannot be read matches nothing: a rule that is refused today may have been stored once. */
export function lookInto(object: HostedObject, look: Look, zones: ZoneTable): Seen {
  const home = zones.find(look.home) ?? UTC;
  const { filter, data, busy } = look;
  if (busy !== null) return { ...nothing, isFound: true, busy: attempt(() => busyTimes(object.text, busy, home, zones)) ?? [] };
  const shown = shownText(object, look.sight, look.namespace, zones);
  if (shown === null) return nothing;
  if (filter !== null && attempt(() => matchesFilter(filter, shown, home, zones)) !== true) return nothing;
  if (data === null) return { ...nothing, isFound: true };
  try {
    const within =
      data.expand !== null
        ? (expandObject(shown, data.expand, home, zones) ?? shown)
        : data.limit === null
          ? shown
          : limitOverrides(shown, data.limit, home, zones);
    return { ...nothing, isFound: true, text: data.parts === null ? within : selectParts(within, data.parts) };
  } catch (error) {
    return { ...nothing, isFound: true, trouble: (error as Error).message };
  }
}

function attempt<T>(work: () => T): T | null {
  try {
    return work();
  } catch {
    return null;
  }
}

/** Seconds for one object, with the start of a thread. */
const LONGEST = 10;

/** Alarms are looked for at each occurrence. */
const asksForAlarms = ({ range, name, components }: ComponentFilter): boolean =>
  (name === 'VALARM' && range !== null) || components.some(asksForAlarms);

/** Needs it no reading? Then nothing is worked out. */
const isPlain = ({ sight, filter, data, busy }: Look): boolean =>
  sight === 'all' && filter === null && busy === null && (data === null || (data.expand ?? data.limit ?? data.parts) === null);

/** The same, where it may take long in a thread beside. @throws TookTooLong when the time of the request is used up */
export async function lookAt(object: HostedObject, look: Look, zones: ZoneTable, turns: Turns): Promise<Seen> {
  const isHeavy = object.text.length > HEAVY || (look.filter !== null && asksForAlarms(look.filter));
  if (!isHeavy || isPlain(look)) return turns.step(() => lookInto(object, look, zones));
  await turns.step(() => undefined);
  try {
    const { seen, took } = await inThread<{ seen: Seen; took: number }>(
      besides(import.meta.url, 'look-in-thread'),
      'lookInThread',
      { object, look },
      LONGEST,
    );
    turns.spend(took);
    return seen;
  } catch (error) {
    if (!(error instanceof TooMuchWork)) throw error;
    turns.spend(1000 * LONGEST);
    return { ...nothing, trouble: error.message };
  }
}
