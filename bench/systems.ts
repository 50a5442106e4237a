import { makeEvent } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { kinds } from '@monsoon/systems';
import pg from 'pg';
import QueryStream from 'pg-query-stream';
import { Agent, request } from 'undici';
import { openOffice } from '../test/support/office.ts';
import { account, cyrus, eventually, freshDatabase, listEvents } from '../test/support/servers.ts';
import { authorization, barePuts } from './bare-puts.ts';

/**
 * Systems of a real size, each piece beside the bare work in the same run: a table of 20,000 rows into an empty calendar
 * on cyrus, the calendar read back, a check in which nothing changed, and 100,000 rows of a table.
 */
const EVENTS = Number(process.env['EVENTS'] ?? 20_000);
const ROWS = Number(process.env['ROWS'] ?? 100_000);
const CONCURRENCY = 4;

const zones = loadZones();
const signal = new AbortController().signal;
const agent = new Agent({ connections: CONCURRENCY, pipelining: 1 });
const office = await openOffice({ diary: cyrus(), withLane: false, notices: false });
const database = await freshDatabase();
const client = new pg.Client({ connectionString: database.url });
await client.connect();
await client.query(
  `create table visit (id int primary key, title text not null, starts timestamptz not null, ends timestamptz not null, note text);
   insert into visit select n, 'Ottoline Marsh: tuning, Alder upright ' || n, '2027-01-01 08:00Z'::timestamptz + n * interval '10 minutes', '2027-01-01 09:00Z'::timestamptz + n * interval '10 minutes', 'Ring before arriving.' from generate_series(1, $1::int) n`.replace(
    '$1',
    String(EVENTS),
  ),
);
const url = new URL(database.url);
const address = `postgresql://${url.host}${url.pathname}`;
await office.client.connect({
  slug: 'book',
  name: 'Book',
  kind: 'postgresql',
  settings: { address, user: 'app', tls: 'off' },
  secrets: { password: url.password },
});
await office.client.track('book', 'visit', true);
const calendarFor = async (name: string) => (await office.client.makeCalendar('diary', `${name} ${Date.now()}`, null)).href;
const seconds = async (work: () => Promise<unknown>): Promise<number> => {
  const from = performance.now();
  await work();
  return (performance.now() - from) / 1000;
};

/** Events like those that the lane makes. */
const bareTexts = (): string[] =>
  Array.from({ length: EVENTS }, (_, i) => {
    const at = (minutes: number) => new Date(Date.UTC(2027, 0, 1, 8, minutes + i * 10)).toISOString().slice(0, 19);
    const values = {
      title: `Ottoline Marsh: tuning, Alder upright ${i}`,
      description: 'Ring before arriving.',
      busy: 'busy' as const,
      when: { kind: 'timed' as const, start: at(0), end: at(60), zone: 'UTC' },
    };
    return makeEvent(`bare-${i}`, values, { lane: 'bare', pair: `bare-${i}` }, { zones, now: '2026-01-01T00:00:00Z' });
  });

async function bareMultigets(calendar: string, hrefs: string[]): Promise<void> {
  for (let at = 0; at < hrefs.length; at += 250) {
    const body = `<?xml version="1.0"?><C:calendar-multiget xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><D:prop><D:getetag/><C:calendar-data/></D:prop>${hrefs
      .slice(at, at + 250)
      .map((h) => `<D:href>${h}</D:href>`)
      .join('')}</C:calendar-multiget>`;
    const answer = await request(new URL(calendar, cyrus()), {
      method: 'REPORT' as never,
      dispatcher: agent,
      headers: { authorization, depth: '1', 'content-type': 'application/xml' },
      body,
    });
    if ((await answer.body.text()).length < 1000) throw new Error('a multiget came back empty');
  }
}

const ended = (run: { id: string }) =>
  eventually(
    'the run ends',
    async () => {
      // To ask all the time would be work that is not the run's.
      await new Promise((fine) => setTimeout(fine, 250));
      const now = await office.client.oneRun(run.id);
      return ['done', 'failed', 'held'].includes(now.state) && now;
    },
    900_000,
  );
const calls = async () => {
  const [book, diary] = await Promise.all([office.client.calls('book'), office.client.calls('diary')]);
  return {
    book: (await office.client.system('book')).calls.used,
    diary: (await office.client.system('diary')).calls.used,
    last: [...book.items, ...diary.items],
  };
};

// Half of it before and half after, into one calendar of the same size: a machine is not the same from minute to minute.
const texts = bareTexts();
const bareCalendar = await calendarFor('bare');
const bareHalf = async (half: 0 | 1) => {
  const from = (half * EVENTS) / 2;
  return (await barePuts(bareCalendar, texts.slice(from, from + EVENTS / 2), CONCURRENCY, from)) / 1000;
};
const bareBefore = await bareHalf(0);
const lane = await calendarFor('lane');
await office.client.makeLane(
  'visits',
  {
    name: 'Visits',
    records: { system: 'book', collection: 'visit' },
    calendar: { system: 'diary', calendar: lane },
    direction: '->',
    zone: 'UTC',
    moments: [{ name: 'visit', when: { start: 'starts', end: 'ends' } }],
    fields: { title: { copy: 'title' }, description: { copy: 'note' }, busy: { fixed: 'busy' } },
  },
  false,
);
const first = await seconds(async () => {
  const run = await ended(await office.client.run('visits'));
  if (run.state !== 'done' || run.counts.created !== EVENTS) throw new Error(`the run is ${run.state}: ${run.reason}; ${run.counts.created} made`);
});
const bare = bareBefore + (await bareHalf(1));
const hrefs = await listEvents(cyrus(), lane);
if (hrefs.length !== EVENTS) throw new Error(`${hrefs.length} events of ${EVENTS}`);

await ended(await office.client.run('visits'));
const before = await calls();
const quiet = await seconds(async () => void (await ended(await office.client.run('visits'))));
const after = await calls();
const perSide = { records: after.book - before.book, calendar: after.diary - before.diary };

const open = kinds['caldav']!.open(
  { address: cyrus(), user: account.user, connections: CONCURRENCY },
  { password: account.password },
  { addresses: { allowed: ['127.0.0.1'] }, zones },
);
const reading = { bare: [] as number[], monsoon: [] as number[] };
for (let round = 0; round < 3; round++) {
  reading.bare.push(await seconds(() => bareMultigets(lane, hrefs)));
  reading.monsoon.push(
    await seconds(async () => {
      const found = await open.calendars!.read(lane, hrefs, signal);
      if ([...found.values()].some((e) => e === null)) throw new Error('an event was not read');
    }),
  );
}
await open.close();

await client.query(
  `insert into visit select n, 'Tuning ' || n, now(), now(), 'Ring before arriving.' from generate_series(${EVENTS + 1}, ${ROWS}) n`,
);
const table = kinds['postgresql']!.open(
  { address, user: 'app', tls: 'off' },
  { password: url.password },
  { addresses: { allowed: ['127.0.0.1'] }, zones },
);
const rows = { bare: [] as number[], monsoon: [] as number[] };
for (let round = 0; round < 3; round++) {
  rows.bare.push(
    await seconds(async () => {
      let seen = 0;
      for await (const _row of client.query(new QueryStream('select * from visit', [], { batchSize: 2000 }))) seen++;
      if (seen !== ROWS) throw new Error(`${seen} rows`);
    }),
  );
  rows.monsoon.push(
    await seconds(async () => {
      let seen = 0;
      for await (const page of table.records!.pull('visit', null, signal)) seen += page.items.length;
      if (seen !== ROWS) throw new Error(`${seen} rows`);
    }),
  );
}
await table.close();
await client.end();
await office.stop();
await agent.close();
await database.drop();

const middle = (t: number[]) => [...t].sort((a, b) => a - b)[Math.floor(t.length / 2)]!;
let right = true;
const tell = (what: string, ours: number, theirs: number, most: number) => {
  right &&= ours / theirs <= most;
  console.log(
    `  ${what.padEnd(46)} ${ours.toFixed(2)} s against ${theirs.toFixed(2)} s bare, ratio ${(ours / theirs).toFixed(2)} (wanted: at most ${most})`,
  );
};
console.log(`systems: ${EVENTS} events on cyrus, concurrency ${CONCURRENCY}; ${ROWS} rows of PostgreSQL`);
tell('first run, against the same PUTs', first, bare, 1.2);
tell('reading back, against bare multigets', middle(reading.monsoon), middle(reading.bare), 1.3);
tell('reading rows, against the bare query streamed', middle(rows.monsoon), middle(rows.bare), 2);
right &&= perSide.records <= 3 && perSide.calendar <= 3;
console.log(
  `  a check in which nothing changed              ${quiet.toFixed(2)} s, ${perSide.records} calls of the records' side and ${perSide.calendar} of the calendar's (wanted: at most 3 each)`,
);
process.exit(right ? 0 : 1);
