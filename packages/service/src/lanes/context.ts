import { checkLane, type LaneContext, type LaneDefinition, parseLane, UTC } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import type { App } from '../app.ts';
import type { Sides } from '../run/gather.ts';
import { formerLanes, type lanes } from '../storage/schema.ts';

/** Is it the address of an event in the lane's calendar? Whatever a person gives is looked at before the server is asked for it. */
export const isInCalendar = (lane: Pick<LaneRow, 'definition'>, href: string): boolean =>
  href.startsWith('/') && new URL(href, 'http://calendar.example').pathname.startsWith(lane.definition.calendar.calendar);

export type LaneRow = typeof lanes.$inferSelect;

/** The lane as it stands, read anew: one that was saved by an older Monsoon gets the defaults of what has come since. */
export const definitionOf = (lane: Pick<LaneRow, 'definition'>): LaneDefinition => parseLane(lane.definition);

/** Only single items have been tried with it: it was never started. */
export const isTrial = (lane: Pick<LaneRow, 'state' | 'sweptAt'>): boolean => lane.state === 'paused' && lane.sweptAt === null;

/** Lanes that are no more, or stopped for good. @param self the lane that asks: its own mark is never a stranger's */
export async function formerLanesOf(app: App, self: string | undefined): Promise<ReadonlySet<string>> {
  const rows = await app.db.select({ id: formerLanes.id }).from(formerLanes);
  return new Set(rows.map((r) => r.id).filter((id) => id !== self));
}

/** What the engine and a run need to know of a lane at this moment. @param draft what the lane would be instead */
export async function openLane(app: App, lane: LaneRow, draft?: LaneDefinition): Promise<{ context: LaneContext; sides: Sides }> {
  const { row, system: left } = await app.systems.byId(lane.recordsSystem);
  const { records } = left;
  const calendars = (await app.systems.byId(lane.calendarSystem)).system.calendars;
  if (records === undefined || calendars === undefined) throw new Error(`the lane ${lane.slug} names a system that does not offer what it needs`);
  const definition = draft ?? definitionOf(lane);
  const collections = await records.describe();
  const collection = collections.find((c) => c.name === definition.records.collection);
  if (collection === undefined)
    throw new OutsideError(
      'nonsense',
      `${row.name} has no collection "${definition.records.collection}" any more; it has ${collections.map((c) => c.name).join(', ') || 'none'}`,
    );
  // A field that disappeared or changed its type is noticed here, before anything is read or written by it.
  const problems = checkLane(definition, collection, app.zones, collections);
  if (problems.length > 0)
    throw new OutsideError(
      'nonsense',
      `${collection.label} has changed in ${row.name}, and the lane does not fit it any more: ${problems.map((p) => `${p.pointer}: ${p.reason}`).join('; ')}; mend the lane, or the system`,
    );
  const zone = app.zones.find(definition.zone) ?? UTC;
  const version = draft === undefined ? lane.version : lane.version + 1;
  const context = {
    lane: lane.id,
    definition,
    version,
    collection,
    zone,
    zones: app.zones,
    formerLanes: await formerLanesOf(app, lane.id),
    now: new Date().toISOString(),
  };
  return { context, sides: { records, calendars } };
}
