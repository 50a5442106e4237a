import { arrange, compareLanes, starters } from '@monsoon/arranging';
import {
  laneDraftChangeShape,
  laneDraftRequestShape,
  laneDraftShape,
  laneFileCheckShape,
  laneFileRequestShape,
  laneFileShape,
  laneShape,
  page,
  previewRequestShape,
  previewShape,
  sampleShape,
  starterShape,
  suggestRequestShape,
  suggestShape,
  versionShape,
} from '@monsoon/contract';
import { certain, laneSchema } from '@monsoon/core';
import { and, asc, desc, eq } from 'drizzle-orm';
import * as yup from 'yup';
import type { Caller } from '../../access/callers.ts';
import { mayCall, permit } from '../../access/permissions.ts';
import type { App } from '../../app.ts';
import { laneAnswers } from '../../lanes/answers.ts';
import { definitionOf } from '../../lanes/context.ts';
import { checkLaneFile, laneFile, settingsOf } from '../../lanes/file.ts';
import { preview } from '../../lanes/preview.ts';
import { describeFields, describeFresh, pickRecords, sampleRecords, sayFields } from '../../lanes/samples.ts';
import { changeLane, createLane } from '../../lanes/save.ts';
import { drafts, lanes, laneVersions } from '../../storage/schema.ts';
import { findSystem } from '../../systems/find.ts';
import { jsonSchema } from '../openapi.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';
import { findLane } from './lanes.ts';

/** Longest that both sides are read for somebody who waits. */
const LOOK_TIME = 60_000;
const signal = () => AbortSignal.timeout(LOOK_TIME);
/** Drafts that are kept at most: they are made at a click. */
const MOST_DRAFTS = 500;

async function collectionOf(app: App, system: string, name: string) {
  const row = await findSystem(app, system);
  const { records } = app.systems.open(row);
  if (records === undefined) throw new HttpProblem(422, 'No records there', `"${system}" holds no records; choose another system`);
  const collections = await describeFresh(records);
  const collection = collections.find((c) => c.name === name) ?? collections.find((c) => c.label === name);
  if (collection === undefined)
    throw notFound(
      'collection',
      name,
      collections.map((c) => c.name),
    );
  return { records, collection };
}

type DraftRow = typeof drafts.$inferSelect;
async function draftAnswer(app: App, row: DraftRow) {
  const [lane] = row.lane === null ? [] : await app.db.select({ slug: lanes.slug }).from(lanes).where(eq(lanes.id, row.lane));
  const { id, slug, laneVersion, definition, version, editedBy, editedAt } = row;
  const name = definition['name'];
  return { id, slug, lane: lane?.slug ?? null, laneVersion, name: typeof name === 'string' ? name : '', definition, version, editedBy, editedAt };
}

/** A draft belongs to its maker and to those who may change its lane. Others get a 404. */
async function mayEdit(app: App, caller: Caller, row: DraftRow): Promise<boolean> {
  if (row.lane === null) return row.madeBy === caller.email || mayCall(app.db, caller, 'administer');
  const [lane] = await app.db.select({ slug: lanes.slug }).from(lanes).where(eq(lanes.id, row.lane));
  return mayCall(app.db, caller, caller.scope === 'read' ? 'read' : 'arrange', lane?.slug ?? null);
}

async function findDraft(app: App, id: string, caller: Caller): Promise<DraftRow> {
  const [row] = /^[0-9a-f-]{36}$/.test(id) ? await app.db.select().from(drafts).where(eq(drafts.id, id)) : [];
  if (row === undefined || !(await mayEdit(app, caller, row))) throw notFound('draft', id);
  return row;
}

const draftRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/drafts',
      summary: 'Lanes that are being arranged, by you or in lanes you arrange',
      may: 'read',
      answer: page(laneDraftShape),
    },
    async ({ caller }) => {
      const rows = await app.db.select().from(drafts).orderBy(desc(drafts.editedAt));
      const theirs = await Promise.all(rows.map((row) => mayEdit(app, caller, row)));
      return { items: await Promise.all(rows.filter((_, i) => theirs[i]).map((r) => draftAnswer(app, r))), next: null };
    },
  ),
  route(
    {
      method: 'post',
      path: '/drafts',
      summary: 'Begin to arrange a lane, or to change one; a lane that is being changed already gives its draft',
      may: 'operate',
      body: laneDraftRequestShape,
      answer: laneDraftShape,
    },
    async ({ body, caller }) => {
      const lane = body.lane === undefined ? null : await findLane(app, body.lane);
      if (lane !== null) {
        const [known] = await app.db.select().from(drafts).where(eq(drafts.lane, lane.id));
        if (known !== undefined) {
          await permit(app.db, caller, 'arrange', lane.slug);
          return draftAnswer(app, known);
        }
      }
      if ((await app.db.$count(drafts)) >= MOST_DRAFTS)
        throw new HttpProblem(409, 'Too many drafts', `there are ${MOST_DRAFTS} drafts; throw some away first`);
      const [made] = await app.db
        .insert(drafts)
        .values({
          lane: lane?.id ?? null,
          laneVersion: lane?.version ?? null,
          slug: lane?.slug ?? body.slug,
          definition: body.definition,
          madeBy: caller.email,
          editedBy: caller.email,
        })
        .returning();
      await app.announcer.announce(['drafts']);
      return draftAnswer(app, certain(made, 'it was made just now'));
    },
  ),
  route({ method: 'get', path: '/drafts/:draft', summary: 'One draft', may: 'read', answer: laneDraftShape }, async ({ params, caller }) =>
    draftAnswer(app, await findDraft(app, params.draft, caller)),
  ),
  route(
    {
      method: 'put',
      path: '/drafts/:draft',
      summary: 'Save a draft; version names the saving that was edited',
      may: 'operate',
      entry: null,
      body: laneDraftChangeShape,
      answer: laneDraftShape,
    },
    async ({ params, body, caller }) => {
      const row = await findDraft(app, params.draft, caller);
      const [saved] = await app.db
        .update(drafts)
        .set({
          definition: body.definition,
          ...(row.lane === null && body.slug !== undefined ? { slug: body.slug } : {}),
          version: body.version + 1,
          editedBy: caller.email,
          editedAt: new Date().toISOString(),
        })
        .where(and(eq(drafts.id, row.id), eq(drafts.version, body.version)))
        .returning();
      if (saved === undefined)
        throw new HttpProblem(
          412,
          'The draft was changed in the meantime',
          `${row.editedBy} saved it since you read it; read it again and repeat your change`,
        );
      return draftAnswer(app, saved);
    },
  ),
  route({ method: 'delete', path: '/drafts/:draft', summary: 'Throw a draft away', may: 'operate' }, async ({ params, caller }) => {
    const row = await findDraft(app, params.draft, caller);
    await app.db.delete(drafts).where(eq(drafts.id, row.id));
    await app.announcer.announce(['drafts']);
  }),
];

const fileRoutes = (app: App): AnyRoute[] => [
  route(
    { method: 'get', path: '/schemas/lane', summary: 'A JSON Schema of lane files, for editors', may: 'read', answer: laneFileShape.pick([]) },
    async ({ response }) => {
      response.type('application/schema+json').json({
        $schema: 'https://json-schema.org/draft/2020-12/schema',
        title: 'Monsoon lane file',
        ...jsonSchema(laneSchema.describe({}), 'editor'),
      });
    },
  ),
  route(
    {
      method: 'post',
      path: '/lane-files/check',
      summary: 'Check a lane file: findings with line and column, what it does, and what it would change',
      expensive: true,
      may: 'inspect',
      body: laneFileRequestShape,
      answer: laneFileCheckShape,
      status: 200,
    },
    async ({ body }) => checkLaneFile(app, body.slug, body.text, signal()),
  ),
  route(
    {
      method: 'post',
      path: '/lane-files',
      summary: 'Make a lane from a lane file, or save it as the next version; its text is kept with its comments',
      may: 'arrange',
      laneOf: (body) => body.slug,
      entry: (body) => body.slug,
      body: laneFileRequestShape,
      answer: laneShape,
      status: 200,
    },
    async ({ body, caller }) => {
      const { settings, located } = await settingsOf(body.text);
      const [known] = await app.db.select().from(lanes).where(eq(lanes.slug, body.slug));
      if (known === undefined && (body.version ?? 0) > 0) throw notFound('lane', body.slug);
      const work =
        known === undefined
          ? createLane(app, body.slug, settings, body.start, caller.email, signal(), body.text)
          : changeLane(app, known, settings, body.version ?? known.version, caller.email, signal(), body.text);
      const saved = await work.catch((error: unknown) => {
        throw located(error);
      });
      await app.announcer.announce(['lanes']);
      return (await laneAnswers(app, [saved]))[0];
    },
  ),
  route(
    {
      method: 'get',
      path: '/lanes/:lane/file',
      summary: 'The lane file of a lane, with the comments it was written with',
      may: 'read',
      answer: laneFileShape,
      query: yup.object({ version: yup.number().integer().min(1) }),
    },
    async ({ params, query }) => {
      const lane = await findLane(app, params.lane);
      const version = query.version ?? lane.version;
      return { slug: lane.slug, version, text: await laneFile(app, lane, version) };
    },
  ),
  route(
    {
      method: 'get',
      path: '/lanes/:lane/versions',
      summary: 'The versions of a lane, newest first, with what each changed',
      may: 'read',
      answer: page(versionShape),
    },
    async ({ params }) => {
      const lane = await findLane(app, params.lane);
      const rows = await app.db.select().from(laneVersions).where(eq(laneVersions.lane, lane.id)).orderBy(asc(laneVersions.version)).limit(1000);
      const items = rows.map(({ version, madeBy, madeAt, definition }, i) => {
        const before = rows[i - 1];
        return { version, madeBy, madeAt, changes: before === undefined ? [] : compareLanes(definitionOf(before), definitionOf({ definition })) };
      });
      return { items: items.reverse(), next: null };
    },
  ),
];

/** Arranging lanes: samples, suggestions, previews, drafts, lane files and versions. */
export const arrangeRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/systems/:system/collections/:collection/sample',
      summary: 'What the fields of a collection hold, and records worth looking at',
      expensive: true,
      may: 'inspect',
      answer: sampleShape,
    },
    async ({ params }) => {
      const { records, collection } = await collectionOf(app, params.system, params.collection);
      const { items, complete } = await sampleRecords(records, collection.name, signal());
      return {
        read: items.length,
        complete,
        fields: describeFields(collection, items),
        items: pickRecords(collection, items).map(({ record, about }) => ({ id: record.id, about, fields: sayFields(record) })),
      };
    },
  ),
  route({ method: 'get', path: '/starters', summary: 'Prepared lanes for common needs', may: 'read', answer: page(starterShape) }, async () => ({
    items: starters,
    next: null,
  })),
  route(
    {
      method: 'post',
      path: '/lanes/suggest',
      summary: 'A lane for two sides, as the fields and their values suggest it, with the reasons',
      expensive: true,
      may: 'inspect',
      body: suggestRequestShape,
      answer: suggestShape,
      status: 200,
    },
    async ({ body }) => {
      const { records, collection } = await collectionOf(app, body.records.system, body.records.collection);
      const { items } = await sampleRecords(records, collection.name, signal());
      return arrange(collection, items, { ...body, records: { ...body.records, collection: collection.name } });
    },
  ),
  route(
    {
      method: 'post',
      path: '/lanes/preview',
      summary: 'What a lane that is being arranged would do with what is there now: findings, counts and samples',
      expensive: true,
      may: 'inspect',
      body: previewRequestShape,
      answer: previewShape,
      status: 200,
    },
    async ({ body }) => preview(app, body, signal()),
  ),
  ...draftRoutes(app),
  ...fileRoutes(app),
];
