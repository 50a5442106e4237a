import { SaxesParser } from 'saxes';

/** An XML element as a request has it. Names are `{namespace}local`. */
export interface Element {
  name: string;
  attributes: Record<string, string>;
  children: Element[];
  text: string;
}

export class InvalidXml extends Error {
  override name = 'InvalidXml';
}

export const DAV = '{DAV:}';
export const CAL = '{urn:ietf:params:xml:ns:caldav}';
export const SERVER = '{http://calendarserver.org/ns/}';
export const APPLE = '{http://apple.com/ns/ical/}';

const prefixes: Record<string, string> = {
  'DAV:': 'D',
  'urn:ietf:params:xml:ns:caldav': 'C',
  'http://calendarserver.org/ns/': 'S',
  'http://apple.com/ns/ical/': 'A',
};
/** Declared once, at the outermost element of each answer. */
export const NAMESPACES = Object.entries(prefixes)
  .map(([uri, prefix]) => `xmlns:${prefix}="${uri}"`)
  .join(' ');
export const HEAD = '<?xml version="1.0" encoding="utf-8"?>\n';

/** A request is small: what is deeper or has more elements is hostile. */
const MOST = { depth: 24, elements: 20_000 };

/**
 * Reads the body of a request, without document types, so without entities.
 * @returns the outermost element; null for an empty body
 * @throws InvalidXml
 */
export function readXml(body: Buffer): Element | null {
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
  parser.on('error', (error) => {
    throw new InvalidXml(`the body is not well-formed XML: ${error.message}`);
  });
  parser.on('doctype', () => {
    throw new InvalidXml('document types are not read');
  });
  parser.on('opentag', (tag) => {
    if (stack.length >= MOST.depth) throw new InvalidXml(`elements are nested deeper than ${MOST.depth}`);
    if (++elements > MOST.elements) throw new InvalidXml(`there are more than ${MOST.elements} elements`);
    const element: Element = { name: `{${tag.uri}}${tag.local}`, attributes: {}, children: [], text: '' };
    for (const attribute of Object.values(tag.attributes)) {
      const { prefix, local, value } = attribute as unknown as { prefix: string; local: string; value: string };
      if (prefix !== 'xmlns' && local !== 'xmlns') element.attributes[local] = value;
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
  parser.write(text).close();
  return root;
}

export const childOf = (element: Element | null | undefined, name: string): Element | undefined => element?.children.find((c) => c.name === name);

/** CR is written as a reference: a parser reads it as LF otherwise (XML 1.0, 2.11), and stored text is given back as it is. */
export const escapeXml = (text: string): string => text.replace(/[<>&"'\r]/g, (c) => `&#${c.charCodeAt(0)};`);

/** `<D:getetag` of `{DAV:}getetag`, with a namespace of its own where the prefix is not known. */
function startOf(name: string): { open: string; close: string } {
  const [, uri = '', local = ''] = /^\{([^}]*)\}(.*)$/.exec(name) ?? [];
  const prefix = prefixes[uri];
  if (prefix !== undefined) return { open: `${prefix}:${local}`, close: `${prefix}:${local}` };
  return uri === '' ? { open: `${local} xmlns=""`, close: local } : { open: `x:${local} xmlns:x="${escapeXml(uri)}"`, close: `x:${local}` };
}

/** An element by its name. @param inner XML */
export function element(name: string, inner = ''): string {
  const { open, close } = startOf(name);
  return inner === '' ? `<${open}/>` : `<${open}>${inner}</${close}>`;
}

/** An element as it came, as far as it is kept: text goes before children. */
export function writeElement({ name, attributes, children, text }: Element): string {
  const { open, close } = startOf(name);
  const written = Object.entries(attributes)
    .map(([key, value]) => ` ${key}="${escapeXml(value)}"`)
    .join('');
  return `<${open}${written}>${escapeXml(children.length > 0 ? text.trim() : text)}${children.map(writeElement).join('')}</${close}>`;
}
