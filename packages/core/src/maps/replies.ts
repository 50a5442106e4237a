import { sayPerson } from '../record/fields.ts';
import type { Attendee, Response } from './properties.ts';

/** How a field shows what the guests replied. */
export const repliesForms = ['list', 'count'] as const;
export type RepliesForm = (typeof repliesForms)[number];

/** What guests replied, into a field: as a list, as a count in words, or as the value that a table has for the reply. */
export interface RepliesMap {
  replies: string;
  as?: RepliesForm | undefined;
  values?: Partial<Record<Response, string>> | undefined;
}

const of = ({ response }: Attendee): Response => response ?? 'needs action';

/** Which reply stands for several guests: what still asks for attention comes first. */
const weight: Record<Response, number> = { declined: 0, 'needs action': 1, tentative: 2, delegated: 3, accepted: 4 };

/** `Ada Lark: accepted; Ben Moor: needs action` */
const listed = (guests: readonly Attendee[]): string => guests.map((guest) => sayPerson({ ...guest, response: of(guest) })).join('; ');

/** `2 of 3 accepted, 1 declined` */
function counted(guests: readonly Attendee[]): string {
  const count = (response: Response) => guests.filter((g) => of(g) === response).length;
  const others = (['declined', 'tentative', 'delegated'] as const).flatMap((r) => (count(r) === 0 ? [] : [`${count(r)} ${r}`]));
  return [`${count('accepted')} of ${guests.length} accepted`, ...others].join(', ');
}

/** What a map makes of the guests' replies; null without guests, or where a table has no value for the reply. */
export function sayReplies(map: RepliesMap, guests: readonly Attendee[] | null): string | null {
  const all = guests ?? [];
  if (all.length === 0) return null;
  if (map.values !== undefined) return map.values[all.map(of).reduce((a, b) => (weight[b] < weight[a] ? b : a))] ?? null;
  return map.as === 'count' ? counted(all) : listed(all);
}
