import type { ConflictRule, LaneDefinition } from '../lane/definition.ts';
import { goesToEvent, goesToRecord, type Link, type LinkContext } from '../lane/links.ts';
import { type EventValues, guestsAfter, type MappedValues, meaningOf, type PropertyValue, sameProperty } from '../maps/properties.ts';
import { belongsToOrganizer } from '../maps/property-names.ts';
import { UnfitValue } from '../maps/unfit.ts';
import { canonical, type FieldValue, type FieldValues, type RecordItem } from '../record/fields.ts';
import { isInSkippedHour } from '../time/when.ts';
import { parseInstant } from '../time/zones.ts';
import type { Change } from './change.ts';
import { askedAbout } from './holds.ts';
import type { Shown } from './judge.ts';
import { type Equality, type Merged, mergeLink, type Sides, type Ways } from './merge-link.ts';
import type { Baseline } from './pair.ts';

type Value = PropertyValue;

export interface MergeInput {
  links: readonly Link[];
  record: RecordItem;
  shown: Shown;
  event: EventValues;
  eventModified: string | null;
  baseline: Baseline | null;
  /** the record is as it was at the last agreement: whatever it shows differently now, another version of the lane shows */
  sameRecord: boolean;
  /** writes of ours of which nothing more was heard */
  attempted: readonly Change[];
  definition: LaneDefinition;
  /** somebody else organises the event: what is theirs is not written; `put back`: a person chose that the record follows */
  organised?: { putBack: boolean } | undefined;
  /** another lane's mark is on the event: that lane puts back what it carries there, and this one does not */
  shared: boolean;
  at: LinkContext;
  /** what a person answered to the conflict about just these values */
  answer(asked: string): 'records win' | 'calendar wins' | null;
}

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

export function waysOf(link: Link, definition: LaneDefinition): Ways {
  return {
    toEvent: goesToEvent(link) && definition.may.calendar.change,
    toRecord: goesToRecord(link) && definition.may.records.change,
    foreignEdits: definition.foreignEdits,
  };
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
  const work = links.filter((l) => l.direction !== 'once').map((link) => decide(link, input));
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
  settleSkippedHour(work, input, result);
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
 * An event in an hour that the clock skips takes place at the record's time; as a series it goes on at another one. It
 * gets the record's clock where the record leads; else the record cannot hold it, and that is said.
 */
function settleSkippedHour(work: readonly Work[], input: MergeInput, result: MergeResult): void {
  const { at, definition, event, organised, shared } = input;
  const [when, rule] = ['when', 'recurrence'].map((key) => work.find((w) => w.link.key === key));
  if (when === undefined || rule === undefined || input.shown.unfit.has('when')) return;
  if ([when, rule].some(({ merged: { outcome } }) => outcome === 'left' || outcome === 'conflict')) return;
  const edits = result.eventEdits;
  const recurrence = edits.recurrence === undefined ? event.recurrence : edits.recurrence;
  if (edits.when !== undefined || recurrence === null || !isInSkippedHour(event.when, at.zones)) return;
  const ways = waysOf(when.link, definition);
  const leads = ways.toEvent && organised === undefined && !shared && (edits.recurrence !== undefined || !ways.toRecord);
  if (!leads) takeIntoRecord(when, { value: event.when, cause: 'the event is edited' }, result, at);
  else {
    const shown = when.link.show(result.record, at) as EventValues['when'];
    edits.when = shown;
    result.changes.push({ side: 'event', property: 'when', before: event.when, after: shown, cause: 'a series keeps the clock at which it begins' });
  }
}

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

interface Work {
  link: Link;
  sides: Sides;
  merged: Merged;
  /** what the event said at the last agreement, where the record keeps what was changed in it since */
  kept?: Value;
  /** both sides had changed */
  contested?: boolean;
  /** a person said which side wins */
  answered?: boolean;
  /** the lane shows the same record differently now */
  reshown?: boolean;
  /** an edit of the record that is not carried: somebody else organises the event */
  organised?: boolean;
}

function decide(link: Link, input: MergeInput): Work {
  const { at, baseline, event, definition } = input;
  const known = baseline !== null && link.key in baseline.record && link.key in baseline.event;
  const shown = input.shown.values[link.key] ?? null;
  const sides: Sides = {
    record: shown,
    event: event[link.property],
    base: known ? { record: baseline.record[link.key] ?? null, event: baseline.event[link.key] ?? null } : undefined,
  };
  const unshown = shown === null ? link.unshown?.(input.record) : undefined;
  if (unshown !== undefined && unshown !== '') sides.unshown = unshown;
  const base = sides.base;
  const reshown = base !== undefined && input.sameRecord && !link.same(sides.record, base.record, at);
  const same: Equality = {
    record: (a, b) => link.same(a, b, at),
    event: (a, b) => link.sameOnEvent(a, b, at),
    across: (record, event) => saysTheSame(link, input.record, { record, event }, at),
  };
  const usual = waysOf(link, definition);
  if (input.organised !== undefined && base !== undefined && belongsToOrganizer(link.property))
    return decideOrganised(link, input.organised.putBack, { sides, same, ways: usual, reshown });
  const ways: Ways = input.shared && goesToEvent(link) ? { ...usual, foreignEdits: 'leave' } : usual;
  if (known && input.attempted.length > 0) sides.ours = oursOf(link, sides, ways, input);
  const kept = base === undefined || ways.foreignEdits === 'put back' ? {} : { kept: base.event };
  if (!reshown) return { link, sides, merged: mergeLink(sides, ways, same, link.set), ...kept };
  // Only the record is written: the event's value belongs in what the lane maps it to now, as when they are first paired.
  if (!ways.toEvent) return { link, sides, merged: mergeLink({ ...sides, base: undefined }, ways, same, link.set) };
  // Both sides are compared with what this version of the lane shows: the record has not been edited.
  const shownNow = { ...sides, base: { record: sides.record, event: base.event } };
  return { link, sides, merged: mergeLink(shownNow, ways, same, link.set), reshown };
}

/** What somebody else organises only comes to the record. */
function decideOrganised(
  link: Link,
  putBack: boolean,
  { sides, same, ways, reshown }: { sides: Sides; same: Equality; ways: Ways; reshown: boolean },
): Work {
  const edited = !reshown && sides.base !== undefined && !same.record(sides.record, sides.base.record);
  const merged = mergeLink(
    sides,
    { toEvent: false, toRecord: ways.toRecord || putBack, foreignEdits: putBack ? 'put back' : 'leave' },
    same,
    link.set,
  );
  if (edited && putBack && merged.outcome !== 'agreed')
    return { link, sides, answered: true, merged: { outcome: 'to record', cause: 'settled by a person: calendar wins', value: sides.event } };
  return { link, sides, merged, organised: edited && merged.outcome === 'left' };
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

/** Which side of a link holds what we were writing when the answer was lost, if either does. */
function oursOf(link: Link, { record, event, base }: Sides, ways: Ways, { attempted, at, record: item }: MergeInput): Sides['ours'] {
  const tried = (side: Change['side']) => attempted.filter((c) => c.side === side);
  const eventTried = tried('event').filter((c) => c.property === link.property);
  if (ways.toEvent && eventTried.some((c) => sameProperty(link.property, event, c.after as Value, at.zones))) return 'event';
  const written = tried('record').filter((c) => canonical(item.fields[c.property] ?? null) === canonical(c.after));
  if (base === undefined || !ways.toRecord || written.length === 0 || link.same(record, base.record, at)) return undefined;
  const before = Object.fromEntries(written.map((c) => [c.property, c.before as FieldValue]));
  try {
    return link.same(link.show({ ...item, fields: { ...item.fields, ...before } }, at), base.record, at) ? 'record' : undefined;
  } catch (error) {
    if (error instanceof UnfitValue) return undefined;
    throw error;
  }
}

/** The two sides agree when the record would not change by taking the event's value. */
function saysTheSame(link: Link, record: RecordItem, said: { record: Value; event: Value }, at: LinkContext): boolean {
  if (goesToEvent(link) && sameProperty(link.property, said.record, said.event, at.zones)) return true;
  if (!goesToRecord(link)) return false;
  try {
    return Object.keys(link.take(record, said.event, at).fields).length === 0;
  } catch (error) {
    if (error instanceof UnfitValue) return false;
    throw error;
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
