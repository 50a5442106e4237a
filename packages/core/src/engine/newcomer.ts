import type { Moment } from '../lane/definition.ts';
import type { Link } from '../lane/links.ts';
import type { RecordItem } from '../record/fields.ts';
import { valuesAt } from './baseline.ts';
import { caseOf, type Plan } from './case.ts';
import { type EventView, type Gathered, type LaneContext, linkContext } from './context.ts';
import { askedAbout, type Hold } from './holds.ts';
import { judgeEvent, momentLinks, showAll, type Verdict } from './judge.ts';
import { makeRecord, momentOfEvents, type Outcome, type ReadEvent } from './make-record.ts';
import { mergePair } from './merge-pair.ts';
import { operation } from './operation.ts';
import { type Pair, pairOfEvent, step } from './pair.ts';

/** An event without a record: make one, finish a making that was interrupted, or say why not. */
export function planNewcomer(context: LaneContext, gathered: Gathered, event: EventView, result: Plan): void {
  const asked = gathered.strangers.isAsked(event.href) || gathered.reserved.has(event.read?.uid ?? '');
  if (gathered.strangers.isTaken(event.href) && !asked) return;
  const moment = momentOfEvents(context);
  const uid = event.read?.uid ?? '';
  const pair = gathered.pairs.find((p) => p.href === event.href) ?? gathered.pairs.find((p) => p.uid === uid);
  const label = event.read?.values.title ?? uid;
  const say = (verdict: Verdict | null) => result.verdicts.push({ recordId: null, href: event.href, moment: moment.name, label, verdict });
  const no = (reason: Verdict['reason'], condition: string, value: string) => say({ reason, condition, value, recheckAt: null });
  if (event.read === null) return void no('unreadable event', 'the event can be read', event.unreadable ?? '');
  if (asked && pair === undefined) {
    const recheckAt = new Date(Date.parse(context.now) + 60_000).toISOString();
    say({
      reason: 'several candidates',
      condition: 'no record waits for an answer about it',
      value: 'a hold asks whether it is its event',
      recheckAt,
    });
    return;
  }
  if (pair !== undefined && pair.recordId !== null) {
    if (pair.state === 'removed' || pair.state === 'parted') no('no longer followed', 'the pair is followed', pair.state);
    return;
  }
  if (pair?.state === 'parted' || pair?.state === 'removed') return void no('no longer followed', 'the pair is followed', pair.state);
  const outcome = pair === undefined ? planNew(context, moment, event as ReadEvent) : resume(context, gathered, moment, event as ReadEvent, pair);
  if (outcome.operation !== null) result.operations.push({ ...outcome.operation, verdict: outcome.verdict });
  say(outcome.verdict);
}

function planNew(context: LaneContext, moment: Moment, event: ReadEvent): Outcome {
  const verdict = judgeEvent(context, event, false);
  if (verdict !== null) return { operation: null, verdict };
  const pair = pairOfEvent(context, event.read.uid, event.href, moment.name);
  return makeRecord(context, moment, event, pair, 'new on the calendar');
}

/** A making that was begun: the event may have gone meanwhile, and the record may be there. */
function resume(context: LaneContext, gathered: Gathered, moment: Moment, event: ReadEvent, pair: Pair): Outcome {
  const { sure = [], maybe = [] } = gathered.doubts.get(pair.id) ?? {};
  const out = judgeEvent(context, event, false);
  if (out !== null && sure.length + maybe.length === 0) {
    const cause = 'it left the lane before its record was made';
    return { operation: operation('part', { ...pair, state: step(pair.state, 'removed') }, cause, { record: null, event }), verdict: out };
  }
  // Tried again, it is the same attempt: what the event says now crosses afterwards, as an edit.
  const attempt = asAttempted(event, pair);
  if (pair.tried === null) return makeRecord(context, moment, event, pair, 'its making was interrupted');
  if (pair.state === 'making') return makeRecord(context, moment, attempt, pair, 'its making was interrupted');
  const found = [...sure, ...maybe];
  const hold = gathered.holds.get(pair.id);
  const answer = hold?.question === 'several candidates' ? hold.choice : null;
  if (answer === 'leave out') {
    const parted = { ...pair, state: step(pair.state, 'parted') };
    return { operation: operation('part', parted, 'settled by a person: leave out', { record: null, event }), verdict: null };
  }
  const taken = found.find((r) => answer === `take ${r.id}`) ?? (sure.length === 1 ? sure[0] : undefined);
  if (taken !== undefined) {
    const adopted = adoptRecord(context, gathered, moment, event, pair, taken);
    // It left the lane in between: as a pair, it is dealt with by the lane's rules, in a moment.
    const recheckAt = new Date(Date.parse(context.now) + 60_000).toISOString();
    return out === null ? adopted : { ...adopted, verdict: { ...out, recheckAt } };
  }
  if (found.length === 0 || answer === 'make new') return makeRecord(context, moment, attempt, pair, 'an attempt came to nothing');
  const asked = askedAbout('several candidates', found.map((r) => r.id).sort());
  const value = `${found.map((r) => r.id).join(', ')} may be what it made`;
  const verdict: Verdict = {
    reason: 'several candidates',
    condition: 'one record at most came of an attempt without an answer',
    value,
    recheckAt: null,
  };
  if (pair.state === 'held' && hold?.asked === asked) return { operation: null, verdict };
  const choices = [...found.map((r) => `take ${r.id}`), 'make new', 'leave out'];
  const made: Hold = { question: 'several candidates', asked, choices, cause: value, record: {}, event: {}, baseline: pair.baseline };
  return { operation: operation('hold', { ...pair, state: step(pair.state, 'held') }, value, { record: null, event }, { hold: made }), verdict };
}

function adoptRecord(context: LaneContext, gathered: Gathered, moment: Moment, event: ReadEvent, pair: Pair, item: RecordItem): Outcome {
  // What was attempted is what both sides agreed on: whatever either says now is an edit since.
  const bound: Pair = { ...pair, recordId: item.id, tried: null };
  const at = { ...caseOf(context, gathered, { id: item.id, item }, moment, bound), event };
  return mergePair(at, item, showAll(at.links, item, context), event, 'adopt', event.read.values.title ?? item.id);
}

const asAttempted = (event: ReadEvent, pair: Pair): ReadEvent =>
  pair.baseline === null ? event : { ...event, etag: null, read: { ...event.read, values: valuesAt(pair.baseline, event.read.values) } };

/**
 * Could this record be what came of an attempt? By its link, or by what it says; made since the attempt, as far as two
 * clocks can tell. A person may have changed it already: what says only a part of it may be it.
 */
export function attemptLikeness(context: LaneContext, pair: Pair, record: RecordItem): 'sure' | 'maybe' | 'none' {
  const { definition } = context;
  if (definition.link !== null) return record.fields[definition.link] === pair.uid ? 'sure' : 'none';
  if (record.created !== undefined && pair.tried !== null && Date.parse(record.created) < Date.parse(pair.tried) - clockSlack(context)) return 'none';
  const moment = definition.moments.find((m) => m.name === pair.moment) ?? momentOfEvents(context);
  const links = momentLinks(context, moment).filter((l) => l.direction !== 'once');
  const shown = showAll(links, record, context).values;
  const said = (link: Link) => link.same(shown[link.key] ?? null, pair.baseline?.record[link.key] ?? null, linkContext(context));
  if (links.every(said)) return 'sure';
  return links.some((l) => ['title', 'when'].includes(l.key) && shown[l.key] !== null && said(l)) ? 'maybe' : 'none';
}

/** Milliseconds by which a system's clock may be behind ours. */
const clockSlack = (context: LaneContext): number => Math.max(context.definition.conflicts.tolerance, 600) * 1000;
