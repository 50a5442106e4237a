import { fillsEvent, goesToEvent } from '../lane/links.ts';
import type { MappedValues, PropertyValue } from '../maps/properties.ts';
import type { RecordItem } from '../record/fields.ts';
import type { Case } from './case.ts';
import { linkContext } from './context.ts';
import type { Shown } from './judge.ts';
import type { Change } from './merge.ts';
import { type Operation, operation } from './operation.ts';
import { type Pair, pairId, step } from './pair.ts';

/** What a new event gets from a record. */
export function makeOperation(at: Case, pair: Pair, shown: Shown, label: string, cause: string): Operation {
  const { context, moment } = at;
  const item = at.record.item!;
  const eventEdits: Record<string, PropertyValue> = {};
  const changes: Change[] = [];
  for (const link of at.links) {
    const value = shown.values[link.key] ?? null;
    if (!fillsEvent(link) || value === null) continue;
    eventEdits[link.property] = value;
    changes.push({ side: 'event', property: link.property, before: null, after: value, cause });
  }
  const made: Pair = {
    ...pair,
    uid: pairId(context.lane, item.id, moment.name),
    href: null,
    etag: null,
    state: step(pair.state, 'making'),
    baseline: null,
    label,
  };
  const settled = at.links.filter((l) => l.direction !== 'once' && goesToEvent(l)).map((l) => l.key);
  return operation(
    'make',
    made,
    cause,
    { record: item, event: null },
    { changes, eventEdits: eventEdits as MappedValues, settled, notes: momentNotes(at, item) },
  );
}

/** Notes about clocks that went forward or back. */
export function momentNotes(at: Case, item: RecordItem): string[] {
  return at.links[0]!.notes?.(item, linkContext(at.context)) ?? [];
}
