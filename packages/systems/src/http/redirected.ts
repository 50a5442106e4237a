import { OutsideError } from '../outside-error.ts';
import type { Call } from './call.ts';

/**
 * Follows up to five redirects, keeping method and body: a calendar server's 301 means the same request elsewhere.
 * Credentials stay with their origin: a redirect that leaves it is refused, not followed with them.
 *
 * @param anonymous nothing is said that is not for everybody, so a redirect may lead anywhere
 */
export function redirected(call: Call, anonymous = false): Call {
  return async (request) => {
    let current = request;
    for (let hop = 0; hop <= 5; hop++) {
      const answer = await call(current);
      const location = answer.headers['location'];
      if (![301, 302, 307, 308].includes(answer.status) || location === undefined) return answer;
      const target = new URL(location, current.url);
      if (!anonymous && target.origin !== new URL(current.url).origin) {
        throw new OutsideError(
          'refused',
          `${new URL(current.url).host} sends on to ${target.origin}, which is another origin; give that address if it is right`,
          { status: answer.status },
        );
      }
      current = { ...current, url: target.href };
    }
    throw new OutsideError('nonsense', `${new URL(request.url).host} redirects in a circle`);
  };
}
