import { isFollowed, type Pair, placeOf, type Refused } from '@monsoon/core';
import { storableEvents } from './names.ts';
import type { RunStore } from './store.ts';
import type { Work } from './work.ts';

/** What an incremental look at a calendar finds. */
export interface ChangedEvents {
  /** where to go on next time; undefined: where one was */
  cursor: string | null | undefined;
  /** was everything listed, and not only what changed? */
  whole: boolean;
  /** followed pairs whose event is not as it was last agreed on, or was not listed where everything should be */
  touched: Pair[];
  /** events that no pair speaks of */
  unknown: string[];
  /** was an event said to be gone, or not listed where everything was? */
  gone(href: string): boolean;
  /** the calendar is another one than the cursor came from */
  replaced: boolean;
  /** how many events stood there when they were last seen, where everything was listed, and none of them was */
  lost: number;
  /** events whose address cannot be kept */
  refused: Refused[];
}

const stands = ({ state, recordId }: Pair): boolean => (state === 'in sync' || state === 'held') && recordId !== null;

/** Share of a lane's pairs from which on a list of changes is taken for a listing. */
const NEARLY_ALL = 0.8;

/** @throws OutsideError */
export async function changedEvents({ context, sides: { calendars }, store, signal }: Work, cursor: string | null): Promise<ChangedEvents> {
  const { calendar } = context.definition.calendar;
  const found: ChangedEvents = {
    cursor: undefined,
    whole: false,
    touched: [],
    unknown: [],
    gone: () => false,
    replaced: false,
    lost: 0,
    refused: [],
  };
  const etags = new Map<string, string | null>();
  const removed: string[] = [];
  for await (const page of storableEvents(calendars.changes(calendar, cursor, signal), found.refused)) {
    if (page.cursor !== undefined) found.cursor = page.cursor;
    found.whole = page.complete;
    found.replaced ||= page.replaced === true;
    for (const { href, etag } of page.changed) etags.set(href, etag);
    for (const href of page.removed) removed.push(href);
  }
  const objects = new Set([...etags.keys()].map((href) => placeOf(href).object));
  const known = new Set<string>();
  const gone = new Set(removed);
  let [standing, listed] = [0, 0];
  const look = (pairs: Pair[]) => {
    for (const pair of pairs) {
      if (pair.href === null) continue;
      known.add(pair.href);
      if (stands(pair)) standing++;
      if (stands(pair) && objects.has(placeOf(pair.href).object)) listed++;
      // The same ETag is the same content: our own writes come back this way and are no news. What ends a question is.
      const news = (etags.get(pair.href) ?? null) !== (pair.etag ?? undefined) || pair.state === 'held';
      if (isFollowed(pair) && news) found.touched.push(pair);
    }
  };
  if (found.whole || (await isNearlyAll(etags.size, store))) for await (const pairs of store.allPairs()) look(pairs);
  else look(await store.pairs({ hrefs: [...etags.keys(), ...removed] }));
  found.gone = (href) => (found.whole ? !etags.has(href) : gone.has(href));
  if (found.whole && listed === 0) found.lost = standing;
  for (const href of etags.keys()) if (!known.has(href)) found.unknown.push(href);
  return found;
}

/**
 * Some servers answer a token that they have forgotten with everything, and with no word of what was deleted. So many
 * changes at once are taken for a listing: what it lacks is looked at directly.
 */
async function isNearlyAll(changed: number, store: RunStore): Promise<boolean> {
  const most = Math.floor(changed / NEARLY_ALL);
  return changed > 0 && (await store.countPairs(most + 1)) <= most;
}
