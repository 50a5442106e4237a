import { AsyncLocalStorage } from 'node:async_hooks';
import type { Role } from '@monsoon/contract';

/** Somebody who looks at something. */
export interface Person {
  person: string;
  role: Role;
}

const requests = new AsyncLocalStorage<Person | 'anybody'>();

/** Is this work done for a request of a person, not for a lane? Of a system's monthly allowance, a share is kept for lanes. */
export const isForPerson = (): boolean => requests.getStore() !== undefined;

/** Whose request is worked on; null: none of a person who is known, such as a job. */
export function personNow(): Person | null {
  const person = requests.getStore();
  return person === undefined || person === 'anybody' ? null : person;
}

/** Marks all work that a request causes as a person's: what is not said to be seen otherwise is seen with their eyes. */
export const forPerson = <T>(person: Person | null, work: () => Promise<T>): Promise<T> =>
  requests.run(person === null ? 'anybody' : { person: person.person, role: person.role }, work);
