import { hookRequestShape, hookShape, newHookShape, notificationSettingsShape, page } from '@monsoon/contract';
import { certain } from '@monsoon/core';
import { asc, eq } from 'drizzle-orm';
import type { App } from '../../app.ts';
import { newHookSecret, tryPost } from '../../notifications/webhooks.ts';
import { hooks, notifications, people } from '../../storage/schema.ts';
import { HttpProblem, notFound } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

const hookAnswer = ({ id, name, url, occasions, lastAt, lastOutcome, createdAt }: typeof hooks.$inferSelect) => ({
  id,
  name,
  url,
  occasions,
  lastAt,
  lastOutcome,
  createdAt,
});

async function findHook(app: App, id: string) {
  const [row] = /^[0-9a-f-]{36}$/.test(id) ? await app.db.select().from(hooks).where(eq(hooks.id, id)) : [];
  if (row === undefined) throw notFound('webhook', id);
  return row;
}

/** What people and programs are notified of. */
export const notificationRoutes = (app: App): AnyRoute[] => [
  route(
    { method: 'get', path: '/session/notifications', summary: 'What you are notified of', may: 'read', answer: notificationSettingsShape },
    async ({ caller }) => {
      const [me] = await app.db.select({ notifications: people.notifications }).from(people).where(eq(people.id, caller.person));
      return me?.notifications ?? { occasions: [], digest: null };
    },
  ),
  route(
    {
      method: 'put',
      path: '/session/notifications',
      summary: 'Set what you are notified of, and when your daily digest comes',
      may: 'read',
      body: notificationSettingsShape,
      answer: notificationSettingsShape,
      entry: (body) => [...body.occasions, ...(body.digest === null ? [] : [`digest at ${body.digest.hour}`])].join(', '),
    },
    async ({ caller, body }) => {
      if (body.digest !== null && app.zones.find(body.digest.zone) === undefined)
        throw new HttpProblem(422, 'The zone is not known', `"${body.digest.zone}" is not a time zone such as Europe/London`, [
          { pointer: '/digest/zone', reason: `"${body.digest.zone}" is not a time zone such as Europe/London` },
        ]);
      await app.db.update(people).set({ notifications: body }).where(eq(people.id, caller.person));
      return body;
    },
  ),
  route({ method: 'get', path: '/webhooks', summary: 'Webhooks to other programs', may: 'operate', answer: page(hookShape) }, async () => ({
    items: (await app.db.select().from(hooks).orderBy(asc(hooks.name))).map(hookAnswer),
    next: null,
  })),
  route(
    {
      method: 'post',
      path: '/webhooks',
      summary: 'Notify another program with signed webhooks; the secret is shown only once',
      may: 'administer',
      body: hookRequestShape,
      answer: newHookShape,
      entry: (body) => body.name,
    },
    async ({ body }) => {
      if ((await app.db.$count(hooks)) >= 50) throw new HttpProblem(409, 'Too many webhooks', 'there are 50 webhooks; remove some first');
      const secret = newHookSecret();
      const [made] = await app.db
        .insert(hooks)
        .values({ ...body, secret: app.vault.seal(secret) })
        .returning();
      return { ...hookAnswer(certain(made, 'it was made just now')), secret };
    },
  ),
  route(
    { method: 'post', path: '/webhooks/:webhook/test', summary: 'Post a test to a webhook', may: 'administer', answer: hookShape, status: 200 },
    async ({ params }) => {
      const hook = await findHook(app, params.webhook);
      await tryPost(app, hook, `monsoon-test-${Date.now()}`, { type: 'monsoon.test', timestamp: new Date().toISOString(), data: {} });
      return hookAnswer(await findHook(app, hook.id));
    },
  ),
  route({ method: 'delete', path: '/webhooks/:webhook', summary: 'Stop notifying another program', may: 'administer' }, async ({ params }) => {
    const hook = await findHook(app, params.webhook);
    await app.db.delete(hooks).where(eq(hooks.id, hook.id));
    await app.db.delete(notifications).where(eq(notifications.to, `hook:${hook.id}`));
  }),
];
