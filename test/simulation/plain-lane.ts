import { type LaneDefinition, parseLane } from '@monsoon/core';

/** A lane of the in-memory systems, with nothing special but what is given. */
export const plainLane = (more: Record<string, unknown>): LaneDefinition =>
  parseLane({
    name: 'Items',
    records: { system: 'a', collection: 'items' },
    calendar: { system: 'b', calendar: '/c/' },
    zone: 'Europe/London',
    fields: { title: { copy: 'title' } },
    ...more,
  });
