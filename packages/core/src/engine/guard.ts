import type { LaneDefinition } from '../lane/definition.ts';
import { isHarmless, isRemoval, type Operation } from './operation.ts';

export interface Damage {
  removals: number;
  rewrites: number;
  /** messages to guests; missing in what an earlier version kept */
  mails?: number;
  /** `remove PAIR`, `rewrite PAIR`, or `mail PAIR ADDRESS` for each of them; missing in what an earlier version kept */
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
  const mails = operations.reduce((sum, o) => sum + o.notices.length, 0);
  return { removals, rewrites: operations.filter((o) => !isHarmless(o)).length - removals, ...(mails === 0 ? {} : { mails }) };
}

/** The items of it, one by one. */
export const damagedItems = (operations: readonly Operation[]): string[] =>
  operations.flatMap((o) => [
    ...(isRemoval(o) ? [`remove ${o.pair.id}`] : isHarmless(o) ? [] : [`rewrite ${o.pair.id}`]),
    ...o.notices.map((n) => mailItem(o.pair.id, n.email)),
  ]);

const mailItem = (pair: string, email: string): string => `mail ${pair} ${email}`;

/** How many messages of a run each guest gets, by address. */
export function mailsByGuest({ items }: Damage): Map<string, number> {
  const found = new Map<string, number>();
  for (const item of items ?? []) {
    const email = /^mail \S+ (.+)$/.exec(item)?.[1];
    if (email !== undefined) found.set(email, (found.get(email) ?? 0) + 1);
  }
  return found;
}

/**
 * What the guard has to judge when a person let a held run through: their leave is for the items that they were shown.
 * With any other among them, removals or rewrites are judged as a whole again.
 */
export function damageToJudge(damage: Damage, shown: Damage | null): Damage {
  if (shown === null) return damage;
  const seen = new Set(shown.items);
  const leftToJudge = (kind: 'remove' | 'rewrite' | 'mail', now: number, then: number): number => {
    const others = shown.items === undefined ? now > then : damage.items?.some((item) => item.startsWith(`${kind} `) && !seen.has(item));
    return others === true ? now : 0;
  };
  const mails = leftToJudge('mail', damage.mails ?? 0, shown.mails ?? 0);
  return {
    removals: leftToJudge('remove', damage.removals, shown.removals),
    rewrites: leftToJudge('rewrite', damage.rewrites, shown.rewrites),
    ...(mails === 0 ? {} : { mails, items: damage.items?.filter((i) => i.startsWith('mail ')) ?? [] }),
  };
}

/** How many pairs there must be for shares to be no matter: counting further tells the guard nothing. */
export function pairsThatMatter({ removals, rewrites }: Damage, limits: LaneDefinition['guard']): number {
  const enough = (count: number, percent: number) => (count === 0 ? 0 : percent === 0 ? Number.POSITIVE_INFINITY : (100 * count) / percent);
  return Math.ceil(Math.max(fewestPairsForShares, enough(removals, limits.removedPercent), enough(rewrites, limits.rewrittenPercent)));
}

/**
 * Compares what a plan removes, rewrites and mails with the lane's limits.
 * @param pairs how many pairs the lane follows
 */
export function guard(damage: Damage, pairs: number, limits: LaneDefinition['guard'], mails: MailLimits | null = null): Guarded {
  const { removals, rewrites } = damage;
  const reasons: string[] = [];
  const share = (count: number) => (pairs < fewestPairsForShares ? 0 : (100 * count) / pairs);
  if (removals > limits.removals) reasons.push(`it would remove ${removals} items; the guard lets ${limits.removals} through`);
  else if (removals > 0 && share(removals) > limits.removedPercent)
    reasons.push(`it would remove ${removals} of ${pairs} items; the guard lets ${limits.removedPercent} % through`);
  if (rewrites > 0 && share(rewrites) > limits.rewrittenPercent)
    reasons.push(`it would rewrite ${rewrites} of ${pairs} items; the guard lets ${limits.rewrittenPercent} % through`);
  if (mails !== null) reasons.push(...guardMails(damage, mails));
  return { reasons, damage };
}

/** What a lane lets through of messages to guests. */
export interface MailLimits extends Pick<LaneDefinition['invitations'], 'perRun' | 'perGuest'> {
  /** how many messages guests got in the last day, by address */
  today: ReadonlyMap<string, number>;
}

function guardMails(damage: Damage, { perRun, perGuest, today }: MailLimits): string[] {
  const mails = damage.mails ?? 0;
  if (mails === 0) return [];
  const reasons = mails > perRun ? [`it would write to guests ${mails} times; the lane lets ${perRun} through in a run`] : [];
  const over = [...mailsByGuest(damage)].flatMap(([email, count]) => {
    const all = count + (today.get(email) ?? 0);
    return all > perGuest ? [{ email, all }] : [];
  });
  const [first] = over;
  if (first === undefined) return reasons;
  const others = over.length === 1 ? '' : `, and ${over.length - 1} others as often`;
  return [...reasons, `${first.email} would get message ${first.all} of a day${others}; the lane lets ${perGuest} through`];
}
