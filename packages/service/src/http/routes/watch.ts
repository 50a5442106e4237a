import { agendaShape, countedShape, countSteps, failureGroupShape, page, pastAuditShape, retryRequestShape, runShape } from '@monsoon/contract';
import { type CountStep, failureReasons } from '@monsoon/core';
import { and, eq, inArray } from 'drizzle-orm';
import * as yup from 'yup';
import type { Caller } from '../../access/callers.ts';
import { permit } from '../../access/permissions.ts';
import type { App } from '../../app.ts';
import { askRun } from '../../jobs/ask-run.ts';
import { runTask } from '../../jobs/queue.ts';
import { agendaAnswer } from '../../lanes/agenda.ts';
import { runAnswer } from '../../lanes/answers.ts';
import { pastAudits } from '../../lanes/audits.ts';
import { type CountAsk, countAnswer, countRows } from '../../lanes/counting.ts';
import { csvOf } from '../../lanes/csv.ts';
import { exportJournal } from '../../lanes/journal-export.ts';
import { oneRow } from '../../storage/one-row.ts';
import { verdicts } from '../../storage/schema.ts';
import { withinLimits } from '../limits.ts';
import { HttpProblem } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';
import { findLane } from './lanes.ts';

const isDay = (text: string) => /^\d{4}-\d\d-\d\d$/.test(text) && new Date(`${text}T00:00:00Z`).toJSON()?.startsWith(text) === true;
const day = () => yup.string().test('day', '${path}: "${value}" is not a day such as 2026-12-01', (v) => v === undefined || isDay(v));
/** Of long groups, the first are shown. */
const MOST_SHOWN = 50;
/** Items that one run looks at again. */
const MOST_RETRIED = 1000;

const place = (v: typeof verdicts.$inferSelect) => ({ recordId: v.recordId === '' ? null : v.recordId, href: v.recordId === '' ? v.href : null });

const countQuery = () =>
  yup.object({
    step: yup
      .string<CountStep>()
      .oneOf([...countSteps], '${path}: "${value}" is not a step; steps are ${values}')
      .default('week'),
    from: day().required('${path}: say the first day'),
    until: day().required('${path}: say the last day'),
    zone: yup.string().max(100).default('UTC'),
    lane: yup.string().max(2000),
    system: yup.string().max(63),
    collection: yup.string().max(200),
    calendar: yup.string().max(2000),
    date: yup.string().max(200),
    by: yup.string().max(200),
  });
const askOf = ({ lane, ...rest }: yup.InferType<ReturnType<typeof countQuery>>): CountAsk => ({ ...rest, lanes: lane?.split(',') });

const agendaQuery = () =>
  yup.object({
    from: day().required('${path}: say the first day'),
    until: day().required('${path}: say the last day'),
    zone: yup.string().max(100).default('UTC'),
    lane: yup.string().max(2000),
    system: yup.string().max(63),
    calendar: yup.string().max(2000),
    forecast: yup.boolean(),
    counts: yup.boolean(),
  });

/** Whole collections and calendars hold more than lanes show. */
async function mayCount(app: App, caller: Caller, { system }: CountAsk): Promise<void> {
  if (system !== undefined) await permit(app.db, caller, 'inspect', null);
}

/** What failed and why, trying it again, past audits, counts, and the journal as a file. */
export const watchRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/agenda',
      summary: 'What stands where in a span of days: both sides of lanes, the events of a calendar, or where a forecast puts everything',
      may: 'read',
      query: agendaQuery(),
      answer: agendaShape,
    },
    async ({ query: { lane, ...query }, caller }) => {
      const work = () => agendaAnswer(app, caller, { ...query, lanes: lane?.split(',') });
      // What lanes stand for is known here; a forecast, or a calendar, is read.
      return query.forecast === true || query.calendar !== undefined ? withinLimits(caller, work) : work();
    },
  ),
  route(
    { method: 'get', path: '/lanes/:lane/failures', summary: 'What failed, by reason', may: 'read', answer: page(failureGroupShape) },
    async ({ params }) => {
      const lane = await findLane(app, params.lane);
      const rows = await app.db
        .select()
        .from(verdicts)
        .where(and(eq(verdicts.lane, lane.id), inArray(verdicts.reason, [...failureReasons])))
        .orderBy(verdicts.label)
        .limit(10_000);
      const groups = new Map<string, typeof rows>();
      for (const v of rows) {
        const key = `${v.reason}\n${v.condition}`;
        const known = groups.get(key);
        if (known === undefined) groups.set(key, [v]);
        else known.push(v);
      }
      const items = [...groups.values()].map((all) => ({
        reason: oneRow(all).reason,
        condition: oneRow(all).condition,
        count: all.length,
        items: all.slice(0, MOST_SHOWN).map((v) => ({ ...place(v), moment: v.moment, label: v.label, value: v.value })),
      }));
      return { items: items.sort((a, b) => b.count - a.count), next: null };
    },
  ),
  route(
    {
      method: 'post',
      path: '/lanes/:lane/retry',
      summary: 'Try again what failed: everything, or what failed for one reason',
      may: 'operate',
      body: retryRequestShape,
      answer: runShape,
      status: 202,
      entry: (body) => body.reason ?? 'everything that failed',
    },
    async ({ params, body }) => {
      const lane = await findLane(app, params.lane);
      const failed = await app.db
        .select()
        .from(verdicts)
        .where(
          and(
            eq(verdicts.lane, lane.id),
            inArray(verdicts.reason, [...failureReasons]),
            body.reason === undefined ? undefined : eq(verdicts.reason, body.reason),
            body.condition === undefined ? undefined : eq(verdicts.condition, body.condition),
          ),
        )
        .limit(MOST_RETRIED);
      if (failed.length === 0)
        throw new HttpProblem(409, 'Nothing failed', 'no item of this lane has failed for that reason; there is nothing to try again');
      const places = failed.map(place);
      const scope = { records: [...new Set(places.flatMap((p) => p.recordId ?? []))], hrefs: places.flatMap((p) => p.href ?? []) };
      return runAnswer(await askRun(app, lane, 'asked', runTask(scope)), lane);
    },
  ),
  route(
    {
      method: 'get',
      path: '/lanes/:lane/audits',
      summary: 'Past audits, newest first: how far both sides were apart',
      may: 'read',
      answer: page(pastAuditShape),
    },
    async ({ params }) => {
      const lane = await findLane(app, params.lane);
      const rows = await pastAudits(app, lane.id, 100);
      return { items: rows.map(({ at, cause, counts, differences, addsUp }) => ({ at, cause, counts, differences, addsUp })), next: null };
    },
  ),
  route(
    {
      method: 'get',
      path: '/counts',
      summary: 'Items by day, week or month: of lanes, of a collection, or of a calendar',
      expensive: true,
      may: 'read',
      answer: countedShape,
      query: countQuery(),
    },
    async ({ query, caller }) => {
      await mayCount(app, caller, askOf(query));
      return countAnswer(app, askOf(query));
    },
  ),
  route(
    {
      method: 'get',
      path: '/counts/export',
      summary: 'The same counts as CSV',
      expensive: true,
      may: 'read',
      query: countQuery(),
      answer: yup.mixed().meta({ schema: {} }),
    },
    async ({ query, response, caller }) => {
      await mayCount(app, caller, askOf(query));
      const text = csvOf(countRows(await countAnswer(app, askOf(query))));
      response.type('text/csv; charset=utf-8').set('content-disposition', 'attachment; filename="counts.csv"').send(text);
    },
  ),
  route(
    {
      method: 'get',
      path: '/journal/export',
      summary: 'The journal as CSV or JSON, oldest first; without values unless they are asked for',
      expensive: true,
      may: 'operate',
      query: yup.object({
        format: yup.string<'csv' | 'json'>().oneOf(['csv', 'json'], '${path}: "${value}" is not a format; formats are ${values}').default('csv'),
        lane: yup.string().max(63),
        run: yup.string().uuid(),
        since: yup.string().datetime('${path}: "${value}" is not a time such as 2026-12-01T00:00:00Z'),
        values: yup.boolean().default(false),
      }),
      answer: yup.mixed().meta({ schema: {} }),
    },
    async ({ query, response }) => {
      const lane = query.lane === undefined ? undefined : (await findLane(app, query.lane)).id;
      await exportJournal(app, { ...query, lane }, response);
    },
  ),
];
