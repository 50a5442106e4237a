import type { LaneContext, LaneDefinition } from '@monsoon/core';
import type { Calendars } from '@monsoon/systems';
import { and, eq, ne, or, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { lanes, systems } from '../storage/schema.ts';
import type { Arrived, Tally } from './judge-samples.ts';
import type { FoundSides } from './save.ts';

/** Other lanes between the same two sides: both would create the same items. */
export async function sameSidesElsewhere(
  app: App,
  lane: { id?: string; recordsSystem: string; calendarSystem: string; definition: LaneDefinition },
): Promise<string[]> {
  const { records, calendar } = lane.definition;
  const others = await app.db
    .select()
    .from(lanes)
    .where(
      and(
        eq(lanes.recordsSystem, lane.recordsSystem),
        eq(lanes.calendarSystem, lane.calendarSystem),
        sql`${lanes.definition}->'records'->>'collection' = ${records.collection}`,
        sql`${lanes.definition}->'calendar'->>'calendar' = ${calendar.calendar}`,
        lane.id === undefined ? undefined : ne(lanes.id, lane.id),
      ),
    );
  return others.map((o) => sameSides(o.definition.name));
}

const sameSides = (name: string): string => `the lane "${name}" ties the same two sides: every item would be there twice`;

/** Other lanes that work with the same collection or calendar. */
export async function usedElsewhere(app: App, { left, right, collection, calendar }: FoundSides, self: string | undefined): Promise<string[]> {
  if (left === undefined || right === undefined) return [];
  const others = await app.db
    .select()
    .from(lanes)
    .where(and(or(eq(lanes.recordsSystem, left.id), eq(lanes.calendarSystem, right.id)), self === undefined ? undefined : ne(lanes.id, self)));
  return others.flatMap((other) => {
    const { definition } = other;
    const sameRecords = other.recordsSystem === left.id && definition.records.collection === collection?.name;
    const sameCalendar = other.calendarSystem === right.id && definition.calendar.calendar === calendar?.href;
    if (sameRecords && sameCalendar) return [sameSides(definition.name)];
    if (sameCalendar) return [`the lane "${definition.name}" uses this calendar too; a calendar of its own keeps them apart`];
    if (sameRecords) return [`the lane "${definition.name}" uses these records too, with another calendar`];
    return [];
  });
}

/** What a person should know before going on. */
export function remarks(
  context: LaneContext,
  { calendar, calendars }: FoundSides,
  judged: { crossing: number; reasons: Tally[] } | null,
  arrived: Arrived | null,
): string[] {
  const { definition } = context;
  const said: string[] = [];
  const foreign =
    arrived === null
      ? 0
      : arrived.counts.crossing + arrived.counts.reasons.filter((r) => r.reason !== 'made by another lane').reduce((n, r) => n + r.count, 0);
  if (calendar !== null && arrived !== null && definition.direction !== '<-' && foreign > 20)
    said.push(
      `${calendar.name} has ${foreign} other events${definition.direction === '<->' && definition.may.records.create ? `, of which ${arrived.counts.crossing} would become records` : ', which stay as they are'}; a calendar of its own is the safe choice`,
    );
  if (
    calendar !== null &&
    calendars.length > 0 &&
    /^(calendar|default|personal|main|my calendar)$/i.test(calendar.name) &&
    definition.direction !== '<-'
  )
    said.push(`${calendar.name} looks like somebody's main calendar; a calendar of its own is the safe choice`);
  if (judged !== null && definition.direction !== '<-') {
    const filtered = judged.reasons.filter((r) => r.reason === 'filtered out').reduce((n, r) => n + r.count, 0);
    if (judged.crossing === 0 && filtered > 0) said.push('the filter lets nothing through');
    else if (definition.filter !== null && filtered === 0 && judged.crossing > 0) said.push('the filter lets everything through');
  }
  return said;
}

/** Guests are to be invited, and nothing can do it. */
export async function noWayToInvite(app: App, { invitations }: LaneDefinition, calendars: Calendars | undefined): Promise<string[]> {
  if (invitations.by === 'mail' && (await app.db.$count(systems, eq(systems.kind, 'mail'))) === 0)
    return ['guests cannot be invited: no mail server is connected'];
  if (invitations.by !== 'calendar server' || calendars === undefined) return [];
  const said = await calendars.scheduling?.(AbortSignal.timeout(PATIENCE)).catch(() => null);
  return said?.invites === true ? [] : ['guests cannot be invited: the calendar server does not say that it schedules; choose mail'];
}

/** Milliseconds that a calendar server has to answer. */
const PATIENCE = 5_000;

/** People are to be notified, and nothing can carry a mail. */
export async function noWayToNotify(app: App, { notify }: LaneContext['definition']): Promise<string[]> {
  if (notify.length === 0 || (await app.db.$count(systems, eq(systems.kind, 'mail'))) > 0) return [];
  return ['no mail can be sent: no mail server is connected'];
}
