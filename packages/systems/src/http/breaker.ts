import { OutsideError } from '../outside-error.ts';
import type { Call } from './call.ts';

/** Failures in a row after which a system is left alone, and for how long, in milliseconds: at first, and at most. */
export const breakerLimits = { failures: 5, first: 1_000, longest: 15_000 };

/** A 500 may concern one item alone; these say that the system is not there. */
const AWAY = new Set([502, 503, 504]);

/**
 * A circuit breaker: after some failures in a row nothing is asked for a while, then one call tries, and each time it
 * fails the pause doubles. What waits fails at once with the reason, and the system is spared.
 */
export function breaker(call: Call, limits = breakerLimits): Call {
  let failures = 0;
  let pause = limits.first;
  let restsUntil = 0;
  let trying = false;
  let reason = '';
  const failed = (why: string) => {
    reason = why;
    if (++failures < limits.failures) return;
    restsUntil = Date.now() + pause;
    pause = Math.min(pause * 2, limits.longest);
  };
  return async (request) => {
    const open = failures >= limits.failures;
    if (open && (trying || Date.now() < restsUntil)) {
      const seconds = Math.max(1, Math.ceil((restsUntil - Date.now()) / 1000));
      throw new OutsideError(
        'unreachable',
        `${new URL(request.url).host} is left alone for ${seconds} seconds after ${failures} failures in a row; the last: ${reason}`,
        { retryAfter: seconds, ours: true },
      );
    }
    if (open) trying = true;
    try {
      const answer = await call(request);
      if (AWAY.has(answer.status)) failed(`it answered ${answer.status}`);
      else {
        failures = 0;
        pause = limits.first;
      }
      return answer;
    } catch (error) {
      if (error instanceof OutsideError && !error.ours && (error.trouble === 'unreachable' || error.trouble === 'timed out')) failed(error.message);
      throw error;
    } finally {
      if (open) trying = false;
    }
  };
}
