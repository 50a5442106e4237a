import * as yup from 'yup';
import { type Occasion, occasions } from './choices.ts';
import { list, maybe, maybeTime, text, time } from './parts.ts';

/** The shapes of keeping an installation: what is kept how long, and who else is notified. */

const days = (most: number, otherwise: number) =>
  yup
    .number()
    .integer('${path}: "${value}" is not a whole number of days')
    .min(1, '${path}: at least 1 day')
    .max(most, `\${path}: at most ${most} days`)
    .default(otherwise);

/** How long things are kept, in days. What still waits, and the last run of a lane, stay however old they are. */
export const settingsShape = yup
  .object({
    keep: yup
      .object({
        /** runs that found nothing to do */
        idleRuns: days(3650, 2),
        runs: days(3650, 90),
        /** what was done to each item; without it, nothing can be taken back */
        journal: days(3650, 400),
        activity: days(3650, 730),
        audits: days(3650, 400),
      })
      .noUnknown()
      .default(undefined),
    /** whether mails about several things at once are put into one, and how far apart they come at least, in minutes */
    mailEvery: yup.number().integer().min(1, '${path}: at least 1 minute').max(1440, '${path}: at most 1440 minutes').default(10),
  })
  .noUnknown()
  .required();
export type Settings = { keep: Record<'idleRuns' | 'runs' | 'journal' | 'activity' | 'audits', number>; mailEvery: number };

/** Settings with everything that is not said. @throws ValidationError naming the setting */
export const readSettings = (input: unknown): Settings => {
  const given = (input ?? {}) as { keep?: object };
  settingsShape.validateSync({ keep: {}, ...given }, { strict: true, abortEarly: false });
  return settingsShape.cast({ ...given, keep: { ...given.keep } }) as Settings;
};

const occasion = () =>
  yup
    .string<Occasion>()
    .oneOf([...occasions], '${path}: "${value}" is not an occasion; occasions are ${values}')
    .defined();
export const hookRequestShape = yup
  .object({
    name: yup.string().min(1).max(100).required(),
    url: yup
      .string()
      .max(2000)
      .matches(/^https?:\/\/[^\s]+$/, '${path}: "${value}" is not an address such as https://chat.alder-wren.example/monsoon')
      .required(),
    occasions: yup.array(occasion()).min(1, 'say at least one occasion').required(),
  })
  .noUnknown()
  .required();
export const hookShape = yup
  .object({ id: text(), name: text(), url: text(), occasions: list(occasion()), lastAt: maybeTime(), lastOutcome: maybe(), createdAt: time() })
  .noUnknown();
export const newHookShape = hookShape.shape({ secret: text() });
export const resealedShape = yup.object({ resealed: yup.number().integer().defined() }).noUnknown();
export type HookAnswer = yup.InferType<typeof hookShape>;
