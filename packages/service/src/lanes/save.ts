import { canonical, checkLane, type LaneDefinition, type Problem, readLane } from '@monsoon/core';
import { eq } from 'drizzle-orm';
import { ValidationError } from 'yup';
import type { App } from '../app.ts';
import { HttpProblem, invalid } from '../http/problem.ts';
import { addLaneJob } from '../jobs/queue.ts';
import { lanes, laneVersions, systems } from '../storage/schema.ts';
import type { SystemRow } from '../systems/registry.ts';
import type { LaneRow } from './context.ts';

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
    if (error instanceof ValidationError) throw invalid(error, 'lane');
    throw error;
  }
  const problems: Problem[] = [];
  const all = await app.db.select().from(systems);
  const left = find(all, definition.records.system, 'records', '/records/system', problems, app);
  const right = find(all, definition.calendar.system, 'calendars', '/calendar/system', problems, app);
  let calendarName = '';
  if (left !== undefined) {
    const collections = await app.systems.open(left).records!.describe();
    const wanted = definition.records.collection;
    const labelled = collections.filter((c) => c.label === wanted);
    const collection = collections.find((c) => c.name === wanted) ?? (labelled.length === 1 ? labelled[0] : undefined);
    if (collection !== undefined) definition.records.collection = collection.name;
    if (collection === undefined)
      problems.push({
        pointer: '/records/collection',
        reason: `${left.name} has no collection "${definition.records.collection}"; it has ${collections.map((c) => c.name).join(', ')}`,
      });
    else problems.push(...checkLane(definition, collection, app.zones, collections).map((p) => withColumn(p, columns)));
  }
  if (right !== undefined) {
    const calendars = await app.systems.open(right).calendars!.calendars(signal);
    const wanted = definition.calendar.calendar;
    const named = calendars.filter((c) => c.name === wanted);
    const found = calendars.find((c) => c.href === wanted) ?? (named.length === 1 ? named[0] : undefined);
    if (found === undefined) {
      const several =
        named.length > 1
          ? `${named.length} calendars of ${right.name} have the name "${wanted}"; give the address of one: ${named.map((c) => c.href).join(', ')}`
          : `${right.name} has no calendar "${wanted}"; it has ${calendars.map((c) => c.name).join(', ') || 'none'}`;
      problems.push({ pointer: '/calendar/calendar', reason: several });
    } else if (!found.writable && Object.values(definition.may.calendar).some((yes) => yes))
      problems.push({
        pointer: '/calendar/calendar',
        reason: `the account may not write in "${found.name}"; choose another calendar or have writing permitted`,
      });
    else {
      definition.calendar.calendar = found.href;
      calendarName = found.name;
    }
  }
  if (problems.length > 0) throw new HttpProblem(422, 'The lane cannot work', problems.map((p) => `${p.pointer}: ${p.reason}`).join('; '), problems);
  return { definition, recordsSystem: left!.id, calendarSystem: right!.id, calendarName };
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

export async function createLane(app: App, slug: string, input: unknown, start: boolean, by: string, signal: AbortSignal): Promise<LaneRow> {
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
    await tx.insert(laneVersions).values({ lane: lane.id, version: 1, definition: resolved.definition, madeBy: by });
    if (start) await addLaneJob(tx, { lane: lane.id, cause: 'check', scope: 'auto' });
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
export async function changeLane(app: App, lane: LaneRow, input: unknown, version: number, by: string, signal: AbortSignal): Promise<LaneRow> {
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
    // The same file applied again is no change: no version, no sweep.
    if (canonical(resolved.definition) === canonical(current.definition)) return current;
    const [saved] = await tx
      .update(lanes)
      .set({ ...resolved, version: version + 1 })
      .where(eq(lanes.id, lane.id))
      .returning();
    await tx.insert(laneVersions).values({ lane: lane.id, version: version + 1, definition: resolved.definition, madeBy: by });
    if (current.state === 'running') await addLaneJob(tx, { lane: lane.id, cause: 'check', scope: 'auto' });
    return saved!;
  });
}
