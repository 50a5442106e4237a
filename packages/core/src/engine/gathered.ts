import type { KnownGuest } from '../invitations/invitation.ts';
import type { RecordItem } from '../record/fields.ts';
import type { EventView, RecordView } from './context.ts';
import type { HoldQuestion } from './holds.ts';
import type { Pair } from './pair.ts';
import type { UnpairedEvents } from './unpaired-events.ts';

/** What was asked about a pair, and what a person answered; `asked` says about which values. */
export interface HoldState {
  question: HoldQuestion;
  asked: string;
  choice: string | null;
}

/** An item that cannot be stored by its name: it is left out under another one. */
export interface Refused {
  recordId: string | null;
  href: string | null;
  condition: string;
  value: string;
}

/**
 * The truth about the items that are planned together: each record comes with the pairs it has,
 * and each pair with its event as it is now (null: gone).
 */
export interface Gathered {
  records: RecordView[];
  pairs: Pair[];
  events: ReadonlyMap<string, EventView | null>;
  /** deleted events without a record: their verdicts are out of date */
  gone?: readonly { href: string; moment: string; label: string }[];
  /** pairs that follow another occurrence of their series from now on, and why; by pair */
  moved?: ReadonlyMap<string, string>;
  /** items that no run can know again by their name */
  refused?: readonly Refused[];
  /** events that may become records, each with its pair in `pairs` if there ever was one */
  newcomers: EventView[];
  /** everything on the calendar that no pair speaks of: what a record could adopt */
  unpaired: UnpairedEvents;
  /** UIDs of events of which it is asked whether they stand for a record */
  reserved: ReadonlySet<string>;
  /** open and settled holds, by pair */
  holds: ReadonlyMap<string, HoldState>;
  /** where the lane invites: what is noted of the guests, by pair */
  guests?: ReadonlyMap<string, readonly KnownGuest[]>;
  /** for records whose creation is unconfirmed: those that may be its result, by pair */
  createCandidates: ReadonlyMap<string, CreateCandidates>;
}

/** Records that may be the result of a create: those that say all it said, and those that say a part of it. */
export interface CreateCandidates {
  sure: RecordItem[];
  maybe: RecordItem[];
}
