import type { TokenStore, Tokens } from '@monsoon/systems';
import { eq } from 'drizzle-orm';
import type { Database } from '../storage/database.ts';
import { systems } from '../storage/schema.ts';
import type { Vault } from '../storage/secrets.ts';

/** The OAuth tokens of one system, sealed in the database. A process that renews them holds the system's row. */
export function tokenStore(db: Database, vault: Vault, system: string): TokenStore {
  const read = (sealed: string | null | undefined) => (sealed == null ? null : (vault.open(sealed) as Tokens));
  return {
    async load() {
      const [row] = await db.select({ tokens: systems.tokens }).from(systems).where(eq(systems.id, system));
      return read(row?.tokens);
    },
    renew(renew) {
      return db.transaction(async (tx) => {
        const [row] = await tx.select({ tokens: systems.tokens }).from(systems).where(eq(systems.id, system)).for('update');
        const before = read(row?.tokens);
        const tokens = await renew(before);
        if (tokens !== before)
          await tx
            .update(systems)
            .set({ tokens: vault.seal(tokens) })
            .where(eq(systems.id, system));
        return tokens;
      });
    },
  };
}
