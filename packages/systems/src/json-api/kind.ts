import * as yup from 'yup';
import { type Credentials, missingCredentials } from '../http/authentication.ts';
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
import { authenticationOf, type Descriptor, descriptorSchema } from './descriptor.ts';
import { JsonApi } from './json-api.ts';
import { walk } from './walk.ts';
import { readNotice } from './webhooks.ts';

interface Settings extends NetworkSettings {
  user?: string;
  client?: string;
  descriptor: Descriptor;
}
type Secrets = Omit<Credentials, 'user' | 'client'> & { webhook?: string };

export const jsonApi: Kind = {
  label: 'Business application (JSON API)',
  hint: 'Records behind any JSON API that a descriptor can describe.',
  settings: yup
    .object({
      address: httpAddress('https://desk.alder-wren.example/api/v1').meta(asked('what every path of the descriptor is below')),
      user: yup
        .string()
        .label('User')
        .min(1)
        .max(200)
        .meta(asked('with a password', { rare: true })),
      ...oauthSettings,
      descriptor: descriptorSchema
        .label('Descriptor')
        .meta(asked('how its records are listed, read and written; docs/connecting.md explains each line', { lines: 14 })),
      ...networkSettings,
      ...limitSettings,
    })
    .noUnknown()
    .required(),
  secrets: yup
    .object({
      token: yup.string().label('Token or API key').min(1).max(4000),
      password: yup
        .string()
        .label('Password')
        .min(1)
        .max(1000)
        .meta(asked('with a user', { rare: true })),
      ...oauthSecrets,
      webhook: yup
        .string()
        .label('Webhook secret')
        .min(8, '${label}: at least 8 characters, or leave it out')
        .max(500)
        .meta(asked('which change notices are signed with')),
    })
    .noUnknown()
    .required(),
  check: (s: Settings, secrets: Secrets) => missingCredentials(authenticationOf(s.descriptor), { ...s, ...secrets }),
  consent: (s: Settings, secrets: Secrets) => consentBy(authenticationOf(s.descriptor), s, { ...s, ...secrets }),
  open(s: Settings, secrets: Secrets, options) {
    const { call, close } = openCalls(s, authenticationOf(s.descriptor), { ...s, ...secrets }, options);
    return {
      records: new JsonApi(call, s.address, s.descriptor, options.zones),
      walk: (signal) => walk(call, s.address, s.descriptor, options.zones, signal),
      notice: (headers, body) => (!secrets.webhook ? null : readNotice(s.descriptor.webhooks, secrets.webhook, headers, body)),
      close,
    };
  },
};
