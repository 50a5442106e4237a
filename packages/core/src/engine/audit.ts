import type { Change } from './change.ts';
import type { Gathered } from './gathered.ts';
import { failureReasons, type Verdict } from './judge.ts';
import type { Plan } from './moment-input.ts';

import type { Operation, OperationKind } from './operation.ts';
import { isFollowed, type Pair } from './pair.ts';

/** One item on which the two sides do not agree. */
export interface Difference {
  recordId: string | null;
  href: string | null;
  moment: string;
  label: string;
  /** what a run would do about it; null: it waits for a person */
  fix: OperationKind | null;
  cause: string;
  changes: Change[];
}

/** Every record's moment is one of these. */
type RecordPart = 'inSync' | 'differing' | 'missing' | 'leftOut';
/** Every event of the calendar is one of these: `extra` means that its record has left, `foreign` that no pair follows it. */
type EventPart = 'inSync' | 'differing' | 'missingRecords' | 'extra' | 'foreign';

/** Both sides, counted: `moments` and `events` are counted by themselves, and each is the sum of its parts. */
export type AuditCounts = Record<RecordPart | EventPart | 'moments' | 'events', number>;

export interface Audit {
  counts: AuditCounts;
  /** the first ten thousand of them */
  differences: Difference[];
  /** are both sides the sums of their parts? If not, something is there that cannot be placed. */
  addsUp: boolean;
}

const MOST_DIFFERENCES = 10_000;

/** Where one moment stands: its part of the record side, its event's of the calendar side, and what differs. */
interface Standing {
  record: RecordPart | null;
  event: EventPart | null;
  /** null: there is nothing to say */
  cause: string | null;
}

/** Does it belong on the other side, though it is not there? */
const isOpen = ({ reason }: Verdict): boolean => failureReasons.includes(reason) || reason === 'several candidates';

/**
 * Counts two sides that are read whole, a batch at a time. The comparison is the engine's own: what an audit finds
 * differing is what a run would put right.
 */
export class AuditTally {
  readonly #records: Record<RecordPart, number> = { inSync: 0, differing: 0, missing: 0, leftOut: 0 };
  readonly #events: Record<Exclude<EventPart, 'foreign'>, number> = { inSync: 0, differing: 0, missingRecords: 0, extra: 0 };
  readonly #differences: Difference[] = [];
  #moments = 0;
  /** placed events without a followed pair */
  #unpaired = 0;

  add(plan: Plan, gathered: Gathered, moments: readonly string[]): void {
    const operations = new Map(plan.operations.map((o) => [o.pair.id, o]));
    const byMoment = new Map(gathered.pairs.map((p) => [`${p.recordId} ${p.moment}`, p]));
    const planned = new Map(plan.operations.map((o) => [`${o.pair.recordId} ${o.pair.moment}`, o]));
    const verdicts = new Map(plan.verdicts.filter((v) => v.recordId !== null).map((v) => [`${v.recordId} ${v.moment}`, v.verdict]));
    const looked = new Set(gathered.records.map((r) => r.id));
    // Made, and a crash came before it was remembered: the listing does not know yet that it is this pair's.
    this.#unpaired += gathered.pairs.filter((p) => p.state === 'creating' && looked.has(p.recordId ?? '') && isThere(p, gathered)).length;
    for (const { id, item } of gathered.records) {
      for (const pair of gathered.pairs.filter((p) => p.recordId === id && (item === null || !moments.includes(p.moment))))
        this.#place(orphan(pair, gathered), pair, operations.get(pair.id));
      if (item === null) continue;
      for (const moment of moments) {
        this.#moments++;
        const key = `${id} ${moment}`;
        const operation = planned.get(key);
        const pair = byMoment.get(key);
        // A pair that is not followed, such as one whose event was taken away by rule, speaks of no event either.
        if ((pair === undefined || !isFollowed(pair)) && operation?.event != null && operation.kind === 'adopt') this.#unpaired++;
        this.#place(standing(pair, operation, verdicts.get(key) ?? null, gathered), operation?.pair ?? pair ?? null, operation);
      }
    }
    for (const pair of gathered.pairs)
      if (pair.recordId === null && isFollowed(pair)) this.#place(recordless(pair, gathered), pair, operations.get(pair.id));
    const stored = new Set(gathered.pairs.filter(isFollowed).map((p) => p.id));
    for (const o of plan.operations) {
      if (o.kind !== 'create record' || o.record !== null || stored.has(o.pair.id)) continue;
      if (o.pair.recordId === null) this.#unpaired++;
      this.#place({ record: null, event: 'missingRecords', cause: o.cause }, o.pair, o);
    }
  }

  #place({ record, event, cause }: Standing, pair: Pair | null, operation: Operation | undefined): void {
    if (record !== null) this.#records[record]++;
    if (event !== null && event !== 'foreign') this.#events[event]++;
    if (cause === null || pair === null || this.#differences.length >= MOST_DIFFERENCES) return;
    const { recordId, href, moment, label } = pair;
    this.#differences.push({ recordId, href, moment, label, fix: operation?.kind ?? null, cause, changes: operation?.changes ?? [] });
  }

  /**
   * @param events how many events are on the calendar
   * @param unknown how many of them no followed pair speaks of
   */
  total(events: number, unknown: number): Audit {
    const foreign = unknown - this.#unpaired;
    const counts: AuditCounts = { ...this.#records, ...this.#events, foreign, moments: this.#moments, events };
    const sum = (parts: Record<string, number>) => Object.values(parts).reduce((total, n) => total + n, 0);
    const addsUp =
      foreign >= 0 &&
      sum(this.#records) === this.#moments &&
      sum(this.#events) + foreign === events &&
      (['inSync', 'differing'] as const).every((part) => this.#records[part] === this.#events[part]);
    return { counts, differences: this.#differences, addsUp };
  }
}

const isThere = (pair: Pair, { events }: Gathered): boolean => pair.href !== null && events.get(pair.href) != null;

/** A pair whose record is gone, or whose moment the lane no longer has. */
const orphan = (pair: Pair, gathered: Gathered): Standing =>
  isFollowed(pair) && isThere(pair, gathered)
    ? { record: null, event: 'extra', cause: 'its record has left' }
    : { record: null, event: null, cause: null };

/** A pair that waits for its record. */
const recordless = (pair: Pair, gathered: Gathered): Standing =>
  isThere(pair, gathered)
    ? { record: null, event: 'missingRecords', cause: 'its record is not made yet' }
    : { record: null, event: null, cause: null };

function standing(pair: Pair | undefined, operation: Operation | undefined, verdict: Verdict | null, gathered: Gathered): Standing {
  const failed = verdict !== null && isOpen(verdict);
  if (pair === undefined || !isFollowed(pair)) {
    if (operation?.kind === 'adopt') return { record: 'differing', event: 'differing', cause: operation.cause };
    if (operation !== undefined && operation.kind !== 'unlink') return { record: 'missing', event: null, cause: operation.cause };
    if (failed) return { record: 'missing', event: null, cause: verdict.condition };
    return { record: 'leftOut', event: null, cause: null };
  }
  const there = isThere(pair, gathered);
  // Found under another name, it is moved along: the pair is not, yet.
  const held = pair.state === 'held' && operation === undefined ? 'it is held until a person decides' : null;
  const left = verdict !== null && !failed && verdict.reason !== 'duplicate UID';
  if (left) return { record: 'leftOut', event: there ? 'extra' : null, cause: (there ? operation?.cause : null) ?? held };
  if (!there) return { record: 'missing', event: null, cause: operation?.cause ?? held ?? verdict?.condition ?? 'its event is not there' };
  if (operation !== undefined && operation.kind !== 'agree') return { record: 'differing', event: 'differing', cause: operation.cause };
  const open = held ?? (failed ? verdict.condition : null);
  return open === null ? { record: 'inSync', event: 'inSync', cause: null } : { record: 'differing', event: 'differing', cause: open };
}
