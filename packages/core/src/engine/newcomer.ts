import type { Moment } from '../lane/definition.ts';
import type { RecordItem } from '../record/fields.ts';
import { valuesAt } from './baseline.ts';
import type { EventView, LaneContext, ReadEvent } from './context.ts';
import type { CreateCandidates, Gathered } from './gathered.ts';
import { askedAbout, candidateAnswer, type Hold, takeChoice } from './holds.ts';
import { judgeEvent, labelOfLeftOut, momentLinks, openTime, showAll, type Verdict } from './judge.ts';
import { makeRecord, momentOfEvents, type Outcome } from './make-record.ts';
import { mergePair } from './merge-pair.ts';
import { type ItemVerdict, momentInput, type PairedInput, type Plan, type PlanInput } from './moment-input.ts';
import { operation } from './operation.ts';
import { eventPairIds, isFollowed, type Pair, pairOfEvent, step } from './pair.ts';

/** An event without a record: make one, finish a creation that was interrupted, or say why not. */
export function planNewcomer(shared: PlanInput, event: EventView, result: Plan): void {
  const { context, gathered, claims } = shared;
  const uid = event.read?.uid ?? '';
  const asked = claims.isAsked(event.href) || gathered.reserved.has(uid);
  const moment = momentOfEvents(context);
  const say = (verdict: Verdict | null) =>
    result.verdicts.push({
      recordId: null,
      href: event.href,
      moment: moment.name,
      label: verdict === null ? nameOfEvent(event) : labelOfLeftOut(verdict, nameOfEvent(event), null),
      verdict,
      when: verdict === null ? null : openTime(verdict, event.read?.values.when),
    });
  if (claims.isTaken(event.href) && !claims.isAsked(event.href)) {
    // An event that was moved goes on as its pair's, also where nothing is to be done about that.
    if (!result.operations.some((o) => o.pair.href === event.href)) say(null);
    return;
  }
  if (event.read === null) {
    say({ reason: 'unreadable event', condition: 'the event can be read', value: event.unreadable ?? '', recheckAt: null });
    return;
  }
  const pair = gathered.pairs.find((p) => p.href === event.href) ?? gathered.pairs.find((p) => p.uid === uid);
  const planned = result.operations.find((o) => o.kind === 'create record' && o.pair.uid === uid && o.pair.href !== event.href);
  const original = planned?.pair ?? (pair !== undefined && isCopy(gathered, pair, event) ? pair : null);
  if (original !== null && original.href !== null) {
    result.verdicts.push(...sayCopy(context, event as ReadEvent, original.href, pair ?? original));
    return;
  }
  const waits = asked && (pair === undefined || isOver(pair)) ? waitsForAnswer(context) : noLongerFollowed(pair);
  if (waits !== null) {
    say(waits);
    return;
  }
  if (pair !== undefined && pair.recordId !== null) return;
  const outcome =
    pair === undefined || isOver(pair)
      ? planNew(shared, moment, event as ReadEvent, pair)
      : resume(shared, { moment, event: event as ReadEvent, pair, ...candidatesOf(gathered, pair, result) });
  if (outcome.operation !== null) result.operations.push({ ...outcome.operation, verdict: outcome.verdict });
  say(outcome.verdict);
}

/** What people know an event by: its title, or at least the name of its file. */
export const nameOfEvent = ({ read, title, href }: EventView): string =>
  read?.values.title ?? title ?? read?.uid ?? href.slice(href.lastIndexOf('/') + 1);

export const waitsForAnswer = (context: LaneContext): Verdict => ({
  reason: 'several candidates',
  condition: 'no record waits for an answer about it',
  value: 'a hold asks whether it is its event',
  recheckAt: atNextCheck(context),
});

/** When an item is looked at again that did not change: with the next check that is not part of this one. */
export const atNextCheck = ({ now }: LaneContext): string => new Date(Date.parse(now) + 60_000).toISOString();

/** A pair whose record was taken away by rule: its event is as new, and may become a record again. */
const isOver = (pair: Pair): boolean => pair.state === 'removed' && pair.recordId === null;

const noLongerFollowed = (pair: Pair | undefined): Verdict | null =>
  pair?.state === 'unlinked' || (pair?.state === 'removed' && pair.recordId !== null)
    ? { reason: 'no longer followed', condition: 'the pair is followed', value: pair.state, recheckAt: null }
    : null;

/** Does the pair follow another event with the same UID? */
const isCopy = (gathered: Gathered, pair: Pair, event: EventView): boolean =>
  isFollowed(pair) && pair.href !== null && pair.href !== event.href && (pair.recordId !== null || gathered.events.get(pair.href) != null);

/** A calendar should hold a UID once (RFC 4791, 4.1); what is there twice is said of both. */
function sayCopy(context: LaneContext, event: ReadEvent, original: string, pair: Pair): ItemVerdict[] {
  const label = event.read.values.title ?? event.read.uid;
  const condition = 'no other event of the calendar has its UID';
  // A change of the one does not show that the other is gone.
  const recheckAt = atNextCheck(context);
  const verdict = (value: string): Verdict => ({ reason: 'duplicate UID', condition, value, recheckAt });
  const moment = momentOfEvents(context).name;
  const copy: ItemVerdict = {
    recordId: null,
    href: event.href,
    moment,
    label,
    verdict: verdict(`the lane follows ${original}`),
    when: event.read.values.when,
  };
  if (pair.recordId === null) return [copy];
  const { recordId, label: name } = pair;
  return [copy, { recordId, href: null, moment: pair.moment, label: name, verdict: verdict(`a copy is at ${event.href}`) }];
}

/** @param before the pair that the event had, whose record was taken away by rule */
function planNew({ context, gathered }: PlanInput, moment: Moment, event: ReadEvent, before: Pair | undefined): Outcome {
  const verdict = judgeEvent(context, event, false);
  if (verdict !== null) return { operation: null, verdict };
  // A pair that began with this occurrence may follow another one now.
  const taken = new Set(gathered.pairs.map((p) => p.id));
  const fresh = pairOfEvent(context, event.read.uid, event.href, moment.name);
  const id = eventPairIds(context.lane, event.read.uid).find((i) => !taken.has(i)) ?? fresh.id;
  // Its record may have been of a later moment: this one is of the moment that new events become.
  const pair = before === undefined ? { ...fresh, id } : { ...before, moment: moment.name, href: event.href, baseline: null, tried: null };
  return makeRecord(context, { moment, event, pair, cause: before === undefined ? 'new on the calendar' : 'it belongs again' });
}

/** Records that may be what an attempt made: another one of this plan may have taken some of them. */
export function candidatesOf({ createCandidates }: Gathered, pair: Pair, { operations }: Plan): CreateCandidates {
  const { sure, maybe } = createCandidates.get(pair.id) ?? { sure: [], maybe: [] };
  if (sure.length + maybe.length === 0) return { sure, maybe };
  const taken = new Set(operations.flatMap((o) => (o.pair.moment === pair.moment && o.pair.id !== pair.id ? [o.pair.recordId] : [])));
  const free = (records: RecordItem[]) => records.filter((r) => !taken.has(r.id));
  return { sure: free(sure), maybe: free(maybe) };
}

/** An attempt to make a record for an event. */
interface Attempt extends CreateCandidates {
  moment: Moment;
  event: ReadEvent;
  pair: Pair;
}

/** A creation that was started: the event may have gone meanwhile, and the record may be there. */
function resume(shared: PlanInput, { moment, event, pair, sure, maybe }: Attempt): Outcome {
  const { context, gathered } = shared;
  const out = judgeEvent(context, event, false);
  if (out !== null && sure.length + maybe.length === 0) {
    const cause = 'it left the lane before its record was made';
    return { operation: operation('unlink', { ...pair, state: step(pair.state, 'removed') }, cause, { record: null, event }), verdict: out };
  }
  // Tried again, it is the same attempt: what the event says now crosses afterwards, as an edit.
  const attempt = asAttempted(event, pair);
  if (pair.tried === null) return makeRecord(context, { moment, event, pair, cause: 'its creation was interrupted' });
  if (pair.state === 'creating') return makeRecord(context, { moment, event: attempt, pair, cause: 'its creation was interrupted' });
  const found = [...sure, ...maybe];
  const hold = gathered.holds.get(pair.id);
  const answer = candidateAnswer(hold?.question === 'several candidates' ? hold.choice : null);
  if (answer?.kind === 'leave out') {
    const unlinked = { ...pair, state: step(pair.state, 'unlinked') };
    return { operation: operation('unlink', unlinked, 'settled by a person: leave out', { record: null, event }), verdict: null };
  }
  const taken = found.find((r) => answer?.kind === 'take' && answer.id === r.id) ?? (sure.length === 1 ? sure[0] : undefined);
  if (taken !== undefined) {
    const found = { ...pair, recordId: taken.id, tried: null };
    const adopted = adoptRecord({ ...momentInput(shared, { id: taken.id, item: taken }, moment, found), pair: found }, event, taken);
    // It left the lane in between: as a pair, it is dealt with by the lane's rules, in a moment.
    const recheckAt = atNextCheck(context);
    return out === null ? adopted : { ...adopted, verdict: { ...out, recheckAt } };
  }
  if (found.length === 0 || answer?.kind === 'create new')
    return makeRecord(context, { moment, event: attempt, pair, cause: 'an attempt came to nothing' });
  const asked = askedAbout('several candidates', found.map((r) => r.id).sort());
  const value = `${found.map((r) => r.id).join(', ')} may be what it made`;
  const verdict: Verdict = {
    reason: 'several candidates',
    condition: 'one record at most came of an attempt without an answer',
    value,
    recheckAt: null,
  };
  if (pair.state === 'held' && hold?.asked === asked) return { operation: null, verdict };
  const choices = [...found.map((r) => takeChoice(r.id)), 'create new', 'leave out'];
  const links = momentLinks(context, moment);
  const candidates = found.map((r) => ({ choice: takeChoice(r.id), values: showAll(links, r, context).values }));
  const values = Object.fromEntries(links.map((l) => [l.key, event.read.values[l.property]]));
  const made: Hold = { question: 'several candidates', asked, choices, cause: value, record: {}, event: values, baseline: pair.baseline, candidates };
  return { operation: operation('hold', { ...pair, state: step(pair.state, 'held') }, value, { record: null, event, hold: made }), verdict };
}

/** What was attempted is what both sides agreed on: whatever either says now is an edit since. */
function adoptRecord(found: PairedInput, event: ReadEvent, item: RecordItem): Outcome {
  const input = { ...found, event };
  const label = event.read.values.title ?? item.id;
  return mergePair(input, { item, shown: showAll(input.links, item, input.context), event, kind: 'adopt', label });
}

const asAttempted = (event: ReadEvent, pair: Pair): ReadEvent =>
  pair.baseline === null ? event : { ...event, etag: null, read: { ...event.read, values: valuesAt(pair.baseline, event.read.values) } };
