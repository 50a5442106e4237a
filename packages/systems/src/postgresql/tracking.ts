import { createHash } from 'node:crypto';
import pg from 'pg';
import type { Table } from './catalogue.ts';
import { OURSELVES, quoted } from './names.ts';

/** The notification channel, and the table of changes. */
export const CHANNEL = 'monsoon_changes';

/** What a notification says: where something changed, and whether we did it. */
export const heardFrom = (payload: string): { source: string; ours: boolean } => {
  const [source, by] = payload.split('\n');
  return { source: source!, ours: by === OURSELVES };
};

const log = (schema: string) => `${quoted(schema)}.${quoted(CHANNEL)}`;
/** PostgreSQL cuts names off at 63 bytes: a longer one gets a digest instead, so that no two triggers share a name. */
const triggerName = (of: string): string => {
  const name = `monsoon_${of}`;
  return quoted(Buffer.byteLength(name) <= 63 ? name : `monsoon_${createHash('sha256').update(of).digest('hex').slice(0, 32)}`);
};
const trigger = (table: Table) => triggerName(table.name);
const emptiedTrigger = (table: Table) => triggerName(`${table.name}_emptied`);
/** How an earlier version named them: cut off at 50 characters. */
const formerTriggers = (table: Table): string =>
  [table.name, `${table.name}_emptied`]
    .map((of) => quoted(`monsoon_${of}`.slice(0, 50)))
    .filter((former) => former !== trigger(table) && former !== emptiedTrigger(table))
    .map((former) => `drop trigger if exists ${former} on ${table.sql};\n`)
    .join('');

/** Quotes the body of a function or block: names in it may hold dollar signs (PostgreSQL, 4.1.2.4). */
function dollarQuoted(body: string): string {
  let tag = '$$';
  for (let n = 0; body.includes(tag); n++) tag = `$m${n}$`;
  return `${tag}${body}${tag}`;
}

/**
 * The statements that make a table report its changes: each is noted with its transaction, no matter who makes it, and announced.
 * The number of the transaction is what makes it complete: a later look begins at the oldest that was still open.
 */
export const installSql = (table: Table, schema: string, user: string): string => {
  const source = pg.escapeLiteral(table.name);
  const columns = table.key.map((k) => pg.escapeLiteral(k.name)).join(', ');
  return `create table if not exists ${log(schema)} (
  id bigint generated always as identity primary key,
  source text not null,
  key text not null,
  xid xid8 not null default pg_current_xact_id(),
  at timestamptz not null default now()
);
create index if not exists monsoon_changes_source on ${log(schema)} (source, xid);
-- Monsoon reads what changed, and tidies up after a week.
grant select, delete on ${log(schema)} to ${quoted(user)};

create or replace function ${quoted(schema)}.monsoon_note_change() returns trigger
language plpgsql security definer set search_path = pg_catalog, pg_temp as ${dollarQuoted(`
declare
  changed jsonb;
  named text;
begin
  foreach changed in array case tg_op
      when 'INSERT' then array[to_jsonb(new)] when 'DELETE' then array[to_jsonb(old)] when 'UPDATE' then array[to_jsonb(old), to_jsonb(new)]
      else array['null'::jsonb] end
  loop
    -- After TRUNCATE everything is to be looked at.
    if changed = 'null'::jsonb then named := '*';
    elsif tg_nargs = 2 then named := changed ->> tg_argv[1];
    else named := (select jsonb_agg(changed ->> tg_argv[n] order by n) from generate_series(1, tg_nargs - 1) n)::text;
    end if;
    insert into ${log(schema)} (source, key) values (tg_argv[0], named);
  end loop;
  perform pg_notify('${CHANNEL}', tg_argv[0] || chr(10) || current_setting('application_name'));
  return null;
end `)};

${formerTriggers(table)}create or replace trigger ${trigger(table)} after insert or update or delete on ${table.sql}
  for each row execute function ${quoted(schema)}.monsoon_note_change(${source}, ${columns});
create or replace trigger ${emptiedTrigger(table)} after truncate on ${table.sql}
  for each statement execute function ${quoted(schema)}.monsoon_note_change(${source}, ${columns});
`;
};

/** Takes it away again; the table of changes and the function go with the last one. */
export const uninstallSql = (
  table: Table,
  schema: string,
): string => `${formerTriggers(table)}drop trigger if exists ${trigger(table)} on ${table.sql};
drop trigger if exists ${emptiedTrigger(table)} on ${table.sql};
delete from ${log(schema)} where source = ${pg.escapeLiteral(table.name)};
do ${dollarQuoted(` begin
  if not exists (select from pg_trigger t join pg_proc p on p.oid = t.tgfoid join pg_namespace n on n.oid = p.pronamespace
    where p.proname = 'monsoon_note_change' and n.nspname = ${pg.escapeLiteral(schema)}) then
    drop function ${quoted(schema)}.monsoon_note_change();
    drop table ${log(schema)};
  end if;
end `)};
`;
