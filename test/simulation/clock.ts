/** Seconds of London east of UTC, by the rule itself: summer time from the last Sunday of March to that of October, at 01:00 UTC. */
export function londonOffset(seconds: number): number {
  const year = new Date(seconds * 1000).getUTCFullYear();
  const lastSunday = (month: number) => {
    const end = new Date(Date.UTC(year, month + 1, 0, 1));
    return (end.getTime() - end.getUTCDay() * 86_400_000) / 1000;
  };
  return seconds >= lastSunday(2) && seconds < lastSunday(9) ? 3600 : 0;
}

/** A plain clock time in London. @param seconds since 1970 */
export const londonClock = (seconds: number): string => new Date((seconds + londonOffset(seconds)) * 1000).toISOString().slice(0, 19);

/** As iCalendar writes an instant. */
export const compact = (seconds: number) => new Date(seconds * 1000).toISOString().replace(/[-:]|\.\d+/g, '');
