import { createHash } from 'node:crypto';
import { objectLimits } from '@monsoon/core';
import { CALENDARS } from '../hosted/addresses.ts';
import type { CalendarFor } from '../hosted/rights.ts';
import { shownEtag } from '../hosted/shown.ts';
import type { DavCaller } from './caller.ts';
import { PEOPLE, principalHref, type Resource } from './resources.ts';
import { APPLE, CAL, DAV, escapeXml, SERVER } from './xml.ts';

const href = (to: string): string => `<D:href>${escapeXml(to)}</D:href>`;

/** A property that the door computes: its inner XML, or null where the resource has none. */
type Live = (resource: Resource, caller: DavCaller) => string | null;

const ofCalendar =
  (value: (mine: CalendarFor) => string | null): Live =>
  (resource) =>
    resource.kind === 'calendar' ? value(resource) : null;
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

/** A token names the state of a calendar as one reader sees it (RFC 6578, 4): of another sight, it says nothing. */
export const syncToken = ({ calendar, sight }: CalendarFor, revision = calendar.revision): string =>
  `urn:monsoon:sync:${calendar.epoch}:${sight}:${revision}`;

/** @returns the revision; null for a token that is of no use any more */
export function revisionOf(token: string, { calendar, sight }: CalendarFor): number | null {
  const [epoch, seen, number] = token.startsWith('urn:monsoon:sync:') ? token.slice('urn:monsoon:sync:'.length).split(':') : [];
  const revision = Number(number);
  const fits = epoch === calendar.epoch && seen === sight && /^\d{1,15}$/.test(number ?? '');
  return fits && revision >= calendar.forgotten && revision <= calendar.revision ? revision : null;
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
export const live: Record<string, { value: Live; byName?: true }> = {
  [`${DAV}resourcetype`]: { value: (r) => types[r.kind] },
  [`${DAV}displayname`]: { value: displayName },
  [`${DAV}getetag`]: {
    value: (r) => (r.kind === 'object' ? escapeXml(shownEtag(r.object, r.of.sight)) : null),
  },
  [`${DAV}getcontenttype`]: {
    value: (r) => (r.kind === 'object' ? `text/calendar; charset=utf-8; component=${r.object.component}` : null),
  },
  [`${DAV}getlastmodified`]: { value: (r) => (r.kind === 'object' ? new Date(r.object.changedAt).toUTCString() : null) },
  [`${DAV}creationdate`]: { value: ofCalendar(({ calendar }) => new Date(calendar.createdAt).toISOString()) },
  [`${DAV}resource-id`]: { value: ofCalendar(({ calendar }) => href(`urn:uuid:${calendar.id}`)), byName: true },
  [`${DAV}sync-token`]: { value: ofCalendar((mine) => syncToken(mine)), byName: true },
  [`${SERVER}getctag`]: { value: ofCalendar((mine) => hashOf(syncToken(mine))), byName: true },
  [`${DAV}owner`]: {
    value: (r) => {
      const owner = r.kind === 'calendar' ? r.calendar.owner : r.kind === 'object' ? r.of.calendar.owner : null;
      return owner === null ? null : href(principalHref(owner));
    },
    byName: true,
  },
  [`${DAV}current-user-principal`]: { value: always((caller) => href(principalHref(caller.person))), byName: true },
  [`${DAV}principal-collection-set`]: { value: always(() => href(PEOPLE)), byName: true },
  [`${DAV}principal-URL`]: { value: (r) => (r.kind === 'person' ? href(r.href) : null), byName: true },
  [`${DAV}alternate-URI-set`]: { value: (r) => (r.kind === 'person' ? '' : null), byName: true },
  [`${DAV}group-membership`]: { value: (r) => (r.kind === 'person' ? '' : null), byName: true },
  [`${DAV}current-user-privilege-set`]: {
    value: (r, caller) =>
      privileges(r, caller)
        .map((p) => `<D:privilege><${p}/></D:privilege>`)
        .join(''),
    byName: true,
  },
  [`${DAV}supported-report-set`]: {
    value: (r) =>
      r.kind === 'calendar'
        ? reports(['C:calendar-multiget', 'C:calendar-query', 'C:free-busy-query', 'D:sync-collection'])
        : r.kind === 'object'
          ? reports(['C:calendar-multiget', 'C:calendar-query'])
          : '',
    byName: true,
  },
  [`${CAL}calendar-home-set`]: { value: (r) => (r.kind === 'person' ? href(CALENDARS) : null), byName: true },
  [`${CAL}calendar-user-address-set`]: { value: (r) => (r.kind === 'person' ? href(`mailto:${r.person.email}`) : null), byName: true },
  [`${CAL}calendar-user-type`]: { value: (r) => (r.kind === 'person' ? 'INDIVIDUAL' : null), byName: true },
  [`${CAL}calendar-description`]: { value: ofCalendar(({ calendar }) => escapeXml(calendar.description) || null), byName: true },
  [`${CAL}calendar-timezone`]: {
    value: ofCalendar(({ calendar }) => (calendar.timezone === null ? null : escapeXml(calendar.timezone))),
    byName: true,
  },
  [`${CAL}supported-calendar-component-set`]: {
    value: ofCalendar(({ calendar }) => `<C:comp name="${calendar.holds === 'tasks' ? 'VTODO' : 'VEVENT'}"/>`),
    byName: true,
  },
  [`${CAL}supported-calendar-data`]: { value: ofCalendar(() => '<C:calendar-data content-type="text/calendar" version="2.0"/>'), byName: true },
  [`${CAL}supported-collation-set`]: {
    value: ofCalendar(() => '<C:supported-collation>i;ascii-casemap</C:supported-collation><C:supported-collation>i;octet</C:supported-collation>'),
    byName: true,
  },
  [`${CAL}max-resource-size`]: { value: ofCalendar(() => String(objectLimits.octets)), byName: true },
  [`${CAL}max-attendees-per-instance`]: { value: ofCalendar(() => String(objectLimits.attendees)), byName: true },
  [`${APPLE}calendar-color`]: { value: ofCalendar(({ calendar }) => calendar.colour), byName: true },
};

/** The element of a property that a resource has, or null. Dead ones are kept as they came. */
export function propertyOf(resource: Resource, name: string, caller: DavCaller): { inner: string } | { whole: string } | null {
  const known = Object.hasOwn(live, name) ? live[name] : undefined;
  if (known !== undefined) {
    const inner = known.value(resource, caller);
    return inner === null ? null : { inner };
  }
  if (resource.kind !== 'calendar' || !Object.hasOwn(resource.calendar.properties, name)) return null;
  return { whole: resource.calendar.properties[name] ?? '' };
}

/** Names of the properties that a resource has. @param all also those that are given only by name */
export function namesOf(resource: Resource, caller: DavCaller, all: boolean): string[] {
  const computed = Object.entries(live).flatMap(([name, { value, byName }]) =>
    (all || byName !== true) && value(resource, caller) !== null ? [name] : [],
  );
  return [...computed, ...(resource.kind === 'calendar' ? Object.keys(resource.calendar.properties) : [])];
}
