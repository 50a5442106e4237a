export { type CalendarHarness, calendarAcceptance } from './calendar.ts';
export { type RecordHarness, recordAcceptance } from './records.ts';
