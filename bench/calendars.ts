import { createServer } from 'node:http';
import { basename, dirname } from 'node:path';
import express from 'express';
import { Agent, request } from 'undici';
import { openHosted } from '../test/support/hosted.ts';
import { installed } from './installed.ts';
import { openClient } from './load.ts';

// Inner parts of the service that runs here, which is the one that is installed.
const { parseComponents, writeComponents } = await installed<typeof import('../packages/core/src/ical/content.ts')>('core/dist/ical/content.js');
const { documentOf } = await installed<typeof import('../packages/service/src/feeds/document.ts')>('service/dist/feeds/document.js');
const { refreshFeed } = await installed<typeof import('../packages/service/src/feeds/refresh.ts')>('service/dist/feeds/refresh.js');
const { feeds } = await installed<typeof import('../packages/service/src/storage/schema.ts')>('service/dist/storage/schema.js');

/** Hosted calendars and feeds, each beside the bare work: inserts, serialising, a static file, an indexed query. */
const EVENTS = Number(process.env['EVENTS'] ?? 150_000);
const ROUNDS = 25;
/** requests in a round */
const EACH = 100;
const hosted = await openHosted();
const { app } = hosted;
const device = await hosted.person('administrator');
const agent = new Agent({ connections: 8, pipelining: 1 });
const authorization = `Basic ${Buffer.from(`${device.email}:${device.password}`).toString('base64')}`;
const ask = async (method: string, path: string, headers: Record<string, string> = {}, body?: string) => {
  const answer = await request(new URL(path, hosted.address), {
    method: method as 'GET',
    headers: { authorization, ...headers },
    dispatcher: agent,
    // A connection is kept, as calendar programs do; by itself, undici gives it up after a REPORT.
    reset: false,
    ...(body === undefined ? {} : { body }),
  });
  return { status: answer.statusCode, size: (await answer.body.arrayBuffer()).byteLength, headers: answer.headers };
};
/** An event. @param i its day */
const text = (id: string | number, i = Number(id) || 0) =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Alder and Wren//EN',
    'BEGIN:VEVENT',
    `UID:visit-${id}`,
    'DTSTAMP:20261101T000000Z',
    `DTSTART;TZID=Europe/London:2026${String(1 + (i % 12)).padStart(2, '0')}${String(1 + (i % 28)).padStart(2, '0')}T090000`,
    'DURATION:PT1H30M',
    `SUMMARY:Tuning ${id}: Wren grand\\, twice`,
    'LOCATION:Meadow Hall\\, Leeds',
    `DESCRIPTION:${'The action is regulated. '.repeat(8)}`,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n');
const timed = async (work: () => Promise<unknown>): Promise<number> => {
  const at = performance.now();
  await work();
  return performance.now() - at;
};
// Commits reach the disk, as they do where Monsoon is installed; the other benches and the tests do without.
await app.pool.query('alter system set fsync = on');
await app.pool.query('alter system set synchronous_commit = on');
await app.pool.query('select pg_reload_conf()');
const say = (what: string, ours: number, bare: number, wanted?: number) =>
  console.log(
    `${what}: ${ours.toFixed(1)} ms beside ${bare.toFixed(1)} ms bare: ${(ours / bare).toFixed(2)} times${wanted === undefined ? '' : ` (wanted at most ${wanted})`}`,
  );
const inTurn = async (count: number, atOnce: number, work: (i: number) => Promise<unknown>) => {
  let next = 0;
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      while (next < count) await work(next++);
    }),
  );
};

// PUTs at the door, beside inserting the same text in a transaction of its own.
const { href } = await hosted.client.makeHostedCalendar({ name: 'Puts', slug: 'puts' });
const big = await hosted.client.makeHostedCalendar({ name: 'Large', slug: 'large' });
const bareInsert = (name: string, text: string) =>
  app.pool.query({ name: 'bare', text: 'insert into bare (name, text) values ($1, $2)', values: [name, text] });
const bareQuery = () =>
  app.pool.query({
    name: 'bare-quiet',
    text: 'select name from hosted_objects where calendar = $1 and revision > $2 order by revision',
    values: [big.id, EVENTS],
  });
await app.pool.query('create table bare (name text primary key, text text not null)');
// The same requests without Monsoon: a server of the same kind that does no more than the insert, or the query.
const plain = createServer(
  express().use(express.raw({ type: () => true, limit: 2_000_000 }), (request, response) => {
    const done = request.method === 'PUT' ? bareInsert(request.url, String(request.body)) : bareQuery();
    void done.then(() => response.status(request.method === 'PUT' ? 201 : 207).end());
  }),
).listen(0, '127.0.0.1');
await new Promise((fine) => plain.once('listening', fine));
const plainAddress = `http://127.0.0.1:${(plain.address() as { port: number }).port}/`;
const programs = openClient();
const asked = async (atOnce: number, status: number, requests: { method: string; url: string; body: string }[], headers: Record<string, string>) => {
  const { milliseconds, statuses } = await programs.ask({
    atOnce,
    asked: requests.map((r) => ({ ...r, url: new URL(r.url, hosted.address).href, headers: { authorization, ...headers } })),
  });
  if (statuses[status] !== requests.length) throw new Error(`answers other than ${status}: ${JSON.stringify(statuses)}`);
  return milliseconds;
};
/** Rounds of each in turn: a machine that is disturbed for a moment disturbs all of them. The median of each; the first rounds warm up. */
const inRounds = async (works: ((round: number) => Promise<number>)[]): Promise<number[]> => {
  const took: number[][] = works.map(() => []);
  for (let round = 0; round < ROUNDS; round++) for (const [i, work] of works.entries()) took[i]!.push(await work(round));
  return took.map((t) => t.slice(5).sort((a, b) => a - b)[Math.floor((ROUNDS - 5) / 2)]!);
};
for (const atOnce of [1, 4]) {
  const ids = (round: number) => Array.from({ length: EACH }, (_, i) => `${atOnce}-${round}-${i}`);
  const puts = (to: string) => (round: number) =>
    asked(
      atOnce,
      201,
      ids(round).map((id) => ({ method: 'PUT', url: `${to}${id}.ics`, body: text(id) })),
      { 'content-type': 'text/calendar' },
    );
  const inserts = (round: number) => timed(() => inTurn(EACH, atOnce, (i) => bareInsert(ids(round)[i]!, text(ids(round)[i]!))));
  const [bare, ours, served] = (await inRounds([inserts, puts(href), puts(plainAddress)])) as [number, number, number];
  say(`${EACH} PUTs, ${atOnce} at once`, ours, bare, 2);
  say('  the same beside a server that only inserts', ours, served, 2);
  say('  that server beside the bare inserts', served, bare);
}

// A large calendar, filled behind the door.
const texts = Array.from({ length: EVENTS }, (_, i) => text(i));
for (let at = 0; at < EVENTS; at += 5000) {
  const part = texts.slice(at, at + 5000);
  await app.pool.query(
    `insert into hosted_objects (calendar, name, uid, etag, text, component, revision)
      select $1, 'v' || n || '.ics', 'visit-' || n, '"' || n || '-x"', t, 'VEVENT', n from unnest($2::text[]) with ordinality as u(t, o), lateral (select o + $3 as n) m`,
    [big.id, part, at],
  );
}
await app.pool.query('update hosted_calendars set revision = $2 where id = $1', [big.id, EVENTS]);
await app.pool.query('analyze hosted_objects');

// sync-collection without change, beside the query by index that answers it.
const sync = (token: string) =>
  `<sync-collection xmlns="DAV:"><sync-token>${token}</sync-token><sync-level>1</sync-level><prop><getetag/></prop></sync-collection>`;
const epoch = (await app.pool.query('select epoch from hosted_calendars where id = $1', [big.id])).rows[0].epoch as string;
const token = `urn:monsoon:sync:${epoch}:all:${EVENTS}`;
const looks = (url: string) => () =>
  asked(
    1,
    207,
    Array.from({ length: EACH }, () => ({ method: 'REPORT', url, body: sync(token) })),
    { depth: '0', 'content-type': 'application/xml' },
  );
const queries = () => timed(() => inTurn(EACH, 1, bareQuery));
const [query, ours, served] = (await inRounds([queries, looks(big.href), looks(plainAddress)])) as [number, number, number];
say(`${EACH} times sync-collection without change`, ours, query, 3);
say('  the same beside a server that only asks', ours, served, 3);
say('  that server beside the bare query', served, query);

// A feed of everything: worked out once, put together again after a change, and read again.
const serialised = await timed(async () => {
  let size = 0;
  for (const t of texts) size += writeComponents(parseComponents(t)).length;
  return size;
});
const [feed] = await app.db
  .insert(feeds)
  .values({
    slug: 'bench',
    system: (await app.pool.query(`select id from systems where kind = 'hosted'`)).rows[0].id as string,
    calendar: big.href,
    calendarName: 'Large',
    settings: { name: 'Large', colour: null, shows: ['title', 'location'], alarms: false, condition: null, window: null, refresh: 60 },
    secret: app.vault.seal({ secret: 'bench' }),
    secretHash: 'none',
    madeBy: 'bench',
  })
  .returning();
const now = async () => (await app.db.query.feeds.findFirst({ where: (f, { eq }) => eq(f.id, feed!.id) }))!;
const worked = await timed(() => refreshFeed(app, feed!.id));
say(`working out ${EVENTS} events for a feed, the first time`, worked, serialised, 1.5);
const built = await timed(async () => documentOf(app, await now()));
say('putting the document together, and compressing it', built, serialised, 1.5);
await ask('PUT', `${big.href}fresh.ics`, { 'content-type': 'text/calendar' }, text('fresh'));
const after = await timed(async () => {
  await refreshFeed(app, feed!.id);
  return documentOf(app, await now());
});
say('the same after one change', after, serialised, 1.5);

// What a second reader costs, beside a static file of the same server.
const { address } = await hosted.client.renewFeed('bench');
const { path } = await documentOf(app, await now());
const files = createServer(express().use(express.static(dirname(path), { index: false }))).listen(0, '127.0.0.1');
await new Promise((fine) => files.once('listening', fine));
const fileAddress = `http://127.0.0.1:${(files.address() as { port: number }).port}/${basename(path)}`;
const get = async (url: string) => {
  const answer = await request(url, { dispatcher: agent, headers: { 'accept-encoding': 'identity' } });
  let size = 0;
  for await (const piece of answer.body) size += (piece as Buffer).length;
  return size;
};
const [a, b] = [await get(address!), await get(fileAddress)];
if (a !== b || a < EVENTS * 100) throw new Error(`the feed has ${a} octets, the file ${b}`);
const READS = 10;
const file = await timed(() => inTurn(READS, 1, () => get(fileAddress)));
const cached = await timed(() => inTurn(READS, 1, () => get(address!)));
say(`${READS} readers of the feed as it stands (${(a / 1e6).toFixed(0)} MB each)`, cached, file, 1.2);
const etag = (await request(address!, { dispatcher: agent, method: 'HEAD' })).headers['etag'] as string;
const unchanged = await timed(() =>
  inTurn(300, 1, async () => (await request(address!, { dispatcher: agent, headers: { 'if-none-match': etag } })).body.dump()),
);
console.log(`300 readers who have it already: ${unchanged.toFixed(0)} ms`);
files.close();
plain.close();
programs.close();
await app.pool.query('alter system reset all');
await app.pool.query('select pg_reload_conf()');
await agent.close();
await hosted.stop();
