import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';

/** Threads beside the one that serves everybody: one may be busy with something hostile while the other works. */
const THREADS = 2;
/** Megabytes that the work of one thread may take. */
const MOST_MEMORY = 128;
/** Milliseconds after which an idle thread ends. */
const IDLE = 60_000;
/** Tasks that wait: more are refused, so that what waits takes no memory without end. */
const MOST_WAITING = 200;

/** What a thread was given took too much time or memory: the thread was ended. */
export class TooMuchWork extends Error {
  override name = 'TooMuchWork';
}

let pool: Piscina | null = null;

const openPool = (): Piscina => {
  pool ??= new Piscina({
    minThreads: 1,
    maxThreads: THREADS,
    idleTimeout: IDLE,
    maxQueue: MOST_WAITING,
    resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY, maxYoungGenerationSizeMb: 16 },
    recordTiming: false,
  });
  return pool;
};

/** The module beside another one, as source or as it was built. @param name without extension: `read-mail` */
export const besides = (module: string, name: string): string => fileURLToPath(new URL(`./${name}${module.endsWith('.ts') ? '.ts' : '.js'}`, module));

/**
 * Has a thread of its own do what a library does in one go, or what may take long: whatever it is, everything else goes on, and
 * the thread is ended when it needs too much.
 * @param file a module whose export `name` does the work; what goes in and out is copied
 * @param seconds for which the thread may work
 * @throws TooMuchWork; what the work throws, as a plain Error
 */
export async function inThread<T>(file: string, name: string, value: unknown, seconds: number, signal?: AbortSignal): Promise<T> {
  const threads = openPool();
  // What waits before it has its own time.
  const limit = AbortSignal.timeout(Math.ceil(1000 * seconds * (1 + threads.queueSize / THREADS)));
  try {
    return (await threads.run(value, { filename: file, name, signal: signal === undefined ? limit : AbortSignal.any([limit, signal]) })) as T;
  } catch (error) {
    signal?.throwIfAborted();
    if (limit.aborted) throw new TooMuchWork(`it takes more than ${seconds} seconds to read`);
    const { code, message } = error as { code?: string; message: string };
    if (code === 'ERR_WORKER_OUT_OF_MEMORY') throw new TooMuchWork(`it takes more than ${MOST_MEMORY} MB of memory to read`);
    if (/queue is at limit/i.test(message)) throw new TooMuchWork('too much waits to be read: try again in a moment');
    throw error;
  }
}
