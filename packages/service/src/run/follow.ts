import { type Pair, step } from '@monsoon/core';
import type { Entry, ItemNames } from './store.ts';
import type { Work } from './work.ts';

/**
 * Takes up items that are no longer followed: what an undo, or a person's answer, had let go of. The run that comes next
 * finds them as the lane's rules say.
 *
 * @param cause who asked for it
 * @throws OutsideError
 */
export async function followAgain({ context, sides, store, signal }: Work, { records, hrefs }: ItemNames, cause: string): Promise<void> {
  const { collection } = context.definition.records;
  const named = [...(await store.pairs({ records })), ...(await store.pairs({ hrefs }))];
  const pairs: Pair[] = [];
  for (const pair of new Map(named.map((p) => [p.id, p])).values()) {
    if (pair.state !== 'unlinked') continue;
    // Where the record is gone, the event may become one again.
    const gone = pair.recordId !== null && (await sides.records.read(collection, pair.recordId, signal)) === null;
    pairs.push({ ...pair, recordId: gone ? null : pair.recordId, state: step(pair.state, 'removed'), baseline: null, version: null, etag: null });
  }
  const entry = (pair: Pair): Entry => ({ pair, kind: 'follow', cause, changes: [], notes: [], removed: null, changedAt: null });
  if (pairs.length > 0) await store.write({ pairs, entries: pairs.map(entry) });
}
