import {
  activityShape,
  type ColleagueAnswer,
  colleagueChangeShape,
  colleagueShape,
  laneShape,
  newColleagueShape,
  ownerShape,
  page,
} from '@monsoon/contract';
import { certain } from '@monsoon/core';
import { and, asc, count, desc, eq, isNotNull, isNull, lt, ne, or } from 'drizzle-orm';
import * as yup from 'yup';
import { lockedUntil, unlock } from '../../access/lock-out.ts';
import { hashPassword } from '../../access/passwords.ts';
import { refuseWeak } from '../../access/weak.ts';
import type { App } from '../../app.ts';
import { laneAnswers } from '../../lanes/answers.ts';
import { activity, devicePasswords, lanes, people, sessions, tokens } from '../../storage/schema.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';
import { findLane } from './lanes.ts';

type PersonRow = typeof people.$inferSelect;

async function findPerson(app: App, given: string): Promise<PersonRow> {
  const by = /^[0-9a-f]{8}-[0-9a-f-]{27}$/.test(given) ? eq(people.id, given) : eq(people.email, given.toLowerCase());
  const [row] = await app.db.select().from(people).where(by);
  if (row === undefined) throw notFound('person', given);
  return row;
}

async function colleagues(app: App, rows: PersonRow[]): Promise<ColleagueAnswer[]> {
  const [locked, owned] = await Promise.all([
    lockedUntil(app.db),
    app.db.select({ slug: lanes.slug, owner: lanes.owner }).from(lanes).orderBy(asc(lanes.slug)),
  ]);
  return rows.map((p) => {
    return {
      id: p.id,
      email: p.email,
      name: p.name,
      role: p.role,
      disabled: p.disabledAt !== null,
      password: p.passwordHash !== null,
      lockedUntil: locked.get(p.email) ?? null,
      lastSeenAt: p.lastSeenAt,
      lanes: owned.filter((l) => l.owner === p.id).map((l) => l.slug),
      createdAt: p.createdAt,
    };
  });
}

/** Another administrator must be able to sign in already: whether the sign-in service lets this one in is not known yet. */
async function anotherCanSignIn(app: App, person: PersonRow): Promise<void> {
  const [others] = await app.db
    .select({ n: count() })
    .from(people)
    .where(
      and(
        eq(people.role, 'administrator'),
        isNull(people.disabledAt),
        ne(people.id, person.id),
        or(isNotNull(people.passwordHash), isNotNull(people.providerSubject)),
      ),
    );
  if (person.role === 'administrator' && others?.n === 0)
    throw new HttpProblem(
      409,
      'The last administrator who can sign in',
      `provider: ${person.email} is the only administrator who can sign in, and the sign-in service has not let them in yet; add another administrator with a password first`,
    );
}

/** Somebody must be left who can let others in. */
async function notTheLast(app: App, person: PersonRow): Promise<void> {
  const [others] = await app.db
    .select({ n: count() })
    .from(people)
    .where(and(eq(people.role, 'administrator'), isNull(people.disabledAt), ne(people.id, person.id)));
  if (person.role === 'administrator' && person.disabledAt === null && others?.n === 0)
    throw new HttpProblem(409, 'The last administrator', `${person.email} is the only administrator; make somebody else one first`);
}

/** People and what they may, the lanes they own, and who did what. */
export const peopleRoutes = (app: App): AnyRoute[] => [
  route(
    { method: 'get', path: '/people', summary: 'Who may sign in, and what they may', may: 'operate', answer: page(colleagueShape) },
    async () => ({
      items: await colleagues(app, await app.db.select().from(people).orderBy(asc(people.email)).limit(1000)),
      next: null,
    }),
  ),
  route(
    {
      method: 'post',
      path: '/people',
      summary: 'Let somebody in',
      may: 'administer',
      body: newColleagueShape,
      answer: colleagueShape,
      entry: (body) => `${body.email} as ${body.role}`,
    },
    async ({ body }) => {
      if (body.password !== undefined) refuseWeak(body.password, body);
      const passwordHash = body.password === undefined ? null : await hashPassword(body.password);
      const [made] = await app.db
        .insert(people)
        .values({ email: body.email.toLowerCase(), name: body.name, role: body.role, passwordHash, passwordTemporary: passwordHash !== null })
        .onConflictDoNothing()
        .returning();
      if (made === undefined) throw new HttpProblem(409, 'Known already', `${body.email} may sign in already; change what they may instead`);
      await app.announcer.announce(['people']);
      return (await colleagues(app, [made]))[0];
    },
  ),
  route(
    {
      method: 'patch',
      path: '/people/:person',
      summary: 'Change what somebody may, their name or how they sign in; disable, enable or unlock them',
      may: 'administer',
      body: colleagueChangeShape,
      answer: colleagueShape,
      entry: ({ role, disabled, unlock, ...rest }) =>
        [
          role,
          disabled === undefined ? undefined : disabled ? 'disabled' : 'enabled',
          unlock === true ? 'unlocked' : undefined,
          ...Object.keys(rest).filter((k) => rest[k as 'name'] !== undefined),
        ]
          .filter((d) => d !== undefined)
          .join(', '),
    },
    async ({ params, body, caller }) => {
      const person = await findPerson(app, params.person);
      const byAnother = caller.person !== person.id;
      if (body.password !== undefined) refuseWeak(body.password, person);
      if ((body.role !== undefined && body.role !== 'administrator') || body.disabled === true) await notTheLast(app, person);
      if (body.provider === true && app.config.provider === undefined)
        throw new HttpProblem(
          422,
          'There is no sign-in service',
          `provider: ${params.person} cannot sign in through a sign-in service, because none is configured; set MONSOON_OIDC_ISSUER and MONSOON_OIDC_CLIENT (docs/operating.md), or set a password instead`,
          [{ pointer: '/provider', reason: 'no sign-in service is configured' }],
        );
      if (body.provider === true) await anotherCanSignIn(app, person);
      const change = {
        ...(body.name === undefined ? {} : { name: body.name }),
        ...(body.role === undefined ? {} : { role: body.role }),
        ...(body.provider === true ? { passwordHash: null, passwordTemporary: false, providerSubject: null } : {}),
        ...(body.password === undefined ? {} : { passwordHash: await hashPassword(body.password), passwordTemporary: byAnother }),
        ...(body.disabled === undefined ? {} : { disabledAt: body.disabled ? new Date().toISOString() : null }),
      };
      if (Object.keys(change).length > 0) await app.db.update(people).set(change).where(eq(people.id, person.id));
      if (body.password !== undefined || body.provider === true || body.disabled === true)
        await app.db.delete(sessions).where(eq(sessions.person, person.id));
      // Somebody who knew the old password may have made tokens with it, and passwords for devices.
      if (byAnother && (body.password !== undefined || body.provider === true)) {
        await app.db.delete(tokens).where(eq(tokens.person, person.id));
        await app.db.delete(devicePasswords).where(eq(devicePasswords.person, person.id));
      }
      if (body.unlock === true || body.password !== undefined) await unlock(app.db, person.email);
      await app.announcer.announce(['people']);
      return (await colleagues(app, [await findPerson(app, person.id)]))[0];
    },
  ),
  route(
    { method: 'delete', path: '/people/:person', summary: 'Remove somebody, with their sessions and tokens', may: 'administer' },
    async ({ params }) => {
      const person = await findPerson(app, params.person);
      await notTheLast(app, person);
      await app.db.delete(people).where(eq(people.id, person.id));
      await app.announcer.announce(['people', 'lanes']);
    },
  ),
  route(
    {
      method: 'put',
      path: '/lanes/:lane/owner',
      summary: 'Say who arranges a lane, besides administrators; null: nobody',
      may: 'administer',
      body: ownerShape,
      answer: laneShape,
      entry: (body) => body.email ?? 'nobody',
    },
    async ({ params, body }) => {
      const lane = await findLane(app, params.lane);
      const owner = body.email === null ? null : await findPerson(app, body.email);
      if (owner?.role === 'viewer')
        throw new HttpProblem(422, 'A viewer cannot own a lane', `${owner.email} is a viewer; make them an operator first`, [
          { pointer: '/email', reason: `${owner.email} is a viewer, and a lane's owner changes it` },
        ]);
      const [changed] = await app.db
        .update(lanes)
        .set({ owner: owner?.id ?? null })
        .where(eq(lanes.id, lane.id))
        .returning();
      await app.announcer.announce(['lanes', 'people']);
      return (await laneAnswers(app, [certain(changed, 'it was there a moment ago')]))[0];
    },
  ),
  route(
    {
      method: 'get',
      path: '/activity',
      summary: 'Who did what, newest first',
      may: 'operate',
      answer: page(activityShape),
      query: yup.object({
        by: yup.string().max(200),
        lane: yup.string().max(63),
        cursor: yup.string().matches(/^\d{1,15}$/),
        limit: yup.number().integer().min(1).max(500).default(50),
      }),
    },
    async ({ query }) => {
      const rows = await app.db
        .select()
        .from(activity)
        .where(
          and(
            query.by === undefined ? undefined : eq(activity.by, query.by.toLowerCase()),
            query.lane === undefined ? undefined : eq(activity.lane, query.lane),
            query.cursor === undefined ? undefined : lt(activity.id, Number(query.cursor)),
          ),
        )
        .orderBy(desc(activity.id))
        .limit(query.limit + 1);
      const items = rows.slice(0, query.limit);
      return { items, next: rows.length > query.limit ? String(certain(items.at(-1), 'the page has items').id) : null };
    },
  ),
];
