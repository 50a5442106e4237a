export * from './arrange/compare.ts';
export * from './arrange/count.ts';
export * from './arrange/from-now-on.ts';
export * from './arrange/nearest.ts';
export * from './arrange/sentence.ts';
export { NOT_CHOSEN, pointerOf, soundPart } from './arrange/sound.ts';
export * from './arrange/starters.ts';
export { type Suggestion, suggestMaps, suggestWhens, valuesOf } from './arrange/suggest.ts';
export * from './engine/audit.ts';
export * from './engine/baseline.ts';
export * from './engine/change.ts';
export * from './engine/context.ts';
export * from './engine/gathered.ts';
export * from './engine/guard.ts';
export * from './engine/holds.ts';
export * from './engine/judge.ts';
export { makeRecord, momentOfEvents } from './engine/make-record.ts';
export * from './engine/merge.ts';
export { type Merged, mergeLink, type Sides, type Ways } from './engine/merge-link.ts';
export * from './engine/moment-input.ts';
export { attemptLikeness, nameOfEvent } from './engine/newcomer.ts';
export * from './engine/operation.ts';
export * from './engine/pair.ts';
export { type Free, type Lost, pairAgain } from './engine/pair-again.ts';
export { plan } from './engine/plan.ts';
export * from './engine/undo.ts';
export * from './engine/unpaired-events.ts';
export { limits as textLimits, UnreadableEvent, UnwritableEvent, unescapeText } from './ical/content.ts';
export { type EditContext, type EventRead, editEvent, type Mark, makeEvent, type OccurrenceFacts, readEvent } from './ical/event-text.ts';
export * from './ical/task-text.ts';
export * from './lane/check.ts';
export * from './lane/definition.ts';
export * from './lane/event-fields.ts';
export { checkHonoured } from './lane/honoured.ts';
export * from './lane/lane-schema.ts';
export * from './lane/links.ts';
export * from './lane/quiet.ts';
export * from './lane/record-time-writer.ts';
export * from './lane/when-source.ts';
export type { Directory } from './maps/convert.ts';
export * from './maps/field-map.ts';
export * from './maps/field-maps.ts';
export * from './maps/join.ts';
export * from './maps/map-fields.ts';
export * from './maps/properties.ts';
export * from './maps/say.ts';
export * from './maps/unfit.ts';
export * from './record/condition.ts';
export * from './record/condition-text.ts';
export * from './record/conditions.ts';
export * from './record/fields.ts';
export { expandSeries, MOST_OCCURRENCES, type Occurrence, type Window } from './recurrence/expand.ts';
export { occursWithin, type SeriesValues } from './recurrence/of-values.ts';
export { type Place, placeName, placeOf, sayOriginalStart } from './recurrence/place.ts';
export { formatRecurrence, parseRecurrence, type Recurrence } from './recurrence/recurrence-text.ts';
export { formatRule, InvalidRule, parseRule, type Rule } from './recurrence/rule.ts';
export { sayRecurrence, sayRule, sayRules } from './recurrence/say-rule.ts';
export {
  editOccurrences,
  nextOccurrence,
  type OccurrenceEdit,
  occurrencesOf,
  occurrenceText,
  readSeries,
  restoreOccurrence,
  type Series,
  type SeriesOccurrence,
} from './recurrence/series.ts';
export * from './shapes/arrange.ts';
export { type ItemOrder, itemOrders } from './shapes/choices.ts';
export * from './shapes/index.ts';
export * from './shapes/say-counts.ts';
export * from './shapes/say-left.ts';
export * from './time/date-time.ts';
export { definedZone, definedZoneLabel, isDefinedZone } from './time/defined-zone.ts';
export * from './time/format-when.ts';
export * from './time/tzif.ts';
export * from './time/when.ts';
export * from './time/zones.ts';
