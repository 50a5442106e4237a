import {
  calendarChangeShape,
  calendarRequestShape,
  calendarShape,
  callShape,
  collectionShape,
  consentRequestShape,
  consentShape,
  draftRequestShape,
  draftShape,
  mailRequestShape,
  page,
  trackingShape,
  tryShape,
} from '@monsoon/contract';
import { type Calendars, descriptorSchema, draftApart, type Exchange, OutsideError, type Tracking } from '@monsoon/systems';
import { desc, eq } from 'drizzle-orm';
import { newSecret } from '../../access/callers.ts';
import { cookieName, cookieOptions } from '../../access/cookies.ts';
import type { App } from '../../app.ts';
import { recordedCalls } from '../../storage/schema.ts';
import { probe } from '../../systems/check.ts';
import { begin, CONSENT_MINUTES } from '../../systems/consent.ts';
import { findSystem } from '../../systems/find.ts';
import type { SystemRow } from '../../systems/registry.ts';
import { jsonSchema } from '../openapi.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

const CHECK_TIME = 60_000;
const signal = () => AbortSignal.timeout(CHECK_TIME);

function calendarsOf(app: App, row: SystemRow): Calendars {
  const { calendars } = app.systems.open(row);
  if (calendars === undefined) throw new HttpProblem(422, 'No calendars there', `"${row.slug}" holds no calendars; choose a calendar server`);
  return calendars;
}

/** How one collection of a database reports its changes. @throws HttpProblem when there is no such thing */
async function trackingOf(
  app: App,
  row: SystemRow,
  collection: string,
): Promise<{ tracking(): Promise<Tracking>; track(on: boolean): Promise<void> }> {
  const { records } = app.systems.open(row);
  const [tracking, track] = [records?.tracking?.bind(records), records?.track?.bind(records)];
  if (records === undefined || tracking === undefined || track === undefined)
    throw new HttpProblem(422, 'Nothing to put in place', `"${row.slug}" is no database: how it reports its changes is its own affair`);
  const known = (await records.describe()).map((c) => c.name);
  if (!known.includes(collection)) throw notFound('collection', collection, known);
  return { tracking: () => tracking(collection), track: (on) => track(collection, on) };
}

/** What a refusal of an outside system means to the person who asked for it. */
const asked = <T>(work: Promise<T>): Promise<T> =>
  work.catch((error: unknown) => {
    if (error instanceof OutsideError && error.trouble === 'refused') throw new HttpProblem(422, 'The system refused', error.message);
    throw error;
  });

/** What systems hold, and what can be done with them. */
export const systemContentRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/systems/:system/collections',
      summary: 'The collections of a system with their fields',
      may: 'read',
      answer: page(collectionShape),
    },
    async ({ params }) => ({ items: (await app.systems.open(await findSystem(app, params.system)).records?.describe()) ?? [], next: null }),
  ),
  route(
    { method: 'get', path: '/systems/:system/calendars', summary: 'The calendars of a system', may: 'read', answer: page(calendarShape) },
    async ({ params }) => ({
      items: (await app.systems.open(await findSystem(app, params.system)).calendars?.calendars(signal())) ?? [],
      next: null,
    }),
  ),
  route(
    {
      method: 'post',
      path: '/systems/:system/calendars',
      summary: 'Make a calendar or a task list',
      may: 'administer',
      body: calendarRequestShape,
      answer: calendarShape,
    },
    async ({ params, body }) => {
      const row = await findSystem(app, params.system);
      const calendars = calendarsOf(app, row);
      if (body.holds === 'events' && (await calendars.calendars(signal())).some((c) => c.name === body.name))
        throw new HttpProblem(409, 'The name is taken', `${row.name} has a calendar "${body.name}" already; use it, or choose another name`);
      return asked(calendars.make(body.name, body.colour, signal(), body.holds));
    },
  ),
  route(
    {
      method: 'patch',
      path: '/systems/:system/calendars',
      summary: 'Give a calendar another name or colour',
      may: 'administer',
      body: calendarChangeShape,
      answer: calendarShape,
      status: 200,
    },
    async ({ params, body }) => {
      const row = await findSystem(app, params.system);
      const calendars = calendarsOf(app, row);
      const all = await calendars.calendars(signal());
      const found = all.find((c) => c.href === body.calendar) ?? all.find((c) => c.name === body.calendar);
      if (found === undefined)
        throw new HttpProblem(
          404,
          'No such calendar',
          `${row.name} has no calendar "${body.calendar}"; it has ${all.map((c) => c.name).join(', ') || 'none'}`,
        );
      return asked(calendars.rename(found.href, { name: body.name, colour: body.colour }, signal()));
    },
  ),
  route(
    {
      method: 'get',
      path: '/systems/:system/tracking/:collection',
      summary: 'How a collection of a database reports its changes, and the statements that would improve it',
      may: 'read',
      answer: trackingShape,
    },
    async ({ params }) => (await trackingOf(app, await findSystem(app, params.system), params.collection)).tracking(),
  ),
  ...([true, false] as const).map((on) =>
    route(
      {
        method: on ? 'post' : 'delete',
        path: '/systems/:system/tracking/:collection',
        summary: on ? 'Install the triggers that report changes' : 'Take the triggers away again',
        may: 'administer',
        answer: trackingShape,
        status: 200,
      },
      async ({ params }) => {
        const { track, tracking } = await trackingOf(app, await findSystem(app, params.system), params.collection);
        await asked(track(on));
        return tracking();
      },
    ),
  ),
  route(
    {
      method: 'post',
      path: '/systems/:system/try',
      summary: 'Try everything that the settings say of a system, reading only, with each request and answer',
      may: 'administer',
      answer: tryShape,
      status: 200,
    },
    async ({ params }) => {
      const row = await findSystem(app, params.system);
      let exchanges: Exchange[] = [];
      const { system: open, close } = app.systems.openApart(row, (exchange) => exchanges.push(exchange));
      const steps = [];
      try {
        for await (const step of open.walk?.(signal()) ?? probe(app, row.settings, open, signal())) {
          steps.push({ ...step, exchanges });
          exchanges = [];
        }
      } finally {
        await close();
      }
      return { ok: steps.every((s) => s.outcome !== 'failed'), steps };
    },
  ),
  route(
    {
      method: 'get',
      path: '/systems/:system/calls',
      summary: 'The last calls of a system, newest first, without bodies and secrets',
      may: 'read',
      answer: page(callShape),
    },
    async ({ params }) => {
      const row = await findSystem(app, params.system);
      // What this process asked a moment ago is to be seen too.
      await app.systems.settle();
      const calls = await app.db.select().from(recordedCalls).where(eq(recordedCalls.system, row.id)).orderBy(desc(recordedCalls.id)).limit(200);
      return { items: calls.map(({ id: _id, system: _system, ...call }) => call), next: null };
    },
  ),
  route(
    {
      method: 'post',
      path: '/systems/:system/consent',
      summary: 'Begin to authorise Monsoon at a system; the answer says where a person consents',
      may: 'administer',
      body: consentRequestShape,
      answer: consentShape,
      status: 200,
    },
    async ({ params, body, caller, response }) => {
      const browser = caller.session === null ? null : newSecret();
      const url = await begin(app, await findSystem(app, params.system), { by: caller.email, via: caller.via, browser }, body.back);
      // Lax: the way back is a navigation from another site.
      const options = cookieOptions(app.config, { sameSite: 'lax', path: '/oauth', maxAge: CONSENT_MINUTES * 60_000 });
      if (browser !== null) response.cookie(cookieName(app.config, 'consent'), browser, options);
      return { url };
    },
  ),
  route(
    { method: 'post', path: '/systems/:system/mail', summary: 'Send a mail for trying', may: 'administer', body: mailRequestShape, status: 204 },
    async ({ params, body }) => {
      const row = await findSystem(app, params.system);
      const { mail } = app.systems.open(row);
      if (mail === undefined) throw new HttpProblem(422, 'No mail there', `"${row.slug}" sends no mail; connect a mail server`);
      await asked(
        mail.send({
          to: [body.to],
          subject: 'Monsoon can send mail',
          text: `This mail was sent to see whether ${row.name} takes mail from Monsoon. It does.\n`,
        }),
      );
    },
  ),
  route(
    {
      method: 'post',
      path: '/descriptors/draft',
      summary: 'A first descriptor from an OpenAPI document',
      expensive: true,
      document: true,
      may: 'read',
      body: draftRequestShape,
      answer: draftShape,
      status: 200,
    },
    async ({ body }) => {
      try {
        return await draftApart((body as unknown as { text: string }).text);
      } catch (error) {
        if (error instanceof RangeError)
          throw new HttpProblem(422, 'No descriptor can be drafted', error.message, [{ pointer: '/document', reason: error.message }]);
        throw error;
      }
    },
  ),
  route(
    { method: 'get', path: '/descriptors/schema', summary: 'A JSON Schema of descriptors, for editors', may: 'read', answer: draftShape.pick([]) },
    async ({ response }) => {
      response.type('application/schema+json').json({
        $schema: 'https://json-schema.org/draft/2020-12/schema',
        title: 'Monsoon descriptor of a JSON API',
        ...jsonSchema(descriptorSchema.describe({}), 'editor'),
      });
    },
  ),
];
