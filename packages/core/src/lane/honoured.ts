import { directionOf } from '../maps/map-fields.ts';
import { type MappableName, properties } from '../maps/properties.ts';
import type { Problem } from '../record/conditions.ts';
import type { Collection } from '../record/fields.ts';
import type { LaneDefinition } from './definition.ts';
import { linksOf } from './links.ts';

/**
 * Settings that this lane could not honour: what they ask for is not known, or nothing in the lane looks at them. They
 * are refused when a lane is saved; a lane that was saved before goes on as it did.
 */
export function checkHonoured(lane: LaneDefinition, collection: Collection): Problem[] {
  const { direction, may, conflicts } = lane;
  const problems: Problem[] = [];
  const wrong = (pointer: string, reason: string) => problems.push({ pointer, reason });
  const { created, modified } = collection.stamps;
  if (lane.startLine !== null && direction !== '<-' && !created)
    wrong(
      '/startLine',
      `${collection.label} does not say when its records were made; name the field that does in the system's settings (created), or leave the start line out and filter by a date`,
    );
  if (direction === '<->' && !modified) {
    const reason = `${collection.label} does not say when its records were changed, so the later edit is not known; choose another rule, or name the field that does in the system's settings (modified)`;
    if (conflicts.rule === 'later edit wins') wrong('/conflicts/rule', reason);
    for (const [property, rule] of Object.entries(conflicts.fields)) if (rule === 'later edit wins') wrong(`/conflicts/fields/${property}`, reason);
  }
  const mapped = new Set(lane.moments.flatMap((m) => linksOf(lane, m, collection.fields).map((l) => l.property)));
  for (const property of Object.keys(conflicts.fields))
    if (!mapped.has(property as never))
      wrong(`/conflicts/fields/${property}`, `no field is mapped to ${property}, so there is nothing to conflict; leave the rule out`);
  for (const { maps, pointer } of [
    { maps: lane.fields, pointer: '/fields' },
    ...lane.moments.map((m, i) => ({ maps: m.fields ?? {}, pointer: `/moments/${i}/fields` })),
  ])
    for (const [property, given] of Object.entries(maps))
      for (const map of [given].flat()) {
        const back = ['<-', '<->'].includes(directionOf(map, direction));
        if (back && properties[property as MappableName].set && !('copy' in map || 'people' in map || 'words' in map))
          wrong(
            `${pointer}/${property}/direction`,
            `a list such as ${property} only comes back through a copy of a field; make it one-way with direction: "->"`,
          );
      }
  if (direction === '->') {
    const reason = 'a lane "->" takes nothing from the calendar, so no event is looked at by it; leave it out, or choose another direction';
    if (lane.events.filter !== null) wrong('/events/filter', reason);
    if (lane.events.moment !== null) wrong('/events/moment', reason);
  }
  if (direction === '<-') {
    const reason = 'in a lane "<-" the events decide what belongs, and no record is looked at by it; use events.filter, or choose another direction';
    if (lane.filter !== null) wrong('/filter', reason);
    if (lane.private !== null) wrong('/private', reason);
    for (const [i, moment] of lane.moments.entries()) if (moment.filter != null) wrong(`/moments/${i}/filter`, reason);
  }
  if (!may.records.create && Object.keys(lane.defaults).length > 0)
    wrong('/defaults', 'this lane makes no records, so nothing gets these values; leave them out, or let it make records (may.records.create)');
  return problems;
}
