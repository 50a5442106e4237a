import { certain } from '@monsoon/core';
import { and, count, eq, inArray } from 'drizzle-orm';
import type { LaneRow } from '../lanes/context.ts';
import type { Executed } from '../run/execute.ts';
import type { Transaction } from '../storage/database.ts';
import { holds, systems } from '../storage/schema.ts';
import { beginCause, endCauses } from './causes.ts';

/** Failed runs in a row after which a lane counts as stopped: one that stumbles goes on by itself within seconds. */
const STOPPED_AT = 3;

/** Notifies of how a run ended: it asks something, the guard held it, or the lane has stopped; ends what is over. */
export async function notifyOfRun(tx: Transaction, lane: LaneRow, run: string, result: Executed, failures: number): Promise<void> {
  const { name, notify } = lane.definition;
  await endCauses(tx, [`lane ${lane.id} overdue`]);
  if (result.state === 'failed') return notifyOfFailure(tx, lane, result.reason ?? '', failures);
  if (result.state === 'held') {
    await endCauses(tx, [`lane ${lane.id} stopped`]);
    return beginCause(
      tx,
      {
        cause: `lane ${lane.id} held`,
        occasion: 'needs a person',
        subject: `${name}: a run waits for you`,
        text: `The guard held a run of "${name}": ${result.reason ?? ''}.`,
        path: `/runs/${run}`,
      },
      notify,
    );
  }
  const [open] = await tx
    .select({ n: count() })
    .from(holds)
    .where(and(eq(holds.lane, lane.id), eq(holds.state, 'open')));
  const { n } = certain(open, 'a count gives a row');
  const asks = n > 0;
  const over = [`lane ${lane.id} stopped`, `lane ${lane.id} held`, ...[lane.recordsSystem, lane.calendarSystem].map((s) => `system ${s} away`)];
  await endCauses(tx, asks ? over : [...over, `lane ${lane.id} asks`]);
  if (!asks) return;
  const questions = n === 1 ? '1 question waits' : `${n} questions wait`;
  return beginCause(
    tx,
    {
      cause: `lane ${lane.id} asks`,
      occasion: 'needs a person',
      subject: `${name}: ${questions} for you`,
      text: `In the lane "${name}", ${questions} for a person. Until it is answered, both sides stay as they are.`,
      path: '/holds',
    },
    notify,
  );
}

/** A system that is away stops many lanes: one notification, for the system. */
async function notifyOfFailure(tx: Transaction, lane: LaneRow, reason: string, failures: number): Promise<void> {
  if (failures < STOPPED_AT) return;
  const sides = await tx
    .select()
    .from(systems)
    .where(inArray(systems.id, [lane.recordsSystem, lane.calendarSystem]));
  // Credentials that are no longer accepted have a notification of their own.
  if (sides.some((s) => s.lapsedAt !== null)) return;
  const away = sides.find((s) => s.healthState === 'failing');
  const again = 'Monsoon keeps retrying. You will be notified again only after a recovery and a new failure.';
  if (away !== undefined)
    return beginCause(
      tx,
      {
        cause: `system ${away.id} away`,
        occasion: 'lane stopped',
        subject: `${away.name}: lanes have stopped`,
        text: `${away.name} does not do its part: ${reason}. Its lanes wait, "${lane.definition.name}" among them. ${again}`,
        path: `/systems/${away.slug}`,
      },
      lane.definition.notify,
    );
  return beginCause(
    tx,
    {
      cause: `lane ${lane.id} stopped`,
      occasion: 'lane stopped',
      subject: `${lane.definition.name}: the lane has stopped`,
      text: `Runs of "${lane.definition.name}" fail: ${reason}. ${again}`,
      path: `/lanes/${lane.slug}`,
    },
    lane.definition.notify,
  );
}
