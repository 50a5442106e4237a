/** How much a body may hold: what is checked value by value takes its time for each. */
const MOST = { values: 20_000, inOne: 1000, depth: 40 };

/**
 * Looks whether a body is of a size that can be checked, before it is.
 * @returns why not, and where; null: it is
 */
export function oversized(body: unknown): { pointer: string; reason: string } | null {
  let values = 0;
  const look = (value: unknown, pointer: string, depth: number): { pointer: string; reason: string } | null => {
    if (++values > MOST.values) return { pointer: '', reason: `the body holds more than ${MOST.values} values` };
    if (value === null || typeof value !== 'object') return null;
    if (depth > MOST.depth) return { pointer, reason: `it is nested deeper than ${MOST.depth}` };
    const entries = Object.entries(value);
    if (entries.length > MOST.inOne) return { pointer, reason: `it holds ${entries.length} values; at most ${MOST.inOne} fit` };
    for (const [key, inner] of entries) {
      const wrong = look(inner, `${pointer}/${key.slice(0, 100).replaceAll('~', '~0').replaceAll('/', '~1')}`, depth + 1);
      if (wrong !== null) return wrong;
    }
    return null;
  };
  return look(body, '', 0);
}
