import type { LaneDefinition } from '@monsoon/core';
import { depart } from './depart.ts';
import { judgeEvent, judgeWindow, OWN } from './judge.ts';
import { linksOf, type Moment, matchKey, showAll } from './links.ts';
import { mergePair } from './merge-pair.ts';
import type { Ended, ModelPair, Sides } from './pairs.ts';
import { type Answer, type Followed, Run } from './run-state.ts';
import { pairEvent, pairRecord } from './unpaired.ts';
import type { When } from './values.ts';

/**
 * A synchroniser as ENGINE.md describes one, over values alone: slow, plain, and without anything of the engine's. It
 * knows no ETags, cursors or batches. Given both sides and what they last agreed on, it says what one run without faults
 * must leave behind: every value, every state, every question, every reason.
 */
export class Model {
  pairs: ModelPair[] = [];
  #lane: LaneDefinition;
  /** has a record another version than it had, or only another content? */
  readonly #versions: boolean;

  constructor(lane: LaneDefinition, versions = true) {
    this.#lane = lane;
    this.#versions = versions;
  }

  set lane(lane: LaneDefinition) {
    this.#lane = lane;
  }

  /**
   * Is there a record and an event, both without a pair, that stand for the same thing, and that a look at what changed
   * cannot bring together? It looks on the calendar at the time of records that changed, and for no record that did not.
   */
  mayPair({ records, events }: Sides, touched: ReadonlySet<string>): boolean {
    const timed = this.#lane.matching.includes('when');
    const paired = new Set(this.pairs.flatMap((p) => (p.state === 'removed' ? [] : [p.event, `${p.record} ${p.moment}`])));
    const free = [...events].filter(([href]) => !paired.has(href)).map(([, e]) => e);
    const keys = new Set(free.map((e) => matchKey(this.#lane, e.values)));
    const uids = new Set(free.map((e) => e.uid));
    return this.#lane.moments.some((m) =>
      [...records].some(([id, { fields }]) => {
        if (paired.has(`${id} ${m.name}`) || (timed && touched.has(id))) return false;
        const key = matchKey(this.#lane, showAll(linksOf(this.#lane, m), fields).values);
        return (key !== null && keys.has(key)) || (this.#lane.link !== null && uids.has(String(fields[this.#lane.link])));
      }),
    );
  }

  /** What a run leaves behind; it is not remembered until `accept`. @param now seconds since 1970 */
  run(sides: Sides, now: number, answer: Answer): Ended {
    const lane = this.#lane;
    const run = new Run(sides, { lane, versions: this.#versions, pairs: this.pairs, now, answer });
    // Every record with every moment, then records that are gone, then events without a record.
    const gone = run.end.pairs.flatMap((p) => (p.record !== null && !sides.records.has(p.record) ? [p.record] : []));
    for (const id of [...sides.records.keys(), ...new Set(gone)]) for (const moment of lane.moments) runMoment(run, id, moment);
    if (lane.direction !== '->' && lane.may.records.create) for (const [href] of sides.events) pairEvent(run, href);
    return run.end;
  }
}

/** One moment of one record. */
function runMoment(run: Run, id: string, moment: Moment): unknown {
  const { lane, look, end } = run;
  const key = `${id} ${moment.name}`;
  const pair = run.pairOf(id, moment.name);
  const fields = end.records.get(id);
  if (pair?.state === 'unlinked') return run.say(key, fields === undefined ? null : 'no longer followed');
  const links = linksOf(lane, moment);
  const followed = pair !== undefined && pair.state !== 'removed' ? { pair, moment, links } : null;
  const event = pair?.event == null ? undefined : run.events.get(pair.event);
  if (fields === undefined) {
    if (followed === null) return;
    if (event === undefined) return run.settle(followed.pair, 'removed');
    return depart(run, followed, { departure: 'recordDeleted', reason: null, edited: run.isEdited(followed.pair, links, 'event') });
  }
  const reason = run.judge(id, fields, moment, links);
  const stays =
    reason === 'before the start line' ||
    (reason === 'out of the window' && event !== undefined && judgeWindow(look, event.values['when'] as When, event.repeats) === null);
  if (reason === null || (followed !== null && stays)) {
    const isAsked = pair?.event === null && pair.question?.asks === 'several candidates';
    return followed === null || isAsked ? pairRecord(run, id, { moment, links }, pair) : runPair(run, followed);
  }
  run.say(key, reason);
  if (followed === null) return;
  if (reason === 'out of the window' && event !== undefined && run.asAgreed(followed.pair, links)) end.quiet.add(key);
  const departure = reason === 'no date' ? 'dateLost' : reason === 'filtered out' || reason === 'private' ? 'filteredOut' : null;
  if (departure === null) return;
  if (event === undefined) return run.settle(followed.pair, 'removed');
  depart(run, followed, { departure, reason, edited: false });
}

/** A pair whose record belongs. */
function runPair(run: Run, followed: Followed): unknown {
  const { lane, look } = run;
  const { pair, links } = followed;
  const event = pair.event === null ? undefined : run.events.get(pair.event);
  if (event === undefined) return depart(run, followed, { departure: 'eventDeleted', reason: null, edited: run.isEdited(pair, links, 'record') });
  const { marked } = event;
  const takenOver = marked !== null && marked !== OWN && lane.events.otherLanes === 'leave out' && lane.may.calendar.change;
  if (takenOver && pair.base !== null && pair.base.mark !== marked) return run.settle(pair, 'unlinked');
  const shown = showAll(links, run.end.records.get(pair.record!)!);
  if (event.values['status'] === 'cancelled' && shown.values['status'] !== 'cancelled' && pair.base!.event['status'] !== 'cancelled')
    return depart(run, followed, { departure: 'eventCancelled', reason: null, edited: false });
  const out = lane.direction === '->' ? null : judgeEvent(look, event, true);
  if (out === null) return mergePair(run, followed);
  run.say(`${pair.record} ${pair.moment}`, out);
  depart(run, followed, { departure: 'eventFilteredOut', reason: out, edited: false });
}
