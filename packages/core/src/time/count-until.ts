/**
 * How many of some instants, in their order, have come until another one: the place of the first that is later.
 * @param at the instant at a place
 */
export function countUntil(length: number, at: (place: number) => number, instant: number): number {
  let low = 0;
  let high = length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (at(middle) <= instant) low = middle + 1;
    else high = middle;
  }
  return low;
}
