import { certain } from '../certain.ts';
import type { Problem } from '../record/conditions.ts';
import { type Field, type FieldType, findField, sayCure } from '../record/fields.ts';
import { sayNearest } from '../record/nearest.ts';
import { tellable } from './convert.ts';
import type { FieldMap, MapDirection } from './field-map.ts';

import { guestRowsField } from './guest-rows.ts';
import { joinFields, parseJoin } from './join.ts';
import { type MappableName, properties } from './properties.ts';
import { isRecurrenceMap, parts, type RecurrenceMap, recurrenceFields } from './recurrence-maps.ts';

const freeText: readonly Field['type'][] = ['text', 'long text', 'place', 'web address', 'number'];

/** The part of a join that comes back: the one that is named, or the only field in it that a person types. */
export function editableOf(map: { join: string; edit?: string | undefined }, fields: readonly Field[]): string | undefined {
  if (map.edit !== undefined) return map.edit;
  const free = [...new Set(joinFields(parseJoin(map.join)))].filter((name) => {
    const field = findField(fields, name);
    return field !== undefined && freeText.includes(field.type) && field.readOnly !== true;
  });
  return free.length === 1 ? free[0] : undefined;
}

/** The field that a map writes on the way back. */
export const targetOf = (map: FieldMap, fields: readonly Field[]): string | undefined =>
  'copy' in map
    ? map.copy
    : 'table' in map
      ? map.table
      : 'words' in map
        ? map.words
        : 'people' in map
          ? map.people
          : 'join' in map
            ? editableOf(map, fields)
            : isRecurrenceMap(map)
              ? recurrenceFields(map)[0]
              : 'replies' in map
                ? map.replies
                : 'rows' in map
                  ? guestRowsField(map)
                  : undefined;

/** The direction of a map that does not say: that of its lane, where the map can go that way. */
export const directionOf = (map: FieldMap, lane: '->' | '<-' | '<->'): MapDirection =>
  map.direction ?? ('fixed' in map || 'page' in map ? '->' : 'words' in map || isOfReplies(map) ? '<-' : lane);

/** Does it say what the guests replied? */
const isOfReplies = (map: FieldMap): boolean => 'replies' in map || 'rows' in map;

/** Every reason why a map cannot do its work on these fields in that direction. */
export function checkFieldMap(property: MappableName, map: FieldMap, direction: MapDirection, fields: readonly Field[], pointer: string): Problem[] {
  const target = properties[property];
  const problems: Problem[] = [];
  const named = (name: string, where: string, types: readonly FieldType[] | null, use: string): Field | undefined => {
    const field = findField(fields, name);
    const fitting = fields.filter((f) => types === null || types.includes(f.type)).map((f) => f.name);
    if (field === undefined)
      problems.push({
        pointer: `${pointer}/${where}`,
        reason: `there is no field "${name}"; there are ${fields.map((f) => f.name).join(', ')}${sayNearest(
          name,
          fields.map((f) => f.name),
        )}`,
      });
    else if (types !== null && !types.includes(field.type))
      problems.push({
        pointer: `${pointer}/${where}`,
        reason: `the field "${name}" is of type ${field.type}, which ${use}; fitting fields are ${fitting.join(', ') || '(none)'}${sayCure(field, types)}`,
      });
    else return field;
    return undefined;
  };
  const isRecurrence = isRecurrenceMap(map);
  if (isRecurrence !== (property === 'recurrence'))
    return [
      {
        pointer,
        reason: isRecurrence
          ? `${'rule' in map ? 'rule' : 'repeats'} says how an event repeats, so it goes with recurrence, not with ${property}`
          : 'how an event repeats comes from a field that holds a rule (rule: FIELD), or from fields for its parts (repeats: { frequency: FIELD, ... })',
      },
    ];
  if (isRecurrence) return checkRecurrenceMap(map, direction, pointer, named, problems);
  if (isOfReplies(map) !== (property === 'replies'))
    return [
      {
        pointer,
        reason: isOfReplies(map)
          ? `${'rows' in map ? 'rows puts the guests into another collection' : 'replies puts what the guests replied into a field'}, so it goes with replies, not with ${property}`
          : 'what the guests replied goes into a field (replies: FIELD, as: list or count, or with values for each reply), or into rows of another collection (rows: COLLECTION)',
      },
    ];
  if ('replies' in map) named(map.replies, 'replies', ['text', 'long text', 'choice'], 'cannot hold replies');
  if (property === 'organizer' && !('fixed' in map || 'copy' in map || 'people' in map))
    return [
      {
        pointer,
        reason: 'the organizer is one person: always the same (fixed: ADDRESS), a field (copy: FIELD), or looked up by e-mail (people: FIELD)',
      },
    ];
  if ('copy' in map) named(map.copy, 'copy', target.types, `cannot fill ${property}`);
  if ('people' in map) {
    if (property !== 'attendees' && property !== 'organizer')
      problems.push({ pointer: `${pointer}/people`, reason: `people can only be attendees or the organizer, not ${property}` });
    const linked = map.in !== undefined;
    named(map.people, 'people', linked ? ['reference', 'references'] : ['person', 'people'], linked ? 'refers to no collection' : 'names no people');
  }
  if ('words' in map) named(map.words, 'words', tellable, 'cannot be chosen by words');
  if ('join' in map) {
    try {
      for (const name of joinFields(parseJoin(map.join))) named(name, 'join', null, '');
      if (map.edit !== undefined && !joinFields(parseJoin(map.join)).includes(map.edit))
        problems.push({ pointer: `${pointer}/edit`, reason: `"${map.edit}" is not part of the join` });
    } catch (error) {
      problems.push({ pointer: `${pointer}/join`, reason: (error as Error).message });
    }
  }
  if ('table' in map) problems.push(...checkTable(map, fields, pointer));
  if ('page' in map && property !== 'link')
    problems.push({ pointer: `${pointer}/page`, reason: `the record's page can only fill link, not ${property}` });
  for (const [where, value] of constantsOf(map)) {
    if (target.values !== undefined && !target.values.includes(value))
      problems.push({ pointer: `${pointer}/${where}`, reason: `"${value}" is not a value of ${property}; values are ${target.values.join(', ')}` });
  }
  if (problems.length === 0) problems.push(...checkWays(property, map, direction, fields, pointer));
  return problems;
}

/** The types of the fields that say how an event repeats. */
const partTypes: Record<(typeof parts)[number], readonly FieldType[]> = {
  frequency: ['choice', 'text', 'long text'],
  interval: ['number'],
  weekdays: ['choices', 'choice', 'text', 'long text'],
  monthDay: ['number'],
  until: ['date'],
  count: ['number'],
};

function checkRecurrenceMap(
  map: RecurrenceMap,
  direction: MapDirection,
  pointer: string,
  named: (name: string, where: string, types: readonly FieldType[], use: string) => Field | undefined,
  problems: Problem[],
): Problem[] {
  const found: [string, Field | undefined][] =
    'rule' in map
      ? [
          ['rule', named(map.rule, 'rule', ['text', 'long text'], 'holds no rule')],
          ...(map.excluded === undefined
            ? []
            : ([['excluded', named(map.excluded, 'excluded', ['text', 'long text'], 'holds no list of days')]] as [string, Field | undefined][])),
        ]
      : parts.flatMap((part): [string, Field | undefined][] => {
          const name = map.repeats[part];
          return name === undefined ? [] : [[`repeats/${part}`, named(name, `repeats/${part}`, partTypes[part], `is no ${part}`)]];
        });
  if (direction === '->' || direction === 'once') return problems;
  for (const [where, field] of found)
    if (field?.readOnly === true)
      problems.push({ pointer: `${pointer}/${where}`, reason: `the field "${field.name}" cannot be written; make it one-way with direction: "->"` });
  return problems;
}

const constantsOf = (map: FieldMap): [string, string][] => [
  ...('table' in map ? Object.entries(map.values).map(([from, to]): [string, string] => [`values/${from}`, to]) : []),
  ...('fixed' in map ? [map.fixed].flat().map((v): [string, string] => ['fixed', v]) : []),
  ...(map.default === undefined || 'words' in map ? [] : ([['default', map.default]] as [string, string][])),
];

function checkTable(map: { table: string; values: Record<string, string> }, fields: readonly Field[], pointer: string): Problem[] {
  const field = findField(fields, map.table);
  if (field === undefined)
    return [
      {
        pointer: `${pointer}/table`,
        reason: `there is no field "${map.table}"; there are ${fields.map((f) => f.name).join(', ')}${sayNearest(
          map.table,
          fields.map((f) => f.name),
        )}`,
      },
    ];
  const { choices } = field;
  if (choices === undefined) return [];
  return Object.keys(map.values)
    .filter((value) => !choices.includes(value))
    .map((value) => ({
      pointer: `${pointer}/values/${value}`,
      reason: `"${value}" is no choice of "${field.name}"; choices are ${choices.join(', ')}`,
    }));
}

/** A map must be able to go the ways it is told to go. */
function checkWays(property: MappableName, map: FieldMap, direction: MapDirection, fields: readonly Field[], pointer: string): Problem[] {
  const wrong = (reason: string): Problem[] => [{ pointer: `${pointer}/direction`, reason }];
  if ('words' in map && direction !== '<-' && direction !== 'once')
    return wrong(`words choose a value from the event, so this map only goes "<-", not "${direction}"`);
  if (isOfReplies(map) && direction !== '<-') return wrong(`guests reply to the event, so this map only goes "<-", not "${direction}"`);
  if (direction === '->' || direction === 'once') return [];
  if ('rows' in map) return [];
  const oneWay = 'make it one-way with direction: "->"';
  if ('fixed' in map) return wrong(`a fixed value cannot come back to the record; ${oneWay}`);
  if ('page' in map) return wrong(`the link to the record cannot come back; ${oneWay}`);
  if ('table' in map) {
    const twice = Object.entries(map.values).find(([from, to]) => Object.entries(map.values).some(([f, t]) => t === to && f !== from));
    if (twice !== undefined) {
      const from = Object.entries(map.values).flatMap(([f, t]) => (t === twice[1] ? [f] : []));
      return wrong(`"${twice[1]}" could come back as ${from.join(' or ')}; ${oneWay}, or give each value one of its own`);
    }
  }
  const name = targetOf(map, fields);
  if ('join' in map && name === undefined) {
    const parts = [...new Set(joinFields(parseJoin(map.join)))];
    const editable = parts.filter((p) => {
      const part = findField(fields, p);
      return part !== undefined && part.readOnly !== true && tellable.includes(part.type);
    });
    const named = editable.length === 0 ? '' : `, or name the part that may be edited with edit: ${editable.join(', or edit: ')}`;
    return wrong(`it is not known which of ${parts.join(', ')} an edited ${property} should change; ${oneWay}${named}`);
  }
  const field = certain(name === undefined ? undefined : findField(fields, name), 'its fields were checked before its ways');
  if (field.readOnly === true) return wrong(`the field "${field.name}" cannot be written; ${oneWay}`);
  const people = property === 'attendees' || property === 'organizer';
  if (!people && !tellable.includes(field.type))
    return wrong(
      `a ${field.type} cannot be read from a text, so "${field.name}" has no way back; ${oneWay}, or join it with a text that may be edited`,
    );
  const { choices } = field;
  if ('words' in map && choices !== undefined) {
    const unknown = [...map.choose.map((c) => c.value), ...(map.default === undefined ? [] : [map.default])].find((v) => !choices.includes(v));
    if (unknown !== undefined)
      return [{ pointer: `${pointer}/choose`, reason: `"${unknown}" is no choice of "${field.name}"; choices are ${choices.join(', ')}` }];
  }
  return [];
}
