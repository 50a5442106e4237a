import { monitorEventLoopDelay } from 'node:perf_hooks';
import { type SQL, sql } from 'drizzle-orm';
import { collectDefaultMetrics, Gauge, Registry } from 'prom-client';
import type { App } from '../app.ts';
import { isOverdue } from '../jobs/watchdog.ts';

const registry = new Registry();
registry.setContentType('application/openmetrics-text; version=1.0.0; charset=utf-8' as never);
collectDefaultMetrics({ register: registry });

/** How long what was due waited for the event loop, since it was asked last: whatever holds it up holds up everybody. */
const delay = monitorEventLoopDelay({ resolution: 10 });
delay.enable();
new Gauge({
  name: 'monsoon_event_loop_delay_seconds',
  help: 'For how long the event loop stood still in this process since the last look, at most and by quantile',
  labelNames: ['quantile'],
  registers: [registry],
  collect() {
    this.set({ quantile: '0.99' }, delay.percentile(99) / 1e9);
    this.set({ quantile: '1' }, delay.max / 1e9);
    delay.reset();
  },
});

/** Each number with the statement that counts it: rows of its labels, and n. All processes of an installation report the same. */
const measures: { name: string; help: string; labels: string[]; of: SQL }[] = [
  {
    name: 'monsoon_pairs',
    help: 'Pairs by lane and state',
    labels: ['lane', 'state'],
    of: sql`select l.slug as lane, p.state, count(*) as n from pairs p join lanes l on l.id = p.lane group by 1, 2`,
  },
  {
    name: 'monsoon_runs',
    help: 'Runs of the last day by lane and state',
    labels: ['lane', 'state'],
    of: sql`select l.slug as lane, r.state, count(*) as n from runs r join lanes l on l.id = r.lane where r.created_at > now() - interval '1 day' group by 1, 2`,
  },
  {
    name: 'monsoon_operations',
    help: 'Operations of the last day by lane and kind',
    labels: ['lane', 'kind'],
    of: sql`select l.slug as lane, j.kind, count(*) as n from journal j join lanes l on l.id = j.lane where j.at > now() - interval '1 day' group by 1, 2`,
  },
  {
    name: 'monsoon_lane_failures',
    help: 'Failed runs in a row',
    labels: ['lane'],
    of: sql`select slug as lane, failures as n from lanes`,
  },
  {
    name: 'monsoon_items_left',
    help: 'Items without a pair by lane and reason',
    labels: ['lane', 'reason'],
    of: sql`select l.slug as lane, v.reason, count(*) as n from verdicts v join lanes l on l.id = v.lane group by 1, 2`,
  },
  {
    name: 'monsoon_holds',
    help: 'Open holds by lane and question',
    labels: ['lane', 'question'],
    of: sql`select l.slug as lane, h.question, count(*) as n from holds h join lanes l on l.id = h.lane where h.state = 'open' group by 1, 2`,
  },
  {
    name: 'monsoon_lag_seconds',
    help: 'From an edit to its arrival on the other side, in the last hour, by lane and quantile',
    labels: ['lane', 'quantile'],
    of: sql`select lane, q.quantile, (array[found[1], found[2]])[q.i] as n from (
        select l.slug as lane, percentile_cont(array[0.5, 0.95]) within group (order by greatest(0, extract(epoch from j.at - j.changed_at))) as found
        from journal j join lanes l on l.id = j.lane join runs r on r.id = j.run
        where j.changed_at is not null and j.at > now() - interval '1 hour' and r.scope <> 'sweep' and r.cause in ('notice', 'check') and j.kind <> 'adopt' group by 1) f,
      (values (1, '0.5'), (2, '0.95')) as q(i, quantile)`,
  },
  {
    name: 'monsoon_since_last_run_seconds',
    help: 'Since the last run of a lane ended',
    labels: ['lane'],
    of: sql`select slug as lane, extract(epoch from now() - last_run_at) as n from lanes where last_run_at is not null`,
  },
  {
    name: 'monsoon_lane_overdue_seconds',
    help: 'Since when a run of a lane is due that has not started; no lane that runs in time is named',
    labels: ['lane'],
    of: sql`select slug as lane, extract(epoch from now() - next_run_at) as n from lanes where ${isOverdue}`,
  },
  {
    name: 'monsoon_calls',
    help: 'Calls to a system in this calendar month (UTC)',
    labels: ['system'],
    of: sql`select s.slug as system, m.calls as n from call_meters m join systems s on s.id = m.system where m.month = to_char(now() at time zone 'UTC', 'YYYY-MM')`,
  },
  {
    name: 'monsoon_systems_failing',
    help: '1 for a system that is away or refuses its credentials',
    labels: ['system'],
    of: sql`select slug as system, case when health_state = 'failing' or lapsed_at is not null then 1 else 0 end as n from systems`,
  },
  {
    name: 'monsoon_queue_depth',
    help: 'Jobs by what they wait for: due, later, or being worked on',
    labels: ['state'],
    of: sql`select case when locked_at is not null then 'running' when run_at <= now() then 'due' else 'later' end as state, count(*) as n from graphile_worker.jobs group by 1`,
  },
  {
    name: 'monsoon_paused',
    help: '1 while everything is paused',
    labels: [],
    of: sql`select case when paused_at is null then 0 else 1 end as n from installation`,
  },
];
const gauges = measures.map((t) => ({ of: t.of, gauge: new Gauge({ name: t.name, help: t.help, labelNames: t.labels, registers: [registry] }) }));

/** Numbers for the person on call, in the OpenMetrics text form. */
export async function metrics(app: App): Promise<{ type: string; text: string }> {
  const found = await Promise.all(
    gauges.map(async ({ gauge, of }) => ({ gauge, rows: (await app.db.execute<Record<string, string | number>>(of)).rows })),
  );
  for (const { gauge, rows } of found) {
    gauge.reset();
    for (const { n, ...labels } of rows) gauge.set(labels as Record<string, string>, Number(n));
  }
  return { type: registry.contentType, text: await registry.metrics() };
}
