import { judgeEvent, OWN } from './judge.ts';
import { eventOf, fillsEvent, matchKey, showAll } from './links.ts';
import { makeEvent, makeRecord, ownFilter } from './make.ts';
import { mergePair } from './merge-pair.ts';
import type { ModelPair, State } from './pairs.ts';
import type { Followed, Run } from './run-state.ts';
import type { EventSeen, Values } from './values.ts';

/** A record's moment without an event: it gets the one that stands for it, a new one, a question, or a reason. */
export function pairRecord(run: Run, id: string, { moment, links }: Omit<Followed, 'pair'>, pair: ModelPair | undefined): unknown {
  const { lane, end, taken } = run;
  const key = `${id} ${moment.name}`;
  const shown = showAll(links, end.records.get(id)!);
  const unfit = shown.unfit.some((l) => fillsEvent(l));
  const found = candidates(run, id, shown.values, pair);
  const choice = pair === undefined ? null : run.answered(pair, 'several candidates', pair.question?.about ?? '');
  const chosen = found.find(([, e]) => choice === `take ${e.uid}`) ?? (found.length === 1 ? found[0] : undefined);
  const mine = pair ?? { record: id, moment: moment.name, event: null, state: 'removed' as State, base: null, question: null };
  const wouldMake = !unfit && lane.may.calendar.create;
  if (pair === undefined && (chosen !== undefined || found.length > 1 || wouldMake)) end.pairs.push(mine);
  const unlinkOthers = () => {
    if (choice !== null && lane.direction !== '->' && lane.may.records.create)
      for (const [href] of found) if (href !== chosen?.[0]) unlinkEvent(run, href);
  };
  if (chosen !== undefined) {
    taken.add(chosen[0]);
    mine.event = chosen[0];
    mine.base = null;
    unlinkOthers();
    return mergePair(run, { pair: mine, moment, links });
  }
  // An answer that cannot be carried out leaves the question open.
  const impossible = unfit || (lane.may.calendar.create && ownFilter(run, eventOf(links, shown.values)) !== null);
  if (found.length > 1 && (choice !== 'create new' || impossible)) {
    run.say(key, 'several candidates');
    if (choice === 'leave out') {
      run.settle(mine, 'unlinked');
      return unlinkOthers();
    }
    for (const [href] of found) {
      taken.add(href);
      run.askedAbout.add(href);
    }
    return run.hold(mine, 'several candidates', JSON.stringify(found.map(([href]) => href).sort()));
  }
  if (unfit) return run.say(key, 'unfit value');
  if (!lane.may.calendar.create) {
    if (mine.state === 'held') run.settle(mine, 'removed');
    return run.say(key, 'not made here');
  }
  unlinkOthers();
  makeEvent(run, mine, links);
}

/** Events that may stand for a record: the one that it had, the one that it names, or those that match. */
function candidates(run: Run, id: string, shown: Values, pair: ModelPair | undefined): [string, EventSeen][] {
  const { lane, look } = run;
  const named = lane.link === null ? null : (run.end.records.get(id)![lane.link] ?? null);
  for (const uid of [pair?.uid, named]) {
    const found = uid == null ? [] : run.free().filter(([, e]) => e.uid === uid);
    if (found.length > 0) return found;
  }
  const own = matchKey(lane, shown);
  if (own === null) return [];
  const mayMatch = ({ marked }: EventSeen) => marked === null || (marked !== OWN && lane.events.otherLanes === 'take');
  const fits = (e: EventSeen) =>
    lane.direction === '->'
      ? (lane.events.repeating === 'one record' || !e.repeats) && e.values['status'] !== 'cancelled'
      : judgeEvent(look, e, false) === null;
  return run.free().filter(([, e]) => mayMatch(e) && matchKey(lane, e.values) === own && fits(e));
}

/** A person chose another event for the record: this one becomes none. */
function unlinkEvent({ end, newEvent, taken }: Run, href: string): void {
  taken.add(href);
  end.pairs.push({ record: null, moment: newEvent.name, event: href, state: 'unlinked', base: null, question: null });
  end.reasons.set(href, 'no longer followed');
}

/** An event without a record: it becomes one, or it is said why not. */
export function pairEvent(run: Run, href: string): unknown {
  const { end } = run;
  const event = run.events.get(href)!;
  const pair = end.pairs.find((p) => p.event === href);
  if (!end.events.has(href)) return;
  // Its record was taken away just now: it is looked at as any other from the next run on.
  if (run.linked.has(href) && pair === undefined) return run.say(href, judgeEvent(run.look, event, false));
  if (run.taken.has(href) && !run.askedAbout.has(href)) return;
  if (isCopy(run, href, event, pair)) return;
  // Of a pair with a record it is said there.
  if (pair?.state === 'unlinked') return pair.record === null ? run.say(href, 'no longer followed') : undefined;
  if (pair !== undefined && pair.state !== 'removed') return;
  if (run.askedAbout.has(href) || run.waiting.has(href)) return run.say(href, 'several candidates');
  const reason = judgeEvent(run.look, event, false);
  if (reason !== null) return run.say(href, reason);
  // One whose record was taken away begins again.
  const fresh: ModelPair = { record: null, moment: run.newEvent.name, event: href, state: 'removed', base: null, question: null };
  makeRecord(run, href, pair?.record === null ? pair : fresh, run.newEvent);
}

/** Is it the copy of an event that is followed, or was? A UID stands once in a calendar: what is there twice is said of both. */
function isCopy(run: Run, href: string, event: EventSeen, pair: ModelPair | undefined): boolean {
  const { end, events, records } = run;
  const said = (reason: string) => {
    run.say(href, reason);
    return true;
  };
  const first = run
    .followedPairs()
    .find((p) => p.uid === event.uid && p.event !== null && p.event !== href && (p.record !== null || events.has(p.event)));
  const isNew = pair === undefined || (pair.state === 'removed' && pair.record === null);
  if (isNew && first !== undefined) {
    const key = `${first.record} ${first.moment}`;
    const written =
      end.events.get(first.event!) !== events.get(first.event!)?.values || end.records.get(first.record!) !== records.get(first.record!)?.fields;
    // What the same run writes may be remembered after that.
    if (written) end.quiet.add(key);
    // Of what is held or left out for a reason of its own, either may be said.
    if (end.reasons.has(key)) end.maybe.set(key, 'duplicate UID');
    else if (first.record !== null) run.say(key, 'duplicate UID');
    return said('duplicate UID');
  }
  // The copy of one that was followed until this run is judged again in the next.
  const was = run.before.find((p) => p.uid === event.uid && p.event !== null && p.event !== href);
  const letGo = (p: ModelPair) => p.state === 'unlinked' || (p.state === 'removed' && p.record !== null);
  const isLetGo = end.pairs.some((p) => p.uid === event.uid && p.event !== href && letGo(p));
  if ((pair === undefined || pair.state === 'removed') && was !== undefined) {
    if (isLetGo) end.maybe.set(href, 'no longer followed');
    return said('duplicate UID');
  }
  return isNew && isLetGo ? said('no longer followed') : false;
}
