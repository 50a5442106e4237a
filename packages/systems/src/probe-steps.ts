import type { ProbeStep } from './interfaces.ts';
import { OutsideError } from './outside-error.ts';

/** Seconds by which clocks may differ without a word. */
const CLOCK = 5;

/** What a failure in a check means, as its last step. @throws whatever is no trouble of the system */
export function failedStep(error: unknown): ProbeStep {
  if (!(error instanceof OutsideError)) throw error;
  return { name: error.trouble === 'not authorised' ? 'credentials' : 'reachable', outcome: 'failed', detail: error.message };
}

/** @param off seconds that the system's clock is ahead of ours @param exact how well that is known, in seconds */
export function clockStep(off: number, exact: number): ProbeStep {
  const size = Math.abs(off);
  const detail = size <= exact ? 'agrees with ours' : `${size} seconds ${off > 0 ? 'ahead of' : 'behind'} ours`;
  return { name: 'clock', outcome: size > CLOCK ? 'warning' : 'ok', detail };
}
