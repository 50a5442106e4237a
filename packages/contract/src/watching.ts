import type { CountStep } from '@monsoon/core';
import * as yup from 'yup';
import { countSteps } from './choices.ts';
import { count, list, maybe, text, time } from './parts.ts';

/** The shapes of watching: what failed, what was counted, and what audits found over time. */

export const failureGroupShape = yup
  .object({
    reason: text(),
    condition: text(),
    count: count(),
    items: list(yup.object({ recordId: maybe(), href: maybe(), moment: text(), label: text(), value: text() }).noUnknown()),
  })
  .noUnknown();
export const retryRequestShape = yup.object({ reason: yup.string().max(200), condition: yup.string().max(1000) }).noUnknown();

export const countedShape = yup
  .object({
    step: yup
      .string<CountStep>()
      .oneOf([...countSteps])
      .defined(),
    /** the first day of each step, in order */
    steps: list(yup.string().defined()),
    /** what was counted apart, the largest first; each with a number for every step */
    groups: list(yup.object({ name: text(), counts: list(count()), total: count() }).noUnknown()),
    total: count(),
    /** the last seven days and the seven before; this month so far, and as many days of the one before */
    lately: yup.object({ week: count(), weekBefore: count(), month: count(), monthBefore: count() }).noUnknown().defined(),
    /** false: there are more items than were read */
    complete: yup.boolean().defined(),
  })
  .noUnknown();

export const pastAuditShape = yup
  .object({
    at: time(),
    cause: text(),
    differences: count(),
    addsUp: yup.boolean().defined(),
    counts: yup
      .mixed()
      .defined()
      .meta({ schema: { type: 'object' } }),
  })
  .noUnknown();

export type FailureGroup = yup.InferType<typeof failureGroupShape>;
export type CountedAnswer = yup.InferType<typeof countedShape>;
export type PastAudit = yup.InferType<typeof pastAuditShape>;
