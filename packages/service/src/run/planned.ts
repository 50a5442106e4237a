import { type LaneContext, type Plan, plan } from '@monsoon/core';
import type { GatheredBatch } from './batch-reader.ts';
import type { Gathering } from './gather.ts';

/** UIDs of events that records name as theirs: in their link field, or by a pair that is followed again. */
function namedEvents({ definition: { link } }: LaneContext, { operations }: Plan, { gathered }: GatheredBatch): string[] {
  return operations.flatMap(({ kind, record, pair }) => {
    if (kind !== 'create' || record === null) return [];
    const before = gathered.pairs.find((p) => p.id === pair.id)?.uid;
    const named = link === null ? null : record.fields[link];
    return [...(typeof named === 'string' && named !== '' ? [named] : []), ...(before === undefined || before === pair.uid ? [] : [before])];
  });
}

/**
 * Gather, match, judge, merge and plan, batch by batch: all of a run except doing it. Runs, forecasts and audits read
 * this one stream.
 */
export async function* planned(
  context: LaneContext,
  gathering: Gathering,
  planner: typeof plan = plan,
): AsyncIterable<{ plan: Plan; batch: GatheredBatch }> {
  for await (const batch of gathering.batches()) {
    let result = planner(context, batch.gathered, batch.due);
    // What else is on the calendar, only a record without an event, or whose event is gone, needs to know.
    const { wanted, sought } = result.claims;
    const uids = [...sought, ...namedEvents(context, result, batch)];
    if (wanted.length + uids.length > 0 && (await gathering.readUnpaired(uids, wanted))) result = planner(context, batch.gathered, batch.due);
    batch.gathered.unpaired.claim(result.claims);
    yield { plan: result, batch };
  }
}
