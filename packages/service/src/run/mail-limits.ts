import { type Damage, invites, type LaneContext, type MailLimits, mailsByGuest } from '@monsoon/core';
import type { RunStore } from './store.ts';

/** How many messages the lane may send, and how many its guests got already; null: it does not invite. */
export async function mailLimits(context: LaneContext, damage: Damage, store: RunStore): Promise<MailLimits | null> {
  if (!invites(context)) return null;
  const { perRun, perGuest } = context.definition.invitations;
  return { perRun, perGuest, today: await store.mailsToday([...mailsByGuest(damage).keys()]) };
}
