import { and, eq, isNull, type SQL, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { beginCause } from '../notifications/causes.ts';
import { sendNotifications } from '../notifications/mails.ts';
import { lanes, notifications } from '../storage/schema.ts';

/** Minutes after which a run that is due and has not started is a fault. */
export const OVERDUE = 10;
/** Milliseconds between two looks. */
const LOOK_EVERY = 60_000;

/** Lanes whose run is due and has not started, though nothing holds it up: not those that are paused, or wait for credentials. */
export const isOverdue: SQL = sql`lanes.state = 'running' and lanes.next_run_at < now() - make_interval(mins => ${sql.raw(String(OVERDUE))})
  and not exists (select from installation i where i.paused_at is not null)
  and not exists (select from runs r where r.lane = lanes.id and r.state = 'running')
  and not exists (select from systems s where s.id in (lanes.records_system, lanes.calendar_system) and s.lapsed_at is not null)`;

/** Whatever keeps a lane from its run, its people are notified: in every process, by the clock, without help of the queue. */
export function watchLanes(app: App, every = LOOK_EVERY): { close(): void } {
  const timer = setInterval(
    () => void findOverdue(app).catch((error: unknown) => app.log.warn({ error }, 'looking for overdue lanes failed')),
    every,
  );
  timer.unref();
  return { close: () => clearInterval(timer) };
}

export async function findOverdue(app: App): Promise<void> {
  const to = new Set<string>();
  await app.db.transaction(async (tx) => {
    const said = sql<string>`'its run was due at ' || to_char(lanes.next_run_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') || ' and has not started: see whether a worker of Monsoon is alive, and its log'`;
    const found = await tx
      .update(lanes)
      .set({ trouble: said })
      .where(and(isOverdue, sql`lanes.trouble is distinct from ${said}`))
      .returning();
    for (const lane of found) {
      const { name, notify: named } = lane.definition;
      await beginCause(
        tx,
        {
          cause: `lane ${lane.id} overdue`,
          occasion: 'lane stopped',
          subject: `${name}: the lane stands still`,
          text: `The lane "${name}": ${lane.trouble ?? ''}.`,
          path: `/lanes/${lane.slug}`,
        },
        named,
      );
      const waiting = await tx
        .select({ to: notifications.to })
        .from(notifications)
        .where(and(eq(notifications.cause, `lane ${lane.id} overdue`), isNull(notifications.sentAt), isNull(notifications.overAt)));
      for (const w of waiting) to.add(w.to);
    }
    if (found.length > 0) app.log.error({ lanes: found.map((l) => l.slug) }, 'lanes whose run is due do not begin');
  });
  if (to.size > 0) await app.announcer.announce(['lanes']);
  // The queue may be what stands still: this does not wait for it.
  for (const address of to) await sendNotifications(app, address);
}
