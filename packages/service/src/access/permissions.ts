import type { Role, TokenScope } from '@monsoon/contract';
import { and, eq } from 'drizzle-orm';
import { HttpProblem } from '../http/problem.ts';
import type { Database } from '../storage/database.ts';
import { lanes } from '../storage/schema.ts';
import type { Caller } from './callers.ts';

/**
 * What a route asks of its caller.
 * read: look at what lanes show. operate: run, pause, settle. inspect: look at everything that a system holds, as those do
 * who arrange lanes: administrators, and operators who own one. arrange: change a lane; for an operator, the lanes that
 * they own. administer: everything else that is kept.
 */
export type Ability = 'read' | 'operate' | 'inspect' | 'arrange' | 'administer';

const levelOfRole: Record<Role, number> = { viewer: 0, operator: 1, administrator: 2 };
const levelOfScope: Record<TokenScope, number> = { read: 0, operate: 1, write: 2 };
const levelNeeded: Record<Ability, number> = { read: 0, operate: 1, inspect: 1, arrange: 2, administer: 2 };
const words: Record<Ability, string> = {
  read: 'look',
  operate: 'run, pause and settle: ask for the role operator',
  inspect: 'look at everything that a system holds: ask an administrator for a lane of your own',
  arrange: 'change this lane: ask its owner or an administrator',
  administer: 'do this: ask an administrator',
};

/** @param lane the slug of the lane that is to be changed, where it is one. @throws HttpProblem 403 saying what is missing */
export async function permit(db: Database, caller: Caller, needs: Ability, lane: string | null): Promise<void> {
  if (levelOfScope[caller.scope] < levelNeeded[needs])
    throw new HttpProblem(
      403,
      'Not permitted',
      `this token may ${caller.scope === 'read' ? 'only look' : 'only look, run, pause and settle'}; use one that may more`,
    );
  const role = levelOfRole[caller.role];
  if (needs === 'inspect' ? role === 2 || (role === 1 && (await ownsAny(db, caller))) : role >= levelNeeded[needs]) return;
  if (needs === 'arrange' && caller.role === 'operator' && lane !== null && (await owns(db, caller, lane))) return;
  throw new HttpProblem(403, 'Not permitted', `as ${caller.role} you may not ${words[needs]}`);
}

async function owns(db: Database, caller: Caller, lane: string): Promise<boolean> {
  const found = await db
    .select({ id: lanes.id })
    .from(lanes)
    .where(and(eq(lanes.slug, lane), eq(lanes.owner, caller.person)));
  return found.length > 0;
}

const ownsAny = async (db: Database, caller: Caller): Promise<boolean> => (await db.$count(lanes, eq(lanes.owner, caller.person))) > 0;

/** May they, without an error if not? */
export async function mayCall(db: Database, caller: Caller, needs: Ability, lane: string | null = null): Promise<boolean> {
  try {
    await permit(db, caller, needs, lane);
    return true;
  } catch (error) {
    if (error instanceof HttpProblem) return false;
    throw error;
  }
}
