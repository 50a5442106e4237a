import { randomUUID } from 'node:crypto';
import { Webhook } from 'standardwebhooks';
import type { Kind, Store } from './store.ts';

/** Tells every subscriber that something changed (Standard Webhooks); tries again a few times with growing pauses. */
export function notify(store: Store, kind: Kind, id: string, event: 'created' | 'updated' | 'deleted'): void {
  const body = JSON.stringify({ type: `${kind}.${event}`, timestamp: new Date().toISOString(), data: { id } });
  for (const hook of store.hooks.values()) void deliver(hook.url, hook.secret, `msg_${randomUUID()}`, body);
}

async function deliver(url: string, secret: string, message: string, body: string): Promise<void> {
  for (const pause of [0, 1_000, 5_000, 30_000]) {
    await new Promise((resolve) => setTimeout(resolve, pause).unref());
    const now = new Date();
    const headers = {
      'content-type': 'application/json',
      'webhook-id': message,
      'webhook-timestamp': String(Math.floor(now.getTime() / 1000)),
      'webhook-signature': new Webhook(secret).sign(message, now, body),
    };
    try {
      const answer = await fetch(url, { method: 'POST', headers, body, signal: AbortSignal.timeout(10_000) });
      if (answer.ok || answer.status === 410) return;
    } catch {
      // The subscriber is away; the next attempt may find it.
    }
  }
}
