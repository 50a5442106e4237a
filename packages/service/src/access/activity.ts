import type { App } from '../app.ts';
import { activity } from '../storage/schema.ts';

export interface Deed {
  by: string;
  via: string;
  /** what was done, in the words of the route */
  what: string;
  /** of what: `lane tuning-visits` */
  of: string;
  detail?: string;
  outcome: 'done' | 'refused';
  lane?: string | null;
}

/** Enters who did what. Values that people gave are no part of it: they may be secret. */
export async function enter(app: Pick<App, 'db' | 'announcer'>, deed: Deed): Promise<void> {
  await app.db.insert(activity).values({ ...deed, detail: deed.detail ?? '', lane: deed.lane ?? null });
  await app.announcer.announce(['activity']);
}
