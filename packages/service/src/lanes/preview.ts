import { type LaneDraft, sayLane, soundPart } from '@monsoon/arranging';
import type { PreviewAnswer, PreviewRequest } from '@monsoon/contract';
import { type Collection, type LaneContext, takenByAnswers, UTC, windowOf } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { and, eq, inArray } from 'drizzle-orm';
import type { App } from '../app.ts';
import { withDirectories } from '../run/directories.ts';
import { takenApart } from '../run/take-apart.ts';
import { asksWhichEvent } from '../storage/run-store.ts';
import { holds, lanes, pairs } from '../storage/schema.ts';
import { formerLanesOf } from './context.ts';
import { countPeople, judgeAll, lookAtEvents, showItems, tryBack } from './judge-samples.ts';
import { previewInvitation } from './preview-invitation.ts';
import { lookAtSeries } from './preview-series.ts';
import { noWayToInvite, noWayToNotify, remarks, usedElsewhere } from './remarks.ts';
import { calendarsFresh, describeFresh, forgetSamples, type SampledEvents, sampleEvents, sampleRecords } from './samples.ts';
import { type FoundSides, findSides } from './save.ts';

/** Stands for the lane in UIDs and marks while it is not there yet. */
const NO_LANE = '00000000-0000-0000-0000-000000000000';

/**
 * What a lane that is being arranged would do with what is there now: findings, counts, and samples as they would
 * cross. Whatever part of the draft is sound is shown; systems that do not answer are among the findings.
 */
export async function preview(app: App, ask: PreviewRequest, signal: AbortSignal): Promise<PreviewAnswer> {
  const sides = await lookAtSides(app, ask.definition as LaneDraft, signal);
  const { left, right, collection, calendar, definition, problems } = sides;
  const [lane] = ask.lane === undefined ? [] : await app.db.select().from(lanes).where(eq(lanes.slug, ask.lane));
  const known = lane?.id ?? NO_LANE;
  const zone = app.zones.find(definition.zone) ?? UTC;
  const noCollection: Collection = {
    name: '',
    label: 'Records',
    fields: [],
    may: { create: false, change: false, remove: false },
    retries: 'none',
    stamps: { created: false, modified: false },
  };
  let context: LaneContext = {
    lane: known,
    definition,
    version: (lane?.version ?? 0) + 1,
    collection: collection ?? noCollection,
    zone,
    zones: app.zones,
    formerLanes: await formerLanesOf(app, lane?.id),
    now: new Date().toISOString(),
  };
  const trouble = <T>(pointer: string, work: Promise<T>): Promise<T | null> =>
    work.catch((error: unknown) => {
      if (!(error instanceof OutsideError)) throw error;
      problems.push({ pointer, reason: error.message });
      return null;
    });
  const open = {
    records: left === undefined ? undefined : app.systems.open(left),
    calendar: right === undefined ? undefined : app.systems.open(right),
  };
  const records =
    collection === null || open.records?.records === undefined
      ? null
      : await trouble('/records', sampleRecords(open.records.records, collection.name, signal));
  const events =
    calendar === null || open.calendar?.calendars === undefined
      ? null
      : await trouble('/calendar', sampleEvents(open.calendar.calendars, calendar.href, signal));
  if (open.records?.records !== undefined && open.calendar?.calendars !== undefined)
    context =
      (await trouble(
        '/fields',
        withDirectories({ context, sides: { records: open.records.records, calendars: open.calendar.calendars }, signal }),
      )) ?? context;

  const judged = records === null || collection === null ? null : judgeAll(context, records);
  const apart = events === null ? null : await asFound(context, events);
  const arrived = apart === null ? null : lookAtEvents(context, apart, await knownEvents(app, lane?.id, apart));
  const names = { records: collection?.label ?? 'the records', calendar: calendar?.name ?? 'the calendar' };
  return {
    problems,
    warnings: [
      ...(await usedElsewhere(app, sides, lane?.id)),
      ...(await noWayToNotify(app, definition)),
      ...(await noWayToInvite(app, definition, open.calendar?.calendars)),
      ...remarks(context, sides, judged, arrived),
    ],
    says: sayLane(definition, names),
    push: open.records?.notice !== undefined || open.records?.watch !== undefined,
    records: judged === null ? null : { name: names.records, read: records?.items.length ?? 0, complete: records?.complete ?? false, ...judged },
    events: arrived === null ? null : { name: names.calendar, listed: events?.listed ?? 0, read: apart?.events.length ?? 0, ...arrived.counts },
    items: records === null || collection === null ? [] : showItems(context, records, ask.show),
    newcomers: definition.direction === '->' || collection === null ? [] : (arrived?.shown ?? []),
    series: events === null || definition.direction === '->' ? null : lookAtSeries(context, events),
    people: records === null ? [] : countPeople(context, records),
    invitation: records === null || collection === null ? null : await previewInvitation(app, context, records.items),
    back: ask.edit === undefined || records === null ? null : tryBack(context, records, ask.edit),
  };
}

/** Of some events, which a lane has already and which its questions are about. */
async function knownEvents(app: App, lane: string | undefined, { events }: SampledEvents): Promise<{ own: Set<string>; asked: Set<string> }> {
  if (lane === undefined) return { own: new Set(), asked: new Set() };
  const hrefs = events.map((e) => e.href);
  const paired = await app.db
    .select({ href: pairs.href })
    .from(pairs)
    .where(and(eq(pairs.lane, lane), inArray(pairs.href, hrefs)));
  const asked = await app.db.select({ choices: holds.choices }).from(holds).where(asksWhichEvent(lane));
  return { own: new Set(paired.map((p) => p.href ?? '')), asked: takenByAnswers(asked) };
}

/** As the lane would find them: series by their occurrences, where it takes each of them. */
async function asFound(context: LaneContext, sampled: SampledEvents): Promise<SampledEvents> {
  const window = windowOf(context);
  if (context.definition.events.repeating !== 'each occurrence' || window === null) return sampled;
  return { ...sampled, events: await takenApart(sampled.events, { ...window, home: context.zone }, context.zones) };
}

type Looked = FoundSides & { definition: LaneContext['definition'] };

/** Both sides as far as they are chosen and answer, and the sound part of the draft over them. */
async function lookAtSides(app: App, draft: LaneDraft, signal: AbortSignal): Promise<Looked> {
  const chosen = soundPart(draft, null, app.zones).definition;
  let sides: FoundSides;
  try {
    sides = await findSides(app, chosen, signal, {
      describe: describeFresh,
      calendars: async (calendars) => {
        const known = await calendarsFresh(calendars, signal);
        const { calendar } = chosen.calendar;
        if (known.some((c) => c.href === calendar || c.name === calendar)) return known;
        // It may have been made a moment ago.
        forgetSamples({ calendars });
        return calendarsFresh(calendars, signal);
      },
    });
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    sides = {
      left: undefined,
      right: undefined,
      collections: [],
      collection: null,
      calendar: null,
      calendars: [],
      problems: [{ pointer: '/records', reason: error.message }],
    };
  }
  const { definition, problems } = soundPart(
    draft['records'] === undefined ? draft : { ...draft, records: chosen.records },
    sides.collection,
    app.zones,
    sides.collections,
  );
  if (sides.calendar !== null) definition.calendar.calendar = sides.calendar.href;
  // What a part of the lane looks like to the sides is a matter of the sides alone here: the draft has findings of its own.
  const missing = (side: 'records' | 'calendar', part: string) => (draft[side] as Record<string, unknown> | undefined)?.[part] === undefined;
  const ofSides = sides.problems.filter(
    ({ pointer }) =>
      /^\/(records|calendar)(\/|$)/.test(pointer) &&
      !(pointer.endsWith('/system') && missing(pointer.split('/')[1] as 'records', 'system')) &&
      !missing(pointer.split('/')[1] as 'records', pointer.split('/')[2] ?? 'system'),
  );
  return { ...sides, definition, problems: [...ofSides, ...problems.filter((p) => !ofSides.some((o) => o.pointer === p.pointer))] };
}
