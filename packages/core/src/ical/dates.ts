import { monthLength } from '../time/days.ts';
import { UnreadableEvent } from './content.ts';

/** `20261215T120000` to `2026-12-15T12:00:00`, a trailing Z kept. @throws UnreadableEvent for days that do not exist */
export function expand(value: string): string {
  const match = /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d)(Z)?)?$/i.exec(value.trim());
  if (match === null) throw new UnreadableEvent(`"${value}" is no date or date-time`);
  const [, y, m = '', d = '', h = '00', min = '00', s = '00', z] = match;
  const exists = m >= '01' && m <= '12' && d >= '01' && Number(d) <= monthLength(Number(y), Number(m)) && h < '24' && min < '60' && s <= '60';
  if (!exists) throw new UnreadableEvent(`"${value}" is a date that does not exist`);
  const day = `${y}-${m}-${d}`;
  // A leap second is read as the second before it.
  return match[4] === undefined ? day : `${day}T${h}:${min}:${s === '60' ? '59' : s}${z === undefined ? '' : 'Z'}`;
}

/** The other way: `20261201T090000` of `2026-12-01T09:00:00`. */
export const compact = (text: string): string => text.replace(/[-:]/g, '');
