import { and, eq } from 'drizzle-orm';
import express, { type Router } from 'express';
import { Webhook } from 'standardwebhooks';
import type { App } from '../app.ts';
import { addLaneJob } from '../jobs/queue.ts';
import { lanes, systems } from '../storage/schema.ts';
import { HttpProblem } from './problem.ts';

/**
 * The door for change notices (Standard Webhooks). Signature and age are checked; what a notice says is not believed:
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
    const [system] = await app.db.select().from(systems).where(eq(systems.slug, request.params['system']!));
    const secret = system === undefined ? undefined : (app.vault.open(system.secrets) as { webhook?: string }).webhook;
    if (system === undefined || secret === undefined) throw refused;
    try {
      const body = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
      new Webhook(secret).verify(body, request.headers as Record<string, string>);
    } catch {
      throw refused;
    }
    const concerned = await app.db
      .select()
      .from(lanes)
      .where(and(eq(lanes.recordsSystem, system.id), eq(lanes.state, 'running')));
    for (const lane of concerned) {
      // While a side is away, the growing pauses set the pace; the retry finds this change too.
      if (lane.failures === 0) await addLaneJob(app.db, { lane: lane.id, cause: 'notice', scope: 'records' });
    }
    response.status(204).end();
  });
  return router;
}
