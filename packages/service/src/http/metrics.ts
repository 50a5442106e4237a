import { count, eq, sql } from 'drizzle-orm';
import { collectDefaultMetrics, Gauge, Registry } from 'prom-client';
import type { App } from '../app.ts';
import { lanes, pairs, runs } from '../storage/schema.ts';

const registry = new Registry();
registry.setContentType('application/openmetrics-text; version=1.0.0; charset=utf-8' as never);
collectDefaultMetrics({ register: registry });
const gauge = (name: string, help: string, labelNames: string[]) => new Gauge({ name, help, labelNames, registers: [registry] });
const pairGauge = gauge('monsoon_pairs', 'Pairs by lane and state', ['lane', 'state']);
const runGauge = gauge('monsoon_runs', 'Runs of the last day by lane and state', ['lane', 'state']);
const failureGauge = gauge('monsoon_lane_failures', 'Failed runs in a row', ['lane']);

/** Numbers for whoever is on call, in the OpenMetrics text form. */
export async function metrics(app: App): Promise<{ type: string; text: string }> {
  const [byPair, byRun, all] = await Promise.all([
    app.db
      .select({ lane: lanes.slug, state: pairs.state, n: count() })
      .from(pairs)
      .innerJoin(lanes, eq(lanes.id, pairs.lane))
      .groupBy(lanes.slug, pairs.state),
    app.db
      .select({ lane: lanes.slug, state: runs.state, n: count() })
      .from(runs)
      .innerJoin(lanes, eq(lanes.id, runs.lane))
      .where(sql`${runs.createdAt} > now() - interval '1 day'`)
      .groupBy(lanes.slug, runs.state),
    app.db.select({ lane: lanes.slug, failures: lanes.failures }).from(lanes),
  ]);
  for (const g of [pairGauge, runGauge, failureGauge]) g.reset();
  for (const r of byPair) pairGauge.set({ lane: r.lane, state: r.state }, r.n);
  for (const r of byRun) runGauge.set({ lane: r.lane, state: r.state }, r.n);
  for (const r of all) failureGauge.set({ lane: r.lane }, r.failures);
  return { type: registry.contentType, text: await registry.metrics() };
}
