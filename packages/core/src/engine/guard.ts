import type { LaneDefinition } from '../lane/definition.ts';
import { isHarmless, isRemoval, type Operation } from './operation.ts';

export interface Damage {
  removals: number;
  rewrites: number;
}

export interface Guarded {
  /** why the run is held; empty when it may go on */
  reasons: string[];
  damage: Damage;
}

/** Shares say little about a handful: from this many pairs on they count. */
const fewestPairsForShares = 10;

/** What operations take away and rewrite, on both sides together. */
export function damageOf(operations: readonly Operation[]): Damage {
  const removals = operations.filter(isRemoval).length;
  return { removals, rewrites: operations.filter((o) => !isHarmless(o)).length - removals };
}

/** How many pairs there must be for shares to be no matter: counting further tells the guard nothing. */
export function pairsThatMatter({ removals, rewrites }: Damage, limits: LaneDefinition['guard']): number {
  const enough = (count: number, percent: number) => (count === 0 ? 0 : percent === 0 ? Number.POSITIVE_INFINITY : (100 * count) / percent);
  return Math.ceil(Math.max(fewestPairsForShares, enough(removals, limits.removedPercent), enough(rewrites, limits.rewrittenPercent)));
}

/**
 * Compares what a plan removes and rewrites with the lane's limits.
 *
 * @param pairs how many pairs the lane follows
 * @param allowed what a person let through after seeing it
 */
export function guard({ removals, rewrites }: Damage, pairs: number, limits: LaneDefinition['guard'], allowed: Damage | null): Guarded {
  const reasons: string[] = [];
  const share = (count: number) => (pairs < fewestPairsForShares ? 0 : (100 * count) / pairs);
  if (removals > (allowed?.removals ?? 0)) {
    if (removals > limits.removals) reasons.push(`it would remove ${removals} items; the guard lets ${limits.removals} through`);
    else if (share(removals) > limits.removedPercent)
      reasons.push(`it would remove ${removals} of ${pairs} items; the guard lets ${limits.removedPercent} % through`);
  }
  if (rewrites > (allowed?.rewrites ?? 0) && share(rewrites) > limits.rewrittenPercent) {
    reasons.push(`it would rewrite ${rewrites} of ${pairs} items; the guard lets ${limits.rewrittenPercent} % through`);
  }
  return { reasons, damage: { removals, rewrites } };
}
