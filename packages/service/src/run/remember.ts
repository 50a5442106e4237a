import type { RunCounts } from '@monsoon/contract';
import {
  changedAt,
  type EventRead,
  guestChangesOf,
  isCreation,
  isReshown,
  type KnownGuest,
  type LaneContext,
  type Moment,
  momentLinks,
  momentOfEvents,
  type Notice,
  newBaseline,
  newsOnEvent,
  noLongerFollowed,
  noValues,
  type Operation,
  type Pair,
  type RecordItem,
  stateOf,
  step,
  withMark,
  withSeen,
} from '@monsoon/core';
import type { StoredEvent } from '@monsoon/systems';
import { viewOf } from './event-view.ts';
import type { Batch, Entry } from './store.ts';
import type { Outcome } from './write-out.ts';

/** A batch while it is being filled. */
export type OpenBatch = Required<Pick<Batch, 'pairs' | 'entries' | 'verdicts' | 'holds' | 'guests' | 'replied' | 'seen' | 'answers'>> &
  Pick<Batch, 'invitations'>;
export const openBatch = (): OpenBatch => ({ pairs: [], entries: [], verdicts: [], holds: [], guests: [], replied: [], seen: [], answers: [] });

const names: Record<Operation['kind'], keyof RunCounts> = {
  create: 'created',
  'create record': 'created',
  change: 'changed',
  adopt: 'adopted',
  agree: 'inSync',
  remove: 'removed',
  'remove record': 'removed',
  unlink: 'unlinked',
  hold: 'held',
};
export const countOf = (operation: Operation): keyof RunCounts => names[operation.kind];

/** A write of which nothing more was heard, for the journal. */
export const attemptOf = (entry: Entry): Entry => ({
  ...entry,
  kind: 'attempt',
  notes: [...entry.notes, `no answer came to this ${entry.kind}: it may have been done`],
});

/** Puts what was done, and what both sides really hold now, into the batch. */
export function remember(
  outcome: Outcome,
  stored: Map<string, StoredEvent | null>,
  batch: OpenBatch,
  options: { context: LaneContext; counts: RunCounts; guests?: ReadonlyMap<string, KnownGuest[]> | undefined },
): void {
  const { operation } = outcome;
  const { counts } = options;
  const { recordId, href, moment, label } = operation.pair;
  const { pair, notes } = agreedPair(outcome, stored, options.context);
  batch.pairs.push(pair);
  // The journal names what the pair has let go of.
  const named = { ...pair, recordId: pair.recordId ?? recordId, href: pair.href ?? (operation.kind === 'unlink' ? href : null) };
  const sent = notifyGuests(outcome, stored, batch, options);
  batch.entries.push({ ...entryOf(operation, named), notes: [...operation.notes, ...notes, ...sent], removed: outcome.removed ?? null });
  if (operation.kind === 'hold') batch.holds.push({ ...operation.hold, pair });
  // A record that is no longer followed is there, and does not cross: that is said from now on.
  const unlinked = pair.state === 'unlinked' && operation.record !== null && operation.kind !== 'remove record';
  const verdict = unlinked ? noLongerFollowed : operation.kind === 'remove record' ? null : operation.verdict;
  batch.verdicts.push({ recordId, href: recordId === null ? href : null, moment, label, verdict });
  // An event whose record was taken away is an item of its own from now on.
  if (operation.kind === 'remove record' && operation.event !== null)
    batch.verdicts.push({ recordId: null, href: operation.event.href, moment, label, verdict: operation.verdict });
  // An event that has its record now is no longer known by its own place.
  if (pair.recordId !== null && pair.href !== null && ['create record', 'adopt', 'hold', 'unlink'].includes(operation.kind)) {
    // What was said of it as a new event was said of the moment that new events become.
    for (const of of new Set([moment, momentOfEvents(options.context).name]))
      batch.verdicts.push({ recordId: null, href: pair.href, moment: of, label, verdict: null });
    if (recordId === null) batch.verdicts.push({ recordId: pair.recordId, href: null, moment, label, verdict: operation.verdict });
  }
  counts[countOf(operation)]++;
}

/** The messages that guests get now that it is done. @returns the same in words, for the journal */
function notifyGuests(
  { operation, href }: Outcome,
  stored: Map<string, StoredEvent | null>,
  batch: OpenBatch,
  { context, guests }: { context: LaneContext; guests?: ReadonlyMap<string, KnownGuest[]> | undefined },
): string[] {
  if (guests === undefined) return [];
  const event = href === null ? null : (stored.get(href) ?? null);
  const read = event === null ? null : viewOf(event, context).read;
  const { id } = operation.pair;
  const known = guests.get(id) ?? [];
  const changes = guestChangesOf(operation, known, context, read ?? undefined);
  batch.invitations = context.definition.invitations;
  batch.guests.push(...changes.map((change) => ({ ...change, pair: id })));
  if (operation.answers !== null) batch.answers.push({ pair: id, ...operation.answers });
  const there = (read ?? operation.event?.read)?.values.attendees ?? [];
  batch.seen.push(...newsOnEvent(known, there).map((news) => ({ ...news, pair: id })));
  for (const { email, reply } of known) {
    if (reply === null) continue;
    const guest = there.find((a) => a.email.toLowerCase() === email);
    const isOver = guest === undefined || (guest.response ?? 'needs action') === reply || changes.some((c) => c.email === email && c.notice !== null);
    if (isOver) batch.replied.push({ pair: id, email, reply });
  }
  const server = context.definition.invitations.by === 'calendar server';
  return changes.flatMap(({ notice, knows }) => (notice === null ? [] : [sayNotice(notice, knows !== null, server)]));
}

/** `to Ada Lark: an invitation (a new guest)` */
export const sayNotice = ({ email, name, method, why }: Notice, knewBefore: boolean, byServer = false): string =>
  `to ${name === null ? email : `${name} <${email}>`}: ${method === 'CANCEL' ? 'a cancellation' : knewBefore ? 'an update' : 'an invitation'}${byServer ? ' by the calendar server' : ''} (${why})`;

export const entryOf = (operation: Operation, pair: Pair): Entry => ({
  pair,
  kind: operation.kind,
  cause: operation.cause,
  changes: operation.changes,
  notes: operation.notes,
  removed: null,
  changedAt: changedAt(operation),
});

/**
 * The record was written, and then the event had changed. What the record says now is what the event said when it was
 * planned from: that is agreed, or the next look would take our own writing for somebody's edit, and ask about a conflict.
 */
export function rememberHalf({ operation, record }: Outcome, batch: OpenBatch, context: LaneContext): void {
  const { pair } = operation;
  const changes = operation.changes.filter((c) => c.side === 'record');
  batch.entries.push({
    ...entryOf(operation, pair),
    changes,
    notes: [...operation.notes, 'the event had changed meanwhile, and was planned again'],
  });
  const eventBefore = operation.event?.read?.values;
  if (operation.kind !== 'change' || pair.baseline === null || eventBefore === undefined || record === undefined || operation.record === null) return;
  const links = momentLinks(context, momentOf(pair, context));
  const untouched = links.filter((l) => !(l.property in operation.eventEdits)).map((l) => l.key);
  const { baseline } = newBaseline(
    links,
    {
      before: pair.baseline,
      intended: {
        planned: operation.record,
        record: { ...operation.record, fields: { ...operation.record.fields, ...operation.recordEdits } },
        eventBefore,
        eventEdits: {},
        settled: operation.settled.filter((key) => untouched.includes(key)),
        again: false,
      },
      stored: { record, event: null },
    },
    context,
  );
  batch.pairs.push({ ...pair, baseline, etag: null, version: null });
}

const settles = (operation: Operation) => !['remove', 'remove record', 'unlink'].includes(operation.kind);

/** The pair with its new baseline, and a note where somebody else's edit got in between our write and our look. */
function agreedPair(outcome: Outcome, stored: Map<string, StoredEvent | null>, context: LaneContext): { pair: Pair; notes: string[] } {
  const { operation } = outcome;
  const { pair } = operation;
  if (operation.kind === 'remove' || operation.kind === 'remove record')
    // A pair whose record was taken away by rule begins with its event again, should that belong once more.
    return {
      pair: {
        ...pair,
        recordId: operation.kind === 'remove record' && pair.state === 'removed' ? null : pair.recordId,
        href: pair.state === 'unlinked' ? pair.href : null,
        etag: null,
        version: null,
        baseline: null,
      },
      notes: [],
    };
  // Should an event stand there again, it is a new one.
  if (operation.kind === 'unlink' && pair.state === 'removed') return { pair: { ...pair, href: null, etag: null }, notes: [] };
  // A question about an item that has left moves nothing: what was agreed on stays agreed on until it is answered.
  if (!settles(operation) || (operation.kind === 'hold' && operation.settled.length === 0)) return { pair, notes: [] };
  const notes = outcome.found === true ? ['it was there already: an earlier attempt had made it'] : [];
  const links = momentLinks(context, momentOf(pair, context));
  const event = outcome.href === null ? null : (stored.get(outcome.href) ?? null);
  const read: EventRead | null = event === null ? (outcome.href === null ? (operation.event?.read ?? null) : null) : viewOf(event, context).read;
  const before = operation.kind === 'create' || operation.kind === 'create record' ? null : pair.baseline;
  const blank: RecordItem = { id: '', fields: {} };
  const planned = operation.record ?? { ...blank, fields: Object.fromEntries(context.collection.fields.map((f) => [f.name, null])) };
  const written = Object.keys(operation.recordEdits).length > 0;
  const meant = written ? { ...planned, fields: { ...planned.fields, ...operation.recordEdits } } : planned;
  const { baseline, foreign, unkept, failed } = newBaseline(
    links,
    {
      before,
      intended: {
        planned: operation.record,
        record: meant,
        eventBefore: operation.event?.read?.values ?? noValues,
        eventEdits: operation.eventEdits,
        settled: operation.settled,
        again: outcome.found === true || (operation.kind === 'create record' && operation.event?.etag === null),
      },
      stored: { record: outcome.record ?? operation.record, event: read?.values ?? null },
    },
    context,
  );
  const isNew = isCreation(operation) && operation.restore === null;
  const state = isNew ? step(pair.state, 'in sync') : pair.state;
  const recordId = outcome.record?.id ?? pair.recordId;
  // An ETag says "as agreed": without agreement in everything, the next look must read the event again.
  const loose = foreign.length > 0 || failed.length > 0 || operation.loose;
  const redefined = operation.record !== null && isReshown(context, pair, operation.record);
  const etag = outcome.href === null ? (operation.event?.etag ?? null) : (event?.etag ?? null);
  const said = foreign.map((key) => `${key} was changed in the same moment; the next check settles it`);
  return {
    pair: {
      ...pair,
      recordId,
      state,
      href: outcome.href ?? pair.href,
      etag: loose || operation.leaves ? null : etag,
      // What is still open was edited since the baseline of that link: no later version of the lane may take it for its own
      // doing. Where it is this version's doing, it stays so until the record is edited.
      version: loose && !redefined ? null : nameOf(outcome.record ?? operation.record),
      laneVersion: loose && redefined ? pair.laneVersion : context.version,
      tried: null,
      // An event that was put back without its record agrees with nothing.
      baseline:
        outcome.record === undefined && operation.record === null
          ? null
          : withSeen(withMark(baseline, read?.mark ?? null, context.lane), outcome.record ?? operation.record, read),
      attempted: null,
    },
    notes: [
      ...notes,
      ...said,
      ...failed,
      ...unkept.map((key) => `the calendar does not show ${key} as it was written: it does not keep it, or somebody took it away at once`),
    ],
  };
}

const nameOf = (record: RecordItem | null): string | null => (record === null ? null : stateOf(record));

const momentOf = (pair: Pair, context: LaneContext): Moment =>
  context.definition.moments.find((m) => m.name === pair.moment) ?? momentOfEvents(context);
