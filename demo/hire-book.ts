import { join } from 'node:path';
import pg from 'pg';
import { addDays, type SeedRow } from './data.ts';
import { addressOf } from './more-data.ts';
import { data, root } from './places.ts';
import { run } from './processes.ts';

/** Also for a book that was made by an earlier demo. */
const CONCERT_GUEST = `
create table concert_guest (
  id uuid primary key default gen_random_uuid(), concert uuid not null references concert on delete cascade, email text not null, name text,
  reply text not null default 'invited' check (reply in ('invited', 'coming', 'not coming', 'perhaps', 'sends somebody', 'crossed out'))
);
comment on table concert_guest is 'Concert guests';`;

const TABLES = `
create table contact (id int primary key, name text not null, email text unique);
comment on table contact is 'Contacts';

create table hire (
  id int primary key, customer_id int references contact, instrument text not null, address varchar(200),
  status text not null check (status in ('quoted', 'booked', 'out', 'returned', 'cancelled')),
  delivery_at timestamptz, first_tuning_at timestamptz, collection_at timestamptz, renewal_on date, notes text
);
comment on table hire is 'Hire contracts';

create table staff (email text primary key, name text not null);
comment on table staff is 'Staff';

create table leave (
  id int primary key, person text not null references staff, kind text not null check (kind in ('holiday', 'training', 'sick')),
  first_day date not null, last_day date not null, site text not null check (site in ('Leeds', 'Halifax'))
);
comment on table leave is 'Staff leave';

create table attendance (
  id uuid primary key default gen_random_uuid(), status text not null check (status in ('away', 'visiting', 'sick', 'training', 'workshop')),
  note text, starts timestamptz, ends timestamptz
);
comment on table attendance is 'Attendance board';

create table concert (
  id uuid primary key default gen_random_uuid(), title text not null, place text, starts timestamptz, ends timestamptz, guests int[] not null default '{}'
);
comment on table concert is 'Concert list';

${CONCERT_GUEST}

create table booking (  id uuid primary key default gen_random_uuid(), title text not null, place text, starts timestamptz, ends timestamptz
);
comment on table booking is 'Hall bookings';
`;

/** For a book without staff: the names that the addresses stand for. */
const STAFF = `
create table staff (email text primary key, name text not null);
comment on table staff is 'Staff';
insert into staff select distinct person, initcap(replace(split_part(person, '@', 1), '.', ' ')) from leave;
alter table leave add foreign key (person) references staff;
grant select on staff to monsoon;
`;

/** What Monsoon may do: read, and write where lanes write. */
const RIGHTS = `
grant select on all tables in schema public to monsoon;
grant insert, update, delete on attendance, concert, concert_guest, booking to monsoon;
`;

export interface HireBook {
  address: string;
  administer(statements: string): Promise<void>;
}

/** The Hire book: a PostgreSQL of its own. The contacts are those of the Front desk. @returns its address, without user and password, and how its administrator works in it */
export async function openHireBook(password: string, day: string, seed: SeedRow[]): Promise<HireBook> {
  const { stdout } = await run('bash', ['packages/service/scripts/postgres.sh', 'start', join(data, 'hire-book')], { cwd: root });
  const url = new URL(stdout.trim());
  const client = new pg.Client({ connectionString: url.href });
  await client.connect();
  try {
    const { rows } = await client.query<{ hire: boolean; staff: boolean; guests: boolean }>(
      `select to_regclass('public.hire') is not null as hire, to_regclass('public.staff') is not null as staff,
        to_regclass('public.concert_guest') is not null as guests`,
    );
    // Made by an earlier demo: people were bare addresses then.
    if (rows[0]?.hire === true && rows[0].staff !== true) await client.query(STAFF);
    if (rows[0]?.hire === true && rows[0].guests !== true)
      await client.query(`${CONCERT_GUEST} grant select, insert, update, delete on concert_guest to monsoon;`);
    if (rows[0]?.hire !== true) {
      await client.query('begin');
      await client.query(TABLES);
      await fill(client, day, seed);
      await client.query(`create role monsoon login password '${password}'`);
      await client.query(RIGHTS);
      await client.query('commit');
    }
  } finally {
    await client.end();
  }
  return {
    address: `postgresql://${url.host}${url.pathname}`,
    async administer(statements) {
      const administrator = new pg.Client({ connectionString: url.href });
      await administrator.connect();
      await administrator.query(statements).finally(() => administrator.end());
    },
  };
}

async function fill(client: pg.Client, day: string, seed: SeedRow[]): Promise<void> {
  const contacts = seed.filter((s) => s.kind === 'contacts').map(({ row }) => [Number(row.id.slice(2)), row['name'], row['email']]);
  const insert = (table: string, rows: unknown[][]) =>
    client.query(`insert into ${table} select * from json_populate_recordset(null::${table}, $1)`, [JSON.stringify(rows)]);
  await insert('contact', contacts.map(([id, name, email]) => ({ id, name, email })) as never);
  const instruments = ['Alder upright 12', 'Wren grand 170', 'Harrow studio upright', 'Finch player piano'];
  const statuses = ['booked', 'out', 'booked', 'out', 'quoted', 'returned', 'cancelled'];
  await insert(
    'hire',
    Array.from({ length: 36 }, (_, i) => {
      const begins = addDays(day, ((i * 5) % 70) - 30);
      return {
        id: 2001 + i,
        customer_id: contacts[i % contacts.length]![0],
        instrument: instruments[i % instruments.length],
        address: `${3 + i} Orchard Terrace, ${i % 4 === 0 ? 'Halifax' : 'Leeds'}`,
        status: statuses[i % statuses.length],
        delivery_at: `${begins}T${9 + (i % 3)}:00:00Z`,
        first_tuning_at: i % 9 === 4 ? null : `${addDays(begins, 10)}T10:30:00Z`,
        collection_at: i % 5 === 2 ? null : `${addDays(begins, 90)}T14:00:00Z`,
        renewal_on: addDays(begins, 76),
        notes: i % 8 === 0 ? 'Third floor, no lift; four people.' : null,
      };
    }) as never,
  );
  const people = ['Ines Oakhanger', 'Bram Tarrant', 'Edda Quill', 'Callum Rooke'];
  await insert('staff', people.map((name) => ({ email: addressOf(name), name })) as never);
  await insert(
    'leave',
    Array.from({ length: 14 }, (_, i) => ({
      id: 301 + i,
      person: addressOf(people[i % people.length]!),
      kind: ['holiday', 'holiday', 'training', 'sick'][i % 4],
      first_day: addDays(day, i * 6 - 12),
      last_day: addDays(day, i * 6 - 12 + [0, 4, 1, 2][i % 4]!),
      site: i % 3 === 0 ? 'Halifax' : 'Leeds',
    })) as never,
  );
}
