import { certain } from '../certain.ts';
import type { Period } from './zones.ts';

/** One end of daylight saving time as a POSIX TZ string says it (`M3.5.0/1`, `J60`, `59`). */
interface Change {
  kind: 'month' | 'julian' | 'day';
  month: number;
  week: number;
  day: number;
  /** seconds after local midnight; RFC 9636 allows -167 to 167 hours */
  time: number;
}

/** What holds after a TZif file's last transition (RFC 9636, 3.3). */
export interface PosixRule {
  standard: { offset: number; abbreviation: string };
  daylight: { offset: number; abbreviation: string; starts: Change; ends: Change } | null;
}

/** Reads a TZ string such as `GMT0BST,M3.5.0/1,M10.5.0` (POSIX, 8.3). @throws RangeError on anything else */
export function parsePosixRule(text: string): PosixRule {
  const name = '(<[^>]+>|[A-Za-z]+)';
  const offset = '([+-]?\\d+(?::\\d+(?::\\d+)?)?)';
  const match = new RegExp(`^${name}${offset}(?:${name}${offset}?,([^,]+),([^,]+))?$`).exec(text);
  if (match === null) throw new RangeError(`not a TZ rule: ${text}`);
  const [, standardName = '', standardOffset = '', daylightName, daylightOffset, starts = '', ends = ''] = match;
  const standard = { offset: -seconds(standardOffset), abbreviation: plain(standardName) };
  if (daylightName === undefined) return { standard, daylight: null };
  return {
    standard,
    daylight: {
      offset: daylightOffset === undefined ? standard.offset + 3600 : -seconds(daylightOffset),
      abbreviation: plain(daylightName),
      starts: change(starts),
      ends: change(ends),
    },
  };
}

const plain = (name: string) => name.replace(/[<>]/g, '');

function seconds(text: string): number {
  const sign = text.startsWith('-') ? -1 : 1;
  const [h = 0, m = 0, s = 0] = text.replace(/^[+-]/, '').split(':').map(Number);
  return sign * (h * 3600 + m * 60 + s);
}

function change(text: string): Change {
  const [date, time = '2'] = text.split('/') as [string, string?];
  const month = /^M(\d+)\.(\d+)\.(\d+)$/.exec(date);
  if (month !== null) {
    return { kind: 'month', month: Number(month[1]), week: Number(month[2]), day: Number(month[3]), time: seconds(time) };
  }
  const day = /^(J?)(\d+)$/.exec(date);
  if (day === null) throw new RangeError(`not a TZ rule date: ${date}`);
  return { kind: day[1] === 'J' ? 'julian' : 'day', month: 0, week: 0, day: Number(day[2]), time: seconds(time) };
}

const DAY = 86_400;
const utc = (year: number, month: number, day: number) => Date.UTC(year, month, day) / 1000;

/** Local seconds (as if UTC) at which the change happens in that year. */
function localChange(c: Change, year: number): number {
  if (c.kind === 'day') return utc(year, 0, 1) + c.day * DAY + c.time;
  if (c.kind === 'julian') {
    const leap = utc(year, 2, 1) - utc(year, 1, 1) === 29 * DAY;
    return utc(year, 0, 1) + (c.day - 1 + (leap && c.day >= 60 ? 1 : 0)) * DAY + c.time;
  }
  const first = utc(year, c.month - 1, 1);
  const weekday = (4 + Math.floor(first / DAY)) % 7;
  let day = ((c.day - (((weekday % 7) + 7) % 7) + 7) % 7) + (c.week - 1) * 7;
  const length = (utc(year, c.month, 1) - first) / DAY;
  while (day >= length) day -= 7;
  return first + day * DAY + c.time;
}

/** The period of local time that the rule puts `instant` (seconds since 1970) in. */
export function posixOffset(rule: PosixRule, instant: number): Period {
  const { standard, daylight } = rule;
  if (daylight === null) return { ...standard, daylight: false, from: null, until: null };
  const year = new Date(instant * 1000).getUTCFullYear();
  const changes: { at: number; daylight: boolean }[] = [];
  for (let y = year - 1; y <= year + 1; y++) {
    changes.push({ at: localChange(daylight.starts, y) - standard.offset, daylight: true });
    changes.push({ at: localChange(daylight.ends, y) - daylight.offset, daylight: false });
  }
  changes.sort((a, b) => a.at - b.at);
  const index = changes.findLastIndex((c) => c.at <= instant);
  const now = certain(changes[index], 'the year before it has changes too');
  const { offset, abbreviation } = now.daylight ? daylight : standard;
  return { offset, abbreviation, daylight: now.daylight, from: now.at, until: changes[index + 1]?.at ?? null };
}
