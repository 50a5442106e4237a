import { type Audit, isCreation, type LaneContext, type Operation } from '@monsoon/core';
import { auditSides } from '../../packages/service/src/run/audit.ts';
import { prepareUndo } from '../../packages/service/src/run/undo.ts';
import type { Sides } from '../../packages/service/src/run/work.ts';
import type { DoneToPair } from '../../packages/service/src/storage/journal-of.ts';
import type { MemoryStore } from './memory-store.ts';

/** What is left of a world when a history is over. */
export interface Played {
  context: LaneContext;
  systems: Sides;
  store: MemoryStore;
  texts: ReadonlyMap<string, string>;
  /** what audits said while it went on */
  audits: readonly Audit[];
}

/** Kinds of journal entries that an undo takes back. */
const written = ['create', 'create record', 'change', 'adopt', 'remove', 'remove record', 'unlink', 'attempt'];

/** What an undo of a stretch of the journal is given, as the service reads it from the database. */
export function journalled(store: MemoryStore, from: number, until = store.journal.length): DoneToPair[] {
  const done = new Map<string, DoneToPair>();
  const isWritten = (e: (typeof store.journal)[number]) => written.includes(e.kind) || (e.kind === 'hold' && e.changes.some((c) => c.seen !== true));
  const later = new Set(
    store.journal
      .slice(until)
      .filter(isWritten)
      .map((e) => e.pair.id),
  );
  for (const { pair, kind, changes, removed } of store.journal.slice(from, until).filter(isWritten).reverse()) {
    const { id, recordId, href, moment, label } = pair;
    const known = done.get(id) ?? { pair: id, recordId, href, moment, label, done: [], writtenSince: later.has(id) };
    known.done.push({ kind, changes, removed });
    done.set(id, known);
  }
  return [...done.values()];
}

const sayChanges = ({ changes, notes }: Pick<Operation, 'changes' | 'notes'>): string[] => [
  ...changes.map(
    (c) => `    ${c.side}.${c.property}: ${JSON.stringify(c.before)} -> ${JSON.stringify(c.after)} (${c.cause}${c.seen ? ', seen' : ''})`,
  ),
  ...notes.map((n) => `    note: ${n}`),
];

const sayAudit = ({ differences, ...audit }: Audit): string[] => [
  `audit ${JSON.stringify(audit)}`,
  ...differences.map((d) => `    ${JSON.stringify(d)}`),
];

/** Everything that the engine said and left behind, line by line, for a comparison with what was approved. */
export async function transcript({ context, systems, store, texts, audits }: Played): Promise<string[]> {
  const work = { context, sides: systems, store, signal: new AbortController().signal };
  const lines: string[] = [];
  for (const e of store.journal) {
    lines.push(`${e.kind} ${e.pair.recordId ?? '-'} ${e.pair.moment} ${e.pair.href ?? '-'} "${e.pair.label}": ${e.cause}`, ...sayChanges(e));
    if (e.removed !== null) lines.push(`    removed: ${JSON.stringify(e.removed)}`);
  }
  for (const q of store.questions) lines.push(`hold ${JSON.stringify({ ...q, pair: undefined })}`);
  for (const v of store.verdicts) lines.push(`verdict ${JSON.stringify(v)}`);
  for (const { id, uid, ...p } of store.all) lines.push(`pair ${p.recordId ?? '-'} ${p.moment} ${uid === id ? '' : uid} ${JSON.stringify(p)}`);
  for (const [href, text] of texts) lines.push(`event ${href} ${JSON.stringify(text)}`);
  for (const audit of [...audits, await auditSides(work)]) lines.push(...sayAudit(audit));
  for (let at = 0; at < store.journal.length; at += 5) {
    const undo = await prepareUndo(work, { done: journalled(store, at, at + 5), cause: 'undo', trial: at % 2 === 1 });
    for (const o of undo.operations)
      lines.push(
        `undo ${o.kind} ${o.pair.recordId ?? '-'} ${o.pair.moment} ${o.pair.state} ${isCreation(o) ? (o.restore ?? '') : ''} ${JSON.stringify([o.recordEdits, o.eventEdits, o.settled])}`,
        ...sayChanges(o),
      );
    for (const { label, reason } of undo.impossible) lines.push(`undo "${label}" is impossible: ${reason}`);
  }
  return lines;
}
