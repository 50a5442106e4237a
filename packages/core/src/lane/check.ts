import { checkFieldMap } from '../maps/field-maps.ts';
import type { MappableName } from '../maps/properties.ts';
import { checkCondition, type Problem } from '../record/conditions.ts';
import type { Collection, FieldType } from '../record/fields.ts';
import type { ZoneTable } from '../time/zones.ts';
import type { FieldMaps, LaneDefinition } from './definition.ts';
import { checkWhenSource } from './when-source.ts';

/** Every reason why a lane cannot work on this collection, each pointing at its setting (RFC 6901). */
export function checkLane(lane: LaneDefinition, collection: Collection, zones: ZoneTable): Problem[] {
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
      problems.push({ pointer, reason: `the field "${name}" is of type ${found.type}; fitting fields are ${fitting}` });
  };
  const maps = (fields: FieldMaps, pointer: string) => {
    for (const [property, map] of Object.entries(fields)) {
      if (map !== undefined) problems.push(...checkFieldMap(property as MappableName, map, collection.fields, `${pointer}/${property}`));
    }
  };

  if (zones.find(lane.zone) === undefined)
    problems.push({ pointer: '/zone', reason: `the zone "${lane.zone}" is not known; give an IANA name such as Europe/London` });
  if (lane.filter !== null) problems.push(...checkCondition(lane.filter, collection.fields, '/filter'));
  if (lane.private !== null) field(lane.private.field, ['yes/no'], '/private/field');
  maps(lane.fields, '/fields');
  const names = new Set<string>();
  for (const [i, moment] of lane.moments.entries()) {
    const pointer = `/moments/${i}`;
    if (names.has(moment.name)) problems.push({ pointer: `${pointer}/name`, reason: `two moments are named "${moment.name}"` });
    names.add(moment.name);
    problems.push(...checkWhenSource(moment.when, collection.fields, `${pointer}/when`));
    maps(moment.fields ?? {}, `${pointer}/fields`);
    if ((moment.fields?.title ?? lane.fields.title) === undefined)
      problems.push({ pointer: '/fields/title', reason: `the moment "${moment.name}" has no title: map a field to it` });
  }
  return problems;
}
