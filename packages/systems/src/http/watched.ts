import { OutsideError } from '../outside-error.ts';
import { failure } from './answers.ts';
import type { Call } from './call.ts';

/** Hears how a system does: once when it begins to fail, once when it is well again. */
export type HealthListener = (state: 'well' | 'failing', detail: string) => void;

/** Watches the answers of a system and tells when its health changes. A refusal of one item is no sign of ill health. */
export function watched(call: Call, listen: HealthListener): Call {
  let known: 'well' | 'failing' | null = null;
  const tell = (state: 'well' | 'failing', detail: string) => {
    if (state !== known) listen(state, detail);
    known = state;
  };
  return async (request) => {
    try {
      const answer = await call(request);
      const ill = answer.status === 401 || answer.status === 429 || answer.status >= 500;
      if (ill) tell('failing', failure(answer, `${request.method} of ${new URL(request.url).pathname}`).message);
      else tell('well', 'answers');
      return answer;
    } catch (error) {
      if (error instanceof OutsideError) tell('failing', error.message);
      throw error;
    }
  };
}
