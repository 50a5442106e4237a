import type { Change } from '../engine/change.ts';
import type { ReadEvent } from '../engine/context.ts';
import { askedAbout, type Hold } from '../engine/holds.ts';
import type { PairedInput } from '../engine/moment-input.ts';
import { goesToRecord } from '../lane/links.ts';
import type { MappedValues } from '../maps/properties.ts';
import { formatWhen } from '../time/format-when.ts';
import type { KnownGuest, Proposal } from './invitation.ts';

/** A time that a guest proposes, and what a person said to it. */
export interface Proposed {
  guest: KnownGuest;
  proposal: Proposal;
  asked: string;
  choice: 'accept' | 'decline' | null;
  /** it is asked already */
  isAsked: boolean;
}

const QUESTION = 'another time proposed';

/** The first proposal without an answer; null: there is none. */
export function proposedTime({ gathered, pair, hold }: PairedInput): Proposed | null {
  for (const guest of gathered.guests?.get(pair.id) ?? []) {
    const { proposal } = guest;
    if (proposal == null || proposal.answered === true) continue;
    const asked = askedAbout(QUESTION, guest.email, proposal.when);
    const isAsked = hold?.question === QUESTION && hold.asked === asked;
    return { guest, proposal, asked, choice: isAsked ? (hold.choice as Proposed['choice']) : null, isAsked: isAsked && pair.state === 'held' };
  }
  return null;
}

/** The event as it is once an accepted proposal moved it: as if somebody had moved it on the calendar. */
export function withProposal(proposed: Proposed | null, event: ReadEvent): { event: ReadEvent; edits: MappedValues; changes: Change[] } {
  if (proposed?.choice !== 'accept') return { event, edits: {}, changes: [] };
  const { when } = proposed.proposal;
  const before = event.read.values.when;
  return {
    event: { ...event, read: { ...event.read, values: { ...event.read.values, when } } },
    edits: { when },
    changes: [{ side: 'event', property: 'when', before, after: when, cause: `proposed by ${nameOf(proposed.guest)}, and accepted by a person` }],
  };
}

const nameOf = ({ name, email }: KnownGuest): string => name ?? email;

/** The question to a person. Where the lane cannot bring the time to the record, it can only be declined. */
export function askAboutProposal({ links, context, pair }: PairedInput, { guest, proposal, asked }: Proposed, event: ReadEvent): Hold {
  const when = links.find((l) => l.key === 'when');
  const mayMove = when !== undefined && goesToRecord(when) && context.definition.may.records.change;
  const comment = proposal.comment === null ? '' : `: "${proposal.comment}"`;
  return {
    question: QUESTION,
    asked,
    choices: mayMove ? ['accept', 'decline'] : ['decline'],
    cause: `${nameOf(guest)} proposes ${formatWhen(proposal.when)}${comment}`,
    record: { when: event.read.values.when },
    event: { when: proposal.when },
    baseline: pair.baseline,
  };
}
