import { type LaneContext, UTC } from '@monsoon/core';
import type { App } from '../app.ts';
import type { Sides } from '../run/gather.ts';
import type { lanes } from '../storage/schema.ts';

export type LaneRow = typeof lanes.$inferSelect;

/** What the engine and a run need to know of a lane at this moment. */
export async function openLane(app: App, lane: LaneRow): Promise<{ context: LaneContext; sides: Sides }> {
  const records = (await app.systems.byId(lane.recordsSystem)).system.records;
  const calendars = (await app.systems.byId(lane.calendarSystem)).system.calendars;
  if (records === undefined || calendars === undefined) throw new Error(`the lane ${lane.slug} names a system that does not offer what it needs`);
  const { definition } = lane;
  const collection = (await records.describe()).find((c) => c.name === definition.records.collection);
  if (collection === undefined) throw new Error(`the collection ${definition.records.collection} of the lane ${lane.slug} is gone`);
  const zone = app.zones.find(definition.zone) ?? UTC;
  return { context: { lane: lane.id, definition, collection, zone, zones: app.zones, now: new Date().toISOString() }, sides: { records, calendars } };
}
