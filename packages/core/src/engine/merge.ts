import type { ConflictRule } from '../lane/definition.ts';
import type { Link, LinkContext } from '../lane/links.ts';
import { type EventValues, guestsAfter, type MappedValues, meaningOf, type PropertyValue, sameProperty } from '../maps/properties.ts';
import { UnfitValue } from '../maps/unfit.ts';
import type { FieldValues, RecordItem } from '../record/fields.ts';
import { isInSkippedHour } from '../time/when.ts';
import { parseInstant } from '../time/zones.ts';
import type { Change } from './change.ts';
import { decideLink, type MergeInput, type Work, waysOf } from './decide-link.ts';
import { askedAbout } from './holds.ts';

type Value = PropertyValue;

export interface MergeResult {
  /** the record as it will be */
  record: RecordItem;
  recordEdits: FieldValues;
  eventEdits: MappedValues;
  changes: Change[];
  /** links on which both sides agree once this is done */
  settled: string[];
  /** links whose baseline moves though nothing is written */
  agreed: string[];
  conflicts: { key: string; record: Value; event: Value; unshown?: string }[];
  /** edits of the record that are not carried, because somebody else organises the event */
  organised: { key: string; record: Value; event: Value }[];
  asked: string;
  unfit: UnfitValue[];
  /** why a person's answer could not be carried out */
  impossible: UnfitValue | null;
  /** something differs from the baseline and stays so */
  loose: boolean;
  notes: string[];
}

/** Merges every link of a pair: first what goes to the record, then, from the record as it will be, what goes to the event. */
export function merge(input: MergeInput): MergeResult {
  const { links, definition, at, event } = input;
  const result: MergeResult = {
    record: input.record,
    recordEdits: {},
    eventEdits: {},
    changes: [],
    settled: [],
    agreed: [],
    conflicts: [],
    organised: [],
    asked: '',
    unfit: [],
    impossible: null,
    loose: false,
    notes: [],
  };
  const work = links.filter((l) => l.direction !== 'once').map((link) => decideLink(link, input));
  settleConflicts(work, input, result);
  for (const w of work) {
    const { merged } = w;
    if (merged.outcome !== 'to record' && merged.outcome !== 'to both') continue;
    takeIntoRecord(w, merged.outcome === 'to both' ? { value: merged.record, cause: merged.cause } : merged, result, at);
  }
  const touched = Object.keys(result.recordEdits).length > 0;
  for (const w of work) {
    const { link, sides } = w;
    const unfit = input.shown.unfit.get(link.key);
    if (unfit !== undefined && w.merged.outcome !== 'to record') {
      result.unfit.push(unfit);
      continue;
    }
    // The record has just changed: whatever else shows the same fields follows at once.
    if (touched && (w.merged.outcome === 'unchanged' || w.merged.outcome === 'agreed' || w.merged.outcome === 'to event'))
      followRecord(w, input, result);
    if (w.reshown && waysOf(link, definition).toEvent) showAgain(w, result, at);
    const { merged } = w;
    if (merged.outcome === 'agreed') {
      result.settled.push(link.key);
      result.agreed.push(link.key);
      tellAgreement(w, result, at);
    }
    if (merged.outcome !== 'to event' && merged.outcome !== 'to both') continue;
    const given = merged.outcome === 'to both' ? merged.event : merged.value;
    // Who wins a conflict wins it whole; else what people altered on the event, and the record cannot hold, stays.
    const value =
      sides.base === undefined || !waysOf(link, definition).toRecord || w.contested
        ? given
        : carried({ link, base: sides.base }, given, result.record, at);
    result.settled.push(link.key);
    if (sameProperty(link.property, value, event[link.property], at.zones)) {
      result.agreed.push(link.key);
      tellAgreement(w, result, at);
    } else {
      (result.eventEdits as Record<string, Value>)[link.property] = value;
      result.changes.push({ side: 'event', property: link.property, before: event[link.property], after: value, cause: merged.cause });
    }
  }
  settleClockOfSeries(work, input, result);
  guestsFollow(work, input, result);
  result.organised = work.flatMap(({ link, sides, organised }) =>
    organised === true ? [{ key: link.key, record: sides.record, event: sides.event }] : [],
  );
  result.loose = result.conflicts.length > 0 || result.unfit.length > 0 || work.some((w) => w.merged.outcome === 'left');
  result.settled = [...new Set(result.settled)];
  result.agreed = [...new Set(result.agreed)];
  return result;
}

/**
 * A series goes on by the clock on which its event begins, and a rule in a record goes by the record's. An event that gets the
 * record's rule gets the record's clock too, where it stood on another: in UTC, say. So does one in an hour that the clock skips, which
 * takes place at the record's time once and goes on at another; where the record does not lead, it cannot hold that, and it is said.
 */
function settleClockOfSeries(work: readonly Work[], input: MergeInput, result: MergeResult): void {
  const { at, definition, event, organised, shared } = input;
  const [when, rule] = ['when', 'recurrence'].map((key) => work.find((w) => w.link.key === key));
  if (when === undefined || rule === undefined || input.shown.unfit.has('when')) return;
  if ([when, rule].some(({ merged: { outcome } }) => outcome === 'left' || outcome === 'conflict')) return;
  const edits = result.eventEdits;
  const recurrence = edits.recurrence === undefined ? event.recurrence : edits.recurrence;
  if (edits.when !== undefined || recurrence === null) return;
  const ways = waysOf(when.link, definition);
  const leads = ways.toEvent && organised === undefined && !shared && (edits.recurrence !== undefined || !ways.toRecord);
  const skipped = isInSkippedHour(event.when, at.zones);
  if (!leads) {
    if (skipped) takeIntoRecord(when, { value: event.when, cause: 'the event is edited' }, result, at);
    return;
  }
  if (!skipped && edits.recurrence === undefined) return;
  const shown = when.link.show(result.record, at) as EventValues['when'];
  if (!skipped && !onOtherClock(shown, event.when)) return;
  edits.when = shown;
  result.changes.push({ side: 'event', property: 'when', before: event.when, after: shown, cause: 'a series keeps the clock at which it begins' });
}

const onOtherClock = (a: EventValues['when'], b: EventValues['when']): boolean => a?.kind === 'timed' && b?.kind === 'timed' && a.zone !== b.zone;

/** The event gets other guests: what shows the guests' replies in the record follows at once. */
function guestsFollow(work: readonly Work[], { event, definition, at }: MergeInput, result: MergeResult): void {
  const { attendees } = result.eventEdits;
  if (attendees === undefined) return;
  const guests = guestsAfter(event.replies, attendees);
  for (const w of work) {
    const { link, merged } = w;
    if (link.property !== 'replies' || merged.outcome === 'left' || !waysOf(link, definition).toRecord) continue;
    if (!link.sameOnEvent(event.replies, guests, at)) takeIntoRecord(w, { value: guests, cause: 'the guests change' }, result, at);
  }
}

/** What both sides say now against what they agreed on: an edit on both, or a write of ours whose answer was lost. */
function tellAgreement({ link, sides }: Work, result: MergeResult, at: LinkContext): void {
  const { base, record, event } = sides;
  if (base === undefined) return;
  const cause = 'both sides say the same';
  if (!link.sameOnEvent(base.event, event, at))
    result.changes.push({ side: 'event', property: link.property, before: base.event, after: event, cause, seen: true });
  if (!link.same(base.record, record, at))
    result.changes.push({ side: 'record', property: link.key, before: base.record, after: record, cause, seen: true });
}

/** The event is to say what this version of the lane shows of the record, as it is once an edit of the event was taken. */
function showAgain(w: Work, result: MergeResult, at: LinkContext): void {
  if (w.merged.outcome === 'left' || w.merged.outcome === 'conflict') return;
  // What people altered is in the record by now, as far as it can hold it.
  w.contested = w.merged.outcome !== 'unchanged' && w.merged.outcome !== 'agreed';
  try {
    w.merged = { outcome: 'to event', cause: 'the lane shows it differently now', value: w.link.show(result.record, at) };
  } catch (error) {
    if (!(error instanceof UnfitValue)) throw error;
    result.unfit.push(error);
    w.merged = { outcome: 'left' };
  }
}

/** A link, and what both sides said of it when they last agreed. */
interface Agreed {
  link: Link;
  base: { record: Value; event: Value };
}

/**
 * What goes to an event on which more stands than the record can hold: that stays. Where the two were left apart, by an
 * undo for instance, nothing stays: there the record could have held what the event says.
 */
function carried({ link, base }: Agreed, given: Value, record: RecordItem, at: LinkContext): Value {
  try {
    const then = { ...record, fields: { ...record.fields, ...link.take(record, base.record, at).fields } };
    const agreed = Object.keys(link.take(then, base.event, at).fields).length === 0;
    return agreed ? link.carry(given, base.record, base.event, at) : given;
  } catch (error) {
    if (error instanceof UnfitValue) return given;
    throw error;
  }
}

interface Winner {
  side: 'record' | 'event';
  cause: string;
}

const conflictOf = ({ link, sides }: Work): MergeResult['conflicts'][number] => ({
  key: link.key,
  record: sides.record,
  event: sides.event,
  ...(sides.unshown === undefined ? {} : { unshown: sides.unshown }),
});

/** By the field's rule, or the lane's; what they leave open is one question to a person. */
function settleConflicts(work: Work[], input: MergeInput, result: MergeResult): void {
  const win = (w: Work, { side, cause }: Winner) => {
    w.contested = true;
    w.merged = side === 'record' ? { outcome: 'to event', cause, value: w.sides.record } : { outcome: 'to record', cause, value: w.sides.event };
  };
  for (const w of work.filter((w) => w.merged.outcome === 'conflict')) {
    const winner = winnerByRule(w.link, input);
    if (winner !== null) win(w, winner);
  }
  const open = work.filter((w) => w.merged.outcome === 'conflict');
  if (open.length === 0) return;
  const means = ({ link, sides }: Work) => [sides.record, sides.event].map((value) => meaningOf(link.property, value, input.at.zones));
  result.asked = askedAbout('conflict', ...open.map((w) => [w.link.key, ...means(w)]));
  const answer = input.answer(result.asked);
  for (const w of open) {
    if (answer === null) result.conflicts.push(conflictOf(w));
    else {
      w.answered = true;
      win(w, { side: answer === 'records win' ? 'record' : 'event', cause: `changed on both sides; settled by a person: ${answer}` });
    }
  }
}

function winnerByRule(link: Link, input: MergeInput): Winner | null {
  const { conflicts } = input.definition;
  const rule: ConflictRule = conflicts.fields[link.property] ?? conflicts.rule;
  const cause = `changed on both sides: ${rule}`;
  if (rule === 'records win') return { side: 'record', cause };
  if (rule === 'calendar wins') return { side: 'event', cause };
  if (rule === 'hold') return null;
  // A stamp that stood there at the last agreement, such as our own, says nothing of an edit since.
  const stamps = input.baseline?.stamps;
  const of = (stamp: string | null | undefined, then: string | null | undefined) => (stamp == null || stamp === then ? null : parseInstant(stamp));
  const [recordAt, eventAt] = [of(input.record.modified, stamps?.record), of(input.eventModified, stamps?.event)];
  if (recordAt === null || eventAt === null) return null;
  const lead = recordAt - eventAt;
  if (Math.abs(lead) <= conflicts.tolerance) return null;
  const side = lead > 0 ? 'record' : 'event';
  return { side, cause: `${cause} (the ${side}, by ${Math.round(Math.abs(lead))} s)` };
}

function takeIntoRecord(w: Work, { value, cause }: { value: Value; cause: string }, result: MergeResult, at: LinkContext): void {
  try {
    const taken = w.link.take(result.record, value, w.kept === undefined ? at : { ...at, agreed: w.kept });
    for (const [field, after] of Object.entries(taken.fields)) {
      result.changes.push({ side: 'record', property: field, before: result.record.fields[field] ?? null, after, cause });
      result.recordEdits[field] = after;
    }
    result.record = { ...result.record, fields: { ...result.record.fields, ...taken.fields } };
    result.notes.push(...taken.notes);
    result.settled.push(w.link.key);
    if (Object.keys(taken.fields).length === 0) result.agreed.push(w.link.key);
  } catch (error) {
    if (!(error instanceof UnfitValue)) throw error;
    // It stays on the calendar, and the baseline stays behind: when either side changes, it is tried again.
    w.merged = { outcome: 'left' };
    if (!w.answered) {
      result.unfit.push(error);
      return;
    }
    // An answer that cannot be carried out leaves the question open.
    result.conflicts.push(conflictOf(w));
    result.impossible = error;
  }
}

function followRecord(w: Work, input: MergeInput, result: MergeResult): void {
  const { link, sides } = w;
  if (!waysOf(link, input.definition).toEvent) return;
  let now: Value;
  try {
    now = link.show(result.record, input.at);
  } catch (error) {
    if (!(error instanceof UnfitValue)) throw error;
    result.unfit.push(error);
    w.merged = { outcome: 'left' };
    return;
  }
  if (w.merged.outcome === 'to event') {
    if (!link.same(now, sides.record, input.at)) w.merged = { ...w.merged, value: now };
  } else if (!link.same(now, sides.record, input.at)) w.merged = { outcome: 'to event', cause: 'changed in the record', value: now };
}
