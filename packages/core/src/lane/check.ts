import { checkInvitations } from '../invitations/check-invitations.ts';
import { fieldFromText } from '../maps/convert.ts';
import type { FieldMap, MapDirection } from '../maps/field-map.ts';
import { show } from '../maps/field-maps.ts';
import { checkGuestRows } from '../maps/guest-rows.ts';
import { checkFieldMap, directionOf } from '../maps/map-fields.ts';
import type { MappableName } from '../maps/properties.ts';
import { UnfitValue } from '../maps/unfit.ts';
import { checkCondition, type Problem } from '../record/conditions.ts';
import { type Collection, type Field, type FieldType, sayCure } from '../record/fields.ts';
import { sayNearest } from '../record/nearest.ts';
import type { ZoneTable } from '../time/zones.ts';
import type { FieldMaps, LaneDefinition, Moment } from './definition.ts';
import { eventFields } from './event-fields.ts';
import { fillsRecord, goesToRecord, linksOf } from './links.ts';
import { checkWhenSource } from './when-source.ts';

/** Every reason why a lane cannot work on this collection, each pointing at its setting (RFC 6901). */
export function checkLane(
  lane: LaneDefinition,
  collection: Collection,
  zones: ZoneTable,
  collections: readonly Collection[] = [collection],
): Problem[] {
  const problems: Problem[] = [];
  const field = (name: string, types: readonly FieldType[], pointer: string) => {
    const found = collection.fields.find((f) => f.name === name);
    const fitting =
      collection.fields
        .filter((f) => types.includes(f.type))
        .map((f) => f.name)
        .join(', ') || '(none)';
    if (found === undefined) problems.push({ pointer, reason: `there is no field "${name}" in ${collection.label}; fitting fields are ${fitting}` });
    else if (!types.includes(found.type))
      problems.push({ pointer, reason: `the field "${name}" is of type ${found.type}; fitting fields are ${fitting}${sayCure(found, types)}` });
  };
  const maps = (fields: FieldMaps, pointer: string) => {
    for (const [property, given] of Object.entries(fields)) {
      for (const [i, map] of [given ?? []].flat().entries()) {
        const at = Array.isArray(given) ? `${pointer}/${property}/${i}` : `${pointer}/${property}`;
        const direction = directionOf(map, lane.direction);
        const wrong = checkFieldMap(property as MappableName, map, direction, collection.fields, at);
        problems.push(...(wrong.length > 0 ? wrong : checkConstants(property as MappableName, map, direction, collection.fields, at)));
        if (i > 0 && direction !== '<-')
          problems.push({
            pointer: `${at}/direction`,
            reason: `only the first map fills ${property}; a further one only comes back, so give it direction: "<-"`,
          });
        if ('rows' in map) problems.push(...checkGuestRows(map, lane.may.records.change, collections, at));
        if ('people' in map && map.in !== undefined && !collections.some((c) => c.name === map.in))
          problems.push({
            pointer: `${at}/in`,
            reason: `there is no collection "${map.in}"; there are ${collections.map((c) => c.name).join(', ')}`,
          });
      }
    }
  };

  if (zones.find(lane.zone) === undefined)
    problems.push({ pointer: '/zone', reason: `the zone "${lane.zone}" is not known; give an IANA name such as Europe/London` });
  if (lane.filter !== null) problems.push(...checkCondition(lane.filter, collection.fields, '/filter'));
  if (lane.events.filter !== null) problems.push(...checkCondition(lane.events.filter, eventFields, '/events/filter'));
  if (lane.events.moment !== null && !lane.moments.some((m) => m.name === lane.events.moment))
    problems.push({
      pointer: '/events/moment',
      reason: `there is no moment "${lane.events.moment}"; there are ${lane.moments.map((m) => m.name).join(', ')}`,
    });
  const byOccurrence = lane.events.repeating === 'each occurrence' && lane.direction !== '->';
  if (byOccurrence && lane.window === null)
    problems.push({
      pointer: '/window',
      reason:
        'each occurrence of a series becomes a record, and a series may have no end: say how far back and ahead, for example { behind: 30, ahead: 365 }',
    });
  const holders = [{ at: '', fields: lane.fields }, ...lane.moments.map(({ fields = {} }, i) => ({ at: `/moments/${i}`, fields }))];
  for (const { at } of holders.filter((h) => byOccurrence && h.fields.recurrence !== undefined))
    problems.push({
      pointer: `${at}/fields/recurrence`,
      reason:
        'each occurrence of a series is a record with one time, and holds no rule: the rule of a record would be lost to records of its occurrences; leave this map out, or let repeating be "one record"',
    });
  if (lane.private !== null) field(lane.private.field, ['yes/no'], '/private/field');
  maps(lane.fields, '/fields');
  const names = new Set<string>();
  for (const [i, moment] of lane.moments.entries()) {
    const pointer = `/moments/${i}`;
    if (names.has(moment.name)) problems.push({ pointer: `${pointer}/name`, reason: `two moments are named "${moment.name}"` });
    names.add(moment.name);
    if (moment.filter) problems.push(...checkCondition(moment.filter, collection.fields, `${pointer}/filter`));
    problems.push(...checkWhenSource(moment.when, collection.fields, `${pointer}/when`));
    maps(moment.fields ?? {}, `${pointer}/fields`);
    if (lane.may.calendar.create && (moment.fields?.title ?? lane.fields.title) === undefined)
      problems.push({ pointer: '/fields/title', reason: `the moment "${moment.name}" has no title: map a field to it` });
  }
  problems.push(...checkValues(lane, collection), ...checkPermissions(lane, collection), ...checkInvitations(lane));
  // What writes what is only clear once every map is sound.
  if (problems.length === 0) for (const moment of lane.moments) problems.push(...checkTargets(lane, moment, collection));
  return problems;
}

/** Values that the settings name themselves must fit where they go: no item could ever bring one that does. */
function checkConstants(property: MappableName, map: FieldMap, direction: MapDirection, fields: readonly Field[], pointer: string): Problem[] {
  const problems: Problem[] = [];
  const attempt = (where: string, work: () => unknown) => {
    try {
      work();
    } catch (error) {
      if (!(error instanceof UnfitValue)) throw error;
      problems.push({ pointer: `${pointer}/${where}`, reason: `"${error.value}" can never fit: ${error.reason}` });
    }
  };
  const blank = { id: '', fields: {} };
  const shows = (where: string, value: string | string[]) => attempt(where, () => show(property, { fixed: value }, blank, { fields }));
  if (direction !== '<-') {
    if ('fixed' in map) shows('fixed', map.fixed);
    if ('table' in map) for (const [from, to] of Object.entries(map.values)) shows(`values/${from}`, to);
    if (map.default !== undefined && !('words' in map)) shows('default', map.default);
  }
  if (direction === '->') return problems;
  const field = fields.find((f) => f.name === ('table' in map ? map.table : 'words' in map ? map.words : undefined));
  if (field === undefined) return problems;
  if ('table' in map) for (const from of Object.keys(map.values)) attempt(`values/${from}`, () => fieldFromText(field, from));
  if ('words' in map) for (const [i, { value }] of map.choose.entries()) attempt(`choose/${i}/value`, () => fieldFromText(field, value));
  const usual = 'words' in map ? map.default : undefined;
  if (usual !== undefined) attempt('default', () => fieldFromText(field, usual));
  return problems;
}

/** Fields that are named with values of their own: defaults, and what a departure sets. */
function checkValues(lane: LaneDefinition, collection: Collection): Problem[] {
  const problems: Problem[] = [];
  const groups = [
    ['/defaults', lane.defaults],
    ['/sets/eventDeleted', lane.sets.eventDeleted],
    ['/sets/eventCancelled', lane.sets.eventCancelled],
  ] as const;
  for (const [pointer, values] of groups) {
    for (const [name, value] of Object.entries(values)) {
      const at = `${pointer}/${name}`;
      const field = collection.fields.find((f) => f.name === name);
      if (field === undefined)
        problems.push({
          pointer: at,
          reason: `there is no field "${name}"; there are ${collection.fields.map((f) => f.name).join(', ')}${sayNearest(
            name,
            collection.fields.map((f) => f.name),
          )}`,
        });
      else if (field.readOnly) problems.push({ pointer: at, reason: `the field "${name}" cannot be written` });
      else if (value !== null) {
        try {
          if (!['date', 'time', 'date-time'].includes(field.type))
            fieldFromText(field, typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value));
        } catch (error) {
          if (!(error instanceof UnfitValue)) throw error;
          problems.push({ pointer: at, reason: error.reason });
        }
      }
    }
  }
  for (const which of ['eventDeleted', 'eventCancelled'] as const)
    if (lane.departures[which] === 'set fields' && Object.keys(lane.sets[which]).length === 0)
      problems.push({ pointer: `/sets/${which}`, reason: `say which fields are set, for example sets: { ${which}: { status: cancelled } }` });
  return problems;
}

/** What the lane would do must be allowed, by its own settings and by the system. */
function checkPermissions(lane: LaneDefinition, collection: Collection): Problem[] {
  const problems: Problem[] = [];
  const { records, calendar } = lane.may;
  for (const what of ['create', 'change', 'remove'] as const) {
    const used = what !== 'remove' || lane.departures.eventDeleted === 'delete record' || lane.departures.eventFilteredOut === 'delete record';
    if (records[what] && used && !collection.may[what]) {
      const reason = `${collection.label} does not let its records be ${what === 'create' ? 'made' : `${what}d`}; set it to no, or choose another direction`;
      problems.push({ pointer: `/may/records/${what}`, reason });
    }
  }
  const needs = (
    departure: 'recordDeleted' | 'filteredOut' | 'dateLost' | 'eventDeleted' | 'eventCancelled' | 'eventFilteredOut',
    choice: string,
    allowed: boolean,
    setting: string,
  ) => {
    if (lane.departures[departure] === choice && !allowed)
      problems.push({ pointer: `/departures/${departure}`, reason: `"${choice}" needs ${setting}, which this lane does not have` });
  };
  for (const departure of ['recordDeleted', 'filteredOut', 'dateLost'] as const) needs(departure, 'remove', calendar.remove, 'may.calendar.remove');
  needs('recordDeleted', 'mark cancelled', calendar.change, 'may.calendar.change');
  needs('eventDeleted', 'delete record', records.remove, 'may.records.remove');
  needs('eventFilteredOut', 'delete record', records.remove, 'may.records.remove');
  needs('eventDeleted', 'set fields', records.change, 'may.records.change');
  needs('eventCancelled', 'set fields', records.change, 'may.records.change');
  needs('eventDeleted', 'create again', calendar.create, 'may.calendar.create');
  if (lane.link !== null && !['text', 'long text'].includes(collection.fields.find((f) => f.name === lane.link)?.type ?? ''))
    problems.push({ pointer: '/link', reason: `"${lane.link}" is no text field that could hold an event's UID` });
  return problems;
}

/** Every field is written by one map at most, and may be written at all. */
function checkTargets(lane: LaneDefinition, moment: Moment, collection: Collection): Problem[] {
  const problems: Problem[] = [];
  const writers = new Map<string, string>();
  const at = lane.moments.indexOf(moment);
  for (const link of linksOf(lane, moment, collection.fields)) {
    if (!fillsRecord(link)) continue;
    const pointer =
      link.key === 'when'
        ? `/moments/${at}/when`
        : moment.fields?.[link.property as MappableName] === undefined
          ? `/fields/${link.property}`
          : `/moments/${at}/fields/${link.property}`;
    for (const target of link.targets) {
      const other = writers.get(target);
      if (other !== undefined && goesToRecord(link))
        problems.push({
          pointer,
          reason: `the field "${target}" would be written by ${other} and by ${link.key}; make one of them one-way with direction: "->"`,
        });
      writers.set(target, link.key);
      if (collection.fields.find((f) => f.name === target)?.readOnly && goesToRecord(link))
        problems.push({ pointer, reason: `the field "${target}" cannot be written; make it one-way with direction: "->"` });
    }
  }
  if (lane.may.records.create && !lane.moments.some((m) => linksOf(lane, m, collection.fields).some((l) => l.key === 'when' && fillsRecord(l))))
    problems.push({
      pointer: `/moments/${at}/direction`,
      reason: 'records are made from events, but no time comes back: give a moment direction "<-" or "<->"',
    });
  return problems;
}
