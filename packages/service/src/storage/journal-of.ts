import type { Change } from '@monsoon/core';
import { certain } from '@monsoon/core';
import { and, desc, eq, inArray, or, sql } from 'drizzle-orm';
import type { Database } from './database.ts';
import { journal } from './schema.ts';

/** What to take back: a whole run, or one entry of the journal. */
export type UndoOf = { run: string } | { entry: number };

export interface DoneToPair {
  pair: string;
  recordId: string | null;
  href: string | null;
  moment: string;
  label: string;
  /** newest first */
  done: { kind: string; changes: Change[]; removed: string | null }[];
  /** a later entry has written the same pair */
  writtenSince: boolean;
}

const kinds = ['create', 'create record', 'change', 'adopt', 'remove', 'remove record', 'unlink', 'attempt'];
/** A question about one field may come with writings of others. */
const writing = or(
  inArray(journal.kind, kinds),
  and(eq(journal.kind, 'hold'), sql`jsonb_path_exists(${journal.changes}, '$[*] ? (!exists(@.seen))')`),
);

/** What was written in a run, or by one entry, pair by pair. */
export async function journalOf(db: Database, lane: string, of: UndoOf): Promise<DoneToPair[]> {
  const wanted = and(eq(journal.lane, lane), writing, 'run' in of ? eq(journal.run, of.run) : eq(journal.id, of.entry));
  const rows = await db.select().from(journal).where(wanted).orderBy(desc(journal.id));
  const found = new Map<string, DoneToPair & { last: number }>();
  for (const row of rows) {
    const { pair, recordId, href, moment, label } = row;
    const known = found.get(pair) ?? { pair, recordId, href, moment, label, done: [], writtenSince: false, last: row.id };
    known.done.push({ kind: row.kind, changes: row.changes, removed: row.removed });
    found.set(pair, known);
  }
  if (found.size === 0) return [];
  const latest = await db
    .select({ pair: journal.pair, last: sql<number>`max(${journal.id})`.mapWith(Number) })
    .from(journal)
    .where(and(eq(journal.lane, lane), writing, inArray(journal.pair, [...found.keys()])))
    .groupBy(journal.pair);
  for (const { pair, last } of latest) {
    const known = certain(found.get(pair), 'each pair of the entries has its row');
    known.writtenSince = last > known.last;
  }
  return [...found.values()].map(({ last: _last, ...rest }) => rest);
}

/** What a lane made of these pairs: events, or records. */
export async function makingsOf(db: Database, lane: string, pairs: string[]): Promise<Map<string, 'create' | 'create record'>> {
  const rows = await db
    .selectDistinct({ pair: journal.pair, kind: journal.kind })
    .from(journal)
    .where(and(eq(journal.lane, lane), inArray(journal.kind, ['create', 'create record']), inArray(journal.pair, pairs)));
  return new Map(rows.map((r) => [r.pair, r.kind as 'create' | 'create record']));
}
