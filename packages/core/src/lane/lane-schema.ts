import * as yup from 'yup';
import { type FieldMap, type MapDirection, mapDirections } from '../maps/field-map.ts';
import { checkMapShape } from '../maps/map-shape.ts';
import { type MappableName, mappableNames, type PropertyName, propertyNames } from '../maps/properties.ts';
import { type Condition, testNames } from '../record/condition.ts';
import { ConditionTextError, parseCondition } from '../record/condition-text.ts';
import { isDay } from '../time/days.ts';
import {
  type ConflictRule,
  conflictRules,
  type Departure,
  departureChoices,
  invitationChoices,
  type LaneDefinition,
  type Permissions,
  repeatingChoices,
  shownProperties,
} from './definition.ts';
import { checkWhenShape, sayShapes, type WhenSource } from './when-source.ts';

/** Deepest tree and most leaves of a condition. */
const conditionLimits = { depth: 12, leaves: 200 };

function checkTree(value: unknown, path: string, depth = 0, count = { leaves: 0 }): string | null {
  if (depth > conditionLimits.depth) return `${path}: conditions are nested deeper than ${conditionLimits.depth}`;
  if (value === null || typeof value !== 'object' || Array.isArray(value))
    return `${path}: a condition is an object with all, any, not, or field and test`;
  const keys = Object.keys(value);
  const node = value as Record<string, unknown>;
  for (const group of ['all', 'any'] as const) {
    if (!(group in node)) continue;
    const parts = node[group];
    if (keys.length > 1 || !Array.isArray(parts) || parts.length === 0)
      return `${path}/${group}: takes a list of at least one condition, and nothing beside it`;
    for (const [i, part] of parts.entries()) {
      const wrong = checkTree(part, `${path}/${group}/${i}`, depth + 1, count);
      if (wrong !== null) return wrong;
    }
    return null;
  }
  if ('not' in node) return keys.length > 1 ? `${path}/not: takes nothing beside it` : checkTree(node['not'], `${path}/not`, depth + 1, count);
  if (++count.leaves > conditionLimits.leaves) return `${path}: more than ${conditionLimits.leaves} comparisons`;
  const extra = keys.find((k) => !['field', 'test', 'value'].includes(k));
  if (extra !== undefined) return `${path}/${extra}: is not part of a condition; a comparison has field, test and value`;
  if (typeof node['field'] !== 'string') return `${path}/field: names a field`;
  if (!testNames.includes(node['test'] as never)) return `${path}/test: "${String(node['test'])}" is not a test; tests are ${testNames.join(', ')}`;
  const operand = node['value'];
  const plain = (v: unknown) => ['string', 'number', 'boolean'].includes(typeof v);
  if (operand !== undefined && !plain(operand) && !(Array.isArray(operand) && operand.every((v) => typeof v === 'string')))
    return `${path}/value: is a text, a number, true, false, or a list of texts`;
  return null;
}

const condition = yup
  .mixed<Condition>()
  .meta({
    schema: {
      type: ['object', 'string', 'null'],
      description: 'a condition: as text, or as a tree of all, any, not and comparisons (field, test, value)',
    },
  })
  .test('condition', (value, context) => {
    // A text is read into its tree before the lane is used, see readLane.
    if (value === null || value === undefined || typeof value === 'string') return true;
    const wrong = checkTree(value, '');
    return wrong === null || context.createError({ message: `${context.path}${wrong}` });
  });

const whenSource = yup
  .mixed<WhenSource>()
  .required()
  .meta({ schema: { type: 'object', description: sayShapes } })
  .test('time', (value, context) => {
    const wrong = checkWhenShape(value);
    return wrong === null || context.createError({ message: `${context.path}: ${wrong}` });
  });

const mapSchema = {
  type: ['object', 'array'],
  description:
    'copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true; for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; for replies, replies: FIELD (with as, or values) or rows: COLLECTION (with record, guest, name, reply, values, make, uninvited); with default and direction; or a list of these',
};
const fieldMap = yup
  .mixed<FieldMap | FieldMap[]>()
  .required()
  .meta({ schema: mapSchema })
  .test('field map', (value, context) => {
    const all = Array.isArray(value) ? value : [value];
    if (all.length === 0 || all.length > 10) return context.createError({ message: `${context.path}: takes one map, or a list of up to 10` });
    const wrong = all.map((map) => (map === undefined ? null : checkMapShape(map))).find((w) => w !== null);
    return wrong === undefined || context.createError({ message: `${context.path}: ${wrong}` });
  });

const fieldMaps = yup
  .object(
    Object.fromEntries(mappableNames.map((name) => [name, fieldMap.optional().default(undefined)])) as {
      [K in MappableName]: yup.MixedSchema<FieldMap | FieldMap[] | undefined>;
    },
  )
  .noUnknown();

const clockTime = () => yup.string().matches(/^([01]\d|2[0-3]):[0-5]\d$/, '${path}: "${value}" is not a time such as 22:00');
/** Days that exist, and date-times with their offset. */
const startLine = () =>
  yup.string().test('start line', (value, context) => {
    if (value == null || isDay(value) || yup.string().datetime().isValidSync(value)) return true;
    return context.createError({
      message: `${context.path}: "${value}" is neither a day such as 2026-12-01 nor a time such as 2026-12-01T00:00:00Z`,
    });
  });
const name = () =>
  yup
    .string()
    .trim()
    .min(1)
    .max(200)
    .matches(/^\P{Cc}*$/u, '${path}: it holds a control character, such as a line break: leave it out');
const departure = (which: Departure) =>
  yup
    .string<string>()
    .oneOf([...departureChoices[which]])
    .default('hold');

const permissions = () => yup.object({ create: yup.boolean(), change: yup.boolean(), remove: yup.boolean() }).noUnknown().default(undefined);
const leaveOrTake = (fallback: 'leave out' | 'take') => yup.string<'leave out' | 'take'>().oneOf(['leave out', 'take']).default(fallback);
const plainValues = (nullable: boolean) =>
  yup
    .mixed<Record<string, never>>()
    .meta({ schema: { type: 'object', description: 'a value for each field' } })
    .default({})
    .test('values', (value, context) => {
      const fits =
        value === undefined ||
        (value !== null &&
          typeof value === 'object' &&
          !Array.isArray(value) &&
          Object.values(value).every((v) => ['string', 'number', 'boolean'].includes(typeof v) || (nullable && v === null)));
      return (
        fits ||
        context.createError({
          message: `${context.path}: is a text, a number, true or false for each field${nullable ? ', or null to empty it' : ''}`,
        })
      );
    });
/** Moments of one lane. */
const MOST_MOMENTS = 12;
const addresses = () => yup.array(yup.string().email('${path}: "${value}" is no e-mail address').max(200).required()).max(20).default([]);
const conflictRule = () => yup.string<ConflictRule>().oneOf([...conflictRules]);

/** The shape of a lane; validate strictly, then cast for the defaults. What the fields mean is checked by `checkLane`. */
export const laneSchema = yup
  .object({
    name: name().required('give the lane a name'),
    records: yup
      .object({
        system: name().required('choose the system that holds the records'),
        collection: name().required('choose a collection of that system'),
      })
      .required('choose the system and the collection of the records')
      .noUnknown(),
    calendar: yup
      .object({
        system: name().required('choose the system that holds the calendar'),
        calendar: yup.string().min(1).max(2000).required('choose a calendar, or make one'),
      })
      .required('choose the system and the calendar')
      .noUnknown(),
    direction: yup.string<'->' | '<-' | '<->'>().oneOf(['->', '<-', '<->']).required('choose a direction: "->", "<-" or "<->"'),
    may: yup.object({ records: permissions(), calendar: permissions() }).noUnknown().default({}),
    zone: name().required('name the time zone, for example Europe/London'),
    filter: condition.nullable().default(null),
    events: yup
      .object({
        filter: condition.nullable().default(null),
        private: leaveOrTake('leave out'),
        repeating: yup
          .string<LaneDefinition['events']['repeating']>()
          .oneOf([...repeatingChoices])
          .default('leave out'),
        otherLanes: leaveOrTake('leave out'),
        moment: yup.string().nullable().default(null),
        organisedByOthers: yup.string<'hold' | 'leave'>().oneOf(['hold', 'leave']).default('hold'),
        ownAddresses: addresses(),
      })
      .noUnknown(),
    invitations: yup
      .object({
        by: yup
          .string<LaneDefinition['invitations']['by']>()
          .oneOf([...invitationChoices])
          .default('none'),
        firstRun: yup.string<'quiet' | 'invite'>().oneOf(['quiet', 'invite']).default('quiet'),
        shows: yup
          .array(
            yup
              .string<LaneDefinition['invitations']['shows'][number]>()
              .oneOf([...shownProperties])
              .required(),
          )
          .default(['location', 'conference']),
        wait: yup.number().integer().min(0).max(3600).default(60),
        perRun: yup.number().integer().min(0).max(100_000).default(25),
        perGuest: yup.number().integer().min(0).max(1000).default(5),
      })
      .noUnknown(),
    private: yup
      .object({ field: name().required(), treat: leaveOrTake('leave out').required() })
      .noUnknown()
      .nullable()
      .default(null),
    window: yup
      .object({ behind: yup.number().integer().min(0).max(36_500).required(), ahead: yup.number().integer().min(0).max(36_500).required() })
      .noUnknown()
      .nullable()
      .default(null),
    startLine: startLine().nullable().default(null),
    moments: yup
      .array(
        yup
          .object({
            name: name().required(),
            when: whenSource,
            direction: yup.string<MapDirection>().oneOf([...mapDirections]),
            filter: condition.nullable().default(null),
            fields: fieldMaps.optional().default(undefined),
          })
          .noUnknown(),
      )
      .min(1, 'say when its events take place: at least one moment')
      .max(MOST_MOMENTS)
      .required('say when its events take place: at least one moment'),
    fields: fieldMaps.required('say which fields make the event: at least its title'),
    defaults: plainValues(false),
    link: yup.string().max(200).nullable().default(null),
    matching: yup
      .array(
        yup
          .string<PropertyName>()
          .oneOf([...propertyNames])
          .required(),
      )
      .max(propertyNames.length)
      .default(['title', 'when']),
    conflicts: yup
      .object({
        rule: conflictRule().default('hold'),
        tolerance: yup.number().min(0).max(86_400).default(60),
        fields: yup
          .object(
            Object.fromEntries(propertyNames.map((p) => [p, conflictRule()])) as Record<PropertyName, yup.StringSchema<ConflictRule | undefined>>,
          )
          .noUnknown()
          .default({}),
      })
      .noUnknown(),
    departures: yup
      .object(
        Object.fromEntries((Object.keys(departureChoices) as Departure[]).map((d) => [d, departure(d)])) as Record<
          Departure,
          ReturnType<typeof departure>
        >,
      )
      .noUnknown(),
    sets: yup.object({ eventDeleted: plainValues(true), eventCancelled: plainValues(true) }).noUnknown(),
    foreignEdits: yup.string<'put back' | 'leave'>().oneOf(['put back', 'leave']).default('put back'),
    guard: yup
      .object({
        removals: yup.number().integer().min(0).default(10),
        removedPercent: yup.number().min(0).max(100).default(20),
        rewrittenPercent: yup.number().min(0).max(100).default(50),
      })
      .noUnknown(),
    checkEvery: yup.number().integer().min(1).max(1440).default(10),
    auditEvery: yup.number().integer().min(0).max(90).default(7),
    quiet: yup
      .object({ from: clockTime().required(), until: clockTime().required() })
      .noUnknown()
      .nullable()
      .default(null)
      .test('different', '${path}: begins and ends at the same time; leave it out, or give two times', (v) => v == null || v.from !== v.until),
    notify: addresses(),
  })
  .noUnknown()
  .required();

/** What a direction implies: it makes and changes on the side it goes to. Removing is a matter of the departures. */
function permissionsOf(direction: LaneDefinition['direction'], given: { records?: Partial<Permissions>; calendar?: Partial<Permissions> }) {
  const all = (yes: boolean): Permissions => ({ create: yes, change: yes, remove: yes });
  const said = (p: Partial<Permissions> | undefined) => Object.fromEntries(Object.entries(p ?? {}).filter(([, v]) => v !== undefined));
  return { records: { ...all(direction !== '->'), ...said(given.records) }, calendar: { ...all(direction !== '<-'), ...said(given.calendar) } };
}

/** Where a lane has conditions, each of which may be given as text. */
const conditionPlaces = (input: Record<string, unknown>): { holder: Record<string, unknown>; pointer: string; path: string }[] => {
  const isObject = (v: unknown): v is Record<string, unknown> => v !== null && typeof v === 'object' && !Array.isArray(v);
  const moments = Array.isArray(input['moments']) ? input['moments'] : [];
  return [
    { holder: input, pointer: '/filter', path: 'filter' },
    ...(isObject(input['events']) ? [{ holder: input['events'], pointer: '/events/filter', path: 'events.filter' }] : []),
    ...moments.flatMap((m, i) => (isObject(m) ? [{ holder: m, pointer: `/moments/${i}/filter`, path: `moments[${i}].filter` }] : [])),
  ];
};

/**
 * Reads a lane from outside: refuses what does not fit, fills in defaults. Conditions may be given as text.
 *
 * @returns the lane, and for conditions given as text the column of each pointer into their trees
 * @throws yup.ValidationError with every finding
 */
export function readLane(input: unknown): { lane: LaneDefinition; columns: Map<string, number> } {
  const columns = new Map<string, number>();
  let given = input;
  if (input !== null && typeof input === 'object') {
    // Each would be checked, and each costs its time.
    const count = (input as { moments?: unknown[] }).moments?.length ?? 0;
    if (count > MOST_MOMENTS) throw new yup.ValidationError(`moments: there are ${count}; a lane has at most ${MOST_MOMENTS}`, null, 'moments');
    const copy = structuredClone(input) as Record<string, unknown>;
    for (const { holder, pointer, path } of conditionPlaces(copy)) {
      const text = holder['filter'];
      if (typeof text !== 'string') continue;
      try {
        const read = parseCondition(text.slice(0, longestFilter));
        for (const [at, column] of read.columns) columns.set(`${pointer}${at}`, column);
        holder['filter'] = read.condition;
      } catch (error) {
        if (!(error instanceof ConditionTextError)) throw error;
        throw new yup.ValidationError(`${path}: ${error.message}`, text, path);
      }
    }
    readEarlierWords(copy);
    given = copy;
  }
  laneSchema.validateSync(given, { strict: true, abortEarly: false });
  const lane = laneSchema.cast(given, { assert: false }) as unknown as LaneDefinition;
  return { lane: { ...lane, may: permissionsOf(lane.direction, lane.may) }, columns };
}

const longestFilter = 20_000;

/** What an earlier version called a setting of a lane, and its name of today. */
export const earlierSettings: readonly (readonly [string, string])[] = [['tell', 'notify']];

/** Settings and choices that an earlier version called otherwise: its lane files go on working. */
function readEarlierWords(given: Record<string, unknown>): void {
  for (const [earlier, name] of earlierSettings) {
    if (given[earlier] === undefined || given[name] !== undefined) continue;
    given[name] = given[earlier];
    delete given[earlier];
  }
  const { departures, events, invitations } = given;
  const inviting = invitations as Record<string, unknown> | null | undefined;
  if (typeof inviting === 'object' && inviting?.['by'] === 'nobody') inviting['by'] = 'none';
  const choices = events as Record<string, unknown> | null | undefined;
  if (typeof choices === 'object' && choices?.['repeating'] === 'take') choices['repeating'] = 'one record';
  if (departures === null || typeof departures !== 'object') return;
  const rules = departures as Record<string, unknown>;
  if (rules['eventDeleted'] === 'part') rules['eventDeleted'] = 'unlink';
  if (rules['eventDeleted'] === 'make again') rules['eventDeleted'] = 'create again';
}

/** @see readLane */
export const parseLane = (input: unknown): LaneDefinition => readLane(input).lane;
