import {
  candidateShape,
  checkShape,
  kindShape,
  type ProbeStepAnswer,
  page,
  type SystemAnswer,
  systemChangeShape,
  systemRequestShape,
  systemShape,
} from '@monsoon/contract';
import type { Problem } from '@monsoon/core';
import { certain } from '@monsoon/core';
import { type Kind, kinds } from '@monsoon/systems';
import { eq, or } from 'drizzle-orm';
import type { Request, Response } from 'express';
import { ValidationError } from 'yup';
import type { App } from '../../app.ts';
import { HOSTED } from '../../hosted/system.ts';
import { addCheckJob } from '../../jobs/queue.ts';
import { sendUnsent } from '../../notifications/causes.ts';
import { feeds, lanes, systems } from '../../storage/schema.ts';
import { checkSystem, probe, resumeLanes, usedCalls, wakeLanes } from '../../systems/check.ts';
import { consentOf } from '../../systems/consent.ts';
import { findSystem } from '../../systems/find.ts';
import { kindOf, limitsOf, type SystemRow } from '../../systems/registry.ts';
import { HttpProblem, invalid } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';
import { settingsOf } from '../setting-shapes.ts';

const CHECK_TIME = 120_000;

async function systemAnswer(app: App, row: SystemRow): Promise<SystemAnswer> {
  const used = await app.db
    .select({ slug: lanes.slug })
    .from(lanes)
    .where(or(eq(lanes.recordsSystem, row.id), eq(lanes.calendarSystem, row.id)));
  const open = app.systems.open(row);
  const secrets = app.vault.open(row.secrets) as Record<string, string | undefined>;
  const offers = (['records', 'calendars', 'mail'] as const).filter((o) => open[o] !== undefined);
  return {
    id: row.id,
    slug: row.slug,
    name: row.name,
    kind: row.kind,
    address: row.kind === HOSTED ? `${app.publicAddress()}/dav/` : (row.settings as { address: string }).address,
    offers,
    push: open.watch !== undefined || secrets['webhook'] !== undefined,
    health: { state: row.healthState, detail: row.healthDetail, at: row.healthAt },
    lapsed: row.lapsedAt === null ? null : { at: row.lapsedAt, reason: row.lapsedReason ?? '' },
    calls: { month: new Date().toISOString().slice(0, 7), used: await usedCalls(app, row.id), allowance: limitsOf(row.settings).allowance ?? null },
    consent: consentOf(app, row) === null ? null : row.tokens === null ? 'needed' : 'given',
    authorisedAt: row.authorisedAt,
    drift: row.drift,
    settings: row.settings as object,
    secrets: Object.keys(secrets).filter((name) => secrets[name] !== undefined),
    checkedAt: row.checkedAt,
    lanes: used.map((l) => l.slug),
    createdAt: row.createdAt,
  };
}

/** @throws HttpProblem where it is the system that Monsoon itself is */
function checkOutside(row: SystemRow): void {
  if (row.kind === HOSTED)
    throw new HttpProblem(
      409,
      'It is part of Monsoon',
      `"${row.slug}" stands for the calendars that Monsoon keeps itself: it cannot be changed or disconnected`,
    );
}

function kindNamed(name: string): Kind {
  const kind = Object.hasOwn(kinds, name) ? kinds[name] : undefined;
  if (kind !== undefined) return kind;
  const reason = `"${name}" is not a kind of system; kinds are ${Object.keys(kinds).join(', ')}`;
  throw new HttpProblem(422, 'The body does not fit', reason, [{ pointer: '/kind', reason }]);
}

/** Settings and secrets as the kind wants them, with its defaults. @throws HttpProblem naming each setting that does not fit */
function checkedParts(kind: Omit<Kind, 'open'>, settings: unknown, secrets: unknown): { settings: object; secrets: object } {
  for (const [where, schema, value] of [
    ['settings', kind.settings, settings],
    ['secrets', kind.secrets, secrets],
  ] as const) {
    try {
      schema.validateSync(value, { strict: true, abortEarly: false });
    } catch (error) {
      if (!(error instanceof ValidationError)) throw error;
      const problem = invalid(error, where, schema);
      throw new HttpProblem(
        422,
        problem.title,
        problem.message,
        problem.problems.map((p) => ({ ...p, pointer: `/${where}${p.pointer}` })),
      );
    }
  }
  const open = addressesWithSecrets(settings, '/settings');
  if (open.length > 0) throw new HttpProblem(422, 'The settings do not fit', open.map((p) => `${p.pointer}: ${p.reason}`).join('; '), open);
  const whole = { settings: kind.settings.cast(settings) as object, secrets: secrets as object };
  const misfits = kind.check?.(whole.settings, whole.secrets) ?? [];
  if (misfits.length > 0)
    throw new HttpProblem(422, 'Settings and secrets do not fit each other', misfits.map((m) => `${m.pointer}: ${m.reason}`).join('; '), misfits);
  return whole;
}

/** Addresses that hold a user or a password: settings are shown to everybody who may look. */
function addressesWithSecrets(value: unknown, pointer: string): Problem[] {
  if (value !== null && typeof value === 'object')
    return Object.entries(value).flatMap(([name, inner]) =>
      addressesWithSecrets(inner, `${pointer}/${name.replaceAll('~', '~0').replaceAll('/', '~1')}`),
    );
  if (typeof value !== 'string' || !/^[a-z][a-z0-9+.-]*:\/\/[^/?#]*@/i.test(value.trim())) return [];
  return [{ pointer, reason: 'an address holds no user and no password: give them in their own fields, where they are kept sealed' }];
}

/** Sends steps as they come where that is asked for (server-sent events), else all at the end. */
async function tell(
  steps: AsyncIterable<ProbeStepAnswer>,
  request: Request,
  response: Response,
): Promise<{ ok: boolean; steps: ProbeStepAnswer[] } | undefined> {
  const all: ProbeStepAnswer[] = [];
  const live = request.get('accept')?.includes('text/event-stream') === true;
  if (live) response.set({ 'content-type': 'text/event-stream', 'cache-control': 'no-store, no-transform' }).flushHeaders();
  for await (const step of steps) {
    all.push(step);
    if (live) response.write(`event: step\ndata: ${JSON.stringify(step)}\n\n`);
  }
  const result = { ok: all.every((s) => s.outcome !== 'failed'), steps: all };
  if (!live) return result;
  response.end(`event: done\ndata: ${JSON.stringify(result)}\n\n`);
  return undefined;
}

const unchecked = { healthState: 'unknown' as const, healthDetail: 'it was changed, and is being checked', healthAt: null };

/** Zones that the settings name must be known: a misspelt one would be read as UTC. */
function checkZones(app: App, settings: unknown): void {
  const { zone, descriptor } = settings as { zone?: string; descriptor?: { zone?: string; collections?: Record<string, { zone?: string }> } };
  const named: [string, string | undefined][] = [
    ['/settings/zone', zone],
    ['/settings/descriptor/zone', descriptor?.zone],
    ...Object.entries(descriptor?.collections ?? {}).map(([name, c]): [string, string | undefined] => [
      `/settings/descriptor/collections/${name}/zone`,
      c.zone,
    ]),
  ];
  const problems = named.flatMap(([pointer, name]) =>
    name === undefined || app.zones.find(name) !== undefined
      ? []
      : [{ pointer, reason: `the zone "${name}" is not known; give an IANA name such as Europe/London` }],
  );
  if (problems.length > 0) throw new HttpProblem(422, 'The settings do not fit', problems.map((p) => p.reason).join('; '), problems);
}

/** Outside systems: connecting and checking them. */
export const systemRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/kinds',
      summary: 'The kinds of systems that can be connected, with their settings',
      may: 'read',
      answer: page(kindShape),
    },
    async () => ({
      items: Object.entries(kinds).map(([name, kind]) => ({
        kind: name,
        label: kind.label,
        hint: kind.hint,
        settings: settingsOf(kind.settings),
        secrets: settingsOf(kind.secrets),
      })),
      next: null,
    }),
  ),
  route({ method: 'get', path: '/systems', summary: 'All systems', may: 'read', answer: page(systemShape) }, async () => ({
    items: await Promise.all((await app.db.select().from(systems).orderBy(systems.name)).map((row) => systemAnswer(app, row))),
    next: null,
  })),
  route(
    {
      method: 'post',
      path: '/systems',
      summary: 'Connect a system',
      may: 'administer',
      entry: (body) => body.slug,
      body: systemRequestShape,
      answer: systemShape,
    },
    async ({ body }) => {
      const parts = checkedParts(kindNamed(body.kind), body.settings, body.secrets);
      checkZones(app, parts.settings);
      const [row] = await app.db
        .insert(systems)
        .values({ slug: body.slug, name: body.name, kind: body.kind, settings: parts.settings, secrets: app.vault.seal(parts.secrets) })
        .onConflictDoNothing()
        .returning();
      if (row === undefined) throw new HttpProblem(409, 'The name is taken', `there is a system "${body.slug}" already; choose another short name`);
      await app.announcer.announce(['systems']);
      if (row.kind === 'mail') await sendUnsent(app.db);
      return systemAnswer(app, row);
    },
  ),
  route(
    {
      method: 'post',
      path: '/systems/check',
      summary: 'Check a system before it is connected; nothing is kept',
      may: 'administer',
      body: candidateShape,
      answer: checkShape,
      status: 200,
    },
    async ({ body, request, response }) => {
      const parts = checkedParts(kindNamed(body.kind), body.settings, body.secrets);
      checkZones(app, parts.settings);
      const open = app.systems.openCandidate(kindNamed(body.kind), parts.settings, parts.secrets);
      try {
        return await tell(probe(app, parts.settings, open, AbortSignal.timeout(CHECK_TIME)), request, response);
      } finally {
        await open.close();
      }
    },
  ),
  route({ method: 'get', path: '/systems/:system', summary: 'One system', may: 'read', answer: systemShape }, async ({ params }) =>
    systemAnswer(app, await findSystem(app, params.system)),
  ),
  route(
    {
      method: 'patch',
      path: '/systems/:system',
      summary: 'Change the name, settings or secrets of a system; what is not given stays, and what is given as null is taken away',
      may: 'administer',
      body: systemChangeShape,
      answer: systemShape,
      status: 200,
    },
    async ({ params, body }) => {
      const row = await findSystem(app, params.system);
      checkOutside(row);
      const over = (old: unknown, fresh: object | undefined) =>
        Object.fromEntries(Object.entries({ ...(old as object), ...fresh }).filter(([, value]) => value !== null));
      const parts = checkedParts(kindOf(row), over(row.settings, body.settings), over(app.vault.open(row.secrets), body.secrets));
      checkZones(app, parts.settings);
      // What failed before says nothing of what was changed.
      const renewed = body.secrets !== undefined || body.settings !== undefined;
      const [changed] = await app.db
        .update(systems)
        .set({ name: body.name ?? row.name, settings: parts.settings, secrets: app.vault.seal(parts.secrets), ...(renewed ? unchecked : {}) })
        .where(eq(systems.id, row.id))
        .returning();
      await app.announcer.announce(['systems']);
      // New credentials may be good: its lanes find out by themselves.
      if (renewed) {
        await resumeLanes(app, row.id);
        await wakeLanes(app.db, row.id);
        await addCheckJob(app.db, row.id);
        if (row.kind === 'mail') await sendUnsent(app.db);
      }
      return systemAnswer(app, certain(changed, 'it was there a moment ago'));
    },
  ),
  route({ method: 'delete', path: '/systems/:system', summary: 'Disconnect a system that no lane uses', may: 'administer' }, async ({ params }) => {
    const row = await findSystem(app, params.system);
    checkOutside(row);
    const { lanes: used } = await systemAnswer(app, row);
    if (used.length > 0) throw new HttpProblem(409, 'The system is in use', `the lanes ${used.join(', ')} use "${row.slug}"; remove them first`);
    const shown = await app.db.select({ slug: feeds.slug }).from(feeds).where(eq(feeds.system, row.id));
    if (shown.length > 0)
      throw new HttpProblem(
        409,
        'The system is in use',
        `the feeds ${shown.map((f) => f.slug).join(', ')} show calendars of "${row.slug}"; remove them first`,
      );
    await app.db.delete(systems).where(eq(systems.id, row.id));
    await app.announcer.announce(['systems']);
  }),
  route(
    {
      method: 'post',
      path: '/systems/:system/check',
      summary: 'Check a system step by step; with "Accept: text/event-stream" each step as it comes',
      may: 'operate',
      answer: checkShape,
      status: 200,
    },
    async ({ params, request, response }) => tell(checkSystem(app, await findSystem(app, params.system)), request, response),
  ),
];
