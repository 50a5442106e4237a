/**
 * Works through items a few at a time and starts no more of them once `done` says so. When a server hangs, a hundred
 * calls that each wait for their time-out would keep a run busy for an hour; so only the few at hand do.
 *
 * @param width how many at once
 * @param allStarted hears that no more are to be started, while the last are still at work
 * @returns a result for each item that was started; undefined for the others
 */
export async function mapConcurrent<T, R>(
  items: readonly T[],
  work: (item: T) => Promise<R>,
  { width, done, allStarted = () => undefined }: { width: number; done: (result: R) => boolean; allStarted?: () => void },
): Promise<(R | undefined)[]> {
  const results: (R | undefined)[] = new Array(items.length).fill(undefined);
  let next = 0;
  let ended = false;
  const worker = async (): Promise<void> => {
    while (!ended && next < items.length) {
      const at = next++;
      if (next === items.length) allStarted();
      const result = await work(items[at] as T);
      results[at] = result;
      if (done(result)) ended = true;
    }
  };
  await Promise.all(Array.from({ length: Math.min(width, items.length) }, worker));
  return results;
}
