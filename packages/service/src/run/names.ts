import { createHash } from 'node:crypto';
import type { Refused } from '@monsoon/core';
import type { CalendarChanges, RecordPage } from '@monsoon/systems';

/** Longest id or address that is stored and indexed, in bytes of UTF-8: a row of an index holds 2,700 in all (PostgreSQL 15, 67.4.1). */
const LONGEST = 1024;

/** Can the item be known by this name from one run to the next? */
const isStorable = (name: string): boolean =>
  name !== '' && !name.includes('\0') && !/\p{Surrogate}/u.test(name) && (name.length <= LONGEST / 4 || Buffer.byteLength(name) <= LONGEST);

/** Calendar changes without events whose address cannot be stored; those are added to `refused`. */
export async function* storableEvents(pages: AsyncIterable<CalendarChanges>, refused: Refused[]): AsyncGenerator<CalendarChanges> {
  for await (const page of pages) {
    for (const { href } of page.changed) if (!isStorable(href)) refused.push(refusedName('event', href));
    yield { ...page, changed: page.changed.filter((c) => isStorable(c.href)), removed: page.removed.filter(isStorable) };
  }
}

/** Pages of records without those whose id cannot be stored; those are added to `refused`. */
export async function* storableRecords(pages: AsyncIterable<RecordPage>, refused: Refused[]): AsyncGenerator<RecordPage> {
  for await (const page of pages) {
    for (const { id } of page.items) if (!isStorable(id)) refused.push(refusedName('record', id));
    yield { ...page, items: page.items.filter((i) => isStorable(i.id)), gone: page.gone.filter(isStorable) };
  }
}

/** What is said of an item whose name cannot be kept: it is left out under a name that can, and nothing is written for it. */
function refusedName(side: 'record' | 'event', name: string): Refused {
  const digest = createHash('sha256').update(name).digest('hex').slice(0, 12);
  const short = `${name.slice(0, 100).replace(/\p{Cc}|\p{Surrogate}/gu, '\ufffd')}... (${digest})`;
  return {
    recordId: side === 'record' ? short : null,
    href: side === 'event' ? short : null,
    condition: `its ${side === 'record' ? 'id' : 'address'} has at most ${LONGEST} bytes, and no U+0000`,
    value: `${Buffer.byteLength(name)} bytes${name.includes('\0') ? ', with U+0000' : ''}`,
  };
}
