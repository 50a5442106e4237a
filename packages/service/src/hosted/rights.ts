import type { HostedRight } from '@monsoon/contract';
import type { CalendarObject } from '@monsoon/core';
import type pg from 'pg';
import type { Person } from '../access/for-person.ts';
import { CALENDARS } from './addresses.ts';
import { CALENDAR_COLUMNS, type Condition, columnsOf, conditionText, type HostedCalendar, type Written, write } from './objects.ts';

/** How much of its events a person sees: that time is taken, private events as taken time, or everything. */
export type Sight = 'busy' | 'public' | 'all';

/** A calendar as one person has it. */
export interface CalendarFor {
  calendar: HostedCalendar;
  sight: Sight;
  mayWrite: boolean;
  /** may rename, colour and delete it, and say who else may what */
  mayManage: boolean;
  /** names of the lanes that fill it from records alone: no one else writes there */
  filledBy: string[];
  may: HostedRight;
}

interface Row extends HostedCalendar {
  may: HostedRight;
  one_way: boolean | null;
  lanes: string[] | null;
}

/** What is said of the person, else the owner's, else what is said of the role, else an administrator's. */
const RIGHT = `coalesce(
    (select r.may from hosted_rights r where r.calendar = c.id and r.person = $1),
    case when c.owner = $1 then 'read and write' end,
    (select r.may from hosted_rights r where r.calendar = c.id and r.role = $2),
    case when $2 = 'administrator' then 'read and write' else 'nothing' end)`;

/** The lanes of a calendar, and whether all of them only put there what their records say. */
const LANES = `left join lateral (
    select bool_and(l.definition ->> 'direction' = '->') as one_way, array_agg(l.definition ->> 'name' order by l.slug) as lanes
    from lanes l join systems s on s.id = l.calendar_system and s.kind = 'hosted'
    where l.definition -> 'calendar' ->> 'calendar' = '${CALENDARS}' || c.slug || '/') filling on true`;

const SELECT = `select ${CALENDAR_COLUMNS}, ${RIGHT} as may, filling.one_way, filling.lanes from hosted_calendars c ${LANES}`;

/** A calendar as a person has it; null where there is none, or they may do nothing with it: the two look alike. */
export async function calendarFor(pool: pg.Pool, { person, role }: Person, slug: string): Promise<CalendarFor | null> {
  const { rows } = await pool.query<Row>({ name: 'hosted_calendar_for', text: `${SELECT} where c.slug = $3`, values: [person, role, slug] });
  return rows[0] === undefined ? null : asPerson(rows[0], { person, role });
}

/** The function takes no calendar where the person may not write. */
const PUT_AS = `select put.outcome, put.etag, put.other from hosted_calendars c ${LANES}
  cross join lateral put_hosted(case when ${RIGHT} = 'read and write' and filling.one_way is not true then c.slug end,
    $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) put
  where c.slug = $3`;

/**
 * Stores an object, checked before, where a person may write: the right and the write are one step. `no calendar` also where they may not;
 * calendarFor has the reason.
 */
export function putObjectAs(
  pool: pg.Pool,
  { person, role }: Person,
  at: { slug: string; name: string },
  object: CalendarObject,
  text: string,
  condition: Condition,
): Promise<Written> {
  const values = [person, role, at.slug, at.name, ...columnsOf(object, text), conditionText(condition)];
  return write(pool, { name: 'put_hosted_as', text: PUT_AS, values }, at.slug, 'door');
}

/** Every calendar with which a person may do something. */
export async function calendarsFor(pool: pg.Pool, { person, role }: Person): Promise<CalendarFor[]> {
  const { rows } = await pool.query<Row>({ name: 'hosted_calendars_for', text: `${SELECT} order by c.name, c.slug`, values: [person, role] });
  return rows.flatMap((row) => asPerson(row, { person, role }) ?? []);
}

function asPerson({ may, one_way, lanes, ...calendar }: Row, { person, role }: Person): CalendarFor | null {
  if (may === 'nothing') return null;
  const filledBy = one_way === true ? (lanes ?? []) : [];
  return {
    calendar,
    may,
    sight: may === 'busy only' ? 'busy' : may === 'read' ? 'public' : 'all',
    mayWrite: may === 'read and write' && filledBy.length === 0,
    mayManage: may === 'read and write' && (role === 'administrator' || calendar.owner === person),
    filledBy,
  };
}
