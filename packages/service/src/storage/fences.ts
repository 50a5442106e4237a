import { certain } from '@monsoon/core';
import { and, eq, sql } from 'drizzle-orm';
import type { Database, Transaction } from './database.ts';
import { laneFences } from './schema.ts';

/** Another process has taken over the lane: what this one would still write is out of date. */
export class TakenOver extends Error {
  override name = 'TakenOver';
}

/** Takes a lane over. @returns the number that each write of this turn must bear; the earlier one is no longer good */
export async function raiseFence(db: Database, lane: string): Promise<number> {
  const [row] = await db
    .insert(laneFences)
    .values({ lane, fence: 1 })
    .onConflictDoUpdate({ target: laneFences.lane, set: { fence: sql`${laneFences.fence} + 1` } })
    .returning();
  return certain(row, 'it was written just now').fence;
}

/** Keeps the fence where it is until the transaction ends. @throws TakenOver when it was raised since */
export async function checkFence(tx: Transaction, lane: string, fence: number): Promise<void> {
  const [row] = await tx
    .select({ fence: laneFences.fence })
    .from(laneFences)
    .where(and(eq(laneFences.lane, lane), eq(laneFences.fence, fence)))
    .for('share');
  if (row === undefined) throw new TakenOver('another process has taken this lane over');
}
