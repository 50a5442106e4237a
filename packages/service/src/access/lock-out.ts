import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Database } from '../storage/database.ts';
import { signInFailures } from '../storage/schema.ts';

/** Wrong passwords for one address from one source before each further one has to wait. */
export const FREE_ATTEMPTS = 5;
/** The same for one address from all sources together, browsers that are known excepted. */
export const FREE_ATTEMPTS_ALL = 30;
/** The wait doubles with each attempt up to this, in seconds. */
export const LONGEST_WAIT = 900;

/** Where an attempt comes from: a browser that this person signed in from before, or an IP address. */
export interface Source {
  ip: string;
  /** its secret, where the browser is known */
  browser: string | null;
}

const ALL = 'all';
const keysOf = ({ ip, browser }: Source): string[] => (browser === null ? [`ip ${ip}`, ALL] : [`browser ${browser}`]);

/**
 * Counts an attempt before its password is looked at, so that attempts at the same time are all counted. Guesses from
 * elsewhere slow down strangers alone: a person is never locked out of a browser that they signed in from before.
 * @returns until when no attempt from there is looked at (ISO 8601); null: this one is
 */
export async function countAttempt(db: Database, email: string, source: Source): Promise<string | null> {
  return db.transaction(async (tx) => {
    const keys = keysOf(source);
    // The first statement locks the rows: what another attempt counted is seen.
    await tx
      .insert(signInFailures)
      .values(keys.map((from) => ({ email, source: from, failures: 0 })))
      .onConflictDoNothing();
    const rows = await tx
      .select()
      .from(signInFailures)
      .where(and(eq(signInFailures.email, email), inArray(signInFailures.source, keys)))
      .orderBy(signInFailures.source)
      .for('update');
    const waits = rows.map((r) => r.until).filter((until) => until !== null && Date.parse(until) > Date.now());
    const longest = waits.sort().at(-1);
    if (longest !== undefined) return longest;
    for (const row of rows) {
      const old = Date.now() - Date.parse(row.at) > 86_400_000;
      const failures = old ? 1 : row.failures + 1;
      const over = failures - (row.source === ALL ? FREE_ATTEMPTS_ALL : FREE_ATTEMPTS);
      const wait = over < 0 ? 0 : Math.min(LONGEST_WAIT, 2 ** over);
      const until = wait === 0 ? null : new Date(Date.now() + wait * 1000).toISOString();
      await tx
        .update(signInFailures)
        .set({ failures, until, at: sql`now()` })
        .where(and(eq(signInFailures.email, email), eq(signInFailures.source, row.source)));
    }
    return null;
  });
}

/** The password was right: what was counted from there is forgotten. */
export async function forgetAttempts(db: Database, email: string, source: Source): Promise<void> {
  await db.delete(signInFailures).where(and(eq(signInFailures.email, email), inArray(signInFailures.source, keysOf(source))));
}

/** An administrator unlocks an address, whatever was counted. */
export async function unlock(db: Database, email: string): Promise<void> {
  await db.delete(signInFailures).where(eq(signInFailures.email, email));
}

/** Until when an address is locked for strangers: from everywhere, or from the IP address that guessed most. Null: it is not. */
export async function lockedUntil(db: Database): Promise<Map<string, string>> {
  const rows = await db
    .select({ email: signInFailures.email, until: sql<string | null>`max(${signInFailures.until})` })
    .from(signInFailures)
    .groupBy(signInFailures.email);
  return new Map(
    rows.flatMap((r) => (r.until !== null && Date.parse(r.until) > Date.now() ? [[r.email, new Date(r.until).toISOString()] as const] : [])),
  );
}
