import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { MonsoonClient } from '@monsoon/contract/client';
import pg from 'pg';
import { getToken, spawnService } from './office.ts';
import { account, cyrus, dav, eventually, freshDatabase, listEvents } from './servers.ts';

export interface Trial {
  lanes: number;
  /** pairs of each lane */
  pairs: number;
  workers: number;
  /** edits a second, on both sides together, and for how many seconds */
  rate: number;
  seconds: number;
  /** one worker is killed and begun again about so often, in seconds */
  killEvery: number;
  /** what goes wrong once, half-way: given the name of Monsoon's database, and the workers */
  disturb: (database: string, workers: readonly ChildProcess[]) => Promise<void>;
  /** looks at the processes every ten seconds while edits are made: the web process first, then the workers */
  watch?: (processes: readonly ChildProcess[]) => void;
  say?: (line: string) => void;
  /** looks into Monsoon's own database before it is dropped */
  inspect?: (databaseUrl: string) => Promise<void>;
}

export interface Outcome {
  edits: number;
  kills: number;
  /** seconds from an edit to its arrival, of those made while all was well, in order */
  calm: number[];
  /** the same of those made while a worker was dead or the database away */
  disturbed: number[];
  /** what is wrong at the end, in words; empty when nothing is */
  wrong: string[];
}

interface Edit {
  item: string;
  at: number;
  title: string;
  number: number;
}

/** How long after a kill or a break things may still be catching up, in milliseconds: their edits are told apart. */
const AFTERMATH = 8000;
const titleOf = (text: string) => /^SUMMARY:(.*?)\r?$/m.exec(text.replace(/\r?\n[ \t]/g, ''))?.[1] ?? '';

/** Lanes between tables of a PostgreSQL and calendars of a CalDAV server, edited on both sides while their workers die. */
export async function tryManyLanes(trial: Trial): Promise<Outcome> {
  const say = trial.say ?? (() => undefined);
  const [database, source] = [await freshDatabase(), await freshDatabase()];
  const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
  const places = { databaseUrl: database.url, dataFolder };
  const records = new pg.Pool({ connectionString: source.url, max: 4 });
  records.on('error', () => undefined);
  const tables = Array.from({ length: trial.lanes }, (_, i) => `visits_${String(i).padStart(2, '0')}`);
  const web = await spawnService(places, { role: 'web' });
  const workers: ChildProcess[] = [];
  let ending = false;
  /** A worker that ends is begun again, as whatever runs the service would. */
  const beginWorker = async (slot: number): Promise<void> => {
    const begun = await spawnService(places, { role: 'worker' }).catch(() => null);
    if (begun === null) return void setTimeout(() => void beginWorker(slot), 500);
    workers[slot] = begun.child;
    begun.child.once('exit', () => {
      if (!ending) void beginWorker(slot);
    });
    if (ending) begun.child.kill('SIGKILL');
  };
  try {
    await records.query('create table arrivals (title text, at timestamptz)');
    await records.query(
      `create function arrived() returns trigger language plpgsql as $$ begin insert into arrivals values (new.title, clock_timestamp()); return new; end $$`,
    );
    for (const table of tables) {
      await records.query(
        `create table ${table} (id uuid primary key, title text, starts timestamptz, ends timestamptz, modified timestamptz default now())`,
      );
      await records.query(
        `insert into ${table} select gen_random_uuid(), '${table} ' || n || ' #0', s, s + make_interval(mins => 30 + 15 * (n % 4)) from (select n, date_trunc('day', now()) + make_interval(days => n % 60, hours => 8 + n % 9) as s from generate_series(1, ${trial.pairs}) n) as made`,
      );
      await records.query(`create trigger arrived after update on ${table} for each row execute function arrived()`);
    }
    const client = new MonsoonClient({ address: web.address, token: await getToken(web.address) });
    const at = new URL(source.url);
    await client.connect({
      slug: 'records',
      name: 'Records',
      kind: 'postgresql',
      settings: {
        address: `postgresql://${at.host}${at.pathname}`,
        user: at.username,
        tls: 'off',
        connections: 12,
        zone: 'Europe/London',
        collections: Object.fromEntries(tables.map((t) => [t, { write: ['title', 'starts', 'ends'], modified: 'modified' }])),
      },
      secrets: { password: decodeURIComponent(at.password) },
    });
    await client.connect({
      slug: 'diary',
      name: 'Diary',
      kind: 'caldav',
      settings: { address: cyrus(), user: account.user, look: 1, connections: 12 },
      secrets: { password: account.password },
    });
    await Promise.all(Array.from({ length: trial.workers }, (_, i) => beginWorker(i)));
    const calendars: string[] = [];
    for (const table of tables) {
      await client.track('records', table, true);
      const { href } = await client.makeCalendar('diary', `${table} ${Date.now()}`, null);
      calendars.push(href);
      await client.makeLane(table.replace('_', '-'), {
        name: table,
        records: { system: 'records', collection: table },
        calendar: { system: 'diary', calendar: href },
        direction: '<->',
        may: { records: { create: false, remove: false } },
        zone: 'Europe/London',
        moments: [{ name: 'visit', when: { start: 'starts', end: 'ends' } }],
        fields: { title: { copy: 'title' } },
      });
    }
    const began = Date.now();
    await eventually(
      'the first runs',
      async () => (await client.lanes()).items.every((l) => l.pairs === trial.pairs && l.lastRun?.state === 'done'),
      600_000,
    );
    say(
      `${trial.lanes * trial.pairs} pairs made in ${((Date.now() - began) / 1000).toFixed(0)} s; editing ${trial.rate} a second for ${trial.seconds} s`,
    );
    const events = await Promise.all(calendars.map((c) => listEvents(cyrus(), c)));

    // Even items are edited in the records, odd ones on the calendar: no two edits of one item can meet.
    const expected = new Map<string, { table: string; title: string }>();
    const edits: Edit[] = [];
    const disturbances: number[] = [];
    let number = 0;
    const ids = await Promise.all(
      tables.map(async (t) => (await records.query<{ id: string; title: string }>(`select id, title from ${t} order by id`)).rows),
    );
    const evenOf = ids.map((rows) => rows.filter((r) => Number(/ (\d+) #/.exec(r.title)![1]) % 2 === 0));
    const patiently = async <T>(work: () => Promise<T>): Promise<T> => {
      for (let attempt = 0; ; attempt++) {
        try {
          return await work();
        } catch (error) {
          if (attempt > 60) throw error;
          await pause(250);
        }
      }
    };
    const editRecord = async (lane: number): Promise<void> => {
      const row = evenOf[lane]![Math.floor(Math.random() * evenOf[lane]!.length)]!;
      const mine = ++number;
      const title = `${row.title.replace(/ #.*/, '')} #${mine}`;
      await patiently(() => records.query(`update ${tables[lane]} set title = $1, modified = now() where id = $2`, [title, row.id]));
      edits.push({ item: row.id, at: Date.now(), title, number: mine });
      expected.set(row.id, { table: tables[lane]!, title });
    };
    const editEvent = async (lane: number): Promise<void> => {
      for (;;) {
        const href = events[lane]![Math.floor(Math.random() * events[lane]!.length)]!;
        const found = await dav(cyrus(), 'GET', href);
        const title = titleOf(found.text);
        const known = /^(\S+ (\d+)) #/.exec(title);
        if (found.status !== 200 || known === null || Number(known[2]) % 2 === 0) continue;
        const mine = ++number;
        const text = found.text.replace(`SUMMARY:${title}`, `SUMMARY:${known[1]} #${mine}`);
        const put = await dav(cyrus(), 'PUT', href, { 'if-match': found.etag!, 'content-type': 'text/calendar' }, text);
        if (put.status >= 300) continue;
        edits.push({ item: href, at: Date.now(), title: `${known[1]} #${mine}`, number: mine });
        expected.set(href, { table: tables[lane]!, title: `${known[1]} #${mine}` });
        return;
      }
    };
    const until = Date.now() + trial.seconds * 1000;
    let kills = 0;
    const killing = (async () => {
      while (Date.now() < until - 3000) {
        await pause(Math.min(trial.killEvery * (500 + Math.random() * 1000), Math.max(0, until - Date.now())));
        if (Date.now() > until - 3000) return;
        workers[Math.floor(Math.random() * workers.length)]?.kill('SIGKILL');
        kills++;
        disturbances.push(Date.now());
      }
    })();
    const breaking = pause(trial.seconds * 500).then(async () => {
      disturbances.push(Date.now());
      await trial.disturb(new URL(database.url).pathname.slice(1), workers);
      disturbances.push(Date.now());
    });
    const watching = setInterval(() => trial.watch?.([web.child, ...workers]), 10_000);
    const working = new Set<Promise<void>>();
    for (let i = 0; Date.now() < until; i++) {
      const lane = Math.floor(Math.random() * trial.lanes);
      const edit = (i % 2 === 0 ? editRecord(lane) : editEvent(lane)).finally(() => working.delete(edit));
      working.add(edit);
      await pause(1000 / trial.rate);
    }
    await Promise.all([...working, killing, breaking]);
    clearInterval(watching);
    say(`${edits.length} edits made, ${kills} workers killed; waiting until all is across`);

    const wrong: string[] = [];
    const titles = () =>
      Promise.all(tables.map(async (t) => (await records.query<{ title: string; id: string }>(`select id, title from ${t}`)).rows));
    await eventually(
      'every edit is across',
      async () => {
        const there = new Set((await titles()).flat().map((r) => r.title));
        return [...expected.values()].every((e) => there.has(e.title));
      },
      120_000,
    ).catch((e: Error) => wrong.push(e.message));
    // The last events, too: their lanes run once more, whole.
    for (const table of tables) await patiently(() => client.run(table.replace('_', '-'), { sweep: true }));
    await eventually('the lanes rest', async () => (await client.lanes()).items.every((l) => l.lastRun?.state === 'done'), 300_000);
    const rows = await titles();
    for (const [lane, table] of tables.entries()) {
      const listed = await listEvents(cyrus(), calendars[lane]!);
      if (listed.length !== trial.pairs || new Set(listed).size !== trial.pairs) wrong.push(`${table}: ${listed.length} events of ${trial.pairs}`);
      const shown = new Set(await titlesOn(calendars[lane]!));
      for (const row of rows[lane]!) if (!shown.has(row.title)) wrong.push(`${table}: "${row.title}" is not on the calendar`);
      const inTable = new Set(rows[lane]!.map((r) => r.title));
      for (const e of expected.values()) if (e.table === table && !inTable.has(e.title)) wrong.push(`${table}: the edit "${e.title}" was lost`);
      const audit = await client.audit(table.replace('_', '-'));
      if (audit.differences.length > 0 || !audit.addsUp) wrong.push(`${table}: the audit finds ${audit.differences.length} differences`);
    }
    const held = (await client.holds()).items.length;
    if (held > 0) wrong.push(`${held} holds, where no two edits met`);
    const store = new pg.Client({ connectionString: database.url });
    await store.connect();
    const onCalendar = await store.query<{ title: string; at: Date }>(
      `select c->>'after' as title, j.at from journal j, jsonb_array_elements(j.changes) c where j.kind = 'change' and c->>'side' = 'event' and c->>'property' = 'title'`,
    );
    await store.end();
    await trial.inspect?.(database.url);
    const inRecords = await records.query<{ title: string; at: Date }>('select title, at from arrivals');
    const [toRecords, toCalendar] = [[] as number[], [] as number[]];
    const delays = { calm: [] as number[], disturbed: [] as number[] };
    const arrivalsOn = { calendar: arrivalsOf(onCalendar.rows), records: arrivalsOf(inRecords.rows) };
    for (const { item, title, at, number } of edits) {
      const other = item.includes('/') ? arrivalsOn.records : arrivalsOn.calendar;
      // What a later edit of the same item overtook is across with it.
      const first = Math.min(...(other.get(nameIn(title)) ?? []).filter((a) => a.number >= number).map((a) => a.at));
      if (!Number.isFinite(first)) continue;
      const near = disturbances.some((d) => at > d - 2000 && at < d + AFTERMATH);
      if (!near) (item.includes('/') ? toRecords : toCalendar).push((first - at) / 1000);
      delays[near ? 'disturbed' : 'calm'].push(Math.max(0, first - at) / 1000);
    }
    const inOrder = (list: number[]) => list.sort((a, b) => a - b);
    const median = (list: number[]) => `${percentile(inOrder(list), 0.5).toFixed(2)} s, 95 % within ${percentile(list, 0.95).toFixed(2)} s`;
    say(`to the calendar: ${median(toCalendar)}; to the records: ${median(toRecords)}`);
    return { edits: edits.length, kills, calm: inOrder(delays.calm), disturbed: inOrder(delays.disturbed), wrong };
  } finally {
    ending = true;
    const all = [...workers, web.child].filter((c) => c !== undefined && c.exitCode === null);
    const gone = all.map((c) => new Promise((fine) => c.once('exit', fine)));
    for (const child of all) child.kill('SIGTERM');
    await Promise.race([Promise.all(gone), pause(8000)]);
    for (const child of all) child.kill('SIGKILL');
    await records.end();
    await Promise.all([database.drop(), source.drop()]);
    rmSync(dataFolder, { recursive: true, force: true });
  }
}

const nameIn = (title: string) => title.split(' #')[0]!;

function arrivalsOf(rows: { title: string; at: Date }[]): Map<string, { number: number; at: number }[]> {
  const found = new Map<string, { number: number; at: number }[]>();
  for (const { title, at } of rows)
    found.set(nameIn(title), [...(found.get(nameIn(title)) ?? []), { number: Number(title.split(' #')[1]), at: at.getTime() }]);
  return found;
}

/** The titles of all events of a calendar, by an independent look. */
async function titlesOn(calendar: string): Promise<string[]> {
  const body =
    '<c:calendar-query xmlns="DAV:" xmlns:c="urn:ietf:params:xml:ns:caldav"><prop><c:calendar-data/></prop><c:filter><c:comp-filter name="VCALENDAR"/></c:filter></c:calendar-query>';
  const { text } = await dav(cyrus(), 'REPORT', calendar, { depth: '1', 'content-type': 'application/xml' }, body);
  return [
    ...text
      .replace(/&#13;/g, '')
      .replace(/\r?\n[ \t]/g, '')
      .matchAll(/^SUMMARY:(.*)$/gm),
  ].map((m) => m[1]!.trim());
}

export const percentile = (sorted: number[], share: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? Number.NaN;
