import { and, eq, lt, sql } from 'drizzle-orm';
import type { RunStore } from '../run/store.ts';
import type { Database } from './database.ts';
import { checkFence } from './fences.ts';
import { insertRows } from './insert-rows.ts';
import { series } from './schema.ts';

/** What a lane knows of the series that it takes apart. @param fence the number of the lane's turn; null: it only reads */
export function seriesOf(db: Database, lane: string, { fence }: { fence: number | null }): Pick<RunStore, 'series' | 'growingSeries' | 'keepSeries'> {
  const mine = eq(series.lane, lane);
  const known = { href: series.href, etag: series.etag, occurrences: series.occurrences, nextAt: series.nextAt };
  const at = (hrefs: string[]) => and(mine, sql`${series.href} = any(${sql.param(hrefs)}::text[])`);
  return {
    series: async (hrefs) => (hrefs.length === 0 ? [] : db.select(known).from(series).where(at(hrefs))),
    growingSeries: (before) =>
      db
        .select(known)
        .from(series)
        .where(and(mine, lt(series.nextAt, before))),
    async keepSeries(rows, gone) {
      await db.transaction(async (tx) => {
        if (fence !== null) await checkFence(tx, lane, fence);
        if (gone.length > 0) await tx.delete(series).where(at(gone));
        await insertRows(
          tx,
          series,
          rows.map((row) => ({ lane, ...row })),
          { by: ['lane', 'href'], take: ['etag', 'occurrences', 'nextAt'] },
        );
      });
    },
  };
}
