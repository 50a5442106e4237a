/** What pages and tables need to say things, without the calendar library and the checks. */
export { sayValue } from './record/fields.ts';
export { sayCondition } from './record/say-condition.ts';
export { sayCounts } from './shapes/say-counts.ts';
export { formatWhen } from './time/format-when.ts';
