import { failure } from '../http/answers.ts';
import type { Answer, Call } from '../http/call.ts';
import { OutsideError } from '../outside-error.ts';
import { Turns } from '../turns.ts';
import { canonicalHref } from './hrefs.ts';
import { type DavResponse, escapeXml, type Multistatus, parseMultistatus } from './multistatus.ts';

const HEAD = '<?xml version="1.0" encoding="utf-8"?>';
export const NAMESPACES =
  'xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav" xmlns:A="http://apple.com/ns/ical/" xmlns:S="http://calendarserver.org/ns/"';

/** WebDAV requests (RFC 4918, 3253, 6578) with answers judged by what their bodies say. */
export class Dav {
  readonly base: string;
  readonly #call: Call;

  /** @param base origin of the server; hrefs are paths below it */
  constructor(call: Call, base: string) {
    this.#call = call;
    this.base = new URL(base).origin;
  }

  get host(): string {
    return new URL(this.base).host;
  }

  send(method: string, href: string, signal: AbortSignal, more: { headers?: Record<string, string>; body?: string } = {}): Promise<Answer> {
    return this.#call({ method, url: new URL(href, this.base).href, headers: more.headers ?? {}, body: more.body, signal });
  }

  /** @param properties as elements with the prefixes D, C, A and S */
  propfind(href: string, depth: 0 | 1, properties: string, signal: AbortSignal): Promise<Multistatus & { at: string }> {
    return this.#multistatus('PROPFIND', href, depth, `<D:propfind ${NAMESPACES}><D:prop>${properties}</D:prop></D:propfind>`, signal);
  }

  report(href: string, depth: 0 | 1, body: string, signal: AbortSignal): Promise<Multistatus & { at: string }> {
    return this.#multistatus('REPORT', href, depth, body, signal);
  }

  async #multistatus(method: string, href: string, depth: number, body: string, signal: AbortSignal): Promise<Multistatus & { at: string }> {
    const headers = { 'content-type': 'application/xml; charset=utf-8', depth: String(depth) };
    const answer = await this.send(method, href, signal, { headers, body: HEAD + body });
    if (answer.status !== 207) throw failure(answer, `${method} of ${href}`);
    const result = await parseMultistatus(answer.body, this.host);
    const turns = new Turns({ signal });
    for (const response of result.responses)
      await turns.step(() => {
        response.href = canonicalHref(response.href, answer.url);
      });
    return { ...result, at: canonicalHref(answer.url, this.base) };
  }

  /** A write. A 207 is a success only if nothing in it failed. */
  async write(
    method: 'PUT' | 'DELETE' | 'MKCALENDAR' | 'MOVE' | 'PROPPATCH',
    href: string,
    signal: AbortSignal,
    headers: Record<string, string>,
    body?: string,
  ): Promise<Answer> {
    const answer = await this.send(method, href, signal, { headers, ...(body === undefined ? {} : { body }) });
    if (answer.status === 207) {
      const bad = (await parseMultistatus(answer.body, this.host)).responses.find((r) => worst(r) >= 400);
      if (bad !== undefined) throw this.#refused({ ...answer, status: worst(bad) }, method, href);
      return answer;
    }
    if (answer.status < 200 || answer.status >= 300) throw this.#refused(answer, method, href);
    return answer;
  }

  #refused(answer: Answer, method: string, href: string): OutsideError {
    const body = answer.body.toString('utf8');
    if (method === 'PUT' && /no-uid-conflict|unique-scheduling-object-resource/.test(body)) {
      const other = firstHref(body);
      return new OutsideError('exists', `${this.host} has an event with this UID already`, {
        status: answer.status,
        href: other === undefined ? null : canonicalHref(other.trim(), this.base),
      });
    }
    return failure(answer, `${method} of ${href}`);
  }
}

/** The first address that a refusal names (RFC 4791, 5.3.2.1): found without going back over what was read. */
function firstHref(body: string): string | undefined {
  const start = /<(?:\w{1,40}:)?href\b/.exec(body);
  if (start === null) return undefined;
  const open = body.indexOf('>', start.index);
  const close = open < 0 ? -1 : body.indexOf('<', open);
  return close < 0 ? undefined : body.slice(open + 1, Math.min(close, open + 2001));
}

const worst = (response: DavResponse) => Math.max(response.status ?? 0, ...response.failed, 0);

export const hrefElements = (hrefs: string[]): string => hrefs.map((h) => `<D:href>${escapeXml(h)}</D:href>`).join('');
