import { NOT_CHOSEN } from '@monsoon/arranging';
import type { PreviewAnswer, PreviewRequest } from '@monsoon/contract';
import {
  dateField,
  type EventView,
  goesToRecord,
  judgeEvent,
  judgeRecord,
  type LaneContext,
  labelOf,
  linkContext,
  type Moment,
  makeRecord,
  makesNoRecords,
  momentLinks,
  momentOfEvents,
  type PropertyValue,
  pairOfEvent,
  properties,
  type RecordItem,
  readWhen,
  type Shown,
  showAll,
  UnfitValue,
  type Verdict,
  waitsForAnswer,
} from '@monsoon/core';
import { viewOf } from '../run/event-view.ts';
import { pickRecords, type SampledEvents, type SampledRecords, sayFields } from './samples.ts';

/** Newcomers that are shown. */
const MOST_SHOWN = 8;

export type Tally = { reason: string; condition: string; count: number; example: string };

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

/** A record's verdict; until a person has chosen when it takes place, that is the reason. */
function judged(context: LaneContext, ...[record, moment, shown]: [RecordItem, Moment, Shown]): Verdict | null {
  const verdict = judgeRecord(context, record, moment, shown);
  return verdict?.condition.includes(NOT_CHOSEN) === true
    ? { ...verdict, condition: 'it is chosen when it takes place', value: 'nothing yet' }
    : verdict;
}

/** How many records cross, how many events they make, and why the others do not. */
export function judgeAll(context: LaneContext, { items }: SampledRecords): { crossing: number; events: number; reasons: Tally[] } {
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
export function showItems(context: LaneContext, { items }: SampledRecords, wanted: readonly string[]): PreviewAnswer['items'] {
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

export interface Arrived {
  counts: { crossing: number; own: number; reasons: Tally[] };
  shown: PreviewAnswer['newcomers'];
}

/**
 * What is on the calendar already: the lane's own, what would become records, and why the rest would not.
 * @param known addresses of the lane's own events, and the UIDs that its questions are about
 */
export function lookAtEvents(
  context: LaneContext,
  { events }: SampledEvents,
  known: { own: ReadonlySet<string>; asked: ReadonlySet<string> },
): Arrived {
  const tallies = new Tallies();
  const shown: PreviewAnswer['newcomers'] = [];
  const { direction, may } = context.definition;
  const makes = direction !== '->' && may.records.create;
  let [crossing, mine] = [0, 0];
  for (const stored of events) {
    const view = viewOf(stored, context);
    if (known.own.has(stored.href)) {
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
    const leftOut = judgeEvent(context, event, false) ?? (known.asked.has(read.uid) ? waitsForAnswer(context) : null);
    const out = leftOut ?? (makes ? null : makesNoRecords);
    const made =
      out === null ? makeRecord(context, { moment, event, pair: pairOfEvent(context, read.uid, stored.href, moment.name), cause: '' }) : null;
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
export function tryBack(context: LaneContext, { items }: SampledRecords, edit: NonNullable<PreviewRequest['edit']>): PreviewAnswer['back'] {
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

/** Of the people that fields name: how many have an address, their own or that of the collection where they are looked up. */
export function countPeople({ definition, directories }: LaneContext, { items }: SampledRecords): PreviewAnswer['people'] {
  const maps = [definition.fields.attendees, ...definition.moments.map((m) => m.fields?.attendees)].flatMap((m) => [m ?? []].flat());
  return maps.flatMap((map) => {
    if (!('people' in map)) return [];
    const emails = map.in === undefined ? undefined : directories?.get(map.in)?.emails;
    const addressed = (value: unknown): boolean => {
      const one = value as { id?: string; email?: string };
      return one.id === undefined ? (one.email ?? '') !== '' : emails?.has(one.id) === true;
    };
    const people = items.flatMap((r): unknown[] => [r.fields[map.people] ?? []].flat()).filter((v) => v !== null && typeof v === 'object');
    return [{ field: map.people, named: people.length, found: people.filter(addressed).length }];
  });
}
