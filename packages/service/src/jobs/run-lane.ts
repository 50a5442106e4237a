import { type Damage, quietUntil } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { and, eq, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { sayError } from '../errors.ts';
import { auditLane } from '../lanes/audits.ts';
import { definitionOf, isTrial, type LaneRow, openLane } from '../lanes/context.ts';
import { type Executed, execute } from '../run/execute.ts';
import { followAgain } from '../run/follow.ts';
import type { Scope } from '../run/gather.ts';
import { executeStop } from '../run/stop.ts';
import { noCounts } from '../run/tally.ts';
import { executeUndo } from '../run/undo.ts';
import { raiseFence, TakenOver } from '../storage/fences.ts';
import { journalOf, makingsOf } from '../storage/journal-of.ts';
import { runStore } from '../storage/run-store.ts';
import { installation, lanes, runs } from '../storage/schema.ts';
import { pausedEverything, pausedIn, sayPaused } from './everything.ts';
import { addLaneJob, type LaneJob, type LaneTask, runTask } from './queue.ts';
import { endPaused, RunEntry } from './run-entry.ts';

/** Said of the first run after a restore. */
const AFTER_RESTORE =
  'the first run since a backup was restored: everything was read, and what was changed on both sides is asked about, whatever the rule';

/** Both sides are read whole at least this often, because change lists can forget. */
const SWEEP_EVERY = 24 * 3_600_000;

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
      suspended: sql<boolean>`exists (select from systems s where s.id in (${lanes.recordsSystem}, ${lanes.calendarSystem}) and s.lapsed_at is not null)`,
      followed: sql<boolean>`exists (select from cursors c where c.lane = ${lanes.id} and c.side = 'records')`,
      interrupted: sql<string | null>`(select r.id from runs r where r.lane = ${lanes.id} and r.state = 'running' order by r.created_at limit 1)`,
    })
    .from(lanes)
    .innerJoin(installation, sql`true`)
    .where(eq(lanes.id, job.lane));
  if (found === undefined) return;
  const { lane, suspended } = found;
  if (lane.state === 'paused' && job.run === undefined) return;
  const paused = pausedIn(found.everything);
  if (paused !== null) return job.run === undefined ? undefined : endPaused(app, job.run, sayPaused(paused));
  // With lapsed credentials there is nothing to try: the lane is woken when they are renewed.
  if (job.run === undefined && suspended) return;
  const { task } = job;
  if (task.do === 'audit') return withLaneLock(app, lane, () => auditInTurn(app, lane));
  if (job.run === undefined && (await keepQuiet(app, lane, job))) return;
  await withLaneLock(app, lane, async (fence) => {
    const scope = chooseScope(lane, task, found.followed);
    const run = new RunEntry(app, lane, job, { scope: sayScope(task, scope), interrupted: found.interrupted, fence });
    // Most notices are of our own writes: such a look is entered when there is something to tell of it.
    const quiet = job.cause === 'notice' && scope !== 'sweep' && lane.trouble === null && found.interrupted === null;
    if (!quiet) await run.begin();
    const log = app.log.child({ lane: lane.slug, run: run.id });
    let result: Executed;
    try {
      result = await attempt(app, lane, job, { scope, run, signal: stopping });
    } catch (error) {
      if (stopping.aborted || error instanceof TakenOver) throw error;
      if (error instanceof Paused) {
        await endPaused(app, run.id, error.message);
        log.info({ reason: error.message }, 'run ended: paused');
        return;
      }
      log.error({ error }, 'the run failed inside Monsoon');
      result = { state: 'failed', reason: `inside Monsoon: ${sayError(error)}`, counts: noCounts(), damage: null, error: null };
    }
    if (quiet && !run.entered && result.state === 'done' && result.counts.leftOut + result.counts.failed === 0) return log.debug('nothing new');
    await run.end(result);
    log.info({ state: result.state, reason: result.reason, counts: result.counts }, 'run ended');
  });
}

/** A side that is away is reported by the lane's runs; the audit comes with the next turn. */
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
  await addLaneJob(app.db, { lane: lane.id, cause: 'check', task: runTask() }, until);
  await app.announcer.announce(['lanes']);
  return true;
}

/** The queue keeps a lane's jobs apart; this lock does too, should a process lose touch with the database in mid-run. */
async function withLaneLock(app: App, lane: LaneRow, work: (fence: number) => Promise<void>): Promise<void> {
  const client = await app.pool.connect();
  try {
    const { rows } = await client.query<{ locked: boolean }>('select pg_try_advisory_lock(hashtextextended($1, 7216)) as locked', [lane.id]);
    if (rows[0]?.locked !== true) throw new Error(`the lane ${lane.slug} is being run elsewhere`);
    try {
      await work(await raiseFence(app.db, lane.id));
    } finally {
      await client.query('select pg_advisory_unlock(hashtextextended($1, 7216))', [lane.id]);
    }
  } finally {
    client.release();
  }
}

/** What a run reads, or takes back, in words. */
function sayScope(task: LaneTask, scope: Scope): string {
  if (task.do === 'stop') return `stop, ${task.how}`;
  if (task.do === 'undo') return 'run' in task.of ? `undo of run ${task.of.run}` : `undo of entry ${task.of.entry}`;
  return typeof scope === 'string' ? scope : `items ${[...scope.records, ...(scope.hrefs ?? [])].join(', ')}`;
}

async function attempt(app: App, lane: LaneRow, job: LaneJob, turn: { scope: Scope; run: RunEntry; signal: AbortSignal }): Promise<Executed> {
  const { task } = job;
  const { scope, run, signal } = turn;
  let opened: Awaited<ReturnType<typeof openLane>>;
  try {
    opened = await openLane(app, lane);
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { state: 'failed', reason: error.message, counts: noCounts(), damage: null, error };
  }
  const progressed = async (): Promise<void> => {
    await app.announcer.announce(['runs', 'lanes']);
    const everything = await pausedEverything(app.db);
    if (everything !== null) throw new Paused(`${sayPaused(everything)}; the lane goes on from here when everything is resumed`);
    if (job.run !== undefined) return;
    const [now] = await app.db.select({ state: lanes.state }).from(lanes).where(eq(lanes.id, lane.id));
    if (now?.state === 'paused') throw new Paused('paused while it ran; the lane goes on from here when it is resumed');
  };
  const store = runStore(app.db, lane.id, lane.version, {
    id: run.id,
    begin: () => run.begin(),
    progressed,
    checkLease: app.checkLease,
    fence: run.fence,
  });
  if (task.do === 'stop') {
    const makings = (pairs: string[]) => makingsOf(app.db, lane.id, pairs);
    const ended = await executeStop({ ...opened, store, signal }, makings, task.how);
    // A run that was at work when the lane was stopped may have ended since: started again, the lane reads everything.
    await app.db.update(lanes).set({ sweptVersion: null }).where(eq(lanes.id, lane.id));
    return ended;
  }
  if (task.do === 'undo') {
    const done = await journalOf(app.db, lane.id, task.of);
    return executeUndo({ ...opened, store, signal }, { done, cause: sayScope(task, scope), trial: isTrial(lane) });
  }
  if (task.do === 'run' && task.follow !== undefined && typeof scope === 'object')
    await followAgain({ ...opened, store, signal }, { records: scope.records, hrefs: scope.hrefs ?? [] }, `followed again by ${task.follow}`);
  const { definition } = opened.context;
  const { restoredAt } = lane;
  // What a backup knows may be older than the last edits of both sides: which of them is right, no rule can tell.
  const asking = { ...definition, conflicts: { ...definition.conflicts, rule: 'hold' as const, fields: {} } };
  const context = restoredAt === null ? opened.context : { ...opened.context, definition: asking };
  const result = await execute({
    context,
    sides: opened.sides,
    store,
    signal,
    scope: restoredAt === null ? scope : 'sweep',
    allowed: await shownBefore(app, task),
  });
  // Not of a lane that was stopped meanwhile.
  const asBefore = and(eq(lanes.id, lane.id), eq(lanes.state, lane.state));
  if (result.state === 'done' && (scope === 'sweep' || restoredAt !== null))
    await app.db
      .update(lanes)
      .set({
        sweptVersion: lane.version,
        sweptAt: new Date().toISOString(),
        restoredAt: null,
        // From the next run on, new guests are invited.
        invitesSince: definition.invitations.by === 'none' ? null : (lane.invitesSince ?? new Date().toISOString()),
      })
      .where(asBefore);
  if (restoredAt !== null && result.state === 'done') result.reason = AFTER_RESTORE;
  return result;
}

/** What a person saw of a held run when they let it through. Null: the run was not let through. */
async function shownBefore(app: App, task: LaneTask): Promise<Damage | null> {
  if (task.do !== 'run') return null;
  const { released, allowed } = task;
  if (released === undefined) return allowed ?? null;
  const [held] = await app.db.select({ damage: runs.damage }).from(runs).where(eq(runs.id, released));
  return held?.damage ?? null;
}

/** A sweep where there is nothing to go on from, where the lane was changed, when asked, and once a day. */
function chooseScope(lane: LaneRow, task: LaneTask, followed: boolean): Scope {
  const asked = task.do === 'run' ? task.scope : 'auto';
  if (typeof asked === 'object') return asked;
  const stale = lane.sweptAt === null || Date.now() - Date.parse(lane.sweptAt) > SWEEP_EVERY;
  if (asked === 'sweep' || !followed || lane.sweptVersion !== lane.version || stale) return 'sweep';
  return asked === 'records' ? 'records' : 'changes';
}

/**
 * Sees that every running lane has a next check in the queue; what is there already keeps its time. A lane whose run
 * was interrupted goes on at once: the job of a dead process is out of the queue.
 */
export async function ensureChecks(app: App): Promise<void> {
  const interrupted = new Set((await app.db.select({ lane: runs.lane }).from(runs).where(eq(runs.state, 'running'))).map((r) => r.lane));
  for (const lane of await app.db.select().from(lanes).where(eq(lanes.state, 'running'))) {
    const due = lane.nextRunAt !== null && lane.failures === 0 && !interrupted.has(lane.id) ? lane.nextRunAt : null;
    await addLaneJob(app.db, { lane: lane.id, cause: 'check', task: runTask() }, due);
  }
}
