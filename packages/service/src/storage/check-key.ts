import { randomBytes } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { HOSTED } from '../hosted/system.ts';
import type { Database } from './database.ts';
import { consents, hooks, systems } from './schema.ts';
import type { Vault } from './secrets.ts';

/** Systems and webhooks whose secrets the given key does not open. */
interface Unopened {
  systems: (typeof systems.$inferSelect)[];
  hooks: (typeof hooks.$inferSelect)[];
}

export const opens = (vault: Vault, sealed: string | null): boolean => {
  if (sealed === null || sealed === '') return true;
  try {
    vault.open(sealed);
    return true;
  } catch {
    return false;
  }
};

async function unopened(db: Database, vault: Vault): Promise<Unopened> {
  const all = { systems: await db.select().from(systems), hooks: await db.select().from(hooks) };
  return {
    // What stands for Monsoon's own calendars has no secrets to lose.
    systems: all.systems.filter((s) => s.kind !== HOSTED && (!opens(vault, s.secrets) || !opens(vault, s.tokens))),
    hooks: all.hooks.filter((h) => !opens(vault, h.secret)),
  };
}

const nameAll = ({ systems: s, hooks: h }: Unopened): string => [...s.map((x) => x.name), ...h.map((x) => `the webhook to ${x.url}`)].join(', ');

/**
 * Checks at the start that the key opens the stored secrets. With a wrong key every system would seem to refuse its credentials.
 *
 * @param drop drops the stored secrets that the key does not open, and no others
 * @returns the names of systems and webhooks whose secrets must be entered again; null: none
 * @throws Error with the way out
 */
export async function checkKey(db: Database, vault: Vault, where: string, drop: boolean): Promise<string | null> {
  const found = await unopened(db, vault);
  if (found.systems.length + found.hooks.length === 0) return null;
  const names = nameAll(found);
  if (!drop)
    throw new Error(
      `the key in ${where} does not open the stored secrets of ${names}: they were sealed with another one. Give that key (it is in the backup, or on the machine that was first), or start once with MONSOON_DROP_SECRETS=yes and enter the secrets of these again`,
    );
  await db.transaction(async (tx) => {
    for (const system of found.systems)
      await tx
        .update(systems)
        .set({
          secrets: vault.seal({}),
          tokens: null,
          lapsedAt: new Date().toISOString(),
          lapsedReason: 'its stored secrets were dropped because their key is lost: enter them again',
        })
        .where(eq(systems.id, system.id));
    for (const hook of found.hooks)
      await tx
        .update(hooks)
        .set({ secret: vault.seal(`whsec_${randomBytes(32).toString('base64')}`) })
        .where(eq(hooks.id, hook.id));
    // A consent in progress has to be started again.
    await tx.delete(consents);
  });
  return names;
}
