import { type Directory, fieldMapsOf, type LaneContext, type LaneDefinition, type Reference } from '@monsoon/core';
import type { Records } from '@monsoon/systems';
import type { Work } from './work.ts';

/** Milliseconds for which a directory may be used again: people are looked up often, and change seldom. */
const FRESH = 60_000;
const read = new WeakMap<Records, Map<string, { at: number; directory: Directory }>>();

/** The collections in which a lane looks people up, and where their address stands. */
export const lookedUp = (definition: LaneDefinition): { collection: string; email: string }[] =>
  fieldMapsOf(definition).flatMap((m) =>
    ('people' in m || 'rows' in m) && m.in !== undefined ? [{ collection: m.in, email: m.email ?? 'email' }] : [],
  );

/** The lane's context with the people it looks up by address. @throws OutsideError */
export async function withDirectories({ context, sides, signal }: Omit<Work, 'store'>): Promise<LaneContext> {
  const looked = lookedUp(context.definition);
  if (looked.length === 0) return context;
  const directories = new Map<string, Directory>();
  for (const { collection, email } of looked) directories.set(collection, await directoryOf(sides.records, collection, email, signal));
  return { ...context, directories };
}

export async function directoryOf(records: Records, collection: string, email: string, signal: AbortSignal): Promise<Directory> {
  const known = read.get(records) ?? new Map<string, { at: number; directory: Directory }>();
  read.set(records, known);
  const recent = known.get(collection);
  if (recent !== undefined && Date.now() - recent.at < FRESH) return recent.directory;
  const byEmail = new Map<string, Reference>();
  const emails = new Map<string, string>();
  for await (const page of records.pull(collection, null, signal)) {
    for (const item of page.items) {
      const address = item.fields[email];
      if (typeof address !== 'string' || address === '') continue;
      const name = item.fields['name'];
      emails.set(item.id, address);
      byEmail.set(address.toLowerCase(), { id: item.id, ...(typeof name === 'string' ? { label: name } : {}) });
    }
  }
  const directory = { byEmail, emails };
  known.set(collection, { at: Date.now(), directory });
  return directory;
}
