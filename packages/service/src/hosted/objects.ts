import { createHash } from 'node:crypto';
import { type CalendarObject, certain } from '@monsoon/core';
import type pg from 'pg';
import { noteWrite, type Writer } from './notices.ts';

/** A calendar as its row has it. */
export interface HostedCalendar {
  id: string;
  slug: string;
  name: string;
  colour: string | null;
  description: string;
  timezone: string | null;
  properties: Record<string, string>;
  holds: 'events' | 'tasks';
  /** of the last change */
  revision: number;
  /** deletions up to this one are no longer known */
  forgotten: number;
  epoch: string;
  owner: string | null;
  createdAt: string;
}

export interface HostedObject {
  name: string;
  uid: string;
  etag: string;
  text: string;
  component: 'VEVENT' | 'VTODO';
  isPrivate: boolean;
  isBusy: boolean;
  changedAt: string;
  /** octets of the stored text */
  size: number;
}

/** What became of a write: conditions and numbering are one step in the database (the function put_hosted). */
export type Written = { outcome: 'made'; etag: string } | { outcome: 'changed'; etag: string } | NotStored;

export type NotStored =
  | { outcome: 'removed' | 'gone' | 'no calendar' }
  | { outcome: 'changed meanwhile'; etag: string }
  /** another object has the UID */
  | { outcome: 'uid elsewhere'; name: string }
  /** the object has another UID, which cannot be changed */
  | { outcome: 'other uid'; uid: string }
  | { outcome: 'wrong component'; holds: 'events' | 'tasks' };

/** Under which condition: this ETag has to be there, nothing may be there, or either. */
export type Condition = { etag: string } | 'absent' | null;

const PUT = 'select outcome, etag, other from put_hosted($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)';

export const conditionText = (condition: Condition): string | null => (condition === null ? null : condition === 'absent' ? 'none' : condition.etag);

/** Stores an object, checked before. */
export function putObject(
  pool: pg.Pool,
  at: { slug: string; name: string },
  text: string,
  condition: Condition,
  writer: Writer,
  read: CalendarObject,
): Promise<Written> {
  return write(
    pool,
    { name: 'put_hosted', text: PUT, values: [at.slug, at.name, ...columnsOf(read, text), conditionText(condition)] },
    at.slug,
    writer,
  );
}

/** What the function put_hosted takes of an object. */
export function columnsOf({ uid, component, starts, ends, isPrivate, isBusy }: CalendarObject, text: string): unknown[] {
  const hash = createHash('sha256').update(text).digest('hex').slice(0, 12);
  return [uid, hash, text, component, floor(starts), ceil(ends), isPrivate, isBusy];
}

const floor = (n: number | null) => (n === null ? null : Math.floor(n));
const ceil = (n: number | null) => (n === null ? null : Math.ceil(n));

/** Removes an object; what is gone already is `gone`. */
export const removeObject = (pool: pg.Pool, at: { slug: string; name: string }, condition: Condition, writer: Writer): Promise<Written> =>
  write(pool, { name: 'put_hosted', text: PUT, values: [at.slug, at.name, ...Array<null>(8).fill(null), conditionText(condition)] }, at.slug, writer);

/** Runs a statement that calls put_hosted, and announces what it wrote. No row: there is no such calendar. */
export async function write(pool: pg.Pool, statement: pg.QueryConfig, slug: string, writer: Writer): Promise<Written> {
  const { rows } = await pool.query<{ outcome: string; etag: string | null; other: string | null }>(statement);
  const { outcome, etag, other } = rows[0] ?? { outcome: 'no calendar', etag: null, other: null };
  if (outcome === 'made' || outcome === 'changed' || outcome === 'removed') noteWrite(pool, slug, writer);
  return { outcome, etag, name: other, uid: other, holds: other } as unknown as Written;
}

/** A calendar's row, from the table called `c` in the statement. */
export const CALENDAR_COLUMNS = `c.id, c.slug, c.name, c.colour, c.description, c.timezone, c.properties, c.holds, c.revision::float8 as revision,
  c.forgotten::float8 as forgotten, c.epoch, c.owner, c.created_at as "createdAt"`;
const CALENDAR = `select ${CALENDAR_COLUMNS} from hosted_calendars c`;

export async function calendarBySlug(pool: pg.Pool, slug: string): Promise<HostedCalendar | null> {
  const { rows } = await pool.query<HostedCalendar>({ name: 'hosted_calendar', text: `${CALENDAR} where slug = $1`, values: [slug] });
  return rows[0] ?? null;
}

export async function allCalendars(pool: pg.Pool): Promise<HostedCalendar[]> {
  return (await pool.query<HostedCalendar>(`${CALENDAR} order by name, slug`)).rows;
}

const objects = (text: string): string =>
  `select name, uid, etag, ${text} as text, component, is_private as "isPrivate", is_busy as "isBusy", changed_at as "changedAt", octet_length(text) as size
    from hosted_objects where calendar = $1 and text is not null`;
const OBJECT = objects('text');

export async function objectsNamed(pool: pg.Pool, calendar: string, names: readonly string[]): Promise<HostedObject[]> {
  const { rows } = await pool.query<HostedObject>({ name: 'hosted_named', text: `${OBJECT} and name = any($2)`, values: [calendar, names] });
  return rows;
}

export async function objectsWithUid(pool: pg.Pool, calendar: string, uid: string): Promise<HostedObject[]> {
  const { rows } = await pool.query<HostedObject>({ name: 'hosted_uid', text: `${OBJECT} and uid = $2`, values: [calendar, uid] });
  return rows;
}

/** Objects in a page: they are read, and sent on, without all of them being held. */
const PAGE = 500;

/**
 * All objects, in pages by name; with a span, those that may touch it: days, floating times and rules are to be looked at
 * again. @param withText false: their texts are left empty
 */
export async function* eachObject(
  pool: pg.Pool,
  calendar: string,
  span: { from: number | null; until: number | null } | null = null,
  withText = true,
): AsyncIterable<HostedObject[]> {
  const within =
    span === null ? '' : 'and ($3::float8 is null or starts is null or starts <= $3) and ($4::float8 is null or ends is null or ends >= $4)';
  for (let after = ''; ; ) {
    const { rows } = await pool.query<HostedObject>({
      text: `${withText ? OBJECT : objects("''")} and name > $2 ${within} order by name limit ${PAGE}`,
      values: [calendar, after, ...(span === null ? [] : [span.until, span.from])],
    });
    if (rows.length > 0) yield rows;
    if (rows.length < PAGE) return;
    after = certain(rows.at(-1), 'the page has rows').name;
  }
}

export interface ObjectChange {
  name: string;
  etag: string;
  revision: number;
  gone: boolean;
  component: 'VEVENT' | 'VTODO';
  isPrivate: boolean;
  isBusy: boolean;
  changedAt: string;
  size: number;
  /** the revisions at which readers of less than everything lost sight of it last */
  leftBusy: number | null;
  leftPublic: number | null;
}

/** Changes without their texts in a page: what is read and worked out of one page goes on side by side. */
const CHANGES = 5000;

/** Objects that changed after a revision, or all that there are, in pages in the order of their changes. */
export async function* changesSince(pool: pg.Pool, calendar: string, since: number | null, most = CHANGES): AsyncIterable<ObjectChange[]> {
  for (let after = since ?? 0; ; ) {
    const { rows } = await pool.query<ObjectChange>({
      name: since === null ? 'hosted_all' : 'hosted_changes',
      text: `select name, etag, revision::float8 as revision, text is null as gone, component, is_private as "isPrivate",
        is_busy as "isBusy", changed_at as "changedAt", octet_length(text) as size, left_busy::float8 as "leftBusy",
        left_public::float8 as "leftPublic" from hosted_objects
        where calendar = $1 and revision > $2 ${since === null ? 'and text is not null' : ''} order by revision limit $3`,
      values: [calendar, after, most],
    });
    if (rows.length > 0) yield rows;
    if (rows.length < most) return;
    after = certain(rows.at(-1), 'the page has rows').revision;
  }
}

/** Forgets deletions that are older than programs ask for: a program with an earlier state has to read it whole. */
export async function forgetDeletions(pool: pg.Pool, days: number): Promise<number> {
  const { rowCount } = await pool.query(
    `with old as (delete from hosted_objects where text is null and changed_at < now() - make_interval(days => $1) returning calendar, revision),
      newest as (select calendar, max(revision) as revision from old group by calendar)
      update hosted_calendars c set forgotten = greatest(c.forgotten, newest.revision) from newest where newest.calendar = c.id`,
    [days],
  );
  return rowCount ?? 0;
}
