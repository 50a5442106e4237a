import type { FieldMap, GuestRowsMap, MapDirection, Taken } from '../maps/field-map.ts';
import { type MapContext, show, take } from '../maps/field-maps.ts';
import { guestRowsField } from '../maps/guest-rows.ts';
import { directionOf, targetOf } from '../maps/map-fields.ts';
import { type MappableName, mappableNames, meaningOf, type PropertyName, type PropertyValue, properties, sameProperty } from '../maps/properties.ts';
import { carryRecurrence, isRecurrenceMap, type RecurrenceMap, recurrenceFields, showRecurrence, takeRecurrence } from '../maps/recurrence-maps.ts';
import { UnfitValue } from '../maps/unfit.ts';
import { type Field, type GuestRow, type RecordItem, sayValue } from '../record/fields.ts';
import type { LaneDefinition, Moment } from './definition.ts';
import { carryWhen, takeWhen, type WhenContext } from './record-time-writer.ts';
import { readWhen, unfitWhen, whenFields } from './when-source.ts';

export type LinkContext = WhenContext &
  MapContext & {
    /** the event is a series that begins or ends in an hour that a change of the clock skips */
    seriesInSkippedHour?: boolean;
  };

/**
 * What ties one event property to a record: a field map or the moment's time, made ready. The baseline keeps both
 * sides' values under the link's key.
 */
export interface Link {
  /** the property's name; for a further map of the same property, with the field behind it */
  key: string;
  property: PropertyName;
  direction: MapDirection;
  /** merges element by element */
  set: boolean;
  /** fields that the way back can write */
  targets: string[];
  /** what the record says, as a value of the event. @throws UnfitValue */
  show(record: RecordItem, context: LinkContext): PropertyValue;
  /** what the record holds where the lane shows nothing of it, such as a value that a table does not name; empty: nothing */
  unshown?(record: RecordItem): string;
  /** what changes in the record so that it says this. @throws UnfitValue */
  take(record: RecordItem, value: PropertyValue, context: LinkContext): Taken;
  /** what goes to an event on which something stands that the record cannot hold */
  carry(shown: PropertyValue, before: PropertyValue, event: PropertyValue, context: LinkContext): PropertyValue;
  /** what there is to say about how the record's value was read: gaps and overlaps of the clock */
  notes?(record: RecordItem, context: LinkContext): string[];
  /** are two values of the record's side the same? */
  same(a: PropertyValue, b: PropertyValue, context: LinkContext): boolean;
  /** what values of the record's side that are the same have in common */
  meaning(value: PropertyValue, context: LinkContext): unknown;
  /** are two values of the event the same? */
  sameOnEvent(a: PropertyValue | undefined, b: PropertyValue | undefined, context: Pick<LinkContext, 'zones'>): boolean;
}

export const goesToEvent = (link: Link): boolean => link.direction === '->' || link.direction === '<->';
export const goesToRecord = (link: Link): boolean => link.direction === '<-' || link.direction === '<->';
/** Can it fill a new event, a new record? */
export const fillsEvent = (link: Link): boolean => goesToEvent(link) || (link.direction === 'once' && !link.key.includes('>'));
export const fillsRecord = (link: Link): boolean => goesToRecord(link) || (link.direction === 'once' && link.targets.length > 0);

/** Does a record hold how its event repeats? Then it holds the series, and not one time of it. */
export const holdsRule = (links: readonly Link[]): boolean => links.some((l) => l.property === 'recurrence' && l.direction !== 'once');

const made = new WeakMap<LaneDefinition, Map<string, Link[]>>();

/** The links of a moment: its own maps before the lane's. */
export function linksOf(definition: LaneDefinition, moment: Moment, fields: readonly Field[]): Link[] {
  const known = made.get(definition) ?? new Map<string, Link[]>();
  made.set(definition, known);
  const found = known.get(moment.name);
  if (found !== undefined) return found;
  const maps = { ...definition.fields, ...moment.fields };
  const links = [
    whenLink(definition, moment, [maps.recurrence ?? []].flat().find(isRecurrenceMap)),
    ...mappableNames.flatMap((property) => {
      const all = [maps[property] ?? []].flat();
      return all.map((map, i) => mapLink(property, map, i, definition, fields));
    }),
  ];
  known.set(moment.name, links);
  return links;
}

function whenLink(definition: LaneDefinition, moment: Moment, rule: RecurrenceMap | undefined): Link {
  const source = moment.when;
  return {
    key: 'when',
    property: 'when',
    direction: moment.direction ?? definition.direction,
    set: false,
    targets: whenFields(source),
    show: (record, context) => {
      const read = readWhen(source, record, context.fields, context.zone, context.zones);
      const reason = read.repeatedHour === true ? IN_REPEATED_HOUR : read.skippedHour === true ? IN_SKIPPED_HOUR : null;
      if (rule !== undefined && reason !== null && isSeries(rule, record)) throw unfitWhen(source, record, reason);
      return read.when;
    },
    notes: (record, context) => readWhen(source, record, context.fields, context.zone, context.zones).notes,
    take: (record, value, context) => {
      if (rule !== undefined && context.seriesInSkippedHour === true) throw unfitWhen(source, record, IN_SKIPPED_HOUR);
      return value === null ? { fields: {}, notes: [] } : takeWhen(source, record, value as never, context);
    },
    carry: (shown, before, event, context) =>
      shown === null || before === null || event === null ? shown : carryWhen(shown as never, before as never, event as never, context),
    same: (a, b, context) => sameProperty('when', a, b, context.zones),
    meaning: (value, context) => meaningOf('when', value, context.zones),
    sameOnEvent: sameAsProperty('when'),
  };
}

function isSeries(rule: RecurrenceMap, record: RecordItem): boolean {
  try {
    return showRecurrence(rule, record) !== null;
  } catch (error) {
    if (error instanceof UnfitValue) return false;
    throw error;
  }
}

/** Said in UTC, as a single event is, each later occurrence would keep UTC's clock instead of its zone's. */
const IN_REPEATED_HOUR =
  'a series cannot begin or end in the second passage of an hour that comes twice (clocks go back), for which no zone has a clock time; let it begin on another day or hour';

/** Read as the hour after, as RFC 5545 (3.3.5) has it, each later occurrence would take place an hour late, or early. */
const IN_SKIPPED_HOUR =
  'a series cannot begin or end in an hour that the clock skips (clocks go forward): its other occurrences keep that hour, and the two sides would differ; let it begin on another day or hour';

const sameAsProperty =
  (property: PropertyName): Link['sameOnEvent'] =>
  (a, b, { zones }) =>
    sameProperty(property, a, b, zones);

/** How an event repeats is one value: its fields change together. */
function recurrenceLink(property: MappableName, map: RecurrenceMap & FieldMap, definition: LaneDefinition): Link {
  return {
    key: property,
    property,
    direction: directionOf(map, definition.direction),
    set: false,
    targets: recurrenceFields(map),
    show: (record) => showRecurrence(map, record),
    take: (record, value, { fields, seriesInSkippedHour }) => {
      if (value !== null && seriesInSkippedHour === true) throw new UnfitValue(recurrenceFields(map).join(', '), String(value), IN_SKIPPED_HOUR);
      return takeRecurrence(map, record, value as string | null, fields);
    },
    carry: (shown, _before, event) => carryRecurrence(map, shown as string | null, event as string | null),
    same: (a, b) => a === b,
    meaning: (value) => value,
    sameOnEvent: sameAsProperty(property),
  };
}

/** Each guest has a row, also before anybody replied. */
function guestRowsLink(property: MappableName, map: GuestRowsMap & FieldMap, index: number): Link {
  const field = guestRowsField(map);
  const said = (guests: PropertyValue | undefined) =>
    ((guests ?? []) as GuestRow[]).map(({ email, response }) => `${email.toLowerCase()} ${response ?? 'needs action'}`).sort();
  return {
    key: index === 0 ? property : `${property}>${field}`,
    property,
    direction: '<-',
    set: false,
    targets: [field],
    show: (record) => said((record.fields[field] ?? null) as PropertyValue).join('\n') || null,
    take: (record, value, context) => take(property, map, record, value, context),
    carry: (shown) => shown,
    same: (a, b) => a === b,
    meaning: (value) => value,
    sameOnEvent: (a, b) => said(a).join() === said(b).join(),
  };
}

function mapLink(property: MappableName, map: FieldMap, index: number, definition: LaneDefinition, fields: readonly Field[]): Link {
  const target = targetOf(map, fields);
  if (isRecurrenceMap(map)) return recurrenceLink(property, map, definition);
  if ('rows' in map) return guestRowsLink(property, map, index);
  // Those that only come from the event show the field itself: there is nothing on the event to compare it with.
  const onlyBack = 'words' in map ? map.words : 'replies' in map ? map.replies : undefined;
  const isSet = properties[property].set === true && onlyBack === undefined;
  return {
    key: index === 0 ? property : `${property}>${target ?? index}`,
    property,
    direction: directionOf(map, definition.direction),
    set: isSet,
    targets: target === undefined || 'fixed' in map || 'page' in map ? [] : [target],
    show: (record, context) =>
      (onlyBack === undefined ? show(property, map, record, context) : sayValue(record.fields[onlyBack]) || null) as PropertyValue,
    ...('table' in map ? { unshown: (record: RecordItem) => sayValue(record.fields[map.table]) } : {}),
    take: (record, value, context) => take(property, map, record, value, context),
    carry: (shown) => shown,
    same: (a, b, context) => (onlyBack !== undefined ? a === b : sameProperty(property, a, b, context.zones)),
    meaning: (value, context) => (onlyBack !== undefined ? value : meaningOf(property, value, context.zones)),
    sameOnEvent: sameAsProperty(property),
  };
}
