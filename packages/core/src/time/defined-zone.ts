import { parsePosixRule, posixOffset } from './posix-rule.ts';
import type { Zone } from './zones.ts';

/**
 * A zone that only one event defines, as a value: its own name and, behind it, its rules in the form of a POSIX TZ
 * string (`<Custom Zone One>-5:37`, `<Site>0<Site summer>-1,M3.5.0/1,M10.5.0/2`). A name alone would mean nothing outside
 * of that event.
 */
export const isDefinedZone = (name: string): boolean => name.startsWith('<');

/** The name that the event gave the zone. */
export const definedZoneLabel = (name: string): string => /^<([^>]*)>/.exec(name)?.[1] ?? name;

/** The characters that the forms around a zone's name need for themselves. */
export const zoneLabel = (tzid: string): string => tzid.replace(/[<>[\]\p{Cc}]/gu, '').trim() || 'unnamed';

const known = new Map<string, Zone | null>();

/** The zone that such a value stands for; undefined when it is none. */
export function definedZone(name: string): Zone | undefined {
  if (!isDefinedZone(name)) return undefined;
  const found = known.get(name);
  if (found !== undefined) return found ?? undefined;
  if (known.size > 1000) known.clear();
  let zone: Zone | null = null;
  try {
    const rule = parsePosixRule(name);
    zone = { name, period: (instant) => posixOffset(rule, instant) };
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
  }
  known.set(name, zone);
  return zone ?? undefined;
}
