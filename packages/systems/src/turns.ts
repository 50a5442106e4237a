import { setImmediate } from 'node:timers/promises';

/** Milliseconds of one turn of the event loop: everything else that waits is served between two. */
const TURN = 5;

/** Work over outside input took more time than it may. */
export class TookTooLong extends Error {
  override name = 'TookTooLong';
}

/**
 * Works through outside input in small steps, and lets everything else go on between them: however much there is, no one waits for
 * it. Looks at the deadline and at the signal before each step.
 */
export class Turns {
  readonly #most: number;
  readonly #signal: AbortSignal | undefined;
  #turn = 0;
  #spent = 0;

  /** @param most milliseconds of work in all, without the time between turns; a run has as many as it needs */
  constructor({ most = Number.POSITIVE_INFINITY, signal }: { most?: number; signal?: AbortSignal | undefined } = {}) {
    this.#most = most;
    this.#signal = signal;
  }

  /** Is the time used up? What is asked for in parts can stop here, and say so. */
  get over(): boolean {
    return this.#spent > this.#most;
  }

  /** Counts work that was done elsewhere, such as in a thread. @param took milliseconds */
  spend(took: number): void {
    this.#spent += took;
  }

  /**
   * One step, which takes no more than some milliseconds itself.
   * @throws TookTooLong when the steps before it used up the time; the reason of the signal
   */
  async step<T>(work: () => T): Promise<T> {
    this.#signal?.throwIfAborted();
    if (this.over) throw new TookTooLong(`it takes more than ${this.#most} ms of computing`);
    if (this.#turn >= TURN) {
      this.#turn = 0;
      await setImmediate();
    }
    const began = performance.now();
    try {
      return work();
    } finally {
      const took = performance.now() - began;
      this.#turn += took;
      this.#spent += took;
    }
  }

  /** The same for each of many. @throws as {@link step} */
  async map<T, R>(items: Iterable<T>, work: (item: T, at: number) => R): Promise<R[]> {
    const found: R[] = [];
    let at = 0;
    for (const item of items) {
      const place = at++;
      found.push(await this.step(() => work(item, place)));
    }
    return found;
  }
}
