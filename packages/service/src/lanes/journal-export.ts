import { certain } from '@monsoon/core';
import { and, asc, eq, gt, gte } from 'drizzle-orm';
import type { Response } from 'express';
import type { App } from '../app.ts';
import { drained } from '../http/drained.ts';
import { journal, lanes } from '../storage/schema.ts';
import { journalAnswer } from './answers.ts';
import { csvOf } from './csv.ts';

interface Ask {
  format: 'csv' | 'json';
  lane?: string | undefined;
  run?: string | undefined;
  since?: string | undefined;
  /** names and contents too */
  values: boolean;
}

const PAGE = 500;
const columns = ['at', 'run', 'lane', 'laneVersion', 'kind', 'recordId', 'href', 'moment', 'cause', 'side', 'property'];
const withValues = [...columns, 'label', 'before', 'after'];

/** Writes the journal out page by page: in CSV (RFC 4180) a line for each field, in JSON (RFC 8259) an array of entries. */
export async function exportJournal(app: App, ask: Ask, response: Response): Promise<void> {
  const csv = ask.format === 'csv';
  response.type(csv ? 'text/csv; charset=utf-8' : 'application/json');
  response.set('content-disposition', `attachment; filename="journal.${ask.format}"`);
  const write = async (text: string): Promise<void> => {
    if (!response.write(text) && !response.destroyed) await drained(response);
  };
  await write(csv ? csvOf([ask.values ? withValues : columns]) : '[');
  let first = true;
  for (let last = 0; !response.destroyed; ) {
    const rows = await app.db
      .select()
      .from(journal)
      .innerJoin(lanes, eq(lanes.id, journal.lane))
      .where(
        and(
          gt(journal.id, last),
          ask.lane === undefined ? undefined : eq(journal.lane, ask.lane),
          ask.run === undefined ? undefined : eq(journal.run, ask.run),
          ask.since === undefined ? undefined : gte(journal.at, ask.since),
        ),
      )
      .orderBy(asc(journal.id))
      .limit(PAGE);
    for (const row of rows) {
      const entry = journalAnswer(row.journal, row.lanes.slug);
      if (csv) await write(csvOf(linesOf(entry, ask.values)));
      else await write(`${first ? '' : ',\n'}${JSON.stringify(ask.values ? entry : withoutValues(entry))}`);
      first = false;
    }
    if (rows.length < PAGE) break;
    last = certain(rows.at(-1), 'the page has rows').journal.id;
  }
  response.end(csv ? '' : ']\n');
}

type Entry = ReturnType<typeof journalAnswer>;

/** Notes may quote a value, and a record's own fields are in what was removed. */
const withoutValues = ({ label: _label, notes: _notes, removed: _removed, changes, ...entry }: Entry) => ({
  ...entry,
  cause: bare(entry.cause),
  changes: changes.map(({ side, property, cause }) => ({ side, property, cause })),
});

/** A cause without the value that was found. */
const bare = (cause: string): string => cause.replace(/, found .*$/s, '');

const plain = (value: unknown): string =>
  value === null || value === undefined ? '' : typeof value === 'object' ? JSON.stringify(value) : String(value);

function linesOf(e: Entry, values: boolean): string[][] {
  const head = [e.at, e.run, e.lane, String(e.laneVersion), e.kind, e.recordId ?? '', e.href ?? '', e.moment, values ? e.cause : bare(e.cause)];
  const changes = e.changes.length === 0 ? [null] : e.changes;
  return changes.map((c) => [...head, c?.side ?? '', c?.property ?? '', ...(values ? [e.label, plain(c?.before), plain(c?.after)] : [])]);
}
