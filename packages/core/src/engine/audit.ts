import type { Gathered } from './context.ts';
import type { Change } from './merge.ts';
import type { Operation, Plan } from './plan.ts';

/** One item on which the two sides do not agree. */
export interface Difference {
  recordId: string;
  moment: string;
  label: string;
  /** what a run would do about it */
  mend: Operation['kind'];
  cause: string;
  changes: Change[];
}

/**
 * Both sides, counted: every record's moment is agreed, differing, missing on the calendar or left out; every event of
 * the calendar is agreed, differing, extra (its record has left) or foreign (no pair speaks of it).
 */
export interface AuditCounts {
  moments: number;
  leftOut: number;
  agreed: number;
  differing: number;
  missing: number;
  extra: number;
  foreign: number;
  events: number;
}

export interface Audit {
  counts: AuditCounts;
  differences: Difference[];
  /** do the counts of both sides add up? If not, something is there that nobody can place. */
  addsUp: boolean;
}

const places: Record<Operation['kind'], 'differing' | 'missing' | 'extra' | 'agreed'> = {
  make: 'missing',
  change: 'differing',
  // Found on the calendar already, but not yet a pair.
  adopt: 'differing',
  agree: 'agreed',
  remove: 'extra',
  part: 'extra',
  hold: 'extra',
};

/**
 * Places every item of two sides that were read whole. The comparison is the engine's own: what an audit finds
 * differing is what a run would mend.
 *
 * @param events hrefs of everything that is on the calendar
 */
export function audit(plan: Plan, gathered: Gathered, events: ReadonlySet<string>, moments: number): Audit {
  const counts: AuditCounts = { moments: 0, leftOut: 0, agreed: plan.unchanged, differing: 0, missing: 0, extra: 0, foreign: 0, events: events.size };
  const differences: Difference[] = [];
  const spoken = new Set<string>();
  for (const pair of gathered.pairs)
    if (pair.href !== null && pair.state !== 'parted' && pair.state !== 'removed' && events.has(pair.href)) spoken.add(pair.href);
  for (const operation of plan.operations) {
    const { pair, kind, cause, changes } = operation;
    // A question about an event that is gone concerns something missing, not something too much.
    const place = places[kind] === 'extra' && (pair.href === null || !events.has(pair.href)) ? 'missing' : places[kind];
    counts[place]++;
    if (place !== 'agreed') differences.push({ recordId: pair.recordId, moment: pair.moment, label: pair.label, mend: kind, cause, changes });
    if (kind === 'adopt' && pair.href !== null) spoken.add(pair.href);
  }
  // A held pair is a question that was asked already: it needs no operation, and is no agreement.
  for (const pair of gathered.pairs) {
    if (pair.state !== 'held' || plan.operations.some((o) => o.pair.id === pair.id)) continue;
    const place = pair.href !== null && events.has(pair.href) ? 'extra' : 'missing';
    counts[place]++;
    differences.push({
      recordId: pair.recordId,
      moment: pair.moment,
      label: pair.label,
      mend: 'hold',
      cause: 'it is held until a person decides',
      changes: [],
    });
  }
  counts.moments = gathered.records.filter((r) => r.item !== null).length * moments;
  counts.leftOut = plan.verdicts.filter((v) => v.verdict !== null).length;
  counts.foreign = [...events].filter((href) => !spoken.has(href)).length;
  const there = counts.agreed + counts.differing + counts.extra + counts.foreign;
  return { counts, differences, addsUp: there === counts.events };
}
