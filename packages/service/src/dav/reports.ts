import { type Busy, joinBusy, type TimeRange } from '@monsoon/core';
import { calendarHref, placeAt } from '../hosted/addresses.ts';
import { changesSince, eachObject, type HostedObject, type ObjectChange, objectsNamed } from '../hosted/objects.ts';
import type { CalendarFor } from '../hosted/rights.ts';
import { seenAs } from '../hosted/shown.ts';
import { type Look, lookAt } from './look.ts';
import { Multistatus, responseElement, statusLine } from './multistatus.ts';
import { DavProblem, errorElement } from './problem.ts';
import { revisionOf, syncToken } from './properties.ts';
import { propstats, type Wanted, wantedIn } from './propstats.ts';
import { readFilter, readSelection, spanOfFilter, timeRange, zoneOf } from './query.ts';
import { canonicalPath, type DavCall, objectResource, type Resource, shownHref, storedName } from './resources.ts';
import { CAL, childOf, DAV, type Element, escapeXml, isNamed, keyOf } from './xml.ts';

/** Objects that one multiget names. */
const MOST_NAMED = 5000;
/** Busy times in one answer. */
const MOST_BUSY = 20_000;

/** REPORT (RFC 3253, 3.6) on a calendar, or on an object of one. */
export async function report(call: DavCall, resource: Resource, body: Element | null): Promise<void> {
  if (body === null) throw new DavProblem(400, 'a REPORT has a body that says which');
  const mine = resource.kind === 'calendar' ? resource : resource.kind === 'object' ? resource.of : null;
  if (mine === null || (resource.kind === 'object' && !isNamed(body, CAL('calendar-multiget')) && !isNamed(body, CAL('calendar-query'))))
    throw new DavProblem(403, `${resource.href} does not know this report`, '<D:supported-report/>');
  switch (keyOf(body.name)) {
    case keyOf(CAL('calendar-multiget')):
      return multiget(call, mine, body);
    case keyOf(CAL('calendar-query')):
      return query(call, mine, resource.kind === 'object' ? resource.object : null, body, call.request.get('depth') ?? '0');
    case keyOf(DAV('sync-collection')):
      return syncCollection(call, mine, body);
    case keyOf(CAL('free-busy-query')):
      return freeBusy(call, mine, body);
    default:
      throw new DavProblem(
        403,
        'this report is not known; calendar-multiget, calendar-query, free-busy-query and sync-collection are',
        '<D:supported-report/>',
      );
  }
}

/** What a report asks of each object. */
interface Asked {
  wanted: Wanted;
  look: Look;
}

function askedIn({ door }: DavCall, mine: CalendarFor, body: Element): Asked {
  const wanted = wantedIn(body) ?? { names: [] };
  const data = childOf(childOf(body, DAV('prop')), CAL('calendar-data'));
  const expand = spanIn(data, 'expand');
  const limit = spanIn(data, 'limit-recurrence-set');
  const type = data?.attributes.get('content-type') ?? 'text/calendar';
  if (type !== 'text/calendar' || (data?.attributes.get('version') ?? '2.0') !== '2.0')
    throw new DavProblem(403, `${type.slice(0, 60)} is not given; text/calendar 2.0 is`, '<C:supported-calendar-data/>');
  if (expand !== null && limit !== null)
    throw new DavProblem(403, 'a series is asked for with expand or with limit-recurrence-set, not both', '<C:valid-calendar-data/>');
  const home = zoneOf(childOf(body, CAL('timezone'))?.text ?? mine.calendar.timezone, door.zones).name;
  const namespace = door.disguise.namespace(mine.calendar.id);
  const look = { sight: mine.sight, namespace, home, filter: null, busy: null };
  return { wanted, look: { ...look, data: data === undefined ? null : { expand, limit, parts: readSelection(data) } } };
}

/** The span of an element of calendar-data. @throws DavProblem */
function spanIn(data: Element | undefined, name: 'expand' | 'limit-recurrence-set'): TimeRange | null {
  const element = childOf(data, CAL(name));
  if (element === undefined) return null;
  if (element.attributes.get('start') === undefined || element.attributes.get('end') === undefined)
    throw new DavProblem(403, `${name} has a start and an end`, '<C:valid-calendar-data/>');
  return timeRange(element);
}

/** The response about one object, or that it is not there. */
async function about(call: DavCall, mine: CalendarFor, object: HostedObject, { wanted, look }: Asked): Promise<string> {
  const resource = objectResource(call.door, mine, object);
  const given = new Map<string, string>();
  if (look.data !== null) {
    const seen = await lookAt(object, look, call.door.zones, call.turns);
    if (seen.trouble !== null) return responseElement(resource.href, `${statusLine(403)}${errorElement('<C:max-instances/>', seen.trouble)}`);
    if (!seen.isFound) return gone(resource.href);
    given.set(keyOf(CAL('calendar-data')), escapeXml(seen.text ?? ''));
  }
  return responseElement(resource.href, propstats(resource, wanted, call, given));
}

const gone = (href: string): string => responseElement(href, statusLine(404));
/** What does not fit into one answer (RFC 4918, 11.5). */
const tooMuch = (href: string, reason: string): string =>
  responseElement(href, `${statusLine(507)}${errorElement('<D:number-of-matches-within-limits/>', reason)}`);

/** Objects whose texts are read from the database at once. */
const PART = 40;

async function multiget(call: DavCall, mine: CalendarFor, body: Element): Promise<void> {
  const { door, turns } = call;
  const asked = askedIn(call, mine, body);
  // Each object is worked on once, however often it is named.
  const hrefs = [...new Set(body.children.filter((c) => isNamed(c, DAV('href'))).map((c) => c.text.trim()))];
  if (hrefs.length > MOST_NAMED) throw new DavProblem(403, `it names ${hrefs.length} objects; at most ${MOST_NAMED} are read at once`);
  const answer = new Multistatus(call.response);
  for (let at = 0; at < hrefs.length; at += PART) {
    const named = await turns.map(hrefs.slice(at, at + PART), (href) => ({ href, name: nameIn(call, mine, href) }));
    const names = named.flatMap((n) => n.name ?? []);
    const found = new Map((await objectsNamed(door.pool, mine.calendar.id, names)).map((o) => [o.name, o]));
    for (const { href, name } of named) {
      const object = name === null ? undefined : found.get(name);
      const isThere = object !== undefined && seenAs(object, mine.sight) !== 'hidden';
      if (turns.over) await answer.add(tooMuch(href, 'reading all of these at once takes too long: ask for fewer'));
      else await answer.add(isThere ? await about(call, mine, object, asked) : gone(href));
    }
  }
  await answer.end();
}

/** The name of an object of this calendar, of an absolute or relative address; null for any other. */
function nameIn({ door }: DavCall, mine: CalendarFor, href: string): string | null {
  const { slug } = mine.calendar;
  try {
    const place = placeAt(canonicalPath(new URL(href, `http://monsoon.example${calendarHref(slug)}`).pathname));
    return place !== null && place.slug === slug && place.name !== null ? storedName(door, mine, place.name) : null;
  } catch {
    return null;
  }
}

async function query(call: DavCall, mine: CalendarFor, only: HostedObject | null, body: Element, depth: string): Promise<void> {
  const { door, response, turns } = call;
  const asked = askedIn(call, mine, body);
  const filter = readFilter(childOf(body, CAL('filter')));
  const matching: Look = { ...asked.look, filter, data: null };
  const answer = new Multistatus(response);
  // With Depth 0 a calendar is asked about itself, and holds no text (RFC 4791, 7.8).
  const pages = only !== null ? [[only]] : depth === '0' ? [] : eachObject(door.pool, mine.calendar.id, spanOfFilter(filter));
  for await (const page of pages) {
    for (const object of page) {
      if (turns.over) break;
      if ((await lookAt(object, matching, door.zones, turns)).isFound && !turns.over) await answer.add(await about(call, mine, object, asked));
    }
    if (!turns.over) continue;
    await answer.add(tooMuch(calendarHref(mine.calendar.slug), 'looking through the whole calendar takes too long: ask for a shorter time'));
    break;
  }
  await answer.end();
}

/** RFC 6578: what changed since a token, deletions too. */
async function syncCollection(call: DavCall, mine: CalendarFor, body: Element): Promise<void> {
  const { door, response, turns } = call;
  const given = childOf(body, DAV('sync-token'))?.text.trim() ?? '';
  const since = given === '' ? null : revisionOf(given, door, mine);
  if (given !== '' && since === null)
    throw new DavProblem(403, 'this sync-token is of no use any more: ask with an empty one, and compare', '<D:valid-sync-token/>');
  const level = childOf(body, DAV('sync-level'))?.text.trim() ?? '1';
  if (level !== '1' && level !== 'infinite') throw new DavProblem(400, 'DAV:sync-level is 1 or infinite');
  const limit = limitIn(body);
  const asked = askedIn(call, mine, body);
  const answer = new Multistatus(response);
  let last = since ?? 0;
  let listed = 0;
  let cut = false;
  // Programs ask every few minutes, and mostly nothing has changed: the calendar's row says so already.
  const pages = since === mine.calendar.revision ? [] : changesSince(door.pool, mine.calendar.id, since, Math.min(1000, limit + 1));
  for await (const page of pages) {
    for (let at = 0; at < page.length && !cut; at += PART) {
      const part = page.slice(at, at + PART);
      const names = part.map((c) => c.name);
      const texts = asked.look.data === null ? null : new Map((await objectsNamed(door.pool, mine.calendar.id, names)).map((o) => [o.name, o]));
      for (const change of part) {
        if (listed >= limit || turns.over) {
          cut = true;
          break;
        }
        last = change.revision;
        const object = texts === null ? { ...change, uid: '', text: '' } : texts.get(change.name);
        const hidden = change.gone || object === undefined || seenAs(change, mine.sight) === 'hidden';
        if (hidden && !wasSeen(change, mine, since)) continue;
        if (hidden) await answer.add(gone(shownHref(door, mine, change.name)));
        else if (texts !== null) await answer.add(await about(call, mine, object, asked));
        else {
          const resource = objectResource(door, mine, object);
          await answer.add(await turns.step(() => responseElement(resource.href, propstats(resource, asked.wanted, call))));
        }
        listed++;
      }
    }
    if (cut) break;
  }
  // Other deletions may stand behind the last that was listed.
  const revision = cut ? last : Math.max(last, mine.calendar.revision);
  if (cut)
    await answer.add(responseElement(calendarHref(mine.calendar.slug), `${statusLine(507)}<D:error><D:number-of-matches-within-limits/></D:error>`));
  await answer.end(`<D:sync-token>${syncToken(door, mine, revision)}</D:sync-token>`);
}

/** How many results are wanted (RFC 5323, 5.17). @throws DavProblem */
function limitIn(body: Element): number {
  const text = childOf(childOf(body, DAV('limit')), DAV('nresults'))?.text.trim();
  if (text === undefined) return Number.POSITIVE_INFINITY;
  if (!/^\d{1,15}$/.test(text)) throw new DavProblem(400, `DAV:nresults is a whole number; "${text.slice(0, 40)}" is none`);
  if (Number(text) === 0) throw new DavProblem(507, 'at least one result has to fit', '<D:number-of-matches-within-limits/>');
  return Number(text);
}

/** Did a reader see, at their last look, what they do not see now? A first listing names only what is there. */
function wasSeen({ leftBusy, leftPublic }: ObjectChange, { sight }: CalendarFor, since: number | null): boolean {
  if (since === null) return false;
  const left = sight === 'busy' ? leftBusy : leftPublic;
  return sight === 'all' || (left !== null && left > since);
}

const compact = (seconds: number): string => `${new Date(seconds * 1000).toISOString().slice(0, 19).replace(/[-:]/g, '')}Z`;

/** RFC 4791, 7.10: when a person is busy, not with what. */
async function freeBusy({ door, response, turns }: DavCall, mine: CalendarFor, body: Element): Promise<void> {
  const span = childOf(body, CAL('time-range'));
  if (span?.attributes.get('start') === undefined || span.attributes.get('end') === undefined)
    throw new DavProblem(400, 'a free-busy-query has a time-range with start and end');
  const range = timeRange(span);
  const home = zoneOf(mine.calendar.timezone, door.zones).name;
  const look: Look = { sight: mine.sight, namespace: '', home, filter: null, data: null, busy: range };
  const busy: Busy[] = [];
  for await (const page of eachObject(door.pool, mine.calendar.id, range))
    for (const object of page) {
      if (object.component !== 'VEVENT') continue;
      busy.push(...(await lookAt(object, look, door.zones, turns)).busy);
      if (busy.length > MOST_BUSY)
        throw new DavProblem(507, `there are more than ${MOST_BUSY} busy times: ask for a shorter time`, '<D:number-of-matches-within-limits/>');
    }
  const periods = joinBusy(busy).map((b) => `FREEBUSY;FBTYPE=${b.tentative ? 'BUSY-TENTATIVE' : 'BUSY'}:${compact(b.from)}/${compact(b.until)}`);
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Monsoon//EN',
    'BEGIN:VFREEBUSY',
    `UID:${mine.calendar.id}`,
    `DTSTAMP:${compact(Date.now() / 1000)}`,
  ];
  const text = [...lines, `DTSTART:${compact(range.from)}`, `DTEND:${compact(range.until)}`, ...periods, 'END:VFREEBUSY', 'END:VCALENDAR', ''].join(
    '\r\n',
  );
  response.status(200).set('content-type', 'text/calendar; charset=utf-8').send(text);
}
