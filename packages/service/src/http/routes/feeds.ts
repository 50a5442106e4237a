import { type FeedSettings, feedChangeShape, feedMailShape, feedPreviewShape, feedShape, newFeedShape, page } from '@monsoon/contract';
import { certain } from '@monsoon/core';
import { desc, eq, sql } from 'drizzle-orm';
import type { Caller } from '../../access/callers.ts';
import { mayCall } from '../../access/permissions.ts';
import type { App } from '../../app.ts';
import { addressOf, feedHash, newFeedSecret } from '../../feeds/addresses.ts';
import { countShown, dropDocuments, pieces } from '../../feeds/document.ts';
import { freshen } from '../../feeds/door.ts';
import { type FeedRow, forgetShown, startOver } from '../../feeds/refresh.ts';
import { checkEnd, checkFeedCondition, findSource, type Source, usualSettings } from '../../feeds/settings.ts';
import { placeAt } from '../../hosted/addresses.ts';
import { calendarFor } from '../../hosted/rights.ts';
import { sendMail, writeMail } from '../../notifications/mails.ts';
import { slugOf, withSuffix } from '../../slugs.ts';
import { oneRow } from '../../storage/one-row.ts';
import { feeds, lanes, systems } from '../../storage/schema.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

/** May they give away what is on that calendar? Administrators may; else whose lane or hosted calendar it is. */
async function mayShare(app: App, caller: Caller, source: Pick<Source, 'calendar' | 'lane'>): Promise<boolean> {
  if (await mayCall(app.db, caller, 'administer')) return true;
  if (caller.role === 'viewer' || caller.scope !== 'write') return false;
  if (source.lane !== null) {
    const [lane] = await app.db.select({ slug: lanes.slug }).from(lanes).where(eq(lanes.id, source.lane));
    return lane !== undefined && mayCall(app.db, caller, 'arrange', lane.slug);
  }
  const place = placeAt(source.calendar);
  return place !== null && (await calendarFor(app.pool, caller, place.slug))?.mayManage === true;
}

/** May they know of it? Of a feed of a hosted calendar, who sees something of that; of another, who looks at lanes, or into systems. */
async function maySee(app: App, caller: Caller, row: FeedRow): Promise<boolean> {
  const place = placeAt(row.calendar);
  if (place !== null && (await calendarFor(app.pool, caller, place.slug)) !== null) return true;
  if (place === null && (row.lane !== null || (await mayCall(app.db, caller, 'inspect')))) return true;
  return mayShare(app, caller, row);
}

/** The feeds that somebody may know of, the latest first. */
async function feedsFor(app: App, caller: Caller): Promise<FeedRow[]> {
  const rows = await app.db.select().from(feeds).orderBy(desc(feeds.createdAt));
  const seen = await Promise.all(rows.map((row) => maySee(app, caller, row)));
  return rows.filter((_row, i) => seen[i]);
}

async function answer(app: App, row: FeedRow, caller: Caller) {
  const [share, events, { rows: askers }, [lane], [system]] = await Promise.all([
    mayShare(app, caller, row),
    countShown(app, row),
    app.pool.query<{ n: number }>('select count(distinct asker)::int as n from feed_askers where feed = $1 and day > current_date - 30', [row.id]),
    row.lane === null ? [] : app.db.select({ slug: lanes.slug }).from(lanes).where(eq(lanes.id, row.lane)),
    app.db.select({ slug: systems.slug }).from(systems).where(eq(systems.id, row.system)),
  ]);
  const { id, slug, calendar, calendarName, settings, endsAt, revokedAt, lookedAt, trouble, fetches, lastFetchedAt, madeBy, createdAt } = row;
  const shown = (share && revokedAt === null ? addressOf(app, row) : null) ?? { address: null, webcal: null };
  return {
    ...settings,
    id,
    slug,
    system: system?.slug ?? '',
    calendar,
    calendarName,
    lane: lane?.slug ?? null,
    ...shown,
    events,
    lookedAt,
    trouble,
    endsAt,
    revokedAt,
    lastFetchedAt,
    fetches,
    askers: oneRow(askers).n,
    madeBy,
    createdAt,
  };
}

async function find(app: App, caller: Caller, slug: string): Promise<FeedRow> {
  const [row] = await app.db.select().from(feeds).where(eq(feeds.slug, slug));
  if (row === undefined || !(await maySee(app, caller, row)))
    throw notFound(
      'feed',
      slug,
      (await feedsFor(app, caller)).map((f) => f.slug),
    );
  if (!(await mayShare(app, caller, row)))
    throw new HttpProblem(403, 'Not permitted', `"${row.settings.name}" is settled by whose lane or calendar it shows, and by administrators`);
  return row;
}

/** Announces a change of a feed. Answers with the feed as it is now. */
async function announced(app: App, caller: Caller, slug: string) {
  await app.announcer.announce(['feeds']);
  return answer(app, await find(app, caller, slug), caller);
}

/** Only what was given, of what a feed can be set to. */
const settingsIn = ({ name, colour, shows, alarms, condition, window, refresh }: Partial<FeedSettings>): Partial<FeedSettings> =>
  Object.fromEntries(Object.entries({ name, colour, shows, alarms, condition, window, refresh }).filter(([, value]) => value !== undefined));

/** Feeds: secret addresses at which anybody who has one reads a calendar. */
export const feedRoutes = (app: App): AnyRoute[] => [
  route({ method: 'get', path: '/feeds', summary: 'All feeds', may: 'read', answer: page(feedShape) }, async ({ caller }) => ({
    items: await Promise.all((await feedsFor(app, caller)).map((row) => answer(app, row, caller))),
    next: null,
  })),
  route(
    {
      method: 'post',
      path: '/feeds',
      summary: 'Make a feed of a lane’s events, or of a calendar',
      may: 'operate',
      entry: (body) => body.name,
      body: newFeedShape,
      answer: feedShape,
    },
    async ({ caller, body }) => {
      checkFeedCondition(body.condition ?? null);
      const endsAt = checkEnd(body.endsAt);
      const source = await findSource(app, body);
      if (!(await mayShare(app, caller, source)))
        throw new HttpProblem(403, 'Not permitted', 'a feed gives away what is on a calendar: ask whose it is, or an administrator');
      const settings: FeedSettings = { ...usualSettings, name: body.name, ...settingsIn(body as Partial<FeedSettings>) };
      const secret = newFeedSecret();
      const wanted = body.slug ?? slugOf(body.name, 'feed');
      const [taken] = await app.db.select({ id: feeds.id }).from(feeds).where(eq(feeds.slug, wanted));
      if (taken !== undefined && body.slug !== undefined)
        throw new HttpProblem(409, 'The name is taken', `there is a feed "${body.slug}" already; choose another short name`);
      const slug = taken === undefined ? wanted : withSuffix(wanted);
      const [row] = await app.db
        .insert(feeds)
        .values({ ...source, slug, settings, endsAt, secret: app.vault.seal({ secret }), secretHash: feedHash(secret), madeBy: caller.email })
        .returning();
      await app.announcer.announce(['feeds']);
      // The first reader need not wait for it.
      await freshen(app, certain(row, 'it was made just now'));
      return answer(app, await find(app, caller, slug), caller);
    },
  ),
  route({ method: 'get', path: '/feeds/:feed', summary: 'One feed', may: 'read', answer: feedShape }, async ({ caller, params }) =>
    answer(app, await find(app, caller, params.feed), caller),
  ),
  route(
    {
      method: 'get',
      path: '/feeds/:feed/preview',
      summary: 'The first events of a feed, as anyone who has its address reads them',
      may: 'read',
      answer: feedPreviewShape,
    },
    async ({ caller, params }) => {
      const row = await find(app, caller, params.feed);
      await freshen(app, row);
      const now = await find(app, caller, params.feed);
      const all: string[] = [];
      for await (const piece of pieces(app, now, 20)) all.push(piece);
      return { text: all.join(''), events: await countShown(app, now) };
    },
  ),
  route(
    {
      method: 'patch',
      path: '/feeds/:feed',
      summary: 'Change what a feed shows; what is not given stays',
      may: 'operate',
      entry: () => '',
      body: feedChangeShape,
      answer: feedShape,
      status: 200,
    },
    async ({ caller, params, body }) => {
      const row = await find(app, caller, params.feed);
      const given = settingsIn(body as Partial<FeedSettings>);
      if (given.condition !== undefined) checkFeedCondition(given.condition);
      const settings = { ...row.settings, ...given };
      const endsAt = body.endsAt === undefined ? row.endsAt : checkEnd(body.endsAt);
      const content = ['shows', 'alarms', 'condition'].some((name) => name in given);
      // What was worked out for other settings is not shown a moment longer.
      if (content) await forgetShown(app, row.id);
      await app.db
        .update(feeds)
        .set({ settings, endsAt, revision: sql`revision + 1`, ...(content ? startOver : {}) })
        .where(eq(feeds.id, row.id));
      await freshen(app, await find(app, caller, params.feed));
      return announced(app, caller, params.feed);
    },
  ),
  route(
    {
      method: 'post',
      path: '/feeds/:feed/renew',
      summary: 'Give a feed another address; the old one is unknown from now on',
      may: 'operate',
      entry: () => '',
      answer: feedShape,
      status: 200,
    },
    async ({ caller, params }) => {
      const row = await find(app, caller, params.feed);
      const secret = newFeedSecret();
      await app.db
        .update(feeds)
        .set({ secret: app.vault.seal({ secret }), secretHash: feedHash(secret), revokedAt: null })
        .where(eq(feeds.id, row.id));
      return announced(app, caller, params.feed);
    },
  ),
  route(
    {
      method: 'post',
      path: '/feeds/:feed/revoke',
      summary: 'Make the address of a feed unknown; it can be renewed',
      may: 'operate',
      entry: () => '',
      answer: feedShape,
      status: 200,
    },
    async ({ caller, params }) => {
      const row = await find(app, caller, params.feed);
      await app.db.update(feeds).set({ revokedAt: new Date().toISOString() }).where(eq(feeds.id, row.id));
      dropDocuments(app, row.id);
      return announced(app, caller, params.feed);
    },
  ),
  route(
    {
      method: 'post',
      path: '/feeds/:feed/mail',
      summary: 'Mail the address of a feed to people',
      may: 'operate',
      entry: (body) => body.to.join(', '),
      body: feedMailShape,
    },
    async ({ caller, params, body }) => {
      const row = await find(app, caller, params.feed);
      const shown = row.revokedAt === null ? addressOf(app, row) : null;
      if (shown === null) throw new HttpProblem(409, 'The feed has no address', `"${row.settings.name}" has no address: renew it first`);
      const { address, webcal } = shown;
      const mail = writeMail(
        `Calendar: ${row.settings.name}`,
        [
          {
            title: row.settings.name,
            lines: [
              `${caller.name} gives you a calendar to subscribe to. In your calendar program, choose to subscribe to a calendar, and give this address:`,
              address,
              'Anyone who has this address can read the calendar: keep it to yourself.',
            ],
            link: { to: webcal, words: 'Subscribe' },
          },
        ],
        `Sent by Monsoon for ${caller.email}`,
      );
      // One mail each: recipients do not see each other.
      for (const to of body.to)
        if (!(await sendMail(app, [to], mail)))
          throw new HttpProblem(409, 'No mail server', 'no mail server is connected: connect one under Systems, or copy the address');
    },
  ),
  route({ method: 'delete', path: '/feeds/:feed', summary: 'Remove a feed', may: 'operate', entry: () => '' }, async ({ caller, params }) => {
    const row = await find(app, caller, params.feed);
    await app.db.delete(feeds).where(eq(feeds.id, row.id));
    dropDocuments(app, row.id);
    await app.announcer.announce(['feeds']);
  }),
];
