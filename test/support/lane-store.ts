import { pino } from 'pino';
import type { RunStore } from '../../packages/service/src/run/store.ts';
import { noCounts } from '../../packages/service/src/run/tally.ts';
import { type OpenDatabase, openDatabase } from '../../packages/service/src/storage/database.ts';
import { noRun, runStore } from '../../packages/service/src/storage/run-store.ts';
import { lanes, runs, systems } from '../../packages/service/src/storage/schema.ts';
import { laneFile } from './office.ts';
import { freshDatabase } from './servers.ts';

/** The memory of one lane in a PostgreSQL database of its own. */
export async function openLaneStore(): Promise<{ store: RunStore; open: OpenDatabase; lane: string; close(): Promise<void> }> {
  const database = await freshDatabase();
  const open = await openDatabase(database.url, pino({ level: 'silent' }));
  const [system] = await open.db.insert(systems).values({ slug: 's', name: 'S', kind: 'caldav', settings: {}, secrets: '' }).returning();
  const sides = { recordsSystem: system!.id, calendarSystem: system!.id, calendarName: 'C' };
  const [made] = await open.db
    .insert(lanes)
    .values({ slug: 'l', version: 1, definition: laneFile() as never, state: 'running', ...sides })
    .returning();
  const lane = made!.id;
  const [run] = await open.db
    .insert(runs)
    .values({ lane, laneVersion: 1, cause: 'asked', scope: 'sweep', state: 'running', counts: noCounts() })
    .returning();
  return {
    store: runStore(open.db, lane, 1, { ...noRun, id: run!.id }),
    open,
    lane,
    async close() {
      await open.close();
      await database.drop();
    },
  };
}
