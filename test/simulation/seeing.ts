import { londonOffset } from './clock.ts';

/** An event as anybody reads it who knows RFC 5545: nothing here is the engine's. */
interface Seen {
  uid: string;
  title: string;
  /** seconds, or a day */
  start: number | string | null;
  tags: string[];
  cancelled: boolean;
  hidden: boolean;
  pair: string | null;
  text: string;
}

const lineIn = (event: string, name: string): string | null =>
  new RegExp(`^${name}((?:;[^:\\r\\n]*)?):(.*)$`, 'm').exec(event)?.slice(1).join('\u0000').replace(/\r$/, '') ?? null;

/** A clock time in London, put on the line of instants by the rule. */
function fromLondon(local: string): number {
  const asUtc = Date.parse(`${local}Z`) / 1000;
  for (const offset of [3600, 0]) if (londonOffset(asUtc - offset) === offset) return asUtc - offset;
  return asUtc;
}

const dashes = (v: string) => `${v.slice(0, 4)}-${v.slice(4, 6)}-${v.slice(6, 8)}`;
const clockOf = (v: string) => `${dashes(v)}T${v.slice(9, 11)}:${v.slice(11, 13)}:${v.slice(13, 15)}`;

const seen = new Map<string, Seen>();

export function see(text: string): Seen {
  const known = seen.get(text);
  if (known !== undefined) return known;
  if (seen.size > 5000) seen.clear();
  const read = readEvent(text);
  seen.set(text, read);
  return read;
}

function readEvent(text: string): Seen {
  const plain = text.replace(/\r\n[ \t]/g, '');
  const event = plain.slice(plain.indexOf('BEGIN:VEVENT'));
  const value = (name: string) => lineIn(event, name)?.split('\u0000')[1] ?? null;
  const start = lineIn(event, 'DTSTART')?.split('\u0000');
  const when =
    start === undefined
      ? null
      : /VALUE=DATE$/.test(start[0]!)
        ? dashes(start[1]!)
        : start[1]!.endsWith('Z')
          ? Date.parse(`${clockOf(start[1]!)}Z`) / 1000
          : fromLondon(clockOf(start[1]!));
  const visibility = value('CLASS');
  return {
    uid: value('UID') ?? '',
    title: (value('SUMMARY') ?? '').replace(/\\([,;\\])/g, '$1'),
    start: when,
    tags: (value('CATEGORIES') ?? '')
      .split(',')
      .filter((t) => t !== '')
      .sort(),
    cancelled: value('STATUS') === 'CANCELLED',
    hidden: visibility === 'PRIVATE' || visibility === 'CONFIDENTIAL',
    pair: value('X-MONSOON-PAIR'),
    text,
  };
}

/** A record's date-time, as an instant. */
export const instantOf = (text: unknown): number | null => {
  if (typeof text !== 'string') return null;
  const zoned = /^(.{19})(Z|[+-]\d\d:\d\d)/.exec(text);
  return zoned !== null ? Date.parse(`${zoned[1]}${zoned[2]}`) / 1000 : fromLondon(text.slice(0, 19));
};

/** A value of `when` in a journal entry, or a field's date-time, as an instant or a day. */
export function pointOf(value: unknown): number | string | null {
  if (typeof value === 'string') return instantOf(value);
  if (value === null || typeof value !== 'object') return null;
  const when = value as { kind: string; first?: string; start?: string; zone?: string | null };
  if (when.kind === 'all-day') return when.first ?? null;
  return when.zone === 'UTC' ? Date.parse(`${when.start}Z`) / 1000 : fromLondon(when.start!);
}

const londonDay = (seconds: number) => new Date((seconds + londonOffset(seconds)) * 1000).toISOString().slice(0, 10);
/** Is it the same time, as far as a day can say it? */
export const samePoint = (a: number | string | null, b: number | string | null): boolean =>
  a === b ||
  (typeof a === 'number' && typeof b === 'string' && londonDay(a) === b) ||
  (typeof a === 'string' && typeof b === 'number' && londonDay(b) === a);

/** Texts that a trimming system cut; a cut may end in a space. */
export const sameTitle = (a: string | null | undefined, b: string | null | undefined): boolean => {
  const [x, y] = [(a ?? '').trim(), (b ?? '').trim()];
  return x === y || (Math.min((a ?? '').length, (b ?? '').length) >= 12 && (x.startsWith(y) || y.startsWith(x)));
};
