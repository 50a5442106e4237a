import { asWritten, compareLanes, sayLane } from '@monsoon/arranging';
import type { LaneFileCheck } from '@monsoon/contract';
import { type LaneDefinition, laneSchema } from '@monsoon/core';
import { besides, inThread, TooMuchWork } from '@monsoon/systems';
import { and, desc, eq, isNotNull, lte } from 'drizzle-orm';
import type { App } from '../app.ts';
import { HttpProblem } from '../http/problem.ts';
import { lanes, laneVersions, systems } from '../storage/schema.ts';
import { definitionOf, type LaneRow } from './context.ts';
import type { LaneText, Located, Writing } from './lane-text.ts';
import { noWayToNotify, sameSidesElsewhere } from './remarks.ts';
import { resolveLane } from './save.ts';

const LANE_TEXT = besides(import.meta.url, 'lane-text');
/** Seconds for reading or writing one file, with the start of a thread. */
const LONGEST = 5;

async function readApart(text: string): Promise<LaneText> {
  try {
    return await inThread<LaneText>(LANE_TEXT, 'readLaneText', text, LONGEST);
  } catch (error) {
    if (!(error instanceof TooMuchWork)) throw error;
    const reason = `this is no YAML that can be read: ${error.message}; a lane file is a few pages of "name: value"`;
    return { settings: null, problems: [{ pointer: '', reason, line: 1, column: 1 }], places: {} };
  }
}

/** Where a setting stands, or the nearest one around it. */
function placeOf({ places }: LaneText, pointer: string): { line: number; column: number } {
  for (let at = pointer; at !== ''; at = at.slice(0, at.lastIndexOf('/'))) {
    const place = Object.hasOwn(places, at) ? places[at] : undefined;
    if (place !== undefined) return place;
  }
  return { line: 1, column: 1 };
}

/** Everything about a lane file before anything is done with it: findings with their lines, and what it would change. */
export async function checkLaneFile(app: App, slug: string, text: string, signal: AbortSignal): Promise<LaneFileCheck> {
  const [lane] = slug === '' ? [] : await app.db.select().from(lanes).where(eq(lanes.slug, slug));
  const read = await readApart(text);
  const none = { says: [], warnings: [], version: lane?.version ?? null, changes: [], definition: null };
  if (read.problems.length > 0) return { ...none, problems: read.problems };
  try {
    const resolved = await resolveLane(app, read.settings, signal);
    const { definition, calendarName } = resolved;
    return {
      problems: [],
      says: sayLane(definition, { records: definition.records.collection, calendar: calendarName }),
      warnings: [
        ...(await sameSidesElsewhere(app, { ...resolved, ...(lane === undefined ? {} : { id: lane.id }) })),
        ...(await noWayToNotify(app, definition)),
      ],
      version: lane?.version ?? null,
      changes: lane === undefined ? [] : compareLanes(definitionOf(lane), definition),
      definition,
    };
  } catch (error) {
    if (!(error instanceof HttpProblem) || error.problems.length === 0) throw error;
    return { ...none, problems: error.problems.map((p) => ({ ...p, ...placeOf(read, p.pointer) })) };
  }
}

/** What a lane file says. @throws HttpProblem naming line and column of each finding */
export async function settingsOf(text: string): Promise<{ settings: unknown; located(error: unknown): unknown }> {
  const read = await readApart(text);
  const refuse = (problems: Located[]) =>
    new HttpProblem(
      422,
      'The lane file cannot work',
      problems.map((p) => `line ${p.line}, column ${p.column}: ${p.reason}`).join('; '),
      problems.map((p) => ({ pointer: p.pointer, reason: `line ${p.line}, column ${p.column}: ${p.reason}` })),
    );
  if (read.problems.length > 0) throw refuse(read.problems);
  return {
    settings: read.settings,
    located: (error) =>
      error instanceof HttpProblem && error.status === 422 && error.problems.length > 0
        ? refuse(error.problems.map((p) => ({ ...p, ...placeOf(read, p.pointer) })))
        : error,
  };
}

/** Written only where they say something: what a lane has anyway is left out of new files. */
function toWrite(lane: LaneDefinition, calendarName: string | null): Record<string, unknown> {
  const written = asWritten(lane);
  const bare = laneSchema.cast(
    {
      name: lane.name,
      records: lane.records,
      calendar: lane.calendar,
      direction: lane.direction,
      zone: lane.zone,
      moments: lane.moments,
      fields: {},
    },
    { assert: false },
  ) as unknown as LaneDefinition;
  const usual = asWritten({ ...bare, may: permissionsUsual(lane.direction) });
  const kept = strip(written, usual) as Record<string, unknown>;
  for (const name of ['name', 'records', 'calendar', 'direction', 'zone', 'moments', 'fields']) kept[name] = written[name];
  kept['moments'] = (written['moments'] as Record<string, unknown>[]).map((m) =>
    Object.fromEntries(Object.entries(m).filter(([, v]) => v !== null && v !== undefined)),
  );
  kept['fields'] = Object.fromEntries(Object.entries(lane.fields).filter(([, map]) => map !== undefined));
  if (calendarName !== null) kept['calendar'] = { ...lane.calendar, calendar: calendarName };
  const order = [
    'name',
    'records',
    'calendar',
    'direction',
    'may',
    'zone',
    'filter',
    'events',
    'private',
    'window',
    'startLine',
    'moments',
    'fields',
    'defaults',
    'link',
    'matching',
    'departures',
    'sets',
    'conflicts',
    'foreignEdits',
    'guard',
    'checkEvery',
    'auditEvery',
    'quiet',
    'notify',
  ];
  return Object.fromEntries(order.flatMap((name) => (kept[name] === undefined ? [] : [[name, kept[name]]])));
}

const permissionsUsual = (direction: LaneDefinition['direction']): LaneDefinition['may'] => {
  const all = (yes: boolean) => ({ create: yes, change: yes, remove: yes });
  return { records: all(direction !== '->'), calendar: all(direction !== '<-') };
};

const isObject = (v: unknown): v is Record<string, unknown> => v !== null && typeof v === 'object' && !Array.isArray(v);

/** What differs from the usual. */
function strip(value: unknown, usual: unknown): unknown {
  if (isObject(value) && isObject(usual)) {
    const kept = Object.entries(value).flatMap(([key, v]) => {
      const left = strip(v, usual[key]);
      return left === undefined ? [] : [[key, left] as const];
    });
    return kept.length === 0 ? undefined : Object.fromEntries(kept);
  }
  return value === undefined || JSON.stringify(value) === JSON.stringify(usual) || (value === null && usual === undefined) ? undefined : value;
}

/**
 * The lane file of a version: as a person wrote it where there is such a file, with later changes put in their places
 * and its comments kept; else one that says what the lane has beyond the usual.
 */
export async function laneFile(app: App, lane: LaneRow, version: number): Promise<string> {
  const [row] = await app.db
    .select()
    .from(laneVersions)
    .where(and(eq(laneVersions.lane, lane.id), eq(laneVersions.version, version)));
  if (row === undefined) throw new HttpProblem(404, 'No such version', `${lane.slug} has the versions 1 to ${lane.version}; there is no ${version}`);
  if (row.file !== null) return row.file;
  const definition = definitionOf(row);
  const [right] = await app.db.select().from(systems).where(eq(systems.id, lane.calendarSystem));
  const opened = right === undefined ? undefined : app.systems.open(right).calendars;
  const calendars = (await opened?.calendars(AbortSignal.timeout(20_000)).catch(() => [])) ?? [];
  // The calendar's name reads better than its address, where it is the only one of that name.
  const called = calendars.filter((c) => c.name === lane.calendarName).length === 1 ? lane.calendarName : null;
  const target = toWrite(definition, called);
  const [written] = await app.db
    .select()
    .from(laneVersions)
    .where(and(eq(laneVersions.lane, lane.id), isNotNull(laneVersions.file), lte(laneVersions.version, version)))
    .orderBy(desc(laneVersions.version))
    .limit(1);
  const was = written === undefined ? null : toWrite(definitionOf(written), called);
  const heading = `The lane "${definition.name}", version ${version}.`;
  return inThread<string>(LANE_TEXT, 'writeLaneText', { file: written?.file ?? null, heading, target, was } satisfies Writing, LONGEST);
}
