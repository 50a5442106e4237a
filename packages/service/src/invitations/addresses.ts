import { attendeeOf, fieldMapsOf, type LaneDefinition } from '@monsoon/core';
import { type Calendars, OutsideError } from '@monsoon/systems';
import type { App } from '../app.ts';
import { mailSender } from '../notifications/mails.ts';

/** Milliseconds that a calendar server has to say whose calendars it holds. */
const PATIENCE = 10_000;

const fixedOrganizers = (definition: LaneDefinition): string[] =>
  fieldMapsOf(definition, 'organizer')
    .flatMap((map) => ('fixed' in map ? [map.fixed].flat() : []))
    .map((text) => attendeeOf(text).email);

/**
 * In small letters: the addresses in whose name a lane invites, and those of the calendar's owner.
 */
export async function addressesOf(
  app: App,
  definition: LaneDefinition,
  calendars: Calendars,
): Promise<{ own: ReadonlySet<string>; owner: ReadonlySet<string> }> {
  const { ownAddresses } = definition.events;
  const said = await calendars.scheduling?.(AbortSignal.timeout(PATIENCE)).catch((error: unknown) => {
    // A server that does not speak of it says nothing; one that is away is no reason to write over what others organise.
    if (error instanceof OutsideError && ['refused', 'nonsense', 'gone'].includes(error.trouble)) return null;
    throw error;
  });
  const owner = [...ownAddresses, ...(said?.addresses ?? [])];
  const sender = definition.invitations.by === 'mail' ? await mailSender(app) : null;
  const small = (all: string[]) => new Set(all.map((a) => a.toLowerCase()));
  return { own: small([...owner, ...fixedOrganizers(definition), ...(sender === null ? [] : [sender.address])]), owner: small(owner) };
}
