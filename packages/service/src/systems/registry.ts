import type { ZoneTable } from '@monsoon/core';
import { certain } from '@monsoon/core';
import { type Exchange, type Kind, kinds, type OpenOptions, type OpenSystem, type Trouble } from '@monsoon/systems';
import { inArray, sql } from 'drizzle-orm';
import type pg from 'pg';
import type { Logger } from 'pino';
import { Disguise } from '../hosted/disguise.ts';
import { HOSTED, hostedKind, openHosted } from '../hosted/system.ts';
import type { Announcer } from '../jobs/announcements.ts';
import type { Database } from '../storage/database.ts';
import { systems } from '../storage/schema.ts';
import type { Vault } from '../storage/secrets.ts';
import { CallLog } from './call-log.ts';
import { type Limits, SharedMeter } from './meter.ts';
import { tokenStore } from './token-store.ts';

export type SystemRow = typeof systems.$inferSelect;

export interface Surroundings {
  db: Database;
  pool: pg.Pool;
  databaseUrl: string;
  vault: Vault;
  zones: ZoneTable;
  announcer: Announcer;
  log: Logger;
  allowedAddresses: readonly string[];
  folders: readonly string[];
}

/** A kind as its settings are stored: whatever passed its checks. */
const kindNamed = (name: string): Kind => certain(kinds[name], `"${name}" was checked when the system was connected`);
export const kindOf = (row: Pick<SystemRow, 'kind'>): Omit<Kind, 'open'> => (row.kind === HOSTED ? hostedKind : kindNamed(row.kind));

export const limitsOf = (settings: unknown): Limits => {
  const { rate, allowance, descriptor } = settings as Limits & { descriptor?: Limits };
  return { rate: rate ?? descriptor?.rate, allowance };
};

/** Seconds for which a system must have failed before its recovery wakes its lanes: one that answers now and then must not spin them. */
const STEADY = 5;

/** The outside systems, opened once and shared by everything in this process, so that their limits hold for all. */
export class Systems {
  readonly #open = new Map<string, { stamp: string; system: OpenSystem; meter: SharedMeter }>();
  readonly #around: Surroundings;
  readonly #calls: CallLog;
  /** processes that share the connections of each system */
  processes = 1;
  /** hears that a system does not accept its credentials */
  onRefused: (system: string) => void = () => undefined;
  /** called when a system that was away for a while answers again */
  onRecovered: (system: string) => void = () => undefined;

  constructor(around: Surroundings) {
    this.#around = around;
    this.#calls = new CallLog(around.pool, around.log);
  }

  open(row: SystemRow): OpenSystem {
    const stamp = JSON.stringify([row.settings, row.secrets]);
    const known = this.#open.get(row.id);
    if (known?.stamp === stamp) return known.system;
    // Calls under way keep the old pool until they are done.
    if (known !== undefined) void known.system.close();
    const meter = this.#meterOf(row);
    const { vault, db, log } = this.#around;
    const system = this.#openRow(row, {
      ...this.#common(),
      meter,
      record: (call) => this.#calls.add(row.id, call),
      processes: () => this.processes,
      tokens: tokenStore(db, vault, row.id),
      health: (state, detail, trouble) =>
        void this.report(row.id, state, detail, trouble).catch((error: Error) =>
          log.warn({ error }, 'the health of a system could not be remembered'),
        ),
    });
    this.#open.set(row.id, { stamp, system, meter });
    return system;
  }

  /** A system that is not connected yet. */
  openCandidate(kind: Kind, settings: unknown, secrets: unknown): OpenSystem {
    return kind.open(settings, secrets, this.#common());
  }

  /** A connected system apart from the one that lanes use: for trying it, with every exchange shown. Its limits hold here too. */
  openApart(row: SystemRow, tap: (exchange: Exchange) => void): { system: OpenSystem; close: () => Promise<void> } {
    const { vault, db } = this.#around;
    const meter = this.#meterOf(row);
    const system = this.#openRow(row, { ...this.#common(), meter, tap, tokens: tokenStore(db, vault, row.id) });
    return {
      system,
      async close() {
        await meter.flush();
        await system.close();
      },
    };
  }

  #openRow(row: SystemRow, options: OpenOptions): OpenSystem {
    const { pool, databaseUrl, zones, vault } = this.#around;
    if (row.kind === HOSTED) return openHosted(pool, databaseUrl, zones, new Disguise(vault));
    return kindNamed(row.kind).open(row.settings, vault.open(row.secrets), options);
  }

  #meterOf(row: SystemRow): SharedMeter {
    return new SharedMeter(this.#around.pool, row, limitsOf(row.settings), this.#around.log);
  }

  #common(): Pick<OpenOptions, 'addresses' | 'zones' | 'folders'> {
    const { allowedAddresses, zones, folders } = this.#around;
    return { addresses: { allowed: allowedAddresses }, zones, folders };
  }

  /** @returns them in the order in which they were asked for */
  async byIds(...ids: string[]): Promise<{ row: SystemRow; system: OpenSystem }[]> {
    const rows = await this.#around.db.select().from(systems).where(inArray(systems.id, ids));
    return ids.map((id) => {
      const row = rows.find((r) => r.id === id);
      if (row === undefined) throw new Error(`the system ${id} is gone`);
      return { row, system: this.open(row) };
    });
  }

  /** Remembers how the system did when it was last asked, and updates open consoles. */
  async report(id: string, state: 'well' | 'failing', detail: string, trouble: Trouble | null): Promise<void> {
    const { db, announcer } = this.#around;
    const { rows } = await db.execute<{ recovered: boolean }>(
      sql`update systems s set health_state = ${state}, health_detail = ${detail}, health_at = now()
        from (select id, health_state, health_at from systems where id = ${id} for update) before where s.id = before.id
        returning before.health_state = 'failing' and ${state} = 'well' and before.health_at < now() - make_interval(secs => ${STEADY}) as recovered`,
    );
    if (rows[0]?.recovered === true) this.onRecovered(id);
    if (trouble === 'not authorised') this.onRefused(id);
    await announcer.announce(['systems']);
  }

  /** Closes the systems that were disconnected, perhaps by another process. */
  async closeDisconnected(): Promise<void> {
    const rows = await this.#around.db.select({ id: systems.id }).from(systems);
    const connected = new Set(rows.map((r) => r.id));
    for (const [id, { system, meter }] of [...this.#open]) {
      if (connected.has(id)) continue;
      this.#open.delete(id);
      await meter.flush();
      await system.close();
    }
  }

  /** Writes down what is still only in memory: counts and the last calls. */
  async settle(): Promise<void> {
    await Promise.all([this.#calls.flush(), ...[...this.#open.values()].map(({ meter }) => meter.flush())]);
  }

  async close(): Promise<void> {
    await this.settle();
    await Promise.all([...this.#open.values()].map(({ system }) => system.close()));
  }
}
