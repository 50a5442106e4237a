import type { Plan } from './case.ts';
import type { EventView, Gathered } from './context.ts';
import type { Change } from './merge.ts';
import type { OperationKind } from './operation.ts';
import { isFollowed, type Pair } from './pair.ts';

/** One item on which the two sides do not agree. */
export interface Difference {
  recordId: string | null;
  href: string | null;
  moment: string;
  label: string;
  /** what a run would do about it; null: it waits for a person */
  mend: OperationKind | null;
  cause: string;
  changes: Change[];
}

/**
 * Both sides, counted: every record's moment is agreed, differing, missing on the calendar or left out; every event of
 * the calendar is agreed, differing, without its record, extra (its record has left) or foreign (no pair speaks of it).
 */
export interface AuditCounts {
  moments: number;
  leftOut: number;
  agreed: number;
  differing: number;
  missing: number;
  missingRecords: number;
  extra: number;
  foreign: number;
  events: number;
}

export interface Audit {
  counts: AuditCounts;
  /** the first ten thousand of them */
  differences: Difference[];
  /** do the counts of both sides add up? If not, something is there that nobody can place. */
  addsUp: boolean;
}

type Place = 'agreed' | 'differing' | 'missing' | 'missingRecords' | 'extra';

const places: Record<OperationKind, Place> = {
  make: 'missing',
  'make record': 'missingRecords',
  change: 'differing',
  // Found on both sides already, but not yet a pair.
  adopt: 'differing',
  agree: 'agreed',
  remove: 'extra',
  'remove record': 'missing',
  part: 'extra',
  hold: 'differing',
};

const MOST_DIFFERENCES = 10_000;

/**
 * Counts two sides that are read whole, a batch at a time. The comparison is the engine's own: what an audit finds
 * differing is what a run would mend.
 */
export class AuditTally {
  readonly #counts: AuditCounts = { moments: 0, leftOut: 0, agreed: 0, differing: 0, missing: 0, missingRecords: 0, extra: 0, foreign: 0, events: 0 };
  readonly #differences: Difference[] = [];

  /** @param moments how many moments the lane has */
  add(plan: Plan, gathered: Gathered, moments: number): void {
    const operations = new Map(plan.operations.map((o) => [o.pair.id, o]));
    const verdicts = new Map(
      plan.verdicts.flatMap((v) => (v.verdict === null || v.recordId === null ? [] : [[`${v.recordId} ${v.moment}`, v.verdict] as const])),
    );
    const is = (href: string | null, events: ReadonlyMap<string, EventView | null>) => href !== null && events.get(href) != null;
    for (const pair of gathered.pairs) {
      const operation = operations.get(pair.id);
      operations.delete(pair.id);
      const there = is(pair.href, gathered.events);
      if (operation !== undefined) {
        if (!isFollowed(pair)) this.#place(places[operation.kind], operation.pair, operation.kind, operation.cause, operation.changes);
        // A question about an event that is gone concerns something missing, not something too much.
        else this.#place(there ? places[operation.kind] : 'missing', operation.pair, operation.kind, operation.cause, operation.changes);
        continue;
      }
      if (!isFollowed(pair)) continue;
      const verdict = verdicts.get(`${pair.recordId} ${pair.moment}`);
      const open =
        pair.state === 'held'
          ? 'it is held until a person decides'
          : verdict?.reason === 'unfit value' || verdict?.reason === 'unreadable event'
            ? verdict.condition
            : null;
      this.#place(there ? (open === null ? 'agreed' : 'differing') : 'missing', pair, null, open ?? 'its event is not there', []);
    }
    for (const o of operations.values()) this.#place(places[o.kind], o.pair, o.kind, o.cause, o.changes);
    this.#counts.moments += gathered.records.filter((r) => r.item !== null).length * moments;
    this.#counts.leftOut += plan.verdicts.filter((v) => v.verdict !== null && v.recordId !== null).length;
  }

  #place(place: Place, pair: Pair, mend: OperationKind | null, cause: string, changes: Change[]): void {
    this.#counts[place]++;
    if (place === 'agreed' || this.#differences.length >= MOST_DIFFERENCES) return;
    this.#differences.push({ recordId: pair.recordId, href: pair.href, moment: pair.moment, label: pair.label, mend, cause, changes });
  }

  /**
   * @param events how many events are on the calendar
   * @param unknown how many of them no followed pair speaks of
   */
  total(events: number, unknown: number): Audit {
    const counts = { ...this.#counts, events };
    const adopted = this.#differences.filter((d) => d.mend === 'adopt').length;
    counts.foreign = Math.max(0, unknown - adopted - counts.missingRecords);
    const there = counts.agreed + counts.differing + counts.extra + counts.missingRecords + counts.foreign;
    return { counts, differences: this.#differences, addsUp: there === events };
  }
}
