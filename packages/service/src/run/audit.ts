import { type Audit, AuditTally } from '@monsoon/core';
import { withDirectories } from './directories.ts';
import { Gathering } from './gather.ts';
import { planned } from './planned.ts';
import { openWork, type Work } from './work.ts';

/** Reads both sides whole and compares them. @throws OutsideError */
export async function auditSides(given: Work): Promise<Audit> {
  const work = openWork(given);
  const { context } = work;
  const full = await withDirectories(work);
  const moments = context.definition.moments.map((m) => m.name);
  const count = new AuditTally();
  const gathering = new Gathering({ ...work, context: full }, 'audit');
  for await (const { plan: part, batch } of planned(full, gathering)) count.add(part, batch.gathered, moments);
  return count.total(gathering.listed.events, gathering.listed.unknown);
}
