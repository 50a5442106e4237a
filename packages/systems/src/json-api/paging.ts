import type { Answer } from '../http/call.ts';
import type { NextPage } from './descriptor.ts';
import { at } from './read-record.ts';

/** What asks for a page: parameters, or the whole address of it. */
export type PageRequest = { parameters: Record<string, string> } | { url: string };

export interface PageSeen {
  json: unknown;
  answer: Answer;
  /** how many pages and records were seen so far, this one with them */
  pages: number;
  records: number;
  /** how many records this one had, and how many were asked for; null: not said */
  count: number;
  size: number | null;
}

/** What asks for the page after this one; null when it was the last. */
export function nextPage(next: NextPage | undefined, seen: PageSeen): PageRequest | null {
  if (next === undefined) return null;
  if (next.header !== undefined) {
    const url = linkOf(seen.answer.headers['link']);
    return url === null ? null : { url: new URL(url, seen.answer.url).href };
  }
  if (next.at !== undefined) {
    const mark = at(seen.json, next.at);
    if (mark === undefined || mark === null || mark === '' || mark === false) return null;
    if (next.parameter !== undefined) return { parameters: { [next.parameter]: String(mark) } };
    return { url: new URL(String(mark), seen.answer.url).href };
  }
  // A short page is the last; where nothing says how long a page is, an empty one.
  if (seen.count === 0 || (seen.size !== null && seen.count < seen.size)) return null;
  if (next.page !== undefined) return { parameters: { [next.page]: String((next.first ?? 1) + seen.pages) } };
  return { parameters: { [next.offset!]: String(seen.records) } };
}

/** The address with rel="next" in a Link header (RFC 8288, 3). */
export function linkOf(header: string | undefined): string | null {
  for (const [, url, parameters] of (header ?? '').matchAll(/<([^>]*)>((?:\s*;\s*[\w*-]+\s*=\s*(?:"[^"]*"|[^\s",;]+))*)/g))
    if (/;\s*rel\s*=\s*(?:"(?:[^"]*\s)?next(?:\s[^"]*)?"|next(?=[\s;,]|$))/i.test(parameters!)) return url!;
  return null;
}
