import { OutsideError, type Trouble } from '../outside-error.ts';
import { failure } from './answers.ts';
import type { Call } from './call.ts';

/** Hears how a system does: once when it begins to fail, once when it is well again. */
export type HealthListener = (state: 'well' | 'failing', detail: string, trouble: Trouble | null) => void;

/** Reports only what is new. */
export function newsOf(listen: HealthListener | undefined): (state: 'well' | 'failing', detail: string, trouble?: Trouble | null) => void {
  let known: string | null = null;
  return (state, detail, trouble = null) => {
    if (`${state} ${trouble}` !== known) listen?.(state, detail, trouble);
    known = `${state} ${trouble}`;
  };
}

/** Watches the answers of a system and reports when its health changes. A refusal of one item is no sign of ill health. */
export function watched(call: Call, listen: HealthListener): Call {
  const tell = newsOf(listen);
  return async (request) => {
    try {
      const answer = await call(request);
      const ill = answer.status === 401 || answer.status === 429 || answer.status >= 500;
      if (ill) {
        const { message, trouble } = failure(answer, `${request.method} of ${new URL(request.url).pathname}`);
        tell('failing', message, trouble);
      } else tell('well', 'answers');
      return answer;
    } catch (error) {
      if (error instanceof OutsideError && !error.ours) tell('failing', error.message, error.trouble);
      throw error;
    }
  };
}
