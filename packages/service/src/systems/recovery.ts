import { and, eq, exists, gt, isNull, or } from 'drizzle-orm';
import type { App } from '../app.ts';
import { lanes, systems } from '../storage/schema.ts';
import { probe } from './check.ts';

/** Milliseconds that one look at a system may take. */
const LOOK_TIME = 10_000;

/**
 * Asks systems that fail, and that lanes wait for, whether they are there again: one step of their check. The first answer
 * makes them well, and that wakes every lane that waits, however long the pause it had grown to.
 */
export async function askFailing(app: App): Promise<void> {
  const waiting = app.db
    .select({ id: lanes.id })
    .from(lanes)
    .where(and(eq(lanes.state, 'running'), gt(lanes.failures, 0), or(eq(lanes.recordsSystem, systems.id), eq(lanes.calendarSystem, systems.id))));
  const failing = await app.db
    .select()
    .from(systems)
    .where(and(eq(systems.healthState, 'failing'), isNull(systems.lapsedAt), exists(waiting)));
  await Promise.all(
    failing.map(async (row) => {
      for await (const step of probe(app, row.settings, app.systems.open(row), AbortSignal.timeout(LOOK_TIME)))
        if (step.name === 'reachable' || step.outcome === 'failed') return;
    }),
  );
}
