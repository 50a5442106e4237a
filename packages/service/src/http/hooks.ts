import { eq } from 'drizzle-orm';
import express, { type Router } from 'express';
import type { App } from '../app.ts';
import { systems } from '../storage/schema.ts';
import { noticeLanes } from '../systems/watches.ts';
import { HttpProblem } from './problem.ts';

/**
 * The door for change notices. Signature, and age where the system's way of signing tells it, are checked; what a notice says is not believed:
 * it only makes the lanes of that system look at what changed.
 */
export function hookRouter(app: App): Router {
  const router = express.Router();
  router.post('/:system', express.raw({ type: () => true, limit: '256kb' }), async (request, response) => {
    const refused = new HttpProblem(
      401,
      'The notice is not accepted',
      'its signature or its time does not fit; check the secret that both sides share, and the clock',
    );
    const [system] = await app.db
      .select()
      .from(systems)
      .where(eq(systems.slug, request.params['system'] ?? ''));
    const body = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
    const notice =
      system === undefined ? null : (app.systems.open(system).notice?.(request.headers as Record<string, string | undefined>, body) ?? null);
    if (system === undefined || notice === null) throw refused;
    await noticeLanes(app, system.id, notice.collection, notice.id);
    response.status(204).end();
  });
  return router;
}
