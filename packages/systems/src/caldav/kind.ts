import * as yup from 'yup';
import { type Authentication, authenticationSchema, type Credentials, missingCredentials } from '../http/authentication.ts';
import {
  asked,
  consentBy,
  httpAddress,
  type Kind,
  limitSettings,
  type NetworkSettings,
  networkSettings,
  oauthSecrets,
  oauthSettings,
  openCalls,
} from '../kind.ts';
import { CalDav } from './caldav.ts';
import { Tasks } from './tasks.ts';

interface Settings extends NetworkSettings {
  user?: string;
  client?: string;
  authentication?: Authentication;
  look?: number;
  allowance?: number;
}
type Secrets = Omit<Credentials, 'user' | 'client'>;

const authenticationOf = (s: Settings, secrets: Secrets): Authentication =>
  s.authentication ?? { kind: secrets.token !== undefined && s.user === undefined ? 'bearer' : 'basic' };

/** Seconds between two looks. Where calls are counted, looking takes a quarter of a month's allowance at most. */
const lookEvery = ({ look = 30, allowance }: Settings): number =>
  look === 0 || allowance === undefined ? look : Math.max(look, Math.ceil((31 * 86_400) / (allowance / 4)));

export const caldav: Kind = {
  label: 'Calendar server (CalDAV)',
  hint: 'Calendars, and task lists as records, on any server that speaks CalDAV.',
  settings: yup
    .object({
      address: httpAddress().meta(asked('the server, the account or a calendar: the rest is found')),
      user: yup.string().label('User').min(1).max(200).meta(asked('with a password; leave it out with a token')),
      ...oauthSettings,
      authentication: authenticationSchema
        .label('Authentication')
        .meta(asked('with OAuth 2.0: the grant, where to consent, and where tokens are had', { lines: 5, rare: true })),
      look: yup
        .number()
        .label('Look for changes')
        .integer()
        .min(0)
        .max(3600)
        .meta(
          asked('seconds between two looks, of one call each, at which calendars changed; 0: only the regular checks of the lanes; 30 unless said', {
            rare: true,
          }),
        ),
      ...networkSettings,
      ...limitSettings,
    })
    .noUnknown()
    .required(),
  secrets: yup
    .object({
      password: yup.string().label('Password').min(1).max(1000),
      token: yup
        .string()
        .label('Token')
        .min(1)
        .max(4000)
        .meta(asked('instead of user and password', { rare: true })),
      ...oauthSecrets,
    })
    .noUnknown()
    .required(),
  check: (s: Settings, secrets: Secrets) => missingCredentials(authenticationOf(s, secrets), { ...s, ...secrets }),
  consent: (s: Settings, secrets: Secrets) => consentBy(authenticationOf(s, secrets), s, { ...s, ...secrets }),
  open(s: Settings, secrets: Secrets, options) {
    const { call, close } = openCalls(s, authenticationOf(s, secrets), { ...s, ...secrets }, options);
    const calendars = new CalDav(call, s.address);
    const every = lookEvery(s);
    return {
      calendars,
      records: new Tasks(calendars, options.zones),
      ...(every === 0 ? {} : { watch: async (changed, lost) => calendars.watch(every, (calendar) => changed({ calendar }), lost) }),
      close,
    };
  },
};
