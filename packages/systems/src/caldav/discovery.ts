import type { CalendarInfo, Scheduling } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import type { Dav } from './dav.ts';
import { canonicalHref, withSlash } from './hrefs.ts';
import { CAL, DAV, type DavResponse } from './multistatus.ts';

/**
 * Finds the calendar homes of the account from a bare host or any address on the way (RFC 6764, 5397, 4791):
 * the address itself, the well-known path, then the principal and its home set.
 */
export async function findHomes(dav: Dav, address: string, signal: AbortSignal): Promise<string[]> {
  const given = new URL(address).pathname;
  let trouble: unknown = null;
  for (const start of [...new Set([given, '/.well-known/caldav', '/'])]) {
    try {
      const homes = await homesFrom(dav, start, signal);
      if (homes.length > 0) return homes;
    } catch (error) {
      if (
        !(error instanceof OutsideError) ||
        ['unreachable', 'timed out', 'not authorised', 'throttled', 'forbidden address'].includes(error.trouble)
      )
        throw error;
      trouble ??= error;
    }
  }
  throw new OutsideError(
    'nonsense',
    `no calendar home was found at ${dav.host}: give the address of the calendar server, the account or a calendar`,
    { cause: trouble },
  );
}

async function homesFrom(dav: Dav, start: string, signal: AbortSignal): Promise<string[]> {
  const wanted = '<D:current-user-principal/><D:resourcetype/><C:calendar-home-set/><D:principal-URL/>';
  const here = (await dav.propfind(start, 0, wanted, signal)).responses[0];
  if (here === undefined) return [];
  const direct = hrefsIn(here, `${CAL}calendar-home-set`, dav);
  if (direct.length > 0) return direct;
  const principal = hrefsIn(here, `${DAV}current-user-principal`, dav)[0];
  if (principal === undefined) return [];
  const account = (await dav.propfind(principal, 0, '<C:calendar-home-set/>', signal)).responses[0];
  return account === undefined ? [] : hrefsIn(account, `${CAL}calendar-home-set`, dav);
}

function hrefsIn(response: DavResponse, property: string, dav: Dav): string[] {
  const element = response.properties.get(property);
  return (element?.children ?? [])
    .filter((c) => c.name === `${DAV}href` && c.text.trim() !== '')
    .map((c) => withSlash(canonicalHref(c.text.trim(), dav.base)));
}

/** The account's addresses, and whether the server schedules for it: then it has an outbox (RFC 6638, 2.1 and 2.4.1). */
export async function readScheduling(dav: Dav, start: string, signal: AbortSignal): Promise<Scheduling> {
  const here = (await dav.propfind(start, 0, '<D:current-user-principal/>', signal)).responses[0];
  const principal = here === undefined ? undefined : hrefsIn(here, `${DAV}current-user-principal`, dav)[0];
  if (principal === undefined) return { addresses: [], invites: false };
  const wanted = '<C:calendar-user-address-set/><C:schedule-outbox-URL/>';
  const account = (await dav.propfind(principal, 0, wanted, signal)).responses[0];
  const hrefs = account?.properties.get(`${CAL}calendar-user-address-set`)?.children.map((c) => c.text.trim()) ?? [];
  return {
    addresses: [...new Set(hrefs.flatMap((href) => /^mailto:(.+)$/i.exec(href)?.[1]?.toLowerCase() ?? []))],
    invites: account !== undefined && hrefsIn(account, `${CAL}schedule-outbox-URL`, dav).length > 0,
  };
}

const COLOUR = '{http://apple.com/ns/ical/}calendar-color';

/** The calendars for events, or the task lists, in the account's homes. One that does not say what it holds, holds events. */
export async function listCalendars(
  dav: Dav,
  homes: string[],
  signal: AbortSignal,
  component: 'VEVENT' | 'VTODO' = 'VEVENT',
): Promise<CalendarInfo[]> {
  const wanted = '<D:resourcetype/><D:displayname/><A:calendar-color/><C:supported-calendar-component-set/><D:current-user-privilege-set/>';
  const found: CalendarInfo[] = [];
  for (const home of homes) {
    for (const response of (await dav.propfind(home, 1, wanted, signal)).responses) {
      const type = response.properties.get(`${DAV}resourcetype`)?.children ?? [];
      if (!type.some((t) => t.name === `${CAL}calendar`)) continue;
      const components = response.properties.get(`${CAL}supported-calendar-component-set`)?.children.map((c) => c.attributes['name']) ?? [];
      if (components.length > 0 ? !components.includes(component) : component === 'VTODO') continue;
      const href = withSlash(response.href);
      const name = response.properties.get(`${DAV}displayname`)?.text.trim() || decodeURIComponent(href.split('/').at(-2) ?? href);
      found.push({ href, name, colour: response.properties.get(COLOUR)?.text.trim().slice(0, 7) || null, writable: mayWrite(response) });
    }
  }
  return found.sort((a, b) => a.name.localeCompare(b.name));
}

/** Unless the server lists our privileges and writing is not among them (RFC 3744, 5.4), we may write. */
function mayWrite(response: DavResponse): boolean {
  const privileges = response.properties.get(`${DAV}current-user-privilege-set`)?.children.flatMap((p) => p.children.map((c) => c.name));
  if (privileges === undefined || privileges.length === 0) return true;
  return ['all', 'write', 'write-content', 'bind'].some((p) => privileges.includes(DAV + p));
}
