import { countNames, type RunCounts } from '@monsoon/contract';
import { type Damage, damagedItems, damageOf, failureReasons, itemKey, type Operation, type Plan } from '@monsoon/core';

export const noCounts = (): RunCounts => Object.fromEntries(countNames.map((n) => [n, 0])) as RunCounts;

/** Counts what needs nothing, is left out, or cannot be done. */
export function tally(counts: RunCounts, part: Plan): void {
  counts.unchanged += part.unchanged;
  // What has work to be done is counted when it is done, or fails; what cannot be done at all has failed now.
  const busy = new Set(part.operations.flatMap((o) => [itemKey({ ...o.pair, href: null }), itemKey({ ...o.pair, recordId: null })]));
  for (const item of part.verdicts) {
    if (item.verdict === null) continue;
    if (!failureReasons.includes(item.verdict.reason)) counts.leftOut++;
    else if (!busy.has(itemKey(item))) counts.failed++;
  }
}

/** The operations' damage to both sides is added to what was found so far. */
export function addDamage(damage: Damage, operations: Operation[]): void {
  const more = damageOf(operations);
  damage.items?.push(...damagedItems(operations));
  damage.removals += more.removals;
  damage.rewrites += more.rewrites;
  if (more.mails !== undefined) damage.mails = (damage.mails ?? 0) + more.mails;
}
