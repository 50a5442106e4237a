import type { LaneDefinition } from '../lane/definition.ts';
import { isHarmless, isRemoval, type Operation } from './operation.ts';

export interface Damage {
  removals: number;
  rewrites: number;
  /** `remove PAIR` or `rewrite PAIR` for each of them; missing in what an earlier version kept */
  items?: string[];
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

/** The items of it, one by one. */
export const damagedItems = (operations: readonly Operation[]): string[] =>
  operations.flatMap((o) => (isRemoval(o) ? [`remove ${o.pair.id}`] : isHarmless(o) ? [] : [`rewrite ${o.pair.id}`]));

/**
 * What the guard has to judge when a person let a held run through: their leave is for the items that they were shown.
 * With any other among them, removals or rewrites are judged as a whole again.
 */
export function damageToJudge(damage: Damage, shown: Damage | null): Damage {
  if (shown === null) return damage;
  const [removals, rewrites] = (['remove', 'rewrite'] as const).map((kind) => {
    const [now, then] = kind === 'remove' ? [damage.removals, shown.removals] : [damage.rewrites, shown.rewrites];
    const seen = new Set(shown.items);
    const others = shown.items === undefined ? now > then : damage.items?.some((item) => item.startsWith(`${kind} `) && !seen.has(item));
    return others === true ? now : 0;
  }) as [number, number];
  return { removals, rewrites };
}

/** How many pairs there must be for shares to be no matter: counting further tells the guard nothing. */
export function pairsThatMatter({ removals, rewrites }: Damage, limits: LaneDefinition['guard']): number {
  const enough = (count: number, percent: number) => (count === 0 ? 0 : percent === 0 ? Number.POSITIVE_INFINITY : (100 * count) / percent);
  return Math.ceil(Math.max(fewestPairsForShares, enough(removals, limits.removedPercent), enough(rewrites, limits.rewrittenPercent)));
}

/**
 * Compares what a plan removes and rewrites with the lane's limits.
 * @param pairs how many pairs the lane follows
 */
export function guard({ removals, rewrites }: Damage, pairs: number, limits: LaneDefinition['guard']): Guarded {
  const reasons: string[] = [];
  const share = (count: number) => (pairs < fewestPairsForShares ? 0 : (100 * count) / pairs);
  if (removals > limits.removals) reasons.push(`it would remove ${removals} items; the guard lets ${limits.removals} through`);
  else if (removals > 0 && share(removals) > limits.removedPercent)
    reasons.push(`it would remove ${removals} of ${pairs} items; the guard lets ${limits.removedPercent} % through`);
  if (rewrites > 0 && share(rewrites) > limits.rewrittenPercent)
    reasons.push(`it would rewrite ${rewrites} of ${pairs} items; the guard lets ${limits.rewrittenPercent} % through`);
  return { reasons, damage: { removals, rewrites } };
}
