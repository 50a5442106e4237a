import { responses } from '@monsoon/core';
import * as yup from 'yup';
import { count, list, maybe, maybeTime, text, time } from './parts.ts';

/** The last message to a guest: none yet; it waits, is being sent, was taken, may have been taken, or was refused. */
export const guestStates = ['known', 'waiting', 'sending', 'sent', 'doubtful', 'refused'] as const;
export type GuestState = (typeof guestStates)[number];

/** A guest of an item, the last message to them, and what they replied. */
export const guestShape = yup
  .object({
    item: text(),
    moment: text(),
    label: text(),
    /** the pair of record and event: with the address, it names the guest */
    pair: text(),
    email: text(),
    name: maybe(),
    state: yup
      .string<GuestState>()
      .oneOf([...guestStates])
      .defined(),
    /** what is sent, or was last: invited, updated, cancelled */
    message: maybe(),
    why: text(),
    trouble: maybe(),
    dueAt: maybeTime(),
    sentAt: maybeTime(),
    reply: yup
      .string()
      .oneOf([...responses])
      .nullable()
      .defined(),
    replyVia: maybe(),
    repliedAt: maybeTime(),
    comment: maybe(),
    /** what happened, the oldest first */
    log: list(yup.object({ at: time(), what: text(), detail: text() }).noUnknown()),
  })
  .noUnknown();

/** The guests of a lane in numbers. */
export const guestCountsShape = yup
  .object({
    guests: count(),
    waiting: count(),
    doubtful: count(),
    refused: count(),
    accepted: count(),
    declined: count(),
    tentative: count(),
    open: count(),
    /** guests who were there before the lane invited: they got no message */
    known: count(),
  })
  .noUnknown();
export const laneGuestsShape = yup.object({ counts: guestCountsShape, items: list(guestShape), next: maybe() }).noUnknown();
export const guestSettleShape = yup
  .object({
    as: yup.string<'sent' | 'again'>().oneOf(['sent', 'again'], '${path}: "${value}" is not what can become of it; choices are ${values}').required(),
  })
  .noUnknown()
  .required();
export const mailPreviewShape = yup.object({ subject: text(), to: text(), html: text(), text: text() }).noUnknown();

export type GuestAnswer = yup.InferType<typeof guestShape>;
export type LaneGuestsAnswer = yup.InferType<typeof laneGuestsShape>;
