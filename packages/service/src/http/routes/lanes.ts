import {
  auditShape,
  forecastRequestShape,
  forecastShape,
  type ItemOrder,
  itemDetailShape,
  itemOrders,
  itemShape,
  laneRequestShape,
  laneShape,
  page,
  runRequestShape,
  runShape,
} from '@monsoon/contract';
import { certain, type LaneDefinition, laneSchema, pairStates } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import { and, eq, inArray, isNull, or } from 'drizzle-orm';
import type { Response } from 'express';
import * as yup from 'yup';
import { mayCall, permit } from '../../access/permissions.ts';
import type { App } from '../../app.ts';
import { askRun } from '../../jobs/ask-run.ts';
import { addLaneJob, runTask } from '../../jobs/queue.ts';
import { laneAnswers, operationAnswer, runAnswer } from '../../lanes/answers.ts';
import { auditLane } from '../../lanes/audits.ts';
import { isInCalendar, type LaneRow, openLane } from '../../lanes/context.ts';
import { findItem, itemDetail, listItems } from '../../lanes/items.ts';
import { sameSidesElsewhere } from '../../lanes/remarks.ts';
import { changeLane, checkSides, createLane, resolveLane } from '../../lanes/save.ts';
import { forecast } from '../../run/forecast.ts';
import { noRun, runStore } from '../../storage/run-store.ts';
import { formerLanes, lanes, pairs } from '../../storage/schema.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

const FORECAST_TIME = 300_000;

export async function findLane(app: App, slug: string): Promise<LaneRow> {
  const [row] = await app.db.select().from(lanes).where(eq(lanes.slug, slug));
  if (row !== undefined) return row;
  const all = await app.db.select({ slug: lanes.slug }).from(lanes);
  throw notFound(
    'lane',
    slug,
    all.map((l) => l.slug),
  );
}

async function one(app: App, lane: LaneRow, response: Response) {
  response.set('etag', `"${lane.version}"`);
  return (await laneAnswers(app, [lane]))[0];
}

/** Most records whose being there is checked before a run of them is entered. */
const MOST_CHECKED = 20;

/** Records that are named must be there, or have been: a run of nothing would say that all is well. */
async function checkRecords(app: App, lane: LaneRow, ids: string[]): Promise<void> {
  const known = new Set(
    (
      await app.db
        .select({ id: pairs.recordId })
        .from(pairs)
        .where(and(eq(pairs.lane, lane.id), inArray(pairs.recordId, ids.length === 0 ? [''] : ids)))
    ).map((p) => p.id),
  );
  const unknown = ids.map((id, at) => ({ id, at })).filter(({ id }) => !known.has(id));
  if (unknown.length === 0 || unknown.length > MOST_CHECKED) return;
  const problems: { pointer: string; reason: string }[] = [];
  const { collection } = lane.definition.records;
  try {
    const { sides, context } = await openLane(app, lane);
    for (const { id, at } of unknown)
      if ((await sides.records.read(collection, id, AbortSignal.timeout(30_000))) === null)
        problems.push({
          pointer: `/records/${at}`,
          reason: `there is no record "${id}" in ${context.collection.label}; give its id, as monsoon items ${lane.slug} lists it`,
        });
  } catch (error) {
    // What is away cannot be asked; the run says so.
    if (!(error instanceof OutsideError)) throw error;
  }
  if (problems.length > 0) throw new HttpProblem(422, 'No such record', problems.map((p) => p.reason).join('; '), problems);
}

const setState = async (app: App, slug: string, state: 'running' | 'paused', response: Response) => {
  const lane = await findLane(app, slug);
  const [changed] = await app.db
    .update(lanes)
    .set({ state, ...(state === 'paused' ? { nextRunAt: null } : { failures: 0 }) })
    .where(eq(lanes.id, lane.id))
    .returning();
  if (state === 'running') await app.db.delete(formerLanes).where(eq(formerLanes.id, lane.id));
  if (state === 'running') await addLaneJob(app.db, { lane: lane.id, cause: 'check', task: runTask() });
  await app.announcer.announce(['lanes']);
  return one(app, certain(changed, 'it was there a moment ago'), response);
};

/** Lanes: arranging, forecasting, running, and their items. */
export const laneRoutes = (app: App): AnyRoute[] => [
  route({ method: 'get', path: '/lanes', summary: 'All lanes', may: 'read', answer: page(laneShape) }, async () => ({
    items: await laneAnswers(app, await app.db.select().from(lanes).orderBy(lanes.slug)),
    next: null,
  })),
  route(
    {
      method: 'post',
      path: '/lanes',
      summary: 'Make a lane and start it',
      may: 'administer',
      entry: (body) => body.slug,
      body: laneRequestShape,
      answer: laneShape,
    },
    async ({ body, caller, request, response }) => {
      const lane = await createLane(
        app,
        body.slug,
        (request.body as { definition: unknown }).definition,
        body.start,
        caller.email,
        AbortSignal.timeout(60_000),
      );
      await app.announcer.announce(['lanes']);
      return one(app, lane, response);
    },
  ),
  route(
    { method: 'get', path: '/lanes/:lane', summary: 'One lane; its ETag is its version', may: 'read', answer: laneShape },
    async ({ params, response }) => one(app, await findLane(app, params.lane), response),
  ),
  route(
    {
      method: 'put',
      path: '/lanes/:lane',
      summary: 'Save a new version of a lane; If-Match names the version that was edited',
      may: 'arrange',
      body: laneSchema,
      answer: laneShape,
    },
    async ({ params, request, caller, response }) => {
      const lane = await findLane(app, params.lane);
      const match = /^"(\d+)"$/.exec(request.get('if-match') ?? '')?.[1];
      if (match === undefined)
        throw new HttpProblem(428, 'Say which version you edited', `give If-Match with the version that was read, for example "${lane.version}"`);
      const saved = await changeLane(app, lane, request.body, Number(match), caller.email, AbortSignal.timeout(60_000));
      await app.announcer.announce(['lanes']);
      return one(app, saved, response);
    },
  ),
  route(
    { method: 'delete', path: '/lanes/:lane', summary: 'Remove a lane; what it made on the calendar stays', may: 'arrange' },
    async ({ params }) => {
      const lane = await findLane(app, params.lane);
      await app.db.transaction(async (tx) => {
        await tx.insert(formerLanes).values({ id: lane.id, slug: lane.slug }).onConflictDoNothing();
        await tx.delete(lanes).where(eq(lanes.id, lane.id));
      });
      await app.announcer.announce(['lanes']);
    },
  ),
  route(
    { method: 'post', path: '/lanes/:lane/pause', summary: 'Pause a lane', may: 'operate', answer: laneShape, status: 200 },
    async ({ params, response }) => setState(app, params.lane, 'paused', response),
  ),
  route(
    { method: 'post', path: '/lanes/:lane/resume', summary: 'Resume a paused lane', may: 'operate', answer: laneShape, status: 200 },
    async ({ params, response }) => setState(app, params.lane, 'running', response),
  ),
  route(
    {
      method: 'post',
      path: '/lanes/:lane/forecast',
      summary: 'What a run would do now, without doing it; with a definition, what it would do if the lane were so',
      expensive: true,
      may: 'read',
      body: forecastRequestShape,
      answer: forecastShape,
      status: 200,
    },
    async ({ params, request, caller }) => {
      const lane = await findLane(app, params.lane);
      const { definition } = (request.body ?? {}) as { definition?: unknown };
      let draft: LaneDefinition | undefined;
      if (definition !== undefined) {
        await permit(app.db, caller, 'inspect', null);
        const resolved = await resolveLane(app, definition, AbortSignal.timeout(60_000));
        checkSides(lane, resolved);
        draft = resolved.definition;
      }
      const { context, sides } = await openLane(app, lane, draft);
      const store = runStore(app.db, lane.id, lane.version, noRun);
      const found = await forecast({ context, sides, store, signal: AbortSignal.timeout(FORECAST_TIME) }, 'sweep');
      return {
        operations: found.operations.map(operationAnswer),
        verdicts: found.verdicts.flatMap((v) =>
          v.verdict === null
            ? []
            : [
                {
                  recordId: v.recordId,
                  href: v.href,
                  moment: v.moment,
                  label: v.label,
                  reason: v.verdict.reason,
                  condition: v.verdict.condition,
                  value: v.verdict.value,
                },
              ],
        ),
        unchanged: found.unchanged,
        counts: found.counts,
        guard: found.guarded.reasons,
        warnings: await sameSidesElsewhere(app, lane),
        scope: 'sweep',
      };
    },
  ),
  route(
    {
      method: 'post',
      path: '/lanes/:lane/audit',
      summary: 'Read both sides whole and compare them',
      expensive: true,
      may: 'read',
      answer: auditShape,
      status: 200,
    },
    async ({ params }) => {
      const lane = await findLane(app, params.lane);
      return auditLane(app, lane, 'asked', AbortSignal.timeout(FORECAST_TIME));
    },
  ),
  route(
    {
      method: 'post',
      path: '/lanes/:lane/runs',
      summary: 'Run a lane now: what changed, everything (sweep), or some records alone',
      may: 'operate',
      body: runRequestShape,
      answer: runShape,
      status: 202,
    },
    async ({ params, body }) => {
      const lane = await findLane(app, params.lane);
      const elsewhere = (body.hrefs ?? []).flatMap((href, at) => (isInCalendar(lane, href) ? [] : [{ href, at }]));
      if (elsewhere.length > 0) {
        const reason = (href: string) =>
          `"${href}" is not in the calendar of this lane; addresses there begin with ${lane.definition.calendar.calendar}`;
        const problems = elsewhere.map(({ href, at }) => ({ pointer: `/hrefs/${at}`, reason: reason(href) }));
        throw new HttpProblem(422, 'An event of another place', problems.map((p) => p.reason).join('; '), problems);
      }
      await checkRecords(app, lane, body.records ?? []);
      const items = body.records !== undefined || body.hrefs !== undefined;
      const scope = items ? { records: body.records ?? [], hrefs: body.hrefs ?? [] } : body.sweep ? ('sweep' as const) : ('auto' as const);
      return runAnswer(await askRun(app, lane, 'asked', runTask(scope)), lane);
    },
  ),
  route(
    {
      method: 'post',
      path: '/lanes/:lane/items/:record/follow',
      summary: 'Follow an item again that the lane no longer follows: a record by its id, an event without one by its address',
      may: 'operate',
      answer: runShape,
      status: 202,
    },
    async ({ params, caller }) => {
      const lane = await findLane(app, params.lane);
      const item = params.record;
      const unlinked = await app.db
        .select()
        .from(pairs)
        .where(
          and(eq(pairs.lane, lane.id), eq(pairs.state, 'unlinked'), or(eq(pairs.recordId, item), and(isNull(pairs.recordId), eq(pairs.href, item)))),
        );
      if (unlinked.length === 0)
        throw new HttpProblem(
          409,
          'Nothing to follow again',
          `"${item}" is not unlinked from ${lane.definition.name}, so there is nothing to follow again; monsoon why ${lane.slug} "${item}" says its state`,
        );
      const alone = unlinked.every((p) => p.recordId === null);
      const scope = alone ? { records: [], hrefs: [item] } : { records: [item], hrefs: unlinked.flatMap((p) => p.href ?? []) };
      return runAnswer(await askRun(app, lane, 'asked', { do: 'run', scope, follow: caller.email }), lane);
    },
  ),
  route(
    {
      method: 'get',
      path: '/lanes/:lane/items',
      summary: 'Items of a lane: pairs and verdicts',
      may: 'read',
      answer: page(itemShape),
      query: yup.object({
        search: yup.string().max(200),
        state: yup.string().oneOf([...pairStates, 'left out', 'failed']),
        order: yup.string<ItemOrder>().oneOf([...itemOrders], '${path}: "${value}" is not an order; orders are ${values}'),
        descending: yup.boolean(),
        cursor: yup.string().max(2000),
        limit: yup.number().integer().min(1).max(500).default(100),
      }),
    },
    async ({ params, query }) => listItems(app, await findLane(app, params.lane), query),
  ),
  route(
    {
      method: 'get',
      path: '/lanes/:lane/items/:record',
      summary: 'Everything about one item',
      may: 'read',
      answer: itemDetailShape,
      query: yup.object({ moment: yup.string().max(200) }),
    },
    async ({ params, query, caller }) => {
      const lane = await findLane(app, params.lane);
      const moment = query.moment ?? certain(lane.definition.moments[0], 'a lane has a moment').name;
      const whole = await mayCall(app.db, caller, 'inspect');
      return itemDetail(app, lane, { item: params.record, moment }, { whole, signal: AbortSignal.timeout(60_000) });
    },
  ),
  route(
    {
      method: 'get',
      path: '/lanes/:lane/why',
      summary: 'Why a record or event is as it is: by id, UID, address or words of its title',
      may: 'read',
      answer: itemDetailShape,
      query: yup.object({ item: yup.string().min(1).max(2000).required() }),
    },
    async ({ params, query, caller }) => {
      const lane = await findLane(app, params.lane);
      const signal = AbortSignal.timeout(60_000);
      const found = await findItem(app, lane, query.item, signal);
      return itemDetail(app, lane, found, { whole: await mayCall(app.db, caller, 'inspect'), signal });
    },
  ),
];
