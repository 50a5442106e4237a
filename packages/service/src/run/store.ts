import type { RunCounts } from '@monsoon/contract';
import type {
  Change,
  GuestChange,
  GuestNews,
  Hold,
  HoldState,
  KnownGuest,
  LaneDefinition,
  Pair,
  PairState,
  Proposal,
  Response,
  Verdict,
  When,
} from '@monsoon/core';

/** What was done to one item, for the journal. */
export interface Entry {
  pair: Pair;
  kind: string;
  cause: string;
  changes: Change[];
  notes: string[];
  /** what was taken away, whole: an event's text, or a record as JSON */
  removed: string | null;
  /** when the change that it carries over was made, where its system says so */
  changedAt: string | null;
}

export interface StoredVerdict {
  recordId: string | null;
  /** where an event is that has no record */
  href: string | null;
  moment: string;
  label: string;
  /** null: an earlier verdict is out of date */
  verdict: (Verdict & { attempts?: number }) | null;
  /** when the item takes place, where that is known and no secret */
  when?: When | null | undefined;
}

/** How a guest of a pair stands after an operation. */
export interface GuestUpdate extends GuestChange {
  pair: string;
}

export interface NewHold extends Hold {
  pair: Pair;
}

/** Everything that becomes true together. */
export interface Batch {
  pairs?: Pair[];
  entries?: Entry[];
  verdicts?: StoredVerdict[];
  holds?: NewHold[];
  guests?: GuestUpdate[];
  /** how those guests are invited */
  invitations?: LaneDefinition['invitations'];
  /** proposals of another time that a person has answered */
  answers?: { pair: string; email: string; proposal: Proposal; declined: boolean }[];
  /** replies that need no more work: their events show them, or they answered what is out of date */
  replied?: { pair: string; email: string; reply: Response }[];
  /** what events newly say of their guests */
  seen?: (GuestNews & { pair: string })[];
  /** what is about to be written outside: should nothing more be heard of it, it is journalled as an attempt */
  intents?: Entry[];
  /** writes of which nothing more was heard, to be known again by what they wrote */
  attempts?: Entry[];
  /** what was intended is done, or known not to be */
  answered?: true;
}

export interface Cursors {
  records: string | null;
  calendar: string | null;
}

/** Items by what names them: records, and events that have none. */
export interface ItemNames {
  records: string[];
  hrefs: string[];
}

/** What a verdict is about: a record, or an event that has none. */
export interface JudgedItem {
  recordId: string | null;
  href: string | null;
  moment: string;
  label: string;
}

/** A question that stands. */
export interface StoredHold extends HoldState {
  pair: string;
  recordId: string | null;
  href: string | null;
  choices: string[];
}

export type PairQuery =
  | { records: string[] }
  | { hrefs: string[] }
  | { uids: string[] }
  | { ids: string[] }
  /** of calendar objects as a whole, and of their occurrences */
  | { objects: string[] }
  | { states: PairState[] }
  /** whose record is not there yet, and may have been asked for */
  | { unfinished: true };

/** What waits in a lane's memory, apart from what is new on either side. Mostly nothing: one question saves many. */
export interface Waiting {
  /** records that may have been asked for */
  unfinished: boolean;
  /** pairs that are being made */
  creating: boolean;
  /** items to be looked at again because of the time */
  due: boolean;
  /** answers to be carried out */
  settled: boolean;
  /** records that ask which event is theirs */
  candidates: boolean;
}

/** A series as it was when it was last taken apart. */
export interface KnownSeries {
  /** of the calendar object */
  href: string;
  etag: string | null;
  /** recurrence-id and what names the content, of each that was in the window once */
  occurrences: [id: string, tag: string][];
  /** RFC 3339: when the next one begins that was not in the window; null: none does */
  nextAt: string | null;
}

/** What a run remembers of one lane. One batch is one database transaction. */
export interface RunStore {
  cursors(): Promise<Cursors>;
  waiting(now: string): Promise<Waiting>;
  moveCursors(cursors: Partial<Cursors>): Promise<void>;
  /** series that stand at these addresses, as far as they are known */
  series(hrefs: string[]): Promise<KnownSeries[]>;
  /** series of which another occurrence begins before that time, RFC 3339 */
  growingSeries(before: string): Promise<KnownSeries[]>;
  /** @param gone addresses at which no series stands any more */
  keepSeries(known: KnownSeries[], gone: string[]): Promise<void>;
  pairs(which: PairQuery): Promise<Pair[]>;
  /** every pair, in pages */
  allPairs(): AsyncIterable<Pair[]>;
  /** pairs that are followed: neither unlinked nor removed. @param atMost counting ends there */
  countPairs(atMost?: number): Promise<number>;
  /** items whose verdict is due to be looked at again */
  due(now: string): Promise<ItemNames>;
  /** items set aside after a refusal: they are not tried again by themselves */
  setAside(): Promise<ItemNames>;
  /** how often the item failed in a row, and when it is due again */
  attempts(item: { recordId: string | null; href: string | null; moment: string }): Promise<{ count: number; recheckAt: string | null }>;
  /** every item of which a verdict says why it does not cross, in pages */
  judged(): AsyncIterable<JudgedItem[]>;
  /** open and settled holds of these pairs; all that wait to be carried out; or all records that ask which event is theirs */
  holds(which: { pairs: string[] } | 'settled' | 'several candidates'): Promise<StoredHold[]>;
  write(batch: Batch): Promise<void>;
  /** Called before each write to a system. @throws when another process may have taken over the lane */
  checkLease(): void;
  /** what is noted of the guests of these pairs */
  guests(pairs: string[]): Promise<KnownGuest[]>;
  /** how many messages guests got in the last day, by address */
  mailsToday(emails: string[]): Promise<Map<string, number>>;
  /** what an interrupted run was about to write */
  intents(): Promise<Entry[]>;
  progress(counts: RunCounts, planned: number, done: number): Promise<void>;

  /** A sweep puts both listings here, so that a million items need not be held in memory. */
  beginSweep(): Promise<void>;
  endSweep(): Promise<void>;
  stageEvents(events: { href: string; etag: string | null }[]): Promise<void>;
  stageRecords(ids: string[]): Promise<void>;
  /** the ETags of those that were listed */
  listed(hrefs: string[]): Promise<Map<string, string | null>>;
  /** followed pairs whose record was not listed, in pages */
  unlistedPairs(): AsyncIterable<Pair[]>;
  /** items of which a verdict says why they do not cross, and that were not listed on their side, in pages */
  staleVerdicts(): AsyncIterable<JudgedItem[]>;
  /** listed events that no pair speaks of, in pages */
  unknownEvents(): AsyncIterable<string[]>;
  /**
   * How many events were listed, and how many of them no followed pair speaks of; how many pairs stood on both sides when
   * last seen, and how many of their events were listed.
   */
  countListed(): Promise<{ events: number; unknown: number; standing: number; there: number }>;
}
