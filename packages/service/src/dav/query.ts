import {
  type ComponentFilter,
  type PropertyFilter,
  type Selection,
  type TextMatch,
  type TimeRange,
  UTC,
  utcSeconds,
  type Zone,
  type ZoneTable,
} from '@monsoon/core';
import { DavProblem } from './problem.ts';
import { CAL, childOf, type Element, isNamed } from './xml.ts';

const FAR = { from: -1e11, until: 1e11 };
/** Nested filters, and properties of one: what is asked of every object. */
const MOST_FILTERS = 50;

/** Components with times, by how deep they are. */
const timed: Record<number, readonly string[]> = { 1: ['VEVENT', 'VTODO'], 2: ['VALARM'] };
/** Properties that hold dates (RFC 5545, 3.8). */
const DATES = ['DTSTART', 'DTEND', 'DUE', 'COMPLETED', 'CREATED', 'LAST-MODIFIED', 'DTSTAMP', 'RECURRENCE-ID', 'RDATE', 'EXDATE'];

const malformed = (reason: string): DavProblem => new DavProblem(403, reason, '<C:valid-filter/>');
const unsupported = (reason: string): DavProblem => new DavProblem(403, reason, '<C:supported-filter/>');

/** `start` and `end` of a time-range (RFC 4791, 9.9). @throws DavProblem */
export function timeRange(element: Element): TimeRange {
  const at = (name: 'start' | 'end') => {
    const text = element.attributes.get(name);
    if (text === undefined) return null;
    const seconds = utcSeconds(text);
    if (seconds === null) throw malformed(`${name}="${text.slice(0, 40)}" is no date with UTC time such as 20261201T000000Z`);
    return seconds;
  };
  const [from, until] = [at('start'), at('end')];
  if (from === null && until === null) throw malformed('a time range has a start, an end, or both');
  const range = { from: from ?? FAR.from, until: until ?? FAR.until };
  if (range.until <= range.from) throw malformed('the time range ends before it starts');
  return range;
}

/** The zone of days and floating times in a query: a C:timezone with a name that is known, else UTC. */
export function zoneOf(text: string | null | undefined, zones: ZoneTable): Zone {
  const tzid = /^TZID(?:;[^:]*)?:(.+)$/im.exec(text ?? '')?.[1]?.trim();
  return (tzid === undefined ? undefined : zones.find(tzid)) ?? UTC;
}

function textMatch(element: Element | undefined): TextMatch | null {
  if (element === undefined) return null;
  const collation = element.attributes.get('collation') ?? 'i;ascii-casemap';
  if (collation !== 'i;ascii-casemap' && collation !== 'i;octet' && collation !== 'i;unicode-casemap' && collation !== 'default')
    throw new DavProblem(403, `the collation "${collation.slice(0, 40)}" is not known; i;ascii-casemap and i;octet are`, '<C:supported-collation/>');
  return { text: element.text, negate: element.attributes.get('negate-condition') === 'yes', exact: collation === 'i;octet' };
}

/** The filter of a calendar-query. @throws DavProblem naming what is wrong with it */
export function readFilter(element: Element | undefined): ComponentFilter {
  const [outer, ...others] = element?.children.filter((c) => isNamed(c, CAL('comp-filter'))) ?? [];
  if (outer === undefined || others.length > 0 || outer.attributes.get('name')?.toUpperCase() !== 'VCALENDAR')
    throw malformed('a filter holds one comp-filter, of VCALENDAR');
  let count = 0;
  const named = (e: Element) => {
    const name = e.attributes.get('name');
    if (name === undefined || !/^[A-Za-z0-9-]{1,100}$/.test(name)) throw malformed('each filter has the name of a component, property or parameter');
    if (++count > MOST_FILTERS) throw malformed(`there are more than ${MOST_FILTERS} filters`);
    return name.toUpperCase();
  };
  const component = (e: Element, depth: number): ComponentFilter => {
    const name = named(e);
    const span = childOf(e, CAL('time-range'));
    if (span !== undefined && timed[depth]?.includes(name) !== true)
      throw unsupported(`time ranges of ${name} are not looked for here; those of VEVENT and VTODO are, and of VALARM in them`);
    return {
      name,
      absent: childOf(e, CAL('is-not-defined')) !== undefined,
      range: span === undefined ? null : timeRange(span),
      properties: e.children.filter((c) => isNamed(c, CAL('prop-filter'))).map(property),
      components: e.children.filter((c) => isNamed(c, CAL('comp-filter'))).map((c) => component(c, depth + 1)),
    };
  };
  const property = (e: Element): PropertyFilter => {
    const name = named(e);
    const span = childOf(e, CAL('time-range'));
    if (span !== undefined && !DATES.includes(name)) throw unsupported(`${name} is no date; time ranges are looked for in ${DATES.join(', ')}`);
    return {
      name,
      absent: childOf(e, CAL('is-not-defined')) !== undefined,
      range: span === undefined ? null : timeRange(span),
      match: textMatch(childOf(e, CAL('text-match'))),
      params: e.children
        .filter((c) => isNamed(c, CAL('param-filter')))
        .map((c) => ({ name: named(c), absent: childOf(c, CAL('is-not-defined')) !== undefined, match: textMatch(childOf(c, CAL('text-match'))) })),
    };
  };
  return component(outer, 0);
}

/** Which parts of objects a calendar-data wants; null: all of them. */
export function readSelection(data: Element | undefined): Selection | null {
  const outer = childOf(data, CAL('comp'));
  if (outer === undefined) return null;
  let count = 0;
  const named = (e: Element): string => {
    if (++count > MOST_FILTERS) throw new DavProblem(403, `there are more than ${MOST_FILTERS} parts`, '<C:supported-calendar-data/>');
    return (e.attributes.get('name') ?? '').toUpperCase();
  };
  const read = (e: Element): Selection => {
    const has = (name: string) => childOf(e, CAL(name)) !== undefined;
    const of = (name: string) => e.children.filter((c) => isNamed(c, CAL(name)));
    return {
      name: named(e),
      properties: has('allprop') ? 'all' : of('prop').map((p) => ({ name: named(p), withValue: p.attributes.get('novalue') !== 'yes' })),
      components: has('allcomp') ? 'all' : of('comp').map(read),
    };
  };
  return read(outer);
}

/** The span in which an object must lie to match at all, for the index; null: any. */
export function spanOfFilter(filter: ComponentFilter): TimeRange | null {
  const spans = filter.components.flatMap((c) => (c.absent || c.range === null ? [] : [c.range]));
  return spans.length === 0 ? null : { from: Math.max(...spans.map((s) => s.from)), until: Math.min(...spans.map((s) => s.until)) };
}
