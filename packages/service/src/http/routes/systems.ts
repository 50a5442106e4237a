import {
  calendarRequestShape,
  calendarShape,
  checkShape,
  collectionShape,
  type ProbeStepAnswer,
  page,
  type SystemAnswer,
  systemChangeShape,
  systemRequestShape,
  systemShape,
} from '@monsoon/core';
import { type Kind, kinds } from '@monsoon/systems';
import { eq, or } from 'drizzle-orm';
import { ValidationError } from 'yup';
import type { App } from '../../app.ts';
import { lanes, systems } from '../../storage/schema.ts';
import type { SystemRow } from '../../systems/registry.ts';
import { HttpProblem, invalid, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

const CHECK_TIME = 60_000;

export async function findSystem(app: App, slug: string): Promise<SystemRow> {
  const [row] = await app.db.select().from(systems).where(eq(systems.slug, slug));
  if (row !== undefined) return row;
  const all = await app.db.select({ slug: systems.slug }).from(systems);
  throw notFound(
    'system',
    slug,
    all.map((s) => s.slug),
  );
}

async function systemAnswer(app: App, row: SystemRow): Promise<SystemAnswer> {
  const used = await app.db
    .select({ slug: lanes.slug })
    .from(lanes)
    .where(or(eq(lanes.recordsSystem, row.id), eq(lanes.calendarSystem, row.id)));
  const open = app.systems.open(row);
  const secrets = app.vault.open(row.secrets) as { webhook?: string };
  const offers = (['records', 'calendars'] as const).filter((o) => open[o] !== undefined);
  return {
    id: row.id,
    slug: row.slug,
    name: row.name,
    kind: row.kind,
    address: (row.settings as { address: string }).address,
    offers,
    push: secrets.webhook !== undefined,
    health: { state: row.healthState, detail: row.healthDetail, at: row.healthAt },
    lanes: used.map((l) => l.slug),
    createdAt: row.createdAt,
  };
}

/** @throws HttpProblem naming the setting */
function checkParts(kind: Kind, settings: unknown, secrets: unknown): void {
  for (const [where, schema, value] of [
    ['settings', kind.settings, settings],
    ['secrets', kind.secrets, secrets],
  ] as const) {
    try {
      schema.validateSync(value, { strict: true, abortEarly: false });
    } catch (error) {
      if (!(error instanceof ValidationError)) throw error;
      const problem = invalid(error, where);
      throw new HttpProblem(
        422,
        problem.title,
        problem.message,
        problem.problems.map((p) => ({ ...p, pointer: `/${where}${p.pointer}` })),
      );
    }
  }
}

/** Asks a system everything it can tell and remembers how it did. */
async function checkSystem(app: App, row: SystemRow): Promise<{ ok: boolean; steps: ProbeStepAnswer[] }> {
  const open = app.systems.open(row);
  const signal = AbortSignal.timeout(CHECK_TIME);
  const steps: ProbeStepAnswer[] = [];
  for (const side of [open.records, open.calendars]) {
    if (side === undefined) continue;
    for await (const step of side.probe(signal)) steps.push(step);
  }
  const failed = steps.find((s) => s.outcome === 'failed');
  await app.systems.report(row.id, failed === undefined ? 'well' : 'failing', failed?.detail ?? `${steps.length} checks passed`);
  return { ok: failed === undefined, steps };
}

/** Outside systems: connecting, checking, and what they hold. */
export const systemRoutes = (app: App): AnyRoute[] => [
  route({ method: 'get', path: '/systems', summary: 'All systems', may: 'read', answer: page(systemShape) }, async () => ({
    items: await Promise.all((await app.db.select().from(systems).orderBy(systems.name)).map((row) => systemAnswer(app, row))),
    next: null,
  })),
  route(
    { method: 'post', path: '/systems', summary: 'Connect a system', may: 'write', body: systemRequestShape, answer: systemShape },
    async ({ body }) => {
      const kind = Object.hasOwn(kinds, body.kind) ? kinds[body.kind]! : undefined;
      if (kind === undefined)
        throw new HttpProblem(422, 'The body does not fit', `"${body.kind}" is not a kind of system; kinds are ${Object.keys(kinds).join(', ')}`, [
          { pointer: '/kind', reason: `kinds are ${Object.keys(kinds).join(', ')}` },
        ]);
      checkParts(kind, body.settings, body.secrets);
      const [row] = await app.db
        .insert(systems)
        .values({
          slug: body.slug,
          name: body.name,
          kind: body.kind,
          settings: kind.settings.cast(body.settings),
          secrets: app.vault.seal(body.secrets),
        })
        .onConflictDoNothing()
        .returning();
      if (row === undefined) throw new HttpProblem(409, 'The name is taken', `there is a system "${body.slug}" already; choose another short name`);
      await app.announcer.announce(['systems']);
      return systemAnswer(app, row);
    },
  ),
  route({ method: 'get', path: '/systems/:system', summary: 'One system', may: 'read', answer: systemShape }, async ({ params }) =>
    systemAnswer(app, await findSystem(app, params['system']!)),
  ),
  route(
    {
      method: 'patch',
      path: '/systems/:system',
      summary: 'Change the name, settings or secrets of a system; secrets that are not given stay',
      may: 'write',
      body: systemChangeShape,
      answer: systemShape,
      status: 200,
    },
    async ({ params, body }) => {
      const row = await findSystem(app, params['system']!);
      const kind = kinds[row.kind]!;
      const settings = { ...(row.settings as object), ...body.settings };
      const secrets = { ...(app.vault.open(row.secrets) as object), ...body.secrets };
      checkParts(kind, settings, secrets);
      const [changed] = await app.db
        .update(systems)
        .set({ name: body.name ?? row.name, settings: kind.settings.cast(settings), secrets: app.vault.seal(secrets) })
        .where(eq(systems.id, row.id))
        .returning();
      await app.announcer.announce(['systems']);
      return systemAnswer(app, changed!);
    },
  ),
  route({ method: 'delete', path: '/systems/:system', summary: 'Disconnect a system that no lane uses', may: 'write' }, async ({ params }) => {
    const row = await findSystem(app, params['system']!);
    const { lanes: used } = await systemAnswer(app, row);
    if (used.length > 0) throw new HttpProblem(409, 'The system is in use', `the lanes ${used.join(', ')} use "${row.slug}"; remove them first`);
    await app.db.delete(systems).where(eq(systems.id, row.id));
    await app.announcer.announce(['systems']);
  }),
  route(
    { method: 'post', path: '/systems/:system/check', summary: 'Check a system step by step', may: 'write', answer: checkShape, status: 200 },
    async ({ params }) => checkSystem(app, await findSystem(app, params['system']!)),
  ),
  route(
    {
      method: 'get',
      path: '/systems/:system/collections',
      summary: 'The collections of a system with their fields',
      may: 'read',
      answer: page(collectionShape),
    },
    async ({ params }) => {
      const row = await findSystem(app, params['system']!);
      return { items: (await app.systems.open(row).records?.describe()) ?? [], next: null };
    },
  ),
  route(
    { method: 'get', path: '/systems/:system/calendars', summary: 'The calendars of a system', may: 'read', answer: page(calendarShape) },
    async ({ params }) => {
      const row = await findSystem(app, params['system']!);
      return { items: (await app.systems.open(row).calendars?.calendars(AbortSignal.timeout(CHECK_TIME))) ?? [], next: null };
    },
  ),
  route(
    {
      method: 'post',
      path: '/systems/:system/calendars',
      summary: 'Make a calendar',
      may: 'write',
      body: calendarRequestShape,
      answer: calendarShape,
    },
    async ({ params, body }) => {
      const row = await findSystem(app, params['system']!);
      const calendars = app.systems.open(row).calendars;
      if (calendars === undefined) throw new HttpProblem(422, 'No calendars there', `"${row.slug}" holds no calendars; choose a calendar server`);
      const signal = AbortSignal.timeout(CHECK_TIME);
      if ((await calendars.calendars(signal)).some((c) => c.name === body.name))
        throw new HttpProblem(409, 'The name is taken', `${row.name} has a calendar "${body.name}" already; use it, or choose another name`);
      return calendars.make(body.name, body.colour, signal);
    },
  ),
];
