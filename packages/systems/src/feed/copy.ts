import { createHash } from 'node:crypto';
import { rmSync } from 'node:fs';
import { type FileHandle, open } from 'node:fs/promises';
import { pipeline, Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import { OutsideError } from '../outside-error.ts';
import { Turns } from '../turns.ts';
import { type FeedHead, FeedSplitter, feedLimits, type Piece } from './split.ts';

/** The one calendar of a feed. */
export const CALENDAR = '/';

export interface Entry {
  hash: string;
  /** where its components stand in the spool file: the event, and its overridden occurrences */
  pieces: { at: number; size: number }[];
  /** bytes of all of them */
  size: number;
  /** the UID that it is given, when the feed's own does not last */
  uid: string | null;
}

/** A feed as it was at one time, on disk; what each event is found by, in memory. */
export interface Copy {
  head: FeedHead;
  zones: Map<string, string>;
  /** the first of what was left out and why, and how much that was */
  skipped: string[];
  skippedCount: number;
  events: Map<string, Entry>;
  file: FileHandle;
  etag: string | null;
  modified: string | null;
  /** milliseconds since 1970 */
  at: number;
  uids: Set<string>;
  contents: Set<string>;
}

export interface Built {
  copy: Copy;
  began: boolean;
  ended: boolean;
}

/** By what events are known again, how much is read at most (bytes, after unpacking), and who sends it. */
export interface Spooling {
  byContent: boolean;
  limit: number;
  host: string;
}

/** Spools a body to a file without a name, and notes where everything is. @param name of a file that is not there yet @throws OutsideError */
export async function spool(
  body: AsyncIterable<Buffer>,
  headers: Record<string, string>,
  name: string,
  { byContent, limit, host }: Spooling,
): Promise<Built> {
  const file = await open(name, 'wx+', 0o600);
  // The name is not needed any more: the file goes with its last handle.
  rmSync(name);
  const events = new Map<string, Entry>();
  const turns = new Map<string, number>();
  const [uids, contents] = [new Set<string>(), new Set<string>()];
  let at = 0;
  let waiting: string[] = [];
  const splitter = new FeedSplitter((piece) => {
    uids.add(piece.uid);
    contents.add(piece.content);
    const text = `${piece.text}\r\n`;
    const size = Buffer.byteLength(text);
    if (byContent || piece.uid === '') enterByContent(events, turns, piece, { at, size });
    else if (!enterByUid(events, piece, { at, size }))
      splitter.skip(`an occurrence (${piece.uid.slice(0, 80)}) is left out: its event has more than ${feedLimits.component} bytes`);
    at += size;
    waiting.push(text);
  });
  const flush = async () => {
    if (waiting.length === 0) return;
    await file.write(waiting.join(''));
    waiting = [];
  };
  try {
    const turns = new Turns();
    let size = 0;
    for await (const chunk of unpacked(body, headers)) {
      size += chunk.length;
      if (size > limit) throw new OutsideError('nonsense', `the feed of ${host} has more than ${limit} bytes`);
      await turns.step(() => splitter.push(chunk));
      await flush();
    }
    splitter.end();
    await flush();
  } catch (error) {
    await file.close();
    if (/^Z_/.test((error as { code?: string }).code ?? '')) throw new OutsideError('nonsense', `${host} sent a packed feed that cannot be unpacked`);
    throw error;
  }
  const { head, zones, skipped, skippedCount, began, ended } = splitter;
  return { copy: { head, zones, skipped, skippedCount, events, file, etag: null, modified: null, at: Date.now(), uids, contents }, began, ended };
}

function unpacked(body: AsyncIterable<Buffer>, headers: Record<string, string>): AsyncIterable<Buffer> {
  if (!/\bgzip\b/.test(headers['content-encoding'] ?? '')) return body;
  const gunzip = createGunzip();
  // The reader of its end gets a failure anywhere in it.
  pipeline(Readable.from(body), gunzip, () => undefined);
  return gunzip;
}

/** Several components of one UID are one event and its overridden occurrences (RFC 4791, 4.1). @returns false where they are too much */
function enterByUid(events: Map<string, Entry>, piece: Piece, place: { at: number; size: number }): boolean {
  const known = events.get(hrefOf(piece.uid));
  if (known === undefined) events.set(hrefOf(piece.uid), { hash: piece.hash, pieces: [place], size: place.size, uid: null });
  else {
    if (known.size + place.size > feedLimits.component) return false;
    known.pieces.push(place);
    known.size += place.size;
    known.hash = createHash('sha256').update(`${known.hash} ${piece.hash}`).digest('base64url').slice(0, 27);
  }
  return true;
}

/** Two like events are distinguished by their order. */
function enterByContent(events: Map<string, Entry>, turns: Map<string, number>, piece: Piece, place: { at: number; size: number }): void {
  const turn = (turns.get(piece.content) ?? 0) + 1;
  turns.set(piece.content, turn);
  const uid = `${piece.content}${turn === 1 ? '' : `-${turn}`}@feed.monsoon.example`;
  events.set(hrefOf(uid), { hash: piece.content, pieces: [place], size: place.size, uid });
}

export const hrefOf = (uid: string): string =>
  `${CALENDAR}${uid.length <= 200 ? encodeURIComponent(uid) : createHash('sha256').update(uid).digest('base64url')}.ics`;

/** An event with its overridden occurrences and the zones that it names, as a calendar object. */
export async function textOf(copy: Copy, entry: Entry): Promise<string> {
  const parts: string[] = [];
  for (const { at, size } of entry.pieces) {
    const buffer = Buffer.alloc(size);
    await copy.file.read(buffer, 0, size, at);
    const text = buffer.toString('utf8');
    parts.push(entry.uid === null ? text : renamed(text, entry.uid));
  }
  const body = parts.join('');
  // A feed may define many zones: those that the event names are found by their names.
  const named = new Set([...body.matchAll(/;TZID=(?:"([^"\r\n]*)"|([^;:"\r\n]*))/gi)].map((m) => m[1] ?? m[2] ?? ''));
  const zones = [...named].flatMap((name) => copy.zones.get(name) ?? []).map((text) => `${text}\r\n`);
  return `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Monsoon//Feed//EN\r\n${zones.join('')}${body}END:VCALENDAR\r\n`;
}

const renamed = (text: string, uid: string): string => text.replace(/^UID[;:].*\r\n/im, '').replace('\r\n', `\r\nUID:${uid}\r\n`);
