import type { FeedSettings } from '@monsoon/contract';
import { ConditionTextError, checkCondition, eventFields, type Problem, parseCondition } from '@monsoon/core';
import { eq } from 'drizzle-orm';
import type { App } from '../app.ts';
import { HttpProblem } from '../http/problem.ts';
import { lanes, systems } from '../storage/schema.ts';

/** What a feed shows by default: the time alone, for an hour at a time. */
export const usualSettings: Omit<FeedSettings, 'name'> = {
  colour: null,
  shows: 'busy only',
  alarms: false,
  condition: null,
  window: { behind: 60, ahead: 400 },
  refresh: 60,
};

const invalid = (problems: Problem[]): HttpProblem =>
  new HttpProblem(422, 'The feed does not fit', problems.map((p) => `${p.pointer}: ${p.reason}`).join('; '), problems);

/** @throws HttpProblem naming what is wrong with a condition */
export function checkFeedCondition(text: string | null): void {
  if (text === null) return;
  let problems: Problem[];
  try {
    const { condition, columns } = parseCondition(text);
    problems = checkCondition(condition, eventFields).map((p) => {
      const column = columns.get(p.pointer);
      return { pointer: '/condition', reason: column === undefined ? p.reason : `column ${column}: ${p.reason}` };
    });
  } catch (error) {
    if (!(error instanceof ConditionTextError)) throw error;
    problems = [{ pointer: '/condition', reason: error.message }];
  }
  if (problems.length > 0) throw invalid(problems);
}

/** RFC 3339, in the future, or null. @throws HttpProblem */
export function checkEnd(endsAt: string | null | undefined): string | null {
  if (endsAt == null) return null;
  const at = Date.parse(/^\d{4}-\d\d-\d\d$/.test(endsAt) ? `${endsAt}T23:59:59Z` : endsAt);
  if (Number.isNaN(at) || at <= Date.now()) throw invalid([{ pointer: '/endsAt', reason: `"${endsAt}" is no day or time in the future` }]);
  return new Date(at).toISOString();
}

export interface Source {
  system: string;
  calendar: string;
  calendarName: string;
  lane: string | null;
}

/** The calendar that a feed shows. @throws HttpProblem */
export async function findSource(
  app: App,
  asked: { lane?: string | undefined; system?: string | undefined; calendar?: string | undefined },
): Promise<Source> {
  if ((asked.lane === undefined) === (asked.system === undefined || asked.calendar === undefined))
    throw invalid([{ pointer: '/lane', reason: 'say a lane, or a system and a calendar of it' }]);
  if (asked.lane !== undefined) {
    const [lane] = await app.db.select().from(lanes).where(eq(lanes.slug, asked.lane));
    if (lane === undefined) throw invalid([{ pointer: '/lane', reason: `there is no lane "${asked.lane}"` }]);
    return { system: lane.calendarSystem, calendar: lane.definition.calendar.calendar, calendarName: lane.calendarName, lane: lane.id };
  }
  const [row] = await app.db
    .select()
    .from(systems)
    .where(eq(systems.slug, asked.system ?? ''));
  const open = row === undefined ? undefined : app.systems.open(row);
  if (row === undefined || open?.calendars === undefined)
    throw invalid([{ pointer: '/system', reason: row === undefined ? `there is no system "${asked.system}"` : `"${row.name}" has no calendars` }]);
  const there = await open.calendars.calendars(AbortSignal.timeout(30_000));
  const found = there.filter((c) => c.href === asked.calendar || c.name === asked.calendar);
  const [calendar] = found;
  if (calendar === undefined || found.length > 1) {
    const names = there.map((c) => `"${c.name}"`).join(', ');
    const reason =
      found.length > 1
        ? `several calendars are called "${asked.calendar}": give the href`
        : `there is no calendar "${asked.calendar}"; there are ${names}`;
    throw invalid([{ pointer: '/calendar', reason }]);
  }
  return { system: row.id, calendar: calendar.href, calendarName: `${row.name}: ${calendar.name}`, lane: null };
}
