import type { Changed } from '@monsoon/systems';
import { and, eq, exists, isNotNull, isNull, or, sql } from 'drizzle-orm';
import type pg from 'pg';
import type { App } from '../app.ts';
import { addLaneJob, addMailboxJob, runTask } from '../jobs/queue.ts';
import { cursors, lanes, systems } from '../storage/schema.ts';
import { openSession } from '../storage/sessions.ts';
import { askFailing } from './recovery.ts';

/** Milliseconds between two looks at which systems are to be listened to, and by whom. */
const LOOK = 5_000;
/** Milliseconds after which a change of lanes is looked at. */
const SOON = 200;
/** The advisory lock of the one process that listens for all. */
const LISTENER = 7_216_344_002;

/** While a side is away, the growing pauses set the pace. */
const awake = and(eq(lanes.state, 'running'), eq(lanes.failures, 0));

/** Milliseconds until a lane looks at its own writes again: they were read back already, and others may be among them by then. */
const UNHURRIED = 10_000;

/**
 * Makes the lanes of a collection look at what changed.
 * @param ours our own write: another lane of the collection is to see it at once, a lane that is alone there is not
 */
export async function noticeLanes(app: App, system: string, collection: string | null, record: string | null, ours = false): Promise<void> {
  const concerned = await app.db
    .select({ id: lanes.id, sweptAt: lanes.sweptAt, lists: isNull(cursors.lane).mapWith(Boolean) })
    .from(lanes)
    .leftJoin(cursors, and(eq(cursors.lane, lanes.id), eq(cursors.side, 'records')))
    .where(
      and(
        eq(lanes.recordsSystem, system),
        awake,
        collection === null ? undefined : sql`${lanes.definition} -> 'records' ->> 'collection' = ${collection}`,
      ),
    );
  for (const { id, sweptAt, lists } of concerned) {
    // A record that is named is looked at alone, where everything else would have to be listed.
    const alone = record !== null && collection !== null && lists && sweptAt !== null;
    const at = ours && concerned.length === 1 ? new Date(Date.now() + UNHURRIED).toISOString() : null;
    await addLaneJob(app.db, { lane: id, cause: 'notice', task: runTask(alone ? { records: [record] } : 'records') }, at);
  }
}

/** Makes the lanes of a calendar look at what changed on it. A lane may be making its first events: that is no edit of anybody's. */
async function noticeCalendar(app: App, system: string, calendar: string | null, ours = false): Promise<void> {
  const there = calendar === null ? undefined : sql`${lanes.definition} -> 'calendar' ->> 'calendar' = ${calendar}`;
  const concerned = await app.db
    .select({ id: lanes.id })
    .from(lanes)
    .where(and(eq(lanes.calendarSystem, system), awake, isNotNull(lanes.sweptAt), there));
  const at = ours && concerned.length === 1 ? new Date(Date.now() + UNHURRIED).toISOString() : null;
  for (const { id } of concerned) await addLaneJob(app.db, { lane: id, cause: 'notice', task: runTask() }, at);
}

const notice = (app: App, system: string, what: Changed) =>
  'mailbox' in what
    ? addMailboxJob(app.db, system)
    : 'calendar' in what
      ? noticeCalendar(app, system, what.calendar, what.ours)
      : noticeLanes(app, system, what.collection, null, what.ours);

/** Listens to every system that reports its changes by itself and has a lane. One process does it for all; when it ends, another does. */
export function watchSystems(app: App, databaseUrl: string): { close(): Promise<void> } {
  const watched = new Map<string, { stamp: string; stop: () => Promise<void> }>();
  let closed = false;
  let lead: pg.Client | null = null;
  let asking = false;

  const stopAll = async (): Promise<void> => {
    const all = [...watched.values()];
    watched.clear();
    await Promise.all(all.map(({ stop }) => stop()));
  };
  /** Is this the process that listens? The lock goes with its connection. */
  const leads = async (): Promise<boolean> => {
    if (lead !== null) return true;
    let locked = false;
    const client = await openSession(
      databaseUrl,
      () => {
        if (lead !== client) return;
        lead = null;
        void stopAll();
      },
      async (session) => {
        const { rows } = await session.query<{ locked: boolean }>('select pg_try_advisory_lock($1) as locked', [LISTENER]);
        locked = rows[0]?.locked === true;
      },
    );
    if (!locked || closed) {
      await client.end();
      return false;
    }
    lead = client;
    return true;
  };
  const look = async (): Promise<void> => {
    if (!(await leads())) return;
    // Not waited for: one that hangs must not keep the others from being listened to.
    if (!asking) {
      asking = true;
      void askFailing(app)
        .catch((error: Error) => app.log.warn({ error }, 'asking systems that fail did not work'))
        .finally(() => {
          asking = false;
        });
    }
    const used = app.db
      .select({ id: lanes.id })
      .from(lanes)
      .where(or(eq(lanes.recordsSystem, systems.id), eq(lanes.calendarSystem, systems.id)));
    // Replies come in by mail, whether or not a lane names the system.
    const rows = await app.db
      .select()
      .from(systems)
      .where(or(exists(used), and(eq(systems.kind, 'mail'), sql`${systems.settings} ? 'mailbox'`)));
    const wanted = new Set(rows.flatMap((row) => (row.lapsedAt === null ? [row.id] : [])));
    for (const [id, { stop }] of [...watched]) {
      if (wanted.has(id)) continue;
      watched.delete(id);
      await stop();
    }
    for (const row of rows) {
      const stamp = JSON.stringify([row.settings, row.secrets]);
      const known = watched.get(row.id);
      if (closed || known?.stamp === stamp || row.lapsedAt !== null) continue;
      await known?.stop();
      watched.delete(row.id);
      const { watch } = app.systems.open(row);
      if (watch === undefined) continue;
      let isLost = false;
      const lost = (error: Error) => {
        isLost = true;
        watched.delete(row.id);
        app.log.warn({ system: row.slug, error }, 'listening to a system ended; it begins again');
      };
      const stop = await watch(
        (what) => void notice(app, row.id, what).catch((e: Error) => app.log.warn({ error: e }, 'a notice was lost')),
        lost,
      ).catch((error: Error) => {
        app.log.warn({ system: row.slug, error }, 'a system cannot be listened to');
        return null;
      });
      if (stop === null) continue;
      // It may end before it is known here.
      if (isLost) {
        await stop();
        continue;
      }
      watched.set(row.id, { stamp, stop });
      // What changed before listening began.
      await noticeLanes(app, row.id, null, null);
      await noticeCalendar(app, row.id, null);
    }
  };
  let looking = Promise.resolve();
  const again = () => {
    looking = looking.then(() =>
      closed ? undefined : look().catch((error: Error) => app.log.warn({ error }, 'looking for systems to listen to failed')),
    );
  };
  const timer = setInterval(again, LOOK);
  again();
  // A new lane is listened for at once: its first edit may come within seconds.
  let soon: NodeJS.Timeout | undefined;
  const forget = app.announcer.listen((nouns) => {
    if (!nouns.includes('lanes') || soon !== undefined) return;
    soon = setTimeout(() => {
      soon = undefined;
      again();
    }, SOON);
  });
  return {
    async close() {
      closed = true;
      forget();
      clearTimeout(soon);
      clearInterval(timer);
      await looking;
      await stopAll();
      const client = lead;
      lead = null;
      await client?.end();
    },
  };
}
