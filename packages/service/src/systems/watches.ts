import { and, eq } from 'drizzle-orm';
import type { App } from '../app.ts';
import { addLaneJob } from '../jobs/queue.ts';
import { cursors, lanes, systems } from '../storage/schema.ts';

/** Milliseconds between two looks at which systems are to be listened to. */
const LOOK = 10_000;

/** Makes the lanes of a collection look at what changed. While a side is away, the growing pauses set the pace. */
export async function noticeLanes(app: App, system: string, collection: string | null, record: string | null): Promise<void> {
  const concerned = await app.db
    .select({ lane: lanes, cursor: cursors.cursor })
    .from(lanes)
    .leftJoin(cursors, and(eq(cursors.lane, lanes.id), eq(cursors.side, 'records')))
    .where(and(eq(lanes.recordsSystem, system), eq(lanes.state, 'running')));
  for (const { lane, cursor } of concerned) {
    if (lane.failures > 0 || (collection !== null && lane.definition.records.collection !== collection)) continue;
    // A record that is named is looked at alone, where everything else would have to be listed.
    const alone = record !== null && collection !== null && cursor === null && lane.sweptAt !== null;
    await addLaneJob(app.db, { lane: lane.id, cause: 'notice', scope: alone ? { records: [record] } : 'records' });
  }
}

/** Listens to every system that tells its changes by itself and has a lane; one process does it for all. */
export function watchSystems(app: App): { close(): Promise<void> } {
  const watched = new Map<string, { stamp: string; stop: () => Promise<void> }>();
  let closed = false;
  const look = async (): Promise<void> => {
    const rows = await app.db.selectDistinct({ system: systems }).from(systems).innerJoin(lanes, eq(lanes.recordsSystem, systems.id));
    for (const { system: row } of rows) {
      const stamp = JSON.stringify([row.settings, row.secrets]);
      const known = watched.get(row.id);
      if (closed || known?.stamp === stamp || row.lapsedAt !== null) continue;
      await known?.stop();
      watched.delete(row.id);
      const { watch } = app.systems.open(row);
      if (watch === undefined) continue;
      const lost = (error: Error) => {
        watched.delete(row.id);
        app.log.warn({ system: row.slug, error: error.message }, 'listening to a system ended; it begins again');
      };
      const stop = await watch(
        (collection) => void noticeLanes(app, row.id, collection, null).catch((e: Error) => app.log.warn({ error: e.message }, 'a notice was lost')),
        lost,
      ).catch((error: Error) => {
        app.log.warn({ system: row.slug, error: error.message }, 'a system cannot be listened to');
        return null;
      });
      if (stop === null) continue;
      watched.set(row.id, { stamp, stop });
      // What changed while nobody listened.
      await noticeLanes(app, row.id, null, null);
    }
  };
  const again = () => void look().catch((error: Error) => app.log.warn({ error: error.message }, 'looking for systems to listen to failed'));
  const timer = setInterval(again, LOOK);
  again();
  return {
    async close() {
      closed = true;
      clearInterval(timer);
      await Promise.all([...watched.values()].map(({ stop }) => stop()));
    },
  };
}
