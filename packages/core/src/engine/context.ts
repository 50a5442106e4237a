import type { EventRead } from '../ical/event-text.ts';
import type { LaneDefinition } from '../lane/definition.ts';
import type { Collection, RecordItem } from '../record/fields.ts';
import type { Zone, ZoneTable } from '../time/zones.ts';
import type { Pair } from './pair.ts';

/** What the engine is told about the lane and the hour. */
export interface LaneContext {
  /** UUID of the lane */
  lane: string;
  definition: LaneDefinition;
  collection: Collection;
  zone: Zone;
  zones: ZoneTable;
  /** RFC 3339 */
  now: string;
}

/** A record as gathered; null when its system says that it is gone. */
export interface RecordView {
  id: string;
  item: RecordItem | null;
}

/** An event as gathered. `read` is null, with the reason, when its text cannot be understood. */
export interface EventView {
  href: string;
  etag: string | null;
  /** null when the ETag alone says that nothing changed since the last agreement */
  text: string | null;
  read: EventRead | null;
  unreadable?: string | undefined;
}

/**
 * The truth about every item that a run looks at: whoever is named in `records` comes with the pairs it has, and
 * each pair with its event as it is now (null: gone).
 */
export interface Gathered {
  records: RecordView[];
  pairs: Pair[];
  events: ReadonlyMap<string, EventView | null>;
  /** events on the calendar that no pair of the lane speaks of: what a record could adopt */
  strangers: EventView[];
  /** what people answered to holds, by pair */
  settlements: ReadonlyMap<string, string>;
}
