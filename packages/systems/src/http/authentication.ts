import * as yup from 'yup';
import type { Call } from './call.ts';

/** How a system knows who calls: set in the settings of a calendar server, and in the descriptor of a JSON API. */
export interface Authentication {
  kind: 'bearer' | 'basic' | 'header' | 'query' | 'oauth2';
  /** the header, or the parameter of the query */
  name?: string | undefined;
  /** what stands before the key in the header, such as "Token " */
  prefix?: string | undefined;
  grant?: 'authorization code' | 'client credentials' | undefined;
  /** where a person consents, and where tokens are had; absolute, or relative to the system's address */
  authorize?: string | undefined;
  token?: string | undefined;
  scopes?: string[] | undefined;
  /** what the authorization server calls itself in its answers (RFC 9207); the origin of the system's address unless said */
  issuer?: string | undefined;
}

const place = () =>
  yup
    .string()
    .max(2000)
    .matches(/^(https?:\/\/|\/)\S*$/, '${path} is an address, or a path such as /oauth/token');

export const authenticationSchema = yup
  .object({
    kind: yup.string<Authentication['kind']>().oneOf(['bearer', 'basic', 'header', 'query', 'oauth2']).required(),
    name: yup
      .string()
      .matches(/^[\w.-]{1,100}$/, '${path} is the name of a header or a parameter')
      .when('kind', ([kind], s) => (kind === 'header' || kind === 'query' ? s.required() : s)),
    prefix: yup.string().max(50),
    grant: yup
      .string<NonNullable<Authentication['grant']>>()
      .oneOf(['authorization code', 'client credentials'])
      .when('kind', ([kind], s) => (kind === 'oauth2' ? s.required() : s)),
    authorize: place().when('grant', ([grant], s) => (grant === 'authorization code' ? s.required() : s)),
    token: place().when('kind', ([kind], s) => (kind === 'oauth2' ? s.required() : s)),
    scopes: yup.array(yup.string().max(200).required()).max(50),
    issuer: place(),
  })
  .noUnknown()
  .default(undefined);

export interface Credentials {
  user?: string | undefined;
  client?: string | undefined;
  password?: string | undefined;
  token?: string | undefined;
  clientSecret?: string | undefined;
}

/** What must be given for this kind of authentication and is not. */
export function missingCredentials(a: Authentication, given: Credentials): { pointer: string; reason: string }[] {
  const need = (what: keyof Credentials, pointer: string, why: string) =>
    given[what] === undefined || given[what] === '' ? [{ pointer, reason: `${why}; give it` }] : [];
  switch (a.kind) {
    case 'basic':
      return [
        ...need('user', '/settings/user', 'the system wants a user and a password'),
        ...need('password', '/secrets/password', 'the system wants a user and a password'),
      ];
    case 'oauth2':
      return [
        ...need('client', '/settings/client', 'with OAuth 2.0, Monsoon is known by a client id'),
        ...(a.grant === 'client credentials' ? need('clientSecret', '/secrets/clientSecret', 'client credentials have a secret') : []),
      ];
    case 'bearer':
    case 'header':
    case 'query':
      return need('token', '/secrets/token', 'the system wants a token or API key');
  }
}

/** Puts fixed credentials on every call. OAuth has a wrapper of its own. */
export function authorised(call: Call, a: Authentication, given: Credentials): Call {
  const token = given.token ?? '';
  if (a.kind === 'query')
    return (request) => {
      const url = new URL(request.url);
      url.searchParams.set(a.name!, token);
      return call({ ...request, url: url.href });
    };
  const [name, value] =
    a.kind === 'basic'
      ? ['authorization', `Basic ${Buffer.from(`${given.user ?? ''}:${given.password ?? ''}`).toString('base64')}`]
      : a.kind === 'header'
        ? [a.name!.toLowerCase(), `${a.prefix ?? ''}${token}`]
        : ['authorization', `Bearer ${token}`];
  return (request) => call({ ...request, headers: { ...request.headers, [name]: value } });
}
