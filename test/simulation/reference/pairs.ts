import type { Fields } from './maps.ts';
import type { Base } from './merge.ts';
import type { EventSeen, Values } from './values.ts';

export interface RecordSeen {
  fields: Fields;
  created: number;
  modified: number;
}

export type State = 'in sync' | 'held' | 'unlinked' | 'removed';
export interface ModelPair {
  record: string | null;
  moment: string;
  event: string | null;
  /** of its event, when it was last seen */
  uid?: string | undefined;
  state: State;
  base: Base | null;
  question: { asks: string; about: string } | null;
  /** something differs from the baseline, and stays so */
  loose?: boolean;
  /** both sides as they were when a new version of the lane could not write a value */
  unfit?: string;
  /** another version of the lane shows the record differently, and the record was not edited */
  redefined?: boolean;
  /** both sides were looked at, and something of them was agreed on, in the run at hand */
  seen?: boolean;
  /** the record as this pair's merge left it: another moment may have changed it after that */
  merged?: Fields;
}

export interface Ended {
  records: Map<string, Fields>;
  events: Map<string, Values>;
  pairs: ModelPair[];
  /** by `record moment` or event: why it does not cross */
  reasons: Map<string, string>;
  /** pairs of which a reason need not be said yet: both sides are as they last agreed, or the same run writes to them */
  quiet: Set<string>;
  /** what may be said already, though it holds only from the next run on */
  maybe: Map<string, string>;
  removals: number;
  rewrites: number;
}

export interface Sides {
  records: ReadonlyMap<string, RecordSeen>;
  events: ReadonlyMap<string, EventSeen>;
}

export const recordFields = [
  'title',
  'place',
  'notes',
  'start',
  'end',
  'length',
  'date',
  'time',
  'first',
  'last',
  'due',
  'follow',
  'status',
  'kind',
  'tags',
  'guests',
  'remind',
  'url',
  'secret',
  'memo',
  'uid',
] as const;
export const blankRecord: Fields = Object.fromEntries(recordFields.map((f) => [f, null]));
