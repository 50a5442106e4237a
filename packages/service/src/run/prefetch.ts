/**
 * Gets the next item while its reader still works with the last: reading one batch overlaps with writing another.
 * Failures are heard of in their turn.
 */
export async function* prefetch<T>(source: AsyncGenerator<T>): AsyncGenerator<T> {
  const fetch = (): Promise<IteratorResult<T>> => {
    const next = source.next();
    next.catch(() => undefined);
    return next;
  };
  let next = fetch();
  try {
    for (;;) {
      const { done, value } = await next;
      if (done === true) return;
      next = fetch();
      yield value;
    }
  } finally {
    await next.catch(() => undefined);
    await source.return(undefined);
  }
}
