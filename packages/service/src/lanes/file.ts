import { asWritten, compareLanes, sayLane } from '@monsoon/arranging';
import type { LaneFileCheck } from '@monsoon/contract';
import { earlierSettings, type LaneDefinition, laneSchema, type Problem } from '@monsoon/core';
import { and, desc, eq, isNotNull, lte } from 'drizzle-orm';
import { type Document, isCollection, isMap, isScalar, LineCounter, type ParsedNode, parseDocument, visit, type Node as YamlNode } from 'yaml';
import type { App } from '../app.ts';
import { HttpProblem } from '../http/problem.ts';
import { lanes, laneVersions, systems } from '../storage/schema.ts';
import { definitionOf, type LaneRow } from './context.ts';
import { noWayToNotify, sameSidesElsewhere } from './remarks.ts';
import { resolveLane } from './save.ts';

type Located = Problem & { line: number; column: number };

/** A lane file as it was written, with what its settings say. */
interface LaneText {
  settings: unknown;
  problems: Located[];
  /** where a setting stands, or the nearest one around it */
  place(pointer: string): { line: number; column: number };
}

/** Reads YAML 1.2. What cannot be read is named with its place. */
export function readLaneText(text: string): LaneText {
  const counter = new LineCounter();
  // The library compares each key with every other one: that is done by a set, below.
  const parse = () => parseDocument(text, { lineCounter: counter, prettyErrors: false, uniqueKeys: false });
  const nowhere = () => ({ line: 1, column: 1 });
  let doc: ReturnType<typeof parse>;
  try {
    doc = parse();
  } catch (error) {
    const reason = error instanceof RangeError ? 'it is nested too deep' : `this is no YAML that can be read: ${(error as Error).message}`;
    return { settings: null, problems: [{ pointer: '', reason, ...nowhere() }], place: nowhere };
  }
  const at = (offset: number) => {
    const { line, col } = counter.linePos(offset);
    return { line: Math.max(1, line), column: Math.max(1, col) };
  };
  const place = (pointer: string) => {
    const steps = pointer.split('/').slice(1);
    for (let n = steps.length; n > 0; n--) {
      const node = nodeAt(doc, steps.slice(0, n));
      if (node?.range != null) return at(node.range[0]);
    }
    return { line: 1, column: 1 };
  };
  const problems = [
    ...doc.errors.map((e) => ({ pointer: '', reason: `this is no YAML that can be read: ${e.message}`, ...at(e.pos[0]) })),
    ...oddKeys(doc).map(({ reason, offset }) => ({ pointer: '', reason, ...at(offset) })),
  ].slice(0, MOST_PROBLEMS);
  if (problems.length > 0) return { settings: null, problems, place };
  renameEarlier(doc);
  try {
    const settings: unknown = doc.toJS({ maxAliasCount: 50 });
    if (settings === null || typeof settings !== 'object' || Array.isArray(settings))
      return {
        settings: null,
        problems: [{ pointer: '', reason: 'it holds no settings; write them as "name: value", one a line', line: 1, column: 1 }],
        place,
      };
    return { settings, problems: [], place };
  } catch (error) {
    return { settings: null, problems: [{ pointer: '', reason: (error as Error).message, line: 1, column: 1 }], place };
  }
}

/** Settings that an earlier version called otherwise get their names of today: a later change would put them beside the others. */
function renameEarlier(doc: Document): void {
  if (!isMap(doc.contents)) return;
  for (const [earlier, name] of earlierSettings) {
    const key = doc.contents.items.map((item) => item.key).find((k) => isScalar(k) && k.value === earlier);
    if (isScalar(key) && !doc.has(name)) key.value = name;
  }
}

/** Most problems reported for one file: each has to be located in the text. */
const MOST_PROBLEMS = 100;
/** Most values in a lane file. */
const MOST_VALUES = 5000;

/** Duplicate keys, and files with more values than any lane needs. */
function oddKeys(doc: Document.Parsed): { reason: string; offset: number }[] {
  const found: { reason: string; offset: number }[] = [];
  let values = 0;
  visit(doc, {
    Map(_key, map) {
      const seen = new Set<string>();
      values += map.items.length;
      if (values > MOST_VALUES) return visit.BREAK;
      for (const { key } of map.items) {
        const name = isScalar(key) ? String(key.value) : '';
        if (seen.has(name))
          found.push({ reason: `"${name.slice(0, 100)}" is a duplicate key; remove one of the two`, offset: (key as YamlNode).range?.[0] ?? 0 });
        seen.add(name);
      }
      return undefined;
    },
    Seq(_key, seq) {
      values += seq.items.length;
      return values > MOST_VALUES ? visit.BREAK : undefined;
    },
  });
  return values > MOST_VALUES ? [{ reason: `it holds more than ${MOST_VALUES} values, which no lane does`, offset: 0 }] : found;
}

/** The node of a setting: for a pair, its key, because that is where a person looks. */
function nodeAt(doc: Document.Parsed, steps: string[]): YamlNode | undefined {
  const path = steps.map((s) => (/^\d+$/.test(s) ? Number(s) : s.replaceAll('~1', '/').replaceAll('~0', '~')));
  const node = doc.getIn(path, true) as ParsedNode | undefined;
  if (node === undefined || node === null) return undefined;
  const parent = path.length === 1 ? doc.contents : (doc.getIn(path.slice(0, -1), true) as ParsedNode | undefined);
  if (isCollection(parent))
    for (const item of parent.items as { key?: { value?: unknown } & YamlNode }[]) if (item.key?.value === path.at(-1)) return item.key;
  return node;
}

/** Everything about a lane file before anything is done with it: findings with their lines, and what it would change. */
export async function checkLaneFile(app: App, slug: string, text: string, signal: AbortSignal): Promise<LaneFileCheck> {
  const [lane] = slug === '' ? [] : await app.db.select().from(lanes).where(eq(lanes.slug, slug));
  const read = readLaneText(text);
  const none = { says: [], warnings: [], version: lane?.version ?? null, changes: [], definition: null };
  if (read.problems.length > 0) return { ...none, problems: read.problems };
  try {
    const resolved = await resolveLane(app, read.settings, signal);
    const { definition, calendarName } = resolved;
    return {
      problems: [],
      says: sayLane(definition, { records: definition.records.collection, calendar: calendarName }),
      warnings: [
        ...(await sameSidesElsewhere(app, { ...resolved, ...(lane === undefined ? {} : { id: lane.id }) })),
        ...(await noWayToNotify(app, definition)),
      ],
      version: lane?.version ?? null,
      changes: lane === undefined ? [] : compareLanes(definitionOf(lane), definition),
      definition,
    };
  } catch (error) {
    if (!(error instanceof HttpProblem) || error.problems.length === 0) throw error;
    return { ...none, problems: error.problems.map((p) => ({ ...p, ...read.place(p.pointer) })) };
  }
}

/** What a lane file says. @throws HttpProblem naming line and column of each finding */
export function settingsOf(text: string): { settings: unknown; located(error: unknown): unknown } {
  const read = readLaneText(text);
  const refuse = (problems: Located[]) =>
    new HttpProblem(
      422,
      'The lane file cannot work',
      problems.map((p) => `line ${p.line}, column ${p.column}: ${p.reason}`).join('; '),
      problems.map((p) => ({ pointer: p.pointer, reason: `line ${p.line}, column ${p.column}: ${p.reason}` })),
    );
  if (read.problems.length > 0) throw refuse(read.problems);
  return {
    settings: read.settings,
    located: (error) =>
      error instanceof HttpProblem && error.status === 422 && error.problems.length > 0
        ? refuse(error.problems.map((p) => ({ ...p, ...read.place(p.pointer) })))
        : error,
  };
}

/** Written only where they say something: what a lane has anyway is left out of new files. */
function toWrite(lane: LaneDefinition, calendarName: string | null): Record<string, unknown> {
  const written = asWritten(lane);
  const bare = laneSchema.cast(
    {
      name: lane.name,
      records: lane.records,
      calendar: lane.calendar,
      direction: lane.direction,
      zone: lane.zone,
      moments: lane.moments,
      fields: {},
    },
    { assert: false },
  ) as unknown as LaneDefinition;
  const usual = asWritten({ ...bare, may: permissionsUsual(lane.direction) });
  const kept = strip(written, usual) as Record<string, unknown>;
  for (const name of ['name', 'records', 'calendar', 'direction', 'zone', 'moments', 'fields']) kept[name] = written[name];
  kept['moments'] = (written['moments'] as Record<string, unknown>[]).map((m) =>
    Object.fromEntries(Object.entries(m).filter(([, v]) => v !== null && v !== undefined)),
  );
  kept['fields'] = Object.fromEntries(Object.entries(lane.fields).filter(([, map]) => map !== undefined));
  if (calendarName !== null) kept['calendar'] = { ...lane.calendar, calendar: calendarName };
  const order = [
    'name',
    'records',
    'calendar',
    'direction',
    'may',
    'zone',
    'filter',
    'events',
    'private',
    'window',
    'startLine',
    'moments',
    'fields',
    'defaults',
    'link',
    'matching',
    'departures',
    'sets',
    'conflicts',
    'foreignEdits',
    'guard',
    'checkEvery',
    'auditEvery',
    'quiet',
    'notify',
  ];
  return Object.fromEntries(order.flatMap((name) => (kept[name] === undefined ? [] : [[name, kept[name]]])));
}

const permissionsUsual = (direction: LaneDefinition['direction']): LaneDefinition['may'] => {
  const all = (yes: boolean) => ({ create: yes, change: yes, remove: yes });
  return { records: all(direction !== '->'), calendar: all(direction !== '<-') };
};

const isObject = (v: unknown): v is Record<string, unknown> => v !== null && typeof v === 'object' && !Array.isArray(v);

/** What differs from the usual. */
function strip(value: unknown, usual: unknown): unknown {
  if (isObject(value) && isObject(usual)) {
    const kept = Object.entries(value).flatMap(([key, v]) => {
      const left = strip(v, usual[key]);
      return left === undefined ? [] : [[key, left] as const];
    });
    return kept.length === 0 ? undefined : Object.fromEntries(kept);
  }
  return value === undefined || JSON.stringify(value) === JSON.stringify(usual) || (value === null && usual === undefined) ? undefined : value;
}

/**
 * The lane file of a version: as a person wrote it where there is such a file, with later changes put in their places
 * and its comments kept; else one that says what the lane has beyond the usual.
 */
export async function laneFile(app: App, lane: LaneRow, version: number): Promise<string> {
  const [row] = await app.db
    .select()
    .from(laneVersions)
    .where(and(eq(laneVersions.lane, lane.id), eq(laneVersions.version, version)));
  if (row === undefined) throw new HttpProblem(404, 'No such version', `${lane.slug} has the versions 1 to ${lane.version}; there is no ${version}`);
  if (row.file !== null) return row.file;
  const definition = definitionOf(row);
  const [right] = await app.db.select().from(systems).where(eq(systems.id, lane.calendarSystem));
  const opened = right === undefined ? undefined : app.systems.open(right).calendars;
  const calendars = (await opened?.calendars(AbortSignal.timeout(20_000)).catch(() => [])) ?? [];
  // The calendar's name reads better than its address, where it is the only one of that name.
  const called = calendars.filter((c) => c.name === lane.calendarName).length === 1 ? lane.calendarName : null;
  const target = toWrite(definition, called);
  const [written] = await app.db
    .select()
    .from(laneVersions)
    .where(and(eq(laneVersions.lane, lane.id), isNotNull(laneVersions.file), lte(laneVersions.version, version)))
    .orderBy(desc(laneVersions.version))
    .limit(1);
  const doc = parseDocument(written?.file ?? `# The lane "${definition.name.replaceAll('\n', ' ')}", version ${version}.\n{}\n`);
  renameEarlier(doc);
  if (written === undefined) (doc.contents as { flow?: boolean }).flow = false;
  putIn(doc, [], doc.toJS() as unknown, target, written === undefined ? null : toWrite(definitionOf(written), called));
  return doc.toString({ lineWidth: 120 });
}

/** Puts what differs into a document, and leaves the rest of it, with its comments, as it stands. @param was what the document meant */
function putIn(doc: Document, path: (string | number)[], there: unknown, wanted: unknown, was: unknown): void {
  if (was !== null && JSON.stringify(was) === JSON.stringify(wanted)) return;
  if (isObject(there) && isObject(wanted)) {
    for (const key of Object.keys(there)) if (!(key in wanted) && (!isObject(was) || key in was)) doc.deleteIn([...path, key]);
    for (const [key, value] of Object.entries(wanted)) {
      const before = isObject(was) ? (was[key] ?? undefined) : null;
      if (key in there) putIn(doc, [...path, key], there[key], value, before === undefined ? null : before);
      else if (before === null || before === undefined || JSON.stringify(before) !== JSON.stringify(value))
        doc.setIn([...path, key], doc.createNode(value));
    }
    return;
  }
  if (Array.isArray(there) && Array.isArray(wanted) && there.length === wanted.length && wanted.every(isObject)) {
    for (const [i, value] of wanted.entries()) putIn(doc, [...path, i], there[i], value, Array.isArray(was) ? (was[i] ?? null) : null);
    return;
  }
  if (JSON.stringify(there) !== JSON.stringify(wanted)) doc.setIn(path, doc.createNode(wanted));
}
