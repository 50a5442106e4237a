import type { LaneAnswer, LaneDraftAnswer } from '@monsoon/contract';
import { client } from '../data.ts';

/** A draft of a lane that says this; one that was open already takes it over. */
export async function draftWith(lane: LaneAnswer, definition: object): Promise<LaneDraftAnswer> {
  const draft = await client.makeDraft({ slug: lane.slug, lane: lane.slug, definition });
  return client.saveDraft(draft.id, { version: draft.version, definition });
}
