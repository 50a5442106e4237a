import { setTimeout as pause } from 'node:timers/promises';
import { OutsideError } from '../outside-error.ts';
import type { Call } from './call.ts';

/** Methods that change nothing (RFC 9110, 9.2.1; RFC 4918; RFC 3253). */
export const SAFE: ReadonlySet<string> = new Set(['GET', 'HEAD', 'OPTIONS', 'PROPFIND', 'REPORT']);

/**
 * Tries a reading call once more when the connection broke or the server stumbled. Writes are never repeated here:
 * whether one took effect is found out by looking.
 */
export function retried(call: Call, wait = 250): Call {
  return async (request) => {
    if (!SAFE.has(request.method)) return call(request);
    try {
      const answer = await call(request);
      if (answer.status !== 502 && answer.status !== 503) return answer;
      if (answer.headers['retry-after'] !== undefined) return answer;
    } catch (error) {
      // A system that asks to be left alone is not asked again.
      if (!(error instanceof OutsideError) || error.trouble !== 'unreachable' || error.retryAfter !== null) throw error;
    }
    await pause(wait, undefined, request.signal === undefined ? {} : { signal: request.signal });
    return call(request);
  };
}
