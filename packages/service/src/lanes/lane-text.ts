import { earlierSettings, type Problem } from '@monsoon/core';
import { type Document, isMap, isScalar, isSeq, LineCounter, parseDocument, visit, type Node as YamlNode } from 'yaml';

/** Lane files as text (YAML 1.2). The library reads a text in one go, and an odd one for long: `lane-file.ts` has a thread do this. */

interface Place {
  line: number;
  column: number;
}
export type Located = Problem & Place;

/** A lane file as it was written, with what its settings say. */
export interface LaneText {
  settings: unknown;
  problems: Located[];
  /** where settings stand, by their pointers */
  places: Record<string, Place>;
}

const START: Place = { line: 1, column: 1 };

/** Reads YAML 1.2. What cannot be read is named with its place. */
export function readLaneText(text: string): LaneText {
  const counter = new LineCounter();
  // The library compares each key with every other one: that is done by a set, below.
  const parse = () => parseDocument(text, { lineCounter: counter, prettyErrors: false, uniqueKeys: false });
  let doc: ReturnType<typeof parse>;
  try {
    doc = parse();
  } catch (error) {
    const reason = error instanceof RangeError ? 'it is nested too deep' : `this is no YAML that can be read: ${(error as Error).message}`;
    return { settings: null, problems: [{ pointer: '', reason, ...START }], places: {} };
  }
  const at = (offset: number) => {
    const { line, col } = counter.linePos(offset);
    return { line: Math.max(1, line), column: Math.max(1, col) };
  };
  const problems = [
    ...doc.errors.map((e) => ({ pointer: '', reason: `this is no YAML that can be read: ${e.message}`, ...at(e.pos[0]) })),
    ...oddKeys(doc).map(({ reason, offset }) => ({ pointer: '', reason, ...at(offset) })),
  ].slice(0, MOST_PROBLEMS);
  if (problems.length > 0) return { settings: null, problems, places: {} };
  renameEarlier(doc);
  try {
    const settings: unknown = doc.toJS({ maxAliasCount: 50 });
    if (settings === null || typeof settings !== 'object' || Array.isArray(settings))
      return {
        settings: null,
        problems: [{ pointer: '', reason: 'it holds no settings; write them as "name: value", one a line', ...START }],
        places: {},
      };
    return { settings, problems: [], places: placesIn(doc, at) };
  } catch (error) {
    return { settings: null, problems: [{ pointer: '', reason: (error as Error).message, ...START }], places: {} };
  }
}

/** Where each setting stands: for a pair, its key, because that is where a person looks. */
function placesIn(doc: Document.Parsed, at: (offset: number) => Place): Record<string, Place> {
  const places: Record<string, Place> = Object.create(null) as Record<string, Place>;
  const walk = (node: unknown, pointer: string): void => {
    if (isMap(node))
      for (const { key, value } of node.items as { key: YamlNode; value: unknown }[]) {
        const name = isScalar(key) ? String(key.value) : '';
        const below = `${pointer}/${name.replaceAll('~', '~0').replaceAll('/', '~1')}`;
        if (key.range != null) places[below] = at(key.range[0]);
        walk(value, below);
      }
    else if (isSeq(node))
      for (const [n, value] of (node.items as YamlNode[]).entries()) {
        if (value?.range != null) places[`${pointer}/${n}`] = at(value.range[0]);
        walk(value, `${pointer}/${n}`);
      }
  };
  walk(doc.contents, '');
  return places;
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

/** What a lane file is to say. */
export interface Writing {
  /** as a person wrote it for an earlier version; null: there is no such file */
  file: string | null;
  /** the comment at the beginning of a new file */
  heading: string;
  target: Record<string, unknown>;
  /** what that version meant */
  was: Record<string, unknown> | null;
}

/** A lane file that says what it is to say: later changes are put in their places, and comments kept. */
export function writeLaneText({ file, heading, target, was }: Writing): string {
  const doc = parseDocument(file ?? `# ${heading.replaceAll('\n', ' ')}\n{}\n`);
  renameEarlier(doc);
  if (file === null) (doc.contents as { flow?: boolean }).flow = false;
  putIn(doc, [], doc.toJS() as unknown, target, was);
  return doc.toString({ lineWidth: 120 });
}

const isObject = (v: unknown): v is Record<string, unknown> => v !== null && typeof v === 'object' && !Array.isArray(v);

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
