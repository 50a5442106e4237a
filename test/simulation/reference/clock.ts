import { londonOffset } from '../clock.ts';

/** Clocks by their rules alone: London, Halifax (from 2007 on), and UTC. Everything in seconds since 1970. */
export type Place = 'UTC' | 'Europe/London' | 'America/Halifax';

const DAY = 86_400;
export const dayText = (seconds: number): string => new Date(seconds * 1000).toISOString().slice(0, 10);
export const dayNumber = (day: string): number => Date.parse(`${day}T00:00:00Z`) / 1000 / DAY;
export const addDays = (day: string, days: number): string => dayText((dayNumber(day) + days) * DAY);

/** The n-th Sunday of a month, as midnight UTC. */
const sunday = (year: number, month: number, nth: number): number => {
  const first = Date.UTC(year, month, 1);
  return first / 1000 + (((7 - new Date(first).getUTCDay()) % 7) + 7 * (nth - 1)) * DAY;
};

/** Summer time from the second Sunday of March to the first of November, at two o'clock. */
function halifaxOffset(seconds: number): number {
  const year = new Date(seconds * 1000).getUTCFullYear();
  const summer = seconds >= sunday(year, 2, 2) + 6 * 3600 && seconds < sunday(year, 10, 1) + 5 * 3600;
  return summer ? -3 * 3600 : -4 * 3600;
}

export const offsetAt = (place: Place, seconds: number): number =>
  place === 'UTC' ? 0 : place === 'Europe/London' ? londonOffset(seconds) : halifaxOffset(seconds);

/** `2026-12-01T09:00:00` in a place, to an instant. Hours that come twice or never are not asked for. */
export function instantIn(place: Place, local: string): number {
  const asUtc = Date.parse(`${local}Z`) / 1000;
  for (const offset of [3600, 0, -3 * 3600, -4 * 3600]) if (offsetAt(place, asUtc - offset) === offset) return asUtc - offset;
  throw new Error(`${local} does not come in ${place}`);
}

export const localIn = (place: Place, seconds: number): string => new Date((seconds + offsetAt(place, seconds)) * 1000).toISOString().slice(0, 19);
export const londonDay = (seconds: number): string => localIn('Europe/London', seconds).slice(0, 10);
export const londonInstant = (day: string, clock: string): number =>
  instantIn('Europe/London', `${day}T${clock.length === 5 ? `${clock}:00` : clock}`);
