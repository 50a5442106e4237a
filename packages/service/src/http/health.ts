import type { Router } from 'express';
import express from 'express';
import { identify } from '../access/callers.ts';
import type { App } from '../app.ts';
import { metrics } from './metrics.ts';
import { HttpProblem } from './problem.ts';

/** For whoever watches the processes: alive, ready, and numbers. The first two say nothing that anybody may not know. */
export function healthRouter(app: App): Router {
  const router = express.Router();
  router.get('/healthz', (_request, response) => {
    response.type('text/plain').send('ok\n');
  });
  router.get('/readyz', async (_request, response) => {
    const ready = await app.pool.query('select 1 from installation, graphile_worker.jobs limit 1').then(
      () => true,
      () => false,
    );
    response
      .status(ready ? 200 : 503)
      .type('text/plain')
      .send(ready ? 'ready\n' : 'the database is away\n');
  });
  router.get('/metrics', async (request, response) => {
    if ((await identify(app.db, request)) === null) throw new HttpProblem(401, 'Not signed in', 'give a token as a bearer token');
    const { type, text } = await metrics(app);
    response.type(type).send(text);
  });
  return router;
}
