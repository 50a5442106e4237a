import { createHash } from 'node:crypto';
import { objectLimits } from '@monsoon/core';
import { CALENDARS } from '../hosted/addresses.ts';
import type { CalendarFor } from '../hosted/rights.ts';
import type { DavCaller } from './caller.ts';
import { type Door, PEOPLE, principalHref, type Resource, shownEtag } from './resources.ts';
import { APPLE, CAL, DAV, escapeXml, keyOf, type Name, nameOfKey, SERVER } from './xml.ts';

const href = (to: string): string => `<D:href>${escapeXml(to)}</D:href>`;

/** A property that the door computes: its inner XML, or null where the resource has none. */
type Live = (resource: Resource, caller: DavCaller, door: Door) => string | null;

const ofCalendar =
  (value: (mine: CalendarFor, door: Door) => string | null): Live =>
  (resource, _caller, door) =>
    resource.kind === 'calendar' ? value(resource, door) : null;
const always =
  (value: (caller: DavCaller) => string): Live =>
  (_resource, caller) =>
    value(caller);

const types: Record<Resource['kind'], string> = {
  root: '<D:collection/>',
  people: '<D:collection/>',
  person: '<D:collection/><D:principal/>',
  home: '<D:collection/>',
  calendar: '<D:collection/><C:calendar/>',
  object: '',
};

const reports = (names: string[]): string => names.map((name) => `<D:supported-report><D:report><${name}/></D:report></D:supported-report>`).join('');

/** A token names the state of a calendar as one reader sees it (RFC 6578, 4): of another sight, or with other names, it says nothing. */
const stateOf = ({ disguise }: Door, { calendar, sight }: CalendarFor): string =>
  `urn:monsoon:sync:${calendar.epoch}:${sight === 'all' ? sight : `${sight}-${disguise.mark}`}:`;

export const syncToken = (door: Door, mine: CalendarFor, revision = mine.calendar.revision): string => `${stateOf(door, mine)}${revision}`;

/** @returns the revision; null for a token that is of no use any more */
export function revisionOf(token: string, door: Door, mine: CalendarFor): number | null {
  const state = stateOf(door, mine);
  const number = token.startsWith(state) ? token.slice(state.length) : '';
  const revision = Number(number);
  return /^\d{1,15}$/.test(number) && revision >= mine.calendar.forgotten && revision <= mine.calendar.revision ? revision : null;
}

/** What a caller may do with a resource (RFC 3744, 5.4). */
function privileges(resource: Resource, caller: DavCaller): string[] {
  const mine = resource.kind === 'object' ? resource.of : resource.kind === 'calendar' ? resource : null;
  const look = ['D:read', 'D:read-current-user-privilege-set'];
  if (mine === null) return resource.kind === 'home' && mayMake(caller) ? [...look, 'D:bind'] : look;
  const may = [...look, 'C:read-free-busy'];
  if (mine.mayWrite) may.push('D:write-content', 'D:bind', 'D:unbind');
  if (mine.mayManage) may.push('D:write-properties');
  if (mine.mayWrite && mine.mayManage) may.push('D:write');
  return may;
}

/** Viewers look; everybody else may make calendars, which are theirs then. */
export const mayMake = (caller: DavCaller): boolean => caller.role !== 'viewer';

const hashOf = (text: string): string => createHash('sha256').update(text).digest('hex').slice(0, 16);

function displayName(resource: Resource): string | null {
  switch (resource.kind) {
    case 'root':
      return 'Monsoon';
    case 'people':
      return 'People';
    case 'home':
      return 'Calendars';
    case 'person':
      return escapeXml(resource.person.name);
    case 'calendar':
      return escapeXml(resource.calendar.name);
    case 'object':
      return null;
  }
}

/** Every property that the door computes; the marked ones are given only when they are asked for by name (RFC 4791 and 3744 want that). */
const computed: { name: Name; value: Live; byName?: true }[] = [
  { name: DAV('resourcetype'), value: (r) => types[r.kind] },
  { name: DAV('displayname'), value: displayName },
  {
    name: DAV('getetag'),
    value: (r, _caller, door) => (r.kind === 'object' ? escapeXml(shownEtag(door, r.of, r.object)) : null),
  },
  {
    name: DAV('getcontenttype'),
    value: (r) => (r.kind === 'object' ? `text/calendar; charset=utf-8; component=${r.object.component}` : null),
  },
  {
    name: DAV('getlastmodified'),
    // A change of what they do not see is nothing to others.
    value: (r) => (r.kind === 'object' && r.of.sight === 'all' ? new Date(r.object.changedAt).toUTCString() : null),
  },
  {
    name: DAV('getcontentlength'),
    // What others see is worked out when it is asked for: how long it is then, is not known.
    value: (r) => (r.kind === 'object' && r.of.sight === 'all' ? String(r.object.size) : null),
  },
  { name: DAV('creationdate'), value: ofCalendar(({ calendar }) => new Date(calendar.createdAt).toISOString()) },
  { name: DAV('resource-id'), value: ofCalendar(({ calendar }) => href(`urn:uuid:${calendar.id}`)), byName: true },
  { name: DAV('sync-token'), value: ofCalendar((mine, door) => syncToken(door, mine)), byName: true },
  { name: SERVER('getctag'), value: ofCalendar((mine, door) => hashOf(syncToken(door, mine))), byName: true },
  {
    name: DAV('owner'),
    value: (r) => {
      const owner = r.kind === 'calendar' ? r.calendar.owner : r.kind === 'object' ? r.of.calendar.owner : null;
      return owner === null ? null : href(principalHref(owner));
    },
    byName: true,
  },
  { name: DAV('current-user-principal'), value: always((caller) => href(principalHref(caller.person))), byName: true },
  { name: DAV('principal-collection-set'), value: always(() => href(PEOPLE)), byName: true },
  { name: DAV('principal-URL'), value: (r) => (r.kind === 'person' ? href(r.href) : null), byName: true },
  { name: DAV('alternate-URI-set'), value: (r) => (r.kind === 'person' ? '' : null), byName: true },
  { name: DAV('group-membership'), value: (r) => (r.kind === 'person' ? '' : null), byName: true },
  {
    name: DAV('current-user-privilege-set'),
    value: (r, caller) =>
      privileges(r, caller)
        .map((p) => `<D:privilege><${p}/></D:privilege>`)
        .join(''),
    byName: true,
  },
  {
    name: DAV('supported-report-set'),
    value: (r) =>
      r.kind === 'calendar'
        ? reports(['C:calendar-multiget', 'C:calendar-query', 'C:free-busy-query', 'D:sync-collection'])
        : r.kind === 'object'
          ? reports(['C:calendar-multiget', 'C:calendar-query'])
          : '',
    byName: true,
  },
  { name: CAL('calendar-home-set'), value: (r) => (r.kind === 'person' ? href(CALENDARS) : null), byName: true },
  { name: CAL('calendar-user-address-set'), value: (r) => (r.kind === 'person' ? href(`mailto:${r.person.email}`) : null), byName: true },
  { name: CAL('calendar-user-type'), value: (r) => (r.kind === 'person' ? 'INDIVIDUAL' : null), byName: true },
  { name: CAL('calendar-description'), value: ofCalendar(({ calendar }) => escapeXml(calendar.description) || null), byName: true },
  {
    name: CAL('calendar-timezone'),
    value: ofCalendar(({ calendar }) => (calendar.timezone === null ? null : escapeXml(calendar.timezone))),
    byName: true,
  },
  {
    name: CAL('supported-calendar-component-set'),
    value: ofCalendar(({ calendar }) => `<C:comp name="${calendar.holds === 'tasks' ? 'VTODO' : 'VEVENT'}"/>`),
    byName: true,
  },
  { name: CAL('supported-calendar-data'), value: ofCalendar(() => '<C:calendar-data content-type="text/calendar" version="2.0"/>'), byName: true },
  {
    name: CAL('supported-collation-set'),
    value: ofCalendar(() => '<C:supported-collation>i;ascii-casemap</C:supported-collation><C:supported-collation>i;octet</C:supported-collation>'),
    byName: true,
  },
  { name: CAL('max-resource-size'), value: ofCalendar(() => String(objectLimits.octets)), byName: true },
  { name: CAL('max-attendees-per-instance'), value: ofCalendar(() => String(objectLimits.attendees)), byName: true },
  { name: APPLE('calendar-color'), value: ofCalendar(({ calendar }) => calendar.colour), byName: true },
];
const live = new Map(computed.map((property) => [keyOf(property.name), property]));
export const isComputed = (name: Name): boolean => live.has(keyOf(name));

/** The element of a property that a resource has, or null. Dead ones are kept as they came. */
export function propertyOf(resource: Resource, name: Name, caller: DavCaller, door: Door): { inner: string } | { whole: string } | null {
  const key = keyOf(name);
  const known = live.get(key);
  if (known !== undefined) {
    const inner = known.value(resource, caller, door);
    return inner === null ? null : { inner };
  }
  if (resource.kind !== 'calendar' || !Object.hasOwn(resource.calendar.properties, key)) return null;
  return { whole: resource.calendar.properties[key] ?? '' };
}

/** Names of the properties that a resource has. @param all also those that are given only by name */
export function namesOf(resource: Resource, caller: DavCaller, door: Door, all: boolean): Name[] {
  const those = computed.filter(({ value, byName }) => (all || byName !== true) && value(resource, caller, door) !== null).map((c) => c.name);
  return [...those, ...(resource.kind === 'calendar' ? Object.keys(resource.calendar.properties).map(nameOfKey) : [])];
}
