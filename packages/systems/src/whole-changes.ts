import type { CalendarChanges } from './interfaces.ts';

/** All pages of changes as one, where there are few enough to hold. */
export async function wholeChanges(pages: AsyncIterable<CalendarChanges>): Promise<CalendarChanges & { cursor: string | null }> {
  const all: CalendarChanges & { cursor: string | null } = { changed: [], removed: [], cursor: null, complete: true };
  for await (const page of pages) {
    all.changed.push(...page.changed);
    all.removed.push(...page.removed);
    all.complete = page.complete;
    if (page.cursor !== undefined) all.cursor = page.cursor;
  }
  return all;
}
