import { OutsideError } from '../outside-error.ts';
import type { Answer } from './call.ts';

/** Retry-After in seconds: a number, or a date (RFC 9110, 10.2.3) against the answer's own Date. */
export function retryAfter(answer: Answer): number | null {
  const text = answer.headers['retry-after'];
  if (text === undefined) return null;
  if (/^\d+$/.test(text)) return Number(text);
  const until = Date.parse(text);
  const now = Date.parse(answer.headers['date'] ?? '');
  return Number.isNaN(until) || Number.isNaN(now) ? null : Math.max(0, Math.ceil((until - now) / 1000));
}

/** What a failing status means. @param doing in words, for the message: `listing visits` */
export function failure(answer: Answer, doing: string): OutsideError {
  const { status } = answer;
  const host = new URL(answer.url).host;
  const more = { status, retryAfter: retryAfter(answer) };
  if (status === 401) return new OutsideError('not authorised', `${host} does not accept the credentials (401) while ${doing}`, more);
  if (status === 403) return new OutsideError('refused', `${host} does not permit ${doing} (403)${excerpt(answer)}`, more);
  if (status === 404 || status === 410) return new OutsideError('gone', `${host} does not have it (${status}) while ${doing}`, more);
  if (status === 412) return new OutsideError('changed meanwhile', `it was changed at ${host} in the meantime (412) while ${doing}`, more);
  if (status === 429) return new OutsideError('throttled', `${host} asks to slow down (429) while ${doing}`, more);
  if (status === 503 && more.retryAfter !== null) return new OutsideError('throttled', `${host} asks to come back later (503) while ${doing}`, more);
  if (status >= 500) return new OutsideError('broken', `${host} failed (${status}) while ${doing}${excerpt(answer)}`, more);
  if (status >= 400) return new OutsideError('refused', `${host} refused ${doing} (${status})${excerpt(answer)}`, more);
  return new OutsideError('nonsense', `${host} gave an answer that is not understood (${status}) while ${doing}`, more);
}

function excerpt(answer: Answer): string {
  const text = answer.body
    .toString('utf8', 0, 400)
    .replace(/<[^>]*>/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();
  return text === '' ? '' : `: ${text.slice(0, 160).replace(/[.\s]+$/, '')}`;
}
