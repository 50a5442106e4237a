import { type CalendarObject, objectLimits, UnstorableObject } from '@monsoon/core';
import type { Request, Response } from 'express';
import { calendarHref, objectHref, placeAt } from '../hosted/addresses.ts';
import { checkObject } from '../hosted/check-object.ts';
import {
  type Condition,
  type HostedCalendar,
  type HostedObject,
  type NotStored,
  objectsNamed,
  putObject,
  removeObject,
  type Written,
} from '../hosted/objects.ts';
import { type CalendarFor, calendarFor, putObjectAs } from '../hosted/rights.ts';
import { isModifiedSince, isUnchanged } from '../http/unchanged.ts';
import type { DavCaller } from './caller.ts';
import { DavProblem, needsPrivilege, notThere } from './problem.ts';
import { canonicalPath, type DavCall, type Door, type Resource, resourceAt, shownEtag, textFor } from './resources.ts';
import { escapeXml } from './xml.ts';

const TYPE = 'text/calendar; charset=utf-8';
/** Longest name of an object, in characters. */
const LONGEST_NAME = 255;
const TRIES = 3;

/** GET and HEAD of an object, with the conditions of RFC 9110, 13. */
export async function read({ door, request, response, turns }: DavCall, resource: Resource): Promise<void> {
  if (resource.kind !== 'object')
    throw new DavProblem(405, 'this is a door for calendar programs: give them this address, and they find the calendars', null, {
      allow: allowed(resource),
    });
  const { of, object, href } = resource;
  const etag = shownEtag(door, of, object);
  response.set({ etag, 'content-type': TYPE, 'cache-control': 'no-cache' });
  // A change of what they do not see is nothing to others.
  const modified = of.sight === 'all' ? new Date(object.changedAt) : null;
  if (modified !== null) response.set('last-modified', modified.toUTCString());
  if (isUnchanged(request, etag, modified)) {
    response.status(304).end();
    return;
  }
  const text = await textFor(door, resource, turns);
  if (text === null) throw notThere(href);
  response.status(200).send(Buffer.from(text, 'utf8'));
}

export const allowed = (resource: Pick<Resource, 'kind'>): string => {
  if (resource.kind === 'object') return 'OPTIONS, GET, HEAD, PUT, DELETE, COPY, MOVE, PROPFIND, REPORT';
  if (resource.kind === 'calendar') return 'OPTIONS, DELETE, PROPFIND, PROPPATCH, REPORT';
  return 'OPTIONS, PROPFIND';
};

/** What is there now. */
type Current = Pick<HostedObject, 'etag' | 'changedAt'> | null;

/**
 * The conditions of a writing request (RFC 9110, 13.1).
 * @param current what is there now: asked for where a list, `*` or a time is given
 */
async function conditionOf(request: Request, current: () => Promise<Current>): Promise<Condition> {
  const failed = (reason: string) => new DavProblem(412, reason);
  const tags = (text: string): string[] => text.match(/(?:W\/)?"[^"]*"/g) ?? [];
  const none = request.get('if-none-match');
  const match = request.get('if-match');
  if (none !== undefined) {
    if (none.trim() === '*') return 'absent';
    const there = await current();
    if (there !== null && tags(none).includes(there.etag)) throw failed('there is just this already');
  }
  if (match === undefined) {
    const there = request.get('if-unmodified-since') === undefined ? null : await current();
    if (there === null) return null;
    if (isModifiedSince(request, new Date(there.changedAt))) throw failed('it was changed after the time that If-Unmodified-Since names');
    return { etag: there.etag };
  }
  const [only, ...others] = tags(match);
  if (match.trim() !== '*' && only !== undefined && others.length === 0) return { etag: only };
  const there = await current();
  if (there === null) throw failed('there is nothing to be replaced');
  if (match.trim() !== '*' && !tags(match).includes(there.etag)) throw failed('it was changed in the meantime');
  return { etag: there.etag };
}

const currentAt = (door: Door, mine: CalendarFor, name: string) => async (): Promise<Current> =>
  (await objectsNamed(door.pool, mine.calendar.id, [name]))[0] ?? null;

/** The calendar that a caller wants to write into. @throws DavProblem where they may not */
async function writable(
  door: Door,
  caller: DavCaller,
  path: string,
  privilege: 'write-content' | 'unbind',
): Promise<{ mine: CalendarFor; name: string }> {
  const place = placeAt(path);
  const mine = place === null ? null : await calendarFor(door.pool, caller, place.slug);
  if (place === null || mine === null) {
    if (privilege === 'unbind') throw notThere(path);
    throw new DavProblem(409, `there is no calendar for ${path}, or none that you may see: make it first`);
  }
  if (place.name === null) throw new DavProblem(405, 'a calendar is no event', null, { allow: allowed({ kind: 'calendar' }) });
  if (!mine.mayWrite) throw needsPrivilege(path, privilege, whyNot(mine));
  return { mine, name: place.name };
}

const whyNot = ({ calendar, filledBy }: CalendarFor): string =>
  filledBy.length > 0
    ? `"${calendar.name}" is filled from records by the lane ${filledBy.map((l) => `"${l}"`).join(', ')}: edit the record`
    : `you may look at "${calendar.name}", and not write there: ask whose it is, or an administrator`;

/** PUT of an object (RFC 4791, 5.3.2). Who may not write there hears that first, whatever they sent. */
export async function put(call: DavCall): Promise<void> {
  const { door, caller, path, response } = call;
  const place = () => writable(door, caller, path, 'write-content');
  const written = await putAs(call).catch(async (error: unknown) => {
    await place();
    throw error;
  });
  if (written.outcome === 'made' || written.outcome === 'changed') {
    response
      .status(written.outcome === 'made' ? 201 : 204)
      .set('etag', written.etag)
      .end();
    return;
  }
  const { mine, name } = await place();
  throw refusalOf(written, mine.calendar, name);
}

/** Checks what is to be stored, and stores it if the caller may write there: most writes need no look at the calendar before. */
async function putAs({ door, caller, path, body, request }: DavCall): Promise<Written> {
  const { slug, name } = placeAt(path) ?? { slug: '', name: null };
  if (name === null) return { outcome: 'no calendar' };
  if (request.get('content-range') !== undefined) throw new DavProblem(400, 'a part of an object cannot be written');
  const type = request.get('content-type')?.replace(/;.*$/s, '').trim().toLowerCase();
  if (type !== undefined && type !== 'text/calendar' && type !== 'application/octet-stream')
    throw new DavProblem(403, `${type.slice(0, 60)} is not stored here; text/calendar is`, '<C:supported-calendar-data/>');
  if (name.length > LONGEST_NAME || /\p{Cc}/u.test(name)) throw new DavProblem(403, `names have at most ${LONGEST_NAME} characters`);
  const condition = await conditionOf(request, async () => {
    const { mine } = await writable(door, caller, path, 'write-content');
    return currentAt(door, mine, name)();
  });
  const text = textOf(body);
  const object = await storable(text, door);
  return putObjectAs(door.pool, caller, { slug, name }, object, text, condition);
}

/** @throws DavProblem with the precondition that a text violates */
async function storable(text: string, { zones }: Pick<Door, 'zones'>): Promise<CalendarObject> {
  try {
    return await checkObject(text, zones);
  } catch (error) {
    if (error instanceof UnstorableObject) throw new DavProblem(403, error.message, `<C:${error.precondition}/>`);
    throw error;
  }
}

function textOf(body: Buffer): string {
  if (body.length > objectLimits.octets) throw tooLarge();
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(body);
  } catch {
    throw new DavProblem(403, 'the text is not UTF-8', '<C:valid-calendar-data/>');
  }
}

export const tooLarge = (): DavProblem => new DavProblem(403, `an object has at most ${objectLimits.octets} octets`, '<C:max-resource-size/>');

/** Stores a text that stands somewhere already. @throws DavProblem with the precondition that it violates */
async function store(door: Door, mine: CalendarFor, name: string, text: string, condition: Condition) {
  const at = { slug: mine.calendar.slug, name };
  const written = await putObject(door.pool, at, text, condition, 'door', await storable(text, door));
  if (written.outcome === 'made' || written.outcome === 'changed') return written;
  throw refusalOf(written, mine.calendar, name);
}

/** Why nothing was stored. */
function refusalOf(written: NotStored, calendar: HostedCalendar, name: string): DavProblem {
  const uidConflict = (reason: string, holder: string) =>
    new DavProblem(409, reason, `<C:no-uid-conflict><D:href>${escapeXml(objectHref(calendar.slug, holder))}</D:href></C:no-uid-conflict>`);
  switch (written.outcome) {
    case 'changed meanwhile':
      return new DavProblem(412, 'it is not as you know it: it was changed in the meantime');
    case 'gone':
      return new DavProblem(412, 'there is nothing to be replaced');
    case 'uid elsewhere':
      return uidConflict('another object of this calendar has this UID', written.name);
    case 'other uid':
      return uidConflict('the UID of an object cannot be changed', name);
    case 'wrong component':
      return new DavProblem(403, `"${calendar.name}" holds ${written.holds}`, '<C:supported-calendar-component/>');
    case 'no calendar':
    case 'removed':
      return new DavProblem(409, 'the calendar is gone');
  }
}

/** DELETE of an object, or of a calendar that nothing uses. */
export async function remove({ door, caller, path, request, response }: DavCall): Promise<void> {
  const place = placeAt(path);
  if (place !== null && place.name === null) return removeCalendar(door, await resourceAt(door, caller, path), response);
  if (place === null) throw new DavProblem(403, 'this is part of Monsoon, and cannot be removed');
  const { mine, name } = await writable(door, caller, path, 'unbind');
  const condition = await conditionOf(request, currentAt(door, mine, name));
  const written = await removeObject(door.pool, { slug: mine.calendar.slug, name }, condition, 'door');
  if (written.outcome === 'changed meanwhile') throw new DavProblem(412, 'it was changed in the meantime');
  if (written.outcome !== 'removed') throw notThere(path);
  response.status(204).end();
}

async function removeCalendar(door: Door, resource: Resource, response: Response): Promise<void> {
  if (resource.kind !== 'calendar') throw notThere(resource.href);
  if (!resource.mayManage)
    throw needsPrivilege(calendarHref(resource.calendar.slug), 'unbind', 'calendars are removed by whose they are, and by administrators');
  const used = await usersOf(door, resource.calendar.slug);
  if (used.length > 0) throw new DavProblem(403, `${used.join(' and ')} use this calendar: remove them in Monsoon first`);
  await door.pool.query('delete from hosted_calendars where id = $1', [resource.calendar.id]);
  response.status(204).end();
}

/** Lanes and feeds of a hosted calendar, in words. */
export async function usersOf(door: Pick<Door, 'pool'>, slug: string): Promise<string[]> {
  const { rows } = await door.pool.query<{ name: string }>(
    `select 'the lane "' || (l.definition ->> 'name') || '"' as name from lanes l join systems s on s.id = l.calendar_system and s.kind = 'hosted'
      where l.definition -> 'calendar' ->> 'calendar' = $1
      union all select 'the feed "' || (f.settings ->> 'name') || '"' from feeds f where f.calendar = $1 order by 1`,
    [calendarHref(slug)],
  );
  return rows.map((r) => r.name);
}

/** COPY and MOVE of an object (RFC 4918, 9.8 and 9.9). The copy is there before the original goes: nothing is lost in between. */
export async function copyOrMove({ door, caller, path, request, response, turns }: DavCall): Promise<void> {
  const source = await resourceAt(door, caller, path);
  if (source.kind !== 'object') throw new DavProblem(403, 'only events and tasks are copied and moved');
  const text = await textFor(door, source, turns);
  const moving = request.method === 'MOVE';
  if (text === null) throw notThere(path);
  if (moving && !source.of.mayWrite) throw needsPrivilege(path, 'unbind', whyNot(source.of));
  const target = destinationOf(request);
  const { mine, name } = await writable(door, caller, target, 'write-content');
  if (target === source.href) throw new DavProblem(403, 'source and destination are the same');
  const mayReplace = request.get('overwrite')?.trim().toUpperCase() !== 'F';
  // Within one calendar a UID cannot stand twice: there, a move is a removal and a creation.
  const inPlace = moving && mine.calendar.id === source.of.calendar.id;
  if (inPlace) await dropped(door, source, request);
  const written = await store(door, mine, name, text, mayReplace ? null : 'absent').catch(async (error: unknown) => {
    if (inPlace) await putObject(door.pool, { slug: mine.calendar.slug, name: source.object.name }, text, null, 'door', await storable(text, door));
    throw error;
  });
  if (moving && !inPlace) await dropped(door, source, request);
  response
    .status(written.outcome === 'made' ? 201 : 204)
    .set('etag', written.etag)
    .end();
}

async function dropped(door: Door, { of, object }: Resource & { kind: 'object' }, request: Request): Promise<void> {
  for (let n = 0; ; n++) {
    const condition = await conditionOf(request, async () => object);
    const { outcome } = await removeObject(door.pool, { slug: of.calendar.slug, name: object.name }, condition ?? { etag: object.etag }, 'door');
    if (outcome === 'removed') return;
    if (n >= TRIES || outcome === 'changed meanwhile') throw new DavProblem(412, 'the original was changed in the meantime');
  }
}

function destinationOf(request: Request): string {
  const given = request.get('destination');
  if (given === undefined) throw new DavProblem(400, 'say where to, in the header Destination');
  let url: URL;
  try {
    url = new URL(given, `http://${request.get('host') ?? 'monsoon.example'}`);
  } catch {
    throw new DavProblem(400, 'Destination is no address');
  }
  if (url.host !== request.get('host')) throw new DavProblem(502, 'the destination is on another server');
  return canonicalPath(url.pathname);
}
