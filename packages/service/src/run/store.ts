import type { Change, HoldQuestion, MappedValues, Pair, RunCounts, Verdict } from '@monsoon/core';

/** What was done to one item, for the journal. */
export interface Entry {
  pair: Pair;
  kind: string;
  cause: string;
  changes: Change[];
  notes: string[];
  /** a removed event, whole */
  removed: string | null;
}

export interface StoredVerdict {
  recordId: string;
  moment: string;
  label: string;
  /** null: an earlier verdict is out of date */
  verdict: (Verdict & { attempts?: number }) | null;
}

export interface NewHold {
  pair: Pair;
  question: HoldQuestion;
  cause: string;
  record: MappedValues;
  event: MappedValues;
}

/** Everything that becomes true together. */
export interface Batch {
  pairs?: Pair[];
  entries?: Entry[];
  verdicts?: StoredVerdict[];
  holds?: NewHold[];
}

export interface Cursors {
  records: string | null;
  calendar: string | null;
}

/** What a run remembers of one lane. One batch is one database transaction. */
export interface RunStore {
  cursors(): Promise<Cursors>;
  moveCursors(cursors: Partial<Cursors>): Promise<void>;
  pairs(which: 'all' | { records: string[] } | { hrefs: string[] } | { state: 'making' }): Promise<Pair[]>;
  /** pairs that are followed: neither parted nor removed */
  countPairs(): Promise<number>;
  /** records whose verdict is due to be looked at again, and how often they failed */
  due(now: string): Promise<string[]>;
  /** records set aside after a refusal: they are not tried again by themselves */
  setAside(): Promise<Set<string>>;
  attempts(recordId: string, moment: string): Promise<number>;
  /** answers to holds, by pair */
  settlements(): Promise<{ pair: string; recordId: string; choice: string }[]>;
  write(batch: Batch): Promise<void>;
  progress(counts: RunCounts, planned: number, done: number): Promise<void>;
}
