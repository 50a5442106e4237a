import type { RunCounts } from './lanes.ts';

const words: [keyof RunCounts, string][] = [
  ['created', 'created'],
  ['changed', 'changed'],
  ['removed', 'removed'],
  ['adopted', 'adopted'],
  ['inSync', 'in sync'],
  ['unlinked', 'unlinked'],
  ['held', 'held'],
  ['failed', 'failed'],
  ['unchanged', 'unchanged'],
  ['leftOut', 'left out'],
];

/** What a run did, in words: `3 created, 1 changed, 102 unchanged`. */
export const sayCounts = (counts: RunCounts): string =>
  words
    .filter(([name]) => counts[name] > 0)
    .map(([name, word]) => `${counts[name]} ${word}`)
    .join(', ') || 'nothing to do';

/** How many operations a run does, or would do: all but what it leaves as it is, leaves out, or fails at. */
export const countOperations = ({ unchanged: _same, leftOut: _left, failed: _failed, ...writes }: RunCounts): number =>
  Object.values(writes).reduce((sum, n) => sum + n, 0);
