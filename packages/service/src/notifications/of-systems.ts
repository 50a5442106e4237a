import { eq, or } from 'drizzle-orm';
import type { App } from '../app.ts';
import type { Database, Transaction } from '../storage/database.ts';
import { callMeters, lanes, systems } from '../storage/schema.ts';
import { WARN_AT } from '../systems/meter.ts';
import { limitsOf, type SystemRow } from '../systems/registry.ts';
import { beginCause, endCauses } from './causes.ts';

/** Whom the lanes of a system name. */
async function namedBy(tx: Database | Transaction, system: string): Promise<{ notify: string[]; names: string[] }> {
  const using = await tx
    .select({ definition: lanes.definition })
    .from(lanes)
    .where(or(eq(lanes.recordsSystem, system), eq(lanes.calendarSystem, system)));
  return { notify: using.flatMap((l) => l.definition.notify), names: using.map((l) => l.definition.name) };
}

/** Its credentials are no longer accepted. */
export async function notifyOfLapse(app: App, system: SystemRow, reason: string): Promise<void> {
  await app.db.transaction(async (tx) => {
    const { notify, names } = await namedBy(tx, system.id);
    await beginCause(
      tx,
      {
        cause: `system ${system.id} lapsed`,
        occasion: 'credentials',
        subject: `${system.name}: its credentials are no longer accepted`,
        text: `${system.name} does not accept Monsoon's credentials: ${reason}. Until they are renewed, ${names.join(', ') || 'nothing'} ${names.length === 1 ? 'is' : 'are'} paused.`,
        path: `/systems/${system.slug}`,
      },
      notify,
    );
  });
}

export const lapseIsOver = (tx: Database | Transaction, system: string): Promise<void> => endCauses(tx, [`system ${system} lapsed`]);

/** Its mailbox cannot be read: replies of guests wait there. */
export async function notifyOfMailbox(app: App, system: SystemRow, reason: string): Promise<void> {
  await app.db.transaction((tx) =>
    beginCause(
      tx,
      {
        cause: `system ${system.id} mailbox`,
        occasion: 'needs a person',
        subject: `${system.name}: its mailbox cannot be read`,
        text: `Replies of guests that come to ${system.name} are not taken: ${reason}. They wait in the mailbox, and are taken once it can be read.`,
        path: `/systems/${system.slug}`,
      },
      [],
    ),
  );
}

export const mailboxIsRead = (tx: Database | Transaction, system: string): Promise<void> => endCauses(tx, [`system ${system} mailbox`]);

/** Looks which systems have nearly used what they allow in a month. */
export async function notifyOfAllowances(app: App): Promise<void> {
  const month = new Date().toISOString().slice(0, 7);
  const rows = await app.db.select().from(callMeters).innerJoin(systems, eq(systems.id, callMeters.system)).where(eq(callMeters.month, month));
  for (const { call_meters: meter, systems: system } of rows) {
    const { allowance } = limitsOf(system.settings);
    if (allowance === undefined || meter.calls < allowance * WARN_AT) continue;
    await app.db.transaction(async (tx) => {
      const { notify } = await namedBy(tx, system.id);
      await beginCause(
        tx,
        {
          cause: `system ${system.id} allowance ${month}`,
          occasion: 'allowance',
          subject: `${system.name}: ${Math.floor((100 * meter.calls) / allowance)} % of the month's calls are used`,
          text: `${meter.calls} of ${allowance} calls to ${system.name} are used in ${month}. At the end of it nothing more is asked until the next month begins: check less often, or ask for a larger allowance.`,
          path: `/systems/${system.slug}`,
        },
        notify,
      );
    });
  }
}
