/** Everything an async iterable gives. */
export async function collect<T>(from: AsyncIterable<T>): Promise<T[]> {
  const all: T[] = [];
  for await (const one of from) all.push(one);
  return all;
}
