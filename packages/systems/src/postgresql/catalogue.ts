import type { Field, FieldType } from '@monsoon/core';
import type { Connection } from './connection.ts';
import { quoted } from './names.ts';
import type { TableSettings } from './settings.ts';

export interface Column {
  name: string;
  /** as the catalogue writes it, for casts */
  sqlType: string;
  field: Field;
  /** where a reference leads: the joined table, its key and its label, quoted */
  refers: { table: string; key: string; label: string | null } | null;
}

export interface Table {
  name: string;
  label: string;
  /** quoted, with its schema */
  sql: string;
  view: boolean;
  columns: Column[];
  key: Column[];
  settings: TableSettings;
  may: { create: boolean; change: boolean; remove: boolean };
  /** what speaks against using it */
  wanting: string | null;
  /** does a trigger of ours report its changes? */
  hasTrigger: boolean;
}

interface RawColumn {
  name: string;
  type: string;
  base: string;
  category: string;
  limit: number | null;
  generated: boolean;
  comment: string | null;
  labels: string[] | null;
  may: { select: boolean; insert: boolean; update: boolean };
  refers: { table: string; schema: string; column: string } | null;
}

interface RawTable {
  name: string;
  kind: string;
  comment: string | null;
  key: string[] | null;
  columns: RawColumn[];
  checks: { column: string; rule: string }[] | null;
  may: { select: boolean; delete: boolean };
  /** the collections whose changes its triggers tell: the first argument of a trigger names its collection */
  reporting: string[] | null;
}

const CATALOGUE = `
select coalesce(json_agg(t), '[]') from (
  select c.relname as name, c.relkind as kind, obj_description(c.oid, 'pg_class') as comment,
    (select json_agg(a.attname order by k.n) from pg_index i, unnest(i.indkey) with ordinality k(col, n)
      join pg_attribute a on a.attnum = k.col and a.attrelid = c.oid where i.indrelid = c.oid and i.indisprimary) as key,
    (select json_agg(json_build_object('column', a.attname, 'rule', pg_get_constraintdef(o.oid)))
      from pg_constraint o join pg_attribute a on a.attrelid = c.oid and a.attnum = o.conkey[1]
      where o.conrelid = c.oid and o.contype = 'c' and array_length(o.conkey, 1) = 1) as checks,
    (select json_agg(split_part(encode(g.tgargs, 'escape'), '\\000', 1)) from pg_trigger g join pg_proc p on p.oid = g.tgfoid
      where g.tgrelid = c.oid and p.proname = 'monsoon_note_change' and g.tgenabled <> 'D' and g.tgtype & 1 = 1) as reporting,
    json_build_object('select', has_table_privilege(c.oid, 'select'), 'delete', has_table_privilege(c.oid, 'delete')) as may,
    (select json_agg(json_build_object('name', a.attname, 'type', format_type(a.atttypid, a.atttypmod), 'base', b.typname, 'category', b.typcategory,
        'limit', case when b.typname in ('varchar', 'bpchar') and a.atttypmod > 4 then a.atttypmod - 4 end,
        'generated', a.attgenerated <> '' or a.attidentity = 'a', 'comment', col_description(c.oid, a.attnum),
        'labels', (select json_agg(e.enumlabel order by e.enumsortorder) from pg_enum e where e.enumtypid = b.oid),
        'may', json_build_object('select', has_column_privilege(c.oid, a.attnum, 'select'), 'insert', has_column_privilege(c.oid, a.attnum, 'insert'),
          'update', has_column_privilege(c.oid, a.attnum, 'update')),
        'refers', (select json_build_object('table', r.relname, 'schema', rn.nspname, 'column', ra.attname) from pg_constraint o
          join pg_class r on r.oid = o.confrelid join pg_namespace rn on rn.oid = r.relnamespace
          join pg_attribute ra on ra.attrelid = r.oid and ra.attnum = o.confkey[1]
          where o.conrelid = c.oid and o.contype = 'f' and o.conkey = array[a.attnum] limit 1)
      ) order by a.attnum)
      from pg_attribute a join pg_type y on y.oid = a.atttypid join pg_type b on b.oid = case when y.typtype = 'd' then y.typbasetype else y.oid end
      where a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped) as columns
  from pg_class c join pg_namespace n on n.oid = c.relnamespace
  where n.nspname = $1 and c.relkind in ('r', 'v', 'm', 'p', 'f') and c.relname <> '${'monsoon_changes'}' and not c.relispartition
    and ($2::text[] is null or c.relname = any($2) or exists (select from pg_constraint o join pg_class s on s.oid = o.conrelid
      where o.contype = 'f' and o.confrelid = c.oid and s.relnamespace = n.oid and s.relname = any($2)))
  order by c.relname) t`;

/**
 * Tells in a fraction of the time whether columns, their types, triggers, or who may use them have changed: each such
 * change makes a new version of a row.
 */
export const VERSIONS = `
select c.relname, concat_ws(' ', c.xmin,
  (select string_agg(a.xmin::text, ' ' order by a.attnum) from pg_attribute a where a.attrelid = c.oid and a.attnum > 0),
  (select string_agg(g.xmin::text, ' ' order by g.oid) from pg_trigger g where g.tgrelid = c.oid))
from pg_class c join pg_namespace n on n.oid = c.relnamespace where n.nspname = $1 and c.relname = any($2)`;

/** The tables and views of a schema, as collections; or some of them. @throws OutsideError */
export async function readCatalogue(
  connection: Connection,
  schema: string,
  given: Record<string, TableSettings>,
  only: readonly string[] | null = null,
): Promise<Map<string, Table>> {
  const [row] = await connection.query('reading the catalogue', CATALOGUE, [schema, only?.map((name) => given[name]?.table ?? name) ?? null]);
  const raw = JSON.parse(row![0]!) as RawTable[];
  const byName = new Map(raw.map((t) => [t.name, t]));
  const tables = new Map<string, Table>();
  const all = () => new Set([...Object.keys(given), ...raw.map((t) => t.name).filter((n) => !Object.values(given).some((s) => s.table === n))]);
  for (const name of only ?? all()) {
    const settings = given[name] ?? {};
    const found = byName.get(settings.table ?? name);
    if (found?.may.select !== true && found?.columns?.some((c) => c.may.select) !== true) continue;
    tables.set(name, tableOf(name, found, schema, settings, byName));
  }
  return tables;
}

function tableOf(name: string, raw: RawTable, schema: string, settings: TableSettings, all: Map<string, RawTable>): Table {
  const writable = new Set(settings.write ?? []);
  const view = raw.kind !== 'r' && raw.kind !== 'p';
  const columns = (raw.columns ?? [])
    .filter((c) => c.may.select && c.base !== 'bytea')
    .map((c): Column => {
      const refers = settings.types?.[c.name] === undefined ? referenceOf(c, settings, all) : null;
      const field = fieldOf(c, settings, refers !== null, choicesOf(raw, c));
      if (!writable.has(c.name) || c.generated || !(c.may.update || c.may.insert)) field.readOnly = true;
      return { name: c.name, sqlType: c.type, field, refers };
    });
  const keyNames = settings.key ?? raw.key ?? [];
  const key = keyNames.flatMap((k) => columns.find((c) => c.name === k) ?? []);
  const may = (what: 'insert' | 'update') => raw.columns.some((c) => writable.has(c.name) && c.may[what] && !c.generated);
  // A column that is only written may be missed when it is used; without these nothing can be read.
  const missing = [...keyNames, settings.modified ?? []].flat().filter((n) => !columns.some((c) => c.name === n));
  return {
    name,
    label: settings.label ?? raw.comment ?? name.replaceAll('_', ' '),
    sql: `${quoted(schema)}.${quoted(raw.name)}`,
    view,
    columns,
    key,
    settings,
    hasTrigger: raw.reporting?.includes(name) === true,
    may: { create: settings.create === true && may('insert'), change: may('update'), remove: settings.remove === true && raw.may.delete },
    wanting:
      missing.length > 0
        ? `it has no column ${missing.join(', ')}, or it may not be read`
        : key.length === 0
          ? 'it has no primary key: say with "key" which columns name a row'
          : null,
  };
}

/** `CHECK (status = ANY (ARRAY['a'::text, 'b'::text]))` lists the values of a choice. */
function choicesOf(table: RawTable, column: RawColumn): string[] | null {
  if (column.labels !== null) return column.labels;
  const rule = table.checks?.find((c) => c.column === column.name && /= ANY \(+ARRAY\[/.test(c.rule))?.rule;
  const found = [...(rule ?? '').matchAll(/'((?:[^']|'')*)'/g)].map((m) => m[1]!.replaceAll("''", "'"));
  return found.length > 0 ? found : null;
}

function referenceOf(column: RawColumn, settings: TableSettings, all: Map<string, RawTable>): Column['refers'] {
  if (column.refers === null) return null;
  const target = all.get(column.refers.table);
  const wanted = settings.labels?.[column.name];
  const readable = (n: string) => target?.columns.some((c) => c.name === n && c.may.select && c.category === 'S') === true;
  const label = [wanted, 'name', 'title', 'label'].find((n) => n !== undefined && readable(n));
  return {
    table: `${quoted(column.refers.schema)}.${quoted(column.refers.table)}`,
    key: quoted(column.refers.column),
    label: label === undefined ? null : quoted(label),
  };
}

function fieldOf(column: RawColumn, settings: TableSettings, refers: boolean, choices: string[] | null): Field {
  const label = column.comment ?? `${column.name[0]!.toUpperCase()}${column.name.slice(1).replaceAll('_', ' ')}`;
  const type = settings.types?.[column.name] ?? (refers ? 'reference' : typeOf(column, choices));
  return {
    name: column.name,
    label,
    type,
    ...((type === 'choice' || type === 'choices') && choices !== null ? { choices } : {}),
    ...(type === 'duration' ? { unit: 'minutes' as const } : {}),
    ...(column.limit === null ? {} : { limit: column.limit }),
  };
}

function typeOf(column: RawColumn, choices: string[] | null): FieldType {
  if (column.category === 'A') return 'choices';
  if (choices !== null) return 'choice';
  switch (column.base) {
    case 'bool':
      return 'yes/no';
    case 'date':
      return 'date';
    case 'time':
    case 'timetz':
      return 'time';
    case 'timestamp':
    case 'timestamptz':
      return 'date-time';
    case 'interval':
      return 'duration';
    case 'text':
      return 'long text';
    default:
      return column.category === 'N' ? 'number' : 'text';
  }
}
