import { askAboutProposal } from '../invitations/proposals.ts';
import type { Hold } from './holds.ts';
import type { MergedSides } from './merge-sides.ts';
import type { PairedInput } from './moment-input.ts';
import type { LinkValues } from './pair.ts';

type Open = { key: string; record: LinkValues[string]; event: LinkValues[string] }[];

const of = (open: Open, side: 'record' | 'event'): LinkValues => Object.fromEntries(open.map((o) => [o.key, o[side]]));
const keys = (open: Open): string => open.map((o) => o.key).join(', ');

/** What the lane does not show has to be said: the sides alone would show an empty record. */
const sayConflict = ({ key, unshown }: MergedSides['merged']['conflicts'][number]): string =>
  unshown === undefined ? key : `${key} (the record holds "${unshown}", which shows nothing on the calendar)`;

/** What a merge leaves open for a person: one question at a time, conflicts first. */
export function questionsOf(input: PairedInput, { merged, event, organizer, askedOrganised, proposed }: MergedSides): Hold[] {
  const { pair, hold, context } = input;
  const { conflicts, organised, impossible } = merged;
  const questions: Hold[] = [];
  if (conflicts.length > 0) {
    const failed = impossible === null ? '' : `; "${hold?.choice}" cannot be carried out: ${impossible.message}`;
    questions.push({
      question: 'conflict',
      asked: merged.asked,
      choices: ['records win', 'calendar wins'],
      cause: `changed on both sides: ${conflicts.map(sayConflict).join(', ')}${failed}`,
      record: of(conflicts, 'record'),
      event: of(conflicts, 'event'),
      baseline: pair.baseline,
    });
  }
  if (organizer !== null && organised.length > 0 && context.definition.events.organisedByOthers === 'hold')
    questions.push({
      question: 'organised by another',
      asked: askedOrganised,
      choices: ['calendar wins', 'leave'],
      cause: `changed in the record, and ${organizer.name ?? organizer.email} organises the event: ${keys(organised)}`,
      record: of(organised, 'record'),
      event: of(organised, 'event'),
      baseline: pair.baseline,
    });
  if (proposed !== null && proposed.choice === null) questions.push(askAboutProposal(input, proposed, event));
  return questions;
}

/** Does the question stand already, about just these values? */
export const isAsked = ({ hold, pair }: PairedInput, { question, asked }: Hold): boolean =>
  hold?.question === question && hold.asked === asked && hold.choice === null && pair.state === 'held';
