import { pausedShape, pauseRequestShape } from '@monsoon/contract';
import type { App } from '../../app.ts';
import { pausedEverything, pauseEverything, resumeEverything } from '../../jobs/everything.ts';
import { type AnyRoute, route } from '../route.ts';

/** The red switch. */
export const pauseRoutes = (app: App): AnyRoute[] => [
  route({ method: 'get', path: '/pause', summary: 'Is everything paused?', may: 'read', answer: pausedShape }, () => pausedEverything(app.db)),
  route(
    {
      method: 'put',
      path: '/pause',
      summary: 'Pause everything at once, and say why: nothing more is written to any system',
      may: 'operate',
      body: pauseRequestShape,
      answer: pausedShape,
      entry: (body) => body.why,
    },
    async ({ body, caller }) => {
      await pauseEverything(app, caller.email, body.why);
      return pausedEverything(app.db);
    },
  ),
  route({ method: 'delete', path: '/pause', summary: 'Resume everything that was paused at once', may: 'operate' }, () => resumeEverything(app)),
];
