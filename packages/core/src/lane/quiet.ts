import { Temporal } from 'temporal-polyfill';
import { readDateTime } from '../time/date-time.ts';
import { formatInstant, toInstant, UTC, type ZoneTable } from '../time/zones.ts';
import type { LaneDefinition } from './definition.ts';

/**
 * Until when a lane is quiet, by the clock of its zone.
 *
 * @param now RFC 3339
 * @returns RFC 3339; null when it is not quiet now
 */
export function quietUntil({ quiet, zone: name }: Pick<LaneDefinition, 'quiet' | 'zone'>, now: string, zones: ZoneTable): string | null {
  if (quiet === null) return null;
  const zone = zones.find(name) ?? UTC;
  const { local } = readDateTime(now, zone, zones);
  const clock = local.slice(11, 16);
  const overnight = quiet.from > quiet.until;
  const within = overnight ? clock >= quiet.from || clock < quiet.until : clock >= quiet.from && clock < quiet.until;
  if (!within) return null;
  const today = Temporal.PlainDate.from(local.slice(0, 10));
  const day = overnight && clock >= quiet.from ? today.add({ days: 1 }) : today;
  return formatInstant(toInstant(`${day.toString()}T${quiet.until}:00`, zone).instant);
}
