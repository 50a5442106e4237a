import { escapeXml } from './xml.ts';

/** An answer of the door that says no, with the precondition that was violated (RFC 4918, 16) and the reason in words. */
export class DavProblem extends Error {
  override name = 'DavProblem';
  readonly status: number;
  /** an element inside D:error, such as `<C:no-uid-conflict/>` */
  readonly condition: string | null;
  readonly headers: Record<string, string>;

  constructor(status: number, message: string, condition: string | null = null, headers: Record<string, string> = {}) {
    super(message);
    this.status = status;
    this.condition = condition;
    this.headers = headers;
  }

  /** The body: what programs look for, and a sentence for people. */
  get body(): string {
    return errorElement(this.condition ?? '', this.message);
  }
}

export const errorElement = (condition: string, reason: string): string =>
  `<D:error>${condition}<M:reason xmlns:M="urn:monsoon:dav">${escapeXml(reason)}</M:reason></D:error>`;

export const notThere = (path: string): DavProblem => new DavProblem(404, `there is nothing at ${path}, or nothing that you may see`);

/** What is missing to do it (RFC 3744, 7.1.1). */
export const needsPrivilege = (href: string, privilege: string, reason: string): DavProblem =>
  new DavProblem(
    403,
    reason,
    `<D:need-privileges><D:resource><D:href>${escapeXml(href)}</D:href><D:privilege><D:${privilege}/></D:privilege></D:resource></D:need-privileges>`,
  );
