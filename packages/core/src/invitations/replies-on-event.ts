import type { Change } from '../engine/change.ts';
import type { ReadEvent } from '../engine/context.ts';
import type { PairedInput } from '../engine/moment-input.ts';
import type { Attendee, MappedValues, Response } from '../maps/properties.ts';
import { invitationOf, isRescheduled, type KnownGuest } from './invitation.ts';

/** What goes to the event because of replies. */
export interface Replies {
  edits: MappedValues;
  changes: Change[];
  /** replies came that the event shows already, or the event shows some that are not noted */
  noted: boolean;
}

/** What an event newly says of a guest. */
export interface GuestNews {
  email: string;
  response?: Response;
  delivery?: string;
}

/** What the calendar, or its server, says of the guests of an event that is not noted of them: replies, and deliveries. */
export function newsOnEvent(known: readonly KnownGuest[], attendees: readonly Attendee[] | null): GuestNews[] {
  const noted = new Map(known.map((g) => [g.email, g]));
  return (attendees ?? []).flatMap((guest) => {
    const email = guest.email.toLowerCase();
    const { seen, reply } = noted.get(email) ?? { seen: { response: null, delivery: null }, reply: null };
    const response = guest.response ?? 'needs action';
    const { delivery } = guest;
    // A reply that came by another way is about to be written on the event.
    const replied = reply === null && response !== (seen.response ?? 'needs action');
    const delivered = delivery !== undefined && delivery !== seen.delivery;
    return replied || delivered ? [{ email, ...(replied ? { response } : {}), ...(delivered ? { delivery } : {}) }] : [];
  });
}

/**
 * The event with the replies that came by other ways than the calendar. A reply to another time than the present one says
 * nothing: that guest is asked again (RFC 5546, 3.2.2.1).
 * @param edits what else is about to be written on the event
 */
export function withReplies(
  { context, gathered, pair }: PairedInput,
  event: ReadEvent,
  edits: () => MappedValues,
): { event: ReadEvent; replies: Replies } {
  const known = new Map((gathered.guests?.get(pair.id) ?? []).map((g) => [g.email, g]));
  const before = event.read.values.attendees;
  const noted = [...known.values()].some((g) => g.reply !== null) || (known.size > 0 && newsOnEvent([...known.values()], before).length > 0);
  if (known.size === 0 || before === null) return { event, replies: { edits: {}, changes: [], noted } };
  const byMail = context.definition.invitations.by === 'mail';
  const now = invitationOf({ ...event.read.values, ...edits() }, { uid: '', occurrence: null, sequence: 0 });
  const responseOf = (guest: Attendee, { knows, reply }: KnownGuest): Attendee['response'] =>
    byMail && knows !== null && isRescheduled(knows, now, context.zones) ? 'needs action' : (reply ?? guest.response);
  const after = before.map((guest) => {
    const note = known.get(guest.email.toLowerCase());
    const response = note === undefined ? guest.response : responseOf(guest, note);
    return response === undefined ? guest : { ...guest, response };
  });
  const replied = after.filter((guest, i) => (guest.response ?? 'needs action') !== (before[i]?.response ?? 'needs action'));
  if (replied.length === 0) return { event, replies: { edits: {}, changes: [], noted } };
  const cause = replied.map((g) => `${g.name ?? g.email} ${sayResponse(g.response)}`).join(', ');
  return {
    event: { ...event, read: { ...event.read, values: { ...event.read.values, attendees: after, replies: after } } },
    replies: { edits: { replies: replied }, changes: [{ side: 'event', property: 'replies', before, after, cause }], noted },
  };
}

const sayResponse = (response: Attendee['response']): string =>
  response === undefined || response === 'needs action' ? 'is asked again' : response === 'tentative' ? 'may come' : `has ${response}`;
