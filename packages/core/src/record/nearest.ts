import { certain } from '../certain.ts';
/**
 * The word that was most likely meant: the one with the fewest letters to change (Levenshtein distance), if that is no
 * more than a third of them.
 */
export function nearestWord(given: string, known: readonly string[]): string | undefined {
  const measured = known.map((word) => ({ word, far: distance(given.toLowerCase(), word.toLowerCase()) })).sort((a, b) => a.far - b.far);
  const [first] = measured;
  return first !== undefined && first.far <= Math.max(1, Math.floor(Math.max(given.length, first.word.length) / 3)) ? first.word : undefined;
}

function distance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++)
      next[j] = Math.min(cell(next, j - 1) + 1, cell(row, j) + 1, cell(row, j - 1) + (a[i - 1] === b[j - 1] ? 0 : 1));
    row = next;
  }
  return cell(row, b.length);
}

const cell = (row: readonly number[], at: number): number => certain(row[at], 'rows are as long as the word');

/** ` (did you mean "status"?)`, or nothing. */
export const sayNearest = (given: string, known: readonly string[]): string => {
  const word = nearestWord(given.slice(0, 100), known.slice(0, 500));
  return word === undefined ? '' : `; did you mean "${word}"?`;
};
