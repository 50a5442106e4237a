import { expandSeries, type Window } from '../recurrence/expand.ts';
import { InvalidRule } from '../recurrence/rule.ts';
import type { Zone, ZoneTable } from '../time/zones.ts';
import { type AlarmOwner, goesOff } from './alarm-times.ts';
import { isTentative, isTransparent } from './busy.ts';
import { instantOf, taskTouches } from './calendar-object.ts';
import { type Component, type Line, type Param, parseComponents, UnreadableEvent, unescapeText } from './content.ts';

/** A span of time in seconds since 1970. */
export interface TimeRange {
  from: number;
  until: number;
}

export interface TextMatch {
  text: string;
  negate: boolean;
  /** `i;octet` is case-sensitive, `i;ascii-casemap` is not */
  exact: boolean;
}

export interface PropertyFilter {
  name: string;
  absent: boolean;
  /** of its date or time; a property that is none matches nothing */
  range: TimeRange | null;
  match: TextMatch | null;
  params: { name: string; absent: boolean; match: TextMatch | null }[];
}

/** A comp-filter of a calendar-query (RFC 4791, 9.7.1). */
export interface ComponentFilter {
  name: string;
  absent: boolean;
  /** of events, tasks and alarms */
  range: TimeRange | null;
  properties: PropertyFilter[];
  components: ComponentFilter[];
}

/** Occurrences of one series that a query looks through; it is taken to match where there are more. */
const MOST = 5000;
const DAY = 86_400;

interface Reading {
  roots: Component[];
  zones: ZoneTable;
  /** of days and floating times */
  home: Zone;
}

/** Does a calendar object match a filter whose outermost component is VCALENDAR? What cannot be read matches nothing. */
export function matchesFilter(filter: ComponentFilter, text: string, home: Zone, zones: ZoneTable): boolean {
  const roots = parseComponents(text);
  const fitting = roots.filter((r) => r.name === filter.name);
  return matchesAny(filter, fitting, { roots, zones, home }, null);
}

/** @param owner what alarms belong to; null further out */
function matchesAny(filter: ComponentFilter, fitting: Component[], reading: Reading, owner: AlarmOwner | null): boolean {
  if (filter.absent) return fitting.length === 0;
  const { range } = filter;
  const inRange = range === null ? fitting : owner === null ? touching(fitting, range, reading) : fitting.filter((c) => rings(c, owner, range));
  return inRange.some(
    (component) =>
      filter.properties.every((p) => matchesProperty(p, component, reading)) &&
      filter.components.every((inner) =>
        matchesAny(
          inner,
          component.components.filter((c) => c.name === inner.name),
          reading,
          inner.name === 'VALARM' ? { component, all: fitting, most: MOST, ...reading } : null,
        ),
      ),
  );
}

function rings(alarm: Component, owner: AlarmOwner, range: TimeRange): boolean {
  try {
    return goesOff(alarm, owner, range);
  } catch (error) {
    if (error instanceof InvalidRule) return true;
    throw error;
  }
}

const touching = (components: Component[], range: TimeRange, reading: Reading): Component[] =>
  components.length > 0 && touches(components, range, reading) ? components : [];

/** The components of one object together: a series may be in the span by an override alone. */
function touches(components: Component[], range: TimeRange, { roots, zones, home }: Reading): boolean {
  const window: Window = { ...range, home, most: MOST };
  if (components[0]?.name === 'VTODO') return components.some((c) => taskTouches(c, roots, window, zones));
  try {
    return expandSeries(components, roots, window, zones).length > 0;
  } catch (error) {
    if (error instanceof InvalidRule) return true;
    throw error;
  }
}

function matchesProperty(filter: PropertyFilter, component: Component, reading: Reading): boolean {
  const lines = component.lines.filter((l) => l.name === filter.name);
  if (filter.absent) return lines.length === 0;
  const { range } = filter;
  return lines.some(
    (line) =>
      (range === null || line.value.split(',').some((value) => isDateIn({ ...line, value }, range, reading))) &&
      (filter.match === null || matchesText(filter.match, unescapeText(line.value))) &&
      filter.params.every((p) => matchesParam(p, line.params)),
  );
}

/** A moment in the span, or a day that touches it. */
function isDateIn(line: Line, { from, until }: TimeRange, { roots, zones, home }: Reading): boolean {
  try {
    const at = instantOf(line, roots, zones, home);
    const length = /^\d{8}$/.test(line.value.trim()) ? DAY : 0;
    return at !== null && at < until && (length === 0 ? at >= from : at + length > from);
  } catch (error) {
    if (error instanceof UnreadableEvent) return false;
    throw error;
  }
}

function matchesParam(filter: PropertyFilter['params'][number], params: Param[]): boolean {
  const { match } = filter;
  const values = params.filter((p) => p.name === filter.name).flatMap((p) => p.values);
  if (filter.absent) return values.length === 0;
  return values.length > 0 && (match === null || values.some((v) => matchesText(match, v)));
}

/** ASCII letters alone lose their case (RFC 4790, 9.2). */
const fold = (text: string): string => text.replace(/[A-Z]/g, (c) => c.toLowerCase());

const matchesText = ({ text, negate, exact }: TextMatch, value: string): boolean =>
  (exact ? value.includes(text) : fold(value).includes(fold(text))) !== negate;

/** When an object is busy: opaque events that are not cancelled (RFC 4791, 7.10). */
export interface Busy extends TimeRange {
  tentative: boolean;
}

/** @throws UnreadableEvent */
export function busyTimes(text: string, range: TimeRange, home: Zone, zones: ZoneTable): Busy[] {
  const roots = parseComponents(text);
  const events = roots.flatMap((r) => r.components).filter((c) => c.name === 'VEVENT');
  if (events.length === 0) return [];
  return expandSeries(events, roots, { ...range, home, most: MOST }, zones)
    .filter((o) => !o.cancelled && !isTransparent(o.component) && o.until > o.from)
    .map((o) => ({
      from: Math.max(o.from, range.from),
      until: Math.min(o.until, range.until),
      tentative: isTentative(o.component),
    }));
}

/** Joins what overlaps or touches; firmly busy goes before tentative. @param busy in any order */
export function joinBusy(busy: readonly Busy[]): Busy[] {
  const joined: Busy[] = [];
  const last = new Map<boolean, Busy>();
  for (const next of [...busy].sort((a, b) => a.from - b.from || Number(a.tentative) - Number(b.tentative))) {
    const before = last.get(next.tentative);
    if (before !== undefined && next.from <= before.until) before.until = Math.max(before.until, next.until);
    else {
      const fresh = { ...next };
      joined.push(fresh);
      last.set(next.tentative, fresh);
    }
  }
  return joined;
}
