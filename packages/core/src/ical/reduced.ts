import { v5 as uuid5 } from 'uuid';
import { formatRule, parseRule } from '../recurrence/rule.ts';
import { isDefinedZone } from '../time/defined-zone.ts';
import type { ZoneTable } from '../time/zones.ts';
import { isBusyEvent, isPrivateComponent, isTentative, isTransparent } from './busy.ts';
import { spanOfEvents } from './calendar-object.ts';
import { type Component, type Line, lineOf, paramOf, parseComponents, UnreadableEvent, writeComponents } from './content.ts';
import { readClock } from './event-times.ts';
import { timezoneComponent } from './timezone.ts';

/** What others may see of an event beside when it takes place, by the names that field maps use. */
export const showable = {
  title: 'SUMMARY',
  description: 'DESCRIPTION',
  location: 'LOCATION',
  status: 'STATUS',
  categories: 'CATEGORIES',
  link: 'URL',
  conference: 'CONFERENCE',
  colour: 'COLOR',
  organizer: 'ORGANIZER',
  attendees: 'ATTENDEE',
} as const;
export type Showable = keyof typeof showable;

/** How much of events is shown. */
export interface Showing {
  /** everything, only that the time is taken, or the time with chosen properties */
  what: 'full' | 'busy only' | readonly Showable[];
  alarms: boolean;
  /** a UUID under which UIDs are hidden: it has to be secret, because UIDs can be guessed */
  namespace: string;
  /** `hidden`: always; else where not all of any of its events is shown. The events of one object have one UID in any case */
  uids?: 'hidden';
  /** leaves single components out: an event, or one occurrence of it */
  keep?: (alone: string) => boolean;
}

/** A calendar object as it is shown: its events, and the zones that they name. */
export interface Reduced {
  events: Component[];
  /** IANA names */
  zones: Set<string>;
  /** seconds since 1970 that cover every occurrence; null: without an end */
  starts: number;
  ends: number | null;
  /** definitions of zones that only the object knows, by the names that its events have for them now */
  defined: Map<string, Component>;
}

/** With what times are said; every other property is content. */
const times = ['DTSTART', 'DTEND', 'DURATION', 'RRULE', 'RDATE', 'EXDATE', 'RECURRENCE-ID'];
/** Parameters that say nothing but how to read a value, or what an attendee answered. */
const plainParams = new Set(['TZID', 'VALUE', 'RANGE', 'CN', 'PARTSTAT', 'ROLE', 'CUTYPE', 'LANGUAGE', 'FEATURE']);
const ours = /^X-MONSOON-/;
const dates = /^[0-9TZPWDHMS,/+-]+$/;

const plain = (name: string, value: string): Line => ({ name, params: [], value, source: null });

/**
 * What is shown of a calendar object; null: nothing. Private events always show as taken time, and no more. Nothing
 * passes that is not known to be harmless: no other property, parameter, component or zone name.
 * @throws UnreadableEvent
 */
export function reduceObject(text: string, showing: Showing, zones: ZoneTable): Reduced | null {
  const roots = parseComponents(text);
  const all = roots.flatMap((r) => r.components).filter((c) => c.name === 'VEVENT');
  if (all.length === 0) return null;
  // An event whose times cannot be read is not shown: a value may hide in them.
  const found: Reduced = { events: [], zones: new Set(), defined: new Map(), ...spanOfEvents(all, roots, zones) };
  const naming = new Naming(roots, zones, found);
  const whatOf = (event: Component) => (isPrivateComponent(event) ? 'busy only' : showing.what);
  const isShown = (event: Component) => (whatOf(event) !== 'busy only' || isBusyEvent(event)) && (showing.keep?.(aloneIn(roots, event)) ?? true);
  const shown: Component[] = [];
  const hidden: Component[] = [];
  for (const event of all) (isShown(event) ? shown : hidden).push(event);
  // An override belongs to its series by the UID: both are hidden, or neither is.
  const hideUid = showing.uids === 'hidden' || !shown.some((event) => whatOf(event) === 'full');
  for (const event of shown) {
    const what = whatOf(event);
    found.events.push(what === 'full' ? naming.whole(event, showing) : naming.part(event, what, showing));
  }
  if (hideUid) for (const event of found.events) event.lines = event.lines.map((line) => hiddenUid(line, showing.namespace));
  const master = found.events.find((e) => lineOf(e, 'RECURRENCE-ID') === undefined);
  // An occurrence that is not shown must not come back as the series would have it.
  if (master !== undefined)
    for (const event of hidden) {
      const id = lineOf(event, 'RECURRENCE-ID');
      if (id !== undefined) master.lines.push({ ...naming.line(id), name: 'EXDATE' });
    }
  return found.events.length > 0 ? found : null;
}

/** A line without the UID that it says: of the event itself, or of another one. */
const hiddenUid = (line: Line, namespace: string): Line =>
  line.name === 'UID' || line.name === 'RELATED-TO' ? { ...line, value: uuid5(line.value.trim(), namespace), source: null } : line;

/** A calendar object as it stands, but with other UIDs. @param namespace a secret UUID under which they are hidden @throws UnreadableEvent */
export function hideUids(text: string, namespace: string): string {
  const hide = (component: Component): Component => ({
    ...component,
    lines: component.lines.map((line) => hiddenUid(line, namespace)),
    components: component.components.map(hide),
  });
  return writeComponents(parseComponents(text).map(hide));
}

function aloneIn(roots: readonly Component[], event: Component): string {
  const zones = roots.flatMap((r) => r.components).filter((c) => c.name === 'VTIMEZONE');
  return writeComponents([{ name: 'VCALENDAR', lines: [plain('VERSION', '2.0')], components: [...zones, event] }]);
}

/** Gives zones names that say nothing: those that everybody knows, or a number of their definition. */
class Naming {
  readonly #roots: Component[];
  readonly #zones: ZoneTable;
  readonly #found: Reduced;
  readonly #names = new Map<string, string>();

  constructor(roots: Component[], zones: ZoneTable, found: Reduced) {
    this.#roots = roots;
    this.#zones = zones;
    this.#found = found;
  }

  /** An event as it stands, without Monsoon's mark, and with its zones under their new names. */
  whole(event: Component, { alarms }: Showing): Component {
    const lines = event.lines.filter((l) => !ours.test(l.name)).map((l) => (paramOf(l, 'TZID') === undefined ? l : this.#renamed(l)));
    return { ...event, lines, components: alarms ? event.components : event.components.filter((c) => c.name !== 'VALARM') };
  }

  /** When an event takes place, with no more than the properties that are chosen. */
  part(event: Component, what: 'busy only' | readonly Showable[], { alarms }: Showing): Component {
    const chosen = what === 'busy only' ? [] : what;
    const names = new Set<string>(chosen.map((c) => showable[c]));
    const lines = [
      plain('UID', lineOf(event, 'UID')?.value.trim() ?? ''),
      // When it was last edited is not shown; a time has to stand there (RFC 5545, 3.6.1).
      plain('DTSTAMP', '20000101T000000Z'),
      ...event.lines.filter((l) => times.includes(l.name)).map((l) => this.line(l)),
      ...event.lines.filter((l) => names.has(l.name)).map((l) => this.line(l)),
    ];
    if (!names.has('SUMMARY')) lines.push(plain('SUMMARY', 'Busy'));
    if (!names.has('STATUS') && isTentative(event)) lines.push(plain('STATUS', 'TENTATIVE'));
    if (isTransparent(event)) lines.push(plain('TRANSP', 'TRANSPARENT'));
    const kept = alarms && what !== 'busy only' ? event.components.filter((c) => c.name === 'VALARM').map(plainAlarm) : [];
    return { name: 'VEVENT', lines, components: kept };
  }

  /** A property with nothing in it but what it is shown for. */
  line(line: Line): Line {
    const params = line.params.filter((p) => plainParams.has(p.name));
    if (line.name === 'RRULE') return plain('RRULE', formatRule(parseRule(line.value)));
    if (times.includes(line.name) && !dates.test(line.value.trim())) throw new UnreadableEvent(`"${line.value.slice(0, 100)}" is no time`);
    return this.#renamed({ ...line, params, source: null });
  }

  #renamed(line: Line): Line {
    const tzid = paramOf(line, 'TZID');
    if (tzid === undefined) return line;
    const name = this.#nameOf(tzid, line);
    return { ...line, params: line.params.map((p) => (p.name === 'TZID' ? { name: 'TZID', values: [name] } : p)), source: null };
  }

  #nameOf(tzid: string, line: Line): string {
    const known = this.#names.get(tzid);
    if (known !== undefined) return known;
    const first = line.value.replace(/[,/].*/s, '').trim();
    const { zone } = readClock({ ...line, value: /T/.test(first) ? first : `${first}T000000` }, this.#roots, this.#zones);
    let name: string;
    if (zone !== null && !isDefinedZone(zone.name) && this.#zones.find(zone.name) !== undefined) {
      name = zone.name;
      this.#found.zones.add(name);
    } else {
      const definition = this.#roots.flatMap((r) => r.components).find((c) => c.name === 'VTIMEZONE' && lineOf(c, 'TZID')?.value === tzid);
      if (definition === undefined) throw new UnreadableEvent(`the time zone "${tzid}" is neither known nor defined in the event`);
      const observances = definition.components.map(plainObservance);
      name = `Zone-${uuid5(writeComponents(observances), ZONES).slice(0, 8)}`;
      this.#found.defined.set(name, { name: 'VTIMEZONE', lines: [plain('TZID', name)], components: observances });
    }
    this.#names.set(tzid, name);
    return name;
  }
}

const ZONES = 'c5b7a1de-5d86-4f7e-9f0a-5b0f3d1f6a55';

const plainObservance = (observance: Component): Component => ({
  name: observance.name === 'DAYLIGHT' ? 'DAYLIGHT' : 'STANDARD',
  lines: observance.lines
    .filter((l) => /^(DTSTART|TZOFFSETFROM|TZOFFSETTO|RRULE|RDATE)$/.test(l.name))
    .map((l) => (l.name === 'RRULE' ? plain('RRULE', formatRule(parseRule(l.value))) : plain(l.name, l.value.replace(/[^0-9TZ,+-]/g, '')))),
  components: [],
});

/** When it goes off, and nothing of what it says. */
const plainAlarm = (alarm: Component): Component => ({
  name: 'VALARM',
  lines: [
    plain('ACTION', 'DISPLAY'),
    plain('DESCRIPTION', 'Reminder'),
    ...alarm.lines
      .filter((l) => l.name === 'TRIGGER' && /^[0-9TZPWDHMS+-]+$/.test(l.value.trim()))
      .map((l) => ({ ...l, params: l.params.filter((p) => /^(RELATED|VALUE)$/.test(p.name)), source: null })),
  ],
  components: [],
});

/** The definition of a known zone for everything between two instants, in seconds since 1970. */
export const zoneDefinition = (name: string, zones: ZoneTable, from: number, until: number): Component | null => {
  const zone = zones.find(name);
  return zone === undefined ? null : timezoneComponent(zone, from, until);
};

/** An object of its own of what is shown. @param from, until seconds since 1970 that its zones have to cover */
export function reducedText({ events, zones: names, defined }: Reduced, zones: ZoneTable, from: number, until: number): string {
  const definitions = [...names].flatMap((name) => zoneDefinition(name, zones, from, until) ?? []);
  const head = [plain('VERSION', '2.0'), plain('PRODID', '-//Monsoon//EN')];
  return writeComponents([{ name: 'VCALENDAR', lines: head, components: [...definitions, ...defined.values(), ...events] }]);
}
