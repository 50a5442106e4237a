/** A pair that has lost its occurrence, and when that was. */
export interface Lost {
  pair: string;
  /** seconds since 1970 */
  from: number;
}

/** An occurrence that no pair speaks of. */
export interface Free {
  href: string;
  uid: string;
  from: number;
}

/** Nearest occurrences that are looked at for each pair. */
const NEAREST = 8;

/**
 * Which occurrences the lost pairs follow from now on: a series that was moved takes its records along. The nearest
 * first, one to one; what is left over on both sides goes together in the order of its times.
 * @returns by pair
 */
export function pairAgain(lost: readonly Lost[], free: readonly Free[]): Map<string, Free> {
  const places = [...free].sort((a, b) => a.from - b.from || (a.href < b.href ? -1 : 1));
  const seekers = [...lost].sort((a, b) => a.from - b.from || (a.pair < b.pair ? -1 : 1));
  const found = new Map<string, Free>();
  const taken = new Set<Free>();
  const near = seekers.flatMap((seeker, order) => nearest(seeker.from, places).map((place) => ({ seeker, order, place })));
  const apart = ({ seeker, place }: (typeof near)[number]) => Math.abs(place.from - seeker.from);
  // Of two that are as near, the later one: series are moved on more often than back.
  near.sort((a, b) => apart(a) - apart(b) || b.place.from - a.place.from || a.order - b.order);
  for (const { seeker, place } of near) {
    if (found.has(seeker.pair) || taken.has(place)) continue;
    found.set(seeker.pair, place);
    taken.add(place);
  }
  const rest = places.filter((p) => !taken.has(p));
  for (const seeker of seekers) {
    if (found.has(seeker.pair)) continue;
    const place = rest.shift();
    if (place === undefined) break;
    found.set(seeker.pair, place);
  }
  return found;
}

function nearest(from: number, places: readonly Free[]): Free[] {
  let at = 0;
  let end = places.length;
  while (at < end) {
    const middle = (at + end) >> 1;
    if (places[middle]!.from < from) at = middle + 1;
    else end = middle;
  }
  return places.slice(Math.max(0, at - NEAREST), at + NEAREST);
}
