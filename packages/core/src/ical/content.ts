import { certain } from '../certain.ts';
/** One property of a component. `source` is the physical text it came in: what is not edited is written back as it was. */
export interface Line {
  name: string;
  params: Param[];
  /** the raw value, still escaped */
  value: string;
  source: string | null;
}

export interface Param {
  name: string;
  values: string[];
}

export interface Component {
  name: string;
  lines: Line[];
  components: Component[];
}

/**
 * How much of one event is read at all: its physical text and a line that is understood, in characters; components of all
 * kinds, alarms, and properties of one component. Reading it must not hold up everything else.
 */
export const limits = { event: 8_000_000, line: 200_000, depth: 8, components: 2000, alarms: 200, properties: 5000, physicalLines: 120_000 };

export class UnreadableEvent extends Error {
  override name = 'UnreadableEvent';
}

/** A value that would end its line, and begin another one (RFC 5545, 3.1): nothing from outside may write a property. */
export class UnwritableEvent extends Error {
  override name = 'UnwritableEvent';
}

/** Line breaks other than CRLF: some writers use them. */
const oddBreaks = /\r(?!\n)|(?<!\r)\n/;
const isContinued = (line: string | undefined): line is string => line?.[0] === ' ' || line?.[0] === '\t';

/**
 * Reads iCalendar text (RFC 5545, 3.1) into lines and components without judging what they mean.
 * @throws UnreadableEvent naming the line
 */
export function parseComponents(text: string): Component[] {
  if (text.length > limits.event) throw new UnreadableEvent(`the event has ${text.length} characters; ${limits.event} are read`);
  const roots: Component[] = [];
  const open: Component[] = [];
  let components = 0;
  let alarms = 0;
  // A byte order mark says how the text was encoded, and is no part of it.
  const bare = text.startsWith('\uFEFF') ? text.slice(1) : text;
  const physical = bare.split(oddBreaks.test(bare) ? /\r\n|\n|\r/ : '\r\n', limits.physicalLines + 1);
  if (physical.length > limits.physicalLines) throw new UnreadableEvent(`the event has more than ${limits.physicalLines} lines`);
  for (let i = 0; i < physical.length; i++) {
    const number = i + 1;
    let source = physical[i] ?? '';
    let logical = source;
    if (source.trim() === '') continue;
    for (let next = physical[i + 1]; isContinued(next); next = physical[i + 1]) {
      i++;
      source += `\r\n${next}`;
      logical += next.slice(1);
    }
    const line = logical.length > limits.line ? unreadLine(logical, source, number) : parseLine(logical, source, number);
    const parent = open.at(-1);
    if (line.name === 'BEGIN') {
      if (open.length >= limits.depth) throw new UnreadableEvent(`line ${number}: components are nested too deep`);
      if (++components > limits.components) throw new UnreadableEvent(`line ${number}: there are more than ${limits.components} components`);
      const name = line.value.trim().toUpperCase();
      if (name === 'VALARM' && ++alarms > limits.alarms) throw new UnreadableEvent(`line ${number}: there are more than ${limits.alarms} alarms`);
      const component: Component = { name, lines: [], components: [] };
      (parent?.components ?? roots).push(component);
      open.push(component);
    } else if (line.name === 'END') {
      if (parent === undefined || parent.name !== line.value.trim().toUpperCase())
        throw new UnreadableEvent(`line ${number}: END:${line.value} closes nothing`);
      open.pop();
    } else if (parent === undefined) throw new UnreadableEvent(`line ${number}: a property outside of every component`);
    else if (parent.lines.length >= limits.properties)
      throw new UnreadableEvent(`line ${number}: a component has more than ${limits.properties} properties`);
    else parent.lines.push(line);
  }
  const left = open.at(-1);
  if (left !== undefined) throw new UnreadableEvent(`${left.name} is not ended`);
  return roots;
}

/** Properties that are understood; of any other, a line that is too long is kept as it is. */
const understood =
  /^(BEGIN|END|UID|DTSTART|DTEND|DUE|DURATION|RRULE|RDATE|EXDATE|RECURRENCE-ID|SUMMARY|DESCRIPTION|LOCATION|STATUS|TRANSP|CLASS|CATEGORIES|URL|CONFERENCE|COLOR|ATTENDEE|ORGANIZER|TRIGGER|TZID|TZOFFSETFROM|TZOFFSETTO)$/;

/** A line too long to be read, such as an attachment that stands in the text: written back as it was. */
function unreadLine(logical: string, source: string, number: number): Line {
  const name = /^[A-Za-z0-9-]{1,100}/.exec(logical)?.[0].toUpperCase() ?? '';
  if (name === '' || understood.test(name)) throw new UnreadableEvent(`line ${number} has ${logical.length} characters; ${limits.line} are read`);
  return { name, params: [], value: '', source };
}

const isNameCharacter = (code: number): boolean =>
  (code >= 65 && code <= 90) || (code >= 97 && code <= 122) || (code >= 48 && code <= 57) || code === 45;

/** Where the value of a parameter ends: before the next value, the next parameter, or the property's value. */
function endOfValue(logical: string, from: number): number {
  let at = from;
  while (at < logical.length && logical[at] !== ',' && logical[at] !== ';' && logical[at] !== ':') at++;
  return at;
}

function parseLine(logical: string, source: string, number: number): Line {
  let at = 0;
  while (at < logical.length && isNameCharacter(logical.charCodeAt(at))) at++;
  if (at === 0) throw new UnreadableEvent(`line ${number}: no property name`);
  const head = logical.slice(0, at);
  const params: Param[] = [];
  while (logical[at] === ';') {
    const equals = logical.indexOf('=', at);
    if (equals < 0) throw new UnreadableEvent(`line ${number}: a parameter without a value`);
    const name = logical.slice(at + 1, equals).toUpperCase();
    const values: string[] = [];
    at = equals;
    do {
      at++;
      const quoted = logical[at] === '"';
      const end = quoted ? logical.indexOf('"', at + 1) : endOfValue(logical, at);
      if (end < 0) throw new UnreadableEvent(`line ${number}: a quoted parameter value is not closed`);
      values.push(logical.slice(quoted ? at + 1 : at, end));
      at = quoted ? end + 1 : end;
    } while (logical[at] === ',');
    params.push({ name, values });
  }
  if (logical[at] !== ':') throw new UnreadableEvent(`line ${number}: "${head}" has no value`);
  return { name: head.toUpperCase(), params, value: logical.slice(at + 1), source };
}

/**
 * Writes components as iCalendar text with CRLF. Lines have at most 75 octets (RFC 5545, 3.1); those that were not edited stand as
 * they came. @param refold those, too, are folded again
 */
export function writeComponents(components: Component[], refold = false): string {
  const out: string[] = [];
  const write = (component: Component) => {
    out.push(`BEGIN:${component.name}`);
    for (const line of component.lines)
      out.push(line.source === null ? fold(formatLine(line)) : refold ? fold(line.source.replace(/\r?\n[ \t]/g, '')) : line.source);
    for (const part of component.components) write(part);
    out.push(`END:${component.name}`);
  };
  components.forEach(write);
  return `${out.join('\r\n')}\r\n`;
}

/** @throws UnwritableEvent naming the property; what stands in a parameter is left out instead: it came with the event */
function formatLine(line: Line): string {
  if (/(?!\t)\p{Cc}/u.test(line.value)) throw new UnwritableEvent(`${line.name}: a control character cannot be written into an event`);
  const quote = (v: string) => (/[,;:]/.test(v) ? `"${v}"` : v);
  return `${line.name}${line.params.map((p) => `;${p.name}=${p.values.map((v) => quote(v.replaceAll('"', "'").replace(/(?!\t)\p{Cc}/gu, ''))).join(',')}`).join('')}:${line.value}`;
}

const LONGEST_LINE = 75;

/** One line in lines of at most 75 octets of UTF-8 (RFC 5545, 3.1). */
export function fold(line: string): string {
  let out = '';
  let from = 0;
  let width = 0;
  for (let at = 0; at < line.length; ) {
    const code = certain(line.codePointAt(at), 'it lies within the line');
    const size = code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
    if (width + size > LONGEST_LINE) {
      out += `${line.slice(from, at)}\r\n `;
      from = at;
      width = 1;
    }
    width += size;
    at += size === 4 ? 2 : 1;
  }
  return from === 0 ? line : out + line.slice(from);
}

/** TEXT values (RFC 5545, 3.3.11). */
export const escapeText = (text: string): string => text.replace(/[\\;,]/g, (c) => `\\${c}`).replaceAll('\n', '\\n');
export const unescapeText = (value: string): string => value.replace(/\\([\\;,nN])/g, (_m, c: string) => (c === 'n' || c === 'N' ? '\n' : c));

/** Splits a list of TEXT values at its unescaped commas. */
export const splitText = (value: string): string[] => (value.match(/(?:\\.|[^,\\])+/g) ?? []).map(unescapeText);

export const lineOf = (component: Component, name: string): Line | undefined => component.lines.find((l) => l.name === name);
/** A line that the component is known to have: it was read by it. */
export const knownLine = (component: Component, name: string): Line =>
  certain(lineOf(component, name), `the ${component.name} was read by its ${name}`);
export const paramOf = (line: Line, name: string): string | undefined => line.params.find((p) => p.name === name)?.values[0];

/** Puts a line in place of the first one of its name (its neighbours stay where they are) and drops the others; null removes all. */
export function setLine(component: Component, name: string, line: Omit<Line, 'name' | 'source'> | null): void {
  const at = component.lines.findIndex((l) => l.name === name);
  component.lines = component.lines.filter((l, i) => l.name !== name || i === at);
  if (line === null) {
    if (at >= 0) component.lines.splice(at, 1);
  } else component.lines.splice(at < 0 ? component.lines.length : at, at < 0 ? 0 : 1, { name, ...line, source: null });
}
