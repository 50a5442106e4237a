import type { Condition } from '../record/condition.ts';
import { type RecordItem, stateOf } from '../record/fields.ts';
import type { EventView, LaneContext, RecordView } from './context.ts';
import { bothGone, depart, gone, isCancelled, isEdited } from './depart.ts';
import type { Gathered } from './gathered.ts';
import {
  judgeEvent,
  judgeMark,
  judgeRecord,
  judgeWindow,
  labelOf,
  labelOfLeftOut,
  noLongerFollowed,
  type Shown,
  showAll,
  unexpectedVerdict,
  type Verdict,
} from './judge.ts';
import { momentOfEvents } from './make-record.ts';
import { mergePair } from './merge-pair.ts';
import { type MomentInput, momentInput, type Plan, type Planned } from './moment-input.ts';
import { nameOfEvent, planNewcomer, waitsForAnswer } from './newcomer.ts';
import { operation } from './operation.ts';
import { type Pair, step } from './pair.ts';
import { planUnpaired } from './plan-unpaired.ts';

/**
 * What a run would do about these items: each record with each of its moments, and each event that may become a record.
 * @param due records to be looked at though nothing changed, because the clock says so
 */
export function plan(context: LaneContext, gathered: Gathered, due: ReadonlySet<string> = new Set()): Plan {
  const result: Plan = { operations: [], verdicts: [], unchanged: 0, refreshed: [] };
  const pairs = new Map(gathered.pairs.filter((p) => p.recordId !== null).map((p) => [`${p.recordId} ${p.moment}`, p]));
  const claimed = new Set([...gathered.createCandidates.values()].flatMap((d) => [...d.sure, ...d.maybe]).map((r) => r.id));
  for (const record of gathered.records) {
    let working = record;
    for (const moment of context.definition.moments) {
      const pair = pairs.get(`${record.id} ${moment.name}`);
      pairs.delete(`${record.id} ${moment.name}`);
      if (pair !== undefined && working === record && isUntouched(context, gathered, record, pair) && !due.has(record.id)) {
        result.unchanged++;
        continue;
      }
      // It may be what came of an attempt in doubt: the attempt's own pair speaks for it.
      if (pair === undefined && claimed.has(record.id)) {
        const verdict = waitsForAttempt(context);
        result.verdicts.push({ recordId: record.id, href: null, moment: moment.name, label: record.id, verdict });
        continue;
      }
      const planned = safely(record.id, () => planMoment(momentInput(context, gathered, working, moment, pair)));
      if (planned.operation !== null) {
        const edits = planned.operation.recordEdits;
        // The next moment sees the record as this one leaves it; else two events could overwrite each other in it.
        if (planned.operation.kind === 'remove record') working = { ...working, item: null };
        else if (working.item !== null && planned.operation.kind !== 'make record')
          working = { ...working, item: { ...working.item, fields: { ...working.item.fields, ...edits } } };
        result.operations.push({ ...planned.operation, verdict: planned.verdict }, ...(planned.others ?? []));
      } else if (pair?.state === 'agreed' && planned.verdict === null) result.unchanged++;
      if (planned.refreshed !== undefined) result.refreshed.push(planned.refreshed);
      result.verdicts.push({ recordId: record.id, href: null, moment: moment.name, label: planned.label, verdict: planned.verdict });
    }
  }
  const momentNames = new Set(context.definition.moments.map((m) => m.name));
  for (const pair of pairs.values()) {
    // The lane no longer has this moment: what it made stays, and nobody follows it.
    if (momentNames.has(pair.moment) || pair.state === 'parted' || pair.state === 'removed') continue;
    const cause = `the lane has no moment "${pair.moment}" any more`;
    result.operations.push(operation('part', { ...pair, state: step(pair.state, 'parted') }, cause, { record: null, event: null }));
  }
  for (const pair of gathered.pairs)
    if (pair.recordId === null && pair.href !== null && gathered.events.get(pair.href) === null) planLost(context, gathered, pair, result);
  for (const { recordId, href, condition, value } of gathered.refused ?? []) {
    const verdict: Verdict = { reason: 'unfit value', condition, value, recheckAt: null };
    result.verdicts.push({ recordId, href, moment: momentOfEvents(context).name, label: recordId ?? href ?? '', verdict });
  }
  for (const { href, moment, label } of gathered.gone ?? []) result.verdicts.push({ recordId: null, href, moment, label, verdict: null });
  // A hold may name an unchanged event: its earlier verdict is out of date.
  const looked = new Set(gathered.newcomers.map((e) => e.href));
  const { direction, may } = context.definition;
  for (const event of gathered.unpaired.takeAsked())
    if (direction !== '->' && may.records.create && !looked.has(event.href))
      result.verdicts.push({
        recordId: null,
        href: event.href,
        moment: momentOfEvents(context).name,
        label: nameOfEvent(event),
        verdict: waitsForAnswer(context),
      });
  for (const event of gathered.newcomers) {
    try {
      planNewcomer(context, gathered, event, result);
    } catch (error) {
      const name = { recordId: null, href: event.href, moment: momentOfEvents(context).name, label: nameOfEvent(event) };
      result.verdicts.push({ ...name, verdict: unexpectedVerdict(error) });
    }
  }
  return result;
}

/** One item that cannot be planned is set aside with the reason; it does not stop the others. */
function safely(label: string, work: () => Planned): Planned {
  try {
    return work();
  } catch (error) {
    return { operation: null, verdict: unexpectedVerdict(error), label };
  }
}

/** Looked at again as soon as the attempt is settled, whether it was what came of it or not. */
const waitsForAttempt = (context: LaneContext): Verdict => ({
  reason: 'several candidates',
  condition: 'no attempt to make a record is without an answer',
  value: 'it may be what came of one',
  recheckAt: new Date(Date.parse(context.now) + 60_000).toISOString(),
});

/** Both systems say that nothing has changed since the last agreement, and nothing depends on the clock. */
function isUntouched(context: LaneContext, gathered: Gathered, record: RecordView, pair: Pair): boolean {
  if (pair.state !== 'agreed' || pair.version === null || record.item === null || pair.laneVersion !== context.version) return false;
  const event = pair.href === null ? null : gathered.events.get(pair.href);
  return (
    event != null &&
    event.etag !== null &&
    event.etag === pair.etag &&
    context.directories === undefined &&
    !dependsOnClock(context) &&
    stateOf(record.item) === pair.version
  );
}

const clocked = new WeakMap<object, boolean>();
const asksTheClock = (c: Condition | null | undefined): boolean =>
  c == null
    ? false
    : 'all' in c
      ? c.all.some(asksTheClock)
      : 'any' in c
        ? c.any.some(asksTheClock)
        : 'not' in c
          ? asksTheClock(c.not)
          : ['before', 'after', 'within'].includes(c.test);

function dependsOnClock({ definition }: LaneContext): boolean {
  const known = clocked.get(definition);
  if (known !== undefined) return known;
  const found = [definition.filter, definition.events.filter, ...definition.moments.map((m) => m.filter)].some(asksTheClock);
  clocked.set(definition, found);
  return found;
}

function planMoment(input: MomentInput): Planned {
  const { context, record, moment, pair } = input;
  if (pair !== undefined && input.hold?.question === 'keeps changing' && input.hold.choice === 'part') {
    const parted = { ...pair, state: step(pair.state, 'parted') };
    return {
      operation: operation('part', parted, 'settled by a person: part', { record: record.item, event: input.event }),
      verdict: null,
      label: pair.label,
    };
  }
  if (pair?.state === 'parted') {
    return { operation: null, verdict: record.item === null ? null : noLongerFollowed, label: pair.label };
  }
  if (record.item === null) {
    if (pair === undefined || pair.state === 'removed') return { operation: null, verdict: null, label: pair?.label ?? record.id };
    return { ...planGone(input, pair), label: pair.label };
  }
  const shown = showAll(input.links, record.item, context);
  const label = labelOf(shown, record.item.id);
  const verdict = judgeRecord(context, record.item, moment, shown);
  const paired = pair !== undefined && pair.state !== 'removed';
  if (verdict === null || (paired && stays(input, verdict))) return { label, ...planBelonging(input, record.item, shown, label) };
  const left = { 'no date': 'dateLost', 'filtered out': 'filteredOut', private: 'filteredOut' } as const;
  const departure = left[verdict.reason as keyof typeof left] as 'dateLost' | 'filteredOut' | undefined;
  if (!paired || departure === undefined) return { operation: null, verdict, label: labelOfLeftOut(verdict, label, record.item.id) };
  if (hasNoEvent(input, pair, departure)) return { operation: bothGone(input, pair, 'it left the lane, and it has no event'), verdict, label };
  return { ...depart(input, pair, departure, `${verdict.reason}: ${verdict.condition}, found ${verdict.value}`, shown, verdict), label };
}

/**
 * A pair goes on while either side stands in the window: an item that a person moves out of it takes its other side
 * along, where leaving it would show a time that is wrong. The start line is for new items alone.
 */
function stays(input: MomentInput, verdict: Verdict): boolean {
  if (verdict.reason === 'before the start line') return true;
  if (verdict.reason !== 'out of the window' || input.event?.read == null) return false;
  return judgeWindow(input.context, input.event.read.values.when) === null;
}

/**
 * Is there no event that anything could be decided about? One whose making was never confirmed may stand under another
 * name: where the rule is to remove it, the removal looks for it.
 */
const hasNoEvent = (input: MomentInput, pair: Pair, departure: 'recordDeleted' | 'filteredOut' | 'dateLost'): boolean =>
  input.event === null && (pair.state !== 'making' || input.context.definition.departures[departure] !== 'remove');

function planGone(input: MomentInput, pair: Pair): Omit<Planned, 'label'> {
  if (hasNoEvent(input, pair, 'recordDeleted')) return { operation: bothGone(input, pair, 'gone on both sides'), verdict: null };
  return gone(input, pair);
}

function planBelonging(input: MomentInput, item: RecordItem, shown: Shown, label: string): Omit<Planned, 'label'> {
  const { context, pair, event } = input;
  if (pair === undefined || pair.state === 'removed' || (event === null && (pair.state === 'making' || pair.href === null)))
    return planUnpaired(input, item, shown, label);
  if (event === null) {
    const moved = pair.href === null ? undefined : input.gathered.unpaired.byUid(pair.uid);
    // The same UID in another place: its server or a client moved it, and nothing was deleted.
    if (moved !== undefined && moved.read !== null) {
      input.gathered.unpaired.take(moved.href);
      const view = moved as EventView & { read: NonNullable<EventView['read']> };
      return mergePair({ ...input, pair: { ...pair, href: moved.href, etag: null }, event: moved }, item, shown, view, 'adopt', label);
    }
    const edited = isEdited(input, pair, { shown });
    return depart(input, pair, 'eventDeleted', 'the event was deleted on the calendar', shown, null, edited);
  }
  if (event.read === null) {
    const verdict: Verdict = { reason: 'unreadable event', condition: 'the event can be read', value: event.unreadable ?? '', recheckAt: null };
    return { operation: null, verdict };
  }
  const marked = judgeMark(context, event.read, pair.baseline);
  if (marked !== null) {
    const parted = { ...pair, state: step(pair.state, 'parted'), label };
    return { operation: operation('part', parted, `another lane has written on it: ${marked.value}`, { record: item, event }), verdict: marked };
  }
  if (isCancelled(pair, event.read.values.status, shown))
    return depart(input, pair, 'eventCancelled', 'the event was cancelled on the calendar', shown, null);
  if (context.definition.direction !== '->') {
    const out = judgeEvent(context, event as EventView & { read: object }, true);
    if (out !== null) return depart(input, pair, 'eventFilteredOut', `${out.reason}: ${out.condition}, found ${out.value}`, shown, out);
  }
  return mergePair(
    input,
    item,
    shown,
    event as EventView & { read: NonNullable<EventView['read']> },
    pair.state === 'making' ? 'adopt' : 'change',
    label,
  );
}

/** The event is gone before anybody knew whether its record was made. */
function planLost(context: LaneContext, gathered: Gathered, pair: Pair, result: Plan): void {
  if (pair.state === 'parted' || pair.state === 'removed') return;
  const { sure = [], maybe = [] } = gathered.createCandidates.get(pair.id) ?? {};
  const found = [...sure, ...maybe];
  const sides = { record: null, event: null };
  const moment = context.definition.moments.find((m) => m.name === pair.moment) ?? momentOfEvents(context);
  result.verdicts.push({ recordId: null, href: pair.href, moment: moment.name, label: pair.label, verdict: null });
  if (found.length === 1) {
    const item = found[0]!;
    const planned = planMoment(momentInput(context, gathered, { id: item.id, item }, moment, { ...pair, recordId: item.id, state: 'agreed' }));
    if (planned.operation !== null) result.operations.push({ ...planned.operation, verdict: planned.verdict });
    return;
  }
  const cause =
    found.length === 0
      ? 'the event was deleted before its record was made'
      : `the event was deleted, and any of ${found.map((r) => r.id).join(', ')} may have been made for it`;
  result.operations.push(operation('part', { ...pair, state: step(pair.state, found.length === 0 ? 'removed' : 'parted') }, cause, sides));
}
