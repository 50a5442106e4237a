import type { Moment } from '../lane/definition.ts';
import type { Link } from '../lane/links.ts';
import { type RecordItem, stateOf } from '../record/fields.ts';
import type { When } from '../time/when.ts';
import type { EventView, LaneContext, RecordView } from './context.ts';
import type { Gathered, HoldState } from './gathered.ts';
import { momentLinks, type Verdict } from './judge.ts';
import type { Operation } from './operation.ts';
import type { Pair } from './pair.ts';
import type { Claims } from './unpaired-events.ts';

export interface ItemVerdict {
  recordId: string | null;
  /** where an event is that has no record; null for records */
  href: string | null;
  moment: string;
  label: string;
  /** null: it belongs now, an earlier verdict is out of date */
  verdict: Verdict | null;
  /** when it takes place, where that is known and no secret */
  when?: When | null | undefined;
}

/** What a run does, in order. A forecast is this value, printed; a run is this value, applied. */
export interface Plan {
  operations: Operation[];
  verdicts: ItemVerdict[];
  /** pairs that were looked at and need nothing */
  unchanged: number;
  /** of those, the ones whose systems call the same content by a new name */
  refreshed: Pair[];
  /** what it claims of the events that no pair speaks of */
  claims: Claims;
}

/** What is planned for one item. */
export interface Planned {
  operation: Operation | null;
  verdict: Verdict | null;
  label: string;
  when?: When | null | undefined;
  refreshed?: Pair | undefined;
  /** what the same decision does with other items: candidates that were not chosen */
  others?: Operation[] | undefined;
}

/** One moment of one record, with all that is known about it. */
export interface MomentInput {
  context: LaneContext;
  gathered: Gathered;
  claims: Claims;
  record: RecordView;
  moment: Moment;
  links: Link[];
  pair: Pair | undefined;
  event: EventView | null;
  /** it stands at another address than it did */
  moved?: true;
  hold: HoldState | undefined;
}

/** A moment that has a pair. */
export type PairedInput = MomentInput & { pair: Pair };

/** True if the lane was edited since the last agreement and the record was not: what is shown differently is no edit of the record. */
export const isReshown = (context: LaneContext, pair: Pair, item: RecordItem): boolean =>
  pair.version !== null && pair.laneVersion !== context.version && stateOf(item) === pair.version;

/** What all moments of a plan share. */
export type PlanInput = Pick<MomentInput, 'context' | 'gathered' | 'claims'>;

export function momentInput(shared: PlanInput, record: RecordView, moment: Moment, pair: Pair | undefined): MomentInput {
  const { context, gathered } = shared;
  const event = pair?.href == null ? null : (gathered.events.get(pair.href) ?? null);
  return { ...shared, record, moment, links: momentLinks(context, moment), pair, event, hold: pair && gathered.holds.get(pair.id) };
}
