import * as yup from 'yup';
import { type FieldMap, parseJoin } from '../maps/field-maps.ts';
import { type MappableName, mappableNames } from '../maps/properties.ts';
import { type Condition, testNames } from '../record/condition.ts';
import { ConditionTextError, parseCondition } from '../record/condition-text.ts';
import { checkWhenShape, sayShapes, type WhenSource } from './when-source.ts';

/** One dated aspect of a record. */
export interface Moment {
  name: string;
  when: WhenSource;
  /** field maps of this moment alone; they go before the lane's */
  fields?: FieldMaps | undefined;
}

export type FieldMaps = Partial<Record<MappableName, FieldMap>>;

export const departureChoices = {
  recordDeleted: ['hold', 'remove', 'keep'],
  filteredOut: ['hold', 'remove', 'keep'],
  dateLost: ['hold', 'remove', 'keep'],
  eventDeleted: ['hold', 'make again', 'part'],
} as const;
export type Departure = keyof typeof departureChoices;
export type Departures = { [D in Departure]: (typeof departureChoices)[D][number] };
export type DepartureChoice = Departures[Departure];

/** The standing arrangement between one collection and one calendar. */
export interface LaneDefinition {
  name: string;
  records: { system: string; collection: string };
  /** the calendar's address on its server, or its name when a lane file is applied */
  calendar: { system: string; calendar: string };
  direction: '->';
  /** IANA name; for dates, days of the window, and wall clocks without a zone */
  zone: string;
  filter: Condition | null;
  private: { field: string; treat: 'leave out' | 'take' } | null;
  /** days behind and ahead of today */
  window: { behind: number; ahead: number } | null;
  /** RFC 3339: only records made since */
  startLine: string | null;
  moments: Moment[];
  fields: FieldMaps;
  departures: Departures;
  foreignEdits: 'put back' | 'leave';
  guard: { removals: number; removedPercent: number; rewrittenPercent: number };
  /** minutes between two regular checks */
  checkEvery: number;
}

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

const fieldMap = yup
  .mixed<FieldMap>()
  .required()
  .meta({ schema: { type: 'object', description: 'copy: FIELD, join: TEXT, fixed: VALUE, table: FIELD with values, or page: true; and a default' } })
  .test('field map', (value, context) => {
    const wrong = value === undefined ? null : checkMap(value);
    return wrong === null || context.createError({ message: `${context.path}: ${wrong}` });
  });

const mapKinds = ['copy', 'join', 'fixed', 'table', 'page'] as const;

function checkMap(value: unknown): string | null {
  const kinds = `${mapKinds.slice(0, -1).join(', ')} and page`;
  if (value === null || typeof value !== 'object') return `is an object with one of ${kinds}`;
  const map = value as Record<string, unknown>;
  const given = mapKinds.filter((k) => k in map);
  const [kind] = given;
  if (kind === undefined || given.length !== 1) return `has exactly one of ${kinds}`;
  const known = [kind, 'default', ...(kind === 'table' ? ['values'] : [])];
  const extra = Object.keys(map).find((k) => !known.includes(k));
  if (extra !== undefined) return `"${extra}" is not part of a field map with ${kind}`;
  if (map['default'] !== undefined && typeof map['default'] !== 'string') return 'default is a text';
  const main = map[kind];
  if (kind === 'page') return main === true ? null : 'page is true';
  if (kind === 'fixed' && Array.isArray(main) && main.every((v) => typeof v === 'string')) return null;
  if (typeof main !== 'string' || main === '' || main.length > 5000) return `${kind} is a text of 1 to 5000 characters`;
  if (kind === 'table') return checkTableShape(map['values']);
  if (kind !== 'join') return null;
  try {
    parseJoin(main);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}

function checkTableShape(values: unknown): string | null {
  const fits =
    values !== null &&
    typeof values === 'object' &&
    !Array.isArray(values) &&
    Object.keys(values).length > 0 &&
    Object.values(values).every((v) => typeof v === 'string');
  return fits ? null : 'a table has values: for each value of the field, a text';
}

const fieldMaps = yup
  .object(
    Object.fromEntries(mappableNames.map((name) => [name, fieldMap.optional().default(undefined)])) as {
      [K in MappableName]: yup.MixedSchema<FieldMap | undefined>;
    },
  )
  .noUnknown();

const name = () => yup.string().trim().min(1).max(200);
const departure = (which: Departure) =>
  yup
    .string<string>()
    .oneOf([...departureChoices[which]])
    .default('hold');

/** The shape of a lane; validate strictly, then cast for the defaults. What the fields mean is checked by `checkLane`. */
export const laneSchema = yup
  .object({
    name: name().required(),
    records: yup.object({ system: name().required(), collection: name().required() }).required().noUnknown(),
    calendar: yup
      .object({ system: name().required(), calendar: yup.string().min(1).max(2000).required() })
      .required()
      .noUnknown(),
    direction: yup.string<'->'>().oneOf(['->']).required(),
    zone: name().required(),
    filter: condition.nullable().default(null),
    private: yup
      .object({ field: name().required(), treat: yup.string<'leave out' | 'take'>().oneOf(['leave out', 'take']).required() })
      .noUnknown()
      .nullable()
      .default(null),
    window: yup
      .object({ behind: yup.number().integer().min(0).max(36_500).required(), ahead: yup.number().integer().min(0).max(36_500).required() })
      .noUnknown()
      .nullable()
      .default(null),
    startLine: yup.string().datetime().nullable().default(null),
    moments: yup
      .array(
        yup
          .object({
            name: name().required(),
            when: whenSource,
            fields: fieldMaps.optional().default(undefined),
          })
          .noUnknown(),
      )
      .min(1)
      .max(12)
      .required(),
    fields: fieldMaps.required(),
    departures: yup
      .object({
        recordDeleted: departure('recordDeleted'),
        filteredOut: departure('filteredOut'),
        dateLost: departure('dateLost'),
        eventDeleted: departure('eventDeleted'),
      })
      .noUnknown(),
    foreignEdits: yup.string<'put back' | 'leave'>().oneOf(['put back', 'leave']).default('put back'),
    guard: yup
      .object({
        removals: yup.number().integer().min(0).default(10),
        removedPercent: yup.number().min(0).max(100).default(20),
        rewrittenPercent: yup.number().min(0).max(100).default(50),
      })
      .noUnknown(),
    checkEvery: yup.number().integer().min(1).max(1440).default(10),
  })
  .noUnknown()
  .required();

/**
 * Reads a lane from outside: refuses what does not fit, fills in defaults. A filter may be given as text.
 *
 * @returns the lane, and for a filter given as text the column of each pointer into its tree
 * @throws yup.ValidationError with every finding
 */
export function readLane(input: unknown): { lane: LaneDefinition; columns: Map<string, number> } {
  let given = input;
  let columns = new Map<string, number>();
  const filter = input !== null && typeof input === 'object' ? (input as { filter?: unknown }).filter : undefined;
  if (typeof filter === 'string') {
    try {
      const read = parseCondition(filter.slice(0, longestFilter));
      columns = new Map([...read.columns].map(([pointer, column]) => [`/filter${pointer}`, column]));
      given = { ...(input as object), filter: read.condition };
    } catch (error) {
      if (!(error instanceof ConditionTextError)) throw error;
      throw new yup.ValidationError(`filter: ${error.message}`, filter, 'filter');
    }
  }
  laneSchema.validateSync(given, { strict: true, abortEarly: false });
  return { lane: laneSchema.cast(given, { assert: false }) as unknown as LaneDefinition, columns };
}

const longestFilter = 20_000;

/** @see readLane */
export const parseLane = (input: unknown): LaneDefinition => readLane(input).lane;
