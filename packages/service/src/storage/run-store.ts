import type { Pair } from '@monsoon/core';
import { and, count, eq, inArray, isNotNull, lte, notInArray, or, sql } from 'drizzle-orm';
import type { Batch, RunStore } from '../run/store.ts';
import type { Database, Transaction } from './database.ts';
import { cursors, holds, journal, pairs, runs, verdicts } from './schema.ts';

/** Rows written by one statement: far from PostgreSQL's 65,535 parameters. */
const ROWS = 500;

const toPair = (row: typeof pairs.$inferSelect): Pair => ({
  id: row.id,
  recordId: row.recordId,
  moment: row.moment,
  uid: row.uid,
  href: row.href,
  etag: row.etag,
  state: row.state,
  baseline: row.baseline,
  label: row.label,
});

/** The memory of one run of a lane, in PostgreSQL. */
export function runStore(db: Database, lane: string, version: number, run: string, announce: (nouns: string[]) => Promise<void>): RunStore {
  return {
    async cursors() {
      const rows = await db.select().from(cursors).where(eq(cursors.lane, lane));
      const of = (side: 'records' | 'calendar') => rows.find((r) => r.side === side)?.cursor ?? null;
      return { records: of('records'), calendar: of('calendar') };
    },
    async moveCursors(moved) {
      for (const side of ['records', 'calendar'] as const) {
        const cursor = moved[side];
        if (cursor === undefined) continue;
        if (cursor === null) await db.delete(cursors).where(and(eq(cursors.lane, lane), eq(cursors.side, side)));
        else
          await db
            .insert(cursors)
            .values({ lane, side, cursor })
            .onConflictDoUpdate({ target: [cursors.lane, cursors.side], set: { cursor, movedAt: sql`now()` } });
      }
    },
    async pairs(which) {
      const mine = eq(pairs.lane, lane);
      if (which === 'all') return (await db.select().from(pairs).where(mine)).map(toPair);
      if ('state' in which)
        return (
          await db
            .select()
            .from(pairs)
            .where(and(mine, eq(pairs.state, which.state)))
        ).map(toPair);
      const [column, wanted] = 'records' in which ? [pairs.recordId, which.records] : [pairs.href, which.hrefs];
      const found: Pair[] = [];
      for (let at = 0; at < wanted.length; at += 5000) {
        found.push(
          ...(
            await db
              .select()
              .from(pairs)
              .where(and(mine, inArray(column, wanted.slice(at, at + 5000))))
          ).map(toPair),
        );
      }
      return found;
    },
    async countPairs() {
      const [row] = await db
        .select({ n: count() })
        .from(pairs)
        .where(and(eq(pairs.lane, lane), notInArray(pairs.state, ['parted', 'removed'])));
      return row?.n ?? 0;
    },
    async due(now) {
      const rows = await db
        .selectDistinct({ id: verdicts.recordId })
        .from(verdicts)
        .where(and(eq(verdicts.lane, lane), lte(verdicts.recheckAt, now)));
      return rows.map((r) => r.id);
    },
    async setAside() {
      const rows = await db
        .select({ id: verdicts.recordId })
        .from(verdicts)
        .where(and(eq(verdicts.lane, lane), eq(verdicts.reason, 'refused by the system')));
      return new Set(rows.map((r) => r.id));
    },
    async attempts(recordId, moment) {
      const [row] = await db
        .select({ n: verdicts.attempts })
        .from(verdicts)
        .where(and(eq(verdicts.lane, lane), eq(verdicts.recordId, recordId), eq(verdicts.moment, moment)));
      return row?.n ?? 0;
    },
    async settlements() {
      const rows = await db
        .select()
        .from(holds)
        .where(and(eq(holds.lane, lane), eq(holds.state, 'settled'), isNotNull(holds.choice)));
      return rows.map((r) => ({ pair: r.pair, recordId: r.recordId, choice: r.choice! }));
    },
    async write(batch) {
      await db.transaction(async (tx) => writeBatch(tx, lane, version, run, batch));
    },
    async progress(counts, planned, done) {
      await db.update(runs).set({ counts, planned, done }).where(eq(runs.id, run));
      await announce(['runs', 'lanes']);
    },
  };
}

async function writeBatch(tx: Transaction, lane: string, version: number, run: string, batch: Batch): Promise<void> {
  for (const rows of chunks(batch.pairs ?? [])) {
    await tx
      .insert(pairs)
      .values(rows.map((p) => ({ ...p, lane, laneVersion: version })))
      .onConflictDoUpdate({
        target: pairs.id,
        set: Object.fromEntries([
          ...['uid', 'href', 'etag', 'state', 'baseline', 'label'].map((name) => [name, sql.raw(`excluded.${name}`)]),
          ['laneVersion', sql`excluded.lane_version`],
          ['updatedAt', sql`now()`],
        ]),
      });
    // Where a pair goes on, its question is answered: by the person, or by the facts.
    const answered = rows.filter((p) => p.state !== 'held').map((p) => p.id);
    if (answered.length > 0)
      await tx
        .update(holds)
        .set({ state: sql`case when state = 'settled' then 'done' else 'void' end` })
        .where(and(inArray(holds.pair, answered), or(eq(holds.state, 'open'), eq(holds.state, 'settled'))));
  }
  for (const rows of chunks(batch.entries ?? [])) {
    await tx.insert(journal).values(
      rows.map((e) => ({
        run,
        lane,
        laneVersion: version,
        pair: e.pair.id,
        recordId: e.pair.recordId,
        moment: e.pair.moment,
        label: e.pair.label,
        kind: e.kind,
        cause: e.cause,
        changes: e.changes,
        notes: e.notes,
        removed: e.removed,
      })),
    );
  }
  const standing = (batch.verdicts ?? []).filter((v) => v.verdict !== null);
  for (const rows of chunks(standing)) {
    await tx
      .insert(verdicts)
      .values(rows.map(({ recordId, moment, label, verdict }) => ({ lane, recordId, moment, label, attempts: 0, ...verdict! })))
      .onConflictDoUpdate({
        target: [verdicts.lane, verdicts.recordId, verdicts.moment],
        set: {
          label: sql`excluded.label`,
          reason: sql`excluded.reason`,
          condition: sql`excluded.condition`,
          value: sql`excluded.value`,
          recheckAt: sql`excluded.recheck_at`,
          attempts: sql`excluded.attempts`,
          // The time says since when it is so.
          at: sql`case when verdicts.reason = excluded.reason and verdicts.value = excluded.value then verdicts.at else now() end`,
        },
      });
  }
  const outdated = (batch.verdicts ?? []).filter((v) => v.verdict === null);
  for (const rows of chunks(outdated)) {
    const keys = JSON.stringify(rows.map((v) => ({ record_id: v.recordId, moment: v.moment })));
    await tx.execute(
      sql`delete from verdicts v using jsonb_to_recordset(${keys}::jsonb) as k(record_id text, moment text) where v.lane = ${lane} and v.record_id = k.record_id and v.moment = k.moment`,
    );
  }
  for (const hold of batch.holds ?? []) {
    const { pair, ...rest } = hold;
    await tx
      .update(holds)
      .set({ state: 'void' })
      .where(and(eq(holds.pair, pair.id), eq(holds.state, 'open')));
    await tx.insert(holds).values({ lane, pair: pair.id, recordId: pair.recordId, moment: pair.moment, label: pair.label, ...rest });
  }
}

function* chunks<T>(rows: T[]): Generator<T[]> {
  for (let at = 0; at < rows.length; at += ROWS) yield rows.slice(at, at + ROWS);
}
