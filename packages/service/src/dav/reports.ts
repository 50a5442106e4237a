import {
  type Busy,
  busyTimes,
  expandObject,
  joinBusy,
  limitOverrides,
  matchesFilter,
  type Selection,
  selectParts,
  type TimeRange,
  type Zone,
  type ZoneTable,
} from '@monsoon/core';
import { calendarHref, objectHref, placeAt } from '../hosted/addresses.ts';
import { changesSince, eachObject, type HostedObject, objectsNamed } from '../hosted/objects.ts';
import type { CalendarFor } from '../hosted/rights.ts';
import { seenAs } from '../hosted/shown.ts';
import { Multistatus, propstats, responseElement, statusLine, type Wanted, wantedIn } from './multistatus.ts';
import { DavProblem, errorElement } from './problem.ts';
import { revisionOf, syncToken } from './properties.ts';
import { readFilter, readSelection, spanOfFilter, timeRange, zoneOf } from './query.ts';
import { canonicalPath, type DavCall, type Door, objectResource, type Resource, textFor } from './resources.ts';
import { CAL, childOf, DAV, type Element, escapeXml } from './xml.ts';

/** Objects that one multiget names. */
const MOST_NAMED = 5000;
/** Milliseconds that a report may compute. */
const LONGEST = 20_000;

/** REPORT (RFC 3253, 3.6) on a calendar, or on an object of one. */
export async function report(call: DavCall, resource: Resource, body: Element | null): Promise<void> {
  if (body === null) throw new DavProblem(400, 'a REPORT has a body that says which');
  const mine = resource.kind === 'calendar' ? resource : resource.kind === 'object' ? resource.of : null;
  if (mine === null || (resource.kind === 'object' && body.name !== `${CAL}calendar-multiget` && body.name !== `${CAL}calendar-query`))
    throw new DavProblem(403, `${resource.href} does not know this report`, '<D:supported-report/>');
  switch (body.name) {
    case `${CAL}calendar-multiget`:
      return multiget(call, mine, body);
    case `${CAL}calendar-query`:
      return query(call, mine, resource.kind === 'object' ? resource.object : null, body, call.request.get('depth') ?? '0');
    case `${DAV}sync-collection`:
      return syncCollection(call, mine, body);
    case `${CAL}free-busy-query`:
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
  /** with calendar-data: each occurrence of a span alone, or the series with the overrides of a span; and which parts of it */
  data: { expand: TimeRange | null; limit: TimeRange | null; parts: Selection | null } | null;
  home: Zone;
}

function askedIn(door: Door, mine: CalendarFor, body: Element): Asked {
  const wanted = wantedIn(body) ?? { names: [] };
  const data = childOf(childOf(body, `${DAV}prop`), `${CAL}calendar-data`);
  const expand = spanIn(data, 'expand');
  const limit = spanIn(data, 'limit-recurrence-set');
  const type = data?.attributes['content-type'] ?? 'text/calendar';
  if (type !== 'text/calendar' || (data?.attributes['version'] ?? '2.0') !== '2.0')
    throw new DavProblem(403, `${type.slice(0, 60)} is not given; text/calendar 2.0 is`, '<C:supported-calendar-data/>');
  if (expand !== null && limit !== null)
    throw new DavProblem(403, 'a series is asked for with expand or with limit-recurrence-set, not both', '<C:valid-calendar-data/>');
  const home = zoneOf(childOf(body, `${CAL}timezone`)?.text ?? mine.calendar.timezone, door.zones);
  return { wanted, data: data === undefined ? null : { expand, limit, parts: readSelection(data) }, home };
}

/** The span of an element of calendar-data. @throws DavProblem */
function spanIn(data: Element | undefined, name: 'expand' | 'limit-recurrence-set'): TimeRange | null {
  const element = childOf(data, `${CAL}${name}`);
  if (element === undefined) return null;
  if (element.attributes['start'] === undefined || element.attributes['end'] === undefined)
    throw new DavProblem(403, `${name} has a start and an end`, '<C:valid-calendar-data/>');
  return timeRange(element);
}

/** The response about one object, or that it is not there. */
function about({ door, caller }: DavCall, mine: CalendarFor, object: HostedObject, asked: Asked): string {
  const resource = objectResource(mine, object);
  const given: Record<string, string> = {};
  if (asked.data !== null) {
    const shown = textFor(door, { of: mine, object });
    if (shown === null) return gone(resource.href);
    try {
      const text = inSpan(shown, asked.data, asked.home, door.zones);
      given[`${CAL}calendar-data`] = escapeXml(asked.data.parts === null ? text : selectParts(text, asked.data.parts));
    } catch (error) {
      return responseElement(resource.href, `${statusLine(403)}${errorElement('<C:max-instances/>', (error as Error).message)}`);
    }
  }
  return responseElement(resource.href, propstats(resource, asked.wanted, caller, given));
}

function inSpan(text: string, { expand, limit }: NonNullable<Asked['data']>, home: Zone, zones: ZoneTable): string {
  if (expand !== null) return expandObject(text, expand, home, zones) ?? text;
  return limit === null ? text : limitOverrides(text, limit, home, zones);
}

const gone = (href: string): string => responseElement(href, statusLine(404));

async function multiget(call: DavCall, mine: CalendarFor, body: Element): Promise<void> {
  const asked = askedIn(call.door, mine, body);
  const hrefs = body.children.filter((c) => c.name === `${DAV}href`).map((c) => c.text.trim());
  if (hrefs.length > MOST_NAMED) throw new DavProblem(403, `it names ${hrefs.length} objects; at most ${MOST_NAMED} are read at once`);
  const answer = new Multistatus(call.response);
  for (let at = 0; at < hrefs.length; at += 200) {
    const named = hrefs.slice(at, at + 200).map((href) => ({ href, name: nameIn(href, mine.calendar.slug) }));
    const names = named.flatMap((n) => n.name ?? []);
    const found = new Map((await objectsNamed(call.door.pool, mine.calendar.id, names)).map((o) => [o.name, o]));
    for (const { href, name } of named) {
      const object = name === null ? undefined : found.get(name);
      const isThere = object !== undefined && seenAs(object, mine.sight) !== 'hidden';
      await answer.add(isThere ? about(call, mine, object, asked) : gone(href));
    }
  }
  await answer.end();
}

/** The name of an object of this calendar, of an absolute or relative address; null for any other. */
function nameIn(href: string, slug: string): string | null {
  try {
    const place = placeAt(canonicalPath(new URL(href, `http://monsoon.example${calendarHref(slug)}`).pathname));
    return place !== null && place.slug === slug ? place.name : null;
  } catch {
    return null;
  }
}

async function query(call: DavCall, mine: CalendarFor, only: HostedObject | null, body: Element, depth: string): Promise<void> {
  const { door, response } = call;
  const asked = askedIn(door, mine, body);
  const filter = readFilter(childOf(body, `${CAL}filter`));
  const span = spanOfFilter(filter);
  const answer = new Multistatus(response);
  const until = Date.now() + LONGEST;
  // With Depth 0 a calendar is asked about itself, and holds no text (RFC 4791, 7.8).
  const pages = only !== null ? [[only]] : depth === '0' ? [] : eachObject(door.pool, mine.calendar.id, span);
  for await (const page of pages) {
    for (const object of page) {
      const shown = textFor(door, { of: mine, object });
      if (shown !== null && matches(shown)) await answer.add(about(call, mine, object, asked));
    }
    if (Date.now() > until) {
      const reason = 'looking through the whole calendar takes too long: ask for a shorter time';
      await answer.add(
        responseElement(calendarHref(mine.calendar.slug), `${statusLine(507)}${errorElement('<D:number-of-matches-within-limits/>', reason)}`),
      );
      break;
    }
  }
  await answer.end();

  function matches(text: string): boolean {
    try {
      return matchesFilter(filter, text, asked.home, door.zones);
    } catch {
      // What was stored once can be read; a rule that is refused today still stands there.
      return false;
    }
  }
}

/** RFC 6578: what changed since a token, deletions too. */
async function syncCollection(call: DavCall, mine: CalendarFor, body: Element): Promise<void> {
  const { door, caller, response } = call;
  const given = childOf(body, `${DAV}sync-token`)?.text.trim() ?? '';
  const since = given === '' ? null : revisionOf(given, mine);
  if (given !== '' && since === null)
    throw new DavProblem(403, 'this sync-token is of no use any more: ask with an empty one, and compare', '<D:valid-sync-token/>');
  const level = childOf(body, `${DAV}sync-level`)?.text.trim() ?? '1';
  if (level !== '1' && level !== 'infinite') throw new DavProblem(400, 'DAV:sync-level is 1 or infinite');
  const limit = Number(childOf(childOf(body, `${DAV}limit`), `${DAV}nresults`)?.text.trim() ?? Number.POSITIVE_INFINITY);
  if (!(limit >= 1)) throw new DavProblem(507, 'at least one result has to fit', '<D:number-of-matches-within-limits/>');
  const asked = askedIn(door, mine, body);
  const answer = new Multistatus(response);
  let last = since ?? 0;
  let listed = 0;
  let cut = false;
  // Programs ask every few minutes, and mostly nothing has changed: the calendar's row says so already.
  const pages = since === mine.calendar.revision ? [] : changesSince(door.pool, mine.calendar.id, since, Math.min(1000, limit + 1));
  for await (const page of pages) {
    const texts =
      asked.data === null
        ? null
        : new Map(
            (
              await objectsNamed(
                door.pool,
                mine.calendar.id,
                page.map((c) => c.name),
              )
            ).map((o) => [o.name, o]),
          );
    for (const change of page) {
      if (listed >= limit) {
        cut = true;
        break;
      }
      last = change.revision;
      const hidden = change.gone || seenAs(change, mine.sight) === 'hidden';
      // A first listing names only what is there.
      if (hidden && since === null) continue;
      const href = objectHref(mine.calendar.slug, change.name);
      const object = texts?.get(change.name);
      if (hidden || (texts !== null && object === undefined)) await answer.add(gone(href));
      else if (object !== undefined) await answer.add(about(call, mine, object, asked));
      else await answer.add(responseElement(href, propstats(objectResource(mine, bare(change)), asked.wanted, caller)));
      listed++;
    }
    if (cut) break;
  }
  // Other deletions may stand behind the last that was listed.
  const revision = cut ? last : Math.max(last, mine.calendar.revision);
  if (cut)
    await answer.add(responseElement(calendarHref(mine.calendar.slug), `${statusLine(507)}<D:error><D:number-of-matches-within-limits/></D:error>`));
  await answer.end(`<D:sync-token>${syncToken(mine, revision)}</D:sync-token>`);
}

/** Of an object whose text was not asked for, what a change list says of it. */
const bare = (change: {
  name: string;
  etag: string;
  isPrivate: boolean;
  isBusy: boolean;
  component: HostedObject['component'];
  changedAt: string;
}): HostedObject => ({
  ...change,
  uid: '',
  text: '',
});

const compact = (seconds: number): string => `${new Date(seconds * 1000).toISOString().slice(0, 19).replace(/[-:]/g, '')}Z`;

/** RFC 4791, 7.10: when a person is busy, not with what. */
async function freeBusy({ door, response }: DavCall, mine: CalendarFor, body: Element): Promise<void> {
  const span = childOf(body, `${CAL}time-range`);
  if (span === undefined || span.attributes['start'] === undefined || span.attributes['end'] === undefined)
    throw new DavProblem(400, 'a free-busy-query has a time-range with start and end');
  const range = timeRange(span);
  const home = zoneOf(mine.calendar.timezone, door.zones);
  const busy: Busy[] = [];
  const until = Date.now() + LONGEST;
  for await (const page of eachObject(door.pool, mine.calendar.id, range)) {
    for (const object of page) if (object.component === 'VEVENT') busy.push(...busyIn(object.text));
    if (Date.now() > until) throw new DavProblem(507, 'this takes too long: ask for a shorter time', '<D:number-of-matches-within-limits/>');
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

  function busyIn(text: string): Busy[] {
    try {
      return busyTimes(text, range, home, door.zones);
    } catch {
      return [];
    }
  }
}
