/**
 * The row of a statement that gives one: an insert or an update with its row back, or a count.
 * @throws Error where there is none
 */
export function oneRow<T>(rows: readonly T[]): T {
  const [row] = rows;
  if (row === undefined) throw new Error('a statement that gives a row gave none');
  return row;
}
