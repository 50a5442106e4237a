import type { Call } from './call.ts';

/** Counts the calls of a system over all processes, and keeps to its rate and its monthly allowance. */
export interface Meter {
  /** Waits until one more call may be made. @throws OutsideError `throttled` when the month's allowance is used up */
  admit(signal?: AbortSignal): Promise<void>;
}

export function metered(call: Call, meter: Meter): Call {
  return async (request) => {
    await meter.admit(request.signal);
    return call(request);
  };
}
