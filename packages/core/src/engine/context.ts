import type { EventRead } from '../ical/event-text.ts';
import type { LaneDefinition } from '../lane/definition.ts';
import type { LinkContext } from '../lane/links.ts';
import type { Directory } from '../maps/convert.ts';
import type { EventValues } from '../maps/properties.ts';
import type { Collection, RecordItem } from '../record/fields.ts';
import { isInSkippedHour } from '../time/when.ts';
import type { Zone, ZoneTable } from '../time/zones.ts';

/** What the engine knows of the lane and the time. */
export interface LaneContext {
  /** UUID of the lane */
  lane: string;
  definition: LaneDefinition;
  /** of the definition */
  version: number;
  collection: Collection;
  zone: Zone;
  zones: ZoneTable;
  /** people of other collections, where the lane looks them up */
  directories?: ReadonlyMap<string, Directory> | undefined;
  /** lanes that are no more: their marks claim nothing */
  formerLanes?: ReadonlySet<string> | undefined;
  /** in small letters: addresses in whose name the lane invites */
  ownAddresses?: ReadonlySet<string> | undefined;
  /** in small letters: addresses of the calendar's owner, where its server says so */
  ownerAddresses?: ReadonlySet<string> | undefined;
  /** present guests get no message: it is the lane's first run since it invites */
  quietGuests?: boolean | undefined;
  /** RFC 3339 */
  now: string;
}

/** What links are read with. @param event what the event says from which values are taken, where there is one */
export const linkContext = (context: LaneContext, event?: EventValues): LinkContext => ({
  fields: context.collection.fields,
  directories: context.directories,
  zone: context.zone,
  zones: context.zones,
  seriesInSkippedHour: event !== undefined && event.recurrence !== null && isInSkippedHour(event.when, context.zones),
});

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
  /** what can be made out of it all the same, for people to know it by */
  title?: string | undefined;
}

/** An event whose content is known. */
export type ReadEvent = EventView & { read: EventRead };
