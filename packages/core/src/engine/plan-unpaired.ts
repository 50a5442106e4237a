import { fillsEvent, holdsRule } from '../lane/links.ts';
import { absentOf, type PropertyName } from '../maps/properties.ts';
import type { RecordItem } from '../record/fields.ts';
import { formatWhen } from '../time/format-when.ts';
import type { ReadEvent } from './context.ts';
import { depart, isCancelled } from './depart.ts';
import { askedAbout, candidateAnswer, type Hold, takeChoice } from './holds.ts';
import { judgeEvent, type Shown, unfitVerdict, type Verdict } from './judge.ts';
import { makeEvent } from './make.ts';
import { momentOfEvents } from './make-record.ts';
import { mergePair } from './merge-pair.ts';
import type { MomentInput, Planned } from './moment-input.ts';
import { type Operation, operation } from './operation.ts';
import { type LinkValues, type Pair, pairId, pairOfEvent, pairOfRecord, step } from './pair.ts';

/** A record's moment without an event: adopt the one that stands for it already, make it, or say why not. */
export function planUnpaired(input: MomentInput, item: RecordItem, shown: Shown, label: string): Omit<Planned, 'label'> {
  const { context, moment } = input;
  const { definition } = context;
  const pair = input.pair ?? pairOfRecord(context, item.id, moment.name);
  const uid = pairId(context.lane, item.id, moment.name);
  const linked = definition.link === null ? null : ((item.fields[definition.link] as string | null | undefined) ?? null);
  // Where events become records, one that does not belong stands for none. A series stands for no record of one time alone,
  // and a cancelled event for no new record.
  const holdsSeries = definition.events.repeating === 'one record' || (holdsRule(input.links) && (shown.values['recurrence'] ?? null) !== null);
  const belongs = (e: ReadEvent) =>
    e.read.uid === uid ||
    e.read.uid === linked ||
    e.read.uid === input.pair?.uid ||
    (definition.direction === '->'
      ? (holdsSeries || !e.read.repeating) && e.read.values.status !== 'cancelled'
      : judgeEvent(context, e, false) === null);
  // One that is followed again finds the event that it had.
  const found = input.claims.candidates(context, [uid, linked, input.pair?.uid ?? null], shown.values).filter(belongs);
  const choice = input.hold?.question === 'several candidates' ? input.hold.choice : null;
  const settled = candidateAnswer(choice);
  const taken = found.find((e) => settled?.kind === 'take' && settled.id === e.read.uid) ?? (found.length === 1 ? found[0] : undefined);
  if (taken !== undefined) {
    input.claims.take(taken.href);
    const adopted: Pair = { ...pair, uid: taken.read.uid, href: taken.href, baseline: null };
    const rest = found.filter((e) => e !== taken);
    const others = settled === null ? [] : unlinkOthers(input, rest, settled.text);
    const paired = { ...input, pair: adopted, event: taken };
    if (isCancelled(adopted, taken.read.values.status, shown))
      return {
        ...depart(paired, { departure: 'eventCancelled', cause: 'the event was cancelled on the calendar', shown, verdict: null }),
        others,
      };
    return { ...mergePair(paired, { item, shown, event: taken, kind: 'adopt', label }), others };
  }
  if (input.pair?.state === 'held' && (settled === null || settled.kind === 'take') && !input.claims.complete) {
    const verdict: Verdict = {
      reason: 'several candidates',
      condition: 'at most one event matches',
      value: 'several, and a hold asks which one',
      recheckAt: null,
    };
    return { operation: null, verdict };
  }
  if (found.length > 1 && settled?.kind === 'leave out')
    return {
      operation: operation('unlink', { ...pair, state: step(pair.state, 'unlinked'), label }, `settled by a person: ${settled.text}`, {
        record: item,
        event: null,
      }),
      verdict: null,
      others: unlinkOthers(input, found, settled.text),
    };
  const asking = { pair, found, shown, label };
  if (found.length > 1 && settled?.kind !== 'create new') return askWhich(input, asking);
  const unfit = input.links.map((l) => (fillsEvent(l) ? shown.unfit.get(l.key) : undefined)).find((u) => u !== undefined);
  // An answer that cannot be carried out leaves the question open.
  const failed = (why: Verdict) => (settled?.kind === 'create new' && found.length > 1 ? askWhich(input, asking, why) : null);
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
      input.pair?.state === 'held'
        ? operation('unlink', { ...input.pair, state: step('held', 'removed') }, 'no event stands for it any more', { record: item, event: null })
        : null;
    return { operation: closed, verdict };
  }
  const made = makeEvent(input, { pair, shown, label, cause: input.pair?.state === 'removed' ? 'it belongs again' : 'new in the records' });
  if (made.operation === null && made.verdict !== null) return failed(made.verdict) ?? made;
  return { ...made, others: settled?.kind === 'create new' ? unlinkOthers(input, found, settled.text) : [] };
}

/**
 * Unlinks the candidates that a person did not choose: where events become records, each would become a second record.
 */
function unlinkOthers(input: MomentInput, others: ReadEvent[], answer: string): Operation[] {
  const { context } = input;
  if (context.definition.direction === '->' || !context.definition.may.records.create) return [];
  return others.map((event) => {
    input.claims.take(event.href);
    const { uid, values } = event.read;
    const pair = pairOfEvent(context, uid, event.href, momentOfEvents(context).name);
    const cause = `settled by a person: ${answer}, for the record ${input.record.id}`;
    const verdict: Verdict = {
      reason: 'no longer followed',
      condition: 'the event was chosen where it was asked about',
      value: cause,
      recheckAt: null,
    };
    const unlinked = { ...pair, state: step(pair.state, 'unlinked'), label: values.title ?? uid };
    return { ...operation('unlink', unlinked, cause, { record: null, event }), verdict };
  });
}

/** What an event says, for a person who compares it with others; what it leaves unsaid says what that means. */
function saidBy({ read }: ReadEvent): LinkValues {
  const { replies: _sameGuests, organizer, ...values } = read.values;
  const said = Object.entries(values).map(([name, value]) => [name, value ?? absentOf(name as PropertyName)] as const);
  const all = [...said, ['organizer', organizer?.email ?? null], ['UID', read.uid]] as const;
  return Object.fromEntries(all.filter(([, value]) => value !== null)) as LinkValues;
}

/** What a person tells candidates apart by. */
function sayCandidate({ read }: ReadEvent): string {
  const { title, when, location } = read.values;
  const by = read.values.organizer?.email;
  const parts = [title ?? '(no title)', when === null ? null : formatWhen(when), location, by === undefined ? null : `by ${by}`];
  return `${read.uid} is ${parts.filter((p) => p !== null).join(', ')}`;
}

/** A record's moment, and the events that may be its own. */
interface Asking {
  pair: Pair;
  found: ReadEvent[];
  shown: Shown;
  label: string;
}

/** @param impossible why a person's answer "make new" could not be carried out */
function askWhich(input: MomentInput, { pair, found, shown, label }: Asking, impossible: Verdict | null = null): Omit<Planned, 'label'> {
  const value = `${found.length} events match it`;
  const verdict: Verdict = {
    reason: 'several candidates',
    condition: `one event at most matches by ${input.context.definition.matching.join(' and ')}`,
    value,
    recheckAt: null,
  };
  const asked = askedAbout('several candidates', found.map((e) => e.href).sort());
  // While it is asked about, none of them becomes a record of its own.
  for (const event of found) input.claims.ask(event);
  if (input.hold?.asked === asked && impossible === null) return { operation: null, verdict };
  const choices = [...found.map((e) => takeChoice(e.read.uid)), 'create new', 'leave out'];
  const failed = impossible === null ? '' : `; "make new" cannot be carried out: ${impossible.condition}`;
  const cause = `${value}: ${found.slice(0, 5).map(sayCandidate).join('; ')}${found.length > 5 ? '; ...' : ''}${failed}`;
  const candidates = found.map((e) => ({ choice: takeChoice(e.read.uid), values: saidBy(e) }));
  const hold: Hold = { question: 'several candidates', asked, choices, cause, record: shown.values, event: {}, baseline: null, candidates };
  return {
    operation: operation('hold', { ...pair, state: step(pair.state, 'held'), label }, value, { record: input.record.item, event: null, hold }),
    verdict,
  };
}
