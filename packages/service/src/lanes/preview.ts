import {
  type Collection,
  dateField,
  type EventView,
  goesToRecord,
  judgeEvent,
  judgeRecord,
  type LaneContext,
  type LaneDraft,
  labelOf,
  linkContext,
  type Moment,
  makeRecord,
  momentLinks,
  momentOfEvents,
  NOT_CHOSEN,
  type PreviewAnswer,
  type PreviewRequest,
  type PropertyValue,
  pairOfEvent,
  properties,
  type RecordItem,
  readWhen,
  type Shown,
  sayLane,
  showAll,
  soundPart,
  UnfitValue,
  UTC,
  type Verdict,
} from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { and, eq, ne, or } from 'drizzle-orm';
import type { App } from '../app.ts';
import { withDirectories } from '../run/directories.ts';
import { viewOf } from '../run/event-view.ts';
import { lanes, pairs } from '../storage/schema.ts';
import {
  calendarsFresh,
  describeFresh,
  forgetSamples,
  pickRecords,
  type SampledEvents,
  type SampledRecords,
  sampleEvents,
  sampleRecords,
  sayFields,
} from './samples.ts';
import { type FoundSides, findSides } from './save.ts';

/** Stands for the lane in UIDs and marks while it is not there yet. */
const NO_LANE = '00000000-0000-0000-0000-000000000000';
/** Newcomers that are shown. */
const MOST_SHOWN = 8;

/**
 * What a lane that is being arranged would do with what is there now: findings, counts, and samples as they would
 * cross. Whatever part of the draft is sound is shown; systems that do not answer are told among the findings.
 */
export async function preview(app: App, ask: PreviewRequest, signal: AbortSignal): Promise<PreviewAnswer> {
  const sides = await lookAtSides(app, ask.definition as LaneDraft, signal);
  const { left, right, collection, calendar, definition, problems } = sides;
  const [lane] = ask.lane === undefined ? [] : await app.db.select().from(lanes).where(eq(lanes.slug, ask.lane));
  const known = lane?.id ?? NO_LANE;
  const zone = app.zones.find(definition.zone) ?? UTC;
  const noCollection: Collection = { name: '', label: 'Records', fields: [], may: { create: false, change: false, remove: false }, retries: 'none' };
  let context: LaneContext = {
    lane: known,
    definition,
    version: (lane?.version ?? 0) + 1,
    collection: collection ?? noCollection,
    zone,
    zones: app.zones,
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
  const records = collection === null ? null : await trouble('/records', sampleRecords(open.records!.records!, collection.name, signal));
  const events = calendar === null ? null : await trouble('/calendar', sampleEvents(open.calendar!.calendars!, calendar.href, signal));
  if (open.records?.records !== undefined && open.calendar?.calendars !== undefined)
    context =
      (await trouble('/fields', withDirectories(context, { records: open.records.records, calendars: open.calendar.calendars }, signal))) ?? context;

  const judged = records === null || collection === null ? null : judgeAll(context, records);
  const own =
    lane === undefined
      ? new Set<string>()
      : new Set((await app.db.select({ href: pairs.href }).from(pairs).where(eq(pairs.lane, lane.id))).map((p) => p.href ?? ''));
  const arrived = events === null ? null : lookAtEvents(context, events, own);
  const names = { records: collection?.label ?? 'the records', calendar: calendar?.name ?? 'the calendar' };
  return {
    problems,
    warnings: [...(await usedElsewhere(app, sides, lane?.id)), ...remarks(context, sides, judged, arrived)],
    says: sayLane(definition, names),
    push: open.records?.notice !== undefined || open.records?.watch !== undefined,
    records: judged === null ? null : { name: collection!.label, read: records!.items.length, complete: records!.complete, ...judged },
    events: arrived === null ? null : { name: calendar!.name, listed: events!.listed, read: events!.events.length, ...arrived.counts },
    items: records === null || collection === null ? [] : showItems(context, records, ask.show),
    newcomers: definition.direction === '->' || collection === null ? [] : (arrived?.shown ?? []),
    back: ask.edit === undefined || records === null ? null : tryBack(context, records, ask.edit),
  };
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

type Tally = { reason: string; condition: string; count: number; example: string };

class Tallies {
  readonly #found = new Map<string, Tally>();
  add(verdict: Verdict, label: string): void {
    const key = verdict.reason === 'unfit value' ? verdict.condition.replace(/"[^"]*"/g, '...') : `${verdict.reason} ${verdict.condition}`;
    const known = this.#found.get(key);
    if (known === undefined)
      this.#found.set(key, { reason: verdict.reason, condition: verdict.condition, count: 1, example: `${label}: ${verdict.value.slice(0, 100)}` });
    else known.count++;
  }
  list = (): Tally[] => [...this.#found.values()].sort((a, b) => b.count - a.count).slice(0, 40);
}

/** A record's verdict; while nobody has chosen when it takes place, that is the reason. */
function judged(context: LaneContext, ...[record, moment, shown]: [RecordItem, Moment, Shown]): Verdict | null {
  const verdict = judgeRecord(context, record, moment, shown);
  return verdict?.condition.includes(NOT_CHOSEN) === true
    ? { ...verdict, condition: 'it is chosen when it takes place', value: 'nothing yet' }
    : verdict;
}

/** How many records cross, how many events they make, and why the others do not. */
function judgeAll(context: LaneContext, { items }: SampledRecords): { crossing: number; events: number; reasons: Tally[] } {
  const { moments, direction } = context.definition;
  const tallies = new Tallies();
  let [crossing, events] = [0, 0];
  for (const item of items) {
    let crosses = false;
    for (const moment of moments) {
      const shown = showAll(momentLinks(context, moment), item, context);
      const verdict = direction === '<-' ? null : judged(context, item, moment, shown);
      if (verdict === null) {
        events++;
        crosses = true;
        continue;
      }
      tallies.add(verdict, labelOf(shown, item.id));
    }
    if (crosses) crossing++;
  }
  return { crossing, events, reasons: tallies.list() };
}

/** Records as the events they would become, whatever keeps them from crossing. */
function showItems(context: LaneContext, { items }: SampledRecords, wanted: readonly string[]): PreviewAnswer['items'] {
  const picked = pickRecords(context.collection, items);
  for (const id of wanted) {
    const record = items.find((r) => r.id === id);
    if (record !== undefined && !picked.some((p) => p.record.id === id)) picked.push({ record, about: 'chosen' });
  }
  return picked.map(({ record, about }) => {
    const moments = context.definition.moments.map((moment) => {
      const links = momentLinks(context, moment);
      const shown = showAll(links, record, context);
      const notes = (() => {
        try {
          return readWhen(moment.when, record, context.collection.fields, context.zone, context.zones).notes;
        } catch {
          return [];
        }
      })();
      const dated = record.fields[dateField(moment.when)];
      const unfit = [...shown.unfit].flatMap(([property, e]) =>
        property === 'when' && (dated === null || dated === undefined)
          ? []
          : [{ property, field: e.field, value: e.value.slice(0, 300), reason: e.reason }],
      );
      return { moment: moment.name, verdict: judged(context, record, moment, shown), values: shown.values, unfit, notes };
    });
    const label = labelOf({ values: (moments[0]?.values ?? {}) as never, unfit: new Map() }, record.id);
    return { recordId: record.id, label, about, fields: sayFields(record), moments };
  });
}

interface Arrived {
  counts: { crossing: number; own: number; reasons: Tally[] };
  shown: PreviewAnswer['newcomers'];
}

/** What is on the calendar already: the lane's own, what would become records, and why the rest would not. */
function lookAtEvents(context: LaneContext, { events }: SampledEvents, own: ReadonlySet<string>): Arrived {
  const tallies = new Tallies();
  const shown: PreviewAnswer['newcomers'] = [];
  let [crossing, mine] = [0, 0];
  for (const stored of events) {
    const view = viewOf(stored, context);
    if (own.has(stored.href)) {
      mine++;
      continue;
    }
    const read = view.read;
    if (read === null) {
      tallies.add({ reason: 'unreadable event', condition: view.unreadable ?? '', value: '', recheckAt: null }, stored.href);
      continue;
    }
    const event = { ...view, read } as EventView & { read: NonNullable<EventView['read']> };
    const moment = momentOfEvents(context);
    const out = judgeEvent(context, event, false);
    const made =
      out === null && context.definition.may.records.create
        ? makeRecord(context, moment, event, pairOfEvent(context, read.uid, stored.href, moment.name), '')
        : null;
    const verdict = out ?? made?.verdict ?? null;
    const label = read.values.title ?? read.uid;
    if (verdict === null) crossing++;
    else tallies.add(verdict, label);
    if (shown.length < MOST_SHOWN || (verdict === null && shown.filter((s) => s.verdict === null).length < MOST_SHOWN / 2))
      shown.push({
        href: stored.href,
        label,
        verdict,
        values: read.values,
        fields: made?.operation == null ? {} : sayFields({ fields: made.operation.recordEdits }),
      });
  }
  return { counts: { crossing, own: mine, reasons: tallies.list() }, shown };
}

/** What an edit of the event would change in the record. */
function tryBack(context: LaneContext, { items }: SampledRecords, edit: NonNullable<PreviewRequest['edit']>): PreviewAnswer['back'] {
  const record = items.find((r) => r.id === edit.record);
  const moment = context.definition.moments.find((m) => m.name === edit.moment);
  if (record === undefined || moment === undefined) return null;
  const links = momentLinks(context, moment).filter((l) => l.property === edit.property);
  const back = links.filter(goesToRecord);
  if (links.length === 0) return { fields: {}, reason: `${edit.property} is not mapped, so it stays as people leave it` };
  if (back.length === 0 || !context.definition.may.records.change)
    return {
      fields: {},
      reason: `${edit.property} only goes to the calendar, so the edit would be ${context.definition.foreignEdits === 'leave' ? 'left alone' : 'put back'}`,
    };
  const set = properties[edit.property as keyof typeof properties]?.set === true;
  const words = edit.value.split(',').flatMap((w) => (w.trim() === '' ? [] : [w.trim()]));
  const value = (
    edit.property === 'attendees' ? words.map((email) => ({ email })) : set ? words : edit.value === '' ? null : edit.value
  ) as PropertyValue;
  let fields: RecordItem['fields'] = {};
  try {
    for (const link of back) fields = { ...fields, ...link.take(record, value, linkContext(context)).fields };
    return { fields: sayFields({ fields }), reason: Object.keys(fields).length === 0 ? 'the record says that already' : null };
  } catch (error) {
    if (!(error instanceof UnfitValue)) throw error;
    return { fields: {}, reason: error.message };
  }
}

/** Other lanes that work with the same collection or calendar. */
async function usedElsewhere(app: App, { left, right, collection, calendar }: FoundSides, self: string | undefined): Promise<string[]> {
  if (left === undefined || right === undefined) return [];
  const others = await app.db
    .select()
    .from(lanes)
    .where(and(or(eq(lanes.recordsSystem, left.id), eq(lanes.calendarSystem, right.id)), self === undefined ? undefined : ne(lanes.id, self)));
  return others.flatMap((other) => {
    const { definition } = other;
    const sameRecords = other.recordsSystem === left.id && definition.records.collection === collection?.name;
    const sameCalendar = other.calendarSystem === right.id && definition.calendar.calendar === calendar?.href;
    if (sameRecords && sameCalendar) return [`the lane "${definition.name}" ties the same two sides: every item would be there twice`];
    if (sameCalendar) return [`the lane "${definition.name}" uses this calendar too; a calendar of its own keeps them apart`];
    if (sameRecords) return [`the lane "${definition.name}" uses these records too, with another calendar`];
    return [];
  });
}

/** What a person should know before going on. */
function remarks(
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
  if (calendar !== null && definition.direction !== '<-' && foreign > 20)
    said.push(
      `${calendar.name} has ${foreign} other events${definition.direction === '<->' && definition.may.records.create ? `, of which ${arrived!.counts.crossing} would become records` : ', which stay as they are'}; a calendar of its own is the safe choice`,
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
