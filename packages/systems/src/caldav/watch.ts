import { setTimeout as pause } from 'node:timers/promises';
import type { Dav } from './dav.ts';
import { withSlash } from './hrefs.ts';
import { DAV } from './multistatus.ts';

const CTAG = '{http://calendarserver.org/ns/}getctag';

/** Of the time, at most a fifth goes into looking: on a server where a look takes long, looks are further apart. */
const SHARE = 5;

/**
 * Looks at all calendars of the account with one call for each home, again and again, and reports which changed: CalDAV
 * has no way to be told. The tag of a whole calendar (getctag), which several programs share, is cheap where it is
 * known; the sync-token (RFC 6578, 4) says the same, and some servers write a file each time they are asked for it.
 *
 * @param every seconds between two looks
 * @param changed hears the href of each calendar that is not as it was
 * @returns how to stop
 */
export function watchCalendars(
  dav: Dav,
  homes: (signal: AbortSignal) => Promise<string[]>,
  every: number,
  changed: (calendar: string) => void,
  lost: (error: Error) => void,
): () => Promise<void> {
  const stopping = new AbortController();
  const known = new Map<string, string>();
  let property = '<S:getctag/>';
  const look = async (): Promise<void> => {
    for (const home of await homes(stopping.signal)) {
      const { responses } = await dav.propfind(home, 1, property, stopping.signal);
      const tags = responses.flatMap((r) => {
        const tag = (r.properties.get(CTAG) ?? r.properties.get(`${DAV}sync-token`))?.text.trim();
        return tag === undefined || tag === '' ? [] : [{ href: withSlash(r.href), tag }];
      });
      if (tags.length === 0) property = '<D:sync-token/>';
      for (const { href, tag } of tags) {
        const before = known.get(href);
        known.set(href, tag);
        // What changed before the first look was not reported.
        if (before !== tag) changed(href);
      }
    }
  };
  const round = async (): Promise<void> => {
    while (!stopping.signal.aborted) {
      const began = Date.now();
      await look();
      await pause(Math.max(every * 1000, SHARE * (Date.now() - began)), undefined, { signal: stopping.signal });
    }
  };
  const done = round().catch((error: Error) => {
    if (!stopping.signal.aborted) lost(error);
  });
  return async () => {
    stopping.abort();
    await done;
  };
}
