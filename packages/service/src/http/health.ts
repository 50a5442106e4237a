import type { Router } from 'express';
import express from 'express';
import { identify } from '../access/callers.ts';
import type { App } from '../app.ts';
import { sayError } from '../errors.ts';
import { metrics } from './metrics.ts';
import { HttpProblem } from './problem.ts';

/** How long the answer of `/readyz` stands, in milliseconds: anyone may ask, and each look is a write. */
const READY_FOR = 1000;

/** For monitoring: alive, ready, and metrics. The first two are public. */
export function healthRouter(app: App): Router {
  const router = express.Router();
  // A write that changes nothing: a read-only or full database cannot do the work. Probes in quick succession share one.
  let looked: { at: number; trouble: Promise<string | null> } | null = null;
  const databaseTrouble = (): Promise<string | null> => {
    if (looked === null || Date.now() - looked.at > READY_FOR)
      looked = { at: Date.now(), trouble: app.pool.query('update installation set id = id').then(() => null, sayError) };
    return looked.trouble;
  };
  router.get('/healthz', (_request, response) => {
    response.type('text/plain').send('ok\n');
  });
  router.get('/readyz', async (_request, response) => {
    const trouble = await databaseTrouble();
    response
      .status(trouble === null ? 200 : 503)
      .type('text/plain')
      .send(trouble === null ? 'ready\n' : `the database is not available: ${trouble}\n`);
  });
  router.get('/metrics', async (request, response) => {
    if ((await identify(app, request)) === null) throw new HttpProblem(401, 'Not signed in', 'give a token as a bearer token');
    const { type, text } = await metrics(app);
    response.type(type).send(text);
  });
  return router;
}
