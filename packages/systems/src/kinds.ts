import type { ZoneTable } from '@monsoon/core';
import * as yup from 'yup';
import { CalDav } from './caldav/caldav.ts';
import type { AddressRules } from './http/addresses.ts';
import { callStack } from './http/stack.ts';
import type { HealthListener } from './http/watched.ts';
import type { OpenSystem } from './interfaces.ts';
import { type Descriptor, descriptorSchema } from './json-api/descriptor.ts';
import { JsonApi } from './json-api/json-api.ts';

export interface OpenOptions {
  addresses: AddressRules;
  zones: ZoneTable;
  /** hears when the system begins to fail, and when it is well again */
  health?: HealthListener | undefined;
}

/** A kind of outside system: the shapes of its settings and secrets, and how to open it. */
export interface Kind {
  label: string;
  settings: yup.AnyObjectSchema;
  secrets: yup.AnyObjectSchema;
  open(settings: unknown, secrets: unknown, options: OpenOptions): OpenSystem;
}

const address = () =>
  yup
    .string()
    .max(2000)
    .required()
    .test(
      'address',
      '${path} is not an address such as https://calendar.alder-wren.example/',
      (value) => /^https?:\/\/[^\s]+$/.test(value) && URL.canParse(value),
    );
const common = {
  address: address(),
  connections: yup.number().integer().min(1).max(32).default(4),
  /** seconds */
  timeout: yup.number().min(1).max(300).default(30),
};
interface Common {
  address: string;
  connections?: number;
  timeout?: number;
}

const stackOptions = (settings: Common, options: OpenOptions, authorization: string | null) => ({
  addresses: options.addresses,
  health: options.health,
  connections: settings.connections,
  timeout: (settings.timeout ?? 30) * 1000,
  headers: authorization === null ? {} : { authorization },
});

const caldav: Kind = {
  label: 'Calendar server (CalDAV)',
  settings: yup
    .object({ ...common, user: yup.string().min(1).max(200).required() })
    .noUnknown()
    .required(),
  secrets: yup
    .object({ password: yup.string().min(1).max(1000).required() })
    .noUnknown()
    .required(),
  open(settings, secrets, options) {
    const s = settings as Common & { user: string };
    const basic = `Basic ${Buffer.from(`${s.user}:${(secrets as { password: string }).password}`).toString('base64')}`;
    const { call, close } = callStack(stackOptions(s, options, basic));
    return { calendars: new CalDav(call, s.address), close };
  },
};

const jsonApi: Kind = {
  label: 'Business application (JSON API)',
  settings: yup
    .object({ ...common, descriptor: descriptorSchema })
    .noUnknown()
    .required(),
  secrets: yup
    .object({ token: yup.string().min(1).max(4000).required(), webhook: yup.string().max(500) })
    .noUnknown()
    .required(),
  open(settings, secrets, options) {
    const s = settings as Common & { descriptor: Descriptor };
    const { call, close } = callStack(stackOptions(s, options, `Bearer ${(secrets as { token: string }).token}`));
    return { records: new JsonApi(call, s.address, s.descriptor, options.zones), close };
  },
};

/** Every kind of system, by the name it has in settings. */
export const kinds: Record<string, Kind> = { caldav, 'json-api': jsonApi };
