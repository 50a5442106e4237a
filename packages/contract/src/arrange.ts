import { laneSchema } from '@monsoon/core';
import * as yup from 'yup';
import { type StarterName, starterNames } from './choices.ts';
import { mailPreviewShape } from './guests.ts';
import { count, list, maybe, text, time } from './parts.ts';

/** The shapes of arranging a lane: samples, suggestions, previews, drafts, files and versions. */

const anyObject = (description: string) =>
  yup
    .object()
    .defined()
    .meta({ schema: { type: 'object', description } });
const finding = () => yup.object({ pointer: text(), reason: text() }).noUnknown();
/** A lane as far as it is arranged. */
const draftDefinition = () =>
  yup
    .object()
    .required()
    .meta({ schema: { type: 'object', description: 'a lane file, any part of which may be missing' } });

export const sampleShape = yup
  .object({
    /** how many records were read, and whether these are all there are */
    read: count(),
    complete: yup.boolean().defined(),
    fields: list(
      yup
        .object({
          name: text(),
          label: text(),
          type: text(),
          filled: count(),
          values: list(yup.object({ value: text(), count: count() }).noUnknown()),
        })
        .noUnknown(),
    ),
    items: list(yup.object({ id: text(), about: text(), fields: anyObject('what each field says') }).noUnknown()),
  })
  .noUnknown();

export const starterShape = yup.object({ slug: text().oneOf([...starterNames]), name: text(), hint: text(), direction: text() }).noUnknown();
const side = <K extends string>(what: K) =>
  yup
    .object({ system: yup.string().max(200).required(), [what]: yup.string().max(2000).required() } as Record<'system' | K, yup.StringSchema<string>>)
    .noUnknown();
export const suggestRequestShape = yup
  .object({
    records: side('collection').required(),
    calendar: side('calendar').default(undefined),
    direction: yup.string<'->' | '<-' | '<->'>().oneOf(['->', '<-', '<->']),
    starter: yup.string<StarterName>().oneOf([...starterNames], '${path}: "${value}" is no starter; starters are ${values}'),
    zone: yup.string().max(100).default('UTC'),
  })
  .noUnknown()
  .required();
export const suggestShape = yup.object({ definition: draftDefinition(), reasons: list(finding()) }).noUnknown();

export const previewRequestShape = yup
  .object({
    definition: draftDefinition(),
    /** the lane that it would become */
    lane: yup.string().max(63),
    /** records to be shown, beside those that are picked */
    show: yup.array(yup.string().max(500).required()).max(20).default([]),
    /** an edit of an event, to see what would come back */
    edit: yup
      .object({
        record: yup.string().max(500).required(),
        moment: yup.string().max(200).required(),
        property: yup.string().max(50).required(),
        value: yup.string().max(20_000).defined(),
      })
      .noUnknown()
      .default(undefined),
  })
  .noUnknown()
  .required();

const verdict = yup.object({ reason: text(), condition: text(), value: text() }).noUnknown();
const tally = yup.object({ reason: text(), condition: text(), count: count(), example: text() }).noUnknown();
const shown = yup
  .object({
    moment: text(),
    verdict: verdict.nullable().defined(),
    values: anyObject('event properties by name'),
    unfit: list(yup.object({ property: text(), field: text(), value: text(), reason: text() }).noUnknown()),
    notes: list(yup.string().defined()),
  })
  .noUnknown();
export const previewShape = yup
  .object({
    /** what is wrong or missing before it can start */
    problems: list(finding()),
    warnings: list(yup.string().defined()),
    says: list(yup.string().defined()),
    /** does the records' system report its changes by itself? */
    push: yup.boolean().defined(),
    records: yup
      .object({ name: text(), read: count(), complete: yup.boolean().defined(), crossing: count(), events: count(), reasons: list(tally) })
      .noUnknown()
      .nullable()
      .defined(),
    events: yup
      .object({ name: text(), listed: count(), read: count(), crossing: count(), own: count(), reasons: list(tally) })
      .noUnknown()
      .nullable()
      .defined(),
    items: list(
      yup.object({ recordId: text(), label: text(), about: text(), fields: anyObject('what each field says'), moments: list(shown) }).noUnknown(),
    ),
    newcomers: list(
      yup
        .object({
          href: text(),
          label: text(),
          verdict: verdict.nullable().defined(),
          values: anyObject('event properties'),
          fields: anyObject('the record it would become'),
        })
        .noUnknown(),
    ),
    /** series on the calendar that is being looked at: how many there are, and those worth looking at */
    series: yup
      .object({
        count: count(),
        /** of all of them together, in the window */
        occurrences: count(),
        shown: list(
          yup
            .object({
              href: text(),
              label: text(),
              /** why it is shown */
              about: text(),
              /** its rule, and what of it is moved or cancelled, in words */
              says: text(),
              occurrences: count(),
              cancelled: count(),
              /** the first of them, as times in words */
              first: list(text()),
            })
            .noUnknown(),
        ),
      })
      .noUnknown()
      .nullable()
      .defined(),
    /** for each field whose people become attendees: how many are named, and how many of them have an address */
    people: list(yup.object({ field: text(), named: count(), found: count() }).noUnknown()),
    /** the mail that guests of the first sample would get; null: the lane sends none */
    invitation: mailPreviewShape.nullable().defined(),
    back: yup
      .object({ fields: anyObject('fields that would change'), reason: maybe() })
      .noUnknown()
      .nullable()
      .defined(),
  })
  .noUnknown();

const slug = () =>
  yup
    .string()
    .matches(/^([a-z0-9][a-z0-9-]{0,62})?$/, '${path}: "${value}" is not 1 to 63 small letters, digits and dashes')
    .defined();
export const laneDraftRequestShape = yup
  .object({ slug: slug(), lane: yup.string().max(63), definition: draftDefinition() })
  .noUnknown()
  .required();
export const laneDraftChangeShape = yup
  .object({ slug: slug().optional(), version: yup.number().integer().required(), definition: draftDefinition() })
  .noUnknown()
  .required();
export const laneDraftShape = yup
  .object({
    id: text(),
    slug: text(),
    lane: maybe(),
    laneVersion: yup.number().integer().nullable().defined(),
    name: text(),
    definition: draftDefinition(),
    version: count(),
    editedBy: text(),
    editedAt: time(),
  })
  .noUnknown();

export const laneFileRequestShape = yup
  .object({
    slug: slug(),
    text: yup.string().min(1).max(100_000).required(),
    /** where the lane is new */
    start: yup.boolean().default(true),
    /** the version that was looked at; 0: the lane is new */
    version: yup.number().integer().min(0),
  })
  .noUnknown()
  .required();
export const laneFileShape = yup.object({ slug: text(), version: count(), text: text() }).noUnknown();
const settingChange = () =>
  yup
    .object({ pointer: text(), before: yup.mixed().nullable().meta({ schema: {} }), after: yup.mixed().nullable().meta({ schema: {} }) })
    .noUnknown();
export const laneFileCheckShape = yup
  .object({
    problems: list(yup.object({ pointer: text(), reason: text(), line: yup.number().integer(), column: yup.number().integer() }).noUnknown()),
    says: list(yup.string().defined()),
    warnings: list(yup.string().defined()),
    /** the lane that it would change; null: it makes a new one */
    version: yup.number().integer().nullable().defined(),
    changes: list(settingChange()),
    definition: yup.mixed().nullable().meta({ schemaOf: laneSchema }),
  })
  .noUnknown();
export const versionShape = yup.object({ version: count(), madeBy: text(), madeAt: time(), changes: list(settingChange()) }).noUnknown();

export type SampleAnswer = yup.InferType<typeof sampleShape>;
export type StarterAnswer = yup.InferType<typeof starterShape>;
export type SuggestAnswer = yup.InferType<typeof suggestShape>;
export type PreviewRequest = yup.InferType<typeof previewRequestShape>;
export type PreviewAnswer = yup.InferType<typeof previewShape>;
export type LaneDraftAnswer = yup.InferType<typeof laneDraftShape>;
export type LaneFileAnswer = yup.InferType<typeof laneFileShape>;
export type LaneFileCheck = yup.InferType<typeof laneFileCheckShape>;
export type VersionAnswer = yup.InferType<typeof versionShape>;
