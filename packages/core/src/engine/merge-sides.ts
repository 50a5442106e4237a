import { otherOrganizer } from '../invitations/organizer.ts';
import { type Proposed, proposedTime, withProposal } from '../invitations/proposals.ts';
import { withReplies } from '../invitations/replies-on-event.ts';
import type { Attendee } from '../maps/properties.ts';
import type { RecordItem } from '../record/fields.ts';
import { linkContext, type ReadEvent } from './context.ts';
import { askedAbout } from './holds.ts';
import type { Shown } from './judge.ts';
import { type MergeResult, merge } from './merge.ts';
import { isReshown, type PairedInput } from './moment-input.ts';

/** The two sides that are merged. */
export interface Merging {
  item: RecordItem;
  shown: Shown;
  event: ReadEvent;
  /** `adopt`: the two were there before they were a pair */
  kind: 'change' | 'adopt';
  /** what people know it by */
  label: string;
}

/** A merge, with what guests said of the event meanwhile. */
export interface MergedSides {
  merged: MergeResult;
  /** the event with the replies, and the accepted proposal, that are about to be written on it */
  event: ReadEvent;
  /** who organises the event, where that is somebody else */
  organizer: Attendee | null;
  /** about which values it is asked that they are the organizer's */
  askedOrganised: string;
  /** another time that a guest proposes */
  proposed: Proposed | null;
  /** replies came that the event shows already */
  noted: boolean;
}

/** Merges the sides of a pair as they are once a guest's accepted proposal and the replies stand on the event. */
export function mergeSides(input: PairedInput, { item, shown, event: found }: Merging): MergedSides {
  const { context, hold, pair } = input;
  const organizer = otherOrganizer(found.read, pair, shown.values, context);
  const mergeWith = (event: ReadEvent, putBack = false): MergeResult =>
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
      ...(organizer === null ? {} : { organised: { putBack } }),
      shared: event.read.mark !== null && event.read.mark.lane !== context.lane,
      at: linkContext(context, event.read.values),
      answer: (asked) => (hold?.question === 'conflict' && hold.asked === asked ? (hold.choice as 'records win' | 'calendar wins' | null) : null),
    });
  const proposed = proposedTime(input);
  const moved = withProposal(proposed, found);
  const { event, replies } = withReplies(input, moved.event, () => mergeWith(moved.event).eventEdits);
  let merged = mergeWith(event);
  const askedOrganised = askedAbout('organised by another', ...merged.organised.map((o) => [o.key, o.record, o.event]));
  const answer = hold?.question === 'organised by another' && hold.asked === askedOrganised ? hold.choice : null;
  if (answer === 'calendar wins') merged = mergeWith(event, true);
  if (answer === 'leave') merged = asItStands(merged);
  return {
    event,
    organizer,
    askedOrganised,
    proposed,
    noted: replies.noted,
    merged: {
      ...merged,
      eventEdits: { ...moved.edits, ...replies.edits, ...merged.eventEdits },
      changes: [...moved.changes, ...replies.changes, ...merged.changes],
    },
  };
}

/** What is to be left as the organizer has it is agreed on as it stands. */
function asItStands(merged: MergeResult): MergeResult {
  const keys = merged.organised.map((o) => o.key);
  return {
    ...merged,
    organised: [],
    loose: merged.conflicts.length > 0 || merged.unfit.length > 0,
    settled: [...merged.settled, ...keys],
    agreed: [...merged.agreed, ...keys],
  };
}
