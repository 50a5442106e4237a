import { type Calendars, OutsideError, type StoredEvent, Turns } from '@monsoon/systems';
import { eq, type SQL, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { seenByOwner } from '../hosted/calendars.ts';
import { Disguise } from '../hosted/disguise.ts';
import { chunks } from '../run/chunks.ts';
import { mapConcurrent } from '../run/map-concurrent.ts';
import type { Transaction } from '../storage/database.ts';
import { insertRows } from '../storage/insert-rows.ts';
import { feedObjects, feeds, systems } from '../storage/schema.ts';
import { showApart } from './show-object.ts';

export type FeedRow = typeof feeds.$inferSelect;

/** Objects that are read and worked out together. */
const BATCH = 500;
/** Milliseconds that one look at a calendar may take. */
const LONGEST = 300_000;
/** The advisory lock of one feed's look. */
const LOOK = 7_216_345;

interface Listed {
  href: string;
  etag: string | null;
}

/**
 * Reads what changed in a feed's calendar since the last look, and works out again what is shown of that alone. One process
 * looks at a time; others wait for it.
 * @throws OutsideError where the calendar cannot be read
 */
export async function refreshFeed(app: App, id: string): Promise<void> {
  const client = await app.pool.connect();
  try {
    await client.query('select pg_advisory_lock($1, hashtext($2))', [LOOK, id]);
    const [feed] = await app.db.select().from(feeds).where(eq(feeds.id, id));
    if (feed !== undefined) await look(app, feed);
  } finally {
    await client.query('select pg_advisory_unlock($1, hashtext($2))', [LOOK, id]).catch(() => undefined);
    client.release();
  }
}

/** One look at a feed's calendar. */
interface Look {
  app: App;
  feed: FeedRow;
  number: number;
  calendars: Calendars;
  signal: AbortSignal;
  turns: Turns;
}

async function look(app: App, feed: FeedRow): Promise<void> {
  const [row] = await app.db.select().from(systems).where(eq(systems.id, feed.system));
  const opened = row === undefined ? undefined : app.systems.open(row).calendars;
  if (opened === undefined) throw new OutsideError('gone', 'the system of this feed is gone');
  // What a feed shows is set by its own settings, not by who asks.
  const calendars = seenByOwner(opened, null);
  const signal = AbortSignal.timeout(LONGEST);
  // Its own even if it breaks off: what that one took in, and has gone since, is not what this one saw.
  const [started] = await app.db.update(feeds).set({ looks: sql`looks + 1` }).where(eq(feeds.id, feed.id)).returning({ number: feeds.looks });
  if (started === undefined) return;
  const { number } = started;
  const turns = new Turns({ signal });
  let cursor = feed.cursor;
  let complete = false;
  let changed = 0;
  let analyzeAt = MANY;
  // One part is read and worked out while the database stores another.
  const take = async (part: Listed[]) => {
    const count = await takeIn({ app, feed, number, calendars, signal, turns }, part);
    changed += count;
    if (changed >= analyzeAt) {
      analyzeAt = 10 * changed;
      await analyzeObjects(app);
    }
  };
  for await (const page of calendars.changes(feed.calendar, feed.cursor, signal)) {
    complete = page.complete;
    if (page.cursor !== undefined) cursor = page.cursor;
    if (page.removed.length > 0) changed += await forget(app, feed.id, named(page.removed));
    await mapConcurrent([...chunks(page.changed, BATCH)], take, { width: 2, done: () => false });
  }
  if (complete) changed += await forget(app, feed.id, sql`look < ${number}`);
  if (changed >= MANY) await analyzeObjects(app);
  await app.db.update(feeds).set({ cursor, lookedAt: new Date().toISOString(), trouble: null }).where(eq(feeds.id, feed.id));
}

/** From so many changed objects on, the table is analyzed. */
const MANY = 1000;

/**
 * PostgreSQL plans by what it last saw of a table. Of one that has just been filled it knows nothing for a minute, and
 * reads all of a feed for each part of it.
 */
const analyzeObjects = (app: App) => app.pool.query('analyze feed_objects');

/**
 * Changes what a feed shows, and its revision with it: a look that breaks off leaves no document that is out of date and looks current.
 * @param work says how many objects it changed
 */
const change = (app: App, feed: string, work: (tx: Transaction) => Promise<number>): Promise<number> =>
  app.db.transaction(async (tx) => {
    const count = await work(tx);
    if (count > 0) await tx.update(feeds).set({ revision: sql`revision + 1` }).where(eq(feeds.id, feed));
    return count;
  });

const named = (hrefs: string[]): SQL => sql`href = any(${sql.param(hrefs)})`;

const forget = (app: App, feed: string, which: SQL): Promise<number> =>
  change(app, feed, async (tx) => (await tx.execute(sql`delete from feed_objects where feed = ${feed} and ${which}`)).rowCount ?? 0);

/** Notes that objects were seen. @returns the ETags of those that are known: none at the first look */
async function seen(app: App, feed: string, look: number, listed: Listed[]): Promise<Map<string, string | null>> {
  if (look === 1) return new Map();
  const { rows } = await app.db.execute<{ href: string; etag: string | null }>(
    sql`update feed_objects set look = ${look} where feed = ${feed} and ${named(listed.map((l) => l.href))} returning href, etag`,
  );
  return new Map(rows.map((r) => [r.href, r.etag]));
}

/** Takes in what is listed: of what has the ETag that is known, only that it was seen. @returns how many are shown otherwise */
async function takeIn({ app, feed, number: look, calendars, signal, turns }: Look, listed: Listed[]): Promise<number> {
  const known = await seen(app, feed.id, look, listed);
  const fresh = listed.filter((l) => l.etag === null || known.get(l.href) !== l.etag).map((l) => l.href);
  if (fresh.length === 0) return 0;
  const read = await calendars.read(feed.calendar, fresh, signal);
  const found = [...read].filter((e): e is [string, StoredEvent] => e[1] !== null);
  const gone = [...read].flatMap(([href, event]) => (event === null && known.has(href) ? [href] : []));
  if (gone.length > 0) await forget(app, feed.id, named(gone));
  if (found.length === 0) return gone.length;
  const sifting = { settings: feed.settings, namespace: new Disguise(app.vault).namespace(feed.id), now: new Date().toISOString() };
  const values: (typeof feedObjects.$inferInsert)[] = [];
  for (const [href, { etag, text }] of found) values.push({ feed: feed.id, href, etag, look, ...(await showApart(text, sifting, app.zones, turns)) });
  await change(app, feed.id, async (tx) => {
    await insertRows(tx, feedObjects, values, { by: ['feed', 'href'], take: ['etag', 'text', 'zones', 'defined', 'starts', 'ends', 'look'] });
    return values.length;
  });
  return found.length + gone.length;
}

/** Has the calendar read whole at the next look, with new settings. */
export const startOver = { cursor: null, lookedAt: null };

/** Forgets what was worked out with other settings. */
export async function forgetShown(app: App, feed: string): Promise<void> {
  await app.db.update(feedObjects).set({ etag: null }).where(eq(feedObjects.feed, feed));
}
