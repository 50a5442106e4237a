import { createHmac, randomUUID } from 'node:crypto';
import { Webhook } from 'standardwebhooks';
import type { Hook, Store } from './store.ts';

/** What may go wrong on the way: set by the person who makes trouble on purpose. */
export const mishaps: { doubled: () => boolean; lost: () => boolean } = { doubled: () => false, lost: () => false };

export type Signing = (secret: string, body: string) => Record<string, string>;

/** By the Standard Webhooks rules. */
export const standardWebhook: Signing = (secret, body) => {
  const id = `msg_${randomUUID()}`;
  const now = new Date();
  return {
    'webhook-id': id,
    'webhook-timestamp': String(Math.floor(now.getTime() / 1000)),
    'webhook-signature': new Webhook(secret).sign(id, now, body),
  };
};

/** By an HMAC of the body in a header of the sender's own. */
export const hmacWebhook =
  (header: string): Signing =>
  (secret, body) => ({ [header]: `sha256=${createHmac('sha256', secret).update(body).digest('hex')}` });

/** Tells every subscriber that something happened; tries again a few times with growing pauses. */
export function notify(store: Store<never>, event: string, notice: unknown, sign: Signing): void {
  const body = JSON.stringify(notice);
  for (const hook of store.hooks.values()) {
    if (hook.events !== undefined && !hook.events.includes(event)) continue;
    if (mishaps.lost()) continue;
    void deliver(hook, body, sign);
    if (mishaps.doubled()) void deliver(hook, body, sign);
  }
}

async function deliver(hook: Hook, body: string, sign: Signing): Promise<void> {
  for (const pause of [0, 1_000, 5_000, 30_000]) {
    await new Promise((resolve) => setTimeout(resolve, pause).unref());
    try {
      const headers = { 'content-type': 'application/json', ...sign(hook.secret, body) };
      const answer = await fetch(hook.url, { method: 'POST', headers, body, signal: AbortSignal.timeout(10_000) });
      if (answer.ok || answer.status === 410) return;
    } catch {
      // The subscriber is away; the next attempt may find it.
    }
  }
}
