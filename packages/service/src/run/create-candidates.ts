import { attemptLikeness, type CreateCandidates, certain, type Pair } from '@monsoon/core';
import type { Work } from './work.ts';

/** For records that may have been made without our knowing: what is there that could be one of them. */
export async function findCreateCandidates(
  { context, sides: { records }, store, signal }: Work,
  doubtful: Pair[],
): Promise<ReadonlyMap<string, CreateCandidates>> {
  if (doubtful.length === 0) return new Map();
  const found = new Map<string, CreateCandidates>(doubtful.map((p) => [p.id, { sure: [], maybe: [] }]));
  for await (const page of records.pull(context.definition.records.collection, null, signal)) {
    const hits = page.items.flatMap((item) =>
      doubtful.flatMap((pair) => {
        const likeness = attemptLikeness(context, pair, item);
        return likeness === 'none' ? [] : [{ pair, item, likeness }];
      }),
    );
    const taken = new Set((await store.pairs({ records: hits.map((h) => h.item.id) })).map((p) => `${p.recordId} ${p.moment}`));
    for (const { pair, item, likeness } of hits)
      if (!taken.has(`${item.id} ${pair.moment}`)) certain(found.get(pair.id), 'each pair in doubt has an entry')[likeness].push(item);
  }
  return shareOut(found);
}

/**
 * Attempts that said the same are what the same records may have come of. Where there are no more records than such
 * attempts, each takes one: which takes which is no matter, because they say the same. What is surely one attempt's is
 * not perhaps another's.
 */
function shareOut(createCandidates: ReadonlyMap<string, CreateCandidates>): ReadonlyMap<string, CreateCandidates> {
  const result = new Map<string, CreateCandidates>();
  const taken = new Set<string>();
  const sorted = [...createCandidates].sort(([a], [b]) => (a < b ? -1 : 1));
  for (const [pair, { sure, maybe }] of sorted) {
    const rivals = [...createCandidates.values()].filter((d) => d.sure.some((r) => sure.some((s) => s.id === r.id)));
    const free = sure.filter((r) => !taken.has(r.id));
    const shared = rivals.length > 1 && new Set(rivals.flatMap((d) => d.sure.map((r) => r.id))).size <= rivals.length;
    const own = shared ? free.slice(0, 1) : free;
    for (const record of own) if (own.length === 1) taken.add(record.id);
    result.set(pair, { sure: own, maybe });
  }
  for (const doubt of result.values()) doubt.maybe = doubt.maybe.filter((r) => !taken.has(r.id));
  return result;
}
