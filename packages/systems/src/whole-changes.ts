import type { CalendarChanges } from './interfaces.ts';

/** All pages of changes as one, where there are few enough to hold. */
export async function wholeChanges(pages: AsyncIterable<CalendarChanges>): Promise<CalendarChanges & { cursor: string | null }> {
  const all: CalendarChanges & { cursor: string | null } = { changed: [], removed: [], cursor: null, complete: true };
  for await (const page of pages) {
    // One by one: a page may be longer than a call can have arguments.
    for (const changed of page.changed) all.changed.push(changed);
    for (const href of page.removed) all.removed.push(href);
    all.complete = page.complete;
    if (page.cursor !== undefined) all.cursor = page.cursor;
  }
  return all;
}
