import { createHash } from 'node:crypto';

/**
 * Longest line and longest component that are read, in bytes; lines of a component; how deep components may be nested; events of a
 * feed; definitions of zones, and all their bytes; and notes of what is left out.
 */
export const feedLimits = {
  line: 200_000,
  component: 1_000_000,
  lines: 20_000,
  depth: 8,
  events: 500_000,
  zones: 1000,
  zoneBytes: 5_000_000,
  notes: 100,
};

export interface Piece {
  /** empty where the feed gives none */
  uid: string;
  /** the component with its lines unfolded */
  text: string;
  /** of everything but what moves with each download */
  hash: string;
  /** of what the event is, without what only names it: who has this has the same event under whatever UID */
  content: string;
}

export interface FeedHead {
  name: string | null;
  colour: string | null;
  /** seconds that the feed asks to be left alone between two looks (RFC 7986, 5.7) */
  refresh: number | null;
}

/**
 * Takes a feed apart while it arrives: one event at a time is held, however large the feed is. Lines are unfolded as
 * bytes, because folding may cut a character in two (RFC 5545, 3.1).
 */
export class FeedSplitter {
  readonly head: FeedHead = { name: null, colour: null, refresh: null };
  readonly zones = new Map<string, string>();
  /** what was left out, and why: the first of it, and how much there was */
  readonly skipped: string[] = [];
  skippedCount = 0;
  /** did it end as a calendar ends? */
  ended = false;
  #began = false;
  #rest: string[] = [];
  #length = 0;
  #line: string | null = null;
  #path: string[] = [];
  #part: string[] | null = null;
  #size = 0;
  #spoiled = '';
  #count = 0;
  #zoneBytes = 0;
  readonly #found: (piece: Piece) => void;

  constructor(found: (piece: Piece) => void) {
    this.#found = found;
  }

  get began(): boolean {
    return this.#began;
  }

  push(chunk: Buffer): void {
    const text = chunk.toString('latin1');
    // Without a line end there is nothing to look at yet; a line without an end is not kept for ever.
    if (!text.includes('\n')) {
      if (this.#length <= 2 * feedLimits.line) this.#rest.push(text);
      this.#length += text.length;
      return;
    }
    const lines = (this.#rest.join('') + text).split('\n');
    const last = lines.pop()!;
    this.#rest = [last];
    this.#length = last.length;
    for (const line of lines) this.#physical(line.endsWith('\r') ? line.slice(0, -1) : line);
  }

  end(): void {
    const rest = this.#rest.join('');
    if (rest !== '') this.#physical(rest.replace(/\r$/, ''));
    if (this.#line !== null) this.#logical(this.#line);
    this.#line = null;
  }

  #physical(line: string): void {
    if ((line[0] === ' ' || line[0] === '\t') && this.#line !== null) {
      if (this.#line.length <= feedLimits.line) this.#line += line.slice(1);
      return;
    }
    if (this.#line !== null) this.#logical(this.#line);
    this.#line = line;
  }

  #logical(raw: string): void {
    if (raw.trim() === '') return;
    const line = raw.startsWith('\xef\xbb\xbf') ? raw.slice(3) : raw;
    const name = /^[A-Za-z0-9-]+/.exec(line)?.[0].toUpperCase();
    if (name === 'BEGIN') this.#begin(line.slice(6).trim().toUpperCase(), line);
    else if (name === 'END') this.#end(line.slice(4).trim().toUpperCase(), line);
    else if (this.#part !== null) this.#keep(line);
    else if (this.#path.length === 1) this.#property(name ?? '', line);
  }

  #begin(component: string, line: string): void {
    if (component === 'VCALENDAR') this.#began = true;
    if (this.#path.length < 64) this.#path.push(component);
    if (this.#part === null && (component === 'VEVENT' || component === 'VTIMEZONE') && this.#path.length <= 2) {
      this.#part = [];
      this.#size = 0;
      this.#spoiled = '';
    }
    if (this.#path.length > feedLimits.depth) this.#spoiled ||= 'its components are nested too deep';
    if (this.#part !== null) this.#keep(line);
  }

  #end(component: string, line: string): void {
    // An END that closes nothing is passed over; one that closes an outer component closes what is open in it.
    const at = this.#path.lastIndexOf(component);
    if (at < 0) return;
    if (this.#part !== null) this.#keep(line);
    this.#path.length = at;
    if (component === 'VCALENDAR') this.ended = true;
    if (this.#part !== null && at <= 1) this.#finish(component);
  }

  #keep(line: string): void {
    this.#size += line.length + 2;
    if (line.length > feedLimits.line) this.#spoiled ||= `it has a line of more than ${feedLimits.line} bytes`;
    if (this.#size > feedLimits.component) this.#spoiled ||= `it has more than ${feedLimits.component} bytes`;
    if (this.#part!.length >= feedLimits.lines) this.#spoiled ||= `it has more than ${feedLimits.lines} lines`;
    if (this.#spoiled === '') this.#part!.push(line);
  }

  #finish(component: string): void {
    const lines = this.#part!.map((l) => Buffer.from(l, 'latin1').toString('utf8'));
    this.#part = null;
    const uid = firstValue(lines, 'UID').trim();
    if (this.#spoiled !== '') this.skip(`an event${uid === '' ? '' : ` (${uid.slice(0, 80)})`} is left out: ${this.#spoiled}`);
    else if (component === 'VTIMEZONE') this.#zone(firstValue(lines, 'TZID'), lines.join('\r\n'));
    else if (component === 'VEVENT' && ++this.#count > feedLimits.events) this.skip(`more than ${feedLimits.events} events`);
    else if (component === 'VEVENT') {
      const kept = (but: RegExp) => hash(lines.filter((l) => !but.test(l)).join('\n'));
      this.#found({
        uid,
        text: lines.join('\r\n'),
        hash: kept(/^DTSTAMP[;:]/i),
        content: kept(/^(DTSTAMP|UID|CREATED|LAST-MODIFIED|SEQUENCE|URL)[;:]/i),
      });
    }
  }

  #zone(name: string, text: string): void {
    this.#zoneBytes += text.length;
    const fits = this.zones.size < feedLimits.zones && this.#zoneBytes <= feedLimits.zoneBytes;
    if (fits) this.zones.set(name, text);
    else this.skip(`more than ${feedLimits.zones} time zones, or ${feedLimits.zoneBytes} bytes of them`);
  }

  /** Notes what is left out. */
  skip(reason: string): void {
    if (this.skippedCount++ < feedLimits.notes) this.skipped.push(reason);
  }

  #property(name: string, line: string): void {
    const value = Buffer.from(line.slice(line.indexOf(':') + 1), 'latin1')
      .toString('utf8')
      .trim();
    if ((name === 'X-WR-CALNAME' || name === 'NAME') && value !== '')
      this.head.name = value.replaceAll('\\,', ',').replaceAll('\\;', ';').slice(0, 200);
    if ((name === 'COLOR' || name === 'X-APPLE-CALENDAR-COLOR') && /^#[0-9a-f]{6}/i.test(value)) this.head.colour = value.slice(0, 7);
    if (name === 'REFRESH-INTERVAL' || (name === 'X-PUBLISHED-TTL' && this.head.refresh === null)) this.head.refresh = durationSeconds(value);
  }
}

const hash = (text: string) => createHash('sha256').update(text).digest('base64url').slice(0, 27);

const firstValue = (lines: string[], name: string): string => {
  const line = lines.find((l) => l.toUpperCase().startsWith(name) && /[;:]/.test(l[name.length] ?? ''));
  return line === undefined ? '' : line.slice(line.indexOf(':') + 1);
};

/** `P1W`, `PT12H`, `P1DT30M` (RFC 5545, 3.3.6); null for what is none */
export function durationSeconds(text: string): number | null {
  const match = /^P(?:(\d{1,6})W)?(?:(\d{1,6})D)?(?:T(?:(\d{1,6})H)?(?:(\d{1,6})M)?(?:(\d{1,6})S)?)?$/i.exec(text);
  if (match === null) return null;
  const [w, d, h, m, s] = match.slice(1).map((n) => Number(n ?? 0)) as [number, number, number, number, number];
  return w * 604_800 + d * 86_400 + h * 3600 + m * 60 + s;
}
