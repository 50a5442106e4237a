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
}
type Secrets = Omit<Credentials, 'user' | 'client'>;

const authenticationOf = (s: Settings, secrets: Secrets): Authentication =>
  s.authentication ?? { kind: secrets.token !== undefined && s.user === undefined ? 'bearer' : 'basic' };

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
    return { calendars, records: new Tasks(calendars, options.zones), close };
  },
};
