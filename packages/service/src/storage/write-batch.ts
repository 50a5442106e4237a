import { and, eq, inArray, or, sql } from 'drizzle-orm';
import type { Batch } from '../run/store.ts';
import type { Transaction } from './database.ts';
import { writeGuests } from './guests-of.ts';
import { insertRows } from './insert-rows.ts';
import { holds, intents, journal, pairs, verdicts } from './schema.ts';

/** Everything of a batch becomes true together. */
export async function writeBatch(tx: Transaction, lane: string, version: number, run: string, batch: Batch): Promise<void> {
  const made = batch.pairs ?? [];
  await insertRows(
    tx,
    pairs,
    made.map((p) => ({ ...p, lane })),
    {
      by: ['id'],
      take: ['uid', 'href', 'etag', 'version', 'tried', 'state', 'baseline', 'attempted', 'label', 'recordId', 'laneVersion'],
      and: sql`updated_at = now()`,
    },
  );
  // Where a pair goes on, its question is answered: by the person, or by the facts.
  const answered = made.filter((p) => p.state !== 'held').map((p) => p.id);
  if (answered.length > 0)
    await tx
      .update(holds)
      .set({ state: sql`case when state = 'settled' then 'done' else 'void' end` })
      .where(and(sql`${holds.pair} = any(${sql.param(answered)}::uuid[])`, or(eq(holds.state, 'open'), eq(holds.state, 'settled'))));
  if (batch.attempts !== undefined && batch.attempts.length > 0) {
    const tried = JSON.stringify(batch.attempts.map(({ pair, changes }) => ({ id: pair.id, changes })));
    await tx.execute(
      sql`update pairs p set attempted = coalesce(p.attempted, '[]') || k.changes from jsonb_to_recordset(${tried}::jsonb) as k(id uuid, changes jsonb) where p.id = k.id`,
    );
  }
  if (batch.answered === true) await tx.delete(intents).where(eq(intents.lane, lane));
  await insertRows(
    tx,
    intents,
    (batch.intents ?? []).map((entry) => ({ lane, entry })),
  );
  await insertRows(
    tx,
    journal,
    (batch.entries ?? []).map(({ pair, ...e }) => ({
      run,
      lane,
      laneVersion: version,
      pair: pair.id,
      recordId: pair.recordId,
      href: pair.href,
      moment: pair.moment,
      label: pair.label,
      kind: e.kind,
      cause: e.cause,
      changes: e.changes,
      notes: e.notes,
      removed: e.removed,
      changedAt: e.changedAt,
    })),
  );
  const standing = (batch.verdicts ?? []).flatMap((v) => (v.verdict === null ? [] : [{ ...v, verdict: v.verdict }]));
  await insertRows(
    tx,
    verdicts,
    standing.map(({ recordId, href, moment, label, verdict, when }) => ({
      lane,
      ...placeOf({ recordId, href }),
      moment,
      label,
      when: when ?? null,
      ...verdict,
      attempts: verdict.attempts ?? 0,
    })),
    {
      by: ['lane', 'recordId', 'href', 'moment'],
      take: ['label', 'reason', 'condition', 'value', 'recheckAt', 'attempts', 'when'],
      // The time says since when it is so.
      and: sql`at = case when verdicts.reason = excluded.reason and verdicts.value = excluded.value then verdicts.at else now() end`,
    },
  );
  const outdated = (batch.verdicts ?? []).filter((v) => v.verdict === null);
  if (outdated.length > 0) {
    const keys = JSON.stringify(outdated.map(({ moment, ...v }) => ({ record_id: placeOf(v).recordId, href: placeOf(v).href, moment })));
    await tx.execute(
      sql`delete from verdicts v using jsonb_to_recordset(${keys}::jsonb) as k(record_id text, href text, moment text) where v.lane = ${lane} and v.record_id = k.record_id and v.href = k.href and v.moment = k.moment`,
    );
  }
  await writeGuests(tx, { lane, run }, batch);
  for (const hold of batch.holds ?? []) {
    const { pair, ...rest } = hold;
    await tx
      .update(holds)
      .set({ state: 'void' })
      .where(and(eq(holds.pair, pair.id), inArray(holds.state, ['open', 'settled'])));
    await tx.insert(holds).values({ lane, pair: pair.id, recordId: pair.recordId, href: pair.href, moment: pair.moment, label: pair.label, ...rest });
  }
}

/** A verdict is about a record, or about an event that has none. */
const placeOf = ({ recordId, href }: { recordId: string | null; href: string | null }) =>
  recordId === null ? { recordId: '', href: href ?? '' } : { recordId, href: '' };
