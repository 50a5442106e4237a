/** The shapes of what the HTTP interface takes and gives: checked, documented and typed from here alone. */

export * from './access.ts';
export * from './arrange.ts';
export * from './calendars.ts';
export * from './choices.ts';
export * from './guests.ts';
export * from './lanes.ts';
export * from './operating.ts';
export { page } from './parts.ts';
export { countOperations, sayCounts } from './say-counts.ts';
export { sayLeft } from './say-left.ts';
export * from './systems.ts';
export * from './watching.ts';
