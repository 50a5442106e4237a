import type { FieldMaps, LaneDefinition } from '../lane/definition.ts';
import { readReminder } from '../maps/reminders.ts';
import type { Problem } from '../record/conditions.ts';

/** What inviting, and reminding by mail, ask of a lane's maps. */
export function checkInvitations(lane: LaneDefinition): Problem[] {
  const problems: Problem[] = [];
  const has = (property: 'organizer' | 'attendees') =>
    lane.fields[property] !== undefined || lane.moments.some((m) => m.fields?.[property] !== undefined);
  if (lane.invitations.by === 'calendar server' && lane.may.calendar.create && !has('organizer'))
    problems.push({
      pointer: '/fields/organizer',
      reason: 'a calendar server invites in the name of an organizer: map one, for example organizer: { fixed: ADDRESS OF THE CALENDAR }',
    });
  for (const [pointer, maps] of [['/fields', lane.fields] as const, ...lane.moments.map((m, i) => [`/moments/${i}/fields`, m.fields ?? {}] as const)])
    if (remindsByMail(maps) && !has('organizer') && !has('attendees'))
      problems.push({
        pointer: `${pointer}/reminders`,
        reason: 'a reminder by mail needs somebody whom it goes to: map organizer or attendees, or remind by popup',
      });
  return problems;
}

const remindsByMail = ({ reminders }: FieldMaps): boolean =>
  [reminders ?? []]
    .flat()
    .flatMap((map) => [...('fixed' in map ? [map.fixed].flat() : []), map.default ?? ''])
    .some((said) => said.split(/[,;]/).some((word) => readReminder(word)?.by === 'mail'));
