import { OutsideError } from '../outside-error.ts';
import type { Call, Request } from './call.ts';

/** Shortest secret that is taken out of what a system holds, in characters: a shorter one may be an ordinary word of it. */
const TELLING = 12;

const xml: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' };

/** A secret in every form in which it may come back: plain, in a path, in a query (WHATWG URL, 5.2), base64, JSON, XML. */
function spellings(secret: string): string[] {
  const base64 = Buffer.from(secret).toString('base64');
  return [
    secret,
    encodeURIComponent(secret),
    new URLSearchParams({ s: secret }).toString().slice(2),
    base64,
    base64.replace(/=+$/, ''),
    Buffer.from(secret).toString('base64url'),
    JSON.stringify(secret).slice(1, -1),
    secret.replace(/[&<>"']/g, (c) => xml[c]!),
    secret.replace(/[&<>]/g, (c) => xml[c]!),
  ];
}

const spelled = new WeakMap<readonly string[], string[]>();
function allSpellings(secrets: readonly string[]): string[] {
  const known = spelled.get(secrets);
  if (known !== undefined) return known;
  // The longest first: one may be a part of another.
  const all = [...new Set(secrets.filter((s) => s.length > 0).flatMap(spellings))].sort((a, b) => b.length - a.length);
  spelled.set(secrets, all);
  return all;
}

/** Takes every secret out of a text, in whatever form it stands there. */
export const masked = (text: string, secrets: readonly string[]): string =>
  allSpellings(secrets).reduce((rest, secret) => rest.replaceAll(secret, '***'), text);

/** What goes along with a call to say who calls, such as an access token that was got on the way. */
function credentialsOf({ headers }: Request): string[] {
  const [, value] = Object.entries(headers ?? {}).find(([name]) => name.toLowerCase() === 'authorization') ?? [];
  if (value === undefined) return [];
  const credential = value.replace(/^\S+ /, '');
  return [value, credential, ...(/^basic /i.test(value) ? [Buffer.from(credential, 'base64').toString()] : [])];
}

/**
 * What a system quotes of our secrets stays here: its answers are kept, shown, logged and mailed. From an answer that says
 * no every secret is taken; from what it holds only those that can be no ordinary word.
 */
export function unquoted(call: Call, secrets: readonly string[]): Call {
  return async (request) => {
    const all = [...secrets, ...credentialsOf(request)];
    try {
      const answer = await call(request);
      const hidden = answer.status >= 400 ? all : all.filter((s) => s.length >= TELLING);
      if (!allSpellings(hidden).some((s) => answer.body.includes(s))) return answer;
      return { ...answer, body: Buffer.from(masked(answer.body.toString('utf8'), hidden)) };
    } catch (error) {
      if (error instanceof OutsideError) error.message = masked(error.message, all);
      throw error;
    }
  };
}
