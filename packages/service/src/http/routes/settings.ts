import { readSettings, resealedShape, settingsShape } from '@monsoon/contract';
import { eq } from 'drizzle-orm';
import { ValidationError } from 'yup';
import type { App } from '../../app.ts';
import { settingsOf } from '../../jobs/tidy.ts';
import { resealAll } from '../../storage/reseal.ts';
import { installation } from '../../storage/schema.ts';
import { invalid } from '../problem.ts';
import { type AnyRoute, route } from '../route.ts';

/** What is kept how long, and the sealing of secrets. */
export const settingsRoutes = (app: App): AnyRoute[] => [
  route({ method: 'get', path: '/settings', summary: 'What is kept how long', may: 'read', answer: settingsShape }, () => settingsOf(app)),
  route(
    { method: 'put', path: '/settings', summary: 'Change what is kept how long', may: 'administer', answer: settingsShape },
    async ({ request }) => {
      let settings: ReturnType<typeof readSettings>;
      try {
        settings = readSettings(request.body);
      } catch (error) {
        throw error instanceof ValidationError ? invalid(error, 'settings') : error;
      }
      await app.db.update(installation).set({ settings }).where(eq(installation.id, 1));
      return settings;
    },
  ),
  route(
    {
      method: 'post',
      path: '/settings/reseal',
      summary: 'Seal every stored secret with the first key, so that the others can go',
      may: 'administer',
      answer: resealedShape,
      status: 200,
    },
    async () => ({ resealed: await resealAll(app) }),
  ),
];
