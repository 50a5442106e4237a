import type { ZoneTable } from '@monsoon/core';
import type pg from 'pg';
import type { Logger } from 'pino';
import type { Config } from './config.ts';
import type { Announcer } from './jobs/announcements.ts';
import type { Database } from './storage/database.ts';
import type { Vault } from './storage/secrets.ts';
import type { Systems } from './systems/registry.ts';

/** What every part of the service works with. */
export interface App {
  config: Config;
  log: Logger;
  db: Database;
  pool: pg.Pool;
  vault: Vault;
  zones: ZoneTable;
  systems: Systems;
  announcer: Announcer;
  /** throws when this process was silent for so long that another may have taken over its work */
  checkLease(): void;
  /** where people reach the service, without a slash at its end */
  publicAddress(): string;
}

export const VERSION = '0.1.0';
