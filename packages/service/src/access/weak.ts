import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { adjacencyGraphs, dictionary } from '@zxcvbn-ts/language-common';
import { HttpProblem } from '../http/problem.ts';

/** Passwords that less than a hundred million guesses find are refused (a score of 3 of 4). */
const WANTED = 3;
/** As much of a password is looked at: the time it takes grows faster than its length. */
const LOOKED_AT = 64;

let checker: ZxcvbnFactory | null = null;

/** @throws HttpProblem 422 when the password is common, or made of what is known of its person */
export function refuseWeak(password: string, person: { email: string; name: string }): void {
  checker ??= new ZxcvbnFactory({ dictionary, graphs: adjacencyGraphs });
  const own = [person.email, ...person.email.split(/[@.]/), ...person.name.split(/\s+/), 'monsoon'].filter((word) => word.length > 1);
  if (checker.check(password.slice(0, LOOKED_AT), own).score >= WANTED) return;
  const reason = `this password is easy to guess: it is a common one, or made of ${person.email} or a pattern; take three or four words that do not belong together`;
  throw new HttpProblem(422, 'The password does not fit', `password: ${reason}`, [{ pointer: '/password', reason }]);
}
