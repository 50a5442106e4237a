import type { EventView, LaneContext } from '../engine/context.ts';
import type { Operation } from '../engine/operation.ts';
import { type Baseline, isMadeFor, type Pair } from '../engine/pair.ts';
import { type EventRead, readEvent } from '../ical/event-text.ts';
import { shownProperties } from '../lane/definition.ts';
import { type EventValues, noValues } from '../maps/properties.ts';
import { placeOf } from '../recurrence/place.ts';
import { type GuestChange, guestChanges, type Invitation, invitationOf, type KnownGuest, wholeInvitation } from './invitation.ts';

/** Does the lane invite guests, by itself or by the calendar server? */
export const invites = ({ definition }: Pick<LaneContext, 'definition'>): boolean => definition.invitations.by !== 'none';

/** An event as it will be, as far as that is known. */
interface After {
  values: Partial<EventValues>;
  /** null: it is being made */
  read: EventRead | null;
}

/**
 * How the guests of a pair's event stand once an operation is done.
 * @param guests what is noted of the pair's guests
 * @param stored the event as it was read back; undefined: it was not, or it is not written yet
 */
export function guestChangesOf(
  operation: Operation,
  guests: readonly KnownGuest[],
  context: LaneContext,
  stored?: EventRead | undefined,
): GuestChange[] {
  if (!invites(context)) return [];
  const after = stored === undefined ? afterwards(operation, context) : { values: stored.values, read: stored };
  if (after === 'undecided' || (after !== 'gone' && !isOurs(after, operation.pair, context))) return [];
  const all = withEarlier(guests, operation, context);
  if (after === 'gone') return guestChanges(all, null, context.zones, context.quietGuests);
  const place = placeOfUid(after.read?.uid ?? operation.pair.uid);
  const now = invitationOf(shared(after.values, context), { ...place, sequence: after.read?.sequence ?? 0 });
  // Who is a guest of a whole series was invited to it: each of its occurrences is no news.
  const familiar = place.occurrence !== null && all.length === 0;
  return guestChanges(all, now, context.zones, familiar || context.quietGuests === true);
}

/** The operation with what its event's guests hear of it. */
export const withNotices = (operation: Operation, guests: readonly KnownGuest[], context: LaneContext): Operation => ({
  ...operation,
  notices: guestChangesOf(operation, guests, context).flatMap((c) => c.notice ?? []),
});

/** What guests read besides title, time, rule and status is the lane's choice: an event may hold notes that are not for them. */
const shared = (values: Partial<EventValues>, { definition }: LaneContext): Partial<EventValues> => {
  const { shows } = definition.invitations;
  return Object.fromEntries(
    Object.entries(values).map(([name, value]) => [name, optional.has(name) && !shows.includes(name as (typeof shows)[number]) ? null : value]),
  ) as Partial<EventValues>;
};
const optional: ReadonlySet<string> = new Set(shownProperties);

/** `undecided`: it does not concern the guests. */
function afterwards(operation: Operation, context: LaneContext): After | 'gone' | 'undecided' {
  const { kind, event, eventEdits, pair } = operation;
  if (kind === 'remove') return 'gone';
  if (kind === 'create') {
    if (operation.restore === null) return { values: { ...noValues, ...eventEdits }, read: null };
    const read = readEvent(operation.restore, context.zones);
    return { values: read.values, read };
  }
  // While a person decides, guests hear nothing: what is settled then tells them.
  if (kind === 'hold') return 'undecided';
  // An unlinked event is not ours to speak of, unless it is cancelled by that, or went together with its record.
  if (kind === 'unlink' && eventEdits.status === 'cancelled') return 'gone';
  if (kind === 'unlink') return event === null && pair.state === 'removed' && pair.baseline !== null ? 'gone' : 'undecided';
  if (event === null) return kind === 'create record' ? 'undecided' : 'gone';
  return event.read === null ? 'undecided' : { values: { ...knownOf(event, pair), ...eventEdits }, read: event.read };
}

/** An event that was not read again says what both sides agreed on, and no more. */
function knownOf(event: EventView, { baseline }: Pair): Partial<EventValues> {
  const values = event.read?.values ?? noValues;
  return event.text !== null || baseline === null ? values : only(values, baseline);
}

const only = (values: EventValues, baseline: Baseline): Partial<EventValues> =>
  Object.fromEntries(Object.entries(values).filter(([name]) => name in baseline.event)) as Partial<EventValues>;

/** The organizer of an event invites its guests. */
function isOurs({ values, read }: After, pair: Pair, context: LaneContext): boolean {
  const organizer = values.organizer ?? null;
  return (
    organizer === null ||
    read === null ||
    isMadeFor(pair, context.lane, read.uid) ||
    context.ownAddresses?.has(organizer.email.toLowerCase()) === true
  );
}

/** Guests of whom nothing is noted were there when both sides last agreed: they know what was agreed on. */
function withEarlier(guests: readonly KnownGuest[], { pair, event }: Operation, context: LaneContext): KnownGuest[] {
  const { baseline } = pair;
  if (baseline === null) return [...guests];
  const agreed = { ...(event === null ? {} : knownOf(event, pair)), ...(baseline.event as Partial<EventValues>) };
  const noted = new Set(guests.map((g) => g.email));
  const earlier = (agreed.attendees ?? []).filter((a) => !noted.has(a.email.toLowerCase()));
  if (earlier.length === 0) return [...guests];
  const knows = wholeInvitation(invitationOf(shared(agreed, context), { ...placeOfUid(pair.uid), sequence: event?.read?.sequence ?? 0 }), null);
  return [
    ...guests,
    ...earlier.map(
      (a): KnownGuest => ({
        pair: pair.id,
        email: a.email.toLowerCase(),
        name: a.name ?? null,
        knows,
        reply: null,
        seen: { response: null, delivery: null },
      }),
    ),
  ];
}

const placeOfUid = (uid: string): Pick<Invitation, 'uid' | 'occurrence'> => {
  const { object, id } = placeOf(uid);
  return { uid: object, occurrence: id };
};
