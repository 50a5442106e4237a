import { fillsEvent } from '../lane/links.ts';
import type { EventValues } from '../maps/properties.ts';
import type { Condition } from '../record/condition.ts';
import { type RecordItem, stateOf } from '../record/fields.ts';
import { formatWhen } from '../time/format-when.ts';
import { type Case, caseOf, type Plan, type Planned } from './case.ts';
import type { EventView, Gathered, LaneContext, RecordView } from './context.ts';
import { bothGone, depart, gone, isEdited } from './depart.ts';
import { askedAbout, type Hold } from './holds.ts';
import {
  judgeEvent,
  judgeMark,
  judgeRecord,
  judgeWindow,
  labelOf,
  noLongerFollowed,
  type Shown,
  showAll,
  unfitVerdict,
  type Verdict,
} from './judge.ts';
import { makeEvent } from './make.ts';
import { momentOfEvents } from './make-record.ts';
import { mergePair } from './merge-pair.ts';
import { planNewcomer } from './newcomer.ts';
import { type Operation, operation } from './operation.ts';
import { type LinkValues, type Pair, pairId, pairOfEvent, pairOfRecord, step } from './pair.ts';

/**
 * What a run would do about these items: each record with each of its moments, and each event that may become a record.
 * @param due records to be looked at though nothing changed, because the clock says so
 */
export function plan(context: LaneContext, gathered: Gathered, due: ReadonlySet<string> = new Set()): Plan {
  const result: Plan = { operations: [], verdicts: [], unchanged: 0, refreshed: [] };
  const pairs = new Map(gathered.pairs.filter((p) => p.recordId !== null).map((p) => [`${p.recordId} ${p.moment}`, p]));
  const claimed = new Set([...gathered.doubts.values()].flatMap((d) => [...d.sure, ...d.maybe]).map((r) => r.id));
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
      const planned = planMoment(caseOf(context, gathered, working, moment, pair));
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
  for (const { href, moment, label } of gathered.gone ?? []) result.verdicts.push({ recordId: null, href, moment, label, verdict: null });
  for (const event of gathered.newcomers) planNewcomer(context, gathered, event, result);
  return result;
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

function planMoment(at: Case): Planned {
  const { context, record, moment, pair } = at;
  if (pair !== undefined && at.hold?.question === 'keeps changing' && at.hold.choice === 'part') {
    const parted = { ...pair, state: step(pair.state, 'parted') };
    return {
      operation: operation('part', parted, 'settled by a person: part', { record: record.item, event: at.event }),
      verdict: null,
      label: pair.label,
    };
  }
  if (pair?.state === 'parted') {
    return { operation: null, verdict: record.item === null ? null : noLongerFollowed, label: pair.label };
  }
  if (record.item === null) {
    if (pair === undefined || pair.state === 'removed') return { operation: null, verdict: null, label: pair?.label ?? record.id };
    return { ...planGone(at, pair), label: pair.label };
  }
  const shown = showAll(at.links, record.item, context);
  const label = labelOf(shown, record.item.id);
  const verdict = judgeRecord(context, record.item, moment, shown);
  const paired = pair !== undefined && pair.state !== 'removed';
  if (verdict === null || (paired && stays(at, verdict))) return { label, ...planBelonging(at, record.item, shown, label) };
  const left = { 'no date': 'dateLost', 'filtered out': 'filteredOut', private: 'filteredOut' } as const;
  const departure = left[verdict.reason as keyof typeof left] as 'dateLost' | 'filteredOut' | undefined;
  if (!paired || departure === undefined) return { operation: null, verdict, label };
  if (isNowhere(at, pair, departure)) return { operation: bothGone(at, pair, 'it left the lane, and it has no event'), verdict, label };
  return { ...depart(at, pair, departure, `${verdict.reason}: ${verdict.condition}, found ${verdict.value}`, shown, verdict), label };
}

/**
 * A pair goes on while either side stands in the window: an item that a person moves out of it takes its other side
 * along, where leaving it would show a time that is wrong. The start line is for new items alone.
 */
function stays(at: Case, verdict: Verdict): boolean {
  if (verdict.reason === 'before the start line') return true;
  if (verdict.reason !== 'out of the window' || at.event?.read == null) return false;
  return judgeWindow(at.context, at.event.read.values.when) === null;
}

/**
 * Is there no event that anything could be decided about? One whose making was never confirmed may stand under another
 * name: where the rule is to remove it, the removal looks for it.
 */
const isNowhere = (at: Case, pair: Pair, departure: 'recordDeleted' | 'filteredOut' | 'dateLost'): boolean =>
  at.event === null && (pair.state !== 'making' || at.context.definition.departures[departure] !== 'remove');

function planGone(at: Case, pair: Pair): Omit<Planned, 'label'> {
  if (isNowhere(at, pair, 'recordDeleted')) return { operation: bothGone(at, pair, 'gone on both sides'), verdict: null };
  return gone(at, pair);
}

function planBelonging(at: Case, item: RecordItem, shown: Shown, label: string): Omit<Planned, 'label'> {
  const { context, pair, event } = at;
  if (pair === undefined || pair.state === 'removed' || (event === null && (pair.state === 'making' || pair.href === null)))
    return planUnpaired(at, item, shown, label);
  if (event === null) {
    const moved = pair.href === null ? undefined : at.gathered.strangers.byUid(pair.uid);
    // The same UID in another place: its server or a client moved it, and nothing was deleted.
    if (moved !== undefined && moved.read !== null) {
      at.gathered.strangers.take(moved.href);
      const view = moved as EventView & { read: NonNullable<EventView['read']> };
      return mergePair({ ...at, pair: { ...pair, href: moved.href, etag: null }, event: moved }, item, shown, view, 'adopt', label);
    }
    const edited = isEdited(at, pair, { shown });
    return depart(at, pair, 'eventDeleted', 'the event was deleted on the calendar', shown, null, edited);
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
    return depart(at, pair, 'eventCancelled', 'the event was cancelled on the calendar', shown, null);
  if (context.definition.direction !== '->') {
    const out = judgeEvent(context, event as EventView & { read: object }, true);
    if (out !== null) return depart(at, pair, 'eventFilteredOut', `${out.reason}: ${out.condition}, found ${out.value}`, shown, out);
  }
  return mergePair(
    at,
    item,
    shown,
    event as EventView & { read: NonNullable<EventView['read']> },
    pair.state === 'making' ? 'adopt' : 'change',
    label,
  );
}

/**
 * Did somebody cancel the event since the last agreement? That is a departure first, and a value of `status` second. It
 * is none where the record says the same.
 */
function isCancelled(pair: Pair, status: EventValues['status'], shown: Shown): boolean {
  if (status !== 'cancelled' || shown.values['status'] === 'cancelled') return false;
  // An event of ours that was cancelled before its making was confirmed has no baseline yet.
  return pair.baseline === null ? pair.state === 'making' || pair.state === 'held' : pair.baseline.event['status'] !== 'cancelled';
}

/** A record's moment without an event: adopt the one that stands for it already, make it, or say why not. */
function planUnpaired(at: Case, item: RecordItem, shown: Shown, label: string): Omit<Planned, 'label'> {
  const { context, gathered, moment } = at;
  const { definition } = context;
  const pair = at.pair ?? pairOfRecord(context, item.id, moment.name);
  const uid = pairId(context.lane, item.id, moment.name);
  const linked = definition.link === null ? null : ((item.fields[definition.link] as string | null | undefined) ?? null);
  // Where events become records, one that does not belong stands for none. A series, or a cancelled event, stands for no new record.
  const belongs = (e: EventView) =>
    e.read?.uid === uid ||
    e.read?.uid === linked ||
    e.read?.uid === at.pair?.uid ||
    (definition.direction === '->'
      ? (definition.events.repeating === 'take' || e.read?.repeating !== true) && e.read?.values.status !== 'cancelled'
      : judgeEvent(context, e as EventView & { read: object }, false) === null);
  // One that is followed again finds the event that it had.
  const found = gathered.strangers.candidates(context, [uid, linked, at.pair?.uid ?? null], shown.values).filter(belongs);
  const settled = at.hold?.question === 'several candidates' ? at.hold.choice : null;
  const taken = found.find((e) => settled === `take ${e.read!.uid}`) ?? (found.length === 1 ? found[0] : undefined);
  if (taken !== undefined) {
    gathered.strangers.take(taken.href);
    const adopted: Pair = { ...pair, uid: taken.read!.uid, href: taken.href, baseline: null };
    const view = taken as EventView & { read: NonNullable<EventView['read']> };
    const others =
      settled === null
        ? []
        : unlinkOthers(
            at,
            found.filter((e) => e !== taken),
            settled,
          );
    if (isCancelled(adopted, view.read.values.status, shown))
      return {
        ...depart({ ...at, pair: adopted, event: taken }, adopted, 'eventCancelled', 'the event was cancelled on the calendar', shown, null),
        others,
      };
    return { ...mergePair({ ...at, pair: adopted, event: taken }, item, shown, view, 'adopt', label), others };
  }
  if (at.pair?.state === 'held' && settled !== 'make new' && settled !== 'leave out' && !gathered.strangers.complete) {
    const verdict: Verdict = {
      reason: 'several candidates',
      condition: 'one event at most stands for it',
      value: 'it is asked which',
      recheckAt: null,
    };
    return { operation: null, verdict };
  }
  if (found.length > 1 && settled !== 'make new') return askWhich(at, pair, found, shown, label, settled);
  const unfit = at.links.map((l) => (fillsEvent(l) ? shown.unfit.get(l.key) : undefined)).find((u) => u !== undefined);
  // An answer that cannot be carried out leaves the question open.
  const failed = (why: Verdict) => (settled === 'make new' && found.length > 1 ? askWhich(at, pair, found, shown, label, null, why) : null);
  if (unfit !== undefined) return failed(unfitVerdict(unfit)) ?? { operation: null, verdict: unfitVerdict(unfit) };
  if (!definition.may.calendar.create) {
    const verdict: Verdict = {
      reason: 'not made here',
      condition: 'the lane makes events',
      value: 'it only pairs records with events that are there',
      recheckAt: null,
    };
    // A question about which of several is its own has no answer left.
    const closed =
      at.pair?.state === 'held'
        ? operation('part', { ...at.pair, state: step('held', 'removed') }, 'no event stands for it any more', { record: item, event: null })
        : null;
    return { operation: closed, verdict };
  }
  const made = makeEvent(at, pair, shown, label, at.pair?.state === 'removed' ? 'it belongs again' : 'new in the records');
  if (made.operation === null && made.verdict !== null) return failed(made.verdict) ?? made;
  return { ...made, others: settled === 'make new' ? unlinkOthers(at, found, settled) : [] };
}

/**
 * Candidates that a person did not choose: where events become records they would become second ones by themselves, so
 * they are no longer followed until somebody says otherwise.
 */
function unlinkOthers(at: Case, others: EventView[], answer: string): Operation[] {
  const { context, gathered } = at;
  if (context.definition.direction === '->' || !context.definition.may.records.create) return [];
  return others.map((event) => {
    gathered.strangers.take(event.href);
    const { uid, values } = event.read!;
    const pair = pairOfEvent(context, uid, event.href, momentOfEvents(context).name);
    const cause = `settled by a person: ${answer}, for the record ${at.record.id}`;
    const verdict: Verdict = {
      reason: 'no longer followed',
      condition: 'the event was chosen where it was asked about',
      value: cause,
      recheckAt: null,
    };
    const unlinked = { ...pair, state: step(pair.state, 'parted'), label: values.title ?? uid };
    return { ...operation('part', unlinked, cause, { record: null, event }), verdict };
  });
}

/** What an event says, for a person who compares it with others. */
const saidBy = ({ read }: EventView): LinkValues =>
  Object.fromEntries(
    Object.entries({ ...read!.values, organizer: read!.organizer?.email ?? null, UID: read!.uid }).filter(([, v]) => v !== null),
  ) as LinkValues;

/** What a person tells candidates apart by. */
function sayCandidate({ read }: EventView): string {
  const { title, when, location } = read!.values;
  const by = read!.organizer?.email;
  const parts = [title ?? '(no title)', when === null ? null : formatWhen(when), location, by === undefined ? null : `by ${by}`];
  return `${read!.uid} is ${parts.filter((p) => p !== null).join(', ')}`;
}

function askWhich(
  at: Case,
  pair: Pair,
  found: EventView[],
  shown: Shown,
  label: string,
  settled: string | null,
  impossible: Verdict | null = null,
): Omit<Planned, 'label'> {
  const value = `${found.length} events match it`;
  const verdict: Verdict = {
    reason: 'several candidates',
    condition: `one event at most matches by ${at.context.definition.matching.join(' and ')}`,
    value,
    recheckAt: null,
  };
  if (settled === 'leave out') {
    const cause = 'settled by a person: leave out';
    return {
      operation: operation('part', { ...pair, state: step(pair.state, 'parted'), label }, cause, { record: at.record.item, event: null }),
      verdict: null,
      others: unlinkOthers(at, found, settled),
    };
  }
  const asked = askedAbout('several candidates', found.map((e) => e.href).sort());
  // While it is asked about, none of them becomes a record of its own.
  for (const event of found) at.gathered.strangers.ask(event.href);
  if (at.hold?.asked === asked && impossible === null) return { operation: null, verdict };
  const choices = [...found.map((e) => `take ${e.read!.uid}`), 'make new', 'leave out'];
  const failed = impossible === null ? '' : `; "make new" cannot be carried out: ${impossible.condition}`;
  const cause = `${value}: ${found.slice(0, 5).map(sayCandidate).join('; ')}${found.length > 5 ? '; ...' : ''}${failed}`;
  const candidates = found.map((e) => ({ choice: `take ${e.read!.uid}`, values: saidBy(e) }));
  const hold: Hold = { question: 'several candidates', asked, choices, cause, record: shown.values, event: {}, baseline: null, candidates };
  return {
    operation: operation('hold', { ...pair, state: step(pair.state, 'held'), label }, value, { record: at.record.item, event: null }, { hold }),
    verdict,
  };
}

/** The event is gone before anybody knew whether its record was made. */
function planLost(context: LaneContext, gathered: Gathered, pair: Pair, result: Plan): void {
  if (pair.state === 'parted' || pair.state === 'removed') return;
  const { sure = [], maybe = [] } = gathered.doubts.get(pair.id) ?? {};
  const found = [...sure, ...maybe];
  const sides = { record: null, event: null };
  const moment = context.definition.moments.find((m) => m.name === pair.moment) ?? momentOfEvents(context);
  result.verdicts.push({ recordId: null, href: pair.href, moment: moment.name, label: pair.label, verdict: null });
  if (found.length === 1) {
    const item = found[0]!;
    const planned = planMoment(caseOf(context, gathered, { id: item.id, item }, moment, { ...pair, recordId: item.id, state: 'agreed' }));
    if (planned.operation !== null) result.operations.push({ ...planned.operation, verdict: planned.verdict });
    return;
  }
  const cause =
    found.length === 0
      ? 'the event was deleted before its record was made'
      : `the event was deleted, and any of ${found.map((r) => r.id).join(', ')} may have been made for it`;
  result.operations.push(operation('part', { ...pair, state: step(pair.state, found.length === 0 ? 'removed' : 'parted') }, cause, sides));
}
