import type { ZoneTable } from '@monsoon/core';
import type { Turns } from '@monsoon/systems';
import type { Request, Response } from 'express';
import type pg from 'pg';
import { CALENDARS, calendarHref, objectHref, placeAt } from '../hosted/addresses.ts';
import type { Disguise } from '../hosted/disguise.ts';
import { eachObject, type HostedObject, objectsNamed } from '../hosted/objects.ts';
import { type CalendarFor, calendarFor, calendarsFor } from '../hosted/rights.ts';
import { seenAs } from '../hosted/shown.ts';
import type { DavCaller } from './caller.ts';
import { type Look, lookAt } from './look.ts';
import { DavProblem, notThere } from './problem.ts';

/** What the door works with. */
export interface Door {
  pool: pg.Pool;
  zones: ZoneTable;
  disguise: Disguise;
}

/** One request at the door, and who makes it. */
export interface DavCall {
  door: Door;
  caller: DavCaller;
  /** what it is about, in the form that Monsoon writes */
  path: string;
  /** as it came: empty where there is none */
  body: Buffer;
  /** in which everything is computed that the request asks for */
  turns: Turns;
  request: Request;
  response: Response;
}

export const ROOT = '/dav/';
export const PEOPLE = '/dav/people/';

export const principalHref = (person: string): string => `${PEOPLE}${person}/`;

/** Everything that has an address at the door. */
export type Resource =
  | { kind: 'root'; href: string }
  | { kind: 'people'; href: string }
  | { kind: 'person'; href: string; person: DavCaller }
  | { kind: 'home'; href: string }
  | ({ kind: 'calendar'; href: string } & CalendarFor)
  | { kind: 'object'; href: string; of: CalendarFor; object: HostedObject };

/** The path of a request as hrefs are written here: each segment decoded and encoded again, one slash at the end of collections. */
export function canonicalPath(url: string): string {
  const path = url.replace(/\?.*/s, '');
  if (/%00/.test(path)) throw new DavProblem(400, 'the address holds the character U+0000, which nothing here has in its name');
  try {
    return path
      .split('/')
      .map((segment) => encodeURIComponent(decodeURIComponent(segment)))
      .join('/');
  } catch {
    throw new DavProblem(400, 'the address is not well-formed: a percent sign has to begin a UTF-8 octet');
  }
}

/** @throws DavProblem 404 for what is not there, or not for this person: the two look alike */
export async function resourceAt(door: Door, caller: DavCaller, path: string): Promise<Resource> {
  const withSlash = path.endsWith('/') ? path : `${path}/`;
  if (withSlash === '/' || withSlash === ROOT) return { kind: 'root', href: ROOT };
  if (withSlash === PEOPLE) return { kind: 'people', href: PEOPLE };
  if (withSlash === CALENDARS) return { kind: 'home', href: CALENDARS };
  // Each person sees themselves alone.
  if (withSlash === principalHref(caller.person)) return { kind: 'person', href: withSlash, person: caller };
  const place = placeAt(path);
  const mine = place === null ? null : await calendarFor(door.pool, caller, place.slug);
  if (place === null || mine === null) throw notThere(path);
  if (place.name === null) return calendarResource(mine);
  const name = storedName(door, mine, place.name);
  const [object] = name === null ? [] : await objectsNamed(door.pool, mine.calendar.id, [name]);
  if (object === undefined || seenAs(object, mine.sight) === 'hidden') throw notThere(path);
  return objectResource(door, mine, object);
}

export const calendarResource = (mine: CalendarFor): Resource & { kind: 'calendar' } => ({
  kind: 'calendar',
  href: calendarHref(mine.calendar.slug),
  ...mine,
});
export const objectResource = (door: Door, of: CalendarFor, object: HostedObject): Resource & { kind: 'object' } => ({
  kind: 'object',
  href: shownHref(door, of, object.name),
  of,
  object,
});

/** Where a reader finds an object. A name may say what a private event is: who does not see everything gets another. */
export const shownHref = ({ disguise }: Door, { calendar, sight }: CalendarFor, name: string): string =>
  objectHref(calendar.slug, sight === 'all' ? name : disguise.name(calendar.id, name));

/** The name of an object that a reader names; null: there is none. */
export const storedName = ({ disguise }: Door, { calendar, sight }: CalendarFor, given: string): string | null =>
  sight === 'all' ? given : disguise.nameBehind(calendar.id, given);

/** The ETag of what a reader sees. */
export const shownEtag = ({ disguise }: Door, { calendar, sight }: CalendarFor, { name, etag }: { name: string; etag: string }): string =>
  sight === 'all' ? etag : disguise.etag(calendar.id, sight, name, etag);

/** What is inside a collection; objects without their texts. */
export async function* membersOf(door: Door, caller: DavCaller, resource: Resource): AsyncIterable<Resource[]> {
  if (resource.kind === 'root')
    yield [
      { kind: 'people', href: PEOPLE },
      { kind: 'home', href: CALENDARS },
    ];
  else if (resource.kind === 'people') yield [{ kind: 'person', href: principalHref(caller.person), person: caller }];
  else if (resource.kind === 'home') yield (await calendarsFor(door.pool, caller)).map(calendarResource);
  else if (resource.kind === 'calendar')
    for await (const page of eachObject(door.pool, resource.calendar.id, null, false))
      yield page.filter((o) => seenAs(o, resource.sight) !== 'hidden').map((o) => objectResource(door, resource, o));
}

/** The text of an object as its reader may see it; null: nothing of it. */
export const textFor = async (door: Door, { of, object }: { of: CalendarFor; object: HostedObject }, turns: Turns): Promise<string | null> =>
  (await lookAt(object, { ...wholeText, sight: of.sight, namespace: door.disguise.namespace(of.calendar.id) }, door.zones, turns)).text;

const wholeText: Omit<Look, 'sight' | 'namespace'> = { home: 'UTC', filter: null, busy: null, data: { expand: null, limit: null, parts: null } };
