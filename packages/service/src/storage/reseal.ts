import { eq } from 'drizzle-orm';
import type { App } from '../app.ts';
import { opens } from './check-key.ts';
import { consents, feeds, hooks, idempotency, systems } from './schema.ts';

/** Seals every stored secret again with the first key; afterwards the others are of no use any more. @returns how many */
export async function resealAll({ db, vault }: Pick<App, 'db' | 'vault'>): Promise<number> {
  return db.transaction(async (tx) => {
    let count = 0;
    const reseal = (sealed: string): string => {
      count++;
      return vault.seal(vault.open(sealed));
    };
    for (const s of await tx.select().from(systems).for('update'))
      await tx
        .update(systems)
        .set({ secrets: reseal(s.secrets), tokens: s.tokens === null ? null : reseal(s.tokens) })
        .where(eq(systems.id, s.id));
    for (const h of await tx.select().from(hooks).for('update'))
      await tx
        .update(hooks)
        .set({ secret: reseal(h.secret) })
        .where(eq(hooks.id, h.id));
    // One whose secret was lost with its key is still found by its hash; its address can only be renewed.
    for (const f of await tx.select().from(feeds).for('update')) {
      const sealed = opens(vault, f.secret) ? reseal(f.secret) : f.secret;
      await tx.update(feeds).set({ secret: sealed }).where(eq(feeds.id, f.id));
    }
    // Answers of the last day, for requests that are repeated: not worth opening.
    await tx.delete(idempotency);
    for (const c of await tx.select().from(consents).for('update'))
      await tx
        .update(consents)
        .set({ verifier: reseal(c.verifier) })
        .where(eq(consents.state, c.state));
    return count;
  });
}
