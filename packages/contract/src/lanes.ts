import {
  type Change,
  type HoldQuestion,
  holdChoices,
  type LaneDefinition,
  laneSchema,
  operationKinds,
  pairStates,
  verdictReasons,
} from '@monsoon/core';
import * as yup from 'yup';

import { guestShape } from './guests.ts';
import { baseline, count, list, maybe, maybeTime, text, time, values } from './parts.ts';

/** The shapes of what the HTTP interface takes and gives: checked, documented and typed from here alone. */

export const runStates = ['waiting', 'running', 'done', 'failed', 'held'] as const;
export type RunState = (typeof runStates)[number];
export const countNames = ['created', 'changed', 'removed', 'adopted', 'inSync', 'unlinked', 'held', 'unchanged', 'leftOut', 'failed'] as const;
export type RunCounts = Record<(typeof countNames)[number], number>;
const countsShape = yup
  .object(Object.fromEntries(countNames.map((n) => [n, count()])) as Record<keyof RunCounts, yup.NumberSchema<number>>)
  .noUnknown();
export const runShape = yup
  .object({
    id: text(),
    lane: text(),
    laneName: text(),
    laneVersion: count(),
    cause: text(),
    scope: text(),
    state: yup
      .string<RunState>()
      .oneOf([...runStates])
      .defined(),
    reason: maybe(),
    counts: countsShape,
    planned: count(),
    done: count(),
    startedAt: maybeTime(),
    endedAt: maybeTime(),
    createdAt: time(),
  })
  .noUnknown();
export const forecastRequestShape = yup.object({ definition: yup.object().default(undefined).meta({ schemaOf: laneSchema }) }).noUnknown();
export const runRequestShape = yup
  .object({
    sweep: yup.boolean().default(false),
    hrefs: yup.array(yup.string().min(1).max(2000).required()).max(1000).default(undefined),
    records: yup.array(yup.string().min(1).max(500).required()).max(1000).default(undefined),
  })
  .noUnknown()
  .required();

const definition = yup.mixed<LaneDefinition>().defined().meta({ schemaOf: laneSchema });
export const laneRequestShape = yup
  .object({
    slug: yup
      .string()
      .matches(/^[a-z0-9][a-z0-9-]{0,62}$/, '${path} is 1 to 63 small letters, digits and dashes')
      .required(),
    definition: yup.object().required().meta({ schemaOf: laneSchema }),
    start: yup.boolean().default(true),
  })
  .noUnknown()
  .required();
export const laneShape = yup
  .object({
    id: text(),
    slug: text(),
    version: count(),
    state: yup.string<'running' | 'paused'>().oneOf(['running', 'paused']).defined(),
    /** who arranges it, besides administrators */
    owner: maybe(),
    definition,
    recordsName: text(),
    calendarName: text(),
    pairs: count(),
    leftOut: count(),
    failed: count(),
    holds: count(),
    trouble: maybe(),
    failures: count(),
    lastRunAt: maybeTime(),
    nextRunAt: maybeTime(),
    lastRun: runShape.nullable().defined(),
    /** from an edit to its arrival on the other side, in the last day; null: none says when it was made */
    delay: yup.object({ median: yup.number().defined(), most: yup.number().defined(), count: count() }).noUnknown().nullable().defined(),
  })
  .noUnknown();

/** A lane in a list of many: its numbers, and no more of its definition than a line shows. */
export const laneLineShape = laneShape.omit(['definition']).shape({
  definition: yup.object({ name: text(), direction: yup.string<LaneDefinition['direction']>().oneOf(['->', '<-', '<->']).defined() }).noUnknown(),
});

const change = yup
  .mixed<Change>()
  .defined()
  .meta({
    schema: {
      type: 'object',
      properties: {
        side: { type: 'string', enum: ['record', 'event'] },
        property: { type: 'string' },
        before: {},
        after: {},
        cause: { type: 'string' },
      },
    },
  });
const operationKind = () =>
  yup
    .string<(typeof operationKinds)[number]>()
    .oneOf([...operationKinds])
    .defined();
/** A message that a guest gets once something is done. */
const noticeShape = yup
  .object({ email: text(), name: maybe(), method: yup.string<'REQUEST' | 'CANCEL'>().oneOf(['REQUEST', 'CANCEL']).defined(), why: text() })
  .noUnknown();
const operationShape = yup
  .object({
    kind: operationKind(),
    recordId: maybe(),
    href: maybe(),
    moment: text(),
    label: text(),
    cause: text(),
    changes: list(change),
    notes: list(yup.string().defined()),
    notices: list(noticeShape),
  })
  .noUnknown();
export const forecastShape = yup
  .object({
    operations: list(operationShape),
    verdicts: list(
      yup.object({ recordId: maybe(), href: maybe(), moment: text(), label: text(), reason: text(), condition: text(), value: text() }).noUnknown(),
    ),
    unchanged: count(),
    counts: countsShape,
    guard: list(yup.string().defined()),
    warnings: list(yup.string().defined()),
    scope: text(),
  })
  .noUnknown();

const auditCountsShape = yup
  .object({
    moments: count(),
    leftOut: count(),
    inSync: count(),
    differing: count(),
    missing: count(),
    missingRecords: count(),
    extra: count(),
    foreign: count(),
    events: count(),
  })
  .noUnknown();
export const auditShape = yup
  .object({
    counts: auditCountsShape,
    addsUp: yup.boolean().defined(),
    differences: list(
      yup.object({ recordId: maybe(), href: maybe(), moment: text(), label: text(), fix: maybe(), cause: text(), changes: list(change) }).noUnknown(),
    ),
  })
  .noUnknown();

export const verdictShape = yup
  .object({
    reason: yup
      .string()
      .oneOf([...verdictReasons])
      .defined(),
    condition: text(),
    value: text(),
    recheckAt: maybeTime(),
    at: time(),
  })
  .noUnknown();
const itemState = () =>
  yup
    .string()
    .oneOf([...pairStates, 'left out', 'failed'])
    .defined();
export const itemShape = yup
  .object({
    lane: text(),
    /** null for an event that has no record */
    recordId: maybe(),
    href: maybe(),
    moment: text(),
    label: text(),
    state: itemState(),
    when: yup.mixed().defined().nullable().meta({ schema: {} }),
    /** how it repeats, in words, where the item is a whole series */
    repeats: maybe(),
    verdict: verdictShape.nullable().defined(),
    updatedAt: time(),
  })
  .noUnknown();
export const journalShape = yup
  .object({
    id: count(),
    run: text(),
    lane: text(),
    recordId: maybe(),
    href: maybe(),
    moment: text(),
    label: text(),
    kind: text(),
    cause: text(),
    changes: list(change),
    notes: list(yup.string().defined()),
    /** what was taken away, whole: an event's text, or a record as JSON */
    removed: maybe(),
    laneVersion: count(),
    at: time(),
  })
  .noUnknown();
export const holdShape = yup
  .object({
    id: text(),
    lane: text(),
    recordId: maybe(),
    href: maybe(),
    moment: text(),
    label: text(),
    question: yup
      .string<HoldQuestion>()
      .oneOf(Object.keys(holdChoices) as HoldQuestion[])
      .defined(),
    choices: list(yup.string().defined()),
    cause: text(),
    record: values(),
    event: values(),
    baseline: baseline(),
    /** of several candidates: what each says, and the answer that takes it */
    candidates: list(yup.object({ choice: text(), values: values() }).noUnknown()),
    state: text(),
    choice: maybe(),
    createdAt: time(),
  })
  .noUnknown();
const impossible = () => list(yup.object({ recordId: maybe(), href: maybe(), moment: text(), label: text(), reason: text() }).noUnknown());
export const undoShape = yup.object({ operations: list(operationShape), impossible: impossible() }).noUnknown();
export const stopChoices = ['keep', 'remove', 'unlink'] as const;
export type StopChoice = (typeof stopChoices)[number];
export const stopRequestShape = yup
  .object({
    events: yup
      .string<StopChoice>()
      .oneOf([...stopChoices], '${path}: "${value}" is not what can become of them; choices are ${values}')
      .required(),
  })
  .noUnknown()
  .required();
/** What stopping would do: of long lists, the first. */
export const stopForecastShape = yup
  .object({ removed: count(), unlinked: count(), kept: count(), operations: list(operationShape), impossible: impossible() })
  .noUnknown();
export const settleAllShape = yup
  .object({
    choice: yup.string().required(),
    question: yup
      .string<HoldQuestion>()
      .oneOf(Object.keys(holdChoices) as HoldQuestion[], '${path}: "${value}" is not a question; questions are ${values}')
      .required(),
    lane: yup.string().max(63),
  })
  .noUnknown()
  .required();
export const settledShape = yup.object({ settled: count(), skipped: count() }).noUnknown();
export const settleShape = yup.object({ choice: yup.string().required() }).noUnknown().required();
export const itemDetailShape = itemShape.shape({
  record: yup
    .object({ url: maybe(), values: values().nullable(), fields: yup.mixed().defined().nullable().meta({ schema: {} }), trouble: maybe() })
    .defined(),
  event: yup.object({ href: maybe(), uid: maybe(), values: values().nullable(), trouble: maybe() }).defined(),
  baseline: baseline(),
  history: list(journalShape),
  hold: holdShape.nullable().defined(),
  /** who is invited, the messages they got, and what they replied */
  guests: list(guestShape),
  /** the series that its event belongs to, or is */
  series: yup
    .object({
      /** the rule, and what of the series is edited or cancelled, in words */
      says: text(),
      /** when this occurrence was to be by the rule, in words; null: the event is the series as a whole */
      occurrence: maybe(),
      /** other items of the same series */
      others: list(yup.object({ item: text(), moment: text(), label: text(), when: text() }).noUnknown()),
      /** occurrences that were edited by themselves, where the series is one item: they stay on the calendar */
      overrides: list(text()),
    })
    .noUnknown()
    .nullable()
    .defined(),
  why: text(),
  next: text(),
  /** where the lane makes several events of a record: each of them */
  moments: list(
    yup.object({ moment: text(), state: itemState(), when: yup.mixed().defined().nullable().meta({ schema: {} }), why: text() }).noUnknown(),
  ),
});

export const pausedShape = yup.object({ at: time(), by: text(), why: text() }).noUnknown().nullable().defined();
export const pauseRequestShape = yup
  .object({ why: yup.string().trim().min(1, '${path}: say why, for those who find everything paused').max(500).required() })
  .noUnknown()
  .required();
export const todayShape = yup
  .object({
    /** everything was paused at once */
    paused: pausedShape,
    holds: list(holdShape),
    failed: list(itemShape),
    heldRuns: list(runShape),
    troubles: list(yup.object({ noun: text(), slug: text(), name: text(), detail: text() }).noUnknown()),
    lanes: list(laneLineShape),
    /** what crossed in each of the last 24 hours, the oldest first, by lane */
    byHour: list(yup.object({ lane: text(), hours: list(count()) }).noUnknown()),
    crossed: list(journalShape),
    crossedCount: count(),
  })
  .noUnknown();

export const healthAnswerShape = yup
  .object({ ok: yup.boolean().defined(), version: text(), tzdata: text(), database: yup.boolean().defined(), jobs: yup.boolean().defined() })
  .noUnknown();

export type LaneAnswer = yup.InferType<typeof laneShape>;
export type LaneLine = yup.InferType<typeof laneLineShape>;
export type RunAnswer = yup.InferType<typeof runShape>;
export type ForecastAnswer = yup.InferType<typeof forecastShape>;
export type AuditAnswer = yup.InferType<typeof auditShape>;
export type ItemAnswer = yup.InferType<typeof itemShape>;
export type ItemDetail = yup.InferType<typeof itemDetailShape>;
export type StopForecast = yup.InferType<typeof stopForecastShape>;
export type UndoAnswer = yup.InferType<typeof undoShape>;
export type JournalAnswer = yup.InferType<typeof journalShape>;
export type HoldAnswer = yup.InferType<typeof holdShape>;
export type PausedAnswer = NonNullable<yup.InferType<typeof pausedShape>>;
export type TodayAnswer = yup.InferType<typeof todayShape>;
export type HealthAnswer = yup.InferType<typeof healthAnswerShape>;
export interface Page<T> {
  items: T[];
  next: string | null;
}

/** A problem as the HTTP interface reports it (RFC 9457), with every finding about the input. */
export interface ProblemDetails {
  type: string;
  title: string;
  status: number;
  detail: string;
  problems?: { pointer: string; reason: string }[];
}
