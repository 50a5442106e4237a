export { certain } from './certain.ts';
export { type Audit, AuditTally } from './engine/audit.ts';
export { mappedPart, newBaseline, valuesAt, withSeen } from './engine/baseline.ts';
export type { Change } from './engine/change.ts';
export { type EventView, type LaneContext, linkContext } from './engine/context.ts';
export { CreateAttempts } from './engine/create-attempts.ts';
export type { CreateCandidates, Gathered, HoldState, Refused } from './engine/gathered.ts';
export {
  type Damage,
  damagedItems,
  damageOf,
  damageToJudge,
  type Guarded,
  guard,
  type MailLimits,
  mailsByGuest,
  pairsThatMatter,
} from './engine/guard.ts';
export { askedAbout, type Candidate, candidateAnswer, type Hold, type HoldQuestion, holdChoices, takenByAnswers } from './engine/holds.ts';
export {
  failureReasons,
  judgeEvent,
  judgeRecord,
  labelOf,
  momentLinks,
  noLongerFollowed,
  REPEATING_RECORD,
  type Shown,
  showAll,
  type Verdict,
  verdictReasons,
  WHOLE_SERIES,
  windowOf,
} from './engine/judge.ts';
export { makeRecord, makesNoRecords, momentOfEvents } from './engine/make-record.ts';
export { type Merged, mergeLink, type Sides, type Ways } from './engine/merge-link.ts';
export { type ItemVerdict, isReshown, type Plan } from './engine/moment-input.ts';
export { nameOfEvent, waitsForAnswer } from './engine/newcomer.ts';
export {
  changedAt,
  isCreation,
  isHarmless,
  isRemoval,
  itemKey,
  type Operation,
  type OperationOf,
  operation,
  operationKinds,
  recordKey,
  waitsForGuard,
  writesEvent,
  writesRecord,
} from './engine/operation.ts';
export {
  type Baseline,
  eventPairIds,
  foreignMark,
  isFollowed,
  type LinkValues,
  type Pair,
  type PairState,
  pairId,
  pairOfEvent,
  pairStates,
  step,
  withMark,
} from './engine/pair.ts';
export { type Free, type Lost, pairAgain } from './engine/pair-again.ts';
export { plan } from './engine/plan.ts';
export { planUndo } from './engine/undo.ts';
export { matchKey, UnpairedEvents } from './engine/unpaired-events.ts';
export { type CalendarObject, objectLimits, type Precondition, readCalendarObject, UnstorableObject, utcSeconds } from './ical/calendar-object.ts';
export {
  type Busy,
  busyTimes,
  type ComponentFilter,
  joinBusy,
  matchesFilter,
  type PropertyFilter,
  type TextMatch,
  type TimeRange,
} from './ical/calendar-query.ts';
export {
  fold as foldedLine,
  limits as textLimits,
  UnreadableEvent,
  UnwritableEvent,
  unescapeText,
  writeComponents as writtenComponents,
} from './ical/content.ts';
export {
  type EditContext,
  type EventRead,
  editEvent,
  type Mark,
  makeEvent,
  type OccurrenceFacts,
  readEvent,
  withOwnReply,
} from './ical/event-text.ts';
export { expandObject, limitOverrides } from './ical/expanded.ts';
export { hideUids, type Reduced, reducedText, reduceObject, type Showable, type Showing, showable, zoneDefinition } from './ical/reduced.ts';
export { type Selection, selectParts } from './ical/select-parts.ts';
export { editTask, makeTask, readTask, taskStatuses } from './ical/task-text.ts';
export type { GuestChange, Invitation, KnownGuest, Notice, Proposal } from './invitations/invitation.ts';
export { guestChanges, invitationOf, isRescheduled, wholeInvitation } from './invitations/invitation.ts';
export { type ItipMessage, type ItipReply, readItip, writeItip } from './invitations/itip.ts';
export { guestChangesOf, invites, withNotices } from './invitations/notices.ts';
export { type GuestNews, newsOnEvent } from './invitations/replies-on-event.ts';
export { checkLane } from './lane/check.ts';
export {
  conflictRules,
  type Departures,
  departureChoices,
  type FieldMaps,
  fieldMapsOf,
  type LaneDefinition,
  type Moment,
  type Permissions,
  shownProperties,
} from './lane/definition.ts';
export { eventFields, eventItem } from './lane/event-fields.ts';
export { checkHonoured } from './lane/honoured.ts';
export { earlierSettings, laneSchema, parseLane, readLane } from './lane/lane-schema.ts';
export { goesToRecord } from './lane/links.ts';
export { quietUntil } from './lane/quiet.ts';
export { carryWhen, takeWhen } from './lane/record-time-writer.ts';
export { checkWhenShape, checkWhenSource, dateField, readWhen, type WhenSource } from './lane/when-source.ts';
export type { Directory } from './maps/convert.ts';
export { type FieldMap, type GuestRowsMap, mapDirections, type RepeatFields } from './maps/field-map.ts';
export { attendeeOf, show, take } from './maps/field-maps.ts';
export { guestRowsField } from './maps/guest-rows.ts';
export { parseJoin, unjoin } from './maps/join.ts';
export { checkFieldMap, directionOf } from './maps/map-fields.ts';
export { checkMapShape } from './maps/map-shape.ts';
export {
  type Attendee,
  type EventValues,
  type MappableName,
  type MappedValues,
  mappableNames,
  noValues,
  type PropertyValue,
  properties,
  propertyNames,
  type Response,
  responses,
  sameProperty,
} from './maps/properties.ts';
export { sayAny } from './maps/say.ts';
export { UnfitValue } from './maps/unfit.ts';
export { type Condition, fittingTests, type Leaf, type Test, testNames, tests } from './record/condition.ts';
export { ConditionTextError, formatCondition, parseCondition } from './record/condition-text.ts';
export { checkCondition, judgeCondition, type Problem } from './record/conditions.ts';
export {
  type Collection,
  canonical,
  type DurationUnit,
  durationUnits,
  type Field,
  type FieldType,
  type FieldValue,
  type FieldValues,
  fieldTypes,
  type GuestRow,
  isEmpty,
  type Person,
  personOf,
  personText,
  type RecordItem,
  type Reference,
  sayValue,
  stateOf,
} from './record/fields.ts';
export { nearestWord, sayNearest } from './record/nearest.ts';
export { expandSeries, MOST_OCCURRENCES, type Occurrence, type Window } from './recurrence/expand.ts';
export { occurrencesOfValues, occursWithin, type SeriesValues } from './recurrence/of-values.ts';
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
export { type Countable, type CountStep, countItems, stepOf } from './time/count-items.ts';
export { readDateTime, sayable } from './time/date-time.ts';
export { definedZone, definedZoneLabel, isDefinedZone } from './time/defined-zone.ts';
export { formatWhen } from './time/format-when.ts';
export { parseTzif } from './time/tzif.ts';
export { sameWhen, spanOf, type When, whenFromDays, whenFromStartEnd, whenFromStartLength } from './time/when.ts';
export { formatInstant, parseInstant, toInstant, toLocal, UTC, type Zone, type ZoneTable } from './time/zones.ts';
