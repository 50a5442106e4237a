import { formatInstant, parseInstant, toInstant, toLocal, UTC, type Zone, type ZoneTable } from './zones.ts';

/**
 * A date-time value of a record, in the text form of RFC 9557:
 * `2026-12-15T12:00:00` (naive), `2026-12-15T12:00:00[America/Vancouver]` (a wall clock in a zone),
 * `2026-12-15T19:00:00Z` (an instant), `2026-12-15T19:00:00Z[America/Vancouver]` (an instant and where it is looked at).
 */
export type DateTimeText = string;

export interface ZonedMoment {
  instant: number;
  zone: Zone;
  /** wall clock in `zone` */
  local: string;
  /** a plain note when the wall clock did not exist or existed twice */
  note?: string;
  /** a change of the clock skips the wall clock that was given */
  skipped?: true;
}

const FORM = /^(\d{4}-\d\d-\d\dT\d\d:\d\d(?::\d\d)?)(?:\.\d+)?(Z|[+-]\d\d:?\d\d)?(?:\[([^\]]+)\])?$/;

/**
 * Puts a date-time value on the line of instants.
 *
 * @param fallback the zone for values that name none: the lane's or the system's
 * @throws RangeError naming what is wrong with the value
 */
export function readDateTime(text: DateTimeText, fallback: Zone, zones: ZoneTable): ZonedMoment {
  const match = FORM.exec(text);
  if (match === null) throw new RangeError(`"${text}" is not a date and time such as 2026-12-15T12:00:00`);
  const [, wall = '', offset, zoneName] = match;
  const zone = zoneName === undefined ? fallback : zones.find(zoneName);
  if (zone === undefined) throw new RangeError(`the zone "${zoneName}" is not known (tzdata ${zones.version})`);
  if (offset !== undefined) {
    const instant = parseInstant(`${wall}${offset}`);
    return { instant, zone, local: toLocal(instant, zone) };
  }
  const local = wall.length === 16 ? `${wall}:00` : wall;
  const read = new Date(`${local}Z`);
  // A day that does not exist comes back as another one.
  if (Number.isNaN(read.getTime()) || read.toISOString().slice(0, 19) !== local) throw new RangeError(`"${text}" is a date that does not exist`);
  const { instant, resolution } = toInstant(local, zone);
  if (resolution === 'exact') return { instant, zone, local };
  const moved = toLocal(instant, zone);
  const note =
    resolution === 'gap'
      ? `${local} does not exist in ${zone.name} (clocks go forward): read as ${moved}`
      : `${local} comes twice in ${zone.name} (clocks go back): the first is meant`;
  return { instant, zone, local: moved, note, ...(resolution === 'gap' ? { skipped: true } : {}) };
}

/**
 * The wall clock and zone that say an instant without doubt. The second passage through an overlap has no
 * wall-clock form of its own (RFC 5545, 3.3.5), so it can only be said in UTC.
 */
export function sayable(from: number, until: number, zone: Zone): { zone: Zone; start: string; end: string } {
  const [start, end] = [toLocal(from, zone), toLocal(until, zone)];
  const exact = toInstant(start, zone).instant === from && toInstant(end, zone).instant === until;
  return exact ? { zone, start, end } : { zone: UTC, start: formatInstant(from).slice(0, -1), end: formatInstant(until).slice(0, -1) };
}
