import { OutsideError } from '../outside-error.ts';
import type { Call } from './call.ts';
import { masked } from './masked.ts';

/** One exchange as it may be shown: no bodies, because they hold people's data, and no secrets. */
export interface RecordedCall {
  /** RFC 3339 */
  at: string;
  method: string;
  url: string;
  /** null: there was no answer */
  status: number | null;
  /** milliseconds */
  took: number;
  /** bytes */
  sent: number;
  received: number;
  trouble: string | null;
}

export type Recorder = (call: RecordedCall) => void;

export function recorded(call: Call, record: Recorder, secrets: readonly string[]): Call {
  return async (request) => {
    const started = performance.now();
    const note = (status: number | null, received: number, trouble: string | null) =>
      record({
        at: new Date().toISOString(),
        method: request.method,
        url: masked(request.url, secrets).slice(0, 500),
        status,
        took: Math.round(performance.now() - started),
        sent: request.body?.length ?? 0,
        received,
        trouble: trouble === null ? null : masked(trouble, secrets).slice(0, 300),
      });
    try {
      const answer = await call(request);
      note(answer.status, answer.body.length, null);
      return answer;
    } catch (error) {
      note(null, 0, error instanceof OutsideError ? error.message : (error as Error).name);
      throw error;
    }
  };
}
