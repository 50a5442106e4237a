import type { Turns } from '@monsoon/systems';
import { SaxesParser } from 'saxes';

/** The name of an element: two texts, because a namespace may hold any character (Namespaces in XML 1.0, 2.1). */
export interface Name {
  namespace: string;
  local: string;
}

/** An XML element as a request has it. */
export interface Element {
  name: Name;
  /** by local name, and `xml:lang` */
  attributes: Map<string, string>;
  children: Element[];
  text: string;
}

export class InvalidXml extends Error {
  override name = 'InvalidXml';
}

const named =
  (namespace: string) =>
  (local: string): Name => ({ namespace, local });
export const DAV = named('DAV:');
export const CAL = named('urn:ietf:params:xml:ns:caldav');
export const SERVER = named('http://calendarserver.org/ns/');
export const APPLE = named('http://apple.com/ns/ical/');

const prefixes = new Map([
  ['DAV:', 'D'],
  ['urn:ietf:params:xml:ns:caldav', 'C'],
  ['http://calendarserver.org/ns/', 'S'],
  ['http://apple.com/ns/ical/', 'A'],
]);
/** Declared once, at the outermost element of each answer. */
export const NAMESPACES = [...prefixes].map(([uri, prefix]) => `xmlns:${prefix}="${uri}"`).join(' ');
export const HEAD = '<?xml version="1.0" encoding="utf-8"?>\n';

/** A name as a key of maps: no local name has a space, so no two names have the same key. */
export const keyOf = ({ namespace, local }: Name): string => `${local} ${namespace}`;
export function nameOfKey(key: string): Name {
  const space = key.indexOf(' ');
  return { local: key.slice(0, space), namespace: key.slice(space + 1) };
}
export const isNamed = ({ name }: Element, { namespace, local }: Name): boolean => name.namespace === namespace && name.local === local;

/** A request is small: what is deeper or has more elements or attributes is hostile. */
const MOST = { depth: 24, elements: 20_000, attributes: 50 };
/** Characters that are read in one step. */
const STEP = 16_384;

/**
 * Reads the body of a request, without document types, so without entities.
 * @returns the outermost element; null for an empty body
 * @throws InvalidXml
 */
export async function readXml(body: Buffer, turns: Turns): Promise<Element | null> {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(body);
  } catch {
    throw new InvalidXml('the body is not UTF-8');
  }
  if (text.trim() === '') return null;
  const parser = new SaxesParser({ xmlns: true, position: false });
  const stack: Element[] = [];
  let root: Element | null = null;
  let elements = 0;
  let attributes = 0;
  parser.on('error', (error) => {
    throw new InvalidXml(`the body is not well-formed XML: ${error.message}`);
  });
  parser.on('doctype', () => {
    throw new InvalidXml('document types are not read');
  });
  parser.on('opentagstart', () => {
    attributes = 0;
  });
  parser.on('attribute', () => {
    if (++attributes > MOST.attributes) throw new InvalidXml(`an element has more than ${MOST.attributes} attributes`);
  });
  parser.on('opentag', (tag) => {
    if (stack.length >= MOST.depth) throw new InvalidXml(`elements are nested deeper than ${MOST.depth}`);
    if (++elements > MOST.elements) throw new InvalidXml(`there are more than ${MOST.elements} elements`);
    const element: Element = { name: { namespace: tag.uri, local: tag.local }, attributes: new Map(), children: [], text: '' };
    for (const attribute of Object.values(tag.attributes)) {
      const { prefix, local, value } = attribute as unknown as { prefix: string; local: string; value: string };
      if (prefix !== 'xmlns' && local !== 'xmlns') element.attributes.set(prefix === 'xml' ? `xml:${local}` : local, value);
    }
    stack.at(-1)?.children.push(element);
    root ??= element;
    stack.push(element);
  });
  const add = (piece: string) => {
    const top = stack.at(-1);
    if (top !== undefined) top.text += piece;
  };
  parser.on('text', add);
  parser.on('cdata', add);
  parser.on('closetag', () => void stack.pop());
  for (let at = 0; at < text.length; at += STEP) await turns.step(() => parser.write(text.slice(at, at + STEP)));
  parser.close();
  return root;
}

export const childOf = (element: Element | null | undefined, name: Name): Element | undefined => element?.children.find((c) => isNamed(c, name));

/** CR is written as a reference: a parser reads it as LF otherwise (XML 1.0, 2.11), and stored text is given back as it is. */
export const escapeXml = (text: string): string => text.replace(/[<>&"'\r]/g, (c) => `&#${c.charCodeAt(0)};`);

/** `<D:getetag` of DAV:getetag, with a namespace of its own where the prefix is not known. */
function startOf({ namespace, local }: Name): { open: string; close: string } {
  const prefix = prefixes.get(namespace);
  if (prefix !== undefined) return { open: `${prefix}:${local}`, close: `${prefix}:${local}` };
  return namespace === ''
    ? { open: `${local} xmlns=""`, close: local }
    : { open: `x:${local} xmlns:x="${escapeXml(namespace)}"`, close: `x:${local}` };
}

/** An element by its name. @param inner XML */
export function element(name: Name, inner = ''): string {
  const { open, close } = startOf(name);
  return inner === '' ? `<${open}/>` : `<${open}>${inner}</${close}>`;
}

/** An element as it came, as far as it is kept: text goes before children. */
export function writeElement({ name, attributes, children, text }: Element): string {
  const { open, close } = startOf(name);
  const written = [...attributes].map(([key, value]) => ` ${key}="${escapeXml(value)}"`).join('');
  return `<${open}${written}>${escapeXml(children.length > 0 ? text.trim() : text)}${children.map(writeElement).join('')}</${close}>`;
}
