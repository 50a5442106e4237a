import type { ZoneTable } from '@monsoon/core';
import * as yup from 'yup';
import type { AddressRules } from './http/addresses.ts';
import { type Authentication, authorised, type Credentials } from './http/authentication.ts';
import type { Call } from './http/call.ts';
import type { Meter } from './http/metered.ts';
import { type OAuthSettings, type TokenStore, withTokens } from './http/oauth.ts';
import type { Recorder } from './http/recorded.ts';
import { type CallOptions, callStack } from './http/stack.ts';
import type { Exchange } from './http/tapped.ts';
import type { HealthListener } from './http/watched.ts';
import type { OpenSystem } from './interfaces.ts';

/** What the installation gives every system that it opens. */
export interface OpenOptions {
  addresses: AddressRules;
  zones: ZoneTable;
  /** folders of this machine below which files may be read and written */
  folders?: readonly string[] | undefined;
  /** hears when the system begins to fail, and when it is well again */
  health?: HealthListener | undefined;
  meter?: Meter | undefined;
  record?: Recorder | undefined;
  /** how many processes share the system's connections */
  processes?: (() => number) | undefined;
  /** shows every HTTP exchange in full to the person who tries the system */
  tap?: ((exchange: Exchange) => void) | undefined;
  /** where OAuth tokens are kept */
  tokens?: TokenStore | undefined;
}

export interface Misfit {
  pointer: string;
  reason: string;
}

/**
 * A kind of outside system: one folder, and one line in kinds.ts. The labels and hints of its settings and secrets are
 * what a person is asked for.
 */
export interface Kind {
  label: string;
  /** what it is for, in a sentence */
  hint: string;
  settings: yup.AnyObjectSchema;
  secrets: yup.AnyObjectSchema;
  /** what settings and secrets together lack */
  check?(settings: unknown, secrets: unknown): Misfit[];
  /** how the system is authorised, when that is by OAuth with a person's consent */
  consent?(settings: unknown, secrets: unknown): OAuthSettings | null;
  open(settings: unknown, secrets: unknown, options: OpenOptions): OpenSystem;
}

/** Words for people beside a setting. */
export const asked = (hint: string, more: { lines?: number; rare?: boolean } = {}) => ({ hint, ...more });

export const addressSetting = (pattern: RegExp, example: string) =>
  yup
    .string()
    .label('Address')
    .max(2000)
    .required()
    .test('address', `\${path} is not an address such as ${example}`, (value) => pattern.test(value) && URL.canParse(value));

export const httpAddress = (example = 'https://calendar.alder-wren.example/') => addressSetting(/^https?:\/\/[^\s]+$/, example);

/** An object whose names are a person's own: each value has the same shape. @param finish what is asked of it as a whole; it may be left out unless said */
export const keyed = (
  of: yup.AnySchema,
  label: string,
  finish: (schema: yup.AnyObjectSchema) => yup.AnyObjectSchema = (schema) => schema.default(undefined),
) =>
  yup.lazy((value: unknown) => {
    const names = typeof value === 'object' && value !== null ? Object.keys(value) : [];
    return finish(
      yup
        .object(Object.fromEntries(names.map((name) => [name, of])))
        .label(label)
        .meta({ each: of }),
    );
  });

/** Settings that every system over a network has. */
export const networkSettings = {
  connections: yup
    .number()
    .label('Connections')
    .integer()
    .min(1)
    .max(32)
    .default(4)
    .meta(asked('most calls at once, over all of Monsoon', { rare: true })),
  timeout: yup
    .number()
    .label('Time-out')
    .min(1)
    .max(300)
    .default(30)
    .meta(asked('seconds without an answer after which a call is given up', { rare: true })),
  authority: yup
    .string()
    .label('Certificate authority')
    .max(100_000)
    .matches(/-----BEGIN CERTIFICATE-----/, '${path} is not a certificate in PEM')
    .meta(asked("in PEM, where the system's certificate is of an authority of one's own", { lines: 4, rare: true })),
};

/** What OAuth 2.0 adds, for kinds that can be authorised so. */
export const oauthSettings = {
  client: yup
    .string()
    .label('Client id')
    .min(1)
    .max(300)
    .meta(asked('with OAuth 2.0: what Monsoon is known by there', { rare: true })),
};
export const oauthSecrets = {
  clientSecret: yup
    .string()
    .label('Client secret')
    .min(1)
    .max(1000)
    .meta(asked('with OAuth 2.0', { rare: true })),
};

/** How a person consents, where that is how the system is authorised. */
export const consentBy = (authentication: Authentication, { address }: NetworkSettings, credentials: Credentials): OAuthSettings | null =>
  authentication.grant === 'authorization code' ? { authentication, address, credentials } : null;

/** Limits that a system's operator or contract sets. */
export const limitSettings = {
  rate: yup
    .object({
      calls: yup.number().integer().min(1).max(100_000).required(),
      per: yup.string<'second' | 'minute' | 'hour'>().oneOf(['second', 'minute', 'hour']).required(),
    })
    .noUnknown()
    .label('Rate')
    .default(undefined)
    .meta(asked('how many calls in which time the system takes, such as { calls: 10, per: second }', { lines: 1, rare: true })),
  allowance: yup
    .number()
    .label('Monthly allowance')
    .integer()
    .min(1)
    .max(1_000_000_000)
    .meta(asked('calls in a calendar month after which Monsoon stops asking; a warning comes at four fifths', { rare: true })),
};

export interface NetworkSettings {
  address: string;
  connections?: number;
  timeout?: number;
  authority?: string;
}

/** The calls of a system over HTTP, with its credentials and everything around them. */
export function openCalls(
  settings: NetworkSettings,
  authentication: Authentication | null,
  credentials: Credentials,
  options: OpenOptions,
): { call: Call; close: () => Promise<void> } {
  const stack: CallOptions = {
    addresses: options.addresses,
    connections: settings.connections,
    processes: options.processes,
    timeout: (settings.timeout ?? 30) * 1000,
    authority: settings.authority,
    health: options.health,
    meter: options.meter,
    record: options.record,
    tap: options.tap,
    secrets: [credentials.password, credentials.token, credentials.clientSecret].filter((s) => s !== undefined),
  };
  if (authentication === null) return callStack({ ...stack, anonymous: true });
  if (authentication.kind !== 'oauth2') return callStack({ ...stack, authorise: (call) => authorised(call, authentication, credentials) });
  const store = options.tokens ?? memoryTokens();
  return callStack({ ...stack, authorise: (call) => withTokens(call, { authentication, address: settings.address, credentials }, store) });
}

/** Tokens for one process alone. */
export function memoryTokens(): TokenStore {
  let kept: Awaited<ReturnType<TokenStore['load']>> = null;
  let turn: Promise<unknown> = Promise.resolve();
  return {
    load: async () => kept,
    renew(renew) {
      const next = turn.then(async () => {
        kept = await renew(kept);
        return kept;
      });
      turn = next.catch(() => undefined);
      return next;
    },
  };
}
