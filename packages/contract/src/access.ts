import * as yup from 'yup';
import { type Occasion, occasions, type Role, roles, scopes, type TokenScope } from './choices.ts';
import { list, maybe, maybeTime, text, time } from './parts.ts';

/** The shapes of who may do what, and of who did. */

const email = () => yup.string().email('${path}: "${value}" is not an address such as ines@alder-wren.example').max(200);
/** Length is what makes a password hard to guess; rules about its characters only make it hard to keep. */
const password = () => yup.string().min(12, '${path} has at least 12 characters').max(1000);
const role = () => yup.string<Role>().oneOf([...roles], '${path}: "${value}" is not a role; roles are ${values}');

export const credentialsShape = yup
  .object({ email: yup.string().email().max(200).required(), password: yup.string().max(1000).required() })
  .noUnknown()
  .required();
/** provider: the name of the service that people can sign in with; null: passwords alone */
export const signInWaysShape = yup.object({ provider: maybe() }).noUnknown();
export const personShape = yup.object({ id: text(), email: text(), name: text(), role: role().defined() }).noUnknown();
/** Who is signed in; whether they have to choose a password before anything else. */
export const meShape = personShape.shape({ mustChangePassword: yup.boolean().defined() });
export const colleagueShape = personShape.shape({
  /** they may no longer sign in, and their tokens are of no use */
  disabled: yup.boolean().defined(),
  /** signs in with a password of Monsoon's, not only through another service */
  password: yup.boolean().defined(),
  /** after too many wrong passwords, until when none is looked at */
  lockedUntil: maybeTime(),
  lastSeenAt: maybeTime(),
  lanes: list(yup.string().defined()),
  createdAt: time(),
});
export const newColleagueShape = yup
  .object({
    email: email().required(),
    name: yup.string().trim().min(1).max(100).required(),
    role: role().required(),
    password: password(),
  })
  .noUnknown()
  .required();
export const colleagueChangeShape = yup
  .object({
    name: yup.string().trim().min(1).max(100),
    role: role(),
    password: password(),
    disabled: yup.boolean(),
    unlock: yup.boolean(),
    /** they sign in through the sign-in service from now on: their password ends, and their next sign-in there links them */
    provider: yup.boolean().oneOf([true]),
  })
  .noUnknown()
  .required();
export const passwordChangeShape = yup
  .object({
    current: yup.string().max(1000).required(),
    password: password().required(),
    /** the passwords of your devices end, too */
    devices: yup.boolean().default(false),
  })
  .noUnknown()
  .required();
export const sessionShape = yup
  .object({ id: text(), email: text(), agent: text(), current: yup.boolean().defined(), createdAt: time(), lastUsedAt: time(), expiresAt: time() })
  .noUnknown();

export const tokenRequestShape = yup
  .object({
    name: yup.string().min(1).max(100).required(),
    may: yup
      .string<TokenScope>()
      .oneOf([...scopes])
      .default('write'),
    days: yup.number().integer().min(1).max(3650).nullable().default(null),
  })
  .noUnknown()
  .required();
export const tokenShape = yup
  .object({ id: text(), name: text(), may: text(), email: text(), createdAt: time(), expiresAt: maybeTime(), lastUsedAt: maybeTime() })
  .noUnknown();
export const newTokenShape = tokenShape.shape({ token: text() });
export const ownerShape = yup.object({ email: email().nullable().defined() }).noUnknown().required();

export const activityShape = yup
  .object({
    id: yup.number().integer().defined(),
    at: time(),
    by: text(),
    /** by a browser, or the name of the token */
    via: text(),
    what: text(),
    of: text(),
    detail: text(),
    outcome: yup.string<'done' | 'refused'>().oneOf(['done', 'refused']).defined(),
    lane: maybe(),
  })
  .noUnknown();

export const notificationSettingsShape = yup
  .object({
    occasions: list(
      yup
        .string<Occasion>()
        .oneOf([...occasions], '${path}: "${value}" is not an occasion; occasions are ${values}')
        .defined(),
    ),
    /** the hour of the daily digest, by the clock of the zone; null: none */
    digest: yup
      .object({ hour: yup.number().integer().min(0).max(23).defined(), zone: yup.string().max(100).defined() })
      .noUnknown()
      .nullable()
      .defined(),
  })
  .noUnknown()
  .required();
export type NotificationSettings = yup.InferType<typeof notificationSettingsShape>;

export type Credentials = yup.InferType<typeof credentialsShape>;
export type MeAnswer = yup.InferType<typeof meShape>;
export type ColleagueAnswer = yup.InferType<typeof colleagueShape>;
export type SessionAnswer = yup.InferType<typeof sessionShape>;
export type TokenAnswer = yup.InferType<typeof tokenShape>;
export type ActivityAnswer = yup.InferType<typeof activityShape>;
