import { v5 as uuid5 } from 'uuid';
import type { Notice, Proposal } from '../invitations/invitation.ts';
import type { MappedValues } from '../maps/properties.ts';
import type { FieldValues, RecordItem } from '../record/fields.ts';
import type { Change } from './change.ts';
import type { EventView, ReadEvent } from './context.ts';
import type { Hold } from './holds.ts';
import type { Verdict } from './judge.ts';
import type { Pair } from './pair.ts';

/**
 * What a run can do with a pair. `create` and `create record` put its other side there; `change` writes on one side or
 * both; `adopt` pairs two items that were there already; `agree` only moves the baseline; `remove` and `remove record`
 * take a side away; `unlink` stops following; `hold` asks a person. `change`, `unlink` and `hold` write what they carry.
 */
export const operationKinds = ['create', 'create record', 'change', 'adopt', 'agree', 'remove', 'remove record', 'unlink', 'hold'] as const;
export type OperationKind = (typeof operationKinds)[number];

/** What each kind is planned from, and what only it has. A side that is null was not there. */
interface Carried {
  /** `restore`: the whole item that was there before, to be put back as it was */
  create: { record: RecordItem | null; event: null; restore: string | null };
  'create record': { record: null; event: EventView | null; restore: string | null };
  change: BothSides;
  adopt: BothSides;
  agree: BothSides;
  remove: AnySides;
  'remove record': { record: RecordItem; event: EventView | null };
  unlink: AnySides;
  hold: AnySides & { hold: Hold };
}

interface BothSides {
  record: RecordItem;
  event: ReadEvent;
}

interface AnySides {
  record: RecordItem | null;
  event: EventView | null;
}

/** What every operation says. */
interface Said {
  /** the pair as it will be when the operation is done */
  pair: Pair;
  cause: string;
  changes: Change[];
  notes: string[];
  /** what is written on each side; nothing: that side is left alone */
  recordEdits: FieldValues;
  eventEdits: MappedValues;
  /** links whose baseline moves with it */
  settled: string[];
  /** something stands on the event that the baseline will not say: a foreign edit left alone, a conflict, an unfit value */
  loose: boolean;
  /** an item may leave the lane by it: it is judged again in the next run */
  leaves: boolean;
  /** what is to be said of the item once it is done; null: it stands as it should */
  verdict: Verdict | null;
  /** messages that guests get once it is done */
  notices: Notice[];
  /** a guest's proposal of another time that a person has answered */
  answers: { email: string; proposal: Proposal; declined: boolean } | null;
}

export type OperationOf<K extends OperationKind> = K extends OperationKind ? Said & Carried[K] & { kind: K } : never;

/** One thing a run does, with its cause and, field by field, before and after. */
export type Operation = OperationOf<OperationKind>;

/** What an operation writes and says beyond its sides. */
export type Writing = Partial<Omit<Said, 'pair' | 'cause'>>;

const nothingWritten = {
  changes: [],
  notes: [],
  recordEdits: {},
  eventEdits: {},
  settled: [],
  loose: false,
  leaves: false,
  verdict: null,
  notices: [],
  answers: null,
} satisfies Partial<Said>;

/** An operation that writes nothing but what is said. */
export function operation<K extends OperationKind>(kind: K, pair: Pair, cause: string, rest: Carried[K] & Writing): OperationOf<K>;
export function operation(kind: OperationKind, pair: Pair, cause: string, rest: AnySides & Writing): AnySides & Said & { kind: OperationKind } {
  return { ...nothingWritten, ...rest, kind, pair, cause };
}

export const isCreation = (o: Operation): o is OperationOf<'create' | 'create record'> => o.kind === 'create' || o.kind === 'create record';

/** Under which a record is asked for: again under the same when it is tried again; what is put back is another record than the first. */
export const recordKey = ({ pair, restore }: Pick<OperationOf<'create record'>, 'pair' | 'restore'>): string =>
  restore === null ? pair.id : uuid5(restore, pair.id);

export const writesEvent = (o: Operation): boolean => o.kind === 'create' || o.kind === 'remove' || Object.keys(o.eventEdits).length > 0;
export const writesRecord = (o: Operation): boolean =>
  o.kind === 'create record' || o.kind === 'remove record' || Object.keys(o.recordEdits).length > 0;

/** Does it take away or rewrite anything that is there? What does not, a held run may still do. */
export const isHarmless = (o: Operation): boolean =>
  isCreation(o) || (!isRemoval(o) && Object.keys(o.eventEdits).length === 0 && Object.keys(o.recordEdits).length === 0);
/** May only be done once the guard has seen the whole run: it takes away or rewrites, or guests hear of it. */
export const waitsForGuard = (o: Operation): boolean => !isHarmless(o) || o.notices.length > 0;
export const isRemoval = (o: Operation): boolean => o.kind === 'remove' || o.kind === 'remove record';

/**
 * When the edit that an operation carries over was made, where the side that it comes from says so. A stamp that stood
 * there at the last agreement is of an earlier edit: the program that made this one does not move it.
 */
export function changedAt(o: Operation): string | null {
  const stamps = o.pair.baseline?.stamps;
  const [stamp, before] = writesEvent(o)
    ? [o.record?.modified, stamps?.record]
    : writesRecord(o)
      ? [o.event?.read?.modified, stamps?.event]
      : [null, null];
  return stamp == null || stamp === before ? null : stamp;
}

/** What names an item: its record, or, where there is none yet, its event; and the moment. */
export const itemKey = (item: { recordId: string | null; href: string | null; moment: string }): string =>
  JSON.stringify(item.recordId === null ? [null, item.href] : [item.recordId, item.moment]);
