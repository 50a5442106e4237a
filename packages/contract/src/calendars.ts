import { type Showable, showable } from '@monsoon/core';
import * as yup from 'yup';
import { type HostedRight, hostedRights, type Role, roles } from './choices.ts';
import { count, list, maybe, maybeTime, text, time } from './parts.ts';

/** The shapes of calendars that Monsoon keeps itself, of devices that come to them, and of feeds. */

const colour = () => yup.string().matches(/^#[0-9a-f]{6}$/i, '${path}: "${value}" is not a colour such as #12706d');
const slug = () => yup.string().matches(/^[a-z0-9][a-z0-9-]{0,62}$/, '${path}: "${value}" is not a short name: small letters, digits and hyphens');
const calendarName = () => yup.string().trim().min(1).max(200);
const right = () =>
  yup
    .string<HostedRight>()
    .oneOf([...hostedRights], '${path}: "${value}" is not a right; rights are ${values}')
    .required();

export const hostedCalendarShape = yup
  .object({
    id: text(),
    slug: text(),
    name: text(),
    colour: maybe(),
    description: text(),
    holds: yup.string<'events' | 'tasks'>().oneOf(['events', 'tasks']).defined(),
    /** its address for calendar programs */
    address: text(),
    /** as lanes and feeds name it */
    href: text(),
    items: count(),
    owner: maybe(),
    /** what the caller may do with it */
    may: text(),
    /** lanes that alone write into it: records decide what is there */
    filledBy: list(text()),
    rights: list(yup.object({ person: maybe(), role: maybe(), may: text() }).noUnknown()),
    createdAt: time(),
  })
  .noUnknown();
export const newHostedCalendarShape = yup
  .object({
    slug: slug(),
    name: calendarName().required(),
    colour: colour().nullable(),
    description: yup.string().max(2000),
    holds: yup.string<'events' | 'tasks'>().oneOf(['events', 'tasks']).default('events'),
  })
  .noUnknown()
  .required();
export const hostedCalendarChangeShape = yup
  .object({ name: calendarName(), colour: colour().nullable(), description: yup.string().max(2000) })
  .noUnknown()
  .required();
/** Each of a person, by their address, or of everybody with a role. */
export const hostedRightsShape = yup
  .object({
    rights: yup
      .array(
        yup
          .object({
            person: yup.string().max(200).nullable().default(null),
            role: yup
              .string<Role>()
              .oneOf([...roles, null as never], '${path}: "${value}" is not a role')
              .nullable()
              .default(null),
            may: right(),
          })
          .noUnknown()
          .test('one', '${path}: say a person or a role', (r) => (r.person == null) !== (r.role == null)),
      )
      .max(1000)
      .required(),
  })
  .noUnknown()
  .required();

export const deviceShape = yup
  .object({ id: text(), name: text(), email: text(), agent: text(), createdAt: time(), lastUsedAt: maybeTime() })
  .noUnknown();
export const newDeviceShape = yup
  .object({ name: yup.string().trim().min(1).max(100).required() })
  .noUnknown()
  .required();
/** What is typed into the device; the password is shown this once. */
export const madeDeviceShape = deviceShape.shape({ password: text(), user: text(), address: text() });

const shownNames = Object.keys(showable) as Showable[];
const shows = () =>
  yup
    .mixed<'full' | 'busy only' | Showable[]>()
    .test(
      'shows',
      `\${path} is "full", "busy only", or a list of ${shownNames.join(', ')}`,
      (value) =>
        value === undefined ||
        value === 'full' ||
        value === 'busy only' ||
        (Array.isArray(value) && value.length <= shownNames.length && value.every((v) => (shownNames as string[]).includes(v))),
    )
    .meta({
      schema: {
        oneOf: [
          { type: 'string', enum: ['full', 'busy only'] },
          { type: 'array', items: { type: 'string', enum: shownNames } },
        ],
        description: 'how much of events is shown: everything, only that time is taken, or chosen properties',
      },
    });
const days = () => yup.number().integer().min(0).max(36_500).required();
const settings = {
  name: yup.string().trim().min(1).max(200),
  colour: colour().nullable(),
  shows: shows(),
  alarms: yup.boolean(),
  /** a condition on the fields of events, as text */
  condition: yup.string().max(2000).nullable(),
  window: yup.object({ behind: days(), ahead: days() }).noUnknown().nullable().default(undefined),
  /** minutes that programs should wait between two looks (RFC 7986, 5.7) */
  refresh: yup.number().integer().min(5).max(10_080),
};
export interface FeedSettings {
  name: string;
  colour: string | null;
  shows: 'full' | 'busy only' | Showable[];
  alarms: boolean;
  condition: string | null;
  window: { behind: number; ahead: number } | null;
  refresh: number;
}
export const feedShape = yup
  .object({
    id: text(),
    slug: text(),
    name: text(),
    colour: maybe(),
    shows: shows().defined(),
    alarms: yup.boolean().defined(),
    condition: maybe(),
    window: yup.object({ behind: count(), ahead: count() }).noUnknown().nullable().defined(),
    refresh: count(),
    system: text(),
    calendar: text(),
    calendarName: text(),
    lane: maybe(),
    /** null for those who may not share it */
    address: maybe(),
    webcal: maybe(),
    /** events that it shows now */
    events: count(),
    lookedAt: maybeTime(),
    trouble: maybe(),
    endsAt: maybeTime(),
    revokedAt: maybeTime(),
    lastFetchedAt: maybeTime(),
    fetches: count(),
    /** different programs that fetched it in the last 30 days */
    askers: count(),
    madeBy: text(),
    createdAt: time(),
  })
  .noUnknown();
export const newFeedShape = yup
  .object({
    ...settings,
    slug: slug(),
    name: settings.name.required(),
    /** a lane's events, on any of its calendars; or a calendar, by its name or href */
    lane: yup.string().max(200),
    system: yup.string().max(200),
    calendar: yup.string().max(2000),
    endsAt: yup.string().max(40).nullable(),
  })
  .noUnknown()
  .required();
export const feedChangeShape = yup
  .object({ ...settings, endsAt: yup.string().max(40).nullable() })
  .noUnknown()
  .required();
export const feedMailShape = yup
  .object({ to: yup.array(yup.string().email('${path}: "${value}" is not an address').max(200).required()).min(1).max(50).required() })
  .noUnknown()
  .required();
export const feedPreviewShape = yup.object({ text: text(), events: count() }).noUnknown();

export type HostedCalendarAnswer = yup.InferType<typeof hostedCalendarShape>;
export type DeviceAnswer = yup.InferType<typeof deviceShape>;
export type MadeDeviceAnswer = yup.InferType<typeof madeDeviceShape>;
export type FeedAnswer = yup.InferType<typeof feedShape>;

const bank = yup
  .object({
    /** seconds since 1970, as the asked zone reads days and times without a zone */
    from: yup.number().defined(),
    until: yup.number().defined(),
    allDay: yup.boolean().defined(),
    /** in words, in the asked zone, and in its own where the clocks differ */
    says: text(),
  })
  .noUnknown();
export const agendaItemShape = yup
  .object({
    lane: maybe(),
    laneName: maybe(),
    /** of a calendar that is no lane's */
    calendar: maybe(),
    recordId: maybe(),
    href: maybe(),
    moment: text(),
    label: text(),
    state: text(),
    repeating: yup.boolean().defined(),
    /** when each side takes place; null: it is not there, or the time is not known */
    record: bank.nullable().defined(),
    event: bank.nullable().defined(),
    /** why the sides differ, or why one of them is not there */
    why: maybe(),
  })
  .noUnknown();
export const agendaShape = yup
  .object({
    zone: text(),
    days: list(
      yup
        .object({
          day: text(),
          /** seconds since 1970: a day on which clocks change has 23 or 25 hours */
          from: yup.number().defined(),
          until: yup.number().defined(),
          /** wall clock of each hour that passes, the one twice that comes twice */
          hours: list(text()),
          items: count(),
          states: yup
            .mixed<Record<string, number>>()
            .defined()
            .meta({ schema: { type: 'object', additionalProperties: { type: 'integer' } } }),
        })
        .noUnknown(),
    ),
    items: list(agendaItemShape),
    /** false: there are more than are listed */
    complete: yup.boolean().defined(),
  })
  .noUnknown();
export type AgendaBank = yup.InferType<typeof bank>;
export type AgendaItem = yup.InferType<typeof agendaItemShape>;
export type AgendaAnswer = yup.InferType<typeof agendaShape>;
