import { calendarHref, placeAt } from '../hosted/addresses.ts';
import { makeCalendar } from '../hosted/calendars.ts';
import { calendarBySlug } from '../hosted/objects.ts';
import { Multistatus, responseElement, statusLine } from './multistatus.ts';
import { DavProblem, errorElement, needsPrivilege } from './problem.ts';
import { isComputed, mayMake } from './properties.ts';
import type { DavCall, Door, Resource } from './resources.ts';
import { APPLE, CAL, childOf, DAV, type Element, element, isNamed, keyOf, type Name, writeElement } from './xml.ts';

/** Octets of all the properties that programs keep for themselves with one calendar, and how many. */
const MOST_KEPT = { octets: 50_000, properties: 50 };
/** Longest values of what is kept in columns. */
const LONGEST = { name: 200, description: 2000, timezone: 50_000 };

/** What a request sets or removes, in its order; null removes. */
interface Change {
  name: Name;
  value: Element | null;
}

/** Columns of a calendar that properties stand for; what a calendar is made with, too. */
interface Columns {
  name?: string;
  colour?: string | null;
  description?: string;
  timezone?: string | null;
  holds?: 'events' | 'tasks';
}

interface Outcome {
  columns: Columns;
  /** by {@link keyOf}; null removes */
  kept: Map<string, string | null>;
  /** by {@link keyOf}: why it cannot be */
  refused: Map<string, { condition: string; reason: string }>;
}

/** Properties that one request changes: programs set a few. */
const MOST_CHANGES = 200;

/** @throws DavProblem where there are too many */
function changesIn(body: Element | null, wrappers: Name[]): Change[] {
  const changes = (body?.children ?? [])
    .filter((c) => wrappers.some((w) => isNamed(c, w)))
    .flatMap((c) => (childOf(c, DAV('prop'))?.children ?? []).map((p): Change => ({ name: p.name, value: isNamed(c, DAV('remove')) ? null : p })));
  if (changes.length > MOST_CHANGES) throw new DavProblem(403, `it names ${changes.length} properties; at most ${MOST_CHANGES} are changed at once`);
  return changes;
}

/** `#rrggbb` of what programs write: with an opacity behind it, or short. */
function colourOf(text: string): string | null {
  const match = /^#([0-9a-f]{6})([0-9a-f]{2})?$/i.exec(text.trim());
  if (match !== null) return `#${(match[1] ?? '').toLowerCase()}`;
  const short = /^#([0-9a-f])([0-9a-f])([0-9a-f])$/i.exec(text.trim());
  return short === null
    ? null
    : `#${short
        .slice(1)
        .map((d) => d + d)
        .join('')
        .toLowerCase()}`;
}

function weigh(changes: readonly Change[], making: boolean): Outcome {
  const outcome: Outcome = { columns: {}, kept: new Map(), refused: new Map() };
  for (const { name, value } of changes) {
    const key = keyOf(name);
    const refuse = (reason: string, condition = '') => outcome.refused.set(key, { condition, reason });
    const text = value?.text.trim() ?? '';
    const short = (most: number) => {
      if (text.length > most) refuse(`it has ${text.length} characters; at most ${most} are kept`);
      return text.length <= most;
    };
    switch (key) {
      case keyOf(DAV('displayname')):
        if (text === '') refuse('a calendar has a name');
        else if (/\p{Cc}/u.test(text)) refuse('a name holds no control characters, such as line breaks');
        else if (short(LONGEST.name)) outcome.columns.name = text;
        break;
      case keyOf(APPLE('calendar-color')):
        outcome.columns.colour = value === null ? null : colourOf(text);
        if (value !== null && outcome.columns.colour === null) refuse(`"${text.slice(0, 40)}" is no colour such as #12706d`);
        break;
      case keyOf(CAL('calendar-description')):
        if (short(LONGEST.description)) outcome.columns.description = text;
        break;
      case keyOf(CAL('calendar-timezone')):
        if (short(LONGEST.timezone)) outcome.columns.timezone = value === null ? null : value.text;
        break;
      case keyOf(DAV('resourcetype')):
        if (!making) refuse('what a resource is cannot be changed', '<D:cannot-modify-protected-property/>');
        break;
      case keyOf(CAL('supported-calendar-component-set')): {
        const asked = (value?.children ?? []).map((c) => c.attributes.get('name')?.toUpperCase());
        if (!making) refuse('what a calendar holds is settled when it is made', '<D:cannot-modify-protected-property/>');
        // Events where both are asked for: a calendar here holds one kind.
        else if (asked.includes('VEVENT')) outcome.columns.holds = 'events';
        else if (asked.includes('VTODO')) outcome.columns.holds = 'tasks';
        else refuse(`${asked.join(', ')} is not kept here; VEVENT or VTODO is`, '<C:supported-calendar-component/>');
        break;
      }
      default:
        if (isComputed(name)) refuse('it is computed, and cannot be set', '<D:cannot-modify-protected-property/>');
        else outcome.kept.set(key, value === null ? null : writeElement(value));
    }
  }
  return outcome;
}

/** What programs keep for themselves, as it is then. */
function keptWith(before: Record<string, string>, outcome: Outcome): Record<string, string> {
  const kept = [...new Map<string, string | null>([...Object.entries(before), ...outcome.kept])].filter((e): e is [string, string] => e[1] !== null);
  const size = kept.reduce((n, [name, xml]) => n + name.length + Buffer.byteLength(xml), 0);
  if (size > MOST_KEPT.octets || kept.length > MOST_KEPT.properties)
    for (const name of outcome.kept.keys())
      outcome.refused.set(name, {
        condition: '<D:quota-not-exceeded/>',
        reason: `at most ${MOST_KEPT.properties} properties with ${MOST_KEPT.octets} octets are kept`,
      });
  return Object.fromEntries(kept);
}

const UPDATE = `update hosted_calendars set name = coalesce($2, name), colour = case when $3 then $4 else colour end,
  description = coalesce($5, description), timezone = case when $6 then $7 else timezone end, properties = $8 where id = $1`;

async function store(door: Door, id: string, { columns }: Outcome, kept: Record<string, string>): Promise<void> {
  const { name, colour, description, timezone } = columns;
  const values = [
    id,
    name ?? null,
    colour !== undefined,
    colour ?? null,
    description ?? null,
    timezone !== undefined,
    timezone ?? null,
    JSON.stringify(kept),
  ];
  await door.pool.query(UPDATE, values);
}

/** One propstat for each outcome: all are done, or none (RFC 4918, 9.2). */
function outcomes(changes: readonly Change[], { refused }: Outcome): string {
  const names = new Map(changes.map((c) => [keyOf(c.name), c.name]));
  return [...names]
    .map(([key, name]) => {
      const no = refused.get(key);
      const status = no !== undefined ? 403 : refused.size > 0 ? 424 : 200;
      const error = no === undefined ? '' : errorElement(no.condition, no.reason);
      return `<D:propstat><D:prop>${element(name)}</D:prop>${statusLine(status)}${error}</D:propstat>`;
    })
    .join('');
}

/** PROPPATCH (RFC 4918, 9.2) of a calendar. */
export async function proppatch({ door, response }: DavCall, resource: Resource, body: Element | null): Promise<void> {
  if (body === null || !isNamed(body, DAV('propertyupdate'))) throw new DavProblem(400, 'the body of PROPPATCH is a DAV:propertyupdate');
  if (resource.kind !== 'calendar') throw needsPrivilege(resource.href, 'write-properties', 'only the properties of calendars can be changed');
  if (!resource.mayManage)
    throw needsPrivilege(resource.href, 'write-properties', 'name, colour and the like are for whose calendar it is, and for administrators');
  const changes = changesIn(body, [DAV('set'), DAV('remove')]);
  if (changes.length === 0) throw new DavProblem(400, 'DAV:propertyupdate names no property');
  const outcome = weigh(changes, false);
  const kept = keptWith(resource.calendar.properties, outcome);
  if (outcome.refused.size === 0) await store(door, resource.calendar.id, outcome, kept);
  const answer = new Multistatus(response);
  await answer.add(responseElement(resource.href, outcomes(changes, outcome)));
  await answer.end();
}

/** MKCALENDAR (RFC 4791, 5.3.1), and MKCOL of a calendar (RFC 5689). */
export async function mkcalendar({ door, caller, path, request, response }: DavCall, body: Element | null): Promise<void> {
  const place = placeAt(path);
  if (place === null || place.name !== null)
    throw new DavProblem(403, `calendars are made directly below ${calendarHref('')}`, '<C:calendar-collection-location-ok/>');
  if (!mayMake(caller)) throw needsPrivilege(calendarHref(''), 'bind', `as ${caller.role} you may not make calendars: ask an administrator`);
  if (place.slug.length > 100 || /[\p{Cc}/\\]/u.test(place.slug))
    throw new DavProblem(403, 'the last part of the address has at most 100 characters, without slashes', '<C:calendar-collection-location-ok/>');
  const expected = request.method === 'MKCOL' ? DAV('mkcol') : CAL('mkcalendar');
  if (body !== null && !isNamed(body, expected))
    throw new DavProblem(400, `the body of ${request.method} is a ${expected.local} of ${expected.namespace}`);
  const changes = changesIn(body, [DAV('set')]);
  const type = changes.find((c) => keyOf(c.name) === keyOf(DAV('resourcetype')))?.value?.children ?? [];
  if (request.method === 'MKCOL' && !type.some((t) => isNamed(t, CAL('calendar'))))
    throw new DavProblem(403, 'only calendars are kept here', '<D:valid-resourcetype/>');
  const outcome = weigh(changes, true);
  const kept = keptWith({}, outcome);
  if (outcome.refused.size > 0) {
    const answer = new Multistatus(response);
    await answer.add(responseElement(path, outcomes(changes, outcome)));
    return answer.end();
  }
  if ((await calendarBySlug(door.pool, place.slug)) !== null)
    throw new DavProblem(405, 'there is something at this address already', '<D:resource-must-be-null/>');
  const { name = place.slug, colour = null, holds = 'events' } = outcome.columns;
  const made = await makeCalendar(door.pool, { slug: place.slug, name, colour, holds }, caller.person);
  await store(door, made.id, outcome, kept);
  response.status(201).set('cache-control', 'no-cache').end();
}
