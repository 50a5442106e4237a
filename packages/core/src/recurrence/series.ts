import { v5 as uuid5 } from 'uuid';
import { certain } from '../certain.ts';
import { type Component, knownLine, type Line, lineOf, parseComponents, UnreadableEvent, writeComponents } from '../ical/content.ts';
import { compact } from '../ical/dates.ts';
import { readWhen } from '../ical/event-times.ts';
import type { When } from '../time/when.ts';
import type { ZoneTable } from '../time/zones.ts';
import { withoutExclusion } from './dates-of-series.ts';
import { expandSeries, nextStart, type Occurrence, recurrenceIdOf, type Window } from './expand.ts';

/** A calendar object that is more than one event: one with a rule or added dates, or one that holds single occurrences alone. */
export interface Series {
  uid: string;
  roots: Component[];
  /** its VEVENTs: the series itself, where it is there, and the overrides */
  events: Component[];
  master: Component | null;
  /** recurrence rules as written */
  rules: string[];
}

const eventsOf = (roots: readonly Component[]): Component[] =>
  roots.flatMap((r) => (r.name === 'VCALENDAR' ? r.components : [r])).filter((c) => c.name === 'VEVENT');
const isOverride = (event: Component): boolean => lineOf(event, 'RECURRENCE-ID') !== undefined;

/**
 * The series that a text holds; null: a single event.
 * @throws UnreadableEvent when it is no calendar object
 */
export function readSeries(text: string): Series | null {
  // Most events are single: the words of a series would stand in their text.
  if (!/\n(RRULE|RDATE|RECURRENCE-ID)\s*[;:]/i.test(text)) return null;
  const roots = parseComponents(text);
  const events = eventsOf(roots);
  const master = events.find((e) => !isOverride(e)) ?? null;
  const repeats = master === null || lineOf(master, 'RRULE') !== undefined || lineOf(master, 'RDATE') !== undefined || events.length > 1;
  const [first] = events;
  if (first === undefined || !repeats) return null;
  const uid = lineOf(first, 'UID')?.value.trim();
  if (!uid) throw new UnreadableEvent('the event has no UID');
  const rules = master === null ? [] : master.lines.filter((l) => l.name === 'RRULE').map((l) => l.value);
  return { uid, roots, events, master, rules };
}

/** An occurrence as an event of its own. */
export interface SeriesOccurrence extends Occurrence {
  /** names its content: when it is another, the occurrence was edited */
  tag: string;
  /** moved, or written otherwise than the series */
  isOverride: boolean;
}

/**
 * The occurrences of a series in a window, and those that are asked for by their recurrence-ids wherever they are.
 * @throws UnreadableEvent
 */
export function occurrencesOf(series: Series, window: Window, zones: ZoneTable): SeriesOccurrence[] {
  const tags = new Map<Component, string>();
  const tagOf = (component: Component): string => {
    const known = tags.get(component) ?? contentTag(component);
    tags.set(component, known);
    return known;
  };
  return expandSeries(series.events, series.roots, window, zones).map(({ recurrenceId, when, from, until, component, cancelled }) => ({
    recurrenceId,
    when,
    component,
    cancelled,
    from,
    until,
    tag: `${tagOf(component)} ${whenTag(when)}`,
    isOverride: isOverride(component),
  }));
}

/** When the first occurrence begins that lies behind the window, in seconds since 1970; null: there is none. */
export const nextOccurrence = (series: Series, window: Window, zones: ZoneTable): number | null =>
  nextStart(series.events, series.roots, window, zones);

/** When and how often an event takes place is compared by its occurrences; when it was written, and how often, is no content. */
const notContent = /^(DTSTART|DTEND|DURATION|RRULE|RDATE|EXDATE|EXRULE|RECURRENCE-ID|DTSTAMP|CREATED|LAST-MODIFIED|SEQUENCE|X-MONSOON-(LANE|PAIR))$/;
const TAGS = '3b3b5a0e-6a51-4b5f-9a37-1f4f6f2e6d10';

const whenTag = (when: When): string => (when.kind === 'all-day' ? `${when.first}/${when.end}` : `${when.start}/${when.end} ${when.zone ?? ''}`);

function contentTag(component: Component): string {
  const own = { ...component, lines: component.lines.filter((l) => !notContent.test(l.name)) };
  return uuid5(writeComponents([own]), TAGS).slice(0, 18);
}

/** Of which a copy would say that the occurrence repeats. */
const ofTheSeries = /^(RRULE|RDATE|EXDATE|EXRULE|DTSTART|DTEND|DURATION|RECURRENCE-ID)$/;

/** The text of one occurrence as a calendar object of its own: what speaks for it, at its time, with the zones that it names. */
export function occurrenceText(series: Series, occurrence: Occurrence, zones: ZoneTable): string {
  const { component } = occurrence;
  const calendar = series.roots.find((r) => r.components.includes(component));
  const alone = isOverride(component) && knownLine(component, 'RECURRENCE-ID').params.every((p) => p.name !== 'RANGE');
  const event = alone ? component : copyOf(series, occurrence, zones);
  if (calendar === undefined) return writeComponents([event]);
  const parts = calendar.components.filter((c) => c.name === 'VTIMEZONE');
  return writeComponents([{ ...calendar, components: [...parts, event] }]);
}

/** What speaks for an occurrence, as the override that it would be (RFC 5545, 3.8.4.4). */
function copyOf(series: Series, { component, recurrenceId, when }: Occurrence, zones: ZoneTable): Component {
  const start = knownLine(series.master ?? component, 'DTSTART');
  const at = (name: string, like: Line, value: string): Line => ({
    name,
    params: like.params.filter((p) => p.name === 'TZID' || p.name === 'VALUE'),
    value,
    source: null,
  });
  const lines: Line[] = [
    at('RECURRENCE-ID', start, recurrenceIdOf(recurrenceId, start, { roots: series.roots, zones })),
    ...timesOf(when, knownLine(component, 'DTSTART')),
    ...component.lines.filter((l) => !ofTheSeries.test(l.name)),
  ];
  return { ...component, lines };
}

/** DTSTART and DTEND in the form in which the series has its start. */
function timesOf(when: When, like: Line): Line[] {
  const utc = /Z$/i.test(like.value.trim()) ? 'Z' : '';
  const params = like.params.filter((p) => p.name === 'TZID' || p.name === 'VALUE');
  const line = (name: string, value: string): Line => ({ name, params, value, source: null });
  if (when.kind === 'all-day') return [line('DTSTART', compact(when.first)), line('DTEND', compact(when.end))];
  const from = line('DTSTART', `${compact(when.start)}${utc}`);
  return when.start === when.end ? [from] : [from, line('DTEND', `${compact(when.end)}${utc}`)];
}

/** What becomes of one occurrence: another text of its own, or nothing. */
export type OccurrenceEdit = { id: string; text: string } | { id: string; remove: true };

/** What an edit of occurrences is written with. */
export interface EditingSeries {
  zones: ZoneTable;
  /** UUID of the lane: marks of others are not copied into what it writes */
  lane: string;
  /** compares days and times without zone with instants */
  window: Window;
}

/**
 * The text of a series with some occurrences edited: each an override, or an excluded date. Nothing else of it is
 * touched. @returns null when nothing would be left of it
 * @throws UnreadableEvent
 */
export function editOccurrences(text: string, edits: readonly OccurrenceEdit[], { zones, lane, window }: EditingSeries): string | null {
  const series = readSeries(text);
  if (series === null) throw new UnreadableEvent('the event does not repeat any more');
  const known = new Map(
    occurrencesOf(series, { ...window, from: 0, until: 0, also: new Set(edits.map((e) => e.id)) }, zones).map((o) => [o.recurrenceId, o]),
  );
  const calendar = series.roots.find((r) => r.components.some((c) => series.events.includes(c))) ?? null;
  const inside = calendar === null ? series.roots : calendar.components;
  const drop = (component: Component) => inside.splice(inside.indexOf(component), 1);
  for (const edit of edits) {
    const there = known.get(edit.id);
    const override = there?.isOverride === true && !hasRange(there.component) ? there.component : null;
    if ('remove' in edit) {
      if (override !== null) drop(override);
      if (series.master !== null) excludeDate(series.master, edit.id, { roots: series.roots, zones });
      continue;
    }
    const roots = parseComponents(edit.text);
    const event = eventsOf(roots)[0];
    if (event === undefined) throw new UnreadableEvent('there is no VEVENT in the text');
    const marked = lineOf(event, 'X-MONSOON-LANE')?.value;
    const own =
      marked === undefined || marked === lane ? event : { ...event, lines: event.lines.filter((l) => !/^X-MONSOON-(LANE|PAIR)$/.test(l.name)) };
    if (override === null) inside.push(own);
    else inside.splice(inside.indexOf(override), 1, own);
    addZones(inside, roots);
  }
  return eventsOf(series.roots).length === 0 ? null : writeComponents(series.roots);
}

const hasRange = (component: Component): boolean => knownLine(component, 'RECURRENCE-ID').params.some((p) => p.name === 'RANGE');

function excludeDate(master: Component, id: string, at: { roots: Component[]; zones: ZoneTable }): void {
  const start = knownLine(master, 'DTSTART');
  const value = recurrenceIdOf(id, start, at);
  const params = start.params.filter((p) => p.name === 'TZID' || p.name === 'VALUE');
  const last = master.lines.findLastIndex((l) => l.name === 'EXDATE' || l.name === 'RRULE' || l.name === 'RDATE');
  master.lines.splice(last + 1, 0, { name: 'EXDATE', params, value, source: null });
}

/** Zones that an edited occurrence names, and its series did not (RFC 5545, 3.2.19). */
function addZones(inside: Component[], from: readonly Component[]): void {
  const idOf = (c: Component) => lineOf(c, 'TZID')?.value;
  const there = new Set(inside.filter((c) => c.name === 'VTIMEZONE').map(idOf));
  const added = from.flatMap((r) => r.components).filter((c) => c.name === 'VTIMEZONE' && !there.has(idOf(c)));
  inside.unshift(...added);
}

/**
 * Puts an occurrence back that was taken out of its series: no longer excluded, and written as it was.
 * @returns null when the series has it already
 * @throws UnreadableEvent
 */
export function restoreOccurrence(text: string, id: string, occurrence: string, context: EditingSeries): string | null {
  const series = readSeries(text);
  if (series === null) throw new UnreadableEvent('the event does not repeat any more');
  const { window, zones } = context;
  const asked = { ...window, from: 0, until: 0, also: new Set([id]) };
  if (occurrencesOf(series, asked, zones).length > 0) return null;
  if (series.master !== null) series.master.lines = withoutExclusion(series.master, id, { roots: series.roots, zones });
  const back = writeComponents(series.roots);
  const again = certain(readSeries(back), 'it was a series before');
  const [found] = occurrencesOf(again, asked, zones);
  // Where the series says the same of it again, it needs no override.
  if (found !== undefined && found.tag === tagOfText(occurrence, zones)) return back;
  return editOccurrences(back, [{ id, text: occurrence }], context);
}

function tagOfText(text: string, zones: ZoneTable): string | null {
  const roots = parseComponents(text);
  const event = eventsOf(roots)[0];
  return event === undefined ? null : `${contentTag(event)} ${whenTag(readWhen(event, roots, zones))}`;
}
