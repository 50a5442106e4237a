import type { ProbeStepAnswer } from '@monsoon/contract';
import type { Collection } from '@monsoon/core';
import { type OpenSystem, OutsideError, probeAddress } from '@monsoon/systems';
import { and, eq, isNotNull, or } from 'drizzle-orm';
import type { App } from '../app.ts';
import { addLaneJob, runTask } from '../jobs/queue.ts';
import { lapseIsOver, notifyOfAllowances, notifyOfLapse } from '../notifications/of-systems.ts';
import type { Database, Transaction } from '../storage/database.ts';
import { lanes, systems } from '../storage/schema.ts';
import type { Drift } from '../storage/tables/systems.ts';
import { WARN_AT } from './meter.ts';
import { limitsOf, type SystemRow } from './registry.ts';

const CHECK_TIME = 120_000;
/** Changes of fields that are remembered. */
const MOST_DRIFT = 50;

/** Everything that can be found out of a system, step by step: its address, and then what it tells of itself. */
export async function* probe(app: App, settings: unknown, open: OpenSystem, signal: AbortSignal): AsyncIterable<ProbeStepAnswer> {
  const { address, authority } = settings as { address: string; authority?: string };
  if (/^(https?|webcals?):/i.test(address))
    for await (const step of probeAddress(address, { allowed: app.config.allowedAddresses }, authority)) {
      yield step;
      if (step.outcome === 'failed') return;
    }
  for (const side of [open.calendars, open.records, open.mail, open.mailbox]) {
    if (side === undefined) continue;
    for await (const step of side.probe(signal)) {
      yield step;
      // What comes after a failed address or failed credentials could only fail again.
      if (step.outcome === 'failed' && (step.name === 'reachable' || step.name === 'credentials')) return;
    }
  }
}

/**
 * Checks a connected system, step by step as it goes, and remembers how it did: its health, its fields and what changed
 * in them. Credentials that are not accepted put the system's lanes to rest; accepted again, they wake them.
 */
export async function* checkSystem(app: App, row: SystemRow): AsyncIterable<ProbeStepAnswer> {
  const open = app.systems.open(row);
  const signal = AbortSignal.timeout(CHECK_TIME);
  const failed: ProbeStepAnswer[] = [];
  let count = 0;
  for await (const step of probe(app, row.settings, open, signal)) {
    count++;
    if (step.outcome === 'failed') failed.push(step);
    yield step;
  }
  const used = await usedCalls(app, row.id);
  const { allowance } = limitsOf(row.settings);
  if (allowance !== undefined)
    yield {
      name: 'allowance',
      outcome: used >= allowance * WARN_AT ? 'warning' : 'ok',
      detail: `${used} of ${allowance} calls of this month are used${used >= allowance * WARN_AT ? '; at the end of it nothing more is asked' : ''}`,
    };
  yield pushStep(app, row, open);
  const refused = failed.find((f) => f.name === 'credentials');
  const there = failed.every((f) => f.name.startsWith('collection'));
  const drift = there ? await compareFields(app, row, open) : [];
  if (drift.length > 0)
    yield {
      name: 'fields',
      outcome: 'warning',
      detail: `changed since the last check: ${drift.map((d) => `${d.collection}.${d.field} ${d.what}`).join('; ')}`,
    };
  const checkedAt = new Date().toISOString();
  await app.db.update(systems).set({ checkedAt }).where(eq(systems.id, row.id));
  await app.systems.report(row.id, failed.length === 0 ? 'well' : 'failing', failed[0]?.detail ?? `${count} checks passed`, null);
  if (refused !== undefined) await suspendForCredentials(app, row, refused.detail);
  else if (failed.length === 0) await resumeLanes(app, row.id);
}

function pushStep(app: App, row: SystemRow, open: OpenSystem): ProbeStepAnswer {
  const signed = (app.vault.open(row.secrets) as { webhook?: string }).webhook !== undefined;
  if (open.watch !== undefined)
    return {
      name: 'push',
      outcome: 'ok',
      detail: open.calendars === undefined ? 'tables with triggers report their changes at once' : 'its calendars are looked at every few seconds',
    };
  if (signed) return { name: 'push', outcome: 'ok', detail: `signed notices may come to /hooks/${row.slug}` };
  return {
    name: 'push',
    outcome: 'ok',
    detail:
      open.notice === undefined
        ? 'none: changes are found by the regular check'
        : 'no webhook secret is given: changes are found by the regular check',
  };
}

export async function usedCalls(app: App, system: string): Promise<number> {
  const { rows } = await app.pool.query<{ calls: number }>(
    `select calls from call_meters where system = $1 and month = to_char(now() at time zone 'UTC', 'YYYY-MM')`,
    [system],
  );
  return rows[0]?.calls ?? 0;
}

/** What appeared, disappeared or changed its type since the fields were last looked at. */
async function compareFields(app: App, row: SystemRow, open: OpenSystem): Promise<Drift[]> {
  if (open.records === undefined) return [];
  let now: Collection[];
  try {
    now = await open.records.describe();
  } catch (error) {
    if (error instanceof OutsideError) return [];
    throw error;
  }
  const found = row.described === null ? [] : differences(row.described, now, new Date().toISOString());
  if (found.length > 0 || row.described === null)
    await app.db
      .update(systems)
      .set({ described: now, drift: [...found, ...row.drift].slice(0, MOST_DRIFT) })
      .where(eq(systems.id, row.id));
  return found;
}

export function differences(before: Collection[], now: Collection[], at: string): Drift[] {
  const found: Drift[] = [];
  for (const old of before) {
    const fresh = now.find((c) => c.name === old.name);
    if (fresh === undefined) {
      found.push({ at, collection: old.name, field: '', what: 'disappeared' });
      continue;
    }
    for (const field of old.fields) {
      const same = fresh.fields.find((f) => f.name === field.name);
      if (same === undefined) found.push({ at, collection: old.name, field: field.name, what: 'disappeared' });
      else if (same.type !== field.type)
        found.push({ at, collection: old.name, field: field.name, what: `is ${same.type} now, and was ${field.type}` });
      else if ((field.readOnly ?? false) !== (same.readOnly ?? false))
        found.push({
          at,
          collection: old.name,
          field: field.name,
          what: same.readOnly === true ? 'cannot be written any more' : 'can be written now',
        });
    }
    for (const field of fresh.fields)
      if (!old.fields.some((f) => f.name === field.name)) found.push({ at, collection: old.name, field: field.name, what: 'appeared' });
  }
  return found;
}

const usedBy = (system: string) => or(eq(lanes.recordsSystem, system), eq(lanes.calendarSystem, system));

/**
 * Its credentials are not accepted: its lanes rest, with one notice at the system instead of an error each time. Where
 * they were renewed while the check was under way, it says nothing of the new ones.
 */
async function suspendForCredentials(app: App, row: SystemRow, reason: string): Promise<void> {
  const found = await app.db.transaction(async (tx) => {
    const [now] = await tx.select().from(systems).where(eq(systems.id, row.id)).for('update');
    if (now === undefined || now.secrets !== row.secrets || now.authorisedAt !== row.authorisedAt) return false;
    await tx
      .update(systems)
      .set({ lapsedAt: now.lapsedAt ?? new Date().toISOString(), lapsedReason: reason })
      .where(eq(systems.id, row.id));
    const trouble = `paused until the credentials of ${row.name} are renewed: ${reason}`;
    await tx.update(lanes).set({ trouble, nextRunAt: null }).where(usedBy(row.id));
    return true;
  });
  if (!found) return;
  app.log.warn({ system: row.slug }, 'the credentials of a system lapsed; its lanes are paused until they are renewed');
  await notifyOfLapse(app, row, reason);
  await app.announcer.announce(['systems', 'lanes']);
}

/** Its credentials are accepted again: its lanes go on at once. */
export async function resumeLanes(app: App, system: string): Promise<void> {
  const [woken] = await app.db.transaction(async (tx) => {
    const [row] = await tx.select().from(systems).where(eq(systems.id, system)).for('update');
    if (row?.lapsedAt == null) return [];
    await tx.update(systems).set({ lapsedAt: null, lapsedReason: null }).where(eq(systems.id, system));
    await lapseIsOver(tx, system);
    await wakeLanes(tx, system);
    return [row];
  });
  if (woken !== undefined) await app.announcer.announce(['systems', 'lanes']);
}

/** Lanes that wait because of the system look at it now, and show no trouble of before. */
export async function wakeLanes(db: Database | Transaction, system: string): Promise<void> {
  const waiting = await db
    .update(lanes)
    .set({ trouble: null, failures: 0 })
    .where(and(usedBy(system), isNotNull(lanes.trouble)))
    .returning();
  for (const lane of waiting) if (lane.state === 'running') await addLaneJob(db, { lane: lane.id, cause: 'check', task: runTask() });
}

/** Checks one system to the end. */
export async function checkOne(app: App, system: string): Promise<void> {
  const [row] = await app.db.select().from(systems).where(eq(systems.id, system));
  if (row === undefined) return;
  for await (const _step of checkSystem(app, row)) {
    // What it finds is remembered as it goes.
  }
}

/** Checks every system that was not checked for a day; one whose credentials lapsed, at each turn. */
export async function checkDue(app: App): Promise<void> {
  await notifyOfAllowances(app);
  const day = new Date(Date.now() - 86_400_000).toISOString();
  for (const row of await app.db.select().from(systems))
    if (row.lapsedAt !== null || row.checkedAt === null || row.checkedAt < day)
      await checkOne(app, row.id).catch((error: Error) => app.log.error({ system: row.slug, error }, 'a check failed inside Monsoon'));
}
