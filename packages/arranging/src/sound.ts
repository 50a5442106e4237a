import { type Collection, checkLane, type LaneDefinition, type Problem, readLane, type ZoneTable } from '@monsoon/core';
import { ValidationError } from 'yup';
import type { LaneDraft } from './starters.ts';

/** Stands in for a time that is not chosen yet: no collection has such a field, so every record is without a date. */
export const NOT_CHOSEN = '(not chosen)';

/** A path as Yup writes it (`moments[0].name`) as a JSON Pointer (RFC 6901). */
export const pointerOf = (path: string): string =>
  path === ''
    ? ''
    : `/${path
        .replace(/\[(\d+)\]/g, '.$1')
        .replace(/\["([^"]+)"\]/g, '.$1')
        .split('.')
        .filter(Boolean)
        .join('/')}`;

/** The settings of which a finding is; what is wrong in one of them leaves the others as they are. */
const ownerOf = (pointer: string): string[] => {
  const steps = pointer.split('/').slice(1);
  const depth =
    steps[0] === 'fields' || steps[0] === 'records' || steps[0] === 'calendar' ? 2 : steps[0] === 'moments' ? (steps[2] === 'fields' ? 4 : 3) : 1;
  return steps.slice(0, depth);
};

function without(draft: LaneDraft, owner: string[]): boolean {
  let at: Record<string, unknown> | undefined = draft;
  for (const step of owner.slice(0, -1)) at = at?.[step] as Record<string, unknown> | undefined;
  const last = owner.at(-1);
  if (at === undefined || last === undefined || !Object.hasOwn(at, last)) return false;
  delete at[last];
  return true;
}

/** Fills in what a lane cannot be read without. */
function complete(draft: LaneDraft): void {
  const object = (v: unknown) => (v !== null && typeof v === 'object' && !Array.isArray(v) ? v : {});
  draft['name'] ??= 'A lane';
  draft['records'] = { system: NOT_CHOSEN, collection: NOT_CHOSEN, ...object(draft['records']) };
  draft['calendar'] = { system: NOT_CHOSEN, calendar: NOT_CHOSEN, ...object(draft['calendar']) };
  draft['direction'] ??= '->';
  draft['zone'] ??= 'UTC';
  draft['fields'] = object(draft['fields']);
  const moments = Array.isArray(draft['moments']) ? (draft['moments'] as unknown[]) : [];
  draft['moments'] = (moments.length === 0 ? [{}] : moments).map((m, i) => ({ name: `moment ${i + 1}`, when: { day: NOT_CHOSEN }, ...object(m) }));
}

/**
 * The part of an unfinished lane that can work already, so that it can be shown while the rest is being arranged.
 *
 * @param collection null: none is chosen, or it cannot be read
 * @returns every finding about the draft as it is, and the lane without the settings that they are about
 */
export function soundPart(
  draft: LaneDraft,
  collection: Collection | null,
  zones: ZoneTable,
  collections: readonly Collection[] = collection === null ? [] : [collection],
): { definition: LaneDefinition; problems: Problem[] } {
  const problems = findings(draft, collection, zones, collections).problems;
  const part = structuredClone(draft);
  complete(part);
  // Each round takes a setting away, and there are only so many.
  for (let round = 0; round < 100; round++) {
    const { lane, problems: left } = findings(part, collection, zones, collections);
    let smaller = false;
    for (const { pointer } of left) smaller = without(part, ownerOf(pointer)) || smaller;
    if (!smaller && lane !== null) return { definition: lane, problems };
    if (!smaller) break;
    complete(part);
  }
  const bare: LaneDraft = {};
  complete(bare);
  return { definition: readLane(bare).lane, problems };
}

function findings(
  draft: LaneDraft,
  collection: Collection | null,
  zones: ZoneTable,
  collections: readonly Collection[],
): { lane: LaneDefinition | null; problems: Problem[] } {
  try {
    const { lane, columns } = readLane(draft);
    const found = collection === null ? [] : checkLane(lane, collection, zones, collections);
    const chosen = found.filter((p) => !p.reason.includes(NOT_CHOSEN));
    return { lane, problems: chosen.map((p) => (columns.has(p.pointer) ? { ...p, reason: `column ${columns.get(p.pointer)}: ${p.reason}` } : p)) };
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    const inner = error.inner.length > 0 ? error.inner : [error];
    return { lane: null, problems: inner.map((e) => ({ pointer: pointerOf(e.path ?? ''), reason: e.errors.join('; ') })) };
  }
}
