import type { CookieOptions, Request } from 'express';
import type { Config } from '../config.ts';

/** Do people reach the service over TLS? Then cookies and answers say so. */
export const overTls = (config: Config): boolean => config.publicAddress?.startsWith('https:') === true;

/** What a cookie of ours is for: a browser's session; a sign-in under way; a browser that a person signed in from before. */
export type CookieFor = 'session' | 'sign_in' | 'consent' | 'known';

/**
 * Prefixed names keep other hosts of the domain from setting our cookies (RFC 6265bis, 4.1.3): `__Host-` asks for the
 * path /, `__Secure-` does not. Both need TLS.
 */
export function cookieName(config: Config, use: CookieFor): string {
  const prefix = !overTls(config) ? '' : use === 'session' || use === 'known' ? '__Host-' : '__Secure-';
  return `${prefix}monsoon_${use}`;
}

/** @param maxAge milliseconds */
export const cookieOptions = (config: Config, more: Pick<CookieOptions, 'sameSite' | 'path' | 'maxAge'>): CookieOptions => ({
  httpOnly: true,
  secure: overTls(config),
  ...more,
});

/** The cookie's value as the browser sent it; undefined when it sent none. */
export function readCookie(config: Config, request: Request, use: CookieFor): string | undefined {
  const name = `${cookieName(config, use)}=`;
  const found = (request.get('cookie') ?? '')
    .split(';')
    .map((part) => part.trim())
    .find((part) => part.startsWith(name));
  const value = found?.slice(name.length);
  if (value === undefined) return undefined;
  try {
    return decodeURIComponent(value);
  } catch {
    return undefined;
  }
}
