import { setImmediate as turn } from 'node:timers/promises';
import { SaxesParser } from 'saxes';
import { OutsideError } from '../outside-error.ts';

/** An XML element as far as WebDAV answers need it. Names are `{namespace}local`. */
export interface Element {
  name: string;
  attributes: Record<string, string>;
  children: Element[];
  text: string;
}

export interface DavResponse {
  href: string;
  /** status of the whole resource, when it has one */
  status: number | null;
  /** properties that were given with status 200 */
  properties: Map<string, Element>;
  /** status of each other propstat */
  failed: number[];
  /** names inside DAV:error */
  errors: string[];
}

export interface Multistatus {
  responses: DavResponse[];
  syncToken: string | null;
  /** false when the XML broke off or was not well-formed: what was read of it may be incomplete */
  intact: boolean;
}

export const DAV = '{DAV:}';
export const CAL = '{urn:ietf:params:xml:ns:caldav}';

const MAX_DEPTH = 40;
/** Bytes read without a pause: an answer of megabytes must not hold up everything else. */
const PIECE = 32_768;

/**
 * Reads a WebDAV multistatus (RFC 4918, 13). Broken XML does not throw away what came before it: a single control
 * character in one event must not cost the whole calendar.
 * @throws OutsideError `nonsense` when it is no multistatus at all
 */
export async function parseMultistatus(body: Buffer, host: string): Promise<Multistatus> {
  const result: Multistatus = { responses: [], syncToken: null, intact: true };
  const parser = new SaxesParser({ xmlns: true, position: false });
  const stack: Element[] = [];
  let root: string | null = null;
  parser.on('error', () => {
    result.intact = false;
  });
  parser.on('doctype', () => {
    throw new OutsideError('nonsense', `${host} sent XML with a document type, which is not read`);
  });
  parser.on('opentag', (tag) => {
    const element: Element = { name: `{${tag.uri}}${tag.local}`, attributes: {}, children: [], text: '' };
    for (const [name, attribute] of Object.entries(tag.attributes)) element.attributes[name] = String((attribute as { value: string }).value);
    if (stack.length >= MAX_DEPTH) throw new OutsideError('nonsense', `${host} sent XML nested deeper than ${MAX_DEPTH}`);
    root ??= element.name;
    stack.push(element);
  });
  const text = (piece: string) => {
    const top = stack.at(-1);
    if (top !== undefined) top.text += piece;
  };
  parser.on('text', text);
  parser.on('cdata', text);
  parser.on('closetag', () => {
    const element = stack.pop();
    const parent = stack.at(-1);
    if (element === undefined || parent === undefined) return;
    if (stack.length > 1) parent.children.push(element);
    else if (element.name === `${DAV}response`) result.responses.push(...readResponse(element));
    else if (element.name === `${DAV}sync-token`) result.syncToken = element.text.trim();
  });
  for (let at = 0; at < body.length; ) {
    if (at > 0) await turn();
    // Pieces end between characters: a UTF-8 continuation byte never starts one.
    let end = Math.min(at + PIECE, body.length);
    while (end < body.length && (body[end]! & 0xc0) === 0x80) end++;
    parser.write(body.toString('utf8', at, end));
    at = end;
  }
  try {
    parser.close();
  } catch {
    result.intact = false;
  }
  if (root !== `${DAV}multistatus`)
    throw new OutsideError('nonsense', `${host} did not answer as a calendar server does (it sent ${root ?? 'no XML'})`);
  return result;
}

const child = (element: Element, name: string) => element.children.find((c) => c.name === DAV + name);
const statusOf = (element: Element | undefined) => (element === undefined ? null : Number(/\s(\d{3})\b/.exec(` ${element.text}`)?.[1] ?? 0));

function readResponse(element: Element): DavResponse[] {
  const properties = new Map<string, Element>();
  const failed: number[] = [];
  for (const propstat of element.children.filter((c) => c.name === `${DAV}propstat`)) {
    const status = statusOf(child(propstat, 'status')) ?? 0;
    if (status >= 200 && status < 300) for (const property of child(propstat, 'prop')?.children ?? []) properties.set(property.name, property);
    else failed.push(status);
  }
  const errors = [...(child(element, 'error')?.children ?? [])].map((e) => e.name);
  const status = statusOf(child(element, 'status'));
  // One response may speak of several resources (RFC 4918, 14.24).
  return element.children.filter((c) => c.name === `${DAV}href`).map((h) => ({ href: h.text.trim(), status, properties, failed, errors }));
}

export const escapeXml = (text: string): string => text.replace(/[<>&"']/g, (c) => `&#${c.charCodeAt(0)};`);
