import type { ProbeStep } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import { clockStep, failedStep } from '../probe-steps.ts';
import type { Table } from './catalogue.ts';
import type { Connection } from './connection.ts';
import type { PostgreSqlSettings } from './settings.ts';

/** Rows that are counted one by one when checking. */
const COUNTED = 100_000;

/** By what a table's changes are found. */
export function foundBy(table: Table): string {
  if (table.hasTrigger) return 'a trigger';
  return table.settings.modified === undefined ? 'comparing all rows' : `the column ${table.settings.modified}`;
}

/** @param read reads the catalogue again */
export async function* probeDatabase(
  connection: Connection,
  settings: PostgreSqlSettings,
  read: () => Promise<ReadonlyMap<string, Table>>,
  signal: AbortSignal,
): AsyncIterable<ProbeStep> {
  const schema = settings.schema ?? 'public';
  try {
    const before = Date.now();
    const [row] = await connection.query(
      'signing in',
      `select current_setting('server_version'), current_user, extract(epoch from clock_timestamp()) * 1000, (select coalesce(bool_or(r.rolsuper or r.rolcreaterole or r.rolcreatedb or r.rolreplication or r.rolbypassrls or (r.rolname like 'pg\\_%' and r.rolname <> 'pg_database_owner')), false)
          from pg_roles r where pg_has_role(current_user, r.oid, 'member') or (select rolsuper from pg_roles where rolname = current_user))::text,
        (select ssl from pg_stat_ssl where pid = pg_backend_pid()), has_schema_privilege($1, 'usage')`,
      [schema],
      signal,
    );
    const off = (Number(row![2]) - (before + Date.now()) / 2) / 1000;
    const [version, user, , mighty, tls, usage] = row!;
    yield { name: 'reachable', outcome: 'ok', detail: `${connection.host} answers as PostgreSQL ${version}` };
    yield {
      name: 'TLS',
      outcome: tls === 't' || settings.tls === 'off' ? 'ok' : 'warning',
      detail: tls === 't' ? 'the connection is encrypted' : 'the connection is not encrypted',
    };
    yield { name: 'credentials', outcome: 'ok', detail: `${user} is accepted` };
    yield mighty?.startsWith('t') === true
      ? {
          name: 'rights',
          outcome: 'warning',
          detail: `${user} may do more than lanes need: make a user of its own that may read the tables and write the named columns alone`,
        }
      : { name: 'rights', outcome: 'ok', detail: `${user} has no rights over the server` };
    if (usage !== 't') throw new OutsideError('refused', `${user} may not use the schema "${schema}": grant usage on schema ${schema} to ${user}`);
    yield clockStep(Math.round(off), 0);
    const tables = await read();
    if (tables.size === 0) yield { name: 'collections', outcome: 'warning', detail: `${user} may read no table of the schema "${schema}"` };
    for (const name of Object.keys(settings.collections ?? {})) if (!tables.has(name)) yield unknownTable(name, settings, tables);
    for (const table of tables.values()) yield await probeTable(connection, settings, table, foundBy(table), signal);
  } catch (error) {
    yield failedStep(error);
  }
}

function unknownTable(name: string, { collections, user }: PostgreSqlSettings, tables: ReadonlyMap<string, Table>): ProbeStep {
  const wanted = collections?.[name]?.table ?? name;
  const detail = `the settings name it, and there is no table or view "${wanted}" that ${user} may read; there are ${[...tables.keys()].join(', ') || 'none'}`;
  return { name: `collection ${name}`, outcome: 'failed', detail };
}

async function probeTable(connection: Connection, settings: PostgreSqlSettings, table: Table, by: string, signal: AbortSignal): Promise<ProbeStep> {
  const name = `collection ${table.name}`;
  const configured = Object.hasOwn(settings.collections ?? {}, table.name);
  if (table.wanting !== null) return { name, outcome: configured ? 'failed' : 'warning', detail: `${table.label}: ${table.wanting}` };
  const count = `select count(*) from (select 1 from ${table.sql} limit ${COUNTED + 1}) t`;
  const [counted] = await connection.query(`counting ${table.name}`, count, [], signal);
  const rows = Number(counted![0]) > COUNTED ? `more than ${COUNTED}` : counted![0];
  const writes = table.columns.filter((c) => c.field.readOnly !== true).map((c) => c.name);
  const wanted = (table.settings.write ?? []).filter((w) => !writes.includes(w));
  const may = writes.length === 0 ? 'read only' : `writes ${writes.join(', ')}`;
  const detail = `${table.label}: ${rows} rows, ${table.columns.length} columns; ${may}; changes are found by ${by}`;
  if (wanted.length === 0) return { name, outcome: 'ok', detail };
  return { name, outcome: 'warning', detail: `${detail}; ${unwritable(table, wanted, settings.user)}` };
}

function unwritable(table: Table, names: string[], user: string): string {
  const there = names.filter((n) => table.columns.some((c) => c.name === n));
  const gone = names.filter((n) => !there.includes(n));
  const grant = `not permitted: grant update (${there.join(', ')}) on ${table.sql} to ${user}`;
  return [gone.length > 0 ? `there is no column ${gone.join(', ')}` : '', there.length > 0 ? grant : ''].filter((t) => t !== '').join('; ');
}
