import type { Call } from './call.ts';

/**
 * Lets a few calls through at a time and finds out how many the system bears: one more after a row of good answers,
 * half as many after a time-out, a refused connection, 429 or 503.
 *
 * @param most never more at once than this; it may change, as other processes come and go
 */
export function adaptiveConcurrency(call: Call, most: () => number): Call {
  let allowed = Math.min(most(), 4);
  let active = 0;
  let streak = 0;
  const waiting: (() => void)[] = [];
  const next = () => {
    while (active < Math.max(1, Math.min(allowed, most())) && waiting.length > 0) {
      active++;
      waiting.shift()!();
    }
  };
  const strained = () => {
    allowed = Math.max(1, Math.floor(allowed / 2));
    streak = 0;
  };
  return async (request) => {
    await new Promise<void>((resolve) => {
      waiting.push(resolve);
      next();
    });
    try {
      const answer = await call(request);
      if (answer.status === 429 || answer.status === 503) strained();
      else if (++streak >= 20 && allowed < most()) {
        allowed++;
        streak = 0;
      }
      return answer;
    } catch (error) {
      strained();
      throw error;
    } finally {
      active--;
      next();
    }
  };
}
