import type { FieldMap, LaneDefinition } from '@monsoon/core';
import { type Fields, show, showWhen, take, takeWhen, Unfit } from './maps.ts';
import { isDays, isEmpty, type Value, type Values, type When } from './values.ts';

export type Moment = LaneDefinition['moments'][number];

/** One map of a moment: what a record shows through it, and what comes back. */
export interface Link {
  key: string;
  property: string;
  direction: '->' | '<-' | '<->' | 'once';
  show(r: Fields): Value;
  take(r: Fields, value: Value, stated?: boolean): Fields;
  field: string | null;
  /** may this lane write through it, and to which side? */
  toEvent: boolean;
  toRecord: boolean;
}

export const goesToEvent = (l: Pick<Link, 'direction'>): boolean => l.direction === '->' || l.direction === '<->';
export const goesToRecord = (l: Pick<Link, 'direction'>): boolean => l.direction === '<-' || l.direction === '<->';
/** Does a new event get its value? */
export const fillsEvent = (l: Link): boolean => goesToEvent(l) || (l.direction === 'once' && !l.key.includes('>'));
/** Does a new record get its value? */
export const fillsRecord = (l: Link): boolean => goesToRecord(l) || (l.direction === 'once' && (l.field !== null || l.key === 'when'));
/** Those of which a pair keeps a baseline. */
export const followed = (links: Link[]): Link[] => links.filter((l) => l.direction !== 'once');

/** The order in which properties are looked at. */
const order = [
  'title',
  'description',
  'location',
  'status',
  'busy',
  'visibility',
  'categories',
  'link',
  'conference',
  'colour',
  'attendees',
  'reminders',
];

/** The links of a moment: its time, and each map of its own or the lane's. */
export function linksOf(lane: LaneDefinition, moment: Moment): Link[] {
  const maps = { ...lane.fields, ...moment.fields } as Record<string, FieldMap | FieldMap[] | undefined>;
  const ways = (direction: Link['direction']) => ({
    direction,
    toEvent: goesToEvent({ direction }) && lane.may.calendar.change,
    toRecord: goesToRecord({ direction }) && lane.may.records.change,
  });
  const when: Link = {
    key: 'when',
    property: 'when',
    ...ways(moment.direction ?? lane.direction),
    show: (r) => showWhen(moment.when, r),
    take: (r, value) => (value === null ? {} : takeWhen(moment.when, r, value as When)),
    field: null,
  };
  const rest = order.flatMap((property) =>
    [maps[property] ?? []].flat().map((map, i): Link => {
      const words = 'words' in map ? map.words : null;
      const target = 'copy' in map ? map.copy : 'table' in map ? map.table : 'join' in map ? (map.edit ?? 'title') : words;
      return {
        key: i === 0 ? property : `${property}>${target}`,
        property,
        ...ways(map.direction ?? ('fixed' in map ? '->' : words !== null ? '<-' : lane.direction)),
        show: (r) => (words === null ? show(property, map, r) : ((r[words] as Value) ?? null)),
        take: (r, value, stated) => take(property, map, r, value, stated),
        field: 'fixed' in map ? null : target,
      };
    }),
  );
  return [when, ...rest];
}

/** What a record shows; `unfit` are the links through which it shows nothing that fits. */
export function showAll(links: Link[], fields: Fields): { values: Values; unfit: Link[] } {
  const found: { values: Values; unfit: Link[] } = { values: {}, unfit: [] };
  for (const link of links) {
    try {
      found.values[link.key] = link.show(fields);
    } catch (error) {
      if (!(error instanceof Unfit)) throw error;
      found.values[link.key] = null;
      if (goesToEvent(link) || link.direction === 'once') found.unfit.push(link);
    }
  }
  return found;
}

/** An event of which nothing is said. */
const bare: Values = {
  title: null,
  description: null,
  location: null,
  when: null,
  status: 'confirmed',
  busy: 'busy',
  visibility: 'public',
  categories: null,
  link: null,
  attendees: null,
  reminders: null,
};

/** The event that a record becomes. */
export function eventOf(links: Link[], shown: Values): Values {
  const values: Values = { ...bare };
  for (const link of links) if (fillsEvent(link) && !isEmpty(shown[link.key])) values[link.property] = shown[link.key]!;
  return values;
}

/** What items are matched by when they are first paired. */
export function matchKey(lane: LaneDefinition, values: Values): string | null {
  const parts = lane.matching.map((name) => {
    const value = values[name] ?? null;
    if (name !== 'when' || value === null) return Array.isArray(value) ? value : typeof value === 'string' ? value.trim().toLowerCase() : value;
    return isDays(value as When) ? (value as { first: string }).first : (value as { from: number }).from;
  });
  return parts.length === 0 || parts.some((p) => isEmpty(p)) ? null : JSON.stringify(parts);
}
