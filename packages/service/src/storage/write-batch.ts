import { and, eq, inArray, or, sql } from 'drizzle-orm';
import type { Batch } from '../run/store.ts';
import type { Transaction } from './database.ts';
import { holds, intents, journal, pairs, verdicts } from './schema.ts';

/** Rows written by one statement: far from PostgreSQL's 65,535 parameters. */
const ROWS = 500;

/** Everything of a batch becomes true together. */
export async function writeBatch(tx: Transaction, lane: string, version: number, run: string, batch: Batch): Promise<void> {
  for (const rows of chunks(batch.pairs ?? [])) {
    await tx
      .insert(pairs)
      .values(rows.map((p) => ({ ...p, lane })))
      .onConflictDoUpdate({
        target: pairs.id,
        set: Object.fromEntries([
          ...['uid', 'href', 'etag', 'version', 'tried', 'state', 'baseline', 'label'].map((name) => [name, sql.raw(`excluded.${name}`)]),
          ['recordId', sql`excluded.record_id`],
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
  if (batch.answered === true) await tx.delete(intents).where(eq(intents.lane, lane));
  for (const rows of chunks(batch.intents ?? [])) await tx.insert(intents).values(rows.map((entry) => ({ lane, entry })));
  for (const rows of chunks(batch.entries ?? [])) {
    await tx.insert(journal).values(
      rows.map((e) => ({
        run,
        lane,
        laneVersion: version,
        pair: e.pair.id,
        recordId: e.pair.recordId,
        href: e.pair.href,
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
      .values(
        rows.map(({ recordId, href, moment, label, verdict }) => ({
          lane,
          recordId: recordId ?? '',
          href: recordId === null ? (href ?? '') : '',
          moment,
          label,
          attempts: 0,
          ...verdict!,
        })),
      )
      .onConflictDoUpdate({
        target: [verdicts.lane, verdicts.recordId, verdicts.href, verdicts.moment],
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
    const keys = JSON.stringify(
      rows.map((v) => ({ record_id: v.recordId ?? '', href: v.recordId === null ? (v.href ?? '') : '', moment: v.moment })),
    );
    await tx.execute(
      sql`delete from verdicts v using jsonb_to_recordset(${keys}::jsonb) as k(record_id text, href text, moment text) where v.lane = ${lane} and v.record_id = k.record_id and v.href = k.href and v.moment = k.moment`,
    );
  }
  for (const hold of batch.holds ?? []) {
    const { pair, ...rest } = hold;
    await tx
      .update(holds)
      .set({ state: 'void' })
      .where(and(eq(holds.pair, pair.id), inArray(holds.state, ['open', 'settled'])));
    await tx.insert(holds).values({ lane, pair: pair.id, recordId: pair.recordId, href: pair.href, moment: pair.moment, label: pair.label, ...rest });
  }
}

function* chunks<T>(rows: T[]): Generator<T[]> {
  for (let at = 0; at < rows.length; at += ROWS) yield rows.slice(at, at + ROWS);
}
