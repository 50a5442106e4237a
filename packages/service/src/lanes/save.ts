import {
  type Collection,
  canonical,
  certain,
  checkHonoured,
  checkLane,
  type LaneDefinition,
  laneSchema,
  type Problem,
  readLane,
  sayNearest,
} from '@monsoon/core';
import type { CalendarInfo, Calendars, Records } from '@monsoon/systems';
import { and, eq } from 'drizzle-orm';
import { ValidationError } from 'yup';
import type { App } from '../app.ts';
import { HttpProblem, invalid } from '../http/problem.ts';
import { addLaneJob, runTask } from '../jobs/queue.ts';
import { lanes, laneVersions, systems } from '../storage/schema.ts';
import type { SystemRow } from '../systems/registry.ts';
import { definitionOf, type LaneRow } from './context.ts';

interface Resolved {
  definition: LaneDefinition;
  recordsSystem: string;
  calendarSystem: string;
  calendarName: string;
}

/** A fault in a filter that was given as text is pointed at in the text. */
const withColumn = (problem: Problem, columns: Map<string, number>): Problem => {
  const column = columns.get(problem.pointer);
  return column === undefined ? problem : { ...problem, reason: `column ${column}: ${problem.reason}` };
};

/** Reads a lane from outside and finds what it names. @throws HttpProblem with every finding, each at its setting */
export async function resolveLane(app: App, input: unknown, signal: AbortSignal): Promise<Resolved> {
  let definition: LaneDefinition;
  let columns: Map<string, number>;
  try {
    ({ lane: definition, columns } = readLane(input));
  } catch (error) {
    if (error instanceof ValidationError) throw invalid(error, 'lane', laneSchema);
    throw error;
  }
  const { left, right, calendar, problems } = await findSides(app, definition, signal);
  if (problems.length > 0 || left === undefined || right === undefined || calendar === null)
    throw new HttpProblem(
      422,
      'The lane cannot work',
      problems.map((p) => `${p.pointer}: ${p.reason}`).join('; '),
      problems.map((p) => withColumn(p, columns)),
    );
  definition.calendar.calendar = calendar.href;
  return { definition, recordsSystem: left.id, calendarSystem: right.id, calendarName: calendar.name };
}

/** How the sides are looked at: again, or as they were a moment ago. */
interface Looks {
  describe(records: Records): Promise<Collection[]>;
  calendars(calendars: Calendars, signal: AbortSignal): Promise<CalendarInfo[]>;
}

export interface FoundSides {
  left: SystemRow | undefined;
  right: SystemRow | undefined;
  collections: Collection[];
  collection: Collection | null;
  calendar: CalendarInfo | null;
  calendars: CalendarInfo[];
  problems: Problem[];
}

/** What the sides that a lane names really are, and everything that speaks against it; the collection's own name replaces its label. */
export async function findSides(
  app: App,
  definition: LaneDefinition,
  signal: AbortSignal,
  look: Looks = { describe: (records) => records.describe(), calendars: (calendars) => calendars.calendars(signal) },
): Promise<FoundSides> {
  const problems: Problem[] = [];
  const all = await app.db.select().from(systems);
  const left = find(all, definition.records.system, 'records', '/records/system', problems, app);
  const right = find(all, definition.calendar.system, 'calendars', '/calendar/system', problems, app);
  const collections = left === undefined ? [] : await look.describe(recordsOf(app, left));
  const wanted = definition.records.collection;
  const labelled = collections.filter((c) => c.label === wanted);
  const collection = collections.find((c) => c.name === wanted) ?? (labelled.length === 1 ? labelled[0] : undefined) ?? null;
  if (collection !== null) {
    definition.records.collection = collection.name;
    problems.push(...checkLane(definition, collection, app.zones, collections));
    // What a lane could not honour is said once everything else is right.
    if (problems.length === 0) problems.push(...checkHonoured(definition, collection));
  } else if (left !== undefined) {
    const wanting = (await recordsOf(app, left).wanting?.(wanted)) ?? null;
    problems.push({
      pointer: '/records/collection',
      reason:
        wanting !== null
          ? `"${wanted}" of ${left.name} cannot be used: ${wanting}`
          : `${left.name} has no collection "${wanted}"; it has ${collections.map((c) => c.name).join(', ')}${sayNearest(
              wanted,
              collections.map((c) => c.name),
            )}`,
    });
  }
  const calendars = right === undefined ? [] : await look.calendars(calendarsOf(app, right), signal);
  const calendar = right === undefined ? null : findCalendar(right, calendars, definition, problems);
  return { left, right, collections, collection, calendar, calendars, problems };
}

function findCalendar(right: SystemRow, calendars: CalendarInfo[], definition: LaneDefinition, problems: Problem[]): CalendarInfo | null {
  const wanted = definition.calendar.calendar;
  const named = calendars.filter((c) => c.name === wanted);
  const found = calendars.find((c) => c.href === wanted) ?? (named.length === 1 ? named[0] : undefined);
  const refuse = (reason: string) => problems.push({ pointer: '/calendar/calendar', reason });
  if (found === undefined) {
    const names = calendars.map((c) => c.name);
    refuse(
      named.length > 1
        ? `${named.length} calendars of ${right.name} have the name "${wanted}"; give the address of one: ${named.map((c) => c.href).join(', ')}`
        : `${right.name} has no calendar "${wanted}"; it has ${names.join(', ') || 'none'}${sayNearest(wanted, names)}`,
    );
    return null;
  }
  if (!found.writable && Object.values(definition.may.calendar).some((yes) => yes))
    refuse(
      `the account may not write in "${found.name}"; choose another calendar, have writing permitted, or make the lane go from the calendar to the records`,
    );
  return found;
}

function find(
  all: SystemRow[],
  slug: string,
  offers: 'records' | 'calendars',
  pointer: string,
  problems: Problem[],
  app: App,
): SystemRow | undefined {
  const row = all.find((s) => s.slug === slug);
  if (row !== undefined && app.systems.open(row)[offers] !== undefined) return row;
  const fitting =
    all
      .filter((s) => app.systems.open(s)[offers] !== undefined)
      .map((s) => s.slug)
      .join(', ') || '(none)';
  problems.push({
    pointer,
    reason:
      row === undefined
        ? `there is no system "${slug}"; with ${offers} there are ${fitting}`
        : `the system "${slug}" has no ${offers}; those with ${offers} are ${fitting}`,
  });
  return undefined;
}

/** @param file the lane file that the definition was read from */
export async function createLane(
  app: App,
  slug: string,
  input: unknown,
  start: boolean,
  by: string,
  signal: AbortSignal,
  file: string | null = null,
): Promise<LaneRow> {
  const resolved = await resolveLane(app, input, signal);
  return app.db.transaction(async (tx) => {
    const state = start ? ('running' as const) : ('paused' as const);
    const [lane] = await tx
      .insert(lanes)
      .values({ slug, version: 1, state, ...resolved })
      .onConflictDoNothing({ target: lanes.slug })
      .returning();
    if (lane === undefined)
      throw new HttpProblem(409, 'The name is taken', `there is a lane "${slug}" already; choose another short name, or change that lane`);
    await tx.insert(laneVersions).values({ lane: lane.id, version: 1, definition: resolved.definition, file, madeBy: by });
    if (start) await addLaneJob(tx, { lane: lane.id, cause: 'check', task: runTask() });
    return lane;
  });
}

/** Its pairs speak of the records and the events of these two sides: another side is another lane. */
export function checkSides(lane: LaneRow, { definition, recordsSystem, calendarSystem }: Resolved): void {
  const moved = [
    ['/records/system', recordsSystem !== lane.recordsSystem],
    ['/records/collection', definition.records.collection !== lane.definition.records.collection],
    ['/calendar/system', calendarSystem !== lane.calendarSystem],
    ['/calendar/calendar', definition.calendar.calendar !== lane.definition.calendar.calendar],
  ] as const;
  const problems = moved.flatMap(([pointer, other]) =>
    other ? [{ pointer, reason: 'a lane keeps its two sides, because its pairs speak of them; make another lane for another side' }] : [],
  );
  if (problems.length > 0) throw new HttpProblem(422, 'The lane cannot move', problems.map((p) => `${p.pointer}: ${p.reason}`).join('; '), problems);
}

/** Saves a new version. @throws HttpProblem 412 when somebody else saved one since `version` */
export async function changeLane(
  app: App,
  lane: LaneRow,
  input: unknown,
  version: number,
  by: string,
  signal: AbortSignal,
  file: string | null = null,
): Promise<LaneRow> {
  const resolved = await resolveLane(app, input, signal);
  checkSides(lane, resolved);
  return app.db.transaction(async (tx) => {
    const [current] = await tx.select().from(lanes).where(eq(lanes.id, lane.id)).for('update');
    if (current?.version !== version)
      throw new HttpProblem(
        412,
        'The lane was changed in the meantime',
        `you edited version ${version}, and the lane is at version ${current?.version ?? '?'} now; read it again and repeat your change`,
      );
    // The same file applied again is no change: no version, no sweep. Other comments in it are kept.
    if (canonical(resolved.definition) === canonical(definitionOf(current))) {
      if (file !== null)
        await tx
          .update(laneVersions)
          .set({ file })
          .where(and(eq(laneVersions.lane, lane.id), eq(laneVersions.version, version)));
      return current;
    }
    const [saved] = await tx
      .update(lanes)
      .set({ ...resolved, version: version + 1 })
      .where(eq(lanes.id, lane.id))
      .returning();
    await tx.insert(laneVersions).values({ lane: lane.id, version: version + 1, definition: resolved.definition, file, madeBy: by });
    if (current.state === 'running') await addLaneJob(tx, { lane: lane.id, cause: 'check', task: runTask() });
    return certain(saved, 'it was written just now');
  });
}

/** The sides of systems that were found to have them. */
const recordsOf = (app: App, row: SystemRow) => certain(app.systems.open(row).records, 'the system was found to have records');
const calendarsOf = (app: App, row: SystemRow) => certain(app.systems.open(row).calendars, 'the system was found to have calendars');
