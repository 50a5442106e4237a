import { type MappedValues, sameProperty } from '../maps/properties.ts';
import type { EventView, Gathered, LaneContext } from './context.ts';
import { type Pair, pairId } from './pair.ts';

export interface Matches {
  /** the pair of a record's moment */
  pair(recordId: string, moment: string): Pair | undefined;
  /** events that may already stand for a record's moment which has no pair: at its own UID first, else by title and time */
  candidates(recordId: string, moment: string, values: MappedValues): EventView[];
}

const key = (recordId: string, moment: string) => JSON.stringify([recordId, moment]);
const fold = (text: string | null | undefined) => (text ?? '').trim().toLowerCase();

/** Finds each item's counterpart. Events that carry another lane's mark are nobody's candidates. */
export function match(context: LaneContext, gathered: Gathered): Matches {
  const pairs = new Map(gathered.pairs.map((p) => [key(p.recordId, p.moment), p]));
  const byUid = new Map<string, EventView>();
  const byTitle = new Map<string, EventView[]>();
  for (const event of gathered.strangers) {
    if (event.read === null) continue;
    byUid.set(event.read.uid, event);
    if (event.read.mark !== null) continue;
    const title = fold(event.read.values.title);
    byTitle.set(title, [...(byTitle.get(title) ?? []), event]);
  }
  const taken = new Set<string>();
  return {
    pair: (recordId, moment) => pairs.get(key(recordId, moment)),
    candidates(recordId, moment, values) {
      const own = byUid.get(pairId(context.lane, recordId, moment));
      const found =
        own !== undefined
          ? [own]
          : (byTitle.get(fold(values.title)) ?? []).filter((e) => sameStart(e, values, context)).filter((e) => !taken.has(e.href));
      if (found.length === 1) taken.add(found[0]!.href);
      return found;
    },
  };
}

function sameStart(event: EventView, values: MappedValues, context: LaneContext): boolean {
  const a = event.read!.values.when;
  const b = values.when;
  if (!a || !b) return false;
  if (a.kind === 'timed' && b.kind === 'timed') return sameProperty('when', { ...a, end: a.start }, { ...b, end: b.start }, context.zones);
  return a.kind === 'all-day' && b.kind === 'all-day' && a.first === b.first;
}
