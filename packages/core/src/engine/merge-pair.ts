import { otherOrganiser } from '../invitations/organiser.ts';
import { askAboutProposal, proposedTime, withProposal } from '../invitations/proposals.ts';
import { withReplies } from '../invitations/replies-on-event.ts';
import { type RecordItem, stateOf } from '../record/fields.ts';
import { withSeen } from './baseline.ts';
import type { PairedInput } from './carry-departure.ts';
import { linkContext } from './context.ts';
import { askedAbout, candidateAnswer, type Hold } from './holds.ts';
import { judgeEvent, judgeRecord, labelOf, organisedVerdict, type Shown, showAll, unfitVerdict } from './judge.ts';
import { momentNotes } from './make.ts';
import type { ReadEvent } from './make-record.ts';
import { type MergeResult, merge } from './merge.ts';
import { isReshown, type MomentInput, type Planned } from './moment-input.ts';
import { type Operation, operation } from './operation.ts';
import { type LinkValues, type Pair, step, withMark } from './pair.ts';

/** The two sides that are merged. */
interface Merging {
  item: RecordItem;
  shown: Shown;
  event: ReadEvent;
  /** `adopt`: the two were there before they were a pair */
  kind: 'change' | 'adopt';
  /** what people know it by */
  label: string;
}

/** Merges a pair, and asks about what neither the values nor the rules can settle. */
export function mergePair(input: PairedInput, merging: Merging): Omit<Planned, 'label'> {
  const { context, hold, pair } = input;
  const { item, shown, kind } = merging;
  const organiser = otherOrganiser(merging.event.read, shown.values, context);
  const organised = hold?.question === 'organised by another' ? hold : undefined;
  const mergeWith = (event: ReadEvent, answer: string | null): MergeResult =>
    merge({
      links: input.links,
      record: item,
      shown,
      event: event.read.values,
      eventModified: event.read.modified,
      baseline: pair.baseline,
      sameRecord: isReshown(context, pair, item),
      attempted: pair.attempted ?? [],
      definition: context.definition,
      ...(organiser === null ? {} : { organised: { putBack: answer === 'calendar wins' } }),
      shared: event.read.mark !== null && event.read.mark.lane !== context.lane,
      at: linkContext(context),
      answer: (asked) => (hold?.question === 'conflict' && hold.asked === asked ? (hold.choice as 'records win' | 'calendar wins' | null) : null),
    });
  const proposed = proposedTime(input);
  const moved = withProposal(proposed, merging.event);
  const { event, replies } = withReplies(input, moved.event, () => mergeWith(moved.event, null).eventEdits);
  let merged = mergeWith(event, null);
  const asked = askedAbout('organised by another', ...merged.organised.map((o) => [o.key, o.record, o.event]));
  const answer = organised?.asked === asked ? organised.choice : null;
  if (answer === 'calendar wins') merged = mergeWith(event, answer);
  // What is to be left is agreed on as it stands.
  if (answer === 'leave') {
    const keys = merged.organised.map((o) => o.key);
    merged = { ...merged, organised: [], loose: false, settled: [...merged.settled, ...keys], agreed: [...merged.agreed, ...keys] };
  }
  merged = {
    ...merged,
    eventEdits: { ...moved.edits, ...replies.edits, ...merged.eventEdits },
    changes: [...moved.changes, ...replies.changes, ...merged.changes],
  };
  // Lists show the title after this write.
  const label = Object.keys(merged.recordEdits).length === 0 ? merging.label : labelOf(showAll(input.links, merged.record, context), merging.label);
  const held = holdSeries(input, { ...merging, label }, 'when' in merged.eventEdits);
  if (held !== null) return held;
  const byAnother = merged.organised.length > 0 && organiser !== null ? organisedVerdict(organiser.name ?? organiser.email) : null;
  const verdict = merged.unfit[0] === undefined ? byAnother : unfitVerdict(merged.unfit[0]);
  const sides = { record: item, event };
  const more: Partial<Operation> = {
    changes: merged.changes,
    notes: [
      ...(input.gathered.moved?.has(pair.id) === true ? [input.gathered.moved.get(pair.id)!] : []),
      ...merged.notes,
      ...(Object.keys(merged.eventEdits).includes('when') ? momentNotes(input, merged.record) : []),
    ],
    recordEdits: merged.recordEdits,
    eventEdits: merged.eventEdits,
    settled: merged.settled,
    // An item that leaves the lane by this write must be judged again in the next run.
    loose: merged.loose || leaves(input, merged, event),
    answers: proposed === null || proposed.choice === null ? null : { email: proposed.guest.email, declined: proposed.choice === 'decline' },
  };
  const asksAboutOrganised = byAnother !== null && context.definition.events.organisedByOthers === 'hold';
  const asksAboutProposal = proposed !== null && proposed.choice === null;
  const asks = merged.conflicts.length > 0 || asksAboutOrganised || asksAboutProposal;
  const to = (state: Pair['state']): Pair => ({ ...pair, state: step(pair.state, state), label });
  const standing = hold?.question === 'conflict' && hold.asked === merged.asked && hold.choice === null && pair.state === 'held';
  if (asksAboutOrganised && merged.conflicts.length === 0) {
    const stands = organised?.asked === asked && organised.choice === null && pair.state === 'held';
    const of = (side: 'record' | 'event'): LinkValues => Object.fromEntries(merged.organised.map((o) => [o.key, o[side]]));
    const cause = `changed in the record, and ${byAnother.value} organises the event: ${merged.organised.map((o) => o.key).join(', ')}`;
    const made: Hold = {
      question: 'organised by another',
      asked,
      choices: [],
      cause,
      record: of('record'),
      event: of('event'),
      baseline: pair.baseline,
    };
    if (!stands) return { operation: operation('hold', to('held'), cause, { ...sides, ...more, hold: made }), verdict };
  }
  if (asksAboutProposal && merged.conflicts.length === 0 && !asksAboutOrganised && !proposed.isAsked) {
    const made = askAboutProposal(input, proposed, event);
    return { operation: operation('hold', to('held'), made.cause, { ...sides, ...more, hold: made }), verdict };
  }
  const fresh = merged.conflicts.length > 0 && !standing;
  if (fresh) {
    const failed = merged.impossible === null ? '' : `; "${hold?.choice}" cannot be carried out: ${merged.impossible.message}`;
    const cause = `changed on both sides: ${merged.conflicts.map((c) => c.key).join(', ')}${failed}`;
    const of = (side: 'record' | 'event'): LinkValues => Object.fromEntries(merged.conflicts.map((c) => [c.key, c[side]]));
    const made: Hold = {
      question: 'conflict',
      asked: merged.asked,
      choices: ['records win', 'calendar wins'],
      cause,
      record: of('record'),
      event: of('event'),
      baseline: pair.baseline,
    };
    return { operation: operation('hold', to('held'), cause, { ...sides, ...more, hold: made }), verdict };
  }
  const state = asks ? 'held' : 'in sync';
  const causes = [...new Set(merged.changes.map((c) => c.cause))].join('; ');
  if (kind === 'adopt') {
    return { operation: operation('adopt', to(state), causeOfAdoption(input, event), { ...sides, ...more }), verdict };
  }
  const writes = Object.keys(merged.recordEdits).length + Object.keys(merged.eventEdits).length > 0;
  if (writes) return { operation: operation('change', to(state), causes, { ...sides, ...more }), verdict };
  if (merged.agreed.length > 0 || (pair.state === 'held' && !asks) || replies.noted || more.answers !== null)
    return { operation: operation('agree', to(state), 'both sides say the same', { ...sides, ...more }), verdict };
  // Nothing to do: what the systems call this content is worth knowing, so that it need not be looked at again.
  const names = { etag: event.etag, version: stateOf(item), laneVersion: context.version };
  const known =
    pair.etag === names.etag && pair.version === names.version && pair.laneVersion === names.laneVersion && pair.baseline?.stamps !== undefined;
  if (known || merged.loose || pair.state !== 'in sync' || pair.baseline === null) return { operation: null, verdict };
  // Another lane's mark that this lane put up with is no reason to unlink later.
  const baseline = withSeen(withMark(pair.baseline, event.read.mark, context.lane), item, event.read);
  return { operation: null, verdict, refreshed: { ...pair, ...names, baseline } };
}

/** Would either side no longer belong, once this is written? */
function leaves(input: MomentInput, merged: MergeResult, event: ReadEvent): boolean {
  const { context } = input;
  if (
    Object.keys(merged.recordEdits).length > 0 &&
    judgeRecord(context, merged.record, input.moment, showAll(input.links, merged.record, context)) !== null
  )
    return true;
  if (Object.keys(merged.eventEdits).length === 0 || context.definition.direction === '->') return false;
  const written = { ...event, read: { ...event.read, values: { ...event.read.values, ...merged.eventEdits } } };
  return judgeEvent(context, written, true) !== null;
}

function causeOfAdoption({ context, pair, hold, record }: PairedInput, { read }: ReadEvent): string {
  const answer = hold?.question === 'several candidates' ? candidateAnswer(hold.choice) : null;
  if (answer?.kind === 'take' && [read.uid, record.id].includes(answer.id)) return `settled by a person: ${hold!.choice}`;
  if (pair.state === 'unconfirmed' || read.uid === pair.id) return 'it was made before an interruption';
  return `an event that matches by ${context.definition.matching.join(' and ')} is on the calendar already`;
}

/**
 * A record holds one time, and a series has many. One that is paired is not moved as a whole, and a single event that
 * was made to repeat is a question too: a person decides.
 */
function holdSeries(input: PairedInput, { shown, event, label }: Merging, moves: boolean): Omit<Planned, 'label'> | null {
  const { pair } = input;
  const { read } = event;
  const { direction, events } = input.context.definition;
  if (!read.repeating || pair.baseline === null || (direction !== '->' && events.repeating === 'one record')) return null;
  const single = pair.baseline.repeating === false;
  if (!single && !moves) return null;
  const asked = askedAbout('repeating event', single, shown.values['when'] ?? null, read.values.when);
  const sides = { record: input.record.item, event };
  const { hold } = input;
  if (hold?.question === 'repeating event' && hold.asked === asked) {
    if (hold.choice === 'unlink')
      return {
        operation: operation('unlink', { ...pair, state: step(pair.state, 'unlinked'), label }, 'settled by a person: unlink', sides),
        verdict: null,
      };
    if (pair.state === 'held') return { operation: null, verdict: null };
  }
  const cause = single
    ? 'the event repeats now, and its record holds one time'
    : 'the record was moved, and its event repeats: moving it would move the whole series';
  const made: Hold = {
    question: 'repeating event',
    asked,
    choices: ['unlink'],
    cause: `${cause}; make it a single event again, or unlink it`,
    record: { when: shown.values['when'] ?? null },
    event: { when: read.values.when },
    baseline: pair.baseline,
  };
  return { operation: operation('hold', { ...pair, state: step(pair.state, 'held'), label }, cause, { ...sides, hold: made }), verdict: null };
}
