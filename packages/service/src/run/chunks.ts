/** The items in parts of at most so many, in their order. */
export function* chunks<T>(items: readonly T[], size: number): Generator<T[]> {
  for (let at = 0; at < items.length; at += size) yield items.slice(at, at + size);
}
