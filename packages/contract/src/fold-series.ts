import { placeOf, sayOriginalStart } from '@monsoon/core/text';

/** One line of a list, or the occurrences of a series of which the same is to be said. */
export type Folded<T> = { of: 'line'; line: T } | { of: 'series'; key: string; lines: T[] };

/** Folds the occurrences of a series, to which the same is done for the same cause, into one, in their order; each where its first line was. */
export function foldSeries<T extends { href?: string | null; kind: string; cause: string }>(lines: readonly T[]): Folded<T>[] {
  const groups = new Map<string, T[]>();
  const keyOf = (line: T): string | null => {
    const { object, id } = placeOf(line.href ?? '');
    return id === null ? null : JSON.stringify([object, line.kind, line.cause]);
  };
  for (const line of lines) {
    const key = keyOf(line);
    if (key === null) continue;
    const all = groups.get(key);
    if (all === undefined) groups.set(key, [line]);
    else all.push(line);
  }
  const folded: Folded<T>[] = [];
  for (const line of lines) {
    const key = keyOf(line);
    const all = key === null ? undefined : groups.get(key)!;
    if (all === undefined || all.length === 1) folded.push({ of: 'line', line });
    else if (all[0] === line) folded.push({ of: 'series', key: key!, lines: [...all].sort((a, b) => ((a.href ?? '') < (b.href ?? '') ? -1 : 1)) });
  }
  return folded;
}

/** `6 occurrences: 13 Dec 2026, 20 Dec 2026, 27 Dec 2026 and 3 more` */
export function sayFolded(lines: readonly { href?: string | null }[], most = 3): string {
  const days = lines.slice(0, most).map((l) => sayOriginalStart(placeOf(l.href ?? '').id ?? ''));
  const more = lines.length > most ? ` and ${lines.length - most} more` : '';
  return `${lines.length} occurrences: ${days.join(', ')}${more}`;
}
