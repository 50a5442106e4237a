import type { LaneDefinition } from '../lane/definition.ts';
import type { Operation } from './plan.ts';

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

/**
 * Compares what a plan removes and rewrites with the lane's limits.
 *
 * @param pairs how many pairs the lane follows
 * @param allowed what a person let through after seeing it
 */
export function guard(operations: readonly Operation[], pairs: number, limits: LaneDefinition['guard'], allowed: Damage | null): Guarded {
  const removals = operations.filter((o) => o.kind === 'remove').length;
  const rewrites = operations.filter((o) => o.kind === 'change').length;
  const reasons: string[] = [];
  const share = (count: number) => (pairs < fewestPairsForShares ? 0 : (100 * count) / pairs);
  if (removals > (allowed?.removals ?? 0)) {
    if (removals > limits.removals) reasons.push(`it would remove ${removals} events; the guard lets ${limits.removals} through`);
    else if (share(removals) > limits.removedPercent)
      reasons.push(`it would remove ${removals} of ${pairs} events; the guard lets ${limits.removedPercent} % through`);
  }
  if (rewrites > (allowed?.rewrites ?? 0) && share(rewrites) > limits.rewrittenPercent) {
    reasons.push(`it would rewrite ${rewrites} of ${pairs} events; the guard lets ${limits.rewrittenPercent} % through`);
  }
  return { reasons, damage: { removals, rewrites } };
}

/** Operations that neither remove nor rewrite anything: what a held run may still do. */
export const isHarmless = (operation: Operation): boolean =>
  operation.kind === 'make' ||
  operation.kind === 'agree' ||
  operation.kind === 'hold' ||
  (operation.kind === 'adopt' && operation.changes.length === 0);
