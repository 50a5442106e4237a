import { hideUids, reducedText, reduceObject, type ZoneTable } from '@monsoon/core';
import type { HostedObject } from './objects.ts';
import type { Sight } from './rights.ts';

/** Seconds around an event for which its zones are said. */
const YEAR = 366 * 86_400;

type Facts = Pick<HostedObject, 'isPrivate' | 'isBusy'>;

/** How a person sees an object: as it is, as taken time, or not at all. */
export function seenAs(object: Facts, sight: Sight): 'whole' | 'busy' | 'hidden' {
  if (sight === 'all' || (sight === 'public' && !object.isPrivate)) return 'whole';
  // Of an object that is private in part, the rest shows as it is: that, too, is another text than the stored one.
  return object.isBusy ? 'busy' : 'hidden';
}

/**
 * An object's text as a person sees it; null: nothing of it. Who does not see everything gets other UIDs: one may say what a private
 * event is. @param namespace a secret UUID under which UIDs are hidden
 */
export function shownText(object: Facts & { text: string; component?: string }, sight: Sight, namespace: string, zones: ZoneTable): string | null {
  if (sight === 'all') return object.text;
  const seen = seenAs(object, sight);
  if (seen === 'hidden') return null;
  if (seen === 'whole') return hideUids(object.text, namespace);
  const what = sight === 'busy' ? 'busy only' : 'full';
  const reduced = reduceObject(object.text, { what, alarms: false, namespace, uids: 'hidden' }, zones);
  if (reduced === null) return null;
  const now = Date.now() / 1000;
  return reducedText(reduced, zones, now - YEAR, now + 5 * YEAR);
}
