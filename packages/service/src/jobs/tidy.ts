import { readSettings, type Settings } from '@monsoon/contract';
import { type SQL, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { dropForgotten } from '../feeds/document.ts';
import { forgetDeletions } from '../hosted/objects.ts';
import { installation } from '../storage/schema.ts';

/** Rows taken out by one statement: a long one would hold up those who write. */
const ROWS = 5000;

export async function settingsOf(app: Pick<App, 'db'>): Promise<Settings> {
  const [row] = await app.db.select({ settings: installation.settings }).from(installation);
  return readSettings(row?.settings ?? {});
}

/** Takes out what is older than the settings say. The last run of each lane stays, and so does whatever still waits for somebody. */
export async function tidy(app: App): Promise<void> {
  const { keep } = await settingsOf(app);
  const older = (column: string, days: number): SQL => sql`${sql.raw(column)} < now() - make_interval(days => ${days}::int)`;
  const idle = sql`(select coalesce(sum(value::int), 0) from jsonb_each_text(r.counts) where key not in ('unchanged', 'leftOut')) = 0`;
  const spare = sql`r.state in ('done', 'failed') and exists (select from runs l where l.lane = r.lane and l.created_at > r.created_at)`;
  const removed = {
    idleRuns: await inParts(
      app,
      sql`delete from runs where id in (select id from runs r where ${older('r.created_at', keep.idleRuns)} and r.state = 'done' and ${idle} and ${spare} limit ${ROWS})`,
    ),
    runs: await inParts(
      app,
      sql`delete from runs where id in (select id from runs r where ${older('r.created_at', keep.runs)} and ${spare} limit ${ROWS})`,
    ),
    journal: await inParts(app, sql`delete from journal where id in (select id from journal where ${older('at', keep.journal)} limit ${ROWS})`),
    holds: await inParts(
      app,
      sql`delete from holds where id in (select id from holds where state in ('done', 'void') and ${older('created_at', keep.journal)} limit ${ROWS})`,
    ),
    audits: await inParts(app, sql`delete from audits where id in (select id from audits where ${older('at', keep.audits)} limit ${ROWS})`),
    notifications: await inParts(
      app,
      sql`delete from notifications where id in (select id from notifications where over_at is not null and ${older('over_at', keep.runs)} limit ${ROWS})`,
    ),
    answers: await inParts(
      app,
      sql`delete from idempotency where key in (select key from idempotency where ${older('created_at', 1)} limit ${ROWS})`,
    ),
    attempts: await inParts(
      app,
      sql`delete from sign_in_failures where (email, source) in (select email, source from sign_in_failures where ${older('at', 1)} limit ${ROWS})`,
    ),
    activity: await inParts(app, sql`delete from activity where id in (select id from activity where ${older('at', keep.activity)} limit ${ROWS})`),
  };
  await tidyCalendars(app);
  app.log.info({ removed }, 'what was kept long enough is gone');
}

/** Days after which calendar programs have to read a calendar whole, because its deletions are forgotten. */
const KNOWN_DELETIONS = 60;
/** Days for which it is known how many fetched a feed. */
const KNOWN_ASKERS = 40;

async function tidyCalendars(app: App): Promise<void> {
  await forgetDeletions(app.pool, KNOWN_DELETIONS);
  await app.pool.query('delete from feed_askers where day < current_date - $1::int', [KNOWN_ASKERS]);
  await dropForgotten(app);
}

async function inParts(app: App, statement: SQL): Promise<number> {
  for (let all = 0; ; ) {
    const gone = await app.db.transaction(async (tx) => {
      // The activity log gives up rows for this alone.
      await tx.execute(sql`set local monsoon.retention = 'on'`);
      return (await tx.execute(statement)).rowCount ?? 0;
    });
    all += gone;
    if (gone < ROWS) return all;
  }
}
