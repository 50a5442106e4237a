import { v5 as uuid5 } from 'uuid';
import type { MappedValues } from '../maps/properties.ts';

/**
 * The life of a pair, and every step it may take. `making`: its event may or may not be there yet;
 * `agreed`: both sides stood together when last seen; `held`: a person decides; `parted`: no longer followed;
 * `removed`: its event was taken away by rule, and is made again if the record comes back.
 */
const steps = {
  making: ['making', 'agreed', 'held', 'parted', 'removed'],
  agreed: ['agreed', 'making', 'held', 'parted', 'removed'],
  held: ['held', 'agreed', 'making', 'parted', 'removed'],
  parted: [],
  removed: ['making', 'agreed'],
} as const;
export type PairState = keyof typeof steps;
export const pairStates = Object.keys(steps) as [PairState, ...PairState[]];

/** @throws Error when a pair cannot take that step: a fault in Monsoon, never in the data */
export function step(from: PairState, to: PairState): PairState {
  if (!(steps[from] as readonly string[]).includes(to)) throw new Error(`a pair cannot go from ${from} to ${to}`);
  return to;
}

/** The values on which both sides last agreed: each side as it was read back, not as it was meant. */
export interface Baseline {
  record: MappedValues;
  event: MappedValues;
}

/** One moment of one record and the event that stands for it. */
export interface Pair {
  id: string;
  recordId: string;
  moment: string;
  uid: string;
  href: string | null;
  /** what the calendar called the event's content at the last agreement */
  etag: string | null;
  state: PairState;
  baseline: Baseline | null;
  /** the title at the last agreement, for lists */
  label: string;
}

/**
 * The identity of the pair of a record's moment in a lane, and the UID of an event made for it (UUID version 5,
 * RFC 9562): whoever computes it again after a crash finds the same event.
 * @param lane UUID of the lane
 */
export const pairId = (lane: string, recordId: string, moment: string): string => uuid5(JSON.stringify([recordId, moment]), lane);
