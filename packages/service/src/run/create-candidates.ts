import { CreateAttempts, type CreateCandidates, type Pair } from '@monsoon/core';
import { Turns } from '@monsoon/systems';
import type { Work } from './work.ts';

/** For records that may have been made without our knowing: what is there that could be one of them. */
export async function findCreateCandidates(
  { context, sides: { records }, store, signal }: Work,
  doubtful: Pair[],
): Promise<ReadonlyMap<string, CreateCandidates>> {
  if (doubtful.length === 0) return new Map();
  const turns = new Turns({ signal });
  const attempts = new CreateAttempts(context, doubtful);
  for await (const page of records.pull(context.definition.records.collection, null, signal)) {
    const like = await turns.map(page.items, (item) => (attempts.mayBe(item) ? [item] : []));
    const found = like.flat();
    if (found.length === 0) continue;
    const taken = new Set((await store.pairs({ records: found.map((r) => r.id) })).map((p) => `${p.recordId} ${p.moment}`));
    await turns.map(found, (item) => attempts.note(item, (moment) => taken.has(`${item.id} ${moment}`)));
  }
  return attempts.candidates();
}
