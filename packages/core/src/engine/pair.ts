import { v5 as uuid5 } from 'uuid';
import type { Mark } from '../ical/event-text.ts';
import type { PropertyValue } from '../maps/properties.ts';
import { placeOf } from '../recurrence/place.ts';
import type { Change } from './change.ts';

/**
 * The life of a pair, and every step it may take. `creating`: the side that is being made may or may not be there yet,
 * and trying again makes no second one; `unconfirmed`: a record was asked for of a system that cannot tell a second
 * attempt from a second record; `in sync`: both sides stood together when last seen; `held`: a person decides; `unlinked`:
 * no longer followed; `removed`: its event was taken away by rule, and is made again if the record comes back.
 */
const steps = {
  creating: ['creating', 'unconfirmed', 'in sync', 'held', 'unlinked', 'removed'],
  unconfirmed: ['unconfirmed', 'creating', 'in sync', 'held', 'unlinked', 'removed'],
  'in sync': ['in sync', 'creating', 'unconfirmed', 'held', 'unlinked', 'removed'],
  held: ['held', 'in sync', 'creating', 'unconfirmed', 'unlinked', 'removed'],
  // Only an undo, or somebody who asks for it, follows an unlinked pair again.
  unlinked: ['in sync', 'unlinked', 'removed'],
  removed: ['creating', 'unconfirmed', 'in sync', 'held', 'unlinked', 'removed'],
} as const;
export type PairState = keyof typeof steps;
export const pairStates = Object.keys(steps) as [PairState, ...PairState[]];

/** @throws Error when a pair cannot take that step: a fault in Monsoon, never in the data */
export function step(from: PairState, to: PairState): PairState {
  if (!(steps[from] as readonly string[]).includes(to)) throw new Error(`a pair cannot go from ${from} to ${to}`);
  return to;
}

/** Values by the key of their link. */
export type LinkValues = Record<string, PropertyValue>;

/** The values on which both sides last agreed: each side as it was read back, not as it was meant. */
export interface Baseline {
  record: LinkValues;
  event: LinkValues;
  /** when each side said that it was last changed (RFC 3339): the same stamp later tells of no later edit */
  stamps?: Stamps;
  /** did the event repeat? */
  repeating?: boolean;
  /** how the event repeated, in normal form, also where no map speaks of it: its window depends on it */
  recurrence?: string;
  /** the organizer's address; absent: it had none */
  organizer?: string;
}

export interface Stamps {
  record: string | null;
  event: string | null;
}

const MARK = 'mark';

/** The mark of another lane that the event carried at the last agreement. */
export const foreignMark = ({ event }: Baseline): Mark | null => (typeof event[MARK] === 'string' ? { lane: event[MARK], pair: '' } : null);

/** The baseline with the mark that the event carries, where it is another lane's. */
export function withMark(baseline: Baseline, mark: Mark | null, lane: string): Baseline {
  const { [MARK]: _before, ...event } = baseline.event;
  return { ...baseline, event: mark === null || mark.lane === lane ? event : { ...event, [MARK]: mark.lane } };
}

/** One moment of one record and the event that stands for it. */
export interface Pair {
  id: string;
  /** null while a record is being made for an event */
  recordId: string | null;
  moment: string;
  uid: string;
  href: string | null;
  /** what the calendar called the event's content at the last agreement */
  etag: string | null;
  /** what the record's system called its content then, and the lane's version: unless one differs, there is nothing to do */
  version: string | null;
  laneVersion: number;
  /** since when a record is being made, RFC 3339 */
  tried: string | null;
  state: PairState;
  baseline: Baseline | null;
  /** what was being written when the answer was lost, since the last agreement: found there, it is no edit */
  attempted: Change[] | null;
  /** the title at the last agreement, for lists */
  label: string;
}

export const isFollowed = (pair: Pair): boolean => pair.state !== 'unlinked' && pair.state !== 'removed';

/**
 * The identity of the pair of a record's moment in a lane, and the UID of an event made for it (UUID version 5,
 * RFC 9562): computed again after a crash, it finds the same event.
 * @param lane UUID of the lane
 */
export const pairId = (lane: string, recordId: string, moment: string): string => uuid5(JSON.stringify([recordId, moment]), lane);

/**
 * The UID of an event that is made for a pair. An occurrence that is made again is an event of its own: under the pair's own
 * UID its series may stand, where a person made the event repeat.
 */
export function uidToMake(lane: string, recordId: string, { moment, uid }: Pair): string {
  const [own, beside] = uidsOfMade(lane, recordId, moment);
  return placeOf(uid).id !== null || uid === beside ? beside : own;
}

const uidsOfMade = (lane: string, recordId: string, moment: string): readonly [own: string, beside: string] => {
  const own = pairId(lane, recordId, moment);
  return [own, uuid5('beside its series', own)];
};

/** Did the lane make this event for the pair's record? Its mark says less: every event that a lane writes to has that. */
export const isMadeFor = ({ recordId, moment }: Pair, lane: string, uid: string): boolean =>
  recordId !== null && uidsOfMade(lane, recordId, moment).includes(placeOf(uid).object);

/**
 * The identity of a pair that begins with an event, and the key under which its record is asked for.
 * @param again how many pairs began with that UID before, and follow another occurrence of their series now
 */
export const eventPairId = (lane: string, uid: string, again = 0): string =>
  uuid5(JSON.stringify([null, uid, 'event', ...(again === 0 ? [] : [again])]), lane);

/** Pairs that may have started with one UID. */
const MOST_AGAIN = 8;
/** The identities that a pair which begins with an event may have. */
export const eventPairIds = (lane: string, uid: string): string[] => Array.from({ length: MOST_AGAIN }, (_, again) => eventPairId(lane, uid, again));

interface LaneVersion {
  lane: string;
  /** of the lane */
  version: number;
}
const newPair = { etag: null, version: null, tried: null, state: 'creating', baseline: null, attempted: null, label: '' } as const;

/** A pair that begins with a record. */
export const pairOfRecord = ({ lane, version }: LaneVersion, recordId: string, moment: string): Pair => {
  const id = pairId(lane, recordId, moment);
  return { ...newPair, id, recordId, moment, uid: id, href: null, laneVersion: version };
};

/** A pair that begins with an event. */
export const pairOfEvent = ({ lane, version }: LaneVersion, uid: string, href: string, moment: string): Pair => ({
  ...newPair,
  id: eventPairId(lane, uid),
  recordId: null,
  moment,
  uid,
  href,
  laneVersion: version,
});
