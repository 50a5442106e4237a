import { definedZone, isDefinedZone, zoneLabel } from '../time/defined-zone.ts';
import type { When } from '../time/when.ts';
import { type Period, toInstant, toLocal, UTC, type Zone, type ZoneTable } from '../time/zones.ts';
import { type Component, lineOf, UnreadableEvent } from './content.ts';
import { type Change, changesAround, inOrder, type Observance, observanceOf, ruledAround, type YearlyRule } from './observances.ts';

/** What one definition may hold: onsets that are named one by one, and rules for them. Zones of the world have some tens. */
const MOST_ONSETS = 2000;
const MOST_RULES = 100;

/** A zone that only a text defines. Where the text is not at hand it goes by a name that says its rules, or its offset. */
export interface TextZone extends Zone {
  /** its name for a time that begins at an instant: rules come and go, and not all can be said */
  nameAt(instant: number): string;
}

export const isTextZone = (zone: Zone | null): zone is TextZone => zone !== null && 'nameAt' in zone;

/** A time in such a zone, on the clock that its name at the start stands for. @param from, until seconds since 1970 */
export function whenInTextZone(zone: TextZone, from: number, until: number): When & { kind: 'timed' } {
  const name = zone.nameAt(from);
  const clock = definedZone(name) ?? UTC;
  return { kind: 'timed', start: toLocal(from, clock), end: toLocal(until, clock), zone: name };
}

/** Most lines of a text name the same definition. */
const knownZones = new WeakMap<Component, TextZone>();

/**
 * The zone that a VTIMEZONE defines (RFC 5545, 3.6.5), by its own observances.
 * @throws UnreadableEvent when it has none that can be read, or too many
 */
export function zoneOfComponent(component: Component): TextZone {
  const known = knownZones.get(component);
  if (known !== undefined) return known;
  const tzid = lineOf(component, 'TZID')?.value ?? '';
  const observances = component.components.map(observanceOf).filter((o): o is Observance => o !== null);
  const [onsets, rules] = [observances.reduce((n, o) => n + o.onsets.length, 0), observances.filter((o) => o.rule !== null).length];
  const [earliest] = [...observances].sort((a, b) => a.first - b.first);
  const unusable = (reason: string) => new UnreadableEvent(`the time zone "${tzid}" is not known, and its definition in the event ${reason}`);
  if (earliest === undefined) throw unusable('cannot be used');
  if (onsets > MOST_ONSETS) throw unusable(`names ${onsets} changes of the clock; at most ${MOST_ONSETS} are read`);
  if (rules > MOST_RULES) throw unusable(`has ${rules} rules; at most ${MOST_RULES} are read`);
  const zone = zoneOf(tzid, observances, earliest);
  const found = { ...zone, nameAt: (instant: number) => nameAt(zone, observances, instant) };
  knownZones.set(component, found);
  return found;
}

function zoneOf(name: string, observances: readonly Observance[], earliest: Observance): Zone {
  const listed = inOrder(observances.flatMap((to) => to.onsets.map((at) => ({ at, to }))));
  const ruled = new Map<number, Change[]>();
  const ruledIn = (year: number): Change[] => {
    const found = ruled.get(year) ?? ruledAround(observances, year);
    ruled.set(year, found);
    return found;
  };
  return {
    name,
    period(instant): Period {
      const near = [listed, ruledIn(new Date(instant * 1000).getUTCFullYear())].map((changes) => changesAround(changes, instant));
      const last = near.flatMap((n) => n.last ?? []).reduce<Change | null>((a, b) => (a === null || b.at > a.at ? b : a), null);
      const [offset, daylight] = last === null ? [earliest.before, false] : [last.to.offset, last.to.daylight];
      const until = near.reduce<number | null>((a, { next }) => (next === undefined ? a : Math.min(a ?? next.at, next.at)), null);
      return { offset, daylight, abbreviation: name, from: last?.at ?? null, until };
    },
  };
}

/** POSIX says a weekday as month.week.day, of which week 5 is the last; null for what it cannot say. */
function posixChange({ month, weekday, nth, monthDay }: YearlyRule, hour: string): string | null {
  const week =
    nth === null
      ? monthDay !== null && monthDay % 7 === 1 && monthDay <= 22
        ? (monthDay + 6) / 7
        : null
      : nth === -1
        ? 5
        : nth >= 1 && nth <= 4
          ? nth
          : null;
  return weekday === null || week === null ? null : `M${month}.${week}.${weekday}/${hour}`;
}

/** As POSIX counts: hours that are added to get to UTC. */
function posixOffsetText(offset: number): string {
  const size = Math.abs(offset);
  const parts = [Math.floor(size / 3600), Math.floor(size / 60) % 60, size % 60];
  return (
    (offset > 0 ? '-' : '') +
    parts
      .map((n, i) => (i === 0 ? String(n) : String(n).padStart(2, '0')))
      .join(':')
      .replace(/(:00)+$/, '')
  );
}

/** What such a zone is called: its own name with the rules in force at an instant; where these are no yearly rules, the offset at it. */
function nameAt(zone: Zone, observances: readonly Observance[], instant: number): string {
  const label = zoneLabel(zone.name);
  const ruled = observances
    .filter((o): o is Observance & { rule: YearlyRule } => o.rule !== null && (o.rule.until === null || o.rule.until > instant))
    .filter((o) => o.first <= instant);
  const [standard, daylight] = [ruled.find((o) => !o.daylight), ruled.find((o) => o.daylight)];
  if (ruled.length === 2 && standard !== undefined && daylight !== undefined) {
    const [starts, ends] = [posixChange(daylight.rule, daylight.hour), posixChange(standard.rule, standard.hour)];
    if (starts !== null && ends !== null)
      return `<${label}>${posixOffsetText(standard.offset)}<${label} summer>${posixOffsetText(daylight.offset)},${starts},${ends}`;
  }
  return `<${label}>${posixOffsetText(zone.period(instant).offset)}`;
}

/** The name of a zone that a text defines, for a time that begins at that wall clock. */
export function definedZoneName(component: Component, local: string): string {
  const zone = zoneOfComponent(component);
  return zone.nameAt(toInstant(local, zone).instant);
}

const MONTH = 30 * 86_400;

/** Do two zones keep the same clock from half a year before an instant until a year and a half after? */
function agreeAround(a: Zone, b: Zone, instant: number): boolean {
  for (let i = -6; i <= 18; i++) if (a.period(instant + i * MONTH).offset !== b.period(instant + i * MONTH).offset) return false;
  return true;
}

/**
 * The zone of a TZID at a wall clock. A name that the zone table knows is that zone; a path that ends in such a name
 * (`/vendor.example/20260101/Europe/London`) is, where the text's own definition agrees or there is none; anything else is
 * what the text's own VTIMEZONE says.
 * @throws UnreadableEvent when nothing says what it is
 */
export function zoneOfId(tzid: string, local: string, definition: Component | undefined, zones: ZoneTable): Zone {
  const known = zones.find(tzid);
  if (known !== undefined && !isDefinedZone(tzid)) return known;
  const segments = tzid.split('/').filter((s) => s !== '');
  const named = [3, 2, 1].map((n) => (segments.length > n ? zones.find(segments.slice(-n).join('/')) : undefined)).find((z) => z !== undefined);
  if (definition === undefined) {
    if (named !== undefined) return named;
    throw new UnreadableEvent(`the time zone "${tzid}" is neither known nor defined in the event`);
  }
  const own = zoneOfComponent(definition);
  const { instant } = toInstant(local, own);
  return named !== undefined && agreeAround(named, own, instant) ? named : { ...own, name: own.nameAt(instant) };
}

/** The wall clock in a zone, if it says just that instant there. */
export function exactLocal(instant: number, zone: Zone): string | null {
  const local = toLocal(instant, zone);
  return toInstant(local, zone).instant === instant ? local : null;
}
