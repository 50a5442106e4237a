import type { ZoneTable } from '@monsoon/core';
import { kinds, type OpenSystem } from '@monsoon/systems';
import { eq } from 'drizzle-orm';
import type { Logger } from 'pino';
import type { Announcer } from '../jobs/announcements.ts';
import type { Database } from '../storage/database.ts';
import { systems } from '../storage/schema.ts';
import type { Vault } from '../storage/secrets.ts';

export type SystemRow = typeof systems.$inferSelect;

/** The outside systems, opened once and shared by everything in this process, so that their limits hold for all. */
export class Systems {
  readonly #open = new Map<string, { stamp: string; system: OpenSystem }>();
  readonly #db: Database;
  readonly #vault: Vault;
  readonly #allowed: readonly string[];
  readonly #zones: ZoneTable;
  readonly #announce: (nouns: string[]) => Promise<void>;
  readonly #unreported: (error: Error) => void;

  constructor(db: Database, vault: Vault, allowed: readonly string[], zones: ZoneTable, announcer: Announcer, log: Logger) {
    this.#db = db;
    this.#vault = vault;
    this.#allowed = allowed;
    this.#zones = zones;
    this.#announce = (nouns) => announcer.announce(nouns);
    this.#unreported = (error) => log.warn({ error: error.message }, 'the health of a system could not be remembered');
  }

  open(row: SystemRow): OpenSystem {
    const stamp = JSON.stringify([row.settings, row.secrets]);
    const known = this.#open.get(row.id);
    if (known?.stamp === stamp) return known.system;
    // Calls under way keep the old pool until they are done.
    if (known !== undefined) void known.system.close();
    const system = kinds[row.kind]!.open(row.settings, this.#vault.open(row.secrets), {
      addresses: { allowed: this.#allowed },
      zones: this.#zones,
      health: (state, detail) => void this.report(row.id, state, detail).catch(this.#unreported),
    });
    this.#open.set(row.id, { stamp, system });
    return system;
  }

  async byId(id: string): Promise<{ row: SystemRow; system: OpenSystem }> {
    const [row] = await this.#db.select().from(systems).where(eq(systems.id, id));
    if (row === undefined) throw new Error(`the system ${id} is gone`);
    return { row, system: this.open(row) };
  }

  /** Remembers how the system did when it was last asked, and tells whoever looks. */
  async report(id: string, state: 'well' | 'failing', detail: string): Promise<void> {
    await this.#db.update(systems).set({ healthState: state, healthDetail: detail, healthAt: new Date().toISOString() }).where(eq(systems.id, id));
    await this.#announce(['systems']);
  }

  async close(): Promise<void> {
    await Promise.all([...this.#open.values()].map(({ system }) => system.close()));
  }
}
