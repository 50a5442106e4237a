import type { ZoneTable } from '@monsoon/core';
import type { Changed, Kind, OpenSystem } from '@monsoon/systems';
import { eq } from 'drizzle-orm';
import type pg from 'pg';
import * as yup from 'yup';
import type { Database } from '../storage/database.ts';
import { systems } from '../storage/schema.ts';
import type { Vault } from '../storage/secrets.ts';
import { openSession } from '../storage/sessions.ts';
import { calendarHref } from './addresses.ts';
import { HostedCalendars } from './calendars.ts';
import type { Disguise } from './disguise.ts';
import { CHANNEL } from './notices.ts';

/** The kind of the system that is there from the first start; it is never connected, changed or disconnected. */
export const HOSTED = 'hosted';

/** What the other kinds say of themselves. */
export const hostedKind: Omit<Kind, 'open'> = {
  label: 'Calendars of Monsoon',
  hint: 'calendars that Monsoon keeps itself',
  settings: yup.object({}).noUnknown(),
  secrets: yup.object({}).noUnknown(),
};

/** The hosted calendars as a system beside the outside ones. */
export function openHosted(pool: pg.Pool, databaseUrl: string, zones: ZoneTable, disguise: Disguise): OpenSystem {
  return {
    calendars: new HostedCalendars(pool, zones, disguise),
    watch: (changed, lost) => listen(databaseUrl, changed, lost),
    close: async () => undefined,
  };
}

async function listen(url: string, changed: (what: Changed) => void, lost: (error: Error) => void): Promise<() => Promise<void>> {
  const client = await openSession(url, lost, (session) => {
    session.on('notification', ({ payload = '' }) => {
      const [slug, by] = payload.split(' ');
      changed({ calendar: calendarHref(slug ?? ''), ours: by === 'lane' });
    });
    return session.query(`listen ${CHANNEL}`);
  });
  return () => client.end();
}

/** Makes the system that stands for them, once. */
export async function ensureHosted(db: Database, vault: Vault): Promise<void> {
  const row = { name: 'Calendars of Monsoon', kind: HOSTED, settings: {}, secrets: vault.seal({}) };
  for (const slug of ['hosted', 'hosted-calendars', 'calendars-of-monsoon'])
    await db
      .insert(systems)
      .values({ ...row, slug })
      .onConflictDoNothing();
  // Sealed again: the key may be another one than when it was made.
  await db.update(systems).set({ secrets: row.secrets }).where(eq(systems.kind, HOSTED));
}
