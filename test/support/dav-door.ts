import { expect } from 'chai';
import { type Device, type HostedService, openHosted } from './hosted.ts';

/** The CalDAV door, and what calendar programs send to it, for its tests. */

export const xml = { 'content-type': 'application/xml; charset=utf-8' };
export const calendar = { 'content-type': 'text/calendar; charset=utf-8' };
export const event = (uid: string, lines: string[] = []) =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Somebody//Else//EN',
    'BEGIN:VEVENT',
    `UID:${uid}`,
    'DTSTAMP:20261101T000000Z',
    ...(lines.some((l) => l.startsWith('DTSTART')) ? [] : ['DTSTART:20261201T090000Z', 'DTEND:20261201T100000Z']),
    ...(lines.some((l) => l.startsWith('SUMMARY')) ? [] : ['SUMMARY:Regulating the action']),
    ...lines,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n');
export const propfind = (...props: string[]) =>
  `<propfind xmlns="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav" xmlns:A="http://apple.com/ns/ical/"><prop>${props.map((p) => `<${p}/>`).join('')}</prop></propfind>`;
export const sync = (token: string, more = '') =>
  `<sync-collection xmlns="DAV:"><sync-token>${token}</sync-token><sync-level>1</sync-level>${more}<prop><getetag/></prop></sync-collection>`;
export const tokenIn = (text: string) => /sync-token>([^<]+)</.exec(text)?.[1] ?? '';
export const query = (filter: string, prop = '<D:getetag/><C:calendar-data/>') =>
  `<C:calendar-query xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><D:prop>${prop}</D:prop><C:filter><C:comp-filter name="VCALENDAR">${filter}</C:comp-filter></C:filter></C:calendar-query>`;

/** A service, an administrator's device, and for each test of a suite a calendar of its own. */
export interface TestDoor {
  hosted: HostedService;
  ines: Device;
  /** the calendar's address */
  home: string;
  number: number;
  put(name: string, text: string, headers?: Record<string, string>): ReturnType<Device['dav']>;
}

/** Opens it before a suite, and stops it after. @param slug what its calendars are called by */
export function useDoor(slug: string): TestDoor {
  const door = { number: 0 } as TestDoor;
  door.put = (name, text, headers = {}) => door.ines.dav('PUT', door.home + name, { ...calendar, ...headers }, text);
  before(async () => {
    door.hosted = await openHosted();
    door.ines = await door.hosted.person('administrator');
  });
  after(() => door.hosted.stop());
  beforeEach(async () => {
    door.home = `/dav/calendars/${slug}-${++door.number}/`;
    expect((await door.ines.dav('MKCALENDAR', door.home)).status).to.equal(201);
  });
  return door;
}
