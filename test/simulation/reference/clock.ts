import { londonOffset } from '../clock.ts';

/**
 * Clocks by their rules alone, in seconds since 1970: London, UTC, and Athens, which changes its clocks in the same moments
 * as London, so that a record's own zone keeps the same time of day as the lane's.
 */
export type Place = 'UTC' | 'Europe/London' | 'Europe/Athens';

const DAY = 86_400;
export const dayText = (seconds: number): string => new Date(seconds * 1000).toISOString().slice(0, 10);
export const dayNumber = (day: string): number => Date.parse(`${day}T00:00:00Z`) / 1000 / DAY;
export const addDays = (day: string, days: number): string => dayText((dayNumber(day) + days) * DAY);

export const offsetAt = (place: Place, seconds: number): number =>
  place === 'UTC' ? 0 : place === 'Europe/London' ? londonOffset(seconds) : londonOffset(seconds) + 2 * 3600;

/** `2026-12-01T09:00:00` in a place, to an instant. Hours that come twice or never are not asked for. */
export function instantIn(place: Place, local: string): number {
  const asUtc = Date.parse(`${local}Z`) / 1000;
  for (const offset of [3600, 0, 3 * 3600, 2 * 3600]) if (offsetAt(place, asUtc - offset) === offset) return asUtc - offset;
  throw new Error(`${local} does not come in ${place}`);
}

export const localIn = (place: Place, seconds: number): string => new Date((seconds + offsetAt(place, seconds)) * 1000).toISOString().slice(0, 19);
export const londonDay = (seconds: number): string => localIn('Europe/London', seconds).slice(0, 10);
export const londonInstant = (day: string, clock: string): number =>
  instantIn('Europe/London', `${day}T${clock.length === 5 ? `${clock}:00` : clock}`);
