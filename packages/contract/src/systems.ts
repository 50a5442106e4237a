import { fieldTypes } from '@monsoon/core';
import * as yup from 'yup';
import { count, list, maybe, maybeTime, text, time } from './parts.ts';

/** A setting or a secret of a kind of system, as a person is asked for it. */
export interface SettingShape {
  name: string;
  label: string;
  hint: string | null;
  /** `yaml` for what has parts */
  type: 'text' | 'number' | 'yes/no' | 'choice' | 'yaml';
  choices: string[];
  required: boolean;
  default: string | number | boolean | null;
  lines: number;
  /** most installations leave it as it is */
  rare: boolean;
}

const headers = () =>
  yup
    .mixed<Record<string, string>>()
    .defined()
    .meta({ schema: { type: 'object', additionalProperties: { type: 'string' } } });
/** A request and its answer in full, secrets masked, for a person who tries a system at this moment; it is shown and not kept. */
const exchangeShape = yup
  .object({
    method: text(),
    url: text(),
    requestHeaders: headers(),
    requestBody: text(),
    /** null: there was no answer, and `trouble` says why */
    status: yup.number().integer().nullable().defined(),
    answerHeaders: headers(),
    answerBody: text(),
    trouble: maybe(),
  })
  .noUnknown();

const healthShape = yup
  .object({ state: yup.string<'unknown' | 'well' | 'failing'>().oneOf(['unknown', 'well', 'failing']).defined(), detail: text(), at: maybeTime() })
  .noUnknown();
export const systemRequestShape = yup
  .object({
    slug: yup
      .string()
      .matches(/^[a-z0-9][a-z0-9-]{0,62}$/, '${path}: "${value}" is not 1 to 63 small letters, digits and dashes')
      .required(),
    name: yup.string().min(1).max(200).required(),
    kind: yup.string().required(),
    settings: yup.object().required(),
    secrets: yup.object().required(),
  })
  .noUnknown()
  .required();
export const systemChangeShape = yup
  .object({ name: yup.string().min(1).max(200), settings: yup.object().default(undefined), secrets: yup.object().default(undefined) })
  .noUnknown()
  .required();
export const systemShape = yup
  .object({
    id: text(),
    slug: text(),
    name: text(),
    kind: text(),
    address: text(),
    offers: list(yup.string<'records' | 'calendars' | 'mail'>().defined()),
    /** how the system reports its changes by itself: by signed notices, by database notifications, or not at all */
    push: yup.boolean().defined(),
    health: healthShape,
    /** credentials that are no longer accepted: its lanes are paused until they are renewed */
    lapsed: yup.object({ at: time(), reason: text() }).noUnknown().nullable().defined(),
    /** calls in this month, and how many there may be */
    calls: yup.object({ month: text(), used: count(), allowance: count().nullable() }).noUnknown().defined(),
    /** whether a person has to authorise Monsoon there, and has */
    consent: yup.string<'needed' | 'given'>().oneOf(['needed', 'given']).nullable().defined(),
    authorisedAt: maybeTime(),
    /** what changed in its fields of late */
    drift: list(yup.object({ at: time(), collection: text(), field: text(), what: text() }).noUnknown()),
    settings: yup
      .object()
      .defined()
      .meta({ schema: { type: 'object', description: 'as its kind has them' } }),
    /** the names of the secrets that are kept; never the secrets */
    secrets: list(yup.string().defined()),
    checkedAt: maybeTime(),
    lanes: list(yup.string().defined()),
    createdAt: time(),
  })
  .noUnknown();
export const kindShape = yup
  .object({
    kind: text(),
    label: text(),
    hint: text(),
    settings: yup
      .mixed<SettingShape[]>()
      .defined()
      .meta({ schema: { type: 'array', items: { type: 'object' } } }),
    secrets: yup
      .mixed<SettingShape[]>()
      .defined()
      .meta({ schema: { type: 'array', items: { type: 'object' } } }),
  })
  .noUnknown();
export const trackingShape = yup
  .object({
    state: yup.string<'installed' | 'possible'>().oneOf(['installed', 'possible']).nullable().defined(),
    now: text(),
    install: text(),
    uninstall: text(),
  })
  .noUnknown();
export const tryShape = yup
  .object({
    ok: yup.boolean().defined(),
    steps: list(
      yup
        .object({
          name: text(),
          outcome: yup.string<'ok' | 'warning' | 'failed'>().oneOf(['ok', 'warning', 'failed']).defined(),
          detail: text(),
          exchanges: list(exchangeShape),
        })
        .noUnknown(),
    ),
  })
  .noUnknown();
export const callShape = yup
  .object({
    at: time(),
    method: text(),
    url: text(),
    status: yup.number().integer().nullable().defined(),
    took: count(),
    sent: count(),
    received: count(),
    trouble: maybe(),
  })
  .noUnknown();
export const consentShape = yup.object({ url: text() }).noUnknown();
export const consentRequestShape = yup
  .object({ back: yup.string().max(300).default('/systems') })
  .noUnknown()
  .required();
export const candidateShape = yup
  .object({ kind: yup.string().max(50).required(), settings: yup.object().required(), secrets: yup.object().required() })
  .noUnknown()
  .required();
export const draftRequestShape = yup
  .object({
    document: yup
      .object()
      .required()
      .meta({ schema: { type: 'object', description: 'an OpenAPI 3 document' } }),
  })
  .noUnknown()
  .required();
export const draftShape = yup
  .object({
    descriptor: yup
      .object()
      .defined()
      .meta({ schema: { type: 'object' } }),
    notes: list(yup.string().defined()),
  })
  .noUnknown();
export const mailRequestShape = yup
  .object({ to: yup.string().email().max(200).required() })
  .noUnknown()
  .required();

export const probeStepShape = yup
  .object({ name: text(), outcome: yup.string<'ok' | 'warning' | 'failed'>().oneOf(['ok', 'warning', 'failed']).defined(), detail: text() })
  .noUnknown();
export const checkShape = yup.object({ ok: yup.boolean().defined(), steps: list(probeStepShape) }).noUnknown();
export const collectionShape = yup
  .object({
    name: text(),
    label: text(),
    fields: list(
      yup.object({
        name: text(),
        label: text(),
        type: yup
          .string()
          .oneOf([...fieldTypes])
          .defined(),
        choices: yup.array(yup.string().defined()),
        unit: yup.string(),
        readOnly: yup.boolean(),
        limit: yup.number(),
      }),
    ),
    may: yup.object({ create: yup.boolean().defined(), change: yup.boolean().defined(), remove: yup.boolean().defined() }).defined(),
    retries: yup.string<'key' | 'none'>().oneOf(['key', 'none']).defined(),
    stamps: yup.object({ created: yup.boolean().defined(), modified: yup.boolean().defined() }).defined(),
  })
  .noUnknown();
export const calendarRequestShape = yup
  .object({
    name: yup.string().trim().min(1).max(200).required(),
    colour: yup
      .string()
      .matches(/^#[0-9a-fA-F]{6}$/, '${path}: "${value}" is not a colour such as #b3702a')
      .nullable()
      .default(null),
    holds: yup.string<'events' | 'tasks'>().oneOf(['events', 'tasks']).default('events'),
  })
  .noUnknown()
  .required();
export const calendarChangeShape = yup
  .object({
    calendar: yup.string().min(1).max(2000).required(),
    name: yup.string().trim().min(1).max(200),
    colour: yup.string().matches(/^#[0-9a-fA-F]{6}$/, '${path}: "${value}" is not a colour such as #b3702a'),
  })
  .noUnknown()
  .required();
export const calendarShape = yup.object({ href: text(), name: text(), colour: maybe(), writable: yup.boolean().defined() }).noUnknown();

export type SystemAnswer = yup.InferType<typeof systemShape>;
export type KindAnswer = yup.InferType<typeof kindShape>;
export type CheckAnswer = yup.InferType<typeof checkShape>;
export type TryAnswer = yup.InferType<typeof tryShape>;
export type CallAnswer = yup.InferType<typeof callShape>;
export type TrackingAnswer = yup.InferType<typeof trackingShape>;
export type DraftAnswer = yup.InferType<typeof draftShape>;
export type ProbeStepAnswer = yup.InferType<typeof probeStepShape>;
export type CollectionAnswer = yup.InferType<typeof collectionShape>;
export type CalendarAnswer = yup.InferType<typeof calendarShape>;
