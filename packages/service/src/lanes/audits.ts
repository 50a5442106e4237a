import type { Audit } from '@monsoon/core';
import { and, desc, eq, isNull, or, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { addLaneJob } from '../jobs/queue.ts';
import { auditSides } from '../run/audit.ts';
import { noRun, runStore } from '../storage/run-store.ts';
import { audits, lanes } from '../storage/schema.ts';
import { definitionOf, type LaneRow, openLane } from './context.ts';

const AUDIT_TIME = 600_000;

/** Reads both sides whole, compares them, and remembers how far they were apart. @throws OutsideError */
export async function auditLane(app: App, lane: LaneRow, cause: 'asked' | 'timetable', signal = AbortSignal.timeout(AUDIT_TIME)): Promise<Audit> {
  const { context, sides } = await openLane(app, lane);
  const found = await auditSides({ context, sides, store: runStore(app.db, lane.id, lane.version, noRun), signal });
  await app.db.insert(audits).values({ lane: lane.id, cause, counts: found.counts, differences: found.differences.length, addsUp: found.addsUp });
  await app.db.update(lanes).set({ auditedAt: new Date().toISOString() }).where(eq(lanes.id, lane.id));
  await app.announcer.announce(['lanes', 'audits']);
  return found;
}

/** The audits of a lane, newest first. */
export const pastAudits = (app: App, lane: string, limit: number) =>
  app.db.select().from(audits).where(eq(audits.lane, lane)).orderBy(desc(audits.id)).limit(limit);

/** Puts the audits that are due into the queues of their lanes: between two runs, when nothing moves. */
export async function auditsDue(app: App): Promise<void> {
  const running = await app.db
    .select()
    .from(lanes)
    .where(and(eq(lanes.state, 'running'), eq(lanes.failures, 0), or(isNull(lanes.auditedAt), sql`${lanes.auditedAt} < now() - interval '1 day'`)));
  for (const lane of running) {
    const every = definitionOf(lane).auditEvery;
    const since = Date.parse(lane.auditedAt ?? lane.createdAt);
    if (every > 0 && Date.now() - since >= every * 86_400_000) await addLaneJob(app.db, { lane: lane.id, cause: 'check', task: { do: 'audit' } });
  }
}
