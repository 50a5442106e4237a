import { createHash } from 'node:crypto';
import type { Collection, LaneContext } from '@monsoon/core';
import { makeEvent, parseLane } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import type { Calendars, Records } from '@monsoon/systems';
import { sql } from 'drizzle-orm';
import type { Sides } from '../packages/service/src/run/work.ts';
import type { Database } from '../packages/service/src/storage/database.ts';

const zones = loadZones();
const collection: Collection = {
  name: 'visits',
  label: 'Visits',
  fields: [
    { name: 'title', label: 'Title', type: 'text' },
    { name: 'start', label: 'Start', type: 'date-time' },
  ],
  may: { create: false, change: false, remove: false },
  retries: 'none',
  stamps: { created: true, modified: true },
};
const when = { kind: 'timed' as const, start: '2026-12-01T09:00:00', end: '2026-12-01T10:00:00', zone: 'Europe/London' };

export const contextOf = (lane: string): LaneContext => ({
  lane,
  version: 1,
  collection,
  zone: zones.find('Europe/London')!,
  zones,
  now: '2026-11-23T08:00:00Z',
  definition: parseLane({
    name: 'Visits',
    records: { system: 'a', collection: 'visits' },
    calendar: { system: 'b', calendar: '/c/' },
    direction: '->',
    zone: 'Europe/London',
    moments: [{ name: 'visit', when: { start: 'start', minutes: 60 } }],
    fields: { title: { copy: 'title' } },
    departures: {},
    guard: { rewrittenPercent: 50 },
  }),
});

/** The id that `fillPairs` gives. */
const pairOf = (lane: string, i: number) =>
  createHash('md5')
    .update(`${lane}${i}`)
    .digest('hex')
    .replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-');

/** Pairs that stand as agreed, as a long life of a lane would have left them. */
export async function fillPairs(db: Database, lane: string, count: number): Promise<void> {
  await db.execute(sql`
    insert into pairs (id, lane, record_id, moment, uid, href, etag, version, state, baseline, label, lane_version)
    select md5(${lane} || i)::uuid, ${lane}::uuid, 'V-' || i, 'visit', 'uid-' || i, '/c/' || i || '.ics', '"1"', 'v' || i, 'in sync',
           jsonb_build_object('record', v, 'event', v || '{"status": null}'::jsonb), 'Visit ' || i, 1
    from generate_series(0, ${count - 1}) as i, lateral (select jsonb_build_object('title', 'Visit ' || i, 'when', ${JSON.stringify(when)}::jsonb) as v) as x`);
  await db.execute(sql`analyze pairs`);
}

const refused = async () => {
  throw new Error('not asked for');
};

/** Two sides that are made up as they are read, so that only what Monsoon holds is measured. */
export function sidesOf(lane: string, count: number, changed: (i: number) => boolean): Sides {
  const item = (i: number) => ({
    id: `V-${i}`,
    version: changed(i) ? `v${i}b` : `v${i}`,
    fields: { title: changed(i) ? `Visit ${i}, moved` : `Visit ${i}`, start: '2026-12-01T09:00:00' },
  });
  const text = (i: number) =>
    makeEvent(`uid-${i}`, { title: `Visit ${i}`, when }, { lane, pair: pairOf(lane, i) }, { zones, now: '2026-11-01T00:00:00Z' });
  const records: Records = {
    probe: refused as never,
    describe: async () => [collection],
    async *pull(_collection, cursor) {
      const all = cursor === null;
      for (let at = 0; at < count; at += 500) {
        const page = Array.from({ length: Math.min(500, count - at) }, (_, i) => at + i).filter((i) => all || changed(i));
        if (page.length > 0 || all) yield { items: page.map(item), gone: [] };
        if (!all && !changed(at)) break;
      }
      yield { items: [], gone: [], cursor: 'now' };
    },
    read: async (_collection, id) => item(Number(id.slice(2))),
    create: refused,
    change: refused,
    remove: refused,
  };
  const calendars: Calendars = {
    probe: refused as never,
    calendars: refused,
    rename: () => Promise.reject(new Error('not here')),
    make: refused,
    async *changes(_calendar, cursor) {
      if (cursor === null)
        for (let at = 0; at < count; at += 5000)
          yield {
            changed: Array.from({ length: Math.min(5000, count - at) }, (_, i) => ({ href: `/c/${at + i}.ics`, etag: '"1"' })),
            removed: [],
            complete: true,
          };
      yield { changed: [], removed: [], complete: cursor === null, cursor: 'now' };
    },
    read: async (_calendar, hrefs) => new Map(hrefs.map((href) => [href, { href, etag: '"1"', text: text(Number(href.slice(3, -4))) }])),
    create: refused,
    change: async () => undefined,
    remove: refused,
    isSame: async () => true,
    withUid: async () => [],
    between: async () => [],
    hrefFor: (calendar, uid) => `${calendar}${uid}.ics`,
  };
  return { records, calendars };
}
