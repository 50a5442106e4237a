import { certain, checkLane, type LaneContext, type LaneDefinition, parseLane, UTC } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { eq } from 'drizzle-orm';
import type { Person } from '../access/for-person.ts';
import type { App } from '../app.ts';
import { seenByOwner } from '../hosted/calendars.ts';
import { addressesOf } from '../invitations/addresses.ts';
import { lookedUp } from '../run/directories.ts';
import { guestRowMaps, withGuestRows } from '../run/records-with-guests.ts';
import type { Sides } from '../run/work.ts';
import { formerLanes, type lanes, people } from '../storage/schema.ts';

/** Is it the address of an event in the lane's calendar? Whatever a person gives is looked at before the server is asked for it. */
export const isInCalendar = (lane: Pick<LaneRow, 'definition'>, href: string): boolean =>
  href.startsWith('/') && new URL(href, 'http://calendar.example').pathname.startsWith(lane.definition.calendar.calendar);

export type LaneRow = typeof lanes.$inferSelect;

/** By their JSON: each query gives the same definition as another object, and reading one takes a millisecond. */
const parsed = new Map<string, LaneDefinition>();
const MOST_PARSED = 2000;

/** The lane as it stands, read again: one that was saved by an older Monsoon gets the defaults of what has come since. */
export function definitionOf({ definition }: Pick<LaneRow, 'definition'>): LaneDefinition {
  const text = JSON.stringify(definition);
  const known = parsed.get(text) ?? parseLane(definition);
  // The least recently used comes first, and goes first.
  parsed.delete(text);
  parsed.set(text, known);
  const [oldest] = parsed.keys();
  if (oldest !== undefined && parsed.size > MOST_PARSED) parsed.delete(oldest);
  return known;
}

/** Only single items have been tried with it: it was never started. */
export const isTrial = (lane: Pick<LaneRow, 'state' | 'sweptAt'>): boolean => lane.state === 'paused' && lane.sweptAt === null;

/** Lanes that are no more, or stopped for good. @param self the lane that asks: its own mark is never a stranger's */
export async function formerLanesOf(app: App, self: string | undefined): Promise<ReadonlySet<string>> {
  const rows = await app.db.select({ id: formerLanes.id }).from(formerLanes);
  return new Set(rows.map((r) => r.id).filter((id) => id !== self));
}

/** Whose rights a lane has; null: full rights, where its owner was removed. */
async function ownerOf(app: App, { owner }: LaneRow): Promise<Person | null> {
  if (owner === null) return null;
  const [person] = await app.db.select({ person: people.id, role: people.role }).from(people).where(eq(people.id, owner));
  return person ?? null;
}

/** What the engine and a run need to know of a lane at this moment. @param draft what the lane would be instead */
export async function openLane(app: App, lane: LaneRow, draft?: LaneDefinition): Promise<{ context: LaneContext; sides: Sides }> {
  const [left, right] = await app.systems.byIds(lane.recordsSystem, lane.calendarSystem);
  const { row, system } = certain(left, 'a system with a lane is not removed');
  const { records } = system;
  const { calendars: opened } = certain(right, 'a system with a lane is not removed').system;
  const calendars = opened === undefined ? undefined : seenByOwner(opened, await ownerOf(app, lane));
  if (records === undefined || calendars === undefined) throw new Error(`the lane ${lane.slug} names a system that does not offer what it needs`);
  const definition = draft ?? definitionOf(lane);
  const name = definition.records.collection;
  const collections = await records.describe([
    name,
    ...lookedUp(definition).map((l) => l.collection),
    ...guestRowMaps(definition).map((m) => m.rows),
  ]);
  const collection = collections.find((c) => c.name === name);
  if (collection === undefined) {
    const there = (await records.describe()).map((c) => c.name);
    throw new OutsideError('nonsense', `${row.name} has no collection "${name}" any more; it has ${there.join(', ') || 'none'}`);
  }
  // A field that disappeared or changed its type is noticed here, before anything is read or written by it.
  const problems = checkLane(definition, collection, app.zones, collections);
  if (problems.length > 0)
    throw new OutsideError(
      'nonsense',
      `${collection.label} has changed in ${row.name}, and the lane does not fit it any more: ${problems.map((p) => `${p.pointer}: ${p.reason}`).join('; ')}; fix the lane, or the system`,
    );
  const { own, owner } = await addressesOf(app, definition, calendars);
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
    ownAddresses: own,
    ownerAddresses: owner,
    quietGuests: definition.invitations.firstRun === 'quiet' && lane.invitesSince === null,
    now: new Date().toISOString(),
  };
  return { context, sides: { records: withGuestRows(records, definition, collections), calendars } };
}
