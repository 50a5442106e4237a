import type { Response } from 'express';
import { drained } from '../http/drained.ts';
import { escapeXml, HEAD, NAMESPACES } from './xml.ts';

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
    if (!response.write(text) && !response.destroyed) await drained(response);
    if (response.destroyed) throw new Error('the reader went away');
  }
}
