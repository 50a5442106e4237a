import type { When } from './when.ts';

const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/**
 * A short text for people: `15 Dec 2026 12:00-13:30 America/Vancouver`, `3 Nov 2026 to 5 Nov 2026`. In a file of its
 * own, without the calendar library, because every page of the console needs it.
 */
export function formatWhen(when: When): string {
  if (when.kind === 'all-day') {
    const last = dayBefore(when.end);
    return when.first >= last ? sayDay(when.first) : `${sayDay(when.first)} to ${sayDay(last)}`;
  }
  const zone = when.zone === null ? '' : ` ${/^<([^>]*)>/.exec(when.zone)?.[1] ?? when.zone}`;
  const end = when.start.slice(0, 10) === when.end.slice(0, 10) ? when.end.slice(11, 16) : `${sayDay(when.end)} ${when.end.slice(11, 16)}`;
  return `${sayDay(when.start)} ${when.start.slice(11, 16)}-${end}${zone}`;
}

/** `15 Dec 2026`. @param iso a date, or what begins with one */
export const sayDay = (iso: string): string => `${Number(iso.slice(8, 10))} ${months[Number(iso.slice(5, 7)) - 1]} ${iso.slice(0, 4)}`;

/** Whole days in UTC, where every day has 24 hours. */
const dayBefore = (iso: string) => new Date(Date.parse(`${iso}T00:00:00Z`) - 86_400_000).toISOString().slice(0, 10);
