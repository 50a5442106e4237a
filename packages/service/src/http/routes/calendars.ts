import {
  deviceShape,
  hostedCalendarChangeShape,
  hostedCalendarShape,
  hostedRightsShape,
  madeDeviceShape,
  newDeviceShape,
  newHostedCalendarShape,
  page,
} from '@monsoon/contract';
import { certain } from '@monsoon/core';
import { and, desc, eq } from 'drizzle-orm';
import type { Caller } from '../../access/callers.ts';
import type { App } from '../../app.ts';
import { deviceHash, newDevicePassword } from '../../dav/caller.ts';
import { usersOf } from '../../dav/objects.ts';
import { calendarHref } from '../../hosted/addresses.ts';
import { makeCalendar } from '../../hosted/calendars.ts';
import { calendarBySlug } from '../../hosted/objects.ts';
import { type CalendarFor, calendarFor, calendarsFor } from '../../hosted/rights.ts';
import { slugOf, withSuffix } from '../../slugs.ts';
import { oneRow } from '../../storage/one-row.ts';
import { devicePasswords, hostedCalendars, hostedRights, people } from '../../storage/schema.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

async function answer(app: App, mine: CalendarFor) {
  const { calendar } = mine;
  const [{ rows: counted }, rights, [owner]] = await Promise.all([
    app.pool.query<{ n: number }>('select count(*)::int as n from hosted_objects where calendar = $1 and text is not null', [calendar.id]),
    app.db
      .select({ person: people.email, role: hostedRights.role, may: hostedRights.may })
      .from(hostedRights)
      .leftJoin(people, eq(people.id, hostedRights.person))
      .where(eq(hostedRights.calendar, calendar.id)),
    calendar.owner === null ? [] : app.db.select({ email: people.email }).from(people).where(eq(people.id, calendar.owner)),
  ]);
  const { id, slug, name, colour, description, holds, createdAt } = calendar;
  return {
    id,
    slug,
    name,
    colour,
    description,
    holds,
    address: app.publicAddress() + calendarHref(slug),
    href: calendarHref(slug),
    items: oneRow(counted).n,
    owner: owner?.email ?? null,
    may: mine.mayManage ? 'manage' : mine.may,
    filledBy: mine.filledBy,
    // Who else may what is for those who settle it.
    rights: mine.mayManage ? rights : [],
    createdAt: new Date(createdAt).toISOString(),
  };
}

/** @throws HttpProblem 404 for what is not there, or not for this person */
async function find(app: App, caller: Caller, slug: string): Promise<CalendarFor> {
  const mine = await calendarFor(app.pool, caller, slug);
  if (mine === null)
    throw notFound(
      'hosted calendar',
      slug,
      (await calendarsFor(app.pool, caller)).map((c) => c.calendar.slug),
    );
  return mine;
}

async function findManaged(app: App, caller: Caller, slug: string): Promise<CalendarFor> {
  const mine = await find(app, caller, slug);
  if (!mine.mayManage) throw new HttpProblem(403, 'Not permitted', `"${mine.calendar.name}" is settled by whose it is, and by administrators`);
  return mine;
}

/** Calendars that Monsoon keeps itself, and the devices that come to them. */
export const calendarRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/hosted-calendars',
      summary: 'The calendars that Monsoon keeps, as far as you may see them',
      may: 'read',
      answer: page(hostedCalendarShape),
    },
    async ({ caller }) => ({ items: await Promise.all((await calendarsFor(app.pool, caller)).map((c) => answer(app, c))), next: null }),
  ),
  route(
    {
      method: 'post',
      path: '/hosted-calendars',
      summary: 'Make a calendar',
      may: 'operate',
      entry: (body) => body.name,
      body: newHostedCalendarShape,
      answer: hostedCalendarShape,
    },
    async ({ caller, body }) => {
      const slug = body.slug ?? slugOf(body.name, 'calendar');
      const taken = (await calendarBySlug(app.pool, slug)) !== null;
      if (taken && body.slug !== undefined)
        throw new HttpProblem(409, 'The name is taken', `there is a calendar "${slug}" already; choose another short name`, [
          { pointer: '/slug', reason: `"${slug}" is taken` },
        ]);
      const free = taken ? withSuffix(slug) : slug;
      await makeCalendar(app.pool, { slug: free, name: body.name, colour: body.colour ?? null, holds: body.holds }, caller.person);
      if (body.description !== undefined)
        await app.db.update(hostedCalendars).set({ description: body.description }).where(eq(hostedCalendars.slug, free));
      await app.announcer.announce(['calendars', 'systems']);
      return answer(app, await find(app, caller, free));
    },
  ),
  route(
    { method: 'get', path: '/hosted-calendars/:calendar', summary: 'One calendar that Monsoon keeps', may: 'read', answer: hostedCalendarShape },
    async ({ caller, params }) => answer(app, await find(app, caller, params.calendar)),
  ),
  route(
    {
      method: 'patch',
      path: '/hosted-calendars/:calendar',
      summary: 'Change name, colour or description of a calendar',
      may: 'read',
      entry: () => '',
      body: hostedCalendarChangeShape,
      answer: hostedCalendarShape,
      status: 200,
    },
    async ({ caller, params, body }) => {
      const { calendar } = await findManaged(app, caller, params.calendar);
      if (Object.keys(body).length > 0) await app.db.update(hostedCalendars).set(body).where(eq(hostedCalendars.id, calendar.id));
      await app.announcer.announce(['calendars']);
      return answer(app, await find(app, caller, params.calendar));
    },
  ),
  route(
    {
      method: 'put',
      path: '/hosted-calendars/:calendar/rights',
      summary: 'Who may do what with a calendar: of single people, else of roles; all of it at once',
      may: 'read',
      entry: (body) => body.rights.map((r) => `${r.person ?? r.role}: ${r.may}`).join(', '),
      body: hostedRightsShape,
      answer: hostedCalendarShape,
      status: 200,
    },
    async ({ caller, params, body }) => {
      const { calendar } = await findManaged(app, caller, params.calendar);
      const known = new Map((await app.db.select({ id: people.id, email: people.email }).from(people)).map((p) => [p.email.toLowerCase(), p.id]));
      const rows = body.rights.map(({ person, role, may }, i) => {
        const id = person === null ? null : known.get(person.toLowerCase());
        if (id === undefined) {
          const reason = `no person has the address "${person}" here: let them in first`;
          throw new HttpProblem(422, 'The body does not fit', reason, [{ pointer: `/rights/${i}/person`, reason }]);
        }
        return { calendar: calendar.id, person: id, role, may };
      });
      const keys = rows.map((r) => r.person ?? r.role);
      if (new Set(keys).size !== keys.length)
        throw new HttpProblem(422, 'The body does not fit', 'a person or role is named twice: give each one right');
      await app.db.transaction(async (tx) => {
        await tx.delete(hostedRights).where(eq(hostedRights.calendar, calendar.id));
        if (rows.length > 0) await tx.insert(hostedRights).values(rows);
      });
      await app.announcer.announce(['calendars']);
      const mine = await calendarFor(app.pool, caller, params.calendar);
      return mine === null ? null : answer(app, mine);
    },
  ),
  route(
    {
      method: 'delete',
      path: '/hosted-calendars/:calendar',
      summary: 'Remove a calendar that no lane and no feed uses, with everything on it',
      may: 'read',
      entry: () => '',
    },
    async ({ caller, params }) => {
      const { calendar } = await findManaged(app, caller, params.calendar);
      const used = await usersOf(app, calendar.slug);
      if (used.length > 0) throw new HttpProblem(409, 'The calendar is in use', `${used.join(' and ')} use "${calendar.name}"; remove them first`);
      await app.db.delete(hostedCalendars).where(eq(hostedCalendars.id, calendar.id));
      await app.announcer.announce(['calendars', 'systems']);
    },
  ),
  route(
    {
      method: 'get',
      path: '/devices',
      summary: 'Your devices that come to hosted calendars, each with a password of its own',
      may: 'read',
      answer: page(deviceShape),
    },
    async ({ caller }) => {
      const rows = await app.db
        .select()
        .from(devicePasswords)
        .where(eq(devicePasswords.person, caller.person))
        .orderBy(desc(devicePasswords.createdAt))
        .limit(200);
      return { items: rows.map((row) => deviceAnswer(row, caller)), next: null };
    },
  ),
  route(
    {
      method: 'post',
      path: '/devices',
      summary: 'Make a password for a device; it is shown this once',
      may: 'read',
      entry: (body) => body.name,
      body: newDeviceShape,
      answer: madeDeviceShape,
    },
    async ({ caller, body }) => {
      const password = newDevicePassword();
      const [row] = await app.db
        .insert(devicePasswords)
        .values({ person: caller.person, name: body.name, hash: deviceHash(password) })
        .returning();
      await app.announcer.announce(['calendars']);
      return { ...deviceAnswer(certain(row, 'it was made just now'), caller), password, user: caller.email, address: `${app.publicAddress()}/dav/` };
    },
  ),
  route(
    { method: 'delete', path: '/devices/:device', summary: 'Withdraw the password of a device', may: 'read', entry: () => '' },
    async ({ caller, params }) => {
      const mine = and(eq(devicePasswords.person, caller.person), eq(devicePasswords.id, params.device));
      const rows = /^[0-9a-f-]{36}$/.test(params.device) ? await app.db.delete(devicePasswords).where(mine).returning() : [];
      if (rows.length === 0) throw notFound('device of yours', params.device);
      await app.announcer.announce(['calendars']);
    },
  ),
];

const deviceAnswer = (row: typeof devicePasswords.$inferSelect, caller: Caller) => ({
  id: row.id,
  name: row.name,
  email: caller.email,
  agent: row.agent,
  createdAt: row.createdAt,
  lastUsedAt: row.lastUsedAt,
});
