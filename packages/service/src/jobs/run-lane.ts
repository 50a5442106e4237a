import { countOperations, quietUntil } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { and, asc, eq, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { auditLane } from '../lanes/audits.ts';
import { definitionOf, isTrial, type LaneRow, openLane } from '../lanes/context.ts';
import { type Executed, execute, noCounts } from '../run/execute.ts';
import type { Scope } from '../run/gather.ts';
import { executeStop } from '../run/stop.ts';
import { executeUndo } from '../run/undo.ts';
import { journalOf, makingsOf } from '../storage/journal-of.ts';
import { runStore } from '../storage/run-store.ts';
import { cursors, installation, lanes, runs } from '../storage/schema.ts';
import { tellOfRun } from '../telling/of-runs.ts';
import { pausedEverything, pausedIn, sayPaused } from './everything.ts';
import { addLaneJob, type LaneJob } from './queue.ts';

/** Both sides are read whole at least this often, because change lists can forget. */
const SWEEP_EVERY = 24 * 3_600_000;
/** Longest pause between two attempts while a system is away, in seconds. */
const LONGEST_PAUSE = 300;

/** Somebody paused the lane, or everything, while it ran. Thrown between two batches, when everything done so far is remembered. */
class Paused extends Error {
  override name = 'Paused';
}

/** Carries out one job of a lane: continues what a dead process left, runs, and sets the time of the next check. */
export async function runLane(app: App, job: LaneJob, stopping: AbortSignal): Promise<void> {
  const [found] = await app.db
    .select({
      lane: lanes,
      everything: installation,
      rests: sql<boolean>`exists (select from systems s where s.id in (${lanes.recordsSystem}, ${lanes.calendarSystem}) and s.lapsed_at is not null)`,
    })
    .from(lanes)
    .innerJoin(installation, sql`true`)
    .where(eq(lanes.id, job.lane));
  if (found === undefined) return;
  const { lane, rests } = found;
  if (lane.state === 'paused' && job.run === undefined) return;
  const paused = pausedIn(found.everything);
  if (paused !== null) return job.run === undefined ? undefined : endPaused(app, job.run, sayPaused(paused));
  // With lapsed credentials there is nothing to try: the lane is woken when they are renewed.
  if (job.run === undefined && rests) return;
  if (job.audit === true) return withLaneLock(app, lane, () => auditInTurn(app, lane));
  if (job.run === undefined && (await keepQuiet(app, lane, job))) return;
  await withLaneLock(app, lane, async () => {
    const scope = await chooseScope(app, lane, job);
    const run = await beginRun(app, lane, job, scope);
    const log = app.log.child({ lane: lane.slug, run });
    let result: Executed;
    try {
      result = await attempt(app, lane, job, scope, run, stopping);
    } catch (error) {
      if (stopping.aborted) throw error;
      if (error instanceof Paused) {
        await endPaused(app, run, error.message);
        log.info({ reason: error.message }, 'run ended: paused');
        return;
      }
      log.error({ error: (error as Error).stack }, 'the run failed inside Monsoon');
      result = { state: 'failed', reason: `inside Monsoon: ${(error as Error).message}`, counts: noCounts(), damage: null, error: null };
    }
    await endRun(app, lane, run, result);
    log.info({ state: result.state, reason: result.reason, counts: result.counts }, 'run ended');
  });
}

/** A side that is away is told of by the lane's runs; the audit comes with the next turn. */
async function auditInTurn(app: App, lane: LaneRow): Promise<void> {
  try {
    await auditLane(app, lane, 'timetable');
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
  }
}

/** In quiet hours nothing crosses by itself: whatever woke the lane is looked at when they end. A question that was answered does not wait. */
async function keepQuiet(app: App, lane: LaneRow, job: LaneJob): Promise<boolean> {
  const until = job.cause === 'settled' ? null : quietUntil(definitionOf(lane), new Date().toISOString(), app.zones);
  if (until === null) return false;
  await app.db.update(lanes).set({ nextRunAt: until }).where(eq(lanes.id, lane.id));
  await addLaneJob(app.db, { lane: lane.id, cause: 'check', scope: 'auto' }, until);
  await app.announcer.announce(['lanes']);
  return true;
}

/** The queue keeps a lane's jobs apart; this lock does too, should a process lose touch with the database in mid-run. */
async function withLaneLock(app: App, lane: LaneRow, work: () => Promise<void>): Promise<void> {
  const client = await app.pool.connect();
  try {
    const { rows } = await client.query<{ locked: boolean }>('select pg_try_advisory_lock(hashtextextended($1, 7216)) as locked', [lane.id]);
    if (rows[0]?.locked !== true) throw new Error(`the lane ${lane.slug} is being run elsewhere`);
    try {
      await work();
    } finally {
      await client.query('select pg_advisory_unlock(hashtextextended($1, 7216))', [lane.id]);
    }
  } finally {
    client.release();
  }
}

/** The run this job is for: the one asked for, one that was interrupted, or a new one. */
async function beginRun(app: App, lane: LaneRow, job: LaneJob, scope: Scope): Promise<string> {
  const begun = { state: 'running' as const, scope: sayScope(job, scope), laneVersion: lane.version, startedAt: new Date().toISOString() };
  const [interrupted] = await app.db
    .select()
    .from(runs)
    .where(and(eq(runs.lane, lane.id), eq(runs.state, 'running')))
    .orderBy(asc(runs.createdAt))
    .limit(1);
  const id = job.run ?? interrupted?.id;
  if (interrupted !== undefined && interrupted.id !== id)
    await app.db
      .update(runs)
      .set({ state: 'failed', reason: 'interrupted; the next run goes on from where it was', endedAt: new Date().toISOString() })
      .where(eq(runs.id, interrupted.id));
  if (id !== undefined) {
    await app.db
      .update(runs)
      .set(id === interrupted?.id ? { laneVersion: lane.version, scope: begun.scope, reason: 'continued after an interruption' } : begun)
      .where(eq(runs.id, id));
    return id;
  }
  const [made] = await app.db
    .insert(runs)
    .values({ lane: lane.id, cause: job.cause, counts: noCounts(), ...begun })
    .returning({ id: runs.id });
  return made!.id;
}

/** What a run reads, or takes back, in words. */
function sayScope({ stop, undo }: LaneJob, scope: Scope): string {
  if (stop !== undefined) return `stop, ${stop}`;
  if (undo !== undefined) return 'run' in undo ? `undo of run ${undo.run}` : `undo of entry ${undo.entry}`;
  return typeof scope === 'string' ? scope : `items ${[...scope.records, ...(scope.hrefs ?? [])].join(', ')}`;
}

async function attempt(app: App, lane: LaneRow, job: LaneJob, scope: Scope, run: string, signal: AbortSignal): Promise<Executed> {
  await app.announcer.announce(['runs', 'lanes']);
  let opened: Awaited<ReturnType<typeof openLane>>;
  try {
    opened = await openLane(app, lane);
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { state: 'failed', reason: error.message, counts: noCounts(), damage: null, error };
  }
  const store = runStore(app.db, lane.id, lane.version, run, async (nouns) => {
    await app.announcer.announce(nouns);
    const everything = await pausedEverything(app.db);
    if (everything !== null) throw new Paused(`${sayPaused(everything)}; the lane goes on from here when everything is resumed`);
    if (job.run !== undefined) return;
    const [now] = await app.db.select({ state: lanes.state }).from(lanes).where(eq(lanes.id, lane.id));
    if (now?.state === 'paused') throw new Paused('paused while it ran; the lane goes on from here when it is resumed');
  });
  if (job.stop !== undefined) {
    const makings = (pairs: string[]) => makingsOf(app.db, lane.id, pairs);
    return executeStop(opened.context, opened.sides, store, makings, job.stop, signal);
  }
  if (job.undo !== undefined) {
    const done = await journalOf(app.db, lane.id, job.undo);
    return executeUndo(opened.context, opened.sides, store, done, sayScope(job, scope), isTrial(lane), signal);
  }
  const result = await execute(opened.context, opened.sides, store, scope, job.allowed ?? null, signal);
  if (result.state === 'done' && scope === 'sweep')
    await app.db.update(lanes).set({ sweptVersion: lane.version, sweptAt: new Date().toISOString() }).where(eq(lanes.id, lane.id));
  return result;
}

/** A sweep where there is nothing to go on from, where the lane was changed, when asked, and once a day. */
async function chooseScope(app: App, lane: LaneRow, job: LaneJob): Promise<Scope> {
  if (typeof job.scope === 'object') return job.scope;
  const known = await app.db
    .select()
    .from(cursors)
    .where(and(eq(cursors.lane, lane.id), eq(cursors.side, 'records')));
  const stale = lane.sweptAt === null || Date.now() - Date.parse(lane.sweptAt) > SWEEP_EVERY;
  if (job.scope === 'sweep' || known.length === 0 || lane.sweptVersion !== lane.version || stale) return 'sweep';
  return job.scope === 'records' ? 'records' : 'changes';
}

async function endRun(app: App, lane: LaneRow, run: string, result: Executed): Promise<void> {
  const failures = result.state === 'failed' ? lane.failures + 1 : 0;
  const pause =
    result.state === 'failed'
      ? Math.max(Math.min(2 ** (failures - 1), LONGEST_PAUSE), Math.min(result.error?.retryAfter ?? 0, 3600))
      : lane.definition.checkEvery * 60;
  const nextRunAt = lane.state === 'paused' ? null : new Date(Date.now() + pause * 1000).toISOString();
  const endedAt = new Date().toISOString();
  await app.db.transaction(async (tx) => {
    await tx
      .update(runs)
      .set({
        state: result.state,
        reason: result.reason,
        counts: result.counts,
        damage: result.damage,
        endedAt,
        ...(result.state === 'done' ? { planned: countOperations(result.counts), done: countOperations(result.counts) } : {}),
      })
      .where(eq(runs.id, run));
    await tx
      .update(lanes)
      .set({ failures, trouble: result.state === 'done' ? null : result.reason, lastRunAt: endedAt, nextRunAt })
      .where(eq(lanes.id, lane.id));
    if (nextRunAt !== null) await addLaneJob(tx, { lane: lane.id, cause: 'check', scope: 'auto' }, nextRunAt);
    await tellOfRun(tx, { ...lane, definition: definitionOf(lane) }, run, result, failures);
  });
  await app.announcer.announce(['runs', 'lanes', 'items', 'journal', 'holds', 'systems']);
}

/** Resumed, the lane goes on from where it was. */
async function endPaused(app: App, run: string, reason: string): Promise<void> {
  await app.db.update(runs).set({ state: 'failed', reason, endedAt: new Date().toISOString() }).where(eq(runs.id, run));
  await app.announcer.announce(['runs', 'lanes', 'items', 'journal', 'holds']);
}

/**
 * Sees that every running lane has a next check in the queue; what is there already keeps its time. A lane whose run
 * was interrupted goes on at once: the job of a dead process is out of the queue.
 */
export async function ensureChecks(app: App): Promise<void> {
  const interrupted = new Set((await app.db.select({ lane: runs.lane }).from(runs).where(eq(runs.state, 'running'))).map((r) => r.lane));
  for (const lane of await app.db.select().from(lanes).where(eq(lanes.state, 'running'))) {
    const due = lane.nextRunAt !== null && lane.failures === 0 && !interrupted.has(lane.id) ? lane.nextRunAt : null;
    await addLaneJob(app.db, { lane: lane.id, cause: 'check', scope: 'auto' }, due);
  }
}
