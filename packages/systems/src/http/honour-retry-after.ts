import { setTimeout as pause } from 'node:timers/promises';
import { OutsideError } from '../outside-error.ts';
import { failure, retryAfter } from './answers.ts';
import type { Call } from './call.ts';
import { SAFE } from './retried.ts';

const TRIES = 4;

/**
 * Keeps to Retry-After (RFC 9110, 10.2.3): while a system asks to be left alone, nothing is asked of it, and a call that
 * it turned away is made again afterwards. 429 says that nothing was done, so writes are repeated too; 503 does not.
 *
 * @param longest seconds that a call waits at most; a longer request to wait fails it with `throttled`
 */
export function honourRetryAfter(call: Call, longest = 20): Call {
  let until = 0;
  return async (request) => {
    const host = new URL(request.url).host;
    for (let tries = 1; ; tries++) {
      const wait = until - Date.now();
      if (wait > longest * 1000) {
        const seconds = Math.ceil(wait / 1000);
        throw new OutsideError('throttled', `${host} asked to be left alone for another ${seconds} seconds`, { retryAfter: seconds });
      }
      if (wait > 0) await pause(wait, undefined, request.signal === undefined ? {} : { signal: request.signal });
      const answer = await call(request);
      const asked = answer.status === 429 || answer.status === 503 ? retryAfter(answer) : null;
      if (asked === null) return answer;
      until = Math.max(until, Date.now() + asked * 1000);
      if (tries === TRIES || (answer.status === 503 && !SAFE.has(request.method))) return answer;
      if (asked > longest) throw failure(answer, `${request.method} of ${new URL(request.url).pathname}`);
    }
  };
}
