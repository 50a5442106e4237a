import type { LaneDefinition } from '../lane/definition.ts';
import { goesToEvent, goesToRecord, type Link, type LinkContext } from '../lane/links.ts';
import { type EventValues, type PropertyValue, sameProperty } from '../maps/properties.ts';
import { belongsToOrganizer } from '../maps/property-names.ts';
import { UnfitValue } from '../maps/unfit.ts';
import { canonical, type FieldValue, type RecordItem } from '../record/fields.ts';
import type { Change } from './change.ts';
import type { Shown } from './judge.ts';
import { type Equality, type Merged, mergeLink, type Sides, type Ways } from './merge-link.ts';
import type { Baseline } from './pair.ts';

type Value = PropertyValue;

/** Both sides of a pair, and all that decides how they are merged. */
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

/** Which ways the values of a link may go, by its direction and what the lane may do. */
export function waysOf(link: Link, definition: LaneDefinition): Ways {
  return {
    toEvent: goesToEvent(link) && definition.may.calendar.change,
    toRecord: goesToRecord(link) && definition.may.records.change,
    foreignEdits: definition.foreignEdits,
  };
}

/** What one link comes to: what both sides say, and what is to be done about it. */
export interface Work {
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

/** What is to be done about one link, by what both sides say now and what they last agreed on. */
export function decideLink(link: Link, input: MergeInput): Work {
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
