import { randomBytes } from 'node:crypto';
import { callStack, OutsideError } from '@monsoon/systems';
import { eq } from 'drizzle-orm';
import { Webhook } from 'standardwebhooks';
import type { App } from '../app.ts';
import { hooks, type notifications } from '../storage/schema.ts';

type Hook = typeof hooks.$inferSelect;

export const newHookSecret = (): string => `whsec_${randomBytes(24).toString('base64')}`;

/** What is posted: what is the matter and where to go, and no value of any item. */
const payloadOf = (app: App, t: Pick<typeof notifications.$inferSelect, 'occasion' | 'cause' | 'subject' | 'path' | 'at'>) => ({
  type: `monsoon.${t.occasion.replaceAll(' ', '_')}`,
  timestamp: t.at,
  data: { cause: t.cause, subject: t.subject, url: app.publicAddress() + t.path },
});

/** Posts with a signature (Standard Webhooks); the id is the same when it is posted again. @throws OutsideError */
async function post(app: App, hook: Hook, id: string, payload: object): Promise<void> {
  const body = JSON.stringify(payload);
  const at = new Date();
  const { call, close } = callStack({ addresses: { allowed: app.config.allowedAddresses }, timeout: 10_000, anonymous: true });
  try {
    const answer = await call({
      method: 'POST',
      url: hook.url,
      headers: {
        'content-type': 'application/json',
        'webhook-id': id,
        'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
        'webhook-signature': new Webhook(app.vault.open(hook.secret) as string).sign(id, at, body),
      },
      body,
      signal: AbortSignal.timeout(15_000),
    });
    if (answer.status >= 300) throw new OutsideError('refused', `it answered ${answer.status}`, { status: answer.status });
  } finally {
    await close();
  }
}

async function remember(app: App, hook: Hook, outcome: string): Promise<void> {
  await app.db.update(hooks).set({ lastAt: new Date().toISOString(), lastOutcome: outcome }).where(eq(hooks.id, hook.id));
}

/** Notifies another program, one post for each cause. */
export async function deliver(app: App, id: string, waiting: (typeof notifications.$inferSelect)[]): Promise<void> {
  const [hook] = await app.db.select().from(hooks).where(eq(hooks.id, id));
  if (hook === undefined) return;
  for (const one of waiting) await tryPost(app, hook, `monsoon-${one.id}`, payloadOf(app, one));
}

export async function tryPost(app: App, hook: Hook, id: string, payload: object): Promise<void> {
  try {
    await post(app, hook, id, payload);
    await remember(app, hook, 'taken');
  } catch (error) {
    await remember(app, hook, error instanceof OutsideError ? error.message : 'failed inside Monsoon');
    throw error;
  }
}
