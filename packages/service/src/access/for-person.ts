import { AsyncLocalStorage } from 'node:async_hooks';

const requests = new AsyncLocalStorage<true>();

/** Is this work done for a request of a person, not for a lane? Of a system's monthly allowance, a share is kept for lanes. */
export const isForPerson = (): boolean => requests.getStore() === true;

/** Marks all work that a request causes as a person's. */
export const forPerson = <T>(work: () => Promise<T>): Promise<T> => requests.run(true, work);
