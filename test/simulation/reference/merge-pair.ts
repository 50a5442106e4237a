import { showAll } from './links.ts';
import { merge } from './merge.ts';
import type { Followed, Run } from './run-state.ts';
import { same, type Values } from './values.ts';

/** Merges the two sides of a pair, or asks about them. */
export function mergePair(run: Run, { pair, moment, links }: Followed): unknown {
  const { end, lane } = run;
  const [record, event] = [run.records.get(pair.record!)!, run.events.get(pair.event!)!];
  const before = end.records.get(pair.record!)!;
  const reshown = run.isReshown(pair);
  const merged = merge(lane, links, before, record.modified, event, pair.base, reshown, (about) => run.answered(pair, 'conflict', about));
  const key = `${pair.record} ${pair.moment}`;
  // Where the lane takes no series, one is not moved by a record, and does not take the place of a single event.
  const single = pair.base?.repeats === false;
  const taken = lane.direction !== '->' && lane.events.repeating === 'one record';
  if (event.repeats && !taken && pair.base !== null && (single || !same(merged.event['when'], event.values['when']))) {
    const about = JSON.stringify([single, showAll(links, before).values['when'] ?? null, event.values['when']]);
    if (run.answered(pair, 'repeating event', about) === 'unlink') return run.settle(pair, 'unlinked');
    run.say(key, null);
    return run.hold(pair, 'repeating event', about);
  }
  if (!same(merged.record as Values, before as Values) || !same(merged.event, event.values)) end.rewrites++;
  end.records.set(pair.record!, merged.record);
  pair.merged = merged.record;
  end.events.set(pair.event!, merged.event);
  run.say(key, merged.unfit ? 'unfit value' : null);
  // What a new version of the lane could not write is said as long as neither side changes, also where foreign edits are left.
  const sides = JSON.stringify([merged.record, merged.event]);
  if (merged.unfit && reshown) pair.unfit = sides;
  else if (pair.unfit === sides) end.maybe.set(key, 'unfit value');
  // An item that this moves out of the window may be called so now or at the next look.
  if (run.judge(pair.record, merged.record, moment, links) === 'out of the window') end.maybe.set(key, 'out of the window');
  pair.loose = merged.loose;
  pair.redefined = reshown;
  pair.seen = merged.settled.length > 0 || (pair.state === 'held' && merged.asks === null) || !merged.loose;
  if (merged.asks !== null) run.hold(pair, 'conflict', merged.asks);
  else run.settle(pair, 'in sync');
  run.agree(pair, links, { settled: merged.settled, before: pair.base, was: event.values });
}
