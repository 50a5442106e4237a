import { randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { loadZones } from '@monsoon/service';
import { calendarAcceptance, recordAcceptance } from '@monsoon/system-tests';
import { type Calendars, kinds, type OpenSystem } from '@monsoon/systems';
import { expect } from 'chai';
import pg from 'pg';
import { parse } from 'yaml';
import { MemoryCalendar, MemoryRecords } from '../../../test/simulation/memory-systems.ts';
import { startFrontDesk, startWorkbench } from '../../../test/support/front-desk.ts';
import { type Device, type HostedService, openHosted } from '../../../test/support/hosted.ts';
import { type Misbehaving, misbehaving } from '../../../test/support/misbehaving.ts';
import { account, cyrus, dav, freshDatabase, radicale } from '../../../test/support/servers.ts';

const folder = mkdtempSync(join(tmpdir(), 'files-'));
after(() => rmSync(folder, { recursive: true, force: true }));
const options = { addresses: { allowed: ['127.0.0.1'] }, zones: loadZones(), folders: [folder] };

/** Settings of the demo's systems, checked as they are when a person gives them. */
function openKind(kind: string, settings: object, secrets: object): OpenSystem {
  const { settings: shape, secrets: hidden, check, open } = kinds[kind]!;
  shape.validateSync(settings, { strict: true });
  hidden.validateSync(secrets, { strict: true });
  expect(check?.(shape.cast(settings), secrets) ?? []).to.deep.equal([]);
  return open(shape.cast(settings), secrets, options);
}
const demoSettings = (name: string) =>
  (parse(readFileSync(new URL(`../../../demo/systems/${name}.yaml`, import.meta.url), 'utf8')) as { settings: Record<string, never> }).settings;
const closing = (...open: OpenSystem[]) => Promise.all(open.map((o) => o.close()));

/** A line that breaks: now and then a reading call is cut off, answered 503, or told to come back in a second. */
async function breakingLine(upstream: string): Promise<Misbehaving> {
  let calls = 0;
  const readings = ['GET', 'PROPFIND', 'REPORT'];
  return misbehaving((asked, response) => {
    if (!readings.includes(asked.method) || ++calls % 6 !== 0) return undefined;
    if (calls % 18 === 6) response.destroy();
    else response.writeHead(calls % 18 === 12 ? 503 : 429, calls % 18 === 12 ? {} : { 'retry-after': '1' }).end();
    return true;
  }, upstream);
}

for (const [name, address, breaking] of [
  ['radicale', radicale, false],
  ['cyrus', cyrus, false],
  ['cyrus, over a line that breaks', cyrus, true],
] as const) {
  calendarAcceptance(`CalDAV on ${name}`, async () => {
    const line = breaking ? await breakingLine(address()) : null;
    const near = line === null ? address() : new URL(new URL(address()).pathname, line.address).href;
    const open = (password: string) => openKind('caldav', { address: near, user: account.user }, { password });
    const right = open(account.password);
    const wrong = open('wrong');
    return {
      calendars: right.calendars as Calendars,
      stranger: wrong.calendars as Calendars,
      async storeForeign(calendar, file, text) {
        const href = `${calendar}${encodeURIComponent(file)}`;
        const { status } = await dav(address(), 'PUT', href, { 'content-type': 'text/calendar' }, text);
        if (status >= 300) throw new Error(`PUT ${href}: ${status}`);
        return href;
      },
      close: async () => {
        await closing(right, wrong);
        await line?.close();
      },
    };
  });

  if (breaking) continue;
  recordAcceptance(`Task lists on ${name}`, async () => {
    const open = (password: string) => openKind('caldav', { address: address(), user: account.user }, { password });
    const right = open(account.password);
    const wrong = open('wrong');
    const list = await right.calendars!.make(`Tasks ${Date.now()}`, null, new AbortController().signal, 'tasks');
    const text = (uid: string, notes: string) =>
      `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Somebody//Else//EN\r\nBEGIN:VTODO\r\nUID:${uid}\r\nDTSTAMP:20261101T000000Z\r\nSUMMARY:Task\r\nDUE;VALUE=DATE:20261210\r\nX-KEPT:yes\r\nDESCRIPTION:${notes.replace(/[\\;,]/g, (c) => `\\${c}`)}\r\nEND:VTODO\r\nEND:VCALENDAR\r\n`;
    const put = async (id: string, notes: string) => {
      const { status } = await dav(
        address(),
        'PUT',
        `${list.href}${id}`,
        { 'content-type': 'text/calendar; charset=utf-8' },
        text(id.slice(0, -4), notes),
      );
      if (status >= 300) throw new Error(`PUT ${id}: ${status}`);
    };
    return {
      records: right.records!,
      stranger: wrong.records!,
      collection: decodeURIComponent(list.href.split('/').at(-2)!),
      field: 'description',
      async make(notes) {
        // Cyrus keeps a UID to one collection of a user (RFC 6638, 3.2.4.1), and each test has a list of its own.
        const id = `foreign-${randomUUID()}.ics`;
        await put(id, notes);
        return id;
      },
      change: put,
      remove: async (id) => void (await dav(address(), 'DELETE', `${list.href}${id}`)),
      close: async () => void (await closing(right, wrong)),
    };
  });
}

let hosting: Promise<HostedService> | null = null;
const hosted = (): Promise<HostedService> => {
  hosting ??= openHosted();
  return hosting;
};
after(async () => (await hosting)?.stop());

calendarAcceptance('Hosted calendars', async () => {
  const { app, person } = await hosted();
  const [row] = await app.db.query.systems.findMany({ where: (s, { eq }) => eq(s.kind, 'hosted') });
  const admin = await person('administrator');
  return {
    calendars: app.systems.open(row!).calendars as Calendars,
    stranger: null,
    storeForeign: (calendar, file, text) => putAtDoor(admin, calendar, file, text),
    close: async () => undefined,
  };
});

calendarAcceptance('Hosted calendars through their door', async () => {
  const { address, person } = await hosted();
  const admin = await person('administrator');
  const open = (password: string) => openKind('caldav', { address, user: admin.email }, { password });
  const right = open(admin.password);
  const wrong = open('wrong');
  return {
    calendars: right.calendars as Calendars,
    stranger: wrong.calendars as Calendars,
    storeForeign: (calendar, file, text) => putAtDoor(admin, calendar, file, text),
    close: async () => void (await closing(right, wrong)),
  };
});

async function putAtDoor(device: Device, calendar: string, file: string, text: string): Promise<string> {
  const href = `${calendar}${encodeURIComponent(file)}`;
  const { status } = await device.dav('PUT', href, { 'content-type': 'text/calendar' }, text);
  if (status >= 300) throw new Error(`PUT ${href}: ${status}`);
  return href;
}

for (const breaking of [false, true])
  recordAcceptance(`A JSON API (the Front desk${breaking ? ', over a line that breaks' : ''})`, async () => {
    const desk = await startFrontDesk();
    const line = breaking ? await breakingLine(desk.address) : null;
    const { descriptor, ...settings } = structuredClone(demoSettings('front-desk')) as never as {
      descriptor: { authentication?: unknown; collections: { visits: { list: { size: { value: number } } } } };
    };
    // Small pages, so that there are several; and the token of old, which OAuth has a test of its own beside.
    descriptor.collections.visits.list.size.value = 3;
    delete descriptor.authentication;
    const { client: _client, ...rest } = settings as { client?: string };
    const open = (token: string) =>
      openKind('json-api', { ...rest, descriptor, address: `${line?.address.replace(/\/$/, '') ?? desk.address}/api/v1` }, { token });
    const right = open(desk.token);
    const wrong = open('wrong');
    return {
      records: right.records!,
      stranger: wrong.records!,
      collection: 'visits',
      field: 'notes',
      make: async (notes) => (await desk.call<{ id: string }>('POST', '/visits', { notes })).id,
      change: async (id, notes) => void (await desk.call('PATCH', `/visits/${id}`, { notes })),
      remove: async (id) => void (await desk.call('DELETE', `/visits/${id}`)),
      close: async () => {
        await closing(right, wrong);
        await line?.close();
        desk.stop();
      },
    };
  });

recordAcceptance('A JSON API of another cut (the Workbench)', async () => {
  const bench = await startWorkbench();
  const settings = structuredClone(demoSettings('workbench')) as never as {
    descriptor: { collections: { tasks: { list: { size: { value: number } } } } };
  };
  settings.descriptor.collections.tasks.list.size.value = 3;
  const open = (token: string) => openKind('json-api', { ...settings, address: `${bench.address}/api` }, { token });
  const right = open(bench.key);
  const wrong = open('wrong');
  return {
    records: right.records!,
    stranger: wrong.records!,
    collection: 'tasks',
    field: 'details',
    make: async (details) => (await bench.call<{ task: { id: string } }>('POST', '/tasks', { task: { details } })).task.id,
    change: async (id, details) => void (await bench.call('PATCH', `/tasks/${id}`, { task: { details } })),
    remove: async (id) => void (await bench.call('DELETE', `/tasks/${id}`)),
    close: async () => {
      await closing(right, wrong);
      bench.stop();
    },
  };
});

for (const way of ['triggers', 'a column', 'comparing', 'a view'] as const) {
  recordAcceptance(`PostgreSQL, changes by ${way}`, async () => {
    const database = await freshDatabase();
    const client = new pg.Client({ connectionString: database.url });
    await client.connect();
    await client.query(`create table venue (id int primary key, name text);
      insert into venue values (1, 'Meadow Hall');
      create table hire (id uuid primary key default gen_random_uuid(), note text, venue_id int references venue default 1, secret text,
        changed timestamptz not null default clock_timestamp());
      create function touch() returns trigger language plpgsql as $$ begin new.changed := clock_timestamp(); return new; end $$;
      create trigger touch before update on hire for each row execute function touch();
      create view hire_view as select * from hire`);
    const url = new URL(database.url);
    const table = way === 'a view' ? 'hire_view' : 'hire';
    const collection = {
      write: ['note'],
      ...(way === 'a view' ? { key: ['id'] } : { create: true, remove: true }),
      ...(way === 'a column' ? { modified: 'changed' } : {}),
    };
    const settings = { address: `postgresql://${url.host}${url.pathname}`, user: 'app', tls: 'off', collections: { [table]: collection } };
    const right = openKind('postgresql', settings, { password: url.password });
    const wrong = openKind('postgresql', settings, { password: 'wrong' });
    if (way === 'triggers') await right.records!.track!('hire', true);
    return {
      records: right.records!,
      stranger: wrong.records!,
      collection: table,
      field: 'note',
      make: async (note) => (await client.query<{ id: string }>('insert into hire (note) values ($1) returning id', [note])).rows[0]!.id,
      change: async (id, note) => void (await client.query('update hire set note = $2 where id = $1', [id, note])),
      remove: async (id) => void (await client.query('delete from hire where id = $1', [id])),
      close: async () => {
        await closing(right, wrong);
        await client.end();
        await database.drop();
      },
    };
  });
}

for (const [name, manners] of [
  ['with tokens', {}],
  ['with ETags of the content', { contentTags: true }],
  ['that only lists', { tokens: false }],
] as const)
  calendarAcceptance(`The calendar in memory ${name}`, async () => {
    const calendars = new MemoryCalendar(manners);
    return {
      calendars,
      stranger: null,
      async storeForeign(calendar, file, text) {
        const href = `${calendar}${encodeURIComponent(file)}`;
        calendars.put(href, text);
        return href;
      },
      close: async () => undefined,
    };
  });

for (const [name, manners] of [
  ['with versions and tombstones', {}],
  ['without versions', { versions: false, retries: 'none' }],
  ['that only list', { tombstones: false }],
] as const)
  recordAcceptance(`Records in memory ${name}`, async () => {
    const records = new MemoryRecords([{ name: 'note', label: 'Note', type: 'text' }], manners);
    let number = 0;
    return {
      records,
      stranger: null,
      collection: 'items',
      field: 'note',
      async make(note) {
        const id = `R${number++}`;
        records.put(id, { note });
        return id;
      },
      change: async (id, note) => records.put(id, { note }),
      remove: async (id) => records.drop(id),
      close: async () => undefined,
    };
  });

recordAcceptance('CSV files', async () => {
  const file = join(folder, 'bookings.csv');
  writeFileSync(file, 'id;note;day\r\n0;first;24.12.2026\r\n');
  const settings = { address: folder, collections: { bookings: { write: ['note'], create: true, remove: true, ownKeys: true } } };
  const system = openKind('csv', settings, {});
  let number = 1;
  const cell = (text: string) => (/[;"\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  // As admin with a spreadsheet does: the whole file is saved again.
  const edit = (work: (lines: string[]) => string[]) => writeFileSync(file, work(readFileSync(file, 'utf8').split('\r\n')).join('\r\n'));
  return {
    records: system.records!,
    stranger: null,
    collection: 'bookings',
    field: 'note',
    async make(note) {
      const id = String(number++);
      edit((lines) => [...lines.slice(0, -1), `${id};${cell(note)};25.12.2026`, '']);
      return id;
    },
    change: async (id, note) => edit((lines) => lines.map((l) => (l.startsWith(`${id};`) ? `${id};${cell(note)};25.12.2026` : l))),
    remove: async (id) => edit((lines) => lines.filter((l) => !l.startsWith(`${id};`))),
    close: () => system.close(),
  };
});
