import type { HoldAnswer } from '@monsoon/contract';

/** Questions of one lane that ask the same: read, and settled, together. */
export interface HoldGroup {
  lane: string;
  question: HoldAnswer['question'];
  holds: HoldAnswer[];
}

/** In the order in which they were first asked. */
export function groupHolds(holds: readonly HoldAnswer[]): HoldGroup[] {
  const groups = new Map<string, HoldGroup>();
  for (const hold of holds) {
    const key = `${hold.lane} ${hold.question}`;
    const group = groups.get(key) ?? { lane: hold.lane, question: hold.question, holds: [] };
    group.holds.push(hold);
    groups.set(key, group);
  }
  return [...groups.values()];
}
