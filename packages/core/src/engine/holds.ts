import { canonical } from '../record/fields.ts';
import type { Baseline, LinkValues } from './pair.ts';

/** What a person may be asked, and the answers there are. */
export const holdChoices = {
  'record deleted': ['remove', 'mark cancelled', 'create again', 'keep'],
  'filtered out': ['remove', 'keep'],
  'date lost': ['remove', 'keep'],
  'event deleted': ['create again', 'delete record', 'set fields', 'unlink'],
  'event cancelled': ['delete record', 'set fields', 'keep', 'unlink'],
  'event filtered out': ['delete record', 'keep'],
  'edited and deleted': ['edit wins', 'deletion wins'],
  conflict: ['records win', 'calendar wins'],
  // Each candidate can be taken; they are named in the hold itself.
  'several candidates': ['create new', 'leave out'],
  'keeps changing': ['try again', 'unlink'],
  'repeating event': ['unlink'],
  'organised by another': ['calendar wins', 'leave'],
  'another time proposed': ['accept', 'decline'],
} as const;
export type HoldQuestion = keyof typeof holdChoices;

/** What a person says to `several candidates`: that one of them is the item's own, that none is, or that it is to be left out. */
export type CandidateAnswer = ({ kind: 'take'; id: string } | { kind: 'create new' } | { kind: 'leave out' }) & {
  /** as it was given */
  text: string;
};

const TAKE = 'take ';
/** The answer in words, as people and programs give it. */
export const takeChoice = (id: string): string => `${TAKE}${id}`;
/** @returns null where nothing is answered */
export function candidateAnswer(choice: string | null): CandidateAnswer | null {
  if (choice?.startsWith(TAKE)) return { kind: 'take', id: choice.slice(TAKE.length), text: choice };
  return choice === 'create new' || choice === 'leave out' ? { kind: choice, text: choice } : null;
}

/** What the answers to some questions could take: UIDs of events, ids of records. Until then, nothing else is made of these. */
export const takenByAnswers = (asked: readonly { choices: readonly string[] }[]): Set<string> =>
  new Set(asked.flatMap((hold) => hold.choices.map(candidateAnswer).flatMap((answer) => (answer?.kind === 'take' ? [answer.id] : []))));

/** A question to a person, with what both sides said when it was asked. */
export interface Hold {
  question: HoldQuestion;
  /** says about which values it was asked: if they change, an answer to it answers nothing */
  asked: string;
  choices: string[];
  cause: string;
  record: LinkValues;
  event: LinkValues;
  baseline: Baseline | null;
  /** of several candidates: what each says, and the answer that takes it */
  candidates?: Candidate[];
}

export interface Candidate {
  choice: string;
  values: LinkValues;
}

/** One text for what a question is about. */
export const askedAbout = (...values: unknown[]): string => canonical(values);
