import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { setTimeout } from 'node:timers/promises';
import { OutsideError } from '@monsoon/systems';
import { and, eq, gt, isNull, or, sql } from 'drizzle-orm';
import express, { type Request, type Response, type Router } from 'express';
import { ipKeyGenerator, rateLimit } from 'express-rate-limit';
import type { App } from '../app.ts';
import { isUnchanged } from '../http/unchanged.ts';
import { feeds } from '../storage/schema.ts';
import { FEEDS, feedHash } from './addresses.ts';
import { documentOf } from './document.ts';
import { type FeedRow, refreshFeed } from './refresh.ts';

/** Fetches in a minute: of one feed, by one asker, and of addresses that are unknown. */
const MOST = { ofFeed: 1200, byAsker: 600, unknown: 60 };
/** Milliseconds for which a look counts: at hosted calendars, which cost next to nothing, and at others. */
const FRESH = { hosted: 1_000, other: 60_000 };
/** Milliseconds that an asker waits for a calendar that is slow; then the last document has to do. */
const PATIENCE = 15_000;

/** Where anybody who has a feed's address reads it, without signing in. */
export function feedRouter(app: App): Router {
  const router = express.Router();
  const limit = (most: number, key: (request: Request) => string, onlyFailed = false) =>
    rateLimit({
      windowMs: 60_000,
      limit: most,
      standardHeaders: true,
      legacyHeaders: false,
      keyGenerator: key,
      skipSuccessfulRequests: onlyFailed,
      message: 'Too many fetches in a minute; the feed says how often to look (REFRESH-INTERVAL).\n',
    });
  router.use(
    FEEDS,
    limit(MOST.byAsker, (request) => ipKeyGenerator(request.ip ?? '')),
    limit(MOST.unknown, (request) => ipKeyGenerator(request.ip ?? ''), true),
    limit(MOST.ofFeed, (request) => feedHash(request.path)),
    (request, response, next) => void serve(app, request, response).catch(next),
  );
  return router;
}

async function serve(app: App, request: Request, response: Response): Promise<void> {
  response.set({ 'x-robots-tag': 'noindex', 'referrer-policy': 'no-referrer', 'cache-control': 'private, no-cache' });
  const secret = /^\/([A-Za-z0-9_-]{1,100})\.ics$/.exec(request.path)?.[1] ?? '';
  const feed = await feedBySecret(app, secret);
  if (feed === null || (request.method !== 'GET' && request.method !== 'HEAD')) {
    // A revoked address, an ended one and one that never was look alike.
    response.status(404).type('text/plain').send('There is no feed at this address.\n');
    return;
  }
  await freshen(app, feed);
  const [now] = await app.db.select().from(feeds).where(eq(feeds.id, feed.id));
  if (now === undefined || now.lookedAt === null) {
    response.status(503).set('retry-after', '60').type('text/plain').send('The calendar of this feed cannot be read just now.\n');
    return;
  }
  const document = await documentOf(app, now);
  void count(app, feed, request);
  const packed = request.acceptsEncodings('gzip', 'identity') === 'gzip';
  const path = packed ? `${document.path}.gz` : document.path;
  const etag = `"${document.etag}${packed ? '-gzip' : ''}"`;
  response.vary('accept-encoding').set({
    'content-type': 'text/calendar; charset=utf-8',
    'content-disposition': `inline; filename="${now.slug}.ics"`,
    etag,
    'last-modified': document.modified.toUTCString(),
  });
  if (isUnchanged(request, etag, document.modified)) {
    response.status(304).end();
    return;
  }
  response.set('content-length', String((await stat(path)).size));
  if (packed) response.set('content-encoding', 'gzip');
  if (request.method === 'HEAD') {
    response.end();
    return;
  }
  await pipeline(createReadStream(path), response).catch((error: NodeJS.ErrnoException) => {
    // A reader that hangs up in the middle is no fault.
    if (error.code !== 'ERR_STREAM_PREMATURE_CLOSE') throw error;
  });
}

export async function feedBySecret(app: App, secret: string): Promise<FeedRow | null> {
  const [feed] = await app.db
    .select()
    .from(feeds)
    .where(and(eq(feeds.secretHash, feedHash(secret)), isNull(feeds.revokedAt), or(isNull(feeds.endsAt), gt(feeds.endsAt, sql`now()`))));
  return feed ?? null;
}

const looking = new Map<string, Promise<void>>();

/** Looks at the calendar if the last look was long ago; what fails is remembered, and the last document serves. */
export async function freshen(app: App, feed: FeedRow): Promise<void> {
  const fresh = feed.calendar.startsWith('/dav/calendars/') ? FRESH.hosted : FRESH.other;
  if (feed.lookedAt !== null && Date.now() - Date.parse(feed.lookedAt) < fresh) return;
  let look = looking.get(feed.id);
  if (look === undefined) {
    look = refreshFeed(app, feed.id)
      .catch(async (error: unknown) => {
        const reason = error instanceof OutsideError ? error.message : 'Monsoon failed; its log has the details';
        if (!(error instanceof OutsideError)) app.log.error({ error, feed: feed.slug }, 'a feed could not be brought up to date');
        await app.db.update(feeds).set({ trouble: reason }).where(eq(feeds.id, feed.id));
      })
      .finally(() => looking.delete(feed.id));
    looking.set(feed.id, look);
  }
  const waiting = new AbortController();
  await Promise.race([look, setTimeout(PATIENCE, undefined, { signal: waiting.signal }).catch(() => undefined)]);
  waiting.abort();
}

/** Notes a fetch: a hash of address and program, which differs from feed to feed. */
async function count(app: App, feed: FeedRow, request: Request): Promise<void> {
  const asker = createHash('sha256')
    .update(`${feed.secretHash} ${request.ip} ${request.get('user-agent') ?? ''}`)
    .digest('base64url')
    .slice(0, 16);
  try {
    await app.pool.query(
      `with fetched as (update feeds set fetches = fetches + 1, last_fetched_at = now() where id = $1)
        insert into feed_askers (feed, day, asker, fetches) values ($1, current_date, $2, 1) on conflict (feed, day, asker) do update set fetches = feed_askers.fetches + 1`,
      [feed.id, asker],
    );
  } catch (error) {
    app.log.warn({ error }, 'a fetch was not counted');
  }
}
