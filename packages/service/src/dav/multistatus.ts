import { once } from 'node:events';
import type { Response } from 'express';
import type { DavCaller } from './caller.ts';
import { namesOf, propertyOf } from './properties.ts';
import type { Resource } from './resources.ts';
import { childOf, DAV, type Element, element, escapeXml, HEAD, NAMESPACES } from './xml.ts';

export const statusLine = (status: number): string => `<D:status>HTTP/1.1 ${status} ${reasons[status] ?? ''}</D:status>`;
const reasons: Record<number, string> = {
  200: 'OK',
  403: 'Forbidden',
  404: 'Not Found',
  409: 'Conflict',
  424: 'Failed Dependency',
  507: 'Insufficient Storage',
};

export const responseElement = (href: string, inner: string): string => `<D:response><D:href>${escapeXml(href)}</D:href>${inner}</D:response>`;

const START = `${HEAD}<D:multistatus ${NAMESPACES}>`;

/** Characters that are gathered before they are sent. */
const PIECE = 65_536;

/** A multistatus (RFC 4918, 13) that is sent as it grows: what waits for the reader is not held here. */
export class Multistatus {
  readonly #response: Response;
  #waiting: string[] = [];
  #size = 0;
  #started = false;

  constructor(response: Response) {
    this.#response = response;
  }

  async add(xml: string): Promise<void> {
    this.#waiting.push(xml);
    this.#size += xml.length;
    if (this.#size >= PIECE) await this.#flush();
  }

  /** @param tail elements after the responses */
  async end(tail = ''): Promise<void> {
    this.#waiting.push(`${tail}</D:multistatus>`);
    // Most answers are small: they go out in one piece, with their length.
    if (!this.#started) return void this.#open().send(`${START}${this.#waiting.join('')}`);
    await this.#flush();
    this.#response.end();
  }

  #open(): Response {
    return this.#response.status(207).set('content-type', 'application/xml; charset=utf-8');
  }

  async #flush(): Promise<void> {
    const response = this.#response;
    if (!this.#started) {
      this.#started = true;
      this.#open().write(START);
    }
    const text = this.#waiting.join('');
    this.#waiting = [];
    this.#size = 0;
    if (!response.write(text) && !response.destroyed) await Promise.race([once(response, 'drain'), once(response, 'close')]);
    if (response.destroyed) throw new Error('the reader went away');
  }
}

/** What a PROPFIND or a report asks of each resource. */
export type Wanted = { names: string[] } | 'all' | 'names';

/** @returns null where the body asks for something else */
export function wantedIn(asked: Element | null): Wanted | null {
  if (asked === null || childOf(asked, `${DAV}allprop`) !== undefined) {
    return 'all';
  }
  if (childOf(asked, `${DAV}propname`) !== undefined) return 'names';
  const prop = childOf(asked, `${DAV}prop`);
  return prop === undefined ? null : { names: prop.children.map((c) => c.name) };
}

/**
 * The propstats of a resource.
 * @param given properties that the caller computed already, by name: inner XML
 */
export function propstats(resource: Resource, wanted: Wanted, caller: DavCaller, given: Record<string, string> = {}): string {
  if (wanted === 'names') {
    const names = namesOf(resource, caller, true);
    return `<D:propstat><D:prop>${names.map((n) => element(n)).join('')}</D:prop>${statusLine(200)}</D:propstat>`;
  }
  const names = wanted === 'all' ? namesOf(resource, caller, false) : wanted.names;
  const found: string[] = [];
  const missing: string[] = [];
  for (const name of names) {
    const own = given[name];
    const property = own === undefined ? propertyOf(resource, name, caller) : { inner: own };
    if (property === null) missing.push(element(name));
    else found.push('whole' in property ? property.whole : element(name, property.inner));
  }
  const stat = (elements: string[], status: number) =>
    elements.length === 0 ? '' : `<D:propstat><D:prop>${elements.join('')}</D:prop>${statusLine(status)}</D:propstat>`;
  return stat(found, 200) + stat(missing, 404) || `<D:propstat><D:prop/>${statusLine(200)}</D:propstat>`;
}
