import { isAddress } from '../maps/field-maps.ts';
import type { Attendee, EventValues, PropertyName, Response } from '../maps/properties.ts';
import { sameProperty } from '../maps/properties.ts';
import type { When } from '../time/when.ts';
import type { ZoneTable } from '../time/zones.ts';

/** The properties of an invitation. */
const guestProperties = ['title', 'when', 'recurrence', 'location', 'description', 'status', 'link', 'conference'] as const;
type GuestProperty = (typeof guestProperties)[number];

/** What a guest has to know of an event: what an invitation says. */
export interface Invitation extends Pick<EventValues, GuestProperty> {
  uid: string;
  /** of an occurrence of a series: its original start, as in its address */
  occurrence: string | null;
  organizer: Attendee | null;
  guests: Attendee[];
  /** RFC 5545, 3.8.7.4 */
  sequence: number;
}

/** Another time that a guest proposes (RFC 5546, 3.2.7). */
export interface Proposal {
  when: When;
  /** RFC 3339: when it was written */
  stamp: string;
  comment: string | null;
  /** a person has answered it */
  answered?: true;
}

/** A guest of a pair, and what they know of its event. */
export interface KnownGuest {
  /** the pair */
  pair: string;
  /** in small letters */
  email: string;
  name: string | null;
  /** what they know of the event; null: they do not know of it */
  knows: Invitation | null;
  /** a reply that its event does not show yet */
  reply: Response | null;
  /** what is noted of the guest as their event shows them: the reply, and what the calendar server says of the delivery */
  seen: { response: Response | null; delivery: string | null };
  /** another time that they propose, until it is answered */
  proposal?: Proposal | null;
}

/** A message that a guest gets (RFC 5546, 3.2). */
export interface Notice {
  email: string;
  name: string | null;
  method: 'REQUEST' | 'CANCEL';
  /** in words */
  why: string;
  /** the event takes place without this guest */
  uninvited?: true;
}

/** How a guest stands once an operation is done. */
export interface GuestChange {
  email: string;
  name: string | null;
  /** what they knew before */
  knows: Invitation | null;
  /** what they should know; null: that it does not concern them any more */
  invitation: Invitation | null;
  /** null: there is nothing to say */
  notice: Notice | null;
}

/** Other changes are no news to a guest (RFC 5546, 2.1.4). */
const news: { property: GuestProperty; why: string }[] = [
  { property: 'when', why: 'another time' },
  { property: 'location', why: 'another place' },
  { property: 'recurrence', why: 'it repeats differently' },
  { property: 'status', why: 'another status' },
];

/** What an event says to its guests, as far as its values are known. */
export const invitationOf = (values: Partial<EventValues>, more: Pick<Invitation, 'uid' | 'occurrence' | 'sequence'>): Partial<Invitation> => {
  const knows = guestProperties.filter((p) => p in values).map((p) => [p, values[p] ?? null]);
  return {
    ...(Object.fromEntries(knows) as Pick<EventValues, GuestProperty>),
    ...('organizer' in values ? { organizer: values.organizer ?? null } : {}),
    ...('attendees' in values ? { guests: values.attendees ?? [] } : {}),
    ...more,
  };
};

/** A whole invitation, of which what is not known is as it was. */
export const wholeInvitation = (known: Partial<Invitation>, before: Invitation | null): Invitation => ({
  uid: '',
  occurrence: null,
  sequence: 0,
  title: null,
  when: null,
  recurrence: null,
  location: null,
  description: null,
  status: null,
  link: null,
  conference: null,
  organizer: null,
  guests: [],
  ...before,
  ...known,
});

/**
 * The message that each guest gets once the event stands like this.
 * @param known what is known of the guests so far
 * @param now the event as it will be, as far as it is known; null: it is gone or cancelled
 * @param quiet present guests get no message: they count as informed
 */
export function guestChanges(known: readonly KnownGuest[], now: Partial<Invitation> | null, zones: ZoneTable, quiet = false): GuestChange[] {
  const before = new Map(known.map((g) => [g.email, g]));
  if (now === null || now.status === 'cancelled')
    return known.map((g) => leaving(g, now === null ? 'it does not take place' : 'it is cancelled', quiet));
  // Anybody with access to the calendar can write anything there: what is no single address gets no message, and no row.
  const invited = (now.guests ?? []).filter((g) => isAddress(g.email));
  const earlier = () => known.flatMap((g) => (g.knows === null ? [] : [{ email: g.email, ...(g.name === null ? {} : { name: g.name }) }]));
  const guests: Attendee[] = now.guests === undefined ? earlier() : invited;
  const there = new Set(guests.map((g) => g.email.toLowerCase()));
  const staying = guests.map((guest): GuestChange => {
    const email = guest.email.toLowerCase();
    const knows = before.get(email)?.knows ?? null;
    const name = guest.name ?? before.get(email)?.name ?? null;
    const invitation = wholeInvitation(now, knows);
    const why = knows === null ? 'a new guest' : differences(knows, invitation, zones);
    const method = 'REQUEST' as const;
    return { email, name, knows, invitation, notice: quiet || why === null ? null : { email, name, method, why } };
  });
  return [...staying, ...known.filter((g) => !there.has(g.email)).map((g) => leaving(g, 'no longer a guest', quiet, true))];
}

const leaving = ({ email, name, knows }: KnownGuest, why: string, quiet: boolean, uninvited = false): GuestChange => ({
  email,
  name,
  knows,
  invitation: null,
  notice: quiet || knows === null ? null : { email, name, method: 'CANCEL', why, ...(uninvited ? { uninvited } : {}) },
});

function differences(knows: Invitation, now: Invitation, zones: ZoneTable): string | null {
  const found = news.filter(({ property }) => !sameProperty(property as PropertyName, knows[property], now[property], zones));
  return found.length === 0 ? null : found.map((f) => f.why).join(', ');
}

/** Does a reply to the earlier invitation say nothing of the present one? So it is when the event takes place at another time (RFC 5546, 3.2.2.1). */
export const isRescheduled = (knows: Invitation, now: Partial<Invitation>, zones: ZoneTable): boolean =>
  (['when', 'recurrence'] as const).some((p) => p in now && !sameProperty(p, knows[p], now[p], zones));
