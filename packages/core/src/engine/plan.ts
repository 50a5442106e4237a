import { invites, withNotices } from '../invitations/notices.ts';
import type { Condition } from '../record/condition.ts';
import { stateOf } from '../record/fields.ts';
import type { EventView, LaneContext, RecordView } from './context.ts';
import type { Gathered } from './gathered.ts';
import { openTime, unexpectedVerdict, type Verdict } from './judge.ts';
import { momentOfEvents } from './make-record.ts';
import { momentInput, type Plan, type PlanInput, type Planned } from './moment-input.ts';
import { atNextCheck, candidatesOf, nameOfEvent, planNewcomer, waitsForAnswer } from './newcomer.ts';
import { type Operation, operation } from './operation.ts';
import { isFollowed, type Pair, step } from './pair.ts';
import { planMoment } from './plan-moment.ts';
import { Claims } from './unpaired-events.ts';

/**
 * What a run would do about these items: each record with each of its moments, and each event that may become a record.
 * @param due records to be looked at though nothing changed, because the clock says so
 */
export function plan(context: LaneContext, gathered: Gathered, due: ReadonlySet<string> = new Set()): Plan {
  const claims = new Claims(gathered.unpaired);
  const result: Plan = { operations: [], verdicts: [], unchanged: 0, refreshed: [], claims };
  const shared = { context, gathered, claims };
  planRecords(shared, due, result);
  planDroppedMoments(shared, result);
  for (const pair of gathered.pairs)
    if (pair.recordId === null && pair.href !== null && gathered.events.get(pair.href) === null) planLost(shared, pair, result);
  sayOthers(shared, result);
  planEvents(shared, result);
  if (invites(context)) result.operations = result.operations.map((o) => withNotices(o, gathered.guests?.get(o.pair.id) ?? [], context));
  return result;
}

const keyOf = (recordId: string, moment: string) => `${recordId} ${moment}`;

function planRecords(shared: PlanInput, due: ReadonlySet<string>, result: Plan): void {
  const { context, gathered } = shared;
  const pairs = new Map(gathered.pairs.flatMap((p) => (p.recordId === null ? [] : [[keyOf(p.recordId, p.moment), p] as const])));
  const claimed = new Set([...gathered.createCandidates.values()].flatMap((d) => [...d.sure, ...d.maybe]).map((r) => r.id));
  for (const record of gathered.records) {
    let working = record;
    for (const moment of context.definition.moments) {
      const pair = pairs.get(keyOf(record.id, moment.name));
      if (pair !== undefined && working === record && isUntouched(context, gathered, record, pair) && !due.has(record.id)) {
        result.unchanged++;
        continue;
      }
      // It may be the result of an unconfirmed create: that pair speaks for it.
      if (pair === undefined && claimed.has(record.id)) {
        const verdict = waitsForAttempt(context);
        result.verdicts.push({ recordId: record.id, href: null, moment: moment.name, label: record.id, verdict });
        continue;
      }
      const planned = safely(record.id, () => planMoment(momentInput(shared, working, moment, pair)));
      if (planned.operation !== null) {
        working = afterwards(working, planned.operation);
        result.operations.push({ ...planned.operation, verdict: planned.verdict }, ...(planned.others ?? []));
      } else if (pair?.state === 'in sync' && planned.verdict === null) result.unchanged++;
      const { label, verdict, when, refreshed } = planned;
      if (refreshed !== undefined) {
        result.refreshed.push(refreshed);
        // What was said of an event before it was its pair's is out of date.
        if (refreshed.href !== pair?.href)
          result.verdicts.push({ recordId: null, href: refreshed.href, moment: momentOfEvents(context).name, label, verdict: null });
      }
      result.verdicts.push({
        recordId: record.id,
        href: null,
        moment: moment.name,
        label,
        verdict,
        when: verdict === null ? null : openTime(verdict, when),
      });
    }
  }
}

/** The next moment sees the record as this one leaves it; else two events could overwrite each other in it. */
function afterwards(record: RecordView, { kind, recordEdits }: Operation): RecordView {
  if (kind === 'remove record') return { ...record, item: null };
  if (record.item === null || kind === 'create record') return record;
  return { ...record, item: { ...record.item, fields: { ...record.item.fields, ...recordEdits } } };
}

/** The lane no longer has this moment: what it created stays, and is no longer followed. */
function planDroppedMoments({ context, gathered }: PlanInput, result: Plan): void {
  const names = new Set(context.definition.moments.map((m) => m.name));
  for (const pair of gathered.pairs) {
    if (pair.recordId === null || names.has(pair.moment) || !isFollowed(pair)) continue;
    const cause = `the lane has no moment "${pair.moment}" any more`;
    result.operations.push(operation('unlink', { ...pair, state: step(pair.state, 'unlinked') }, cause, { record: null, event: null }));
  }
}

/** Items that cannot be stored by their name, and events of which nothing is to be said any more. */
function sayOthers({ context, gathered }: PlanInput, result: Plan): void {
  const moment = momentOfEvents(context).name;
  for (const { recordId, href, condition, value } of gathered.refused ?? []) {
    const verdict: Verdict = { reason: 'unfit value', condition, value, recheckAt: null };
    result.verdicts.push({ recordId, href, moment, label: recordId ?? href ?? '', verdict });
  }
  for (const gone of gathered.gone ?? []) result.verdicts.push({ recordId: null, ...gone, verdict: null });
}

function planEvents(shared: PlanInput, result: Plan): void {
  const { context, gathered, claims } = shared;
  const { direction, may } = context.definition;
  const nameOf = (event: EventView) => ({
    recordId: null,
    href: event.href,
    moment: momentOfEvents(context).name,
    label: nameOfEvent(event),
    when: event.read?.values.when,
  });
  // A hold may name an unchanged event: its earlier verdict is out of date.
  const looked = new Set(gathered.newcomers.map((e) => e.href));
  if (direction !== '->' && may.records.create)
    for (const event of claims.asked.filter((e) => !looked.has(e.href))) result.verdicts.push({ ...nameOf(event), verdict: waitsForAnswer(context) });
  for (const event of gathered.newcomers) {
    try {
      planNewcomer(shared, event, result);
    } catch (error) {
      result.verdicts.push({ ...nameOf(event), verdict: unexpectedVerdict(error) });
    }
  }
}

/** One item that cannot be planned is set aside with the reason; it does not stop the others. */
function safely(label: string, work: () => Planned): Planned {
  try {
    return work();
  } catch (error) {
    return { operation: null, verdict: unexpectedVerdict(error), label };
  }
}

/** Checked again as soon as the attempt is settled, whether or not this record is its result. */
const waitsForAttempt = (context: LaneContext): Verdict => ({
  reason: 'several candidates',
  condition: 'no attempt to make a record is without an answer',
  value: 'it may be what came of one',
  recheckAt: atNextCheck(context),
});

/** Both systems say that nothing has changed since the last agreement, and nothing depends on the clock. */
function isUntouched(context: LaneContext, gathered: Gathered, record: RecordView, pair: Pair): boolean {
  if (pair.state !== 'in sync' || pair.version === null || record.item === null || pair.laneVersion !== context.version) return false;
  if (gathered.guests?.get(pair.id)?.some((g) => g.reply !== null || (g.proposal != null && g.proposal.answered !== true))) return false;
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

/** The event is gone before anybody knew whether its record was made. */
function planLost(shared: PlanInput, pair: Pair, result: Plan): void {
  const { context, gathered } = shared;
  if (pair.state === 'unlinked' || pair.state === 'removed') return;
  const { sure, maybe } = candidatesOf(gathered, pair, result);
  const found = [...sure, ...maybe];
  const sides = { record: null, event: null };
  const moment = context.definition.moments.find((m) => m.name === pair.moment) ?? momentOfEvents(context);
  result.verdicts.push({ recordId: null, href: pair.href, moment: moment.name, label: pair.label, verdict: null });
  const [item] = found;
  if (item !== undefined && found.length === 1) {
    const planned = planMoment(momentInput(shared, { id: item.id, item }, moment, { ...pair, recordId: item.id, state: 'in sync' }));
    if (planned.operation !== null) result.operations.push({ ...planned.operation, verdict: planned.verdict });
    return;
  }
  // One that stands at another address is no lost one: it is looked at there.
  if (shared.claims.byUid(pair.uid) !== undefined) return;
  const cause =
    found.length === 0
      ? 'the event was deleted before its record was made'
      : `the event was deleted, and any of ${found.map((r) => r.id).join(', ')} may have been made for it`;
  result.operations.push(operation('unlink', { ...pair, state: step(pair.state, found.length === 0 ? 'removed' : 'unlinked') }, cause, sides));
}
