import { UnreadableEvent } from './content.ts';

/** `20261215T120000` to `2026-12-15T12:00:00`, a trailing Z kept. @throws UnreadableEvent for days that do not exist */
export function expand(value: string): string {
  const match = /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d)(Z)?)?$/i.exec(value.trim());
  if (match === null) throw new UnreadableEvent(`"${value}" is no date or date-time`);
  const [, y, m, d, h, min, s, z] = match;
  const day = `${y}-${m}-${d}`;
  try {
    const local = h === undefined ? `${day}T00:00:00` : `${day}T${h}:${min}:${s === '60' ? '59' : s}`;
    // A day that does not exist comes back as another one.
    if (new Date(`${local}Z`).toISOString().slice(0, 19) !== local) throw new RangeError();
    return h === undefined ? day : `${local}${z === undefined ? '' : 'Z'}`;
  } catch {
    throw new UnreadableEvent(`"${value}" is a date that does not exist`);
  }
}

/** The other way: `20261201T090000` of `2026-12-01T09:00:00`. */
export const compact = (text: string): string => text.replace(/[-:]/g, '');
