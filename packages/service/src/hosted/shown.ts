import { reducedText, reduceObject, type ZoneTable } from '@monsoon/core';
import type { HostedObject } from './objects.ts';
import type { Sight } from './rights.ts';

/** Seconds around an event for which its zones are said. */
const YEAR = 366 * 86_400;
const BUSY = '-busy"';

type Facts = Pick<HostedObject, 'etag' | 'isPrivate' | 'isBusy'>;

/** How a person sees an object: as it is, as taken time, or not at all. */
export function seenAs(object: Pick<Facts, 'isPrivate' | 'isBusy'>, sight: Sight): 'whole' | 'busy' | 'hidden' {
  if (sight === 'all' || (sight === 'public' && !object.isPrivate)) return 'whole';
  // Of an object that is private in part, the rest shows as it is: that, too, is another text than the stored one.
  return object.isBusy ? 'busy' : 'hidden';
}

/** Another text has another ETag. */
export function shownEtag(object: Facts, sight: Sight): string {
  return seenAs(object, sight) === 'whole' ? object.etag : `${object.etag.slice(0, -1)}${BUSY}`;
}

/** The ETag of the stored text behind one that was shown. */
export const storedEtag = (etag: string): string => (etag.endsWith(BUSY) ? `${etag.slice(0, -BUSY.length)}"` : etag);

/**
 * An object's text as a person sees it; null: nothing of it. @param namespace hides UIDs: the calendar's id
 */
export function shownText(object: Facts & { text: string; component?: string }, sight: Sight, namespace: string, zones: ZoneTable): string | null {
  const seen = seenAs(object, sight);
  if (seen === 'whole') return object.text;
  if (seen === 'hidden') return null;
  const reduced = reduceObject(object.text, { what: sight === 'busy' ? 'busy only' : 'full', alarms: false, namespace }, zones);
  if (reduced === null) return null;
  const now = Date.now() / 1000;
  return reducedText(reduced, zones, now - YEAR, now + 5 * YEAR);
}
