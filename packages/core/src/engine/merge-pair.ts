import { holdsRule } from '../lane/links.ts';
import { stateOf } from '../record/fields.ts';
import { withSeen } from './baseline.ts';
import type { ReadEvent } from './context.ts';
import { askedAbout, candidateAnswer, type Hold } from './holds.ts';
import { judgeEvent, judgeRecord, labelOf, organisedVerdict, showAll, unfitVerdict } from './judge.ts';
import { momentNotes } from './make.ts';
import type { MergeResult } from './merge.ts';
import { type Merging, mergeSides } from './merge-sides.ts';
import type { MomentInput, PairedInput, Planned } from './moment-input.ts';
import { operation } from './operation.ts';
import { type Pair, step, withMark } from './pair.ts';
import { isAsked, questionsOf } from './pair-questions.ts';

/** Merges a pair, and asks about what neither the values nor the rules can settle. */
export function mergePair(input: PairedInput, merging: Merging): Omit<Planned, 'label'> {
  const { context, pair } = input;
  const { item, kind } = merging;
  const both = mergeSides(input, merging);
  const { merged, event, organizer, proposed } = both;
  // Lists show the title after this write.
  const label = Object.keys(merged.recordEdits).length === 0 ? merging.label : labelOf(showAll(input.links, merged.record, context), merging.label);
  const held = holdSeries(input, { ...merging, label }, 'when' in merged.eventEdits);
  if (held !== null) return held;
  const byAnother = organizer === null || merged.organised.length === 0 ? null : organisedVerdict(organizer.name ?? organizer.email);
  const verdict = merged.unfit[0] === undefined ? byAnother : unfitVerdict(merged.unfit[0]);
  const more = {
    record: item,
    event,
    changes: merged.changes,
    notes: [
      ...[input.gathered.moved?.get(pair.id) ?? []].flat(),
      ...merged.notes,
      ...(Object.keys(merged.eventEdits).includes('when') ? momentNotes(input, merged.record) : []),
    ],
    recordEdits: merged.recordEdits,
    eventEdits: merged.eventEdits,
    settled: merged.settled,
    loose: merged.loose,
    leaves: leaves(input, merged, event),
    answers:
      proposed === null || proposed.choice === null
        ? null
        : { email: proposed.guest.email, proposal: proposed.proposal, declined: proposed.choice === 'decline' },
  };
  const [question] = questionsOf(input, both);
  const to = (state: Pair['state']): Pair => ({ ...pair, state: step(pair.state, state), label });
  if (question !== undefined && !isAsked(input, question))
    return { operation: operation('hold', to('held'), question.cause, { ...more, hold: question }), verdict };
  const state = question === undefined ? 'in sync' : 'held';
  // Of an event that was moved, what nothing could be agreed on about stays as it was: a new look would forget who edited it last.
  const isOpen = input.moved === true && merged.loose && merged.settled.length === 0;
  if (kind === 'adopt' && !isOpen) return { operation: operation('adopt', to(state), causeOfAdoption(input, event), more), verdict };
  const causes = [...new Set(merged.changes.map((c) => c.cause))].join('; ');
  const writes = Object.keys(merged.recordEdits).length + Object.keys(merged.eventEdits).length > 0;
  if (writes) return { operation: operation('change', to(state), causes, more), verdict };
  if (merged.agreed.length > 0 || (pair.state === 'held' && question === undefined) || both.noted || more.answers !== null)
    return { operation: operation('agree', to(state), 'both sides say the same', more), verdict };
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

function causeOfAdoption({ context, pair, hold, record, moved }: PairedInput, { read }: ReadEvent): string {
  const choice = hold?.question === 'several candidates' ? hold.choice : null;
  const answer = candidateAnswer(choice);
  if (answer?.kind === 'take' && [read.uid, record.id].includes(answer.id)) return `settled by a person: ${choice}`;
  if (moved === true) return 'the event stands at another address now';
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
  if (holdsRule(input.links)) return null;
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
