import type { Router } from 'express';
import express from 'express';
import { identify } from '../access/callers.ts';
import type { App } from '../app.ts';
import { sayError } from '../errors.ts';
import { metrics } from './metrics.ts';
import { HttpProblem } from './problem.ts';

/** For whoever watches the processes: alive, ready, and numbers. The first two say nothing that anybody may not know. */
export function healthRouter(app: App): Router {
  const router = express.Router();
  router.get('/healthz', (_request, response) => {
    response.type('text/plain').send('ok\n');
  });
  router.get('/readyz', async (_request, response) => {
    // A write that changes nothing: a database that only reads cannot do the work.
    const trouble = await app.pool.query('update installation set id = id').then(
      () => null,
      (error: unknown) => sayError(error),
    );
    response
      .status(trouble === null ? 200 : 503)
      .type('text/plain')
      .send(trouble === null ? 'ready\n' : `the database is not available: ${trouble}\n`);
  });
  router.get('/metrics', async (request, response) => {
    if ((await identify(app.db, request)) === null) throw new HttpProblem(401, 'Not signed in', 'give a token as a bearer token');
    const { type, text } = await metrics(app);
    response.type(type).send(text);
  });
  return router;
}
