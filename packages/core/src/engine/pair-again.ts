import { certain } from '../certain.ts';
import { originalStart } from '../recurrence/place.ts';
import { countUntil } from '../time/count-until.ts';

/** A pair that has lost its occurrence, and when that was. */
export interface Lost {
  pair: string;
  /** where it stood: its original start may be later news than its time, which is of the last agreement */
  href: string;
  /** seconds since 1970 */
  from: number;
  /** outside of the lane's window: its occurrence may have gone long before, and nothing was done about it */
  outside?: boolean;
}

/** An occurrence that no pair speaks of. */
export interface Free {
  href: string;
  uid: string;
  from: number;
  /** outside of the lane's window: only a pair that moved with the others may go there */
  outside?: boolean;
}

/** Nearest occurrences that are looked at for each pair. */
const NEAREST = 8;

/**
 * Which occurrences the lost pairs follow from now on: a series that was moved takes its records along. The nearest
 * first, one to one; what is left over on both sides goes together in the order of its times. Pairs in the window choose before
 * those outside of it. Out of the window goes only what moved no further than the others did.
 * @returns by pair
 */
export function pairAgain(lost: readonly Lost[], free: readonly Free[]): Map<string, Free> {
  const seekers = [...lost].sort((a, b) => a.from - b.from || (a.pair < b.pair ? -1 : 1));
  const places = [...free].sort((a, b) => a.from - b.from || (a.href < b.href ? -1 : 1));
  const together = movedTogether(seekers, places);
  if (together !== null) return together;
  const current = seekers.filter((s) => s.outside !== true);
  const inside = places.filter((p) => p.outside !== true);
  const found =
    (current.length < seekers.length ? movedTogether(current, places) : null) ?? movedOverTheEdge(current, places) ?? new Map<string, Free>();
  pairNearest(current, inside, found);
  pairNearest(seekers, inside, found);
  const moved = seekers.flatMap((s) => {
    const place = found.get(s.pair);
    return place === undefined ? [] : [Math.abs(place.from - s.from)];
  });
  const furthest = moved.length === 0 ? Number.POSITIVE_INFINITY : Math.max(...moved) + SLACK;
  const beyond = places.filter((p) => p.outside === true);
  for (const choosing of [current, seekers]) pairNearest(choosing, beyond, found, furthest);
  const taken = new Set(found.values());
  const rest = inside.filter((p) => !taken.has(p));
  for (const seeker of seekers.filter((s) => !found.has(s.pair))) {
    const place = rest.shift();
    if (place === undefined) break;
    found.set(seeker.pair, place);
  }
  return found;
}

/** One of them with the time that orders it. */
interface Timed<T> {
  one: T;
  from: number;
}

/** By the original starts of those that are occurrences: single ones may have been moved away from theirs. */
const byOriginalStart = <T extends Lost | Free>(all: readonly T[]): Timed<T>[] =>
  all.map((one) => ({ one, from: originalStart(one.href) ?? one.from })).sort((a, b) => a.from - b.from);
const byTime = <T extends Lost | Free>(all: readonly T[]): Timed<T>[] => all.map((one) => ({ one, from: one.from }));

/** All of them moved by the same time: the series was dragged. Null: they did not. */
const movedTogether = (seekers: readonly Lost[], places: readonly Free[]): Map<string, Free> | null =>
  movedBy(byOriginalStart(seekers), byOriginalStart(places)) ?? movedBy(byTime(seekers), byTime(places));

function movedBy(seekers: readonly Timed<Lost>[], places: readonly Timed<Free>[]): Map<string, Free> | null {
  const [first] = seekers;
  if (first === undefined || seekers.length < 2) return null;
  const shifts = nearest(first.from, places).map((p) => p.from - first.from);
  // Of two that are as near, the later one, as below.
  for (const shift of shifts.sort((a, b) => Math.abs(a) - Math.abs(b) || b - a)) {
    const found = new Map<string, Free>();
    const taken = new Set<Free>();
    for (const seeker of seekers) {
      const place = nearest(seeker.from + shift, places).find((p) => !taken.has(p.one) && Math.abs(p.from - seeker.from - shift) <= SLACK);
      if (place === undefined) break;
      found.set(seeker.one.pair, place.one);
      taken.add(place.one);
    }
    if (found.size === seekers.length && Math.abs(shift) <= FURTHEST_DRAG) return found;
  }
  return null;
}

/**
 * A series of several days in a week was dragged onto some of its own days: those are not lost, the others move on over them, and the last
 * leave the window. In the order of their times all of them move in one direction, and those that leave it no further than the others.
 * Null: they did not.
 */
function movedOverTheEdge(seekers: readonly Lost[], places: readonly Free[]): Map<string, Free> | null {
  const inside = places.filter((p) => p.outside !== true);
  const leaving = seekers.length - inside.length;
  const [first, last] = [inside[0], inside.at(-1)];
  if (leaving <= 0 || first === undefined || last === undefined) return null;
  const before = places.slice(0, places.indexOf(first)).slice(-leaving);
  const after = places.slice(places.indexOf(last) + 1).slice(0, leaving);
  for (const [targets, direction] of [
    [[...inside, ...after], 1],
    [[...before, ...inside], -1],
  ] as const) {
    if (targets.length !== seekers.length) continue;
    const moves = seekers.map((seeker, i) => ({ seeker, place: certain(targets[i], 'there are as many') }));
    const by = ({ seeker, place }: (typeof moves)[number]) => direction * (place.from - seeker.from);
    const furthest = Math.max(...moves.filter((m) => m.place.outside !== true).map(by)) + SLACK;
    if (moves.every((m) => by(m) > 0 && by(m) <= Math.min(furthest, FURTHEST_DRAG))) return new Map(moves.map((m) => [m.seeker.pair, m.place]));
  }
  return null;
}

/** A series is dragged by days, not by months: what goes further has other reasons. */
const FURTHEST_DRAG = 15 * 86_400;

/** A change of the clock is no further move. */
const SLACK = 7200;

/** @param furthest seconds, beyond which nothing is paired */
function pairNearest(seekers: readonly Lost[], places: readonly Free[], found: Map<string, Free>, furthest = Number.POSITIVE_INFINITY): void {
  const taken = new Set(found.values());
  const near = seekers.flatMap((seeker, order) => nearest(seeker.from, places).map((place) => ({ seeker, order, place })));
  const apart = ({ seeker, place }: (typeof near)[number]) => Math.abs(place.from - seeker.from);
  // Of two that are as near, the later one: series are moved on more often than back.
  near.sort((a, b) => apart(a) - apart(b) || b.place.from - a.place.from || a.order - b.order);
  for (const one of near) {
    if (found.has(one.seeker.pair) || taken.has(one.place) || apart(one) > furthest) continue;
    found.set(one.seeker.pair, one.place);
    taken.add(one.place);
  }
}

function nearest<T extends { from: number }>(from: number, places: readonly T[]): T[] {
  const at = countUntil(places.length, (i) => certain(places[i], 'it lies between both ends').from, from);
  return places.slice(Math.max(0, at - NEAREST), at + NEAREST);
}
