import { OutsideError } from '../outside-error.ts';
import type { Call } from './call.ts';
import { masked } from './masked.ts';

/** A request and its answer in full, secrets masked. */
export interface Exchange {
  method: string;
  url: string;
  requestHeaders: Record<string, string>;
  requestBody: string;
  /** null: there was no answer, and `trouble` says why */
  status: number | null;
  answerHeaders: Record<string, string>;
  answerBody: string;
  trouble: string | null;
}

/** Most characters of a body that are shown, and how many are looked through: a secret at the cut must not show its head. */
const SHOWN = 4000;
const LOOKED_THROUGH = 10_000;
const PRIVATE = /^(authorization|proxy-authorization|cookie|set-cookie|x-api-key|api-key)$/i;

/** What an authorization server gives is a secret that was not known before. */
const tokens = (text: string) =>
  text
    .replace(/("(?:access_token|refresh_token|id_token|client_secret)"\s*:\s*)"[^"]*"/g, '$1"***"')
    .replace(/\b(refresh_token|client_secret|code|code_verifier)=[^&\s]*/g, '$1=***');

/** Lets somebody see every exchange, with secrets masked. */
export function tapped(call: Call, show: (exchange: Exchange) => void, secrets: readonly string[]): Call {
  const clean = (text: string) => tokens(masked(text, secrets)).slice(0, SHOWN);
  const headersOf = (headers: Record<string, string>) =>
    Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, PRIVATE.test(name) ? '***' : clean(value)]));
  return async (request) => {
    const begun = {
      method: request.method,
      url: clean(request.url),
      requestHeaders: headersOf(request.headers),
      requestBody: clean(request.body ?? ''),
    };
    try {
      const answer = await call(request);
      show({
        ...begun,
        status: answer.status,
        answerHeaders: headersOf(answer.headers),
        answerBody: clean(answer.body.toString('utf8', 0, LOOKED_THROUGH)),
        trouble: null,
      });
      return answer;
    } catch (error) {
      show({
        ...begun,
        status: null,
        answerHeaders: {},
        answerBody: '',
        trouble: error instanceof OutsideError ? clean(error.message) : (error as Error).name,
      });
      throw error;
    }
  };
}
