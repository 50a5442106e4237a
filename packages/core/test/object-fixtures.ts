import { parseInstant } from '@monsoon/core';
import { zones } from './engine-fixtures.ts';

/** Texts of calendar objects, for the tests of what is read out of them. */

export const london = zones.find('Europe/London')!;
/** Seconds since 1970 of a UTC time. */
export const at = (text: string): number => parseInstant(`${text}Z`);
export const object = (...lines: string[]): string => `BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${lines.join('\r\n')}\r\nEND:VCALENDAR\r\n`;
export const part = (name: string, uid: string, lines: readonly string[]): string[] => [`BEGIN:${name}`, `UID:${uid}`, ...lines, `END:${name}`];
export const eventPart = (...lines: string[]): string[] => part('VEVENT', 'rehearsal', lines);
export const event = (...lines: string[]): string => object(...eventPart(...lines));
export const task = (...lines: string[]): string => object(...part('VTODO', 'tuning', lines));
/** A series, and parts that speak of single occurrences of it. */
export const series = (rule: string[], ...overrides: string[][]): string =>
  object(...[['DTSTART:20261201T190000Z', 'DTEND:20261201T210000Z', ...rule], ...overrides].flatMap((lines) => eventPart(...lines)));
