import type pg from 'pg';

/** Who writes: lanes look at their own writes without hurry. */
export type Writer = 'lane' | 'door';

/** What every process listens to: `SLUG lane` or `SLUG door`. */
export const CHANNEL = 'monsoon_hosted';
/** Milliseconds in which further writes into the same calendar are announced together. */
const TOGETHER = 100;

const waiting = new Map<string, NodeJS.Timeout | null>();

/**
 * Announces that something was written into a calendar: at once, and of what follows within a moment once more at its end. A notice that
 * is lost with its process costs no more than time: a listener looks at everything when it begins to listen.
 */
export function noteWrite(pool: pg.Pool, slug: string, writer: Writer): void {
  const key = `${slug} ${writer}`;
  if (waiting.has(key)) {
    if (waiting.get(key) === null)
      waiting.set(
        key,
        setTimeout(() => announce(pool, key), TOGETHER),
      );
    return;
  }
  announce(pool, key);
  waiting.set(key, null);
  setTimeout(() => waiting.get(key) === null && waiting.delete(key), TOGETHER).unref();
}

function announce(pool: pg.Pool, key: string): void {
  waiting.delete(key);
  void pool.query({ name: 'note_hosted', text: 'select pg_notify($1, $2)', values: [CHANNEL, key] }).catch(() => undefined);
}
