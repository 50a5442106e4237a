import type { RecordedCall } from '@monsoon/systems';
import type pg from 'pg';
import type { Logger } from 'pino';

/** Calls that are kept of each system. */
const KEPT = 200;
/** Milliseconds after which calls are written down, all at once. */
const LAZILY = 1000;

/** Writes down the last calls of every system, to show which of them failed. */
export class CallLog {
  readonly #pool: pg.Pool;
  readonly #log: Logger;
  #waiting: (RecordedCall & { system: string })[] = [];
  #timer: NodeJS.Timeout | null = null;

  constructor(pool: pg.Pool, log: Logger) {
    this.#pool = pool;
    this.#log = log;
  }

  add(system: string, call: RecordedCall): void {
    this.#waiting.push({ system, ...call });
    // In a long run only the last ones matter.
    if (this.#waiting.length > 4 * KEPT) this.#waiting = lastOfEach(this.#waiting);
    this.#timer ??= setTimeout(() => void this.flush(), LAZILY).unref();
  }

  async flush(): Promise<void> {
    if (this.#timer !== null) clearTimeout(this.#timer);
    this.#timer = null;
    const calls = lastOfEach(this.#waiting);
    this.#waiting = [];
    if (calls.length === 0) return;
    try {
      await this.#pool.query(
        `insert into recorded_calls (system, at, method, url, status, took, sent, received, trouble)
          select * from jsonb_to_recordset($1::jsonb) as c(system uuid, at timestamptz, method text, url text, status int, took int, sent int, received int, trouble text)`,
        [JSON.stringify(calls)],
      );
      await this.#pool.query(
        `delete from recorded_calls r using (select s as system, (select id from recorded_calls c where c.system = s order by id desc offset ${KEPT} limit 1) as last
            from unnest($1::uuid[]) s) old where r.system = old.system and r.id <= old.last`,
        [[...new Set(calls.map((c) => c.system))]],
      );
    } catch (error) {
      this.#log.warn({ error }, 'calls could not be written down');
    }
  }
}

/** The calls that will be kept: the last ones of each system. */
function lastOfEach<T extends { system: string }>(calls: readonly T[]): T[] {
  const seen = new Map<string, number>();
  const kept = calls.toReversed().filter(({ system }) => {
    const count = (seen.get(system) ?? 0) + 1;
    seen.set(system, count);
    return count <= KEPT;
  });
  return kept.reverse();
}
