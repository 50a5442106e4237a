/** What pages and tables need to say things, without the calendar library and the checks. */

export { asWritten } from './arrange/compare.ts';
export { fromNowOn } from './arrange/from-now-on.ts';
export { candidateAnswer } from './engine/holds.ts';
export { propertyNames } from './maps/property-names.ts';
export { sayAny, sayItem } from './maps/say.ts';
export { formatCondition } from './record/condition-text.ts';
export { sayValue } from './record/fields.ts';
export { sayOriginalStart } from './recurrence/place.ts';
export { sayRecurrence, sayRules } from './recurrence/say-rule.ts';
export { countSteps, type ItemOrder, itemOrders, occasions, roles } from './shapes/choices.ts';
export { type Folded, foldSeries, sayFolded } from './shapes/fold-series.ts';
export { countOperations, sayCounts } from './shapes/say-counts.ts';
export { sayLeft } from './shapes/say-left.ts';
export { formatWhen } from './time/format-when.ts';
