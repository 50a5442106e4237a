import { createHash, type Hash } from 'node:crypto';
import { createWriteStream, existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import { foldedLine, writtenComponents, zoneDefinition } from '@monsoon/core';
import type { App } from '../app.ts';
import { oneRow } from '../storage/one-row.ts';
import type { FeedRow } from './refresh.ts';

/** Years around today for which known zones are defined. */
const YEARS = { before: 2, after: 5 };
const DAY = 86_400;
const PAGE = 2000;

/** A feed's document as it lies on this machine's disk, and compressed beside it. */
export interface Document {
  /** of what it was built from */
  stamp: string;
  /** of what it says (RFC 9110, 8.8.3) */
  etag: string;
  path: string;
  modified: Date;
}

const folderOf = (app: App): string => join(app.config.dataFolder, 'feeds');
const today = (): number => Math.floor(Date.now() / 1000 / DAY);

const ready = new Map<string, Document>();
const building = new Map<string, Promise<Document>>();

/** Pairs of a lane that stand on its calendar; a stamp of them shows whether others do now. */
const FOLLOWED = `select split_part(p.href, '#', 1) from pairs p where p.lane = $2 and p.href is not null and p.state not in ('removed', 'unlinked')`;

async function stampOf(app: App, feed: FeedRow): Promise<string> {
  const { rows } =
    feed.lane === null
      ? { rows: [] }
      : await app.pool.query('select count(*)::int as n, max(updated_at)::text as newest from pairs where lane = $1', [feed.lane]);
  const { window } = feed.settings;
  const parts = [feed.id, feed.revision, feed.settings, window === null ? null : today(), rows[0] ?? null];
  return createHash('sha256').update(JSON.stringify(parts)).digest('hex').slice(0, 20);
}

/** The document of a feed as it is known now, built once for everybody who asks. */
export async function documentOf(app: App, feed: FeedRow): Promise<Document> {
  const stamp = await stampOf(app, feed);
  const known = ready.get(feed.id);
  if (known?.stamp === stamp) return known;
  const underWay = building.get(feed.id);
  if (underWay !== undefined) {
    const built = await underWay.catch(() => null);
    if (built?.stamp === stamp) return built;
  }
  const built = build(app, feed, stamp);
  building.set(feed.id, built);
  try {
    const document = await built;
    ready.set(feed.id, document);
    return document;
  } finally {
    if (building.get(feed.id) === built) building.delete(feed.id);
  }
}

async function build(app: App, feed: FeedRow, stamp: string): Promise<Document> {
  const folder = folderOf(app);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const path = join(folder, `${feed.id}-${stamp}.ics`);
  const part = `${path}.${process.pid}.part`;
  const hash = createHash('sha256');
  const source = Readable.from(hashed(pieces(app, feed), hash));
  // Both at once: compressing takes a thread of its own, and the next page is read meanwhile.
  await Promise.all([
    pipeline(source, createWriteStream(part, { mode: 0o600 })),
    pipeline(source, createGzip({ level: 5 }), createWriteStream(`${part}.gz`, { mode: 0o600 })),
  ]);
  await rename(`${part}.gz`, `${path}.gz`);
  await rename(part, path);
  // Readers of an earlier one have it open, and keep it until they are done.
  for (const name of readdirSync(folder))
    if (name.startsWith(`${feed.id}-`) && !name.startsWith(`${feed.id}-${stamp}`)) rmSync(join(folder, name), { force: true });
  const etag = hash.digest('base64url').slice(0, 22);
  const before = ready.get(feed.id);
  // What says the same is the same, whatever was changed behind it.
  return { stamp, etag, path, modified: before?.etag === etag ? before.modified : new Date() };
}

async function* hashed(pieces: AsyncIterable<string>, hash: Hash): AsyncIterable<string> {
  for await (const piece of pieces) {
    hash.update(piece);
    yield piece;
  }
}

/** Some of the objects, one after the other. */
interface Page {
  count: number;
  last: string | null;
  text: string | null;
}

/** The window that a feed shows, in seconds since 1970. */
function windowOf({ settings: { window } }: FeedRow): { from: number; until: number } | null {
  return window === null ? null : { from: (today() - window.behind) * DAY, until: (today() + window.ahead + 1) * DAY };
}

/** Which objects are shown: $1 the feed, $2 its lane or null, $3 and $4 the window. */
const shown = (feed: FeedRow): { where: string; values: unknown[] } => {
  const window = windowOf(feed);
  return {
    where: `feed = $1 and text is not null and ($2::uuid is null or href in (${FOLLOWED}))
      and ($3::float8 is null or starts is null or starts < $3) and ($4::float8 is null or ends is null or ends > $4)`,
    values: [feed.id, feed.lane, window?.until ?? null, window?.from ?? null],
  };
};

export async function countShown(app: App, feed: FeedRow): Promise<number> {
  const { where, values } = shown(feed);
  const { rows } = await app.pool.query<{ n: number }>(`select count(*)::int as n from feed_objects where ${where}`, values);
  return oneRow(rows).n;
}

/** The document (RFC 5545, with the properties of RFC 7986), piece by piece. @param most events at most */
export async function* pieces(app: App, feed: FeedRow, most = Number.POSITIVE_INFINITY): AsyncIterable<string> {
  const { name, colour, refresh } = feed.settings;
  const text = (value: string) => value.replace(/[\\;,]/g, (c) => `\\${c}`).replaceAll('\n', '\\n');
  const head = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Monsoon//EN',
    'CALSCALE:GREGORIAN',
    `NAME:${text(name)}`,
    `X-WR-CALNAME:${text(name)}`,
    ...(colour === null ? [] : [`COLOR:${colour}`, `X-APPLE-CALENDAR-COLOR:${colour}`]),
    `REFRESH-INTERVAL;VALUE=DURATION:PT${refresh}M`,
    `X-PUBLISHED-TTL:PT${refresh}M`,
  ];
  yield `${head.map(foldedLine).join('\r\n')}\r\n`;
  const { where, values } = shown(feed);
  yield* zonePieces(app, where, values);
  let count = 0;
  for (let after = ''; count < most; ) {
    const limit = Math.min(PAGE, most - count);
    const { rows } = await app.pool.query<Page>(
      `select count(*)::int, max(href) as last, string_agg(text, '' order by href) as text
        from (select href, text from feed_objects where ${where} and href > $5 order by href limit $6) as page`,
      [...values, after, limit],
    );
    const page = oneRow(rows);
    if (page.last === null || page.text === null) break;
    yield page.text;
    count += page.count;
    after = page.last;
    if (page.count < limit) break;
  }
  yield 'END:VCALENDAR\r\n';
}

async function* zonePieces(app: App, where: string, values: unknown[]): AsyncIterable<string> {
  const now = Date.now() / 1000;
  const year = 366 * DAY;
  // Of thousands of objects nearly all have the same few zones.
  const { rows: names } = await app.pool.query<{ name: string }>(
    `select distinct jsonb_array_elements_text(zones) as name from (select distinct zones from feed_objects where ${where}) as u order by 1`,
    values,
  );
  for (const { name } of names) {
    const definition = zoneDefinition(name, app.zones, now - YEARS.before * year, now + YEARS.after * year);
    if (definition !== null) yield writtenComponents([definition]);
  }
  const { rows: defined } = await app.pool.query<{ text: string }>(
    `select distinct on (d.key) d.value as text from feed_objects, jsonb_each_text(defined) d where defined <> '{}' and ${where} order by d.key`,
    values,
  );
  for (const { text } of defined) yield text;
}

/** Takes the documents of feeds that are gone off this machine's disk: another process may have removed them. */
export async function dropForgotten(app: App): Promise<void> {
  const { rows } = await app.pool.query<{ id: string }>('select id from feeds where revoked_at is null');
  const known = new Set(rows.map((r) => r.id));
  for (const name of filesIn(app)) if (!known.has(name.slice(0, 36))) rmSync(join(folderOf(app), name), { force: true });
}

const filesIn = (app: App): string[] => (existsSync(folderOf(app)) ? readdirSync(folderOf(app)) : []);

/** Takes a feed's documents off this machine's disk. */
export function dropDocuments(app: App, id: string): void {
  ready.delete(id);
  for (const name of filesIn(app)) if (name.startsWith(`${id}-`)) rmSync(join(folderOf(app), name), { force: true });
}
