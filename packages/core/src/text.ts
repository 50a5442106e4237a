/** What pages and tables need to say things, without the calendar library and the checks. */

export { candidateAnswer, type HoldQuestion } from './engine/holds.ts';
export { type Departure, departureChoices, type LaneDefinition } from './lane/definition.ts';
export { type PropertyName, propertyNames } from './maps/property-names.ts';
export { sayAny, sayItem, sayProperty } from './maps/say.ts';
export { formatCondition } from './record/condition-text.ts';
export { canonical, sayValue } from './record/fields.ts';
export { placeOf, sayOriginalStart } from './recurrence/place.ts';
export { sayRecurrence, sayRules } from './recurrence/say-rule.ts';
export type { CountStep } from './time/count-items.ts';
export { formatWhen } from './time/format-when.ts';
