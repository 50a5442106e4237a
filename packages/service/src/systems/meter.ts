import { setTimeout as pause } from 'node:timers/promises';
import { type Meter, OutsideError } from '@monsoon/systems';
import type pg from 'pg';
import type { Logger } from 'pino';
import { isForPerson } from '../access/for-person.ts';

export interface Limits {
  rate?: { calls: number; per: 'second' | 'minute' | 'hour' } | undefined;
  /** calls in a calendar month (UTC) */
  allowance?: number | undefined;
}

const seconds = { second: 1, minute: 60, hour: 3600 };
/** Share of the allowance after which nothing more is asked on behalf of somebody who looks: the rest is kept for lanes. */
const FOR_PEOPLE = 0.9;
/** Share of the allowance at which a warning is due. */
export const WARN_AT = 0.8;

/**
 * One statement counts a call and gives it its turn: turns lie evenly apart, after a burst of as many calls as the rate
 * allows at once (a leaky bucket, kept as the time at which it is empty again). Each caller is given the next turn,
 * in whatever process it is.
 */
const TURN = `insert into call_meters as m (system, month, calls, free_at)
  values ($1, to_char(now() at time zone 'UTC', 'YYYY-MM'), 1, now() + make_interval(secs => $2::float8))
  on conflict (system) do update set
    month = excluded.month,
    calls = case when m.month = excluded.month then m.calls + 1 else 1 end,
    free_at = greatest(m.free_at, now()) + make_interval(secs => $2::float8)
  where $3::int is null or m.month <> excluded.month or m.calls < $3::int
  returning greatest(0, extract(epoch from m.free_at - now()) - $4::float8) as wait`;

const COUNT = `insert into call_meters as m (system, month, calls) values ($1, to_char(now() at time zone 'UTC', 'YYYY-MM'), $2)
  on conflict (system) do update set month = excluded.month, calls = case when m.month = excluded.month then m.calls + $2 else $2 end`;

/** Milliseconds after which calls of systems without limits are counted, all at once. */
const LAZILY = 2000;

/** Counts the calls of one system over all processes and keeps to its limits. */
export class SharedMeter implements Meter {
  readonly #pool: pg.Pool;
  readonly #system: string;
  readonly #name: string;
  readonly #limits: Limits;
  readonly #log: Logger;
  #uncounted = 0;
  #timer: NodeJS.Timeout | null = null;

  constructor(pool: pg.Pool, system: { id: string; name: string }, limits: Limits, log: Logger) {
    this.#pool = pool;
    this.#system = system.id;
    this.#name = system.name;
    this.#limits = limits;
    this.#log = log;
  }

  async admit(signal?: AbortSignal): Promise<void> {
    const { rate } = this.#limits;
    const whole = this.#limits.allowance;
    if (rate === undefined && whole === undefined) return this.#countLater();
    const allowance = whole !== undefined && isForPerson() ? Math.floor(whole * FOR_PEOPLE) : whole;
    const each = rate === undefined ? 0 : seconds[rate.per] / rate.calls;
    // A second's worth may go at once; what is counted by the hour may not all go in its first minute.
    const burst = rate === undefined ? 0 : Math.max(each, Math.min(1, seconds[rate.per]));
    const { rows } = await this.#pool.query<{ wait: string }>(TURN, [this.#system, each, allowance ?? null, burst]);
    if (rows[0] === undefined) {
      const used = (await this.#pool.query<{ calls: number }>('select calls from call_meters where system = $1', [this.#system])).rows[0]?.calls ?? 0;
      throw new OutsideError(
        'throttled',
        used >= (whole ?? 0)
          ? `the allowance of ${whole} calls to ${this.#name} in this month is used up: nothing more is asked of it until the month ends, or until the allowance is raised`
          : `${used} of the ${whole} calls to ${this.#name} in this month are used: the rest is kept for lanes; raise the allowance, or wait until the month ends`,
        { retryAfter: 3600 },
      );
    }
    const wait = Number(rows[0].wait);
    if (wait > 0) await pause(wait * 1000, undefined, signal === undefined ? {} : { signal });
  }

  #countLater(): void {
    this.#uncounted++;
    this.#timer ??= setTimeout(() => void this.flush(), LAZILY).unref();
  }

  async flush(): Promise<void> {
    if (this.#timer !== null) clearTimeout(this.#timer);
    this.#timer = null;
    const counted = this.#uncounted;
    this.#uncounted = 0;
    if (counted === 0) return;
    await this.#pool
      .query(COUNT, [this.#system, counted])
      .catch((error: Error) => this.#log.warn({ error, calls: counted }, 'calls of a system could not be counted'));
  }
}
